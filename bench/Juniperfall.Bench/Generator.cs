using System.Collections.Immutable;
using System.Globalization;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models;

namespace Juniperfall.Bench;

/// <summary>How a generated model is to be.</summary>
/// <param name="Choices">How many attributes that choose among <paramref name="Values"/> values.</param>
/// <param name="YesNo">How many yes/no attributes.</param>
/// <param name="Rules">How many rules between two or three attributes.</param>
/// <param name="Grids">How many grids of <paramref name="Columns"/> columns.</param>
/// <param name="Rows">How many rows each grid has, at most.</param>
/// <param name="Tightness">The share of a rule's combinations that it forbids, from 0 to 1.</param>
internal sealed record Family(string Name, int Choices, int Values, int YesNo, int Rules, int Grids, int Columns, int Rows, double Tightness);

/// <summary>
/// Models of any size with a planted solution, from a seed: attributes, rules that forbid combinations, and grids of allowed
/// ones. The planted solution keeps every model possible, however tight.
/// </summary>
internal sealed class Generator(Family family, int seed)
{
    public static readonly Family[] Families =
    [
        new("features, loose", 0, 0, 1000, 800, 0, 0, 0, 0),
        new("features, tight", 0, 0, 2000, 6000, 0, 0, 0, 0),
        new("choices, loose", 60, 15, 0, 240, 12, 3, 600, 0.15),
        new("choices, tight", 60, 15, 0, 240, 24, 4, 300, 0.4),
        new("choices, large", 300, 14, 0, 1500, 20, 4, 5000, 0.2),
        new("choices, one grid of 50,000 rows", 300, 14, 0, 1500, 2, 6, 50000, 0.2),
    ];

    /// <summary>The sizes at which other solvers were measured, for a comparison side by side.</summary>
    public static readonly Family[] Compared =
    [
        new("1,000 features, 800 clauses", 0, 0, 1000, 800, 0, 0, 0, 0),
        new("2,300 features, 7,800 clauses", 0, 0, 2300, 7800, 0, 0, 0, 0),
        new("60 choices, 240 rules, 7,200 rows", 60, 15, 0, 240, 12, 3, 600, 0.15),
        new("60 choices, 240 rules, 7,200 rows, near-contradictory", 60, 15, 0, 240, 24, 4, 300, 0.4),
        new("300 choices, 1,500 rules, 100,000 rows", 300, 14, 0, 1500, 20, 4, 5000, 0.2),
    ];

    private readonly Random _random = new(seed);

    /// <summary>The rules as clauses: features with their signs, of which one at least is so.</summary>
    public List<(int Feature, bool Yes)[]> Clauses { get; } = [];

    /// <summary>The rules between choices: where one is among some values, the other is among some.</summary>
    public List<(int If, int[] Among, int Then, int[] Of)> Implications { get; } = [];

    /// <summary>The grids: choices, and rows of their values, −1 for any.</summary>
    public List<(int[] Keys, List<int[]> Rows)> Tables { get; } = [];

    public Family Family => family;

    /// <summary>The planted value of each attribute: the place in its list, or 0 for no and 1 for yes.</summary>
    public int[] Planted { get; private set; } = [];

    public ModelDocument Next()
    {
        var rows = new List<Row>();
        var list = new ValueList { Id = "list", Name = "values", Values = [.. Enumerable.Range(0, family.Values).Select(v => new ListValue { Id = $"v{v}", Code = CodeOf(v) })] };
        for (var i = 0; i < family.Choices; i++)
            rows.Add(new AttributeRow { Id = $"c{i}", Name = $"choice{i}", Type = AttributeType.Choice, ListId = "list", Required = true });
        for (var i = 0; i < family.YesNo; i++)
            rows.Add(new AttributeRow { Id = $"f{i}", Name = $"feature{i}", Type = AttributeType.YesNo, Required = true });
        Planted = [.. Enumerable.Range(0, rows.Count).Select(i => _random.Next(i < family.Choices ? family.Values : 2))];
        for (var r = 0; r < family.Rules; r++)
            rows.Add(new StatementRule { Id = $"r{r}", Number = r + 1, Expression = family.Choices > 0 ? ChoiceRule() : FeatureRule() });
        for (var g = 0; g < family.Grids; g++)
            rows.Add(Grid(g));
        return new() { Id = "generated", Code = "GEN", Root = "root", Lists = family.Choices > 0 ? [list] : [], Assemblies = [new() { Id = "root", Name = "model", Topics = [new() { Id = "t", Rows = [.. rows] }] }] };
    }

    private static string CodeOf(int value) => "w" + value.ToString(CultureInfo.InvariantCulture);
    private static string Ref(string id) => $"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}";
    private string Id(int attribute) => attribute < family.Choices ? $"c{attribute}" : $"f{attribute - family.Choices}";

    private int[] Some(int count, int below)
    {
        var chosen = new HashSet<int>();
        while (chosen.Count < count)
            chosen.Add(_random.Next(below));
        return [.. chosen];
    }

    /// <summary>A clause of two or three features that the planted solution keeps.</summary>
    private string FeatureRule()
    {
        while (true)
        {
            var members = Some(_random.Next(5) < 3 ? 2 : 3, family.YesNo);
            var signs = members.Select(_ => _random.Next(2)).ToArray();
            if (members.Where((m, i) => Planted[m] == signs[i]).Any())
            {
                Clauses.Add([.. members.Select((m, i) => (m, signs[i] == 1))]);
                return string.Join(" or ", members.Select((m, i) => signs[i] == 1 ? Ref(Id(m)) : $"not {Ref(Id(m))}"));
            }
        }
    }

    /// <summary>If one choice is among some values, another is among some; never against the planted solution.</summary>
    private string ChoiceRule()
    {
        var pair = Some(2, family.Choices);
        var when = Some(Math.Max(1, family.Values / 5), family.Values);
        var then = Some(Math.Max(1, (int)(family.Values * (1 - family.Tightness))), family.Values).ToHashSet();
        if (when.Contains(Planted[pair[0]]))
            then.Add(Planted[pair[1]]);
        Implications.Add((pair[0], when, pair[1], [.. then]));
        string In(int attribute, IEnumerable<int> values) => $"{Ref(Id(attribute))} in ({string.Join(", ", values.Order().Select(CodeOf))})";
        return $"if {In(pair[0], when)} then {In(pair[1], then)}";
    }

    private CombinationGrid Grid(int number)
    {
        var keys = Some(family.Columns, family.Choices);
        var rows = new HashSet<string>();
        var cells = ImmutableArray.CreateBuilder<GridRow>();
        var table = new List<int[]>();
        Tables.Add((keys, table));
        void Add(int[] values)
        {
            if (!rows.Add(string.Join(",", values)))
                return;
            table.Add(values);
            cells.Add(new() { Id = $"g{number}.{cells.Count}", Cells = [.. values.Select(v => v < 0 ? "*" : CodeOf(v))] });
        }

        Add([.. keys.Select(k => Planted[k])]);
        for (var r = 1; r < family.Rows; r++)
            Add([.. keys.Select(_ => _random.Next(100) == 0 ? -1 : _random.Next(family.Values))]);
        return new()
        {
            Id = $"g{number}",
            Name = $"grid{number}",
            Number = family.Rules + number + 1,
            Columns = [.. keys.Select((k, c) => new GridColumn { Id = $"g{number}c{c}", Name = $"key{c}", Reference = Ref(Id(k)) })],
            Rows = cells.ToImmutable(),
        };
    }

    /// <summary>Sessions of picks that grow one by one, now and then against the planted solution.</summary>
    public List<(string Path, int Value)[]> Sessions(int count, int length)
    {
        var questions = new List<(string, int)[]>();
        for (var s = 0; s < count; s++)
        {
            var picks = new List<(string, int)>();
            foreach (var attribute in Some(Math.Min(length, Planted.Length), Planted.Length))
            {
                picks.Add((Id(attribute), _random.Next(10) > 0 ? Planted[attribute] : _random.Next(attribute < family.Choices ? family.Values : 2)));
                questions.Add([.. picks]);
            }
        }
        return questions;
    }
}
