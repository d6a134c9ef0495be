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

    public const int MostAttemptsOfName = 8, MostAttemptsOfAddress = 60;
    private static readonly TimeSpan Window = TimeSpan.FromMinutes(15);
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

    private static async Task<IResult> Enter(Credentials credentials, HttpContext context, PersonStore people, CancellationToken cancel)
    {
        var address = context.Connection.RemoteIpAddress?.ToString() ?? "";
        var (byName, byAddress) = await people.FailedAttempts(credentials.Name, address, Window, cancel);
        if (byName >= MostAttemptsOfName || byAddress >= MostAttemptsOfAddress)
        {
            context.Response.Headers.RetryAfter = ((int)Window.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture);
            return Problems.Of(StatusCodes.Status429TooManyRequests, "Too many failed attempts. Try again in a quarter of an hour.");
        }
        var person = await people.Find(credentials.Name, cancel);
        if (Hasher.VerifyHashedPassword(person ?? Nobody, (person ?? Nobody).Password, credentials.Password) == PasswordVerificationResult.Failed || person is null)
        {
            await people.AddFailedAttempt(credentials.Name, address, cancel);
            return Problems.Of(StatusCodes.Status401Unauthorized, "The name or the password is not right.", "/password");
        }
        await people.ForgetAttempts(credentials.Name, cancel);
        var user = PrincipalOf(person);
        await context.SignInAsync(user, new AuthenticationProperties { IsPersistent = true });
        return TypedResults.Ok(MeOf(user));
    }

    private static async Task<Microsoft.AspNetCore.Http.HttpResults.NoContent> Leave(HttpContext context, CancellationToken cancel)
    {
        await context.SignOutAsync();
        return TypedResults.NoContent();
    }

    private static ClaimsPrincipal PrincipalOf(Person person) => new(new ClaimsIdentity(
        [new(ClaimTypes.Name, person.Name), new(ClaimTypes.GivenName, person.Display), new(ClaimTypes.Role, person.Role)], CookieAuthenticationDefaults.AuthenticationScheme));

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
            o.ExpireTimeSpan = TimeSpan.FromDays(7);
            o.SlidingExpiration = true;
            o.Events.OnRedirectToLogin = c => Problems.Write(c.HttpContext, StatusCodes.Status401Unauthorized, "Sign in to go on.");
            o.Events.OnRedirectToAccessDenied = c => Problems.Write(c.HttpContext, StatusCodes.Status403Forbidden, "Your role does not include this.");
            // Someone who has left, or whose role has changed, is not let in on an old cookie.
            o.Events.OnValidatePrincipal = async c =>
            {
                var people = c.HttpContext.RequestServices.GetRequiredService<PersonStore>();
                var person = await people.Find(c.Principal!.Identity!.Name!, c.HttpContext.RequestAborted);
                if (person is null)
                    c.RejectPrincipal();
                else if (person.Role != c.Principal.FindFirstValue(ClaimTypes.Role))
                    c.ReplacePrincipal(PrincipalOf(person));
            };
        });
    }

    private sealed class KeysInDatabase(PersonStore people) : IXmlRepository
    {
        public IReadOnlyCollection<XElement> GetAllElements() => people.ProtectionKeys();
        public void StoreElement(XElement element, string friendlyName) => people.AddProtectionKey(element, friendlyName);
    }
}
