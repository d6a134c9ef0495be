using Juniperfall.Cli;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Npgsql;

namespace Juniperfall.Storage.Tests;

/// <summary>The commands that read and write the database, on one of their own.</summary>
public sealed class CommandsOnTheDatabase : IAsyncLifetime
{
    private readonly string _database = $"c{Guid.NewGuid():n}";
    private string _connection = "";

    public async Task InitializeAsync()
    {
        var server = Environment.GetEnvironmentVariable("JUNIPERFALL_TEST_DATABASE")!;
        await using var data = NpgsqlDataSource.Create(server);
        await data.CreateCommand($"create database {_database}").ExecuteNonQueryAsync();
        _connection = new NpgsqlConnectionStringBuilder(server) { Database = _database }.ConnectionString;
        Database.Migrate(_connection);
    }

    public Task DisposeAsync() => Task.CompletedTask;

    private async Task<(int Code, string Output, string Errors)> Run(Func<TextWriter, TextWriter, Task<int>> command)
    {
        var (output, errors) = (new StringWriter(), new StringWriter());
        Environment.SetEnvironmentVariable("JUNIPERFALL_DATABASE", _connection);
        return (await command(output, errors), output.ToString(), errors.ToString());
    }

    internal static string Demo()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "Juniperfall.slnx")))
            folder = Path.GetDirectoryName(folder)!;
        return Path.Combine(folder, "demo", "cold-room.json");
    }

    [Fact]
    public async Task A_file_that_is_not_taken_in_leaves_the_library_as_it_was()
    {
        await using var data = NpgsqlDataSource.Create(_connection);
        await new RevisionStore(data).CreateProduct(
            new ModelDocument { Id = "other", Code = "cr", Root = "a", Assemblies = [new() { Id = "a", Name = "kit" }] }, "ines", default);
        var outcome = await ModelImport.Import(await File.ReadAllBytesAsync(Demo()), "ines", data, default);
        Assert.Contains("code “CR” already", outcome.Error);
        Assert.Empty((await new LibraryStore(data).Load(default)).Facts.Items);
    }

    [Fact]
    public async Task The_first_administrator_gets_a_link_and_only_administrators_get_one_there()
    {
        await using var data = NpgsqlDataSource.Create(_connection);
        var people = new PersonStore(data);
        async Task<string> Link(string name) => (await Run((o, e) => DatabaseCommands.Administrator(name, null, null, o, e))).Output.Split('#').Last().Trim();
        var first = await Link("Piet");
        Assert.Equal("piet", (await people.OfLink(PasswordToken.HashOf(first), default))!.Name);
        // A second one takes the place of the first.
        var second = await Link("piet");
        Assert.Null(await people.OfLink(PasswordToken.HashOf(first), default));
        Assert.Equal("piet", await data.Do(w => people.TakeLink(w, PasswordToken.HashOf(second), default)));
        Assert.Null(await people.OfLink(PasswordToken.HashOf(second), default));
        await data.Do(w => people.Add(w, new("marit", "Marit Solberg", "order desk", "-"), false, default));
        Assert.Contains("as order desk", (await Run((o, e) => DatabaseCommands.Administrator("marit", null, null, o, e))).Errors);
        Assert.Contains("no sign-in name", (await Run((o, e) => DatabaseCommands.Administrator("a b", null, null, o, e))).Errors);
        Assert.Equal([AuditKind.LinkSent, AuditKind.LinkSent, AuditKind.PersonAdded],
            (await new AuditStore(data).Before(long.MaxValue, "piet", 9, default)).Select(e => e.Event.Kind));
    }

    [Fact]
    public async Task A_model_file_goes_in_and_comes_out_the_same_each_time()
    {
        await using var data = NpgsqlDataSource.Create(_connection);
        await data.Do(w => new PersonStore(data).Add(w, new("ines", "Ines Halloran", "engineer", "-"), false, default));
        await data.Do(w => new PersonStore(data).Add(w, new("marit", "Marit Solberg", "order desk", "-"), false, default));
        Assert.Contains("not the sign-in name of a product engineer", (await Run((o, e) => DatabaseCommands.Import(Demo(), "marit", o, e))).Errors);
        Assert.Equal((0, "CR revision 1 is a draft of Ines Halloran."),
            await Run((o, e) => DatabaseCommands.Import(Demo(), "ines", o, e)) is var first ? (first.Code, first.Output.Trim()) : default);
        Assert.Contains("is still draft", (await Run((o, e) => DatabaseCommands.Import(Demo(), "ines", o, e))).Errors);
        var exported = await Run((o, e) => DatabaseCommands.Export("cr", null, o, e));
        Assert.Equal(0, exported.Code);
        // The exported file becomes the next revision once the first is released, and comes out again as it went in.
        var revisions = new RevisionStore(data);
        var product = Assert.Single(await revisions.Products("", 9, default));
        var facts = (await new LibraryStore(data).Load(default)).Facts;
        Assert.True(await data.Do(w => revisions.Release(w, product.RevisionId, 0, "tomas", facts, default)));
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, exported.Output);
        Assert.Contains("CR revision 2", (await Run((o, e) => DatabaseCommands.Import(file, "ines", o, e))).Output);
        Assert.Equal(exported.Output, (await Run((o, e) => DatabaseCommands.Export("CR", "2", o, e))).Output);
        File.Delete(file);
        Assert.Contains("it has 1, 2", (await Run((o, e) => DatabaseCommands.Export("CR", "3", o, e))).Errors);
        Assert.Contains("no product “XX”", (await Run((o, e) => DatabaseCommands.Export("XX", null, o, e))).Errors);
    }

    [Fact]
    public async Task A_duplicate_under_a_new_code_takes_its_own_item_along()
    {
        await using var data = NpgsqlDataSource.Create(_connection);
        await data.Do(w => new PersonStore(data).Add(w, new("ines", "Ines Halloran", "engineer", "-"), false, default));
        Assert.Equal(0, (await Run((o, e) =>
            DatabaseCommands.Import(Demo().Replace("cold-room", "cooling-set", StringComparison.Ordinal), "ines", o, e))).Code);
        var exported = (await Run((o, e) => DatabaseCommands.Export("CS", null, o, e))).Output;
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file,
            exported.Replace("\"id\": \"cooling-set\"", "\"id\": \"cooling-set-2\"", StringComparison.Ordinal)
            .Replace("\"code\": \"CS\"", "\"code\": \"CS2\"", StringComparison.Ordinal));
        Assert.Contains("CS2 revision 1", (await Run((o, e) => DatabaseCommands.Import(file, "ines", o, e))).Output);
        File.Delete(file);
        var items = (await new LibraryStore(data).Load(default)).Facts.Items;
        Assert.Equal((items["CS"].Kind, items["CS"].Unit, items["CS"].Cost), (items["CS2"].Kind, items["CS2"].Unit, items["CS2"].Cost));
    }

    [Fact]
    public async Task What_was_generated_and_what_was_counted_stays()
    {
        await using var data = NpgsqlDataSource.Create(_connection);
        var revisions = new RevisionStore(data);
        var revision = (await revisions
            .CreateProduct(new ModelDocument { Id = "m", Code = "SK", Root = "a", Assemblies = [new() { Id = "a", Name = "kit" }] }, "ines", default))!.Value;
        var store = new ConfigurationStore(data);
        await store.Add("c1", "Kit 50%_\\ x", revision,
            [new("w", Core.Quantities.Value.Of(Core.Quantities.Exact.Parse("1") / 3)), new("t", Core.Quantities.Value.OfText("a 漢")),
            new("n", Core.Quantities.Value.Nothing)], new("HAL", new(2027, 2, 15)), "DEALER", "marit", default);
        Assert.False(await store.Add("c1", "again", revision, [], Effectivity.Any, null, "marit", default));
        var loaded = (await store.Load("c1", default))!;
        Assert.Equal(("Kit 50%_\\ x", 3, 1), (loaded.Name, loaded.Picks.Length, loaded.Version));
        Assert.Equal(new("HAL", new(2027, 2, 15)), loaded.At);
        Assert.Equal(Core.Quantities.Exact.Parse("1") / 3, loaded.Picks[0].Value.Number);
        // What means something to the database is searched for as it stands.
        Assert.Single(await store.Find("50%_\\", 9, default));
        Assert.Empty(await store.Find("5_%", 9, default));
        Assert.True(await store.Change("c1", "Kit", revision, [], Effectivity.Any, null, 1, "odile", default));
        Assert.Equal(("marit", "odile"), ((await store.Load("c1", default))!.Author, (await store.Load("c1", default))!.ChangedBy));
        Assert.False(await store.Change("c1", "Mine", revision, [], Effectivity.Any, null, 1, "marit", default));
        Assert.Equal(Effectivity.Any, (await store.Load("c1", default))!.At);
        await store.AddStructure(new("s1", """{"a":1}""", ["BOLT"], 1), loaded, "marit", default);
        foreach (var sql in new[] { "update structure set content = '{}'", "delete from structure" })
            await Assert.ThrowsAsync<PostgresException>(() => data.CreateCommand(sql).ExecuteNonQueryAsync());
        var library = new LibraryStore(data);
        var before = (await library.Load(default)).Version;
        await data.Do(async w =>
        {
            await library.AddMissing(w, LibraryFacts.Empty with
            {
                Items = LibraryFacts.Empty.Items
                .Add("X-1", new()
                {
                    Number = "X-1",
                    Cost = "1.50",
                    Stores = System.Collections.Immutable.ImmutableSortedDictionary<string, string>.Empty.Add("HAL", "Raw")
                })
            }, default);
            return true;
        });
        var after = await library.Load(default);
        Assert.True(after.Version > before);
        Assert.Equal(("1.50", "Raw"), (after.Facts.Items["X-1"].Cost, after.Facts.Items["X-1"].Stores["HAL"]));
    }
}
