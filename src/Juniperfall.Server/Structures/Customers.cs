using Juniperfall.Core.Models.Library;
using Juniperfall.Server.Answers;
using Juniperfall.Storage;

namespace Juniperfall.Server.Structures;

/// <summary>Customer classes as requests name them. Discounts are those of today, whatever revision is priced.</summary>
internal static class Customers
{
    /// <summary>The class of a code, none for no code; or the problem that there is no such class.</summary>
    public static async Task<(CustomerClassFact? Class, IResult? Problem)> Find(string? code, LibraryStore library, CancellationToken cancel) =>
        string.IsNullOrEmpty(code) ? (null, null)
        : (await library.Load(cancel)).Facts.CustomerClassOf(code) is { } found ? (found, null)
        : (null, Problems.Wrong("/customerClass", Unknown(code)));

    public static string Unknown(string code) => $"There is no customer class “{code}” in the library.";
}
