using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Revisions;

/// <param name="Id">Given by the page, so that a request sent twice makes one remark.</param>
/// <param name="RowId">The row that it is about; empty for the revision as a whole.</param>
public sealed record RemarkRequest(string Id, string RowId, string Text);

/// <param name="Id">Given by the page, so that a request sent twice makes one answer.</param>
public sealed record RemarkAnswerRequest(string Id, string Text);

/// <param name="Close">Whether it is to be closed; otherwise it is opened again.</param>
public sealed record RemarkCloseRequest(bool Close);

/// <summary>A remark on a row of a revision, or on it as a whole.</summary>
/// <param name="RowName">What the row is called; as it was called where it is gone.</param>
/// <param name="AssemblyId">Where the row stands; null where it is gone, and for the whole.</param>
public sealed record RemarkView(string Id, string RowId, string RowName, string? AssemblyId, string Text, string Person, DateTime MadeAt, string? ClosedBy,
    DateTime? ClosedAt, IReadOnlyList<RemarkAnswer> Answers);

/// <summary>Remarks of reviewers: written on rows, answered, closed.</summary>
public static class RemarkEndpoints
{
    private const int MostListed = 1_000;

    public static void MapRemarks(this IEndpointRouteBuilder api)
    {
        var all = api.MapGroup("/revisions/{id:long}/remarks").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        all.MapGet("", List).Needs(Right.Read).WithName("remarks").WithSummary("The remarks on a revision, in the order they were made")
            .Produces<List<RemarkView>>();
        all.MapPost("", Add).Needs(Right.Remark).WithName("remark").WithSummary("Writes a remark on a row, or on the revision as a whole").Produces(204);
        all.MapPost("/{remarkId}/answers", Answer).Needs(Right.Remark).WithName("answerRemark").WithSummary("Answers a remark").Produces(204);
        all.MapPut("/{remarkId}/closed", Close).Needs(Right.Remark).WithName("closeRemark").WithSummary("Closes a remark, or opens it again").Produces(204);
    }

    private static async Task<IResult> List(long id, CompiledModels models, RemarkStore remarks, CancellationToken cancel) =>
        await models.Get(id, cancel) is not { } compiled ? Problems.Gone("revision")
            : TypedResults.Ok((await remarks.Of(id, MostListed, cancel)).Select(r => new RemarkView(r.Id, r.RowId,
                compiled.Model.Index.Rows.ContainsKey(r.RowId) ? compiled.NameOf(r.RowId) : r.RowName,
                compiled.Model.Index.AssemblyOfRow.GetValueOrDefault(r.RowId)?.Id, r.Text, r.Person, r.MadeAt, r.ClosedBy, r.ClosedAt, r.Answers)).ToList());

    private static async Task<IResult> Add(long id, RemarkRequest request, HttpContext context, CompiledModels models, RemarkStore remarks, AuditStore audit,
        NpgsqlDataSource data, CancellationToken cancel)
    {
        if (Fault(request.Id, request.Text) is { } fault)
            return fault;
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (request.RowId.Length > 0 && !compiled.Model.Index.Rows.ContainsKey(request.RowId))
            return Problems.Wrong("/rowId", "This row is gone. Write the remark on the revision as a whole.");
        var (name, person) = (request.RowId.Length > 0 ? compiled.NameOf(request.RowId) : "", context.User.Identity!.Name!);
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (await remarks.Add(work, new(request.Id, id, request.RowId, name, request.Text.Trim(), person, default, null, null), cancel))
            await audit.Add(work, context.Happened(AuditKind.RemarkMade, compiled.Revision.Document.Code,
                $"revision {compiled.Revision.Number}{(name.Length > 0 ? $", {name}" : "")}: {request.Text.Trim()}"), cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }

    private static async Task<IResult> Answer(long id, string remarkId, RemarkAnswerRequest request, HttpContext context, RemarkStore remarks,
        NpgsqlDataSource data, CancellationToken cancel)
    {
        if (Fault(request.Id, request.Text) is { } fault)
            return fault;
        if (await remarks.One(remarkId, cancel) is not { } remark || remark.RevisionId != id)
            return Problems.Gone("remark");
        await using var work = await UnitOfWork.Begin(data, cancel);
        await remarks.Answer(work, remark, request.Id, request.Text.Trim(), context.User.Identity!.Name!, cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }

    private static async Task<IResult> Close(long id, string remarkId, RemarkCloseRequest request, HttpContext context, CompiledModels models,
        RemarkStore remarks, AuditStore audit, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (await remarks.One(remarkId, cancel) is not { } remark || remark.RevisionId != id)
            return Problems.Gone("remark");
        await using var work = await UnitOfWork.Begin(data, cancel);
        var person = context.User.Identity!.Name!;
        if (request.Close ? await remarks.Close(work, remark, person, cancel) : await remarks.Reopen(work, remark, cancel))
            await audit.Add(work, context.Happened(AuditKind.RemarkClosed, compiled.Revision.Document.Code,
                $"revision {compiled.Revision.Number}, {(request.Close ? "closed" : "opened again")}: {remark.Text}"), cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }

    private static IResult? Fault(string id, string text) => !Guid.TryParse(id, out _) ? Problems.Wrong("/id", "The id of what is new is a UUID.")
        : ReviewEndpoints.Fault(text, "/text", isNeeded: true);
}
