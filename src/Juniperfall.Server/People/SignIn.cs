using System.Security.Claims;
using Juniperfall.Server.Answers;
using Juniperfall.Storage;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;

namespace Juniperfall.Server.People;

public sealed record Credentials(string Name, string Password);

/// <summary>Who is signed in.</summary>
public sealed record Me(string Name, string Display, string Role, IReadOnlyList<Right> Rights);

/// <summary>Signing in and out, with hashed passwords and a cookie; attempts are slowed down per name and per address.</summary>
public static class SignIn
{
    /// <summary>The cookie that says who is signed in.</summary>
    public const string CookieName = "juniperfall";

    /// <summary>After so many failed attempts on a name from one address, each further one has to wait twice as long as the one before.</summary>
    public const int FreeAttempts = 5;

    /// <summary>After so many failed attempts on a name, or from an address, each further one is looked at more slowly: nobody is barred by what others
    /// do.</summary>
    public const int AttemptsAtFullSpeed = 30;

    /// <summary>Over how long attempts are counted.</summary>
    public static readonly TimeSpan Window = TimeSpan.FromMinutes(15);

    private static readonly TimeSpan LongestWait = TimeSpan.FromMinutes(5), SlowestLook = TimeSpan.FromSeconds(4);

    /// <summary>How long someone is signed in at most, and how long without doing anything.</summary>
    public static readonly TimeSpan LongestSession = TimeSpan.FromDays(30), LongestIdle = TimeSpan.FromDays(7);

    // Those who are slowed down wait in the open; they are never more than this.
    private static readonly SemaphoreSlim Slowed = new(100);

    public static void MapSignIn(this IEndpointRouteBuilder api)
    {
        api.MapPost("/session", Enter).AllowAnonymous().TakesUpTo(RequestSizes.SignIn).WithName("signIn")
            .WithSummary("Signs in: sets the cookie that all else asks for").Produces<Me>().ProducesProblem(401);
        api.MapGet("/session", (ClaimsPrincipal user) => MeOf(user)).Needs(Right.Read).WithName("me")
            .WithSummary("Who is signed in, and what that role may do");
        api.MapDelete("/session", Leave).Needs(Right.Read).WithName("signOut").WithSummary("Signs out");
    }

    private static async Task<IResult> Enter(Credentials credentials, HttpContext context, PersonStore people, SessionStore sessions, SignInAttempts attempts,
        AuditStore audit, CancellationToken cancel)
    {
        var address = context.AddressOf();
        var earlier = await attempts.Begin(credentials.Name, address, Window, cancel);
        if (WaitAfter(earlier) is { } wait)
        {
            await attempts.TakeBack(earlier, cancel);
            await audit.AddOnceAMinute(context.Happened(AuditKind.SignInBarred, await Known(credentials.Name, people, cancel), "", ""), cancel);
            return TooMany(context, wait);
        }
        if (Math.Max(earlier.OfName, earlier.OfAddress) - AttemptsAtFullSpeed is > 0 and var beyond)
        {
            if (!await Slowed.WaitAsync(0, cancel))
            {
                await attempts.TakeBack(earlier, cancel);
                return TooMany(context, SlowestLook);
            }
            try
            {
                await Task.Delay(TimeSpan.FromSeconds(Math.Min(SlowestLook.TotalSeconds, 0.1 * beyond)), cancel);
            }
            finally
            {
                Slowed.Release();
            }
        }
        var person = await people.Find(credentials.Name, cancel);
        if (!Passwords.IsOf(person, credentials.Password) || await Open(person!, context, sessions, cancel) is not { } me)
        {
            var failed = context.Happened(AuditKind.SignInFailed, person?.Name ?? "", "", "");
            await (person is null ? audit.AddOnceAMinute(failed, cancel) : audit.Add(failed, cancel));
            return Problems.Of(StatusCodes.Status401Unauthorized, "The name or the password is not right.", "/password");
        }
        await attempts.Forget(credentials.Name, address, cancel);
        await audit.Add(context.Happened(AuditKind.SignedIn, me.Name, "", ""), cancel);
        return TypedResults.Ok(me);
    }

    /// <summary>A name that nobody has is not kept: it may be a password, typed in the wrong field.</summary>
    private static async Task<string> Known(string name, PersonStore people, CancellationToken cancel) => (await people.Find(name, cancel))?.Name ?? "";

    /// <summary>Begins a session and sets its cookie. Null where the person is gone meanwhile.</summary>
    internal static async Task<Me?> Open(Person person, HttpContext context, SessionStore sessions, CancellationToken cancel)
    {
        if (await sessions.Begin(person.Name, LongestSession, cancel) is not { } session)
            return null;
        var user = PrincipalOf(person, session);
        await context.SignInAsync(user, new AuthenticationProperties { IsPersistent = true });
        return MeOf(user);
    }

    /// <summary>How long the next attempt of a name from an address still has to wait; null where it need not.</summary>
    internal static TimeSpan? WaitAfter(EarlierAttempts earlier)
    {
        if (earlier.OfPair < FreeAttempts || earlier.SinceLast is not { } since)
            return null;
        var wait = TimeSpan.FromSeconds(Math.Min(LongestWait.TotalSeconds, Math.Pow(2, Math.Min(20, earlier.OfPair - FreeAttempts + 2)))) - since;
        return wait > TimeSpan.Zero ? wait : null;
    }

    internal static IResult TooMany(HttpContext context, TimeSpan wait)
    {
        var seconds = (int)Math.Ceiling(wait.TotalSeconds);
        context.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
        return Problems.Of(StatusCodes.Status429TooManyRequests,
            $"Too many failed attempts. Try again in {(seconds == 1 ? "a second" : seconds <= 60 ? $"{seconds} seconds" : $"{(seconds + 59) / 60} minutes")}.");
    }

    private static async Task<Microsoft.AspNetCore.Http.HttpResults.NoContent> Leave(HttpContext context, SessionStore sessions, AuditStore audit,
        CancellationToken cancel)
    {
        if (SessionOf(context.User) is { } session)
            await sessions.End(session, cancel);
        await audit.Add(context.Happened(AuditKind.SignedOut, ""), cancel);
        await context.SignOutAsync();
        return TypedResults.NoContent();
    }

    private const string SessionClaim = "session";

    private static Guid? SessionOf(ClaimsPrincipal user) => Guid.TryParse(user.FindFirstValue(SessionClaim), out var id) ? id : null;

    private static ClaimsPrincipal PrincipalOf(Person person, Guid session) => new(new ClaimsIdentity(
        [new(SessionClaim, session.ToString()), new(ClaimTypes.Name, person.Name), new(ClaimTypes.GivenName, person.Display),
            new(ClaimTypes.Role, person.Role)], CookieAuthenticationDefaults.AuthenticationScheme));

    private static Me MeOf(ClaimsPrincipal user)
    {
        var role = user.FindFirstValue(ClaimTypes.Role)!;
        return new(user.Identity!.Name!, user.FindFirstValue(ClaimTypes.GivenName)!, role, Rights.OfRole[role]);
    }

    public static void AddSignIn(this IServiceCollection services)
    {
        services.AddAuthorization(Rights.AddPolicies);
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(o =>
        {
            o.Cookie.Name = CookieName;
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Strict;
            o.ExpireTimeSpan = LongestIdle;
            o.SlidingExpiration = true;
            o.Events.OnRedirectToLogin = c => Problems.Write(c.HttpContext, StatusCodes.Status401Unauthorized, "Sign in to go on.");
            o.Events.OnRedirectToAccessDenied = async c =>
            {
                var happened = c.HttpContext.Happened(AuditKind.Forbidden, "",
                    $"{c.Request.Method} {c.Request.Path}"[..Math.Min(200, c.Request.Method.Length + 1 + c.Request.Path.Value!.Length)]);
                await c.HttpContext.RequestServices.GetRequiredService<AuditStore>().AddOnceAMinute(happened, c.HttpContext.RequestAborted);
                await Problems.Write(c.HttpContext, StatusCodes.Status403Forbidden, "Your role does not include this.");
            };
            // A session that was ended, by signing out, a new password or role, or time, lets nobody in on its cookie.
            o.Events.OnValidatePrincipal = async c =>
            {
                var sessions = c.HttpContext.RequestServices.GetRequiredService<SessionStore>();
                if (SessionOf(c.Principal!) is not { } id || await sessions.Find(id, LongestSession, c.HttpContext.RequestAborted) is null)
                    c.RejectPrincipal();
            };
        });
    }
}
