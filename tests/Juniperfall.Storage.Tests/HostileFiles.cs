using System.Text;
using System.Text.Json.Nodes;
using Juniperfall.Core.Tests;
using Juniperfall.Formats;
using Juniperfall.Formats.Library;

namespace Juniperfall.Storage.Tests;

/// <summary>A file of any content gets an answer or a fault: never a trace, an abort, or a wait that goes past its limit.</summary>
public sealed class HostileFiles : IDisposable
{
    private static int Rounds => int.TryParse(Environment.GetEnvironmentVariable("JUNIPERFALL_ROUNDS"), out var asked) ? asked
        : Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 1_000_000 : 2_000;

    private readonly string _folder = Directory.CreateTempSubdirectory("juniperfall-hostile-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static readonly string Demo = Path.GetDirectoryName(CommandsOnTheDatabase.Demo())!;

    private static (string Name, JsonNode Model, string Picks) Read(string name) =>
        (name, JsonNode.Parse(File.ReadAllText(Path.Combine(Demo, $"{name}.json")))!,
        new JsonArray([.. JsonNode.Parse(File.ReadAllText(Path.Combine(Demo, $"{name}.configurations.json")))![0]!["picks"]!.AsObject()
            .Select(p => new JsonObject { ["name"] = p.Key, ["value"] = p.Value!.DeepClone() })]).ToJsonString());

    [Fact]
    public async Task A_model_file_or_a_list_of_picks_of_any_content_gets_an_answer_or_a_fault()
    {
        // Large files take their time; most of the rounds go to the small ones.
        (string Name, JsonNode Model, string Picks)[] small = [Read("strip-curtain"), Read("door-set")], large = [Read("cold-room"), Read("cooling-set")];
        var failed = new System.Collections.Concurrent.ConcurrentQueue<string>();
        await Parallel.ForEachAsync(Enumerable.Range(0, Rounds), new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, (seed, _) =>
        {
            var (name, model, picks) = seed % 20 == 0 ? large[seed / 20 % 2] : small[seed % 2];
            var mutations = new Mutations(seed);
            string File(string kind, byte[] content)
            {
                var path = Path.Combine(_folder, $"{seed}.{kind}");
                System.IO.File.WriteAllBytes(path, content);
                return path;
            }

            var whole = Encoding.UTF8.GetBytes(model.ToJsonString());
            var ofPicks = seed % 3 == 0;
            var file = File("json", ofPicks ? whole : mutations.Of(model));
            string[] command = ofPicks ? ["replay", file,
                File("jsonl", [.. mutations.Of(JsonNode.Parse(picks)!), (byte)'\n', .. Encoding.UTF8.GetBytes(picks), (byte)'\n']), "--limit", "0.3"]
                : (seed % 5) switch
                {
                    0 => ["structure", file, "--draft", "--limit", "0.3"],
                    1 => ["analyze", file, "--limit", "0.3"],
                    2 => ["uvl", file],
                    3 => ["answer", file, "--limit", "0.3"],
                    _ => ["check", file, "--limit", "0.3"],
                };
            var clock = System.Diagnostics.Stopwatch.StartNew();
            try
            {
                var (code, output, errors) = CommandsOnFiles.Run(command);
                if (code is < 0 or > 3 || (code == 2 && output.Length + errors.Length == 0))
                    failed.Enqueue($"seed {seed}: {string.Join(' ', command)} on {name} ended with {code} and said nothing");
                // Faulty lines are said; the sound one after them is answered all the same.
                if (ofPicks && (output.Split('\n', StringSplitOptions.RemoveEmptyEntries) is not [.., var last]
                    || last.Contains("\"error\"", StringComparison.Ordinal)))
                    failed.Enqueue($"seed {seed}: a faulty line of picks on {name} kept the next from being answered: {output}{errors}");
                // Generous, since this is no measurement and the machine is busy with the other rounds.
                if (clock.Elapsed > TimeSpan.FromSeconds(30))
                    failed.Enqueue($"seed {seed}: {string.Join(' ', command)} on {name} took {clock.Elapsed}");
            }
            catch (Exception e)
            {
                failed.Enqueue($"seed {seed}: {string.Join(' ', command)} on {name}: {e}");
            }
            foreach (var made in Directory.GetFiles(_folder, $"{seed}.*"))
                System.IO.File.Delete(made);
            return ValueTask.CompletedTask;
        });
        Assert.True(failed.IsEmpty, $"{failed.Count} of {Rounds}:\n{string.Join("\n", failed.Take(10))}");
    }

    [Fact]
    public void A_feature_model_of_any_content_is_read_or_refused_at_a_line()
    {
        string[] whole = [.. new[] { "strip-curtain", "door-set" }.Select(name => Path.Combine(Demo, $"{name}.json"))
            .Select(file => CommandsOnFiles.Run("uvl", file).Output)];
        Assert.All(whole, text => Assert.Contains("features", text, StringComparison.Ordinal));
        Survive(seed =>
        {
            var file = Path.Combine(_folder, $"{seed}.uvl");
            File.WriteAllText(file, new Mutations(seed).OfLines(whole[seed % 2]));
            var (code, output, errors) = CommandsOnFiles.Run("check", file, "--limit", "0.3");
            File.Delete(file);
            return code is < 0 or > 3 ? $"ended with {code}" : output.Length + errors.Length == 0 ? "said nothing" : null;
        });
    }

    [Fact]
    public async Task A_workbook_of_any_content_is_read_or_refused_with_a_sentence()
    {
        var library = ModelJson.Read(await File.ReadAllBytesAsync(Path.Combine(Demo, "cold-room.json"))).Package!.Library;
        var table = LibraryTables.Items([.. library.Sites.Keys]);
        var workbook = await Tables.Xlsx([new("Items", table.Write([.. library.Items.Values]), [("Of", "the demo")])]);
        Survive(seed =>
        {
            var read = SheetReader.Read(new Mutations(seed).OfWorkbook(workbook));
            if (read.Sheet is { } sheet)
                table.Read(sheet, library.Items.GetValueOrDefault);
            return read.Sheet is null && string.IsNullOrWhiteSpace(read.Error) ? "said nothing" : null;
        });
    }

    /// <param name="round">Given a seed; tells what was wrong, or null.</param>
    private static void Survive(Func<int, string?> round)
    {
        var failed = new System.Collections.Concurrent.ConcurrentQueue<string>();
        Parallel.For(0, Rounds / 2, new() { MaxDegreeOfParallelism = Environment.ProcessorCount }, seed =>
        {
            var clock = System.Diagnostics.Stopwatch.StartNew();
            try
            {
                if (round(seed) is { } wrong)
                    failed.Enqueue($"seed {seed}: {wrong}");
                if (clock.Elapsed > TimeSpan.FromSeconds(30))
                    failed.Enqueue($"seed {seed}: took {clock.Elapsed}");
            }
            catch (Exception e)
            {
                failed.Enqueue($"seed {seed}: {e}");
            }
        });
        Assert.True(failed.IsEmpty, $"{failed.Count} of {Rounds / 2}:\n{string.Join("\n", failed.Take(10))}");
    }
}
