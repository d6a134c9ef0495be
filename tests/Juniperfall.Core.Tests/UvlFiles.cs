using System.Text;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Formats.Uvl;

namespace Juniperfall.Core.Tests;

/// <summary>UVL read as a model, held against the meaning of the tree and its constraints, written out feature by feature.</summary>
public class UvlFiles
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 1000 : 80;

    private static BoundModel Model(string uvl)
    {
        var result = UvlReader.Read(uvl);
        Assert.True(result.Errors.IsEmpty, string.Join("\n", result.Errors) + "\n" + uvl);
        var model = new BoundModel(result.Package!.Model, result.Package.Library);
        Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => f.Diagnostic.Message)));
        return model;
    }

    /// <summary>A random feature tree with constraints, as UVL and as a test on sets of features.</summary>
    private sealed class RandomTree(int seed)
    {
        private readonly Random _random = new(seed);
        private readonly StringBuilder _text = new("features\n    F0\n");
        private readonly List<Func<bool[], bool>> _tests = [f => f[0]];
        private readonly Dictionary<int, int> _costs = [];
        public int Count { get; private set; } = 1;

        public (string Uvl, Func<bool[], bool> Holds) Next(int features)
        {
            Grow(0, 2, features);
            var root = $"    F0 {{cost {Cost()}}}\n";
            _text.Replace("    F0\n", root);
            _text.Append("constraints\n");
            for (var i = _random.Next(1, 4); i > 0; i--)
            {
                var (text, holds) = Constraint(2);
                _text.Append("    ").Append(text).Append('\n');
                _tests.Add(holds);
            }
            return (_text.ToString(), f => _tests.TrueForAll(t => t(f)));
        }

        private int Cost()
        {
            return _costs[0] = _random.Next(1, 9);
        }

        private void Grow(int parent, int depth, int features)
        {
            while (Count < features && (parent == 0 || _random.Next(3) > 0))
            {
                var size = Math.Min(_random.Next(1, 4), features - Count);
                int[] members = [.. Enumerable.Range(Count, size)];
                Count += size;
                var group = _random.Next(5);
                var (least, most) = group switch { 2 => (1, 1), 3 => (1, size), 4 => (_random.Next(0, size + 1), size), _ => (0, size) };
                _text.Append(new string(' ', depth * 4))
                    .Append(group switch { 0 => "mandatory", 1 => "optional", 2 => "alternative", 3 => "or", _ => $"[{least}..{most}]" }).Append('\n');
                foreach (var member in members)
                {
                    var cost = _random.Next(1, 9);
                    _costs[member] = cost;
                    _text.Append(new string(' ', depth * 4 + 4)).Append($"F{member} {{cost {cost}}}\n");
                    _tests.Add(f => !f[member] || f[parent]);
                    if (group == 0)
                        _tests.Add(f => !f[parent] || f[member]);
                    if (depth < 6)
                        Grow(member, depth + 2, features);
                }
                _tests.Add(f => !f[parent] || (members.Count(m => f[m]) is var n && n >= least && n <= most));
            }
        }

        private (string, Func<bool[], bool>) Constraint(int depth)
        {
            if (depth == 0)
            {
                var feature = _random.Next(Count);
                return ($"F{feature}", f => f[feature]);
            }
            var (a, x) = Constraint(depth - 1);
            var (b, y) = Constraint(depth - 1);
            var limit = _random.Next(5, 30);
            return _random.Next(7) switch
            {
                0 => ($"!({a})", f => !x(f)),
                1 => ($"({a} & {b})", f => x(f) && y(f)),
                2 => ($"({a} | {b})", f => x(f) || y(f)),
                3 => ($"({a} => {b})", f => !x(f) || y(f)),
                4 => ($"({a} <=> {b})", f => x(f) == y(f)),
                // The costs are known once the tree is whole.
                5 => ($"(sum(cost) <= {limit} | {a})", f => Enumerable.Range(0, Count).Where(i => f[i]).Sum(i => _costs[i]) <= limit || x(f)),
                // And binds more tightly than or.
                _ => ($"({a} & {b} | {a})", f => x(f)),
            };
        }
    }

    [Fact]
    public void What_can_be_chosen_is_what_the_tree_and_the_constraints_allow()
    {
        var (impossible, ruledOut) = (0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var tree = new RandomTree(seed);
            var (uvl, holds) = tree.Next(7);
            var model = Model(uvl);
            bool[][] all = [.. Enumerable.Range(0, 1 << tree.Count).Select(m => Enumerable.Range(0, tree.Count).Select(i => (m >> i & 1) != 0).ToArray())
                .Where(holds)];
            var reasoner = new Reasoner(model);
            var random = new Random(seed);
            List<(int Feature, bool Value)> picks = [];
            if (all.Length == 0)
            {
                Assert.False(reasoner.Answer(new([]), CancellationToken.None).Valid, $"seed {seed}");
                impossible++;
                continue;
            }
            for (var step = 0; step < 4; step++)
            {
                bool[][] left = [.. all.Where(f => picks.TrueForAll(p => f[p.Feature] == p.Value))];
                var pathOf = model.Document.Assemblies[0].Rows.OfType<AttributeRow>().ToDictionary(r => r.Name, r => r.Id);
                var answer = reasoner.Answer(new([.. picks.Select(p => new Pick(pathOf[$"F{p.Feature}"], Value.Of(p.Value)))]), CancellationToken.None);
                Assert.True(answer.Valid == true, $"seed {seed}");
                for (var i = 0; i < tree.Count; i++)
                {
                    var available = answer.At($"F{i}").Available;
                    Assert.Equal((left.Any(f => f[i]), left.Any(f => !f[i])), (available.Has(Value.Of(true)), available.Has(Value.Of(false))));
                    ruledOut += available.Count == 1 ? 1 : 0;
                }
                // The next pick is one that can be had.
                var chosen = left[random.Next(left.Length)];
                var feature = random.Next(tree.Count);
                if (picks.TrueForAll(p => p.Feature != feature))
                    picks.Add((feature, chosen[feature]));
            }
        }
        Assert.True(impossible > 0 && ruledOut > Rounds, $"{impossible} were impossible, {ruledOut} values ruled out");
    }

    [Fact]
    public void What_is_written_has_as_many_configurations_as_the_model_and_reads_back_the_same()
    {
        var (met, ruled) = (0, 0);
        for (var seed = 0; seed < Rounds * 8; seed++)
        {
            // Of lines only their conditions count, where these cannot be computed; they have no counterpart.
            var model = new BoundModel(new RandomModels(seed * 31 + 3).Next()
                .WithRows(r => r is PartLine or OperationLine or PriceLine ? r with { AppliesWhen = "" } : r), RandomModels.Facts);
            var (text, omitted) = UvlWriter.Write(model);
            // Rules without a counterpart are listed, and so left out of the comparison; an attribute cannot be.
            var rules = omitted.Select(o => model.Index.Rows[o.RowId]).OfType<IRule>().Select(r => r.Id).ToHashSet();
            if (omitted.Any(o => !rules.Contains(o.RowId)))
                continue;
            var without = model.Document with
            {
                Assemblies =
                [.. model.Document.Assemblies.Select(a =>
                a with { Topics = [.. a.Topics.Select(t => t with { Rows = [.. t.Rows.Where(r => !rules.Contains(r.Id))] })] })]
            };
            // Figures of a grid are no rules; a division by zero rules out combinations that UVL cannot know of.
            var compared = new BoundModel(without, RandomModels.Facts);
            if (compared.Findings.Any(f => f.Blocks)
                || compared.Document.Assemblies.SelectMany(a => a.Rows).OfType<ComputedAttribute>()
                .Any(c => c.Expression.Contains('/') || c.Expression.Contains("sqrt") || c.Expression.Contains('^')))
                continue;
            var read = Model(text);
            var count = new Reasoner(read).Count(new([]), CancellationToken.None);
            var expected = new BruteForce(compared).Configurations().Count;
            Assert.True(count.Exact && count.Number == expected, $"seed {seed}: {count.Number} instead of {expected}\n{text}\n{string.Join("\n", omitted)}");
            var again = UvlWriter.Write(read);
            Assert.Empty(again.Omitted);
            Assert.Equal(count, new Reasoner(Model(again.Text)).Count(new([]), CancellationToken.None));
            met++;
            ruled += text.Contains("constraints", StringComparison.Ordinal) ? 1 : 0;
        }
        Assert.True(met > Rounds / 8 && ruled > Rounds / 10, $"{met} were met, {ruled} with constraints");
    }

    [Fact]
    public void Comments_stand_anywhere_and_what_has_no_counterpart_is_listed_and_left_out_while_the_rest_is_read()
    {
        var result = UvlReader.Read("""
            /* A block comment
               over lines */
            // it's a "comment" at the head
            namespace Rooms // more

            features
                Room {abstract true}
                    mandatory
                        Integer Doors
                        Real Length
                        String Name
                    optional
                        Heater
            constraints
                Doors > 1 => Heater // here too
                Length > 3.5
                Name == 'x'
                Heater => Length > Doors
                /* all */ Doors < 5
                'y' == Name
                Length => Heater
            """);
        Assert.Empty(result.Errors);
        Assert.Equal([16, 17, 18, 20],
            result.Unread.Where(u => u.Sentence.EndsWith("the constraint is left out.", StringComparison.Ordinal)).Select(u => u.Line));
        var model = new BoundModel(result.Package!.Model, result.Package.Library);
        // The number of doors goes up to four, and what is only a feature still counts as one.
        var answer = new Reasoner(model).Answer(new([]), CancellationToken.None);
        Assert.Equal((Exact)4, answer.At("Doors number").Available.Highest);
        Assert.Equal(AttributeState.Follows, answer.At("Heater").State);
    }

    [Fact]
    public void Every_identifier_that_is_written_is_one_that_all_readers_take_and_no_two_are_the_same()
    {
        string[] codes = ["none", "and", "floor", "3", "ångström", "漢", "a b", "_x", "sum", "It's", "A B", "a_b"];
        var list = new ValueList { Id = "l", Name = "l", Values = [.. codes.Select((c, i) => new ListValue { Id = $"v{i}", Code = c })] };
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "1-é",
            Root = "r",
            Lists = [list],
            Assemblies = [SmallModels.Assembly("r", SmallModels.Choice("true") with { ListId = "l" }, SmallModels.YesNo("floor"))]
        }, SmallModels.Facts);
        var (text, omitted) = UvlWriter.Write(model);
        Assert.Empty(omitted);
        var names = text.Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0 && l is not ("features" or "mandatory" or "optional" or "alternative"))
            .ToList();
        Assert.All(names, n => Assert.Matches("^[a-zA-Z][a-zA-Z0-9_]*$", n));
        Assert.Equal(names.Count, names.Distinct(StringComparer.OrdinalIgnoreCase).Count());
        Assert.Equal(new System.Numerics.BigInteger(codes.Length * 2), new Reasoner(Model(text)).Count(new([]), CancellationToken.None).Number);
    }

    [Fact]
    public void The_demo_model_is_written_as_far_as_it_goes_and_the_rest_is_listed()
    {
        var (text, omitted) = UvlWriter.Write(DemoModel.Room.Value.Model);
        Assert.Contains("        mandatory\n            duty\n                alternative\n                    duty_chill\n", text);
        Assert.Contains(omitted, o => o is { RowId: "r.length", Sentence: "“length” is a quantity; UVL has yes/no and whole numbers." });
        Assert.Contains(omitted, o => o.RowId == "rule2" && o.Sentence.StartsWith("§2 is left out", StringComparison.Ordinal));
        var read = Model(text);
        // What was written still rules: below zero the floor is insulated.
        Assert.Equal(AttributeState.Follows, SmallModels.Ask(read, "duty_freezer=yes").At("floor_bare").State);
    }

    [Fact]
    public void A_tree_is_read_with_its_groups_names_figures_and_numbers()
    {
        var model = Model("""
            namespace Rooms
            features
                "Cold room" // the whole
                    mandatory
                        Duty {abstract}
                            alternative
                                Chill
                                Freezer {cost 900, tested true}
                    optional
                        "Ramp, steel" {cost 120.5}
                        Integer doors
            constraints
                Freezer.tested => "Ramp, steel"
                sum(cost) < 2000 & doors > 1
            """);
        Assert.Equal(["Cold room", "Duty", "Chill", "Freezer", "Ramp, steel", "doors", "doors number"],
            model.Document.Assemblies[0].Rows.OfType<AttributeRow>().Select(r => r.Name));
        var answer = SmallModels.Ask(model, "Freezer=yes");
        Assert.Equal((AttributeState.Follows, true), (answer.At("Ramp, steel").State, answer.At("Ramp, steel").Value!.Value.IsTrue));
        Assert.Equal(2, answer.At("doors number").Available.Lowest);
        // A rule is called by its line.
        Assert.Contains(model.Document.Assemblies[0].Rows.OfType<StatementRule>(), r => r.Id == "L13");
    }

    [Theory]
    [InlineData("features\n    A\n        optional\n            B\n            B\n", 5, "The feature “B” is there already, in line 4.")]
    [InlineData("features\n    A\n    B\n", 3, "There is one root feature.")]
    [InlineData("features\n    A\n        B\n", 3, "A feature stands in a group: mandatory, optional, alternative, or, [n..m].")]
    [InlineData("features\n    Ramp\nconstraints\n    Rampe => Ramp\n", 4, "There is no feature “Rampe”. Did you mean “Ramp”?")]
    [InlineData("features\n    A\nconstraints\n    (A => A\n", 4, "A closing bracket is missing.")]
    [InlineData("features\n    A\nconstraints\n    A A\n", 4, "“A” does not belong here.")]
    [InlineData("features\n    A\nconstraints\n    A > 3\n", 4, "“A” is yes or no; here a number is needed.")]
    [InlineData("features\n    A\n        [3..4]\n            B\n", 3, "[3..4] asks for more features than the 1 that are there.")]
    [InlineData("features\n    \"A\n", 2, "A quoted name is not closed.")]
    [InlineData("stuff\n    A\n", 1, "“stuff” is no section; there are namespace, include, features and constraints.")]
    [InlineData("", 1, "There are no features.")]
    public void What_is_wrong_is_told_at_its_line(string uvl, int line, string sentence)
    {
        var result = UvlReader.Read(uvl);
        Assert.Null(result.Package);
        Assert.Contains(new UvlNote(line, sentence), result.Errors);
    }

    [Fact]
    public void What_a_few_lines_could_ask_without_end_has_one()
    {
        static string Fault(string constraint, string features = "    A {cost 2}\n") =>
            Assert.Single(UvlReader.Read($"features\n{features}constraints\n    {constraint}\n").Errors).Sentence;
        Assert.Equal("This nests deeper than 500 levels.", Fault(new string('-', 200_000) + "sum(cost) > 1"));
        Assert.Equal("This nests deeper than 500 levels.", Fault(new string('!', 200_000) + "A"));
        Assert.Equal("More than 500 “<=>” follow one another.", Fault(string.Join(" <=> ", Enumerable.Repeat("A", 50_000))));
        // A sum writes all features out: two thousand features and six hundred sums are more than a million terms.
        var many = "    A\n        optional\n" + string.Concat(Enumerable.Range(0, 2000).Select(i => $"            b{i} {{cost {i}}}\n"));
        Assert.Equal("The sums of this file come to more than 1000000 terms.", Fault(string.Join(" + ", Enumerable.Repeat("sum(cost)", 600)) + " > 1", many));
        // Who writes so many wrong names gets every one with its line, but no guess for each.
        var wrong = UvlReader.Read($"features\n{many}constraints\n{string.Concat(Enumerable.Range(0, 3000).Select(i => $"    c{i} => A\n"))}").Errors;
        Assert.Equal((3000, 5004), (wrong.Length, wrong[^1].Line));
    }

    [Fact]
    public void Operators_of_one_rank_go_from_left_to_right_in_long_chains()
    {
        var terms = Enumerable.Range(0, 240).Select(i => (i % 3) switch { 0 => "7", 1 => "3", _ => "2" }).ToList();
        var (chain, value) = (terms[0], 7m);
        for (var i = 1; i < terms.Count; i++)
            (chain, value) = i % 2 == 0 ? ($"{chain} + {terms[i]}", value + decimal.Parse(terms[i], System.Globalization.CultureInfo.InvariantCulture))
                : ($"{chain} - {terms[i]}", value - decimal.Parse(terms[i], System.Globalization.CultureInfo.InvariantCulture));
        bool Holds(string constraint) =>
            new Reasoner(Model($"features\n    A\nconstraints\n    {constraint}\n")).Answer(new([]), CancellationToken.None).Valid == true;
        Assert.True(Holds($"{chain} == {value}"));
        Assert.False(Holds($"{chain} == {value + 1}"));
        Assert.True(Holds("64 / 4 / 2 * 3 == 24 & 10 - 2 - 3 == 5"));
    }

    [Fact]
    public void What_has_no_counterpart_is_listed_and_nesting_has_an_end()
    {
        var result = UvlReader.Read("imports\n    other\nfeatures\n    A {maker 'Haldwyn'}\n        optional\n            String label\n            "
            + "a\nconstraints\n    avg(cost) > 3\n");
        Assert.NotNull(result.Package);
        Assert.Equal([1, 4, 6, 7, 9], result.Unread.Select(n => n.Line).Order());
        var deep = UvlReader.Read($"features\n    A\nconstraints\n    {new string('(', 10_000)}A{new string(')', 10_000)}\n");
        Assert.Contains("deeper", Assert.Single(deep.Errors).Sentence);
    }
}
