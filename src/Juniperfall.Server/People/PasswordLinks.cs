using System.Security.Claims;
using Juniperfall.Server.Answers;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.People;

/// <summary>A link through which somebody chooses a password, once.</summary>
public sealed record PasswordLink(string Name, string Display);

/// <param name="Token">The last part of the link's address.</param>
public sealed record AskedLink(string Token);

/// <param name="Token">The last part of the link's address.</param>
public sealed record ChosenPassword(string Token, string Password);

public sealed record ChangedPassword(string Present, string Password);

/// <summary>How passwords are chosen and changed. A new one ends all that is open of the person.</summary>
public static class PasswordLinks
{
    public static void MapPasswords(this IEndpointRouteBuilder api)
    {
        var password = api.MapGroup("/password").TakesUpTo(RequestSizes.SignIn).ProducesProblem(422);
        password.MapPost("/link", Look).AllowAnonymous().WithName("passwordLink").WithSummary("Whose link it is, through which a password can be chosen")
            .Produces<PasswordLink>().ProducesProblem(410);
        password.MapPost("", Choose).AllowAnonymous().WithName("choosePassword").WithSummary("Chooses a password through a link, once").Produces(204)
            .ProducesProblem(410);
        password.MapPut("", Change).Needs(Right.Read).WithName("changePassword")
            .WithSummary("Changes the password of whoever is signed in; what else is open of them ends").Produces<Me>();
    }

    private static async Task<IResult> Look(AskedLink asked, PersonStore people, CancellationToken cancel) =>
        await people.OfLink(PasswordToken.HashOf(asked.Token), cancel) is { } person ? TypedResults.Ok(new PasswordLink(person.Name, person.Display)) : Over();

    private static IResult Over() =>
        Problems.Of(StatusCodes.Status410Gone,
        "This link has been used, or is older than a day, or a newer one was sent. Ask an administrator for another one.");

    private static async Task<IResult> Choose(ChosenPassword chosen, HttpContext context, PersonStore people, AuditStore audit, NpgsqlDataSource data,
        CancellationToken cancel)
    {
        var hash = PasswordToken.HashOf(chosen.Token);
        if (await people.OfLink(hash, cancel) is not { } person)
            return Over();
        if (Passwords.Objection(chosen.Password, person) is { } objection)
            return Problems.Wrong("/password", objection);
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (await people.TakeLink(work, hash, cancel) is not { } name)
            return Over();
        await people.SetPassword(work, name, Passwords.Hash(chosen.Password), cancel);
        await audit.Add(work, context.Happened(AuditKind.PasswordSet, name, name, ""), cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }

    private static async Task<IResult> Change(ChangedPassword changed, HttpContext context, ClaimsPrincipal user, PersonStore people, SessionStore sessions,
        SignInAttempts attempts, AuditStore audit, NpgsqlDataSource data, CancellationToken cancel)
    {
        // A page left open is no place to try passwords.
        var address = context.AddressOf();
        var earlier = await attempts.Begin(user.Identity!.Name!, address, SignIn.Window, cancel);
        if (SignIn.WaitAfter(earlier) is { } wait)
        {
            await attempts.TakeBack(earlier, cancel);
            return SignIn.TooMany(context, wait);
        }
        if (await people.Find(user.Identity!.Name!, cancel) is not { } person || !Passwords.IsOf(person, changed.Present))
            return Problems.Wrong("/present", "This is not your present password.");
        await attempts.Forget(person.Name, address, cancel);
        if (Passwords.Objection(changed.Password, person) is { } objection)
            return Problems.Wrong("/password", objection);
        await using (var work = await UnitOfWork.Begin(data, cancel))
        {
            await people.SetPassword(work, person.Name, Passwords.Hash(changed.Password), cancel);
            await audit.Add(work, context.Happened(AuditKind.PasswordChanged, person.Name), cancel);
            await work.Commit(cancel);
        }
        // This page goes on with a session of its own.
        return await SignIn.Open(person, context, sessions, cancel) is { } me
            ? TypedResults.Ok(me) : Problems.Of(StatusCodes.Status401Unauthorized, "Sign in to go on.");
    }
}
