using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Formats;

namespace Juniperfall.Core.Tests;

/// <summary>The contract of answers, held against the literal evaluator on random small models with random picks.</summary>
public class ReasoningAgainstBruteForce
{
    /// <summary>Everything an answer promises, as one text.</summary>
    private static string Promised(Answer answer)
    {
        static string Of(Available? a) => a is null
            ? "-" : $"{(a.Listed ? string.Join(",", a.Values) : "many")}/{a.None}/{a.MayBeAbsent}/{(a.Listed ? a.Values.Length > 0 ? a.Values[0] : null : a.Lowest)}/{(a.Listed ? a.Values.Length > 0 ? a.Values[^1] : null : a.Highest)}";
        return string.Join("\n", answer.Attributes.Select(a => $"{a.Path} {a.State} {a.Applies} {a.Value} {Of(a.Available)} {Of(a.Alternatives)}")
            .Append(answer.Valid.ToString()).Append(string.Join(",", answer.Missing)).Append(string.Join(",", answer.Standing))
                .Append(string.Join(",", answer.Advice.Select(c => c.RowId))));
    }

    [Fact]
    public void What_is_remembered_of_earlier_questions_and_of_earlier_states_of_the_model_changes_no_answer()
    {
        foreach (var c in RandomCase.Of(6))
        {
            var orders = new[] { c.Picks, [.. c.Picks.Reverse()] };
            foreach (var picks in orders.SelectMany(o => Enumerable.Range(0, o.Length + 1).Select(n => o[..n])))
                Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(picks), CancellationToken.None)),
                    Promised(c.Reasoner.Answer(new(picks), CancellationToken.None)));
            // The model without its last rule, and back again.
            var root = c.Model.Document.Assemblies[0];
            if (root.Rows.OfType<RuleRow>().LastOrDefault() is not { } rule)
                continue;
            var without = new BoundModel(c.Model.Document with
            {
                Assemblies = c.Model.Document.Assemblies
                .Replace(root, root with { Topics = [.. root.Topics.Select(t => t with { Rows = t.Rows.Remove(rule) })] })
            }, RandomModels.Facts);
            var later = new Reasoner(without, previous: c.Reasoner);
            Assert.Equal(Promised(new Reasoner(without).Answer(new(c.Picks), CancellationToken.None)),
                Promised(later.Answer(new(c.Picks), CancellationToken.None)));
            Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(c.Picks), CancellationToken.None)),
                Promised(new Reasoner(c.Model, previous: later).Answer(new(c.Picks), CancellationToken.None)));
        }
    }

    [Fact]
    public void Validity_availability_alternatives_and_states_are_those_of_the_definition()
    {
        var (impossible, clashing) = (0, 0);
        foreach (var c in RandomCase.Of(1))
        {
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            Assert.True(answer.Exact);
            if (c.All.Count == 0)
            {
                impossible++;
                Assert.Equal(false, answer.Valid);
                continue;
            }
            var standing = c.Standing();
            Assert.Equal(standing.Count == c.Picks.Length, answer.Valid);
            clashing += answer.Valid == true ? 0 : 1;
            var within = c.With(standing);
            foreach (var attribute in answer.Attributes)
            {
                void Same(IEnumerable<Dictionary<string, BruteForce.Slot>> configurations, Available available, string what)
                {
                    var expected = configurations.Where(x => x[attribute.Path].Applies).Select(x => x[attribute.Path].Value).ToHashSet();
                    var actual = available.Values.ToHashSet();
                    if (available.None)
                        actual.Add(Value.Nothing);
                    Assert.True(expected.SetEquals(actual),
                        $"seed {c.Seed}, {what} of {attribute.Path}: expected {string.Join(",", expected)}; got {string.Join(",", actual)}; picks "
                            + $"{string.Join(" ", c.Picks)}");
                }

                Same(within, attribute.Available, "available");
                Assert.Equal(within.All(x => x[attribute.Path].Applies) ? Applicability.Always : within.Any(x => x[attribute.Path].Applies)
                    ? Applicability.Maybe : Applicability.Never, attribute.Applies);
                var pick = standing.Where(p => p.Path == attribute.Path).ToList();
                if (pick.Count > 0)
                    Same(c.With(standing.Except(pick)), attribute.Alternatives!, "alternatives");
                var isPicked = c.Picks.Any(p => p.Path == attribute.Path);
                if (isPicked && pick.Count == 0)
                    Assert.Equal(AttributeState.Clash, attribute.State);
                if (!isPicked)
                {
                    Assert.Equal(attribute.Available.Count == 1, attribute.State == AttributeState.Follows);
                    Assert.Equal(attribute.Available.Count == 0, attribute.State == AttributeState.Absent);
                }
            }
        }
        Assert.True(impossible < RandomCase.Rounds / 3 && clashing > RandomCase.Rounds / 20, $"The models are of little use: {impossible} impossible, {clashing} clashing.");
    }

    [Fact]
    public void Suggestions_are_taken_in_order_while_they_can_be_had_and_advice_and_computed_values_are_right()
    {
        foreach (var c in RandomCase.Of(2))
        {
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            if (c.All.Count == 0)
                continue;
            var counted = c.Standing();
            counted.AddRange(answer.Attributes.Where(a => a.State == AttributeState.Follows).Select(a => new Pick(a.Path, a.Value!.Value)));
            var unsettled = answer.Attributes.Where(a => a.State is AttributeState.Suggested or AttributeState.Open).ToList();
            // Of several choices the suggested ones come first, then all the others as left out, together or not at all.
            var groups = unsettled.GroupBy(a => RowPath.OfRow(a.Path)).SelectMany(g => g.First().Member is null ? [g.ToList()]
                : g.Where(a => a.Row.SuggestedMembers.Contains(a.Member!.Id)).Select(a => new List<AttributeAnswer> { a })
                    .Append([.. g.Where(a => !a.Row.SuggestedMembers.Contains(a.Member!.Id))]));
            foreach (var group in groups.Where(g => g.Count > 0 && (g[0].Member is not null || g[0].Row.Suggestion is not null)))
            {
                var text = group[0].Row.Suggestion ?? "";
                var value = group[0] switch
                {
                    { Member: { } member } => Value.Of(group[0].Row.SuggestedMembers.Contains(member.Id)),
                    { Row.Kind: AttributeKind.Choice } => Value.Choice(text),
                    { Row.Kind: AttributeKind.YesNo } => Value.Of(text == "yes"),
                    _ => Value.Of(Unit.Parse(group[0].Row.Unit).ToBase(Exact.Parse(text))),
                };
                var canBeHad = c.With(counted).Any(x => group.All(a => x[a.Path].Applies && x[a.Path].Value == value));
                Assert.True(group.All(a => canBeHad == (a.State == AttributeState.Suggested)), $"seed {c.Seed} {group[0].Path}");
                if (canBeHad)
                    counted.AddRange(group.Select(a => new Pick(a.Path, value)));
            }
            Assert.NotEmpty(c.With(answer.Standing));
            var expected = answer.Attributes
                .Where(a => a.State is AttributeState.Open or AttributeState.Clash && (a.Row.Required || a.Member is not null)
                && c.With(answer.Standing).All(x => x[a.Path].Applies));
            Assert.Equal(expected.Select(a => a.Path), answer.Missing);
            if (answer.Valid == true)
                Assert.Contains(c.With(answer.Standing), x =>
                    c.Reasoner.Complete(answer, CancellationToken.None)!.Value.All(p => x[p.Path].Applies && x[p.Path].Value == p.Value));
        }
    }

    /// <summary>Over all that can still be picked nothing is left out, several choices that nobody touched included; as suggested only what suggestions
    /// leave.</summary>
    [Fact]
    public void Figures_lines_and_totals_hold_every_configuration_with_the_picks_and_as_suggested_every_one_with_the_suggestions()
    {
        var (open, narrowed) = (0, 0);
        foreach (var c in RandomCase.Of(12))
        {
            if (c.All.Count == 0)
                continue;
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            Assert.Equal(c.Standing(), answer.StandingPicks);
            foreach (var (outcome, standing) in new[] { (answer.Open, answer.StandingPicks), (answer.AsSuggested, answer.Standing) })
                foreach (var configuration in c.With(standing))
                {
                    var values = configuration.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value);
                    var evaluator = new Evaluator(c.Model, values);
                    foreach (var computed in outcome.Computed)
                        if (evaluator[computed.Path] is { Kind: ValueKind.Number, Number: var number })
                            Assert.True(!(number < computed.Number!.Low) && !(number > computed.Number.High),
                                $"seed {c.Seed}: {computed.DisplayPath} can be {number}");
                        else
                            Assert.True(computed.Number is null or { MayHaveNoValue: true }, $"seed {c.Seed}: {computed.DisplayPath} can have no value");
                    var lines = c.Brute.Lines(configuration).ToDictionary(l => l.At.Prefix + l.Row.Id, l => l.Field);
                    foreach (var line in outcome.Lines)
                        if (!lines.TryGetValue(line.Path, out var field))
                            Assert.NotEqual(LineState.In, line.State);
                        else
                        {
                            Assert.NotEqual(LineState.Out, line.State);
                            Assert.All(line.Numbers, n =>
                                Assert.False(field(n.Key) is { Kind: ValueKind.Number, Number: var number }
                                && (number < n.Value.Low || number > n.Value.High), $"seed {c.Seed}: {line.Path} {n.Key}"));
                        }
                }
            var totals = c.Reasoner.Totals(answer);
            if (totals.TryGetValue(StructureGoals.Price, out var price))
                foreach (var (reach, standing) in new[] { (price.Open, answer.StandingPicks), (price.AsSuggested, answer.Standing) })
                    foreach (var configuration in c.With(standing).Where((_, i) => i % 5 == 0))
                        if (Pricing.Of(c.Model, configuration.Where(s => s.Value.Applies)
                            .ToDictionary(s => s.Key, s => s.Value.Value)).Sheet is { Price: var paid })
                            Assert.True(!(paid < reach.Low) && !(paid > reach.High), $"seed {c.Seed}: {paid} is not within {reach}");
            var possible = c.Reasoner.Lines(new(c.Picks), CancellationToken.None);
            foreach (var (path, possibility) in possible)
            {
                var there = c.With(answer.StandingPicks).Select(x => c.Brute.Lines(x).Any(l => l.At.Prefix + l.Row.Id == path)).Distinct().ToList();
                Assert.True(possibility.MayBeIn == there.Contains(true),
                    $"seed {c.Seed}: {path} {possibility} {string.Join(",", there)} {c.Model.Document.Assemblies[0].Rows.Single(r => r.Id == path)} picks "
                        + $"{string.Join(" ", c.Picks)}");
            }
            open += answer.Open.Lines.Count(l => l.State == LineState.Open);
            narrowed += answer.Open.Lines.Zip(answer.AsSuggested.Lines).Count(l => l.First.State != l.Second.State);
        }
        Assert.True(open > RandomCase.Rounds / 3 && narrowed > RandomCase.Rounds / 20, $"{open} lines were open, {narrowed} of them settled by suggestions");
    }

    [Fact]
    public void A_reasoner_that_starts_from_what_another_process_found_answers_like_one_that_knows_nothing()
    {
        var (taken, left) = (0, 0);
        WarmState? ofAnother = null;
        foreach (var c in RandomCase.Of(7).Take(RandomCase.Rounds / 2))
        {
            if (c.Reasoner.ToWarmState(CancellationToken.None) is not { } found)
                continue;
            var state = WarmStateFile.Read(WarmStateFile.Write(found))!;
            var warm = new Reasoner(c.Model, warm: state);
            Assert.True(warm.IsWarm, $"seed {c.Seed}");
            taken++;
            foreach (var picks in Enumerable.Range(0, c.Picks.Length + 1).Select(n => c.Picks[..n]))
                Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(picks), CancellationToken.None)),
                    Promised(warm.Answer(new(picks), CancellationToken.None)));
            // What is of another model, or was changed so that a configuration does not hold, is left.
            if (ofAnother is not null && new Reasoner(c.Model, warm: ofAnother) is { IsWarm: false } other)
            {
                Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(c.Picks), CancellationToken.None)),
                    Promised(other.Answer(new(c.Picks), CancellationToken.None)));
                left++;
            }
            ofAnother = state;
            Assert.False(new Reasoner(c.Model,
                warm: state with { Configurations = state.Configurations.Add([.. state.Configurations[0].Select(_ => 9_999)]) }).IsWarm);
        }
        Assert.True(taken > RandomCase.Rounds / 6 && left > RandomCase.Rounds / 12, $"{taken} were taken over, {left} left");
    }

    [Fact]
    public void A_state_whose_bytes_were_changed_is_left_or_means_the_same()
    {
        var c = RandomCase.Of(7).First(c => c.Reasoner.ToWarmState(CancellationToken.None) is { Configurations.Length: > 3 });
        var (bytes, random, read) = (WarmStateFile.Write(c.Reasoner.ToWarmState(CancellationToken.None)!), new Random(3), 0);
        for (var round = 0; round < 400; round++)
        {
            var changed = (byte[])bytes.Clone();
            changed[random.Next(changed.Length)] ^= (byte)(1 << random.Next(8));
            read += WarmStateFile.Read(random.Next(4) == 0 ? changed[..random.Next(changed.Length)] : changed) is null ? 0 : 1;
        }
        Assert.InRange(read, 0, 399);
    }

    [Fact]
    public void Sessions_of_edits_and_picks_get_the_answers_of_a_reasoner_that_knows_nothing()
    {
        var edits = 0;
        foreach (var c in RandomCase.Of(12).Take(RandomCase.Rounds / 3))
        {
            var random = new Random(c.Seed);
            var root = c.Model.Document.Assemblies[0];
            var rules = root.Rows.OfType<RuleRow>().ToList();
            var (reasoner, model, without) = (c.Reasoner, c.Model, new HashSet<string>());
            for (var step = 0; step < 6; step++)
            {
                if (random.Next(2) == 0 && rules.Count > 0)
                {
                    // A rule goes, or comes back.
                    var rule = rules[random.Next(rules.Count)].Id;
                    if (!without.Remove(rule))
                        without.Add(rule);
                    var edited = c.Model.Document.Assemblies
                        .Replace(root, root with { Topics = [.. root.Topics.Select(t => t with { Rows = [.. t.Rows.Where(r => !without.Contains(r.Id))] })] });
                    model = new BoundModel(c.Model.Document with { Assemblies = edited }, RandomModels.Facts);
                    reasoner = new Reasoner(model, previous: reasoner);
                    edits++;
                }
                var picks = c.Picks.Where(_ => random.Next(3) > 0).ToImmutableArray();
                var question = new Question(picks);
                Assert.Equal(Promised(new Reasoner(model).Answer(question, CancellationToken.None)),
                    Promised(reasoner.Answer(question, CancellationToken.None)));
                // A question that is stopped leaves nothing behind.
                using var stopped = new CancellationTokenSource();
                stopped.Cancel();
                reasoner.WaysOut(question, null, stopped.Token);
                reasoner.Answer(question, stopped.Token);
                string Ways(Reasoner of) => string.Join(";", of.WaysOut(question, null, CancellationToken.None).Found.Select(w => string.Join(",", w.Changes)));
                Assert.Equal(Ways(new Reasoner(model)), Ways(reasoner));
            }
        }
        Assert.True(edits > RandomCase.Rounds / 3, $"only {edits} edits were made");
    }

    [Fact]
    public void A_question_that_is_stopped_says_so_and_passes_nothing_off_as_exact()
    {
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        var (interrupted, asked) = (0, 0);
        foreach (var c in RandomCase.Of(8).Take(40).Where(c => c.All.Count > 0))
        {
            var answer = new Reasoner(c.Model).Answer(new(c.Picks), stopped.Token);
            asked++;
            Assert.All(answer.Clashes.Where(x => !x.Finished), x => Assert.Empty(x.Causes));
            if (answer.Exact)
                continue;
            interrupted++;
            Assert.True(answer.Valid is null || answer.Valid == (c.With(c.Picks).Count > 0), $"seed {c.Seed}: {answer.Valid} was not proven");
            Assert.DoesNotContain(answer.Attributes, a => a.State is AttributeState.Follows or AttributeState.Suggested);
        }
        Assert.True(interrupted > asked / 4, $"{interrupted} of {asked} questions needed a search long enough to be stopped");
    }

    [Fact]
    public void Of_a_complete_configuration_the_network_and_the_structure_say_the_same()
    {
        var (lines, faults) = (0, 0);
        foreach (var c in RandomCase.Of(5))
        {
            if (c.All.Count == 0)
                continue;
            var configuration = c.All[c.Seed % c.All.Count];
            var picks = configuration.Where(x => x.Value.Applies).Select(x => new Pick(x.Key, x.Value.Value)).ToImmutableArray();
            var answer = c.Reasoner.Answer(new(picks), CancellationToken.None);
            Assert.True(answer.Valid == true, $"seed {c.Seed}");
            Assert.All(answer.Attributes, a => Assert.Equal(configuration[a.Path].Applies, a.State == AttributeState.Picked));
            var values = picks.ToDictionary(p => p.Path, p => p.Value);
            var evaluator = new Evaluator(c.Model, values);
            foreach (var computed in answer.AsSuggested.Computed)
            {
                var value = evaluator[computed.Path];
                Assert.True(value.IsNothing ? computed.Number is null : computed.Number is { IsFinal: true } n && n.Low == value.Number,
                    $"seed {c.Seed}: {computed.DisplayPath} is {value}, not {computed.Number}");
            }
            var result = StructureBuilder.Build(c.Model, values);
            foreach (var line in answer.AsSuggested.Lines)
            {
                var there = evaluator.Applies(evaluator.Occurrences.Single(o => o.Prefix == line.Prefix), line.Row);
                Assert.Equal(there ? LineState.In : LineState.Out, line.State);
                if (result.Structure is not { } structure || !there)
                    continue;
                var number = line.Numbers[line.Row is PartLine ? "quantity" : "run"];
                Assert.True(number.IsFinal, $"seed {c.Seed}");
                if (line.Row is OperationLine)
                    Assert.Equal(number.Low, Assert.Single(structure.Routing).Run);
                else if (structure.Bom.SingleOrDefault(l => l.RowId == line.Row.Id) is not { } built)
                    Assert.Equal(0, number.Low!.Value.Sign);
                else
                    Assert.True(built.Net >= number.Low && built.Net < number.Low + Exact.Of(1, 2) && built.Gross >= built.Net
                        && built.Gross < built.Net * Exact.Of(11, 10) + Exact.Of(1, 2));
                lines++;
            }
            faults += result.Faults.Length;
        }
        Assert.True(lines > RandomCase.Rounds / 3 && faults > 0, $"{lines} lines and {faults} faults were met");
    }
}
