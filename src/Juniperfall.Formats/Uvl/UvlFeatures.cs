using Juniperfall.Core.Language;

namespace Juniperfall.Formats.Uvl;

/// <summary>A feature: a yes/no attribute, and of an Integer feature a whole number beside it.</summary>
/// <param name="parent">The feature whose group it stands in; null of the root.</param>
/// <param name="number">How many stand before it.</param>
/// <param name="type">Boolean, Integer, Real or String; of the last two the number or text is not read.</param>
internal sealed class UvlFeature(string name, int line, UvlFeature? parent, int number, string type)
{
    public string Name => name;
    public int Line => line;
    public UvlFeature? Parent => parent;
    public string Id { get; } = $"f{number}";
    public string Type => type;
    public string NumberId { get; } = type == "Integer" ? $"n{number}" : "";

    /// <summary>Name → yes, no or a number.</summary>
    public Dictionary<string, string> Figures { get; } = new(StringComparer.Ordinal);

    public static string Ref(string id) => $"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}";

    /// <summary>Whether it is a feature, or stands somewhere below it.</summary>
    public bool IsBelow(UvlFeature above)
    {
        for (var feature = this; feature is not null; feature = feature.Parent)
            if (feature == above)
                return true;
        return false;
    }

    /// <summary>Its figure where it is chosen; nothing where it is not.</summary>
    public string Figure(string figure) => Figures[figure] is var value && value is "yes" or "no"
        ? $"({Ref(Id)} and {value})" : $"(if {Ref(Id)} then {value} else 0)";
}

/// <summary>The features of a file, by name and in the order in which they stand there.</summary>
internal sealed class UvlFeatures
{
    private readonly Dictionary<string, UvlFeature> _byName = new(StringComparer.Ordinal);
    private readonly List<UvlFeature> _inOrder = [];
    private readonly Dictionary<string, List<UvlFeature>> _byFigure = new(StringComparer.Ordinal);
    private int _terms;

    /// <summary>A sum writes every feature that has the figure out again, so that few lines could ask for more than there is room for.</summary>
    public const int MostTerms = 1_000_000;

    public IReadOnlyList<UvlFeature> InOrder => _inOrder;
    public IEnumerable<string> Names => _byName.Keys;
    public UvlFeature? Named(string name) => _byName.GetValueOrDefault(name);

    public UvlFeature Add(string name, int line, UvlFeature? parent, string type)
    {
        var feature = new UvlFeature(name, line, parent, _inOrder.Count, type);
        _byName.Add(name, feature);
        _inOrder.Add(feature);
        return feature;
    }

    public void AddFigure(UvlFeature feature, string figure, string value)
    {
        if (feature.Figures.TryAdd(figure, value))
            (_byFigure.TryGetValue(figure, out var those) ? those : _byFigure[figure] = []).Add(feature);
        else
            feature.Figures[figure] = value;
    }

    /// <summary>What a sum of a figure adds up, over the features below one or over all.</summary>
    /// <returns>Null where the sums of the file come to more than <see cref="MostTerms"/>.</returns>
    public List<string>? Terms(string figure, UvlFeature? below)
    {
        if (!_byFigure.TryGetValue(figure, out var those))
            return [];
        _terms = Math.Min(_terms, MostTerms) + those.Count;
        return _terms > MostTerms ? null : [.. those.Where(f => below is null || f.IsBelow(below)).Select(f => f.Figure(figure))];
    }
}

/// <summary>What is to be said of a file: what is wrong, and what has no counterpart in a model.</summary>
internal sealed class UvlNotes
{
    public List<UvlNote> Errors { get; } = [];
    public List<UvlNote> Unread { get; } = [];
    public void Error(int line, string sentence) => Errors.Add(new(line, sentence));
    public void LeftOut(int line, string what) => Unread.Add(new(line, what));
}
