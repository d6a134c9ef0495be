using System.Text.Json;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server;

/// <summary>A saved configuration of the demo data, with picks as people write them.</summary>
public sealed record DemoConfiguration(string Name, string Author, IReadOnlyDictionary<string, string> Picks, string? Site = null, DateOnly? Date = null,
    string? CustomerClass = null, DemoConcession? Concession = null);

/// <summary>A rule that is set aside for it.</summary>
public sealed record DemoConcession(string Rule, string Reason, DateOnly Until, long Quantity, string Signer);

/// <summary>Fills an empty database with the demo scenario: one person a role, the cold room with a released revision and an open draft, and some
/// configurations. One that holds anything is left alone.</summary>
public static class DemoData
{
    public const string Password = "frost-and-panels";

    public static readonly IReadOnlyList<(string Name, string Display, string Role)> People =
    [
        ("ines", "Ines Halloran", Rights.Engineer),
        ("tomas", "Tomas Brandt", Rights.Approver),
        ("marit", "Marit Solberg", Rights.OrderDesk),
        ("odile", "Odile Renard", Rights.Planner),
        ("piet", "Piet Vermeer", Rights.Administrator),
    ];

    /// <param name="folder">Where the files of the demo lie.</param>
    public static async Task LoadIfEmpty(string folder, IServiceProvider services, CancellationToken cancel)
    {
        var demo = services.GetRequiredService<DemoPeople>();
        var revisions = services.GetRequiredService<RevisionStore>();
        var library = services.GetRequiredService<LibraryStore>();
        if (!await demo.IsEmpty(cancel))
        {
            await demo.GiveKnownPasswords(Passwords.Hash(Password), cancel);
            return;
        }
        var (data, audit) = (services.GetRequiredService<NpgsqlDataSource>(), services.GetRequiredService<AuditStore>());
        await AddPeople(services.GetRequiredService<PersonStore>(), data, cancel);
        foreach (var file in Directory.GetFiles(folder, "*.json").Order().Where(f => !f.EndsWith(".configurations.json", StringComparison.Ordinal)))
        {
            var outcome = await ModelImport.Import(await File.ReadAllBytesAsync(file, cancel), "ines", data, cancel);
            if (outcome.Made is not { } made)
                throw new InvalidOperationException($"{file}: {outcome.Error}");
            var stored = (await revisions.Load(made.RevisionId, cancel))!;
            var model = new BoundModel(stored.Document, (await library.Load(cancel)).Facts);
            await using (var work = await UnitOfWork.Begin(data, cancel))
            {
                await revisions.Release(work, made.RevisionId, 0, "tomas", ModelPackage.Of(model).Library, cancel);
                await audit.Add(work, new(AuditKind.RevisionReleased, "tomas", model.Document.Code, "revision 1, written by ines", ""), cancel);
                await work.Commit(cancel);
            }
            var saved = Path.ChangeExtension(file, ".configurations.json");
            if (File.Exists(saved))
                await Save(saved, made.RevisionId, model, services, cancel);
            await revisions.OpenNext(made.ProductId, "ines", cancel);
        }
    }

    private static async Task AddPeople(PersonStore people, NpgsqlDataSource data, CancellationToken cancel)
    {
        await using var work = await UnitOfWork.Begin(data, cancel);
        foreach (var (name, display, role) in People)
            await people.Add(work, new(name, display, role, Passwords.Hash(Password)) { Mail = $"{name}@juniperfall.example" }, true, cancel);
        await work.Commit(cancel);
    }

    private static async Task Save(string file, long revisionId, BoundModel model, IServiceProvider services, CancellationToken cancel)
    {
        var (text, words, store) = (new PickText(model), new ModelWording(model), services.GetRequiredService<ConfigurationStore>());
        foreach (var configuration in JsonSerializer.Deserialize<List<DemoConfiguration>>(await File.ReadAllTextAsync(file, cancel), DocumentJson.Options)!)
        {
            List<Pick> picks = [.. configuration.Picks.Select(p => text.Read(p.Key, p.Value) is var (pick, error) && pick is { } read ? read
                : throw new InvalidOperationException($"{file}, {configuration.Name}: {error}"))];
            var id = Guid.CreateVersion7().ToString();
            await store.Add(id, configuration.Name, revisionId, [.. picks], new(configuration.Site, configuration.Date),
                configuration.CustomerClass, configuration.Author, cancel, null, Configurations.ConfigurationEndpoints.AnswersOf(words, picks));
            if (configuration.Concession is { } concession)
                await Concede(id, configuration.Author, concession, model, services, cancel);
        }
    }

    private static async Task Concede(string id, string author, DemoConcession concession, BoundModel model, IServiceProvider services,
        CancellationToken cancel)
    {
        var (store, words) = (services.GetRequiredService<ConcessionStore>(), new ModelWording(model));
        var wish = new ConcessionWish(Guid.CreateVersion7().ToString(),
            [new(concession.Rule, model.Index.MarkOf(model.Index.Rows[concession.Rule]) ?? "", words.Clause(new(CauseKind.Rule, concession.Rule, "", "")))],
            concession.Reason, concession.Until, concession.Quantity);
        await using var work = await UnitOfWork.Begin(services.GetRequiredService<NpgsqlDataSource>(), cancel);
        await store.Ask(work, id, 1, wish, author, DateOnly.MinValue, cancel);
        await store.Answer(work, wish.Id, "signed", concession.Signer, "", cancel);
        await work.Commit(cancel);
    }
}
