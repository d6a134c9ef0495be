using Juniperfall.Core.Models.Binding;
using Juniperfall.Formats;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Cli;

/// <summary>The commands that read and write the database.</summary>
public static class DatabaseCommands
{
    private const int Done = 0, WrongInput = 2, NotReachable = 3;

    /// <summary>Writes a revision of a product as a model file. The product is named by its code, in any case.</summary>
    public static Task<int> Export(string code, string? number, TextWriter output, TextWriter errors) => WithDatabase(errors, async data =>
    {
        var revisions = new RevisionStore(data);
        var product = (await revisions.Products(code, 500, default)).FirstOrDefault(p => p.Code.Equals(code, StringComparison.OrdinalIgnoreCase));
        if (product is null)
        {
            errors.WriteLine($"There is no product “{code}”.");
            return WrongInput;
        }
        var all = await revisions.RevisionsOf(product.Id, default);
        var entry = number is null ? all[0] : all.FirstOrDefault(r => $"{r.Number}" == number);
        if (entry is null || await revisions.Load(entry.Id, default) is not { } revision)
        {
            errors.WriteLine($"“{product.Code}” has no revision {number}; it has {string.Join(", ", all.Select(r => r.Number).Order())}.");
            return WrongInput;
        }
        var facts = revision.Facts ?? (await new LibraryStore(data).Load(default)).Facts;
        output.Write(ModelJson.Write(ModelPackage.Of(new BoundModel(revision.Document, facts))));
        return Done;
    });

    /// <summary>Takes a model file into the database, in the name of a person who is in it.</summary>
    public static Task<int> Import(string file, string person, TextWriter output, TextWriter errors) => WithDatabase(errors, async data =>
    {
        if (Commands.ReadFile(file, errors) is not { } bytes)
            return WrongInput;
        if (await new PersonStore(data).Find(person, default) is not { Role: "engineer" } author)
        {
            errors.WriteLine($"“{person}” is not the sign-in name of a product engineer.");
            return WrongInput;
        }
        var revisions = new RevisionStore(data);
        var outcome = file.EndsWith(".uvl", StringComparison.OrdinalIgnoreCase)
            ? await ModelImport.ImportUvl(bytes, Guid.NewGuid().ToString("n"), author.Name, data, default)
            : await ModelImport.Import(bytes, author.Name, data, default);
        foreach (var note in outcome.Unread)
            errors.WriteLine($"{file}: Line {note.Line}: {note.Sentence}");
        if (outcome.Made is not { } made)
        {
            errors.WriteLine($"{file}: {outcome.Error}");
            return WrongInput;
        }
        var revision = (await revisions.Load(made.RevisionId, default))!;
        output.WriteLine($"{revision.Document.Code} revision {revision.Number} is a draft of {author.Display}.");
        return Done;
    });

    /// <summary>Makes somebody an administrator, or lets one who cannot get in choose a new password: prints the end of the link for it.</summary>
    public static Task<int> Administrator(string name, string? display, string? mail, TextWriter output, TextWriter errors) =>
        WithDatabase(errors, async data =>
    {
        var (people, sign) = (new PersonStore(data), name.Trim().ToLowerInvariant());
        if (sign.Length is 0 or > PersonStore.LongestName || sign.Any(c => !char.IsAsciiLetterOrDigit(c) && c is not ('.' or '-' or '_')))
        {
            errors.WriteLine($"“{name}” is no sign-in name: it has 1 to {PersonStore.LongestName} letters without accents, digits, dots, dashes and "
                + $"underscores.");
            return WrongInput;
        }
        await using var work = await UnitOfWork.Begin(data, default);
        if (await people.Entry(work, sign, default) is { } present && present is not { Role: "administrator", Active: true })
        {
            errors.WriteLine($"“{sign}” is {(present.Active ? $"there already, as {present.Role}" : "no longer active")}; an administrator can change that "
                + $"on the page of people.");
            return WrongInput;
        }
        var audit = new AuditStore(data);
        if (await people.Add(work, new(sign, display ?? sign, "administrator", "") { Mail = mail ?? "" }, false, default))
            await audit.Add(work, new(AuditKind.PersonAdded, "", sign, "administrator, on the command line", ""), default);
        var (token, hash) = PasswordToken.New();
        await people.AddLink(work, sign, hash, PasswordToken.Lasts, default);
        await audit.Add(work, new(AuditKind.LinkSent, "", sign, "on the command line", ""), default);
        await work.Commit(default);
        output.WriteLine($"{sign} chooses a password within {PasswordToken.Lasts.TotalHours} hours, once, at the server’s address followed by:");
        output.WriteLine($"/password#{token}");
        return Done;
    });

    private static async Task<int> WithDatabase(TextWriter errors, Func<NpgsqlDataSource, Task<int>> command)
    {
        if (Environment.GetEnvironmentVariable("JUNIPERFALL_DATABASE") is not { Length: > 0 } connection)
        {
            errors.WriteLine("No database: set JUNIPERFALL_DATABASE, or have ./start running.");
            return NotReachable;
        }
        try
        {
            Database.Migrate(connection);
            await using var data = NpgsqlDataSource.Create(connection);
            return await command(data);
        }
        catch (Exception e) when (e is NpgsqlException or ArgumentException or System.Net.Sockets.SocketException)
        {
            errors.WriteLine($"The database cannot be reached: {e.Message}");
            return NotReachable;
        }
    }
}
