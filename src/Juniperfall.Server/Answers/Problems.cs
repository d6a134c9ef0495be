using System.Text.Json;
using System.Text.RegularExpressions;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Solving;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Npgsql;

namespace Juniperfall.Server.Answers;

/// <summary>
/// The one form of every error (RFC 9457): a sentence in <c>detail</c>, and in <c>pointer</c> the member of the request
/// that is at fault (RFC 6901).
/// </summary>
public static class Problems
{
    public static ProblemHttpResult Of(int status, string sentence, string? pointer = null, IDictionary<string, object?>? more = null)
    {
        var extensions = more is null ? [] : new Dictionary<string, object?>(more);
        if (pointer is not null)
            extensions["pointer"] = pointer;
        return TypedResults.Problem(sentence, statusCode: status, title: TitleOf(status), extensions: extensions);
    }

    public static ProblemHttpResult Wrong(string pointer, string sentence) => Of(StatusCodes.Status422UnprocessableEntity, sentence, pointer);
    public static ProblemHttpResult Gone(string what) => Of(StatusCodes.Status404NotFound, $"There is no such {what}.");
    public static ProblemHttpResult Conflict(string sentence) => Of(StatusCodes.Status409Conflict, sentence);

    /// <summary>An edit that was not applied: where, why, and what stands there now.</summary>
    public static ProblemHttpResult Refused(EditRefusal refusal, Func<string, string> nameOf) =>
        Of(refusal.Fault == EditFault.Malformed ? StatusCodes.Status422UnprocessableEntity : StatusCodes.Status409Conflict, refusal.Message, null,
            new Dictionary<string, object?>
            {
                ["fault"] = JsonNamingPolicy.CamelCase.ConvertName(refusal.Fault.ToString()),
                ["rowId"] = refusal.RowId,
                ["field"] = refusal.Field,
                ["current"] = refusal.Current,
                ["places"] = refusal.Places.Select(p => new { rowId = p.RowId, field = p.Field, name = nameOf(p.RowId) }).ToList(),
            });

    private static string TitleOf(int status) => status switch
    {
        StatusCodes.Status400BadRequest => "The request cannot be read",
        StatusCodes.Status401Unauthorized => "Sign in first",
        StatusCodes.Status403Forbidden => "Not for this role",
        StatusCodes.Status404NotFound => "Not found",
        StatusCodes.Status405MethodNotAllowed => "Not possible here",
        StatusCodes.Status413PayloadTooLarge => "Too large",
        StatusCodes.Status415UnsupportedMediaType => "Not a kind of content that is taken",
        StatusCodes.Status409Conflict => "Not possible as things stand",
        StatusCodes.Status422UnprocessableEntity => "Something in it is wrong",
        StatusCodes.Status429TooManyRequests => "Too many attempts",
        StatusCodes.Status503ServiceUnavailable => "Not reachable just now",
        _ => "Something went wrong",
    };

    public static async Task Write(HttpContext context, int status, string sentence)
    {
        context.Response.StatusCode = status;
        await context.Response.WriteAsJsonAsync(new ProblemDetails { Status = status, Title = TitleOf(status), Detail = sentence },
            (JsonSerializerOptions?)null, "application/problem+json");
    }
}

/// <summary>Says in words what a response of an error without a body leaves unsaid.</summary>
internal static class EmptyErrors
{
    public static void UseWordsForEmptyErrors(this IApplicationBuilder app) => app.UseStatusCodePages(page =>
    {
        var context = page.HttpContext;
        return !context.Request.Path.StartsWithSegments("/api")
            ? Task.CompletedTask : Problems.Write(context, context.Response.StatusCode, context.Response.StatusCode switch
            {
                StatusCodes.Status404NotFound => "There is no such address.",
                StatusCodes.Status405MethodNotAllowed => $"{context.Request.Method} is not possible at this address.",
                StatusCodes.Status413PayloadTooLarge => "The request is too large.",
                StatusCodes.Status415UnsupportedMediaType =>
                    "The content of the request is not of a kind that is taken here; it is JSON where nothing else is said.",
                _ => "The request is not complete or not readable.",
            });
    });
}

/// <summary>Turns what no handler foresaw into the one form of errors. What is wrong with the program is logged, not shown.</summary>
public sealed class Unforeseen(ILogger<Unforeseen> log) : IExceptionHandler
{
    public async ValueTask<bool> TryHandleAsync(HttpContext context, Exception exception, CancellationToken cancel)
    {
        if (context.RequestAborted.IsCancellationRequested || context.Response.HasStarted)
            return true;
        switch (exception)
        {
            case BadHttpRequestException bad:
                await WriteAt(context, bad.StatusCode, bad.InnerException is JsonException json
                    ? (json.Path is { Length: > 1 } path ? $"What stands at {path[2..]} is not what is expected there."
                        : "The body of the request is not what is expected.")
                    : bad.StatusCode == StatusCodes.Status413PayloadTooLarge ? "The request is too large." : "The request is not complete or not readable.",
                    (bad.InnerException as JsonException)?.Path);
                return true;
            // A step of an edit or a row that does not say its kind.
            case NotSupportedException { Message: var message } when KindMissing.Match(message) is { Success: true } place:
                await WriteAt(context, StatusCodes.Status400BadRequest, "What stands here does not say what kind it is.", place.Groups["path"].Value);
                return true;
            // The serializer's own way of refusing a free object with a member twice.
            case ArgumentException twice when twice.StackTrace?.Contains("System.Text.Json", StringComparison.Ordinal) == true:
                await Problems.Write(context, StatusCodes.Status400BadRequest, "A member stands twice in the same object of the request.");
                return true;
            case PostgresException { SqlState: PostgresErrorCodes.CharacterNotInRepertoire or PostgresErrorCodes.UntranslatableCharacter or "22P05" }:
                await Problems.Write(context, StatusCodes.Status422UnprocessableEntity,
                    "A text of the request holds a character that cannot be kept. Nothing was changed.");
                return true;
            case PostgresException { SqlState: PostgresErrorCodes.ProgramLimitExceeded or PostgresErrorCodes.StringDataRightTruncation }:
                await Problems.Write(context, StatusCodes.Status422UnprocessableEntity, "A text of the request is too long. Nothing was changed.");
                return true;
            case PostgresException { SqlState: PostgresErrorCodes.DiskFull or PostgresErrorCodes.IoError or PostgresErrorCodes.OutOfMemory } full:
                log.LogError(full, "The database has no room left");
                context.Response.Headers.RetryAfter = "30";
                await Problems.Write(context, StatusCodes.Status503ServiceUnavailable,
                    "The database has no room left. Nothing was changed; an administrator has to make room.");
                return true;
            case TooMuchWaiting full:
                context.Response.Headers.RetryAfter = "5";
                await Problems.Write(context, full.OfOnePerson ? StatusCodes.Status429TooManyRequests : StatusCodes.Status503ServiceUnavailable,
                    full.OfOnePerson
                    ? "Very many questions of yours are waiting already. Let some of them be answered first."
                        : "Very many questions are waiting just now. Try again in a moment.");
                return true;
            case Superseded:
                await Problems.Write(context, StatusCodes.Status409Conflict, "A newer question of the same page has taken the place of this one.");
                return true;
            case OperationCanceledException:
                await Problems.Write(context, StatusCodes.Status503ServiceUnavailable, "Time ran out before this could be worked out.");
                return true;
            case NpgsqlException or TimeoutException or System.Net.Sockets.SocketException when exception is not PostgresException { IsTransient: false }:
                log.LogWarning(exception, "The database cannot be reached");
                context.Response.Headers.RetryAfter = "1";
                await Problems.Write(context, StatusCodes.Status503ServiceUnavailable,
                    "The database cannot be reached just now. Nothing was changed; it is tried again.");
                return true;
            default:
                log.LogError(exception, "Unforeseen");
                // The same id stands in the log beside what went wrong.
                context.Response.Headers["X-Request-Id"] = context.TraceIdentifier;
                await Problems.Write(context, StatusCodes.Status500InternalServerError,
                    $"The program met a fault of its own. Nothing was changed. An administrator finds it in the log as {context.TraceIdentifier}.");
                return true;
        }
    }

    // The serializer tells of what has no kind in words only.
    private static readonly Regex KindMissing =
        new(@"must specify a type discriminator.*Path: (?<path>\S+) ", RegexOptions.CultureInvariant | RegexOptions.Singleline);

    private static Task WriteAt(HttpContext context, int status, string sentence, string? jsonPath)
    {
        var pointer = jsonPath is null or "$"
            ? "" : "/" + jsonPath.TrimStart('$', '.').Replace(".", "/", StringComparison.Ordinal).Replace("[", "/", StringComparison.Ordinal)
            .Replace("]", "", StringComparison.Ordinal);
        return Problems.Of(status, sentence, pointer).ExecuteAsync(context);
    }
}
