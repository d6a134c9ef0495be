using System.Collections.Immutable;
using System.Globalization;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Bench;

/// <summary>How a generated model is to be.</summary>
/// <param name="Choices">How many attributes that choose among <paramref name="Values"/> values.</param>
/// <param name="YesNo">How many yes/no attributes.</param>
/// <param name="Rules">How many rules between two or three attributes.</param>
/// <param name="Grids">How many grids of <paramref name="Columns"/> columns.</param>
/// <param name="Rows">How many rows each grid has, at most.</param>
/// <param name="Tightness">The share of a rule's combinations that it forbids, from 0 to 1.</param>
/// <param name="Numbers">How many whole numbers from 0 to <paramref name="Highest"/>, with twice as many rules of arithmetic over them.</param>
internal sealed record Family(string Name, int Choices, int Values, int YesNo, int Rules, int Grids, int Columns, int Rows, double Tightness, int Numbers = 0,
    int Highest = 0)
{
    /// <summary>The attribute at which numbers begin: behind choices and yes/no.</summary>
    public int FirstNumber => Choices + YesNo;

    /// <summary>How many values an attribute has.</summary>
    public int SizeOf(int attribute) => attribute < Choices ? Values : attribute < FirstNumber ? 2 : Highest + 1;

    public string IdOf(int attribute) => attribute < Choices ? $"c{attribute}" : attribute < FirstNumber
        ? $"f{attribute - Choices}" : $"n{attribute - FirstNumber}";
}

internal enum ArithmeticKind { Sum, Product, Rounded, Difference, WhereChosen }

/// <summary>
/// A rule over numbers A, B and C: A + B ≤ C + K; A · B ≤ K; A up to a whole multiple of 5, and B, ≥ K; 2 · A − B from K to L; where the choice C is
/// its value L, A ≤ K.
/// </summary>
internal sealed record Arithmetic(ArithmeticKind Kind, int A, int B, int C, int K, int L);

/// <summary>
/// Models of any size with a planted solution, from a seed: attributes, rules that forbid combinations, arithmetic over numbers, and
/// grids of allowed combinations. The planted solution keeps every model possible, however tight.
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
        new("numbers, loose", 20, 10, 0, 60, 2, 3, 200, 0.2, 30, 200),
        new("numbers, tight", 40, 10, 0, 160, 6, 3, 400, 0.3, 60, 50),
    ];

    /// <summary>The sizes at which other solvers were measured, for a comparison side by side.</summary>
    public static readonly Family[] Compared =
    [
        new("1,000 features, 800 clauses", 0, 0, 1000, 800, 0, 0, 0, 0),
        new("2,300 features, 7,800 clauses", 0, 0, 2300, 7800, 0, 0, 0, 0),
        new("60 choices, 240 rules, 7,200 rows", 60, 15, 0, 240, 12, 3, 600, 0.15),
        new("60 choices, 240 rules, 7,200 rows, near-contradictory", 60, 15, 0, 240, 24, 4, 300, 0.4),
        new("300 choices, 1,500 rules, 100,000 rows", 300, 14, 0, 1500, 20, 4, 5000, 0.2),
        new("20 choices, 30 numbers up to 200", 20, 10, 0, 60, 2, 3, 200, 0.2, 30, 200),
        new("40 choices, 60 numbers up to 50", 40, 10, 0, 160, 6, 3, 400, 0.3, 60, 50),
    ];

    private readonly Random _random = new(seed);

    /// <summary>The rules as clauses: features with their signs, of which one at least is so.</summary>
    public List<(int Feature, bool Yes)[]> Clauses { get; } = [];

    /// <summary>The rules between choices: where one is among some values, the other is among some.</summary>
    public List<(int If, int[] Among, int Then, int[] Of)> Implications { get; } = [];

    /// <summary>The grids: choices, and rows of their values, −1 for any.</summary>
    public List<(int[] Keys, List<int[]> Rows)> Tables { get; } = [];

    /// <summary>The rules over numbers.</summary>
    public List<Arithmetic> Arithmetics { get; } = [];

    public Family Family => family;

    /// <summary>The planted value of each attribute: the place in its list, 0 for no and 1 for yes, or the number itself.</summary>
    public int[] Planted { get; private set; } = [];

    public ModelDocument Next()
    {
        var rows = new List<Row>();
        var list = new ValueList
        {
            Id = "list",
            Name = "values",
            Values = [.. Enumerable.Range(0, family.Values).Select(v => new ListValue { Id = $"v{v}", Code = CodeOf(v) })]
        };
        for (var i = 0; i < family.Choices; i++)
            rows.Add(new AttributeRow { Id = $"c{i}", Name = $"choice{i}", Kind = AttributeKind.Choice, ListId = "list", Required = true });
        for (var i = 0; i < family.YesNo; i++)
            rows.Add(new AttributeRow { Id = $"f{i}", Name = $"feature{i}", Kind = AttributeKind.YesNo, Required = true });
        for (var i = 0; i < family.Numbers; i++)
            rows.Add(new AttributeRow
            {
                Id = $"n{i}",
                Name = $"number{i}",
                Kind = AttributeKind.Whole,
                Min = "0",
                Max = family.Highest.ToString(CultureInfo.InvariantCulture),
                Required = true
            });
        Planted = [.. Enumerable.Range(0, rows.Count).Select(i => _random.Next(family.SizeOf(i)))];
        for (var r = 0; r < family.Rules; r++)
            rows.Add(new StatementRule { Id = $"r{r}", Number = r + 1, Expression = family.Choices > 0 ? ChoiceRule() : FeatureRule() });
        for (var g = 0; g < family.Grids; g++)
            rows.Add(Grid(g));
        for (var r = 0; r < 2 * family.Numbers; r++)
            rows.Add(new StatementRule { Id = $"a{r}", Number = family.Rules + family.Grids + r + 1, Expression = ArithmeticRule() });
        return new()
        {
            Id = "generated",
            Code = "GEN",
            Root = "root",
            Lists = family.Choices > 0 ? [list] : [],
            Assemblies = [new() { Id = "root", Name = "model", Topics = [new() { Id = "t", Rows = [.. rows] }] }]
        };
    }

    private static string CodeOf(int value) => "w" + value.ToString(CultureInfo.InvariantCulture);
    private static string Ref(string id) => $"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}";

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
                return string.Join(" or ", members.Select((m, i) => signs[i] == 1 ? Ref(family.IdOf(m)) : $"not {Ref(family.IdOf(m))}"));
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
        string In(int attribute, IEnumerable<int> values) => $"{Ref(family.IdOf(attribute))} in ({string.Join(", ", values.Order().Select(CodeOf))})";
        return $"if {In(pair[0], when)} then {In(pair[1], then)}";
    }

    /// <summary>A rule of arithmetic that the planted solution keeps, more or less narrowly.</summary>
    private string ArithmeticRule()
    {
        var (of, slack) = (Some(3, family.Numbers), (int)((1 - family.Tightness) * family.Highest / 4));
        var (a, b, c) = (family.FirstNumber + of[0], family.FirstNumber + of[1], family.FirstNumber + of[2]);
        var (x, y, z) = (Planted[a], Planted[b], Planted[c]);
        string Name(int attribute) => Ref(family.IdOf(attribute));
        var kind = (ArithmeticKind)_random.Next(family.Choices > 0 ? 5 : 4);
        var rule = kind switch
        {
            ArithmeticKind.Sum => new Arithmetic(kind, a, b, c, x + y - z + _random.Next(slack + 1), 0),
            ArithmeticKind.Product => new(kind, a, b, c, x * y + _random.Next(slack * family.Highest / 4 + 1), 0),
            ArithmeticKind.Rounded => new(kind, a, b, c, (x + 4) / 5 * 5 + y - _random.Next(slack + 1), 0),
            ArithmeticKind.Difference => new(kind, a, b, c, 2 * x - y - _random.Next(slack + 1), 2 * x - y + _random.Next(slack + 1)),
            _ => new(kind, a, b, _random.Next(family.Choices), x + _random.Next(slack + 1), 0),
        };
        if (kind == ArithmeticKind.WhereChosen)
            rule = rule with { L = Planted[rule.C] };
        Arithmetics.Add(rule);
        return kind switch
        {
            ArithmeticKind.Sum => $"{Name(a)} + {Name(b)} <= {Name(c)} + ({rule.K})",
            ArithmeticKind.Product => $"{Name(a)} * {Name(b)} <= {rule.K}",
            ArithmeticKind.Rounded => $"ceil({Name(a)}, 5) + {Name(b)} >= {rule.K}",
            ArithmeticKind.Difference => $"{Name(a)} * 2 - {Name(b)} between {rule.K} and {rule.L}",
            _ => $"if {Name(rule.C)} = {CodeOf(rule.L)} then {Name(a)} <= {rule.K}",
        };
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
            Columns = [.. keys.Select((k, c) => new GridColumn { Id = $"g{number}c{c}", Name = $"key{c}", Reference = Ref(family.IdOf(k)) })],
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
                picks.Add((family.IdOf(attribute), _random.Next(10) > 0 ? Planted[attribute] : _random.Next(family.SizeOf(attribute))));
                questions.Add([.. picks]);
            }
        }
        return questions;
    }
}
