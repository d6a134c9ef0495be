using System.Collections.Immutable;
using System.Text;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Where an imported model stands now, or why it was not taken in.</summary>
public sealed record ImportOutcome((string ProductId, long RevisionId)? Made, string? Error)
{
    /// <summary>What the file says that a model has no counterpart for.</summary>
    public ImmutableArray<UvlNote> Unread { get; init; } = [];
}

/// <summary>
/// Takes a model file in: as a new product, or as the next draft of the one it came from. What the library lacks of it is
/// added; what is there stays as it is. Of a file that is not taken in, nothing is kept.
/// </summary>
public static class ModelImport
{
    public static async Task<ImportOutcome> Import(byte[] file, string author, NpgsqlDataSource data, CancellationToken cancel)
    {
        var read = ModelJson.Read(file);
        return read.Package is { } package ? await Take(package, author, data, cancel) : new(null, read.Error);
    }

    /// <summary>Takes a feature model in as a new product, and lists what of it has no counterpart.</summary>
    public static async Task<ImportOutcome> ImportUvl(byte[] file, string productId, string author, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (file.Length > Core.Limits.LargestFile)
            return new(null, ModelJson.FileTooLarge);
        var read = UvlReader.Read(Encoding.UTF8.GetString(file));
        if (read.Package is not { } package)
            return new(null, string.Join(" ", read.Errors.Take(5).Select(e => $"Line {e.Line}: {e.Sentence}")));
        return await Take(package with { Model = package.Model with { Id = productId } }, author, data, cancel) with { Unread = read.Unread };
    }

    /// <summary>
    /// The library of a file with the product's own item under the product's code: of a duplicate under a new code, that is the one made
    /// item which the file brings and its model names no more.
    /// </summary>
    private static LibraryFacts WithOwnItem(ModelPackage package)
    {
        var (items, code) = (package.Library.Items, package.Model.Code);
        if (items.ContainsKey(code))
            return package.Library;
        var named = ModelPackage.Of(new(package.Model, package.Library)).Library.Items;
        return items.Values.Where(i => i.Kind == "made" && !named.ContainsKey(i.Number)).Take(2).ToList() is [var own]
            ? package.Library with { Items = items.Remove(own.Number).Add(code, own with { Number = code }) } : package.Library;
    }

    private static async Task<ImportOutcome> Take(ModelPackage package, string author, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (package.Model.Code.Trim().Length is 0 or > 40)
            return new(null, "The model’s code has 1 to 40 characters.");
        var (document, refusal) = ModelEditor.BindNames(package.Model, package.Library);
        if (document is null)
            return new(null, refusal!.RowId is { } at ? $"{at}: {refusal.Message}" : refusal.Message);
        var revisions = new RevisionStore(data);
        await using var work = await UnitOfWork.Begin(data, cancel);
        await new LibraryStore(data).AddMissing(work, WithOwnItem(package), cancel);
        if (await revisions.CreateProduct(work, document, author, cancel) is { } made)
        {
            await work.Commit(cancel);
            return new((document.Id, made), null);
        }
        var present = await revisions.RevisionsOf(document.Id, cancel);
        if (present.Count == 0)
            return new(null, $"Another product has the code “{document.Code}” already.");
        if (present[0].State is "draft" or "in review")
            return new(null, $"Revision {present[0].Number} of “{document.Code}” is still {present[0].State}; release it first, then the file becomes the "
                + $"next one.");
        if (await revisions.OpenNextWith(work, document.Id, document, author, cancel) is not { } next)
            return new(null, $"A draft of “{document.Code}” has just been opened by someone else.");
        await work.Commit(cancel);
        return new((document.Id, next), null);
    }
}
