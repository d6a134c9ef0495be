using Juniperfall.Core.Models;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Storage;
using Npgsql;
using System.Text.Json;

namespace Juniperfall.Server;

/// <summary>A saved configuration of the demo data, with picks as people write them.</summary>
public sealed record DemoConfiguration(string Name, string Author, IReadOnlyDictionary<string, string> Picks, string? Site = null, DateOnly? Date = null, string? CustomerClass = null);

/// <summary>Fills an empty database with the demo scenario: one person a role, the cold room with a released revision and an open draft, and some configurations.</summary>
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
        var people = services.GetRequiredService<PersonStore>();
        var revisions = services.GetRequiredService<RevisionStore>();
        var library = services.GetRequiredService<LibraryStore>();
        var configurations = services.GetRequiredService<ConfigurationStore>();
        foreach (var (name, display, role) in People)
            if (await people.Find(name, cancel) is null)
                await people.Add(new(name, display, role, SignIn.Hash(Password)), cancel);
        if ((await revisions.Products("", 1, cancel)).Count > 0)
            return;
        foreach (var file in Directory.GetFiles(folder, "*.json").Order().Where(f => !f.EndsWith(".configurations.json", StringComparison.Ordinal)))
        {
            var outcome = await ModelImport.Import(await File.ReadAllBytesAsync(file, cancel), "ines", revisions, library, cancel);
            if (outcome.Made is not { } made)
                throw new InvalidOperationException($"{file}: {outcome.Error}");
            var stored = (await revisions.Load(made.RevisionId, cancel))!;
            var model = new BoundModel(stored.Document, (await library.Load(cancel)).Facts);
            await revisions.Release(made.RevisionId, 0, "tomas", ModelPackage.Of(model).Library, cancel);
            var saved = Path.ChangeExtension(file, ".configurations.json");
            if (File.Exists(saved))
                await Save(saved, made.RevisionId, model, configurations, cancel);
            await revisions.OpenNext(made.ProductId, "ines", cancel);
        }
    }

    private static async Task Save(string file, long revisionId, BoundModel model, ConfigurationStore store, CancellationToken cancel)
    {
        var text = new PickText(model);
        foreach (var configuration in JsonSerializer.Deserialize<List<DemoConfiguration>>(await File.ReadAllTextAsync(file, cancel), DocumentJson.Options)!)
        {
            var picks = configuration.Picks.Select(p => text.Read(p.Key, p.Value) is var (pick, error) && pick is { } read ? read
                : throw new InvalidOperationException($"{file}, {configuration.Name}: {error}"));
            await store.Add(Guid.CreateVersion7().ToString(), configuration.Name, revisionId, [.. picks], new(configuration.Site, configuration.Date), configuration.CustomerClass, configuration.Author, cancel);
        }
    }
}
