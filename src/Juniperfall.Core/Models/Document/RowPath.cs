namespace Juniperfall.Core.Models.Document;

/// <summary>
/// The paths of rows in the instantiated model: <c>subassembly:instance/…/row</c>, and <c>row#value</c> for one value of a
/// several choice.
/// </summary>
public static class RowPath
{
    public const char Instance = ':';
    public const char Below = '/';
    public const char Member = '#';

    /// <summary>The prefix of the occurrence that the row stands in: empty at the root.</summary>
    public static string Prefix(string path) => path[..(LastBelow(path) + 1)];

    // The id of a value can have strokes in it, too.
    private static int LastBelow(string path) => path.IndexOf(Member) is var end and >= 0 ? path.AsSpan(0, end).LastIndexOf(Below) : path.LastIndexOf(Below);

    /// <summary>The id of the row.</summary>
    public static string RowId(string path)
    {
        var row = path[(LastBelow(path) + 1)..];
        return row.IndexOf(Member) is var at and >= 0 ? row[..at] : row;
    }

    /// <summary>The path of the row itself, without the value of a several choice.</summary>
    public static string OfRow(string path) => path.LastIndexOf(Member) is var at and >= 0 ? path[..at] : path;

    /// <summary>The id of the value of a several choice; null where the path leads to a row.</summary>
    public static string? MemberId(string path) => path.LastIndexOf(Member) is var at and >= 0 ? path[(at + 1)..] : null;

    /// <summary>The path of one value of a several choice.</summary>
    public static string OfMember(string rowPath, string valueId) => $"{rowPath}{Member}{valueId}";

    /// <summary>The field of a subassembly that says what its input at an index is given.</summary>
    public static string FieldOfInput(int index) => $"inputs/{index}/expression";

    /// <summary>The index of the input that a field of a subassembly gives; null for other fields.</summary>
    public static int? InputIndex(string field) => field.Split('/') is ["inputs", var at, ..] && int.TryParse(at, out var i) && i >= 0 ? i : null;

    /// <summary>The path of the subassembly row and the id of the instance, of a path that ends in an instance.</summary>
    public static (string Subassembly, string InstanceId) SplitInstance(string path) =>
        path.LastIndexOf(Instance) is var at ? (path[..at], path[(at + 1)..]) : default;
}
