using System.Security.Claims;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Formats.Structures;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Structures;

/// <param name="Quantity">How many are made: a whole number above zero.</param>
public sealed record CostsRequest(IReadOnlyList<PickRequest> Picks, string Quantity, string? Site = null,
    DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <param name="Prefix">Where the row stands.</param>
/// <param name="Field">The field whose formula is worked out: “quantity”, “run”, “appliesWhen” …</param>
public sealed record WorkingRequest(IReadOnlyList<PickRequest> Picks, string RowId, string Prefix, string Field, string? Site = null,
    DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

public sealed record WorkingStepView(string Text, string Result)
{
    public static List<WorkingStepView>? Of(ExplanationFile? explained) =>
        explained?.Steps is { } steps ? [.. steps.Select(s => new WorkingStepView(s.Text, s.Result))] : null;
}

/// <summary>A line of the full structure.</summary>
/// <param name="Kind">“place” for a subassembly, “part” or “operation”.</param>
/// <param name="State">“always” there, “in” with these picks, “open”, or “out” with these picks.</param>
/// <param name="WhyNot">Where it is out: the sentence that says why; null where no complete configuration is at hand.</param>
public sealed record FullLineView(string Key, int Depth, string Kind, string RowId, string AssemblyId, string Prefix, string Name, string Description,
    string Quantity, string Condition, string State,
    string? WhyNot, IReadOnlyList<BecauseView> Because, string? Question, int Position);

/// <param name="Example">Whether what is open was filled in to tell why lines are not there.</param>
public sealed record FullStructureView(IReadOnlyList<FullLineView> Lines, bool Example);

/// <summary>All lines of a model with their conditions; formulas worked out; cost, time, and what is missing for building.</summary>
public static class FullStructureEndpoints
{
    public static void MapFullStructures(this IEndpointRouteBuilder api)
    {
        var revision = api.MapGroup("/revisions/{id:long}").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        revision.MapPost("/full-structure", FullStructure).Needs(Right.Read).WithName("fullStructure")
            .WithSummary("All lines of a model, and whether they are there with some picks").Produces<FullStructureView>();
        revision.MapPost("/working", WorkedOut).Needs(Right.Read).WithName("working")
            .WithSummary("A formula worked out step by step").Produces<List<WorkingStepView>>();
        revision.MapPost("/costs", Costs).Needs(Right.Read).WithName("costs").WithSummary("Price, cost, consumption and lead time of a quantity")
            .Produces<CostsView>();
        revision.MapGet("/buildable", Buildable).Needs(Right.Read).WithName("buildable")
            .WithSummary("What is missing for building a product at a site").Produces<List<BuildableView>>();
    }

    /// <summary>A quantity as it was asked for; null where it is none.</summary>
    internal static Exact? QuantityOf(string text) => Exact.TryParse(text, out var quantity) && quantity.IsWhole && quantity.Sign > 0
        && quantity <= 1_000_000 ? quantity : null;

    private static async Task<IResult> FullStructure(long id, PicksRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        var (now, ever) = await compiled
            .Solve(read.At, (reasoner, time) =>
            (reasoner.Lines(new([.. read.Picks]), time), read.Picks.Count == 0 ? null : reasoner.Lines(new([]), time)), cancel);
        return TypedResults.Ok(await compiled.InTurn(() => Lines(compiled, asked, read.At, now, ever), cancel));
    }

    private static FullStructureView Lines(CompiledModel compiled, Asked asked, Effectivity on, IReadOnlyDictionary<string, LinePossibility> now,
        IReadOnlyDictionary<string, LinePossibility>? ever)
    {
        var evaluator = asked.Values is { } values ? new Evaluator(compiled.Model, values, on) : null;
        var fixedPaths = asked.Answer.Attributes.Where(a => a.State is AttributeState.Picked or AttributeState.Follows).Select(a => a.Path).ToHashSet();
        var (lines, model) = (new List<FullLineView>(), compiled.Model);
        if (compiled.Occurrences.FirstOrDefault() is { } root)
            Add(root, 0, Exact.One);
        return new(lines, evaluator is not null);

        void Add(Occurrence at, int depth, Exact factor)
        {
            foreach (var row in at.Assembly.Rows.Where(r => r is PartLine or OperationLine or Subassembly))
                if (row is Subassembly place)
                    foreach (var below in compiled.Occurrences.Where(o => o.Parent == at && o.Place == place))
                    {
                        lines.Add(Line(at, row, depth, below));
                        Add(below, depth + 1, factor);
                    }
                else
                    lines.Add(Line(at, row, depth, null));
        }

        FullLineView Line(Occurrence at, Row row, int depth, Occurrence? below)
        {
            // Of an instance, what counts is whether that one is there.
            var absent = evaluator is null ? null : below is not null && !evaluator.IsThere(below) && evaluator.Applies(at, row)
                ? new AbsentLine(row, at, Absence.InstanceAbsent, row, at,
                    [.. (model.Expression(row.Id, "instanceCount")?.All().OfType<BoundAttribute>() ?? [])
                    .Select(a => (at.Prefix + a.Path, evaluator[at.Prefix + a.Path]))])
                : AbsentLines.Why(model, evaluator, on, at, row);
            var path = at.Prefix + row.Id;
            // A place is as its lines are: where some can be there, so can it.
            var state = !model.IsSound(row)
                || !on.Includes(row) ? "out" : below is not null
                ? StateOf(now.Where(l => l.Key.StartsWith(below.Prefix, StringComparison.Ordinal)).Select(l => l.Value))
                : (ever ?? now).GetValueOrDefault(path) is { MayBeIn: true, MayBeOut: false } ? "always"
                    : StateOf(now.TryGetValue(path, out var possible) ? [possible] : []);
            var (name, description) = row switch
            {
                PartLine { Item.Length: > 0 } part => (part.Item, model.Facts.Items.GetValueOrDefault(part.Item)?.Description.In() ?? ""),
                PartLine part => (ItemNow(part, at), ""),
                OperationLine operation => ($"{operation.Sequence} {operation.Label.Or(operation.Name)}", operation.WorkCentre),
                _ => (below is null ? compiled.Words.NameOf(row) : compiled.Words.PlaceOf(at, (Subassembly)row, below),
                    ((Subassembly)row).Make == SubassemblyKind.Phantom ? "phantom" : ((Subassembly)row).Item),
            };
            var quantity = row switch { PartLine p => p.Quantity, OperationLine o => o.Run, Subassembly s => s.Quantity, _ => "" };
            return new(path + (below is null ? "" : $":{below.InstanceId}"), depth,
                row switch { PartLine => "part", OperationLine => "operation", _ => "place" }, row.Id, at.Assembly.Id, at.Prefix, name, description,
                StoredText.Show(quantity, model.Index), StoredText.Show(row.AppliesWhen, model.Index), state, state is "out" or "open"
                    && absent is not null ? Sentence(absent, row) : null,
                state is "out" or "open" && absent is not null ? Because(absent.Because) : [], ExclusiveGroups.QuestionOf(row) is { Length: > 0 } question
                    ? question : null, row is PartLine { Position: > 0 } numbered ? numbered.Position : 0);
        }

        static string StateOf(IEnumerable<LinePossibility> lines) => lines.ToList() is var all
            && all.Exists(l => l.MayBeIn != false) ? all.Exists(l => l.MayBeOut == false) ? "in" : "open" : "out";

        // The item is told where the picks leave no other; otherwise where it comes from.
        string ItemNow(PartLine part, Occurrence at) => evaluator is not null
            && (model.Expression(part.Id, "itemFrom")?.All().OfType<BoundAttribute>().All(a => fixedPaths.Contains(at.Prefix + a.Path)) ?? true)
            && model.Expression(part.Id, "itemFrom") is { } from && evaluator.Applies(at, part)
            && evaluator.Evaluate(from, at.Prefix) is { Kind: ValueKind.Text, Text: { Length: > 0 } number }
                ? number : StoredText.Show(part.ItemFrom, model.Index);

        string? Sentence(AbsentLine? absent, Row row) => absent is null ? !model.IsSound(row) ? "It is faulty as it is written." : !on.Includes(row)
            ? "It does not hold at this site or on this day." : "These picks rule it out." : absent.Absence switch
            {
                Absence.Faulty => "It is faulty as it is written.",
                Absence.NotInEffect => absent.Cause == row
                    ? "It does not hold at this site or on this day." : $"{compiled.Words.NameOf(absent.Cause)} does not hold at this site or on this day.",
                Absence.ZeroQuantity => $"Its quantity comes to zero: {StoredText.Show(absent.Condition, model.Index)}.",
                Absence.InstanceAbsent => $"There are fewer: as many as {StoredText.Show(absent.Condition, model.Index)}.",
                Absence.PlaceAbsent => $"{compiled.Words.NameOf(absent.Cause)} is not there, because this does not hold: "
                    + $"{StoredText.Show(absent.Condition, model.Index)}.",
                _ => $"This does not hold: {StoredText.Show(absent.Condition, model.Index)}.",
            };

        List<BecauseView> Because(IEnumerable<(string Path, Value Value)> because) =>
            [.. because.Select(b => new BecauseView(b.Path, compiled.LabelOf(b.Path), compiled.ValueAt(b.Path, b.Value)))];
    }

    private static async Task<IResult> WorkedOut(long id, WorkingRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        if (compiled.Occurrences.FirstOrDefault(o => o.Prefix == request.Prefix) is not { } at
            || compiled.Model.Index.Rows.GetValueOrDefault(request.RowId) is not { } row)
            return Problems.Wrong("/rowId", "There is no such row.");
        return (await compiled.Ask(read.Question, read.At, cancel)).Values is { } values
            ? TypedResults.Ok(await compiled
                .InTurn(() => Working.Of(compiled.Model, new(compiled.Model, values, read.At), at, StructureExplainer.FormulaOf(row, request.Field))
                .Select(s => new WorkingStepView(s.Text, s.Result)).ToList(), cancel))
            : Problems.Conflict("As long as picks clash, nothing is worked out.");
    }

    private static async Task<IResult> Costs(long id, CostsRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library,
        CancellationToken cancel)
    {
        if (QuantityOf(request.Quantity) is not { } quantity)
            return Problems.Wrong("/quantity", $"“{request.Quantity}” is not a quantity; it is a whole number from 1 to 1,000,000.");
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var (customers, unknown) = await Customers.Find(request.CustomerClass, library, cancel);
        if (unknown is not null)
            return unknown;
        return await compiled.Ask(read.Question, read.At, cancel) is { Result.Structure: { } structure } asked
            ? TypedResults.Ok(await compiled.InTurn(() => CostsOf(compiled, asked, structure, Audience.Of(user, customers), quantity), cancel))
            : Problems.Conflict("As long as something is still needed or clashes, there is nothing to add up.");
    }

    /// <summary>A structure with its price, as a file.</summary>
    /// <param name="picks">What was picked, and all answers; none of either where only the numbers matter.</param>
    internal static StructureFile FileOf(CompiledModel compiled, Asked asked, Structure structure, CustomerClassFact? customers, Exact quantity,
        IEnumerable<Pick> picks, IEnumerable<GivenAnswer> answers)
    {
        var explainer = new StructureExplainer(compiled.Model, compiled.Words, asked.Values!, asked.At, withSteps: true);
        return new StructureWriter(compiled.Model, compiled.Words, explainer).Of(structure, asked.At, quantity, picks, answers) with
        {
            Price = asked.Price is { } price ? PriceFile.Of(compiled.Model, price, customers, quantity, explainer) : null,
        };
    }

    internal static CostsView CostsOf(CompiledModel compiled, Asked asked, Structure structure, Audience audience, Exact quantity)
    {
        var costs = CostsView.Of(FileOf(compiled, asked, structure, audience.Customers, quantity, [], []), audience, compiled.LeastMargin, compiled.RowNamed);
        return asked.Price is { Sheet: null, Faults: { Count: > 0 } faults }
            ? costs with { Price = PriceView.Of(faults, row => compiled.RowNamed(row).AssemblyId) } : costs;
    }

    private static async Task<IResult> Buildable(long id, string? site, DateOnly? date, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, new([], site, date), models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var never = (await compiled.Solve(read.At, (reasoner, time) => reasoner.Lines(new([]), time), cancel)).Where(l => l.Value.MayBeIn == false)
            .Select(l => l.Key).ToHashSet();
        return TypedResults.Ok(BuildableView
            .Of(compiled.Model, compiled.NameOf, BuildableCheck.Of(compiled.Model, read.At, (at, row) => !never.Contains(at.Prefix + row.Id))));
    }
}
