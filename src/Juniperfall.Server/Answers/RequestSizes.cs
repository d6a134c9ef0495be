using Juniperfall.Core;
using Microsoft.AspNetCore.Mvc;

namespace Juniperfall.Server.Answers;

/// <summary>How many bytes the body of a request can have; docs/limits.md says the same.</summary>
internal static class RequestSizes
{
    public const int Usual = 2 * 1024 * 1024, SignIn = 16 * 1024, Edit = 16 * 1024 * 1024, File = Limits.LargestFile, Table = Limits.LargestTable;

    public static TBuilder TakesUpTo<TBuilder>(this TBuilder endpoint, int bytes) where TBuilder : IEndpointConventionBuilder =>
        endpoint.WithMetadata(new RequestSizeLimitAttribute(bytes));
}
