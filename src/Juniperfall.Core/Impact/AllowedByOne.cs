using System.Collections.Immutable;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Differences;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Impact;

/// <summary>What one of two states of a model allows and the other does not.</summary>
/// <param name="Example">A complete configuration of the one, over what both ask, that no configuration of the other has; null where none was found.</param>
/// <param name="BecauseOf">The rule of the other that stands against it, where it was found by that; null otherwise.</param>
/// <param name="IsProven">Whether there is none where none was found. False where the two differ in more than rules, or time ran out.</param>
public sealed record AllowedByOne(ImmutableArray<Pick>? Example, string? BecauseOf, bool IsProven);

/// <summary>
/// The edits of a model as sets of configurations (Thüm, Batory and Kästner, “Reasoning about edits to feature models”, 2009): whether one state allows
/// what the other rules out, with an example. Each rule that the other has and the one has not is joined to the one, and asked for a configuration that it
/// alone rules out; each value that only the one has is asked for. What is found is asked of the other before it counts.
/// </summary>
public static class EditMeaning
{
    private const string Joined = "other.";

    /// <summary>Something that one of two models allows and the other rules out.</summary>
    public static AllowedByOne OnlyIn(Reasoner one, Reasoner other, CancellationToken cancel)
    {
        var shared = one.AskedPaths.Intersect(other.AskedPaths).ToHashSet();
        var isComplete = true;
        foreach (var (example, rule) in Candidates(one, other, shared, () => isComplete = false, cancel))
        {
            ImmutableArray<Pick> picks = [.. example.Where(p => shared.Contains(p.Path))];
            if (IsRuledOut(other, picks, cancel))
                return new(picks, rule, true);
        }
        return new(null, null, isComplete && !cancel.IsCancellationRequested && DifferInRulesAlone(one.Model.Document, other.Model.Document));
    }

    private static bool IsRuledOut(Reasoner other, ImmutableArray<Pick> picks, CancellationToken cancel) =>
        !other.Explore(new(picks), cancel).Any() && !cancel.IsCancellationRequested;

    /// <param name="open">Called where something could not be asked to its end.</param>
    private static IEnumerable<(ImmutableArray<Pick> Example, string? Rule)> Candidates(Reasoner one, Reasoner other, HashSet<string> shared, Action open,
        CancellationToken cancel)
    {
        var rules = NewRules(one.Model.Document, other.Model.Document).ToList();
        var joined = new BoundModel(With(one.Model.Document, rules), one.Model.Facts);
        if (rules.Count > 0 && joined.Findings.All(f => !f.Blocks))
        {
            var questions = new Questions(new Reasoner(joined, one.At), NetworkExtras.Outcomes, cancel);
            for (var i = 0; i < questions.Rules.Count; i++)
                if (questions.Rules[i][0].Row.Id is var id && id.StartsWith(Joined, StringComparison.Ordinal))
                {
                    var asked = questions.AskRule(i).Asked;
                    if (asked.Example is { } example)
                        yield return (example, id[Joined.Length..]);
                    if (asked.IsPossible is null)
                        open();
                }
        }
        else if (rules.Count > 0)
            open();
        var (here, there) = (one.Answer(new([]), cancel), other.Answer(new([]), cancel));
        if (here.Valid == true && there.Valid == false && one.Complete(here, cancel) is { } any)
            yield return (any, null);
        var left = there.Attributes.ToDictionary(a => a.Path, a => a.Available);
        foreach (var attribute in here.Attributes.Where(a => shared.Contains(a.Path) && left.ContainsKey(a.Path)))
            foreach (var value in OnlyHere(attribute.Available, left[attribute.Path]).Take(MostValues))
                if (one.Answer(new([new(attribute.Path, value)]), cancel) is { Valid: true } with && one.Complete(with, cancel) is { } complete
                    && complete.Contains(new(attribute.Path, value)))
                    yield return (complete, null);
    }

    private const int MostValues = 3;

    private static IEnumerable<Value> OnlyHere(Available here, Available there) =>
        here is { Lowest: { } low, Highest: { } high } && !(here.Listed && there.Listed)
            ? new[] { low, high }.Where(n => n < there.Lowest || n > there.Highest || there.Lowest is null).Select(Value.Of)
            : here.Values.Except(there.Values);

    /// <summary>Must rules that the other has, and the one has not or has otherwise.</summary>
    private static IEnumerable<(AssemblyDefinition Assembly, Row Rule)> NewRules(ModelDocument one, ModelDocument other)
    {
        var changed = ModelDifference.Of(one, other).Where(d => d.Kind is DifferenceKind.Added or DifferenceKind.Changed).Select(d => d.Row).ToHashSet();
        return from assembly in other.Assemblies
               from row in assembly.Rows
               where row is IRule { Strength: RuleStrength.Must } && changed.Contains(row.Id) && one.Assemblies.Any(a => a.Id == assembly.Id)
               select (assembly, row);
    }

    private static ModelDocument With(ModelDocument one, List<(AssemblyDefinition Assembly, Row Rule)> rules) => one with
    {
        Cases = [],
        Assemblies = [.. one.Assemblies.Select(a => rules.Where(r => r.Assembly.Id == a.Id).Select(r => Renamed(r.Rule)).ToList() is { Count: > 0 } added
            ? a with { Topics = [.. a.Topics, new Topic { Id = Joined + a.Id, Rows = [.. added] }] } : a)],
    };

    /// <summary>The same rule under ids of its own.</summary>
    private static Row Renamed(Row rule) => rule is CombinationGrid grid
        ? grid with
        {
            Id = Joined + grid.Id,
            Name = "other_" + grid.Name,
            Columns = [.. grid.Columns.Select(c => c with { Id = Joined + c.Id })],
            Rows = [.. grid.Rows.Select(r => r with { Id = Joined + r.Id })],
        }
        : rule with { Id = Joined + rule.Id };

    /// <summary>Whether everything that is different makes no difference to what is allowed, or is a rule, which was asked for by itself.</summary>
    private static bool DifferInRulesAlone(ModelDocument one, ModelDocument other)
    {
        Dictionary<string, Row> RowsOf(ModelDocument of) => of.Assemblies.SelectMany(a => a.Rows).ToDictionary(r => r.Id);
        var (then, now) = (RowsOf(one), RowsOf(other));
        return ModelDifference.Of(one, other).All(d => (then.GetValueOrDefault(d.Row) ?? now.GetValueOrDefault(d.Row)) switch
        {
            IRule and not CombinationGrid => true,
            PartLine or OperationLine or PriceLine => d.Kind == DifferenceKind.Moved
                || (d.Fields.Length > 0 && d.Fields.All(f => f.Field != "appliesWhen")),
            _ => d.Kind == DifferenceKind.Moved || (d.Fields.Length > 0 && d.Fields.All(f => Silent.Contains(f.Field.Split('/')[0])))
                || other.Cases.Concat(one.Cases).Any(c => c.Id == d.Id),
        });
    }

    /// <summary>Fields that no rule reads.</summary>
    private static readonly HashSet<string> Silent = ["label", "note", "message", "suggestion", "color", "decimals"];
}
