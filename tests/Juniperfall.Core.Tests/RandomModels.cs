using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;

namespace Juniperfall.Core.Tests;

/// <summary>Small random models that use every feature of the language, from a seed.</summary>
internal sealed class RandomModels(int seed)
{
    public static readonly LibraryFacts Facts = new()
    {
        Items = LibraryFacts.Empty.Items.Add("X", new() { Number = "X" }),
        WorkCentres = LibraryFacts.Empty.WorkCentres.Add("W", new() { Code = "W" }),
    };

    private static readonly string[] Conditions =
        ["heated", "core = v80", "core <> v120", "core in (v80, v120)", "core = none", "doors = none", "applies(door)", "applies(shelves)", "yes",
        "doors between 1 and 2", "door.width > 0", "load > 3", "any(door.width > 1)", "all(door.width < 2 where heated)", "count(door where door.leaf > 2) = 1",
        // Parts of these cannot be computed, while the whole mostly can.
        "1 / doors > 0.4 and doors > 0", "doors = 0 or 2 / doors > 0.7", "if doors > 0 then 3 / doors >= 1", "all(1 / door.width > 0.4)",
            "any(1 / door.width > 0.4)", "sqrt(shelves - 2) < 1 or shelves < 2"];

    private static readonly string[] Numbers =
        ["doors", "shelves", "door.width", "1", "2.5", "0.1", "0.3", "core.thickness / 40", "core.thickness / 300", "sum(door.width)",
        "sum(door.leaf where heated)",
        "min(door.width where doors > 1)", "max(door.leaf)", "spans.longest"];

    private string[] _conditions = Conditions, _numbers = Numbers;
    private readonly Random _random = new(seed);
    private int _ids;

    private string Id(string kind) => $"{kind}{++_ids}";
    private bool Chance(int percent) => _random.Next(100) < percent;
    private T One<T>(params T[] options) => options[_random.Next(options.Length)];

    public ModelDocument Next()
    {
        var list = new ValueList
        {
            Id = "list",
            Name = "core",
            Properties = [new() { Id = "thickness", Name = "thickness" }],
            Values = [Value("v80", "80"), Value("v100", "100"), Value("v120", null)],
        };
        var rows = new List<Row>
        {
            Attribute("core", AttributeKind.Choice, "") with { ListId = "list", Suggestion = Chance(50) ? "v100" : null },
            Attribute("heated", AttributeKind.YesNo, "") with { Suggestion = Chance(50) ? "yes" : null },
            Attribute("doors", AttributeKind.Whole, One("", "heated")) with { Min = "0", Max = "3", Suggestion = Chance(50) ? "2" : null,
                Upper = Chance(30) ? "4 - core.thickness / 80" : "" },
            Attribute("shelves", AttributeKind.Quantity, One("", "core = v80", "not heated", "1 / doors > 0.4 and doors > 0")) with { Min = "1", Max = "4",
                Step = "1", Unit = "" },
        };
        // Tenths are no binary numbers, so that ties among them are decided exactly or not at all.
        rows[3] = (AttributeRow)rows[3] with { Kind = AttributeKind.Whole };
        // One of these at a time, so that all combinations can be walked through: tenths, several choices, two instances.
        var (extras, two) = (seed % 4 == 1, seed % 4 == 2);
        if (!extras && !two && Chance(60))
            rows.Add(Attribute("gap", AttributeKind.Quantity, One("", "heated")) with
            {
                Min = "100",
                Max = "300",
                Step = "100",
                Unit = "mm",
                Suggestion = Chance(50) ? "200" : null,
                Lower = Chance(30) ? "0.1 m * doors" : ""
            });
        var gap = rows[^1].Id == "gap";
        if (extras)
            rows.Add(Attribute("extras", AttributeKind.Several, One("", "heated", "core <> v80")) with
            {
                ListId = "extra",
                Min = One(null, "1"),
                Max = One(null, "1"),
                Lower = Chance(25) ? "doors - 1" : "",
                Upper = Chance(25) ? "shelves - 1" : "",
                Suggestion = One(null, "lamp", "rail lamp"),
            });
        _numbers = [.. Numbers, .. extras
            ? new[] { "count(extras)", "sum(extras.weight)", "max(extras.weight)", "sum(extras.weight where extras <> rail)" } : [], .. two
            ? new[] { "door[2].width", "door[1].leaf" } : [], .. gap ? new[] { "gap / 1 m", "gap / 0.1 m", "ceil(gap, 0.2 m) / 0.1 m" } : []];
        _conditions = [.. Conditions,
            .. extras ? new[] { "extras has rail", "extras has lamp", "extras = none", "applies(extras)", "any(extras = lamp)", "all(extras.weight > 1)" } : [],
            .. two ? new[] { "applies(door[2])", "count(door) = 2", "door[1].width < door[2].width", "sum(door.width) <= 2" } : [], .. gap
                ? new[] { "gap * 3 = 0.3 m + 0.2 m * doors", "gap < 0.1 m * shelves", "gap + 0.1 m >= 300 mm", "gap in (0.1 m, 0.3 m)" } : []];
        // Of several instances one is named, or all of them are totalled over.
        if (two)
            (_numbers, _conditions) = ([.. _numbers.Select(OfTheFirst)], [.. _conditions.Select(OfTheFirst)]);
        // Or none is named, so that they can change places.
        if (two && Chance(50))
            (_numbers, _conditions) = ([.. _numbers.Where(e => !e.Contains('['))], [.. _conditions.Where(e => !e.Contains('['))]);
        // A list of the same codes in another order, with one missing and one more; or one that agrees place by place.
        var wall = new ValueList
        {
            Id = "walls",
            Name = "walls",
            Properties = [new() { Id = "wallThickness", Name = "thickness" }],
            Values = Chance(50) ? [Wall("w100", "V100", "2"), Wall("w80", "V80", "3"), Wall("w60", "V60", "5")] : [Wall("w80", "V80", "3"),
                Wall("w100", "V100", "2"), Wall("w120", "V120", "1")],
        };
        var isGiven = two || Chance(85);
        var below = new AssemblyDefinition
        {
            Id = "door",
            Name = "door",
            Topics = [new() { Id = "td", Rows = [
                Attribute("width", AttributeKind.Whole, One("", "frame > 1")) with { Min = "0", Max = "2" },
                Attribute("frame", AttributeKind.Whole, "") with { Min = One("0", "0", "2"), Max = One("9", "9", "3"), Input = true,
                    Upper = Chance(20) ? "width + 2" : "" },
                Attribute("wall", AttributeKind.Choice, One("", "", "frame > 1")) with { ListId = "walls", Input = true },
                new ComputedAttribute { Id = "leaf", Name = "leaf", Expression = One("width * 2 + 1", "width - frame", "12 / width") },
                new StatementRule { Id = Id("s"),
                    Expression = One("width <= frame", "leaf > 0", "yes", "wall <> V100 or width > 0", "wall.thickness + width > 3") },
            ] }],
        };
        rows.Add(new Subassembly
        {
            Id = "sub",
            Name = "door",
            AssemblyId = "door",
            AppliesWhen = One("", "heated", "doors > 1", "1 / doors <= 0.5 and doors > 0"),
            Make = SubassemblyKind.Phantom,
            Inputs = [new() { Id = "in", AttributeId = "frame", Expression = One("shelves", "doors + 1", "2") },
                .. isGiven ? new InputBinding[] { new() { Id = "in2", AttributeId = "wall",
                Expression = One("core", "core", "if heated then core else V80") } } : []],
            Instances = two ? [new() { Id = "1" }, new() { Id = "7" }] : [new() { Id = "1" }],
            InstanceCount = two ? One("doors", "doors", "shelves - 1", "if heated then 2 else 1", "if 2 / doors >= 1 and doors > 0 then doors else 0") : "",
        });
        rows.Add(new CombinationGrid
        {
            Id = "spans",
            Name = "spans",
            Strength = RuleStrength.Advice,
            Columns = [new() { Id = "k", Name = "core", Reference = "core" }, new() { Id = "f", Name = "longest" }],
            Rows = [new() { Id = "sp1", Cells = ["v80", "3"] }, new() { Id = "sp2", Cells = ["v80 | v100", One("", "-2")] },
                new() { Id = "sp3", Cells = [One("*", "v120"), "5"] }],
        });
        rows.Add(new ComputedAttribute { Id = "load", Name = "load", AppliesWhen = One("", "", "heated"), Expression = Number(2) });
        for (var i = _random.Next(1, 4); i > 0; i--)
            rows.Add(Rule());
        rows.Add(new PartLine
        {
            Id = "part",
            Item = "X",
            Quantity = Number(1),
            AppliesWhen = Chance(60) ? Condition(1) : "",
            Step = One("", "0.5"),
            Scrap = One("", "10"),
            Surcharge = One("", "", "12 EUR / doors")
        });
        rows.Add(new PriceLine
        {
            Id = "price",
            Effect = One(PriceEffect.Adds, PriceEffect.AtLeast),
            Amount = One("100 EUR", "60 EUR / doors"),
            AppliesWhen = Condition(1)
        });
        rows.Add(new OperationLine
        {
            Id = "op",
            Name = "op",
            WorkCentre = "W",
            Sequence = 10,
            Run = $"({Number(0)}) * 1 min",
            AppliesWhen = Chance(40) ? Condition(0) : ""
        });
        if (Chance(40))
            rows.Add(new CombinationGrid
            {
                Id = "grid",
                Name = "grid",
                Columns = [new() { Id = "c1", Name = "a", Reference = "core" }, new() { Id = "c2", Name = "b", Reference = One("doors", "load", "heated") }],
                Rows = [.. Enumerable.Range(0, 3).Select(_ => new GridRow { Id = Id("g"), Cells = [One("v80", "v80 | v120", "*"), One("*", "*", "*")] })],
            });
        return new()
        {
            Id = "m",
            Code = "CR",
            Root = "root",
            Lists = extras ? [list, ExtraList, wall] : [list, wall],
            Assemblies = [new() { Id = "root", Name = "room", Topics = [new() { Id = "t", Rows = [.. rows] }] }, below]
        };
    }

    private static ListValue Wall(string id, string code, string thickness) =>
        new() { Id = id, Code = code, Properties = ImmutableSortedDictionary<string, string>.Empty.Add("wallThickness", thickness) };

    private static string OfTheFirst(string expression) => expression.Contains('(')
        ? expression : expression.Replace("door.", "door[1].", StringComparison.Ordinal);

    private static readonly ValueList ExtraList = new()
    {
        Id = "extra",
        Name = "extra",
        Properties = [new() { Id = "weight", Name = "weight" }],
        Values = [new() { Id = "rail", Code = "rail", Properties = ImmutableSortedDictionary<string, string>.Empty.Add("weight", "2") },
            new() { Id = "lamp", Code = "lamp", Properties = ImmutableSortedDictionary<string, string>.Empty.Add("weight", "1") }],
    };

    private static ListValue Value(string id, string? thickness) => new()
    {
        Id = id,
        Code = id,
        Properties = thickness is null
            ? ImmutableSortedDictionary<string, string>.Empty : ImmutableSortedDictionary<string, string>.Empty.Add("thickness", thickness),
    };

    private AttributeRow Attribute(string name, AttributeKind type, string appliesWhen) =>
        new() { Id = name, Name = name, Kind = type, AppliesWhen = appliesWhen, Required = Chance(75) };

    private Row Rule()
    {
        var strength = Chance(85) ? RuleStrength.Must : RuleStrength.Advice;
        var appliesWhen = Chance(20) ? Condition(1) : "";
        return _random.Next(4) switch
        {
            0 => new StatementRule { Id = Id("r"), Strength = strength, AppliesWhen = appliesWhen, Expression = Condition(2) },
            1 => new RequiresRule { Id = Id("r"), Strength = strength, AppliesWhen = appliesWhen, When = Condition(1), Then = Condition(1) },
            2 => new ExcludesRule { Id = Id("r"), Strength = strength, AppliesWhen = appliesWhen, When = Condition(1), Then = Condition(1) },
            _ => new LimitRule
            {
                Id = Id("r"),
                Strength = strength,
                AppliesWhen = appliesWhen,
                Of = Number(1),
                Lower = Chance(60) ? Number(0) : "",
                Upper = Number(1)
            },
        };
    }

    private string Condition(int depth) => depth == 0
        ? One(_conditions)
        : _random.Next(7) switch
        {
            0 => $"({Condition(depth - 1)}) and ({Condition(depth - 1)})",
            1 => $"({Condition(depth - 1)}) or ({Condition(depth - 1)})",
            2 => $"not ({Condition(depth - 1)})",
            3 => $"{One("exactly", "at most", "at least")} {_random.Next(0, 3)} of ({Condition(0)}, {Condition(0)}, {Condition(0)})",
            4 => $"(if {Condition(depth - 1)} then {Condition(0)})",
            5 => $"{Number(1)} {One("<", "<=", "=", "<>", ">", ">=")} {Number(1)}",
            _ => Condition(depth - 1),
        };

    // Computed attributes may use everything asked, not each other: circles have tests of their own.
    private string Number(int depth) => depth == 0
        ? One(_numbers)
        : _random.Next(9) switch
        {
            6 => $"abs(({Number(depth - 1)}) - ({Number(0)}))",
            7 => $"sqrt({Number(depth - 1)})",
            8 => $"({Number(depth - 1)}) ^ {One("2", "3", "-1", "0")}",
            0 => $"({Number(depth - 1)}) + ({Number(0)})",
            1 => $"({Number(depth - 1)}) - ({Number(0)})",
            2 => $"({Number(depth - 1)}) * ({Number(0)})",
            3 => $"{One("min", "max")}({Number(depth - 1)}, {Number(0)})",
            4 => $"{One("ceil", "floor", "round")}(({Number(depth - 1)}) / ({Number(0)}))",
            _ => $"(if heated then {Number(0)} else {Number(0)})",
        };
}
