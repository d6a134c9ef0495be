using System.Collections.Immutable;
using System.Security.Claims;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Bench;

/// <param name="Value">The value asked about; null asks why the attribute does not apply.</param>
public sealed record WhyRequest(IReadOnlyList<PickRequest> Picks, string Path, string? Value, string? Site = null,
    DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <param name="Path">The attribute whose value is wanted; null for a way out of the present clash.</param>
public sealed record WaysOutRequest(IReadOnlyList<PickRequest> Picks, string? Path, string? Value, string? Site = null,
    DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <param name="Finished">False where time ran out before a reason was found.</param>
public sealed record WhyAnswer(ReasonView? Reason, bool Possible, bool Finished);

/// <param name="Path">The attribute whose ruled-out values are asked about, all of them.</param>
public sealed record WhyAllRequest(IReadOnlyList<PickRequest> Picks, string Path, string? Site = null, DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <summary>Values that the same reason rules out.</summary>
public sealed record RuledOutView(IReadOnlyList<string> Labels, ReasonView Reason);

/// <param name="Finished">False where time ran out before every value had its reason.</param>
public sealed record WhyAllAnswer(IReadOnlyList<RuledOutView> Groups, bool Finished);

/// <param name="To">The value to change to, which was verified; null to drop the pick.</param>
public sealed record ChangeStep(string Path, string Label, string From, string? To, string? ToLabel);

public sealed record WayOutView(IReadOnlyList<ChangeStep> Changes);

/// <param name="Cause">Where there is no way out: why.</param>
/// <param name="More">Whether there are more ways than these.</param>
public sealed record WaysOutAnswer(IReadOnlyList<WayOutView> Ways, ReasonView? Cause, bool Finished, bool More = false);

/// <param name="Expected">The field that the text is for, so that its type is checked.</param>
public sealed record ExpressionRequest(string AssemblyId, string RowId, string Field, string Text, IReadOnlyList<PickRequest> Picks, string? Site = null,
    DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <param name="Example">What it comes to in a configuration with the present picks; null where none is known yet.</param>
/// <param name="Final">Whether that configuration leaves nothing open, so that the example is what it comes to.</param>
public sealed record ExpressionAnswer(IReadOnlyList<FindingView> Findings, string? Type, string? Example, bool Final);

/// <param name="Path">A computed attribute, or #price, #cost, #weight, #work or #leadTime of the structure.</param>
public sealed record BoundsRequest(IReadOnlyList<PickRequest> Picks, string Path, string? Site = null, DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <summary>The exact range of a computed number over all that can still be picked, in words; not finished where time ran out.</summary>
public sealed record BoundsAnswer(string Text, bool MayHaveNoValue, bool Finished);

public sealed record CompletionRequest(string AssemblyId, string Text, int Position);

public sealed record CompletionAnswer(int Start, int Length, IReadOnlyList<CompletionItem> Items);

/// <summary>Trying a revision out: answers, reasons, ways out, and what an expression being typed comes to.</summary>
public static class BenchEndpoints
{
    public static void MapBench(this IEndpointRouteBuilder api)
    {
        var bench = api.MapGroup("/revisions/{id:long}").ProducesProblem(404).ProducesProblem(422);
        bench.MapAnswer();
        bench.MapPost("/why", Why).Needs(Right.Read).WithName("why").WithSummary("Why a value cannot be had, or why it follows").Produces<WhyAnswer>();
        bench.MapPost("/why-all", WhyAll).Needs(Right.Read).WithName("whyAll").WithSummary("Why each of the ruled-out values of a choice cannot be had")
            .Produces<WhyAllAnswer>();
        bench.MapPost("/ways-out", WaysOut).Needs(Right.Read).WithName("waysOut")
            .WithSummary("Smallest sets of picks to change, out of a clash or towards a wanted value").Produces<WaysOutAnswer>();
        bench.MapPost("/bounds", Bounds).Needs(Right.Read).WithName("tightBounds")
            .WithSummary("How far a number exactly goes over all that can still be picked").Produces<BoundsAnswer>();
        bench.MapPost("/expression", Expression).Needs(Right.Read).WithName("checkExpression")
            .WithSummary("Checks an expression as if it stood in a field, with an example of its value").Produces<ExpressionAnswer>();
        bench.MapPost("/completion", Complete).Needs(Right.Read).WithName("completeExpression").WithSummary("What can stand at a place of an expression")
            .Produces<CompletionAnswer>();
    }

    private static async Task<IResult> Why(long id, WhyRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        Value? value = null;
        if (request.Value is { } text)
        {
            var (pick, error) = compiled.Text.ReadAt(request.Path, text);
            error ??= compiled.Text.Objection(pick!.Value, read.At);
            if (error is not null)
                return TypedResults.Ok(new WhyAnswer(new(error, [], []), false, true));
            value = pick!.Value.Value;
        }
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        if (asked.Answer.Attributes.FirstOrDefault(a => a.Path == request.Path) is not { } attribute)
            return Problems.Wrong("/path", "There is no such attribute.");
        var question = new Question([.. read.Picks]);
        var follows = value is { } v && attribute.State == AttributeState.Follows && attribute.Value is { } only && only.Equals(v);
        var possible = value is { } w && !follows && (attribute.Alternatives ?? attribute.Available).Has(w);
        var why = possible ? new Explanation(null, true) : await compiled
            .Solve(read.At, (reasoner, time) => follows ? reasoner.WhyFollows(question, request.Path, value!.Value, time)
            : reasoner.WhyNot(question, request.Path, value, time), cancel);
        return TypedResults.Ok(new WhyAnswer(why.Reason is { } reason ? new AnswerWords(compiled).Reason(reason.Picks, reason.Causes) : null, possible,
            why.Finished));
    }

    private static async Task<IResult> WhyAll(long id, WhyAllRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        if (asked.Answer.Attributes.FirstOrDefault(a => a.Path == request.Path) is not { Row.Kind: AttributeKind.Choice or AttributeKind.YesNo } attribute)
            return Problems.Wrong("/path", "Only values of a choice are ruled out one by one.");
        var question = new Question([.. read.Picks]);
        var words = new AnswerWords(compiled);
        var available = attribute.Alternatives ?? attribute.Available;
        IEnumerable<Value> all = attribute.Row.Kind == AttributeKind.YesNo
            ? [Value.Of(true), Value.Of(false)]
            : compiled.Model.Index.Lists[attribute.Row.ListId!].Values.Where(v => read.At.Includes(v)).Select(v => Value.Choice(v.Id));
        var reasons = await compiled.Solve(read.At, (reasoner, time) =>
            all.Where(v => !available.Has(v)).Select(v => (Value: v, Why: reasoner.WhyNot(question, request.Path, v, time))).ToList(), cancel);
        return TypedResults.Ok(new WhyAllAnswer(
            [.. reasons.Where(r => r.Why.Reason is not null).GroupBy(r => string.Join(";", r.Why.Reason!.Picks) + "|" + string.Join(";", r.Why.Reason.Causes))
            .Select(g => new RuledOutView([.. g.Select(r => compiled.ValueAt(request.Path, r.Value))],
                words.Reason(g.First().Why.Reason!.Picks, g.First().Why.Reason!.Causes)))], reasons.TrueForAll(r => r.Why.Finished)));
    }

    private static async Task<IResult> WaysOut(long id, WaysOutRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        Pick? wanted = null;
        if (request.Path is { } path)
        {
            var (pick, error) = compiled.Text.ReadAt(path, request.Value ?? "");
            if (pick is null)
                return Problems.Wrong("/value", error!);
            if (compiled.Text.Objection(pick.Value, read.At) is { } objection)
                return TypedResults.Ok(new WaysOutAnswer([], new(objection, [], []), true));
            wanted = pick;
        }
        var question = new Question([.. read.Picks]);
        var words = new AnswerWords(compiled);
        var (ways, why) = await compiled
            .Solve(read.At, (reasoner, time) => reasoner.WaysOut(question, wanted, time) is var found && found.Found.IsEmpty && wanted is { } wish
            ? (found, reasoner.WhyNot(new([]), wish.Path, wish.Value, time)) : (found, new(null, true)), cancel);
        return TypedResults.Ok(new WaysOutAnswer([.. ways.Found.Select(w => new WayOutView([.. w.Changes.Select(c => Step(compiled, c))]))],
            why.Reason is { } reason ? words.Reason(reason.Picks, reason.Causes) : null, ways.Finished && why.Finished, ways.More));
    }

    private static async Task<IResult> Bounds(long id, BoundsRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library,
        CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var words = new TotalWords(compiled, await Audience.Of(user, request.CustomerClass, library, cancel));
        if (!words.Tells(request.Path))
            return Problems.Wrong("/path", TotalWords.CostsAreNotShown);
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        var computed = asked.Answer.Open.Computed.FirstOrDefault(c => c.Path == request.Path);
        if ((computed is null && !StructureGoals.All.Contains(request.Path))
            || await compiled.Solve(read.At, (reasoner, time) => reasoner.Tight(asked.Answer, request.Path, null, time), cancel) is not { } bounds)
            return Problems.Wrong("/path", "There is no such number.");
        return TypedResults.Ok(new BoundsAnswer(computed is null
            ? words.Write(request.Path, bounds.Low, bounds.High)
            : new AnswerWords(compiled).Range(computed.Row, bounds.Low, bounds.High), bounds.MayHaveNoValue, bounds.Finished));
    }

    private static ChangeStep Step(CompiledModel compiled, Change change) =>
        new(change.From.Path, compiled.LabelOf(change.From.Path), compiled.ValueAt(change.From.Path, change.From.Value),
        change.To is { } to && compiled.Text.At(change.From.Path) is { } row ? compiled.Text.Write(row, to) : null,
        change.To is { } value ? compiled.ValueAt(change.From.Path, value) : null);

    private static async Task<IResult> Expression(long id, ExpressionRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        if (!compiled.Model.Index.Assemblies.TryGetValue(request.AssemblyId, out var assembly))
            return Problems.Wrong("/assemblyId", "There is no such assembly.");
        if (string.IsNullOrWhiteSpace(request.Text))
            return TypedResults.Ok(new ExpressionAnswer([], null, null, false));
        return TypedResults.Ok(await compiled.InTurn(() => Checked(compiled, read, request, assembly), cancel, Urgency.Answer));
    }

    private static ExpressionAnswer Checked(CompiledModel compiled, ReadPicks read, ExpressionRequest request, AssemblyDefinition assembly)
    {
        var result = FieldTypes.Check(compiled.Model, assembly, request.RowId, request.Field, request.Text);
        var fixes = QuickFixes.For(request.Text, result.Diagnostics, compiled.Model.Index, assembly,
            text => FieldTypes.Check(compiled.Model, assembly, request.RowId, request.Field, text).Diagnostics.Length);
        var findings = result.Diagnostics.Select((d, i) => RevisionView.Of(new Finding(request.RowId, request.Field, d)) with
        { Fixes = fixes[i].IsEmpty ? null : [.. fixes[i].Select(f => new TextFixView(f.Label, f.Text))] }).ToList();
        if (result.Expression is not { } expression)
            return new(findings, null, null, false);
        string? example = null;
        var final = false;
        // An example is taken from what stands on the bench; it must not wait for an answer that is still being worked out.
        if (compiled.AskedAlready(read.Question, read.At) is { Values: { } values } known
            && compiled.Occurrences.FirstOrDefault(o => o.Assembly.Id == assembly.Id) is { } at)
        {
            final = known.Answer.Missing.IsEmpty;
            example = FieldTypes.Write(compiled.Model, expression, new Evaluator(compiled.Model, values, read.At).Evaluate(expression, at.Prefix));
        }
        return new(findings, expression.Type.Describe(), example, final);
    }

    private static async Task<IResult> Complete(long id, CompletionRequest request, CompiledModels models, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (!compiled.Model.Index.Assemblies.TryGetValue(request.AssemblyId, out var assembly))
            return Problems.Wrong("/assemblyId", "There is no such assembly.");
        var result = await compiled.InTurn(() => Completion.At(request.Text, request.Position, compiled.Model.Index, assembly), cancel, Urgency.Answer);
        return TypedResults.Ok(new CompletionAnswer(result.Replaces.Start, result.Replaces.Length, [.. result.Items.Take(60)]));
    }
}
