using System.Net.Mail;
using System.Text.RegularExpressions;
using Juniperfall.Server.Answers;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.People;

/// <summary>A person as an administrator sees them.</summary>
public sealed record PersonView(string Name, string Display, string Role, string Mail, bool Active, bool HasPassword, DateTime? SignedInAt);

/// <summary>A role and what it may do.</summary>
public sealed record RoleView(string Role, IReadOnlyList<Right> Rights);

/// <summary>Everyone, and the roles that there are.</summary>
public sealed record PeopleView(IReadOnlyList<PersonView> People, IReadOnlyList<RoleView> Roles);

public sealed record NewPerson(string Name, string Display, string Role, string Mail);

/// <summary>What becomes of a person; what is left out stays.</summary>
public sealed record ChangedPerson(string? Display = null, string? Role = null, string? Mail = null, bool? Active = null);

/// <summary>A link for a new password was sent.</summary>
public sealed record LinkSent(string Mail, DateTime ExpiresAt);

/// <summary>People and their roles, managed by administrators.</summary>
public static partial class PeopleEndpoints
{
    public static void MapPeople(this IEndpointRouteBuilder api)
    {
        var people = api.MapGroup("/people").TakesUpTo(RequestSizes.SignIn).ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        people.MapGet("", List).Needs(Right.Administer).WithName("people").WithSummary("Everyone who can, or could, sign in").Produces<PeopleView>();
        people.MapPost("", Add).Needs(Right.Administer).WithName("addPerson").WithSummary("Adds a person and sends them a link to choose a password")
            .Produces<LinkSent>();
        people.MapPatch("/{name}", Change).Needs(Right.Administer).WithName("changePerson")
            .WithSummary("Changes a person’s name, role, address, or whether they may sign in").Produces<PersonView>();
        people.MapPost("/{name}/link", Send).Needs(Right.Administer).WithName("sendPasswordLink").WithSummary("Sends a person a link to choose a new password")
            .Produces<LinkSent>();
    }

    private static async Task<IResult> List(PersonStore people, CancellationToken cancel) =>
        TypedResults.Ok(new PeopleView([.. (await people.All(cancel)).Select(View)], [.. Rights.OfRole.Select(r => new RoleView(r.Key, r.Value))]));

    private static PersonView View(PersonEntry p) => new(p.Name, p.Display, p.Role, p.Mail, p.Active, p.HasPassword, p.SignedInAt);

    [GeneratedRegex("^[a-z0-9][a-z0-9._-]{0,59}$", RegexOptions.CultureInvariant)]
    private static partial Regex SignInName();

    /// <summary>What is wrong with a person, at its place.</summary>
    private static IResult? Objection(string display, string role, string mail)
    {
        if (display.Trim().Length is 0 or > 100 || display.Any(char.IsControl))
            return Problems.Wrong("/display", "A person needs a name of 1 to 100 characters.");
        if (!Rights.OfRole.ContainsKey(role))
            return Problems.Wrong("/role", $"There is no role “{role}”; there are {string.Join(", ", Rights.OfRole.Keys)}.");
        return mail.Length <= 200 && MailAddress.TryCreate(mail, out var address)
            && address.Address == mail ? null : Problems.Wrong("/mail", "A mail address looks like name@example.com.");
    }

    private static async Task<IResult> Add(NewPerson request, HttpContext context, PersonStore people, AuditStore audit, Mail mail, NpgsqlDataSource data,
        CancellationToken cancel)
    {
        var name = request.Name.Trim().ToLowerInvariant();
        if (!SignInName().IsMatch(name))
            return Problems.Wrong("/name",
                "A sign-in name has 1 to 60 letters without accents, digits, dots, dashes and underscores, and begins with a letter or digit.");
        if (Objection(request.Display, request.Role, request.Mail.Trim()) is { } wrong)
            return wrong;
        if (!mail.IsPossible)
            return NoMail();
        var person = new Person(name, request.Display.Trim(), request.Role, "") { Mail = request.Mail.Trim() };
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await people.Add(work, person, false, cancel))
            return Problems.Of(StatusCodes.Status409Conflict,
                $"There is somebody with the sign-in name “{name}” already, perhaps one who may no longer sign in.", "/name");
        await audit.Add(work, context.Happened(AuditKind.PersonAdded, name, person.Role), cancel);
        return TypedResults.Ok(await SendLink(person, work, context, people, audit, mail, cancel));
    }

    private static IResult NoMail() =>
        Problems.Of(StatusCodes.Status503ServiceUnavailable,
        "This server sends no mail: the setting Mail, a folder for letters, is missing. Nothing was changed.");

    private static async Task<IResult> Change(string name, ChangedPerson request, HttpContext context, PersonStore people, AuditStore audit,
        NpgsqlDataSource data, CancellationToken cancel)
    {
        await using var work = await UnitOfWork.Begin(data, cancel);
        await people.Lock(work, cancel);
        if (await people.Entry(work, name, cancel) is not { } before)
            return Problems.Gone("person");
        var after = before with
        {
            Display = request.Display?.Trim() ?? before.Display,
            Role = request.Role ?? before.Role,
            Mail = request.Mail?.Trim() ?? before.Mail,
            Active = request.Active ?? before.Active
        };
        // Somebody of old may have no address; that is asked for when it is changed.
        if (Objection(after.Display, after.Role, after.Mail.Length == 0 && request.Mail is null ? "none@example.com" : after.Mail) is { } wrong)
            return wrong;
        var isLessThanBefore = before is { Active: true, Role: Rights.Administrator } && (!after.Active || after.Role != Rights.Administrator);
        if (isLessThanBefore && name == context.User.Identity!.Name)
            return Problems.Conflict("You cannot take your own rights away; another administrator can.");
        if (isLessThanBefore && !await people.HasOtherAdministrator(work, name, cancel))
            return Problems.Conflict("Somebody has to be administrator; this is the last one.");
        await people.Change(work, after, cancel);
        foreach (var happened in Changes(before, after))
            await audit.Add(work, context.Happened(happened.Kind, name, happened.Detail), cancel);
        await work.Commit(cancel);
        return TypedResults.Ok(View(after));
    }

    private static IEnumerable<(AuditKind Kind, string Detail)> Changes(PersonEntry before, PersonEntry after)
    {
        if (before.Role != after.Role)
            yield return (AuditKind.RoleChanged, $"{before.Role} → {after.Role}");
        if (before.Active != after.Active)
            yield return (after.Active ? AuditKind.PersonActivated : AuditKind.PersonDeactivated, "");
        if (before.Mail != after.Mail || before.Display != after.Display)
            yield return (AuditKind.PersonChanged, $"{after.Display}, {after.Mail}");
    }

    private static async Task<IResult> Send(string name, HttpContext context, PersonStore people, AuditStore audit, Mail mail, NpgsqlDataSource data,
        CancellationToken cancel)
    {
        if (await people.Find(name, cancel) is not { } person)
            return Problems.Gone("person who may sign in");
        if (person.Mail.Length == 0)
            return Problems.Of(StatusCodes.Status409Conflict, "There is no mail address of this person yet.", "/mail");
        if (!mail.IsPossible)
            return NoMail();
        await using var work = await UnitOfWork.Begin(data, cancel);
        return TypedResults.Ok(await SendLink(person, work, context, people, audit, mail, cancel));
    }

    /// <summary>Ends the work. The letter goes last, so that no link is under way that was not kept.</summary>
    private static async Task<LinkSent> SendLink(Person person, UnitOfWork work, HttpContext context, PersonStore people, AuditStore audit, Mail mail,
        CancellationToken cancel)
    {
        var (token, hash) = PasswordToken.New();
        await people.AddLink(work, person.Name, hash, PasswordToken.Lasts, cancel);
        await audit.Add(work, context.Happened(AuditKind.LinkSent, person.Name), cancel);
        await work.Commit(cancel);
        await mail.Send(person.Display, person.Mail, "Choose your password for Juniperfall", $"""
            Hello {person.Display},

            your sign-in name for Juniperfall is {person.Name}. Choose a password here, within {PasswordToken.Lasts.TotalHours} hours:

            {mail.BaseOf(context.Request)}/password#{token}

            The link works once. If you did not expect this letter, leave it; your password stays as it is.
            """, cancel);
        return new(person.Mail, DateTime.UtcNow + PasswordToken.Lasts);
    }
}
