using System.Security.Claims;
using Juniperfall.Server.Answers;
using Juniperfall.Storage;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using System.Xml.Linq;

namespace Juniperfall.Server.People;

public sealed record Credentials(string Name, string Password);

/// <summary>Who is signed in.</summary>
public sealed record Me(string Name, string Display, string Role, IReadOnlyList<Right> Rights);

public sealed record PersonView(string Name, string Display, string Role);

/// <summary>Signing in and out, with hashed passwords and a cookie; attempts are limited per name and per address.</summary>
public static class SignIn
{
    /// <summary>The cookie that says who is signed in.</summary>
    public const string CookieName = "juniperfall";

    /// <summary>After so many failed attempts on a name from one address, each further one has to wait twice as long as the one before.</summary>
    public const int FreeAttempts = 5;

    /// <summary>After so many failed attempts on a name, or from an address, each further one is looked at more slowly: nobody is barred by what others do.</summary>
    public const int AttemptsAtFullSpeed = 30;

    private static readonly TimeSpan Window = TimeSpan.FromMinutes(15), LongestWait = TimeSpan.FromMinutes(5), SlowestLook = TimeSpan.FromSeconds(4);

    /// <summary>How long someone is signed in at most, and how long without doing anything.</summary>
    public static readonly TimeSpan LongestSession = TimeSpan.FromDays(30), LongestIdle = TimeSpan.FromDays(7);

    /// <summary>A longer password is not looked at; hashing it would take time.</summary>
    private const int LongestPassword = 1_000;

    // Those who are slowed down wait in the open; they are never more than this.
    private static readonly SemaphoreSlim Slowed = new(100);
    private static readonly PasswordHasher<Person> Hasher = new();
    // Checked where there is no such name, so that the time taken does not tell.
    private static readonly Person Nobody = new("", "", "", Hasher.HashPassword(null!, "nobody"));

    public static void MapSignIn(this IEndpointRouteBuilder api)
    {
        api.MapPost("/session", Enter).AllowAnonymous().TakesUpTo(RequestSizes.SignIn).WithName("signIn").WithSummary("Signs in: sets the cookie that all else asks for").Produces<Me>().ProducesProblem(401);
        api.MapGet("/session", (ClaimsPrincipal user) => MeOf(user)).Needs(Right.Read).WithName("me").WithSummary("Who is signed in, and what that role may do");
        api.MapDelete("/session", Leave).Needs(Right.Read).WithName("signOut").WithSummary("Signs out");
        api.MapGet("/people", async (PersonStore people, CancellationToken cancel) =>
            (await people.All(cancel)).Select(p => new PersonView(p.Name, p.Display, p.Role)).ToList()).Needs(Right.Administer).WithName("people").WithSummary("The people who can sign in");
    }

    private static async Task<IResult> Enter(Credentials credentials, HttpContext context, PersonStore people, SessionStore sessions, SignInAttempts attempts, CancellationToken cancel)
    {
        var address = context.Connection.RemoteIpAddress?.ToString() ?? "";
        var earlier = await attempts.Begin(credentials.Name, address, Window, cancel);
        if (WaitAfter(earlier) is { } wait)
        {
            await attempts.TakeBack(earlier, cancel);
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
        if (credentials.Password.Length > LongestPassword || Hasher.VerifyHashedPassword(person ?? Nobody, (person ?? Nobody).Password, credentials.Password) == PasswordVerificationResult.Failed
            || person is null || await sessions.Begin(person.Name, LongestSession, cancel) is not { } session)
            return Problems.Of(StatusCodes.Status401Unauthorized, "The name or the password is not right.", "/password");
        await attempts.Forget(credentials.Name, address, cancel);
        var user = PrincipalOf(person, session);
        await context.SignInAsync(user, new AuthenticationProperties { IsPersistent = true });
        return TypedResults.Ok(MeOf(user));
    }

    /// <summary>How long the next attempt of a name from an address still has to wait; null where it need not.</summary>
    private static TimeSpan? WaitAfter(EarlierAttempts earlier)
    {
        if (earlier.OfPair < FreeAttempts || earlier.SinceLast is not { } since)
            return null;
        var wait = TimeSpan.FromSeconds(Math.Min(LongestWait.TotalSeconds, Math.Pow(2, Math.Min(20, earlier.OfPair - FreeAttempts + 2)))) - since;
        return wait > TimeSpan.Zero ? wait : null;
    }

    private static IResult TooMany(HttpContext context, TimeSpan wait)
    {
        var seconds = (int)Math.Ceiling(wait.TotalSeconds);
        context.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
        return Problems.Of(StatusCodes.Status429TooManyRequests, $"Too many failed attempts. Try again in {(seconds == 1 ? "a second" : seconds <= 60 ? $"{seconds} seconds" : $"{(seconds + 59) / 60} minutes")}.");
    }

    private static async Task<Microsoft.AspNetCore.Http.HttpResults.NoContent> Leave(HttpContext context, SessionStore sessions, CancellationToken cancel)
    {
        if (SessionOf(context.User) is { } session)
            await sessions.End(session, cancel);
        await context.SignOutAsync();
        return TypedResults.NoContent();
    }

    private const string SessionClaim = "session";

    private static Guid? SessionOf(ClaimsPrincipal user) => Guid.TryParse(user.FindFirstValue(SessionClaim), out var id) ? id : null;

    private static ClaimsPrincipal PrincipalOf(Person person, Guid session) => new(new ClaimsIdentity(
        [new(SessionClaim, session.ToString()), new(ClaimTypes.Name, person.Name), new(ClaimTypes.GivenName, person.Display), new(ClaimTypes.Role, person.Role)], CookieAuthenticationDefaults.AuthenticationScheme));

    private static Me MeOf(ClaimsPrincipal user)
    {
        var role = user.FindFirstValue(ClaimTypes.Role)!;
        return new(user.Identity!.Name!, user.FindFirstValue(ClaimTypes.GivenName)!, role, Rights.OfRole[role]);
    }

    public static string Hash(string password) => Hasher.HashPassword(null!, password);

    public static void AddSignIn(this IServiceCollection services)
    {
        services.AddDataProtection().SetApplicationName("juniperfall");
        services.AddSingleton<IConfigureOptions<KeyManagementOptions>>(s => new ConfigureOptions<KeyManagementOptions>(o => o.XmlRepository = new KeysInDatabase(s.GetRequiredService<PersonStore>())));
        services.AddAuthorization(Rights.AddPolicies);
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(o =>
        {
            o.Cookie.Name = CookieName;
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Strict;
            o.ExpireTimeSpan = LongestIdle;
            o.SlidingExpiration = true;
            o.Events.OnRedirectToLogin = c => Problems.Write(c.HttpContext, StatusCodes.Status401Unauthorized, "Sign in to go on.");
            o.Events.OnRedirectToAccessDenied = c => Problems.Write(c.HttpContext, StatusCodes.Status403Forbidden, "Your role does not include this.");
            // A session that was ended, by signing out, a new password or role, or time, lets nobody in on its cookie.
            o.Events.OnValidatePrincipal = async c =>
            {
                var sessions = c.HttpContext.RequestServices.GetRequiredService<SessionStore>();
                if (SessionOf(c.Principal!) is not { } id || await sessions.Find(id, LongestSession, c.HttpContext.RequestAborted) is null)
                    c.RejectPrincipal();
            };
        });
    }

    private sealed class KeysInDatabase(PersonStore people) : IXmlRepository
    {
        public IReadOnlyCollection<XElement> GetAllElements() => people.ProtectionKeys();
        public void StoreElement(XElement element, string friendlyName) => people.AddProtectionKey(element, friendlyName);
    }
}
