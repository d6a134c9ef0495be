using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Models with a number of very many steps are answered by other means than the rest: one that nothing reads must change no answer.
/// The models have conditions, optional attributes, several choices, subassemblies and grids with keys that may have no value.
/// </summary>
public class WithAndWithoutNumbers
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 600 : 60;

    private static readonly string[] Conditions =
    [
        "core = w1", "core <> w2", "core in (w0, w3)", "lit", "not lit", "finish = none", "finish = w2", "applies(finish)", "applies(rail)", "rail = w1",
            "rail = none",
        "extras has w0", "extras = none", "door.kind = w1", "door.wide", "applies(door)", "any(extras = w2)", "door.lock = none", "all(extras <> w1 where lit)",
    ];

    internal static ModelDocument Model(int seed, bool withNumber)
    {
        var random = new Random(seed);
        T One<T>(params T[] options) => options[random.Next(options.Length)];
        string Condition(int depth) => depth == 0 ? One(Conditions) : random.Next(5) switch
        {
            0 => $"({Condition(depth - 1)} and {Condition(depth - 1)})",
            1 => $"({Condition(depth - 1)} or {Condition(depth - 1)})",
            2 => $"(if {Condition(depth - 1)} then {Condition(depth - 1)})",
            3 => $"exactly one of ({Condition(depth - 1)}, {Condition(0)}, {Condition(0)})",
            _ => Condition(0),
        };
        string Sometimes(int depth) => random.Next(2) == 0 ? "" : Condition(depth);
        AttributeRow Attribute(string name, AttributeKind type, string appliesWhen) => new()
        {
            Id = name,
            Name = name,
            Kind = type,
            ListId = type is AttributeKind.Choice or AttributeKind.Several ? "list" : null,
            AppliesWhen = appliesWhen,
            Required = random.Next(3) > 0,
            Suggestion = random.Next(3) > 0 ? null : type == AttributeKind.YesNo ? "yes" : type == AttributeKind.Choice ? "v2" : "v0",
        };
        var rows = new List<Row>
        {
            Attribute("core", AttributeKind.Choice, ""),
            Attribute("lit", AttributeKind.YesNo, ""),
            Attribute("finish", AttributeKind.Choice, One("", "lit", "core <> w1")),
            Attribute("rail", AttributeKind.Choice, One("", "finish = none", "applies(finish) and not lit")),
            Attribute("extras", AttributeKind.Several, One("", "lit", "rail = w1")) with { Min = One(null, "1"), Max = One(null, "2") },
            new Subassembly { Id = "sub", Name = "door", AssemblyId = "door", AppliesWhen = One("", "lit", "core = w0 or core = w1"),
                Instances = [new() { Id = "1" }] },
        };
        for (var i = random.Next(1, 5); i > 0; i--)
            rows.Add(new StatementRule
            {
                Id = "r" + i,
                Number = i,
                AppliesWhen = random.Next(4) == 0 ? Condition(0) : "",
                Expression = Condition(2),
                Strength = One(RuleStrength.Must, RuleStrength.Must, RuleStrength.Advice)
            });
        if (random.Next(2) == 0)
            rows.Add(new CombinationGrid
            {
                Id = "grid",
                Name = "grid",
                AppliesWhen = Sometimes(0),
                Columns = [new() { Id = "a", Name = "a", Reference = One("core", "finish") },
                    new() { Id = "b", Name = "b", Reference = One("rail", "door.kind") }, new() { Id = "c", Name = "c", Reference = "lit" }],
                Rows = [.. Enumerable.Range(0, random.Next(3, 9))
                    .Select(r => new GridRow { Id = "g" + r,
                    Cells = [One("w0", "w1 | w3", "w2", "*"), One("w0 | w1", "w2", "w3", "*"), One("yes", "no", "*")] })],
            });
        if (withNumber)
            rows.Add(new AttributeRow { Id = "beside", Name = "beside", Kind = AttributeKind.Whole, Min = "0", Max = "1000000", Required = false });
        return new()
        {
            Id = "m",
            Code = "CR",
            Root = "root",
            Lists = [new() { Id = "list", Name = "list", Values = [.. Enumerable.Range(0, 4).Select(v => new ListValue { Id = "v" + v, Code = "w" + v })] }],
            Assemblies =
            [
                new() { Id = "root", Name = "room", Topics = [new() { Id = "t", Rows = [.. rows] }] },
                new() { Id = "door", Name = "door",
                    Topics = [new() { Id = "td", Rows =
                    [Attribute("kind", AttributeKind.Choice, ""), Attribute("wide", AttributeKind.YesNo, ""),
                    Attribute("lock", AttributeKind.Choice, "wide")] }] },
            ],
        };
    }

    [Fact]
    public void A_number_that_nothing_reads_changes_no_answer()
    {
        var compared = 0;
        for (var seed = 0; seed < Rounds; seed++)
        {
            var model = new BoundModel(Model(seed, withNumber: false), RandomModels.Facts);
            Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => f.Diagnostic.Message)));
            var (without, with) = (new Reasoner(model), new Reasoner(new BoundModel(Model(seed, withNumber: true), RandomModels.Facts)));
            var random = new Random(seed);
            var picks = new List<Pick>();
            for (var step = 0; step < 12; step++)
            {
                var (mine, theirs) = (without.Answer(new([.. picks]), CancellationToken.None), with.Answer(new([.. picks]), CancellationToken.None));
                Assert.Equal(theirs.Valid, mine.Valid);
                Assert.Equal(theirs.Missing.AsEnumerable(), mine.Missing);
                Assert.Equal(theirs.Advice.AsEnumerable(), mine.Advice);
                foreach (var (a, b) in mine.Attributes.Zip(theirs.Attributes.Where(a => a.Path != "beside")))
                {
                    var place = $"seed {seed}, step {step}, {a.Path}, picks {string.Join(" ", picks)}";
                    Assert.True(a.Path == b.Path && a.State == b.State && a.Applies == b.Applies && a.Value.Equals(b.Value),
                        $"{place}: {a.State} {a.Value}, {b.State} {b.Value}");
                    Assert.True(Same(a.Available, b.Available) && Same(a.Alternatives, b.Alternatives), place);
                    compared++;
                }
                if (mine.Attributes.IsEmpty)
                    break;
                Change(picks, mine, random);
            }
        }
        Assert.True(compared > Rounds * 20, $"{compared} compared");
    }

    /// <summary>A pick that can be had or not, made, changed or let go of.</summary>
    internal static void Change(List<Pick> picks, Answer answer, Random random)
    {
        var at = answer.Attributes[random.Next(answer.Attributes.Length)];
        picks.RemoveAll(p => p.Path == at.Path);
        if (random.Next(5) > 0)
            picks.Add(new(at.Path, random.Next(6) == 0 && !at.Row.Required ? Value.Nothing : at.Row.Kind switch
            {
                AttributeKind.Choice => Value.Choice("v" + random.Next(4)),
                AttributeKind.Whole => Value.Of(random.Next(0, 1_000_000)),
                _ => Value.Of(random.Next(2) == 1),
            }));
    }

    [Fact]
    public void A_number_that_nothing_reads_changes_nothing_that_analysis_finds()
    {
        var found = 0;
        for (var seed = 0; seed < Rounds; seed++)
        {
            var (mine, theirs) = (Findings(Model(seed, withNumber: false)), Findings(Model(seed, withNumber: true)));
            Assert.True(mine.SequenceEqual(theirs), $"seed {seed}: {string.Join("; ", mine.Except(theirs))} against {string.Join("; ", theirs.Except(mine))}");
            found += mine.Count;
        }
        Assert.True(found > Rounds / 2, $"{found} found");

        List<string> Findings(ModelDocument document)
        {
            var report = HealthCheck.Run(new Reasoner(new BoundModel(document, RandomModels.Facts)), null, CancellationToken.None);
            Assert.True(report.IsFinished);
            return [.. report.Findings.Where(f => f.RowId != "beside").Select(f => $"{f.Kind} {f.Key} {f.Example is not null}")];
        }
    }

    private static bool Same(Available? a, Available? b) => a is null || b is null ? a is null && b is null
        : a.Values.SequenceEqual(b.Values) && a.None == b.None && a.MayBeAbsent == b.MayBeAbsent;
}
