using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Npgsql;

namespace Juniperfall.Storage.Tests;

/// <summary>Histories of edits on the real database.</summary>
public sealed class RevisionHistory : IAsyncLifetime
{
    private readonly NpgsqlDataSource _data;
    private readonly RevisionStore _store;
    private readonly string _database = $"t{Guid.NewGuid():n}";
    private readonly string _server;

    public RevisionHistory()
    {
        _server = Environment.GetEnvironmentVariable("JUNIPERFALL_TEST_DATABASE")
            ?? throw new InvalidOperationException("Run ./test: it starts the database that JUNIPERFALL_TEST_DATABASE names.");
        _data = new NpgsqlDataSourceBuilder(new NpgsqlConnectionStringBuilder(_server) { Database = _database }.ConnectionString).Build();
        _store = new(_data);
    }

    public async Task InitializeAsync()
    {
        await using var server = NpgsqlDataSource.Create(_server);
        await server.CreateCommand($"create database {_database}").ExecuteNonQueryAsync();
        Database.Migrate(new NpgsqlConnectionStringBuilder(_server) { Database = _database }.ConnectionString);
        Database.Migrate(new NpgsqlConnectionStringBuilder(_server) { Database = _database }.ConnectionString);   // a second run changes nothing
    }

    public async Task DisposeAsync() => await _data.DisposeAsync();

    private static ModelDocument Model(string id = "m", string code = "SC") => new()
    {
        Id = id,
        Code = code,
        Root = "a",
        Assemblies = [new() { Id = "a", Name = "strip curtain", Topics = [new() { Id = "t", Rows = [
            new AttributeRow { Id = "w", Name = "width", Kind = AttributeKind.Whole, Min = "1", Max = "9", Note = "Überlappung 漢" },
            new ComputedAttribute { Id = "c", Name = "strips", Expression = "width * 2" },
        ] }] }],
    };

    private async Task<long> NewProduct() => (await _store.CreateProduct(Model(), "engineer", default))!.Value;
    private async Task<EditOutcome> Edit(long revision, string id, string person, params EditStep[] steps) =>
        await _store.Apply(await Seen(revision), new(id, [.. steps]), person, LibraryFacts.Empty, default);

    private readonly System.Collections.Concurrent.ConcurrentDictionary<long, StoredRevision> _first = new();
    private int _seen;

    /// <summary>Each second time the revision is known as it was long ago.</summary>
    private async Task<StoredRevision> Seen(long id)
    {
        var now = await _store.Load(id, default) ?? new StoredRevision(id, "", 0, "", "", 0, Model()) { ChangedAt = default };
        return Interlocked.Increment(ref _seen) % 2 == 0 ? _first.GetOrAdd(id, now) : now;
    }

    private async Task<string?> MaxOf(long revision) => ((AttributeRow)new ModelIndex((await _store.Load(revision, default))!.Document).Rows["w"]).Max;

    [Fact]
    public async Task A_product_is_found_again_as_it_was_made_and_its_code_is_taken_once()
    {
        var id = await NewProduct();
        var loaded = (await _store.Load(id, default))!;
        Assert.Equal((1, "draft", "engineer", 0L), (loaded.Number, loaded.State, loaded.Author, loaded.Head));
        Assert.Equal("Überlappung 漢", new ModelIndex(loaded.Document).Rows["w"].Note);
        Assert.Null(await _store.CreateProduct(Model("other", "sc"), "engineer", default));
    }

    [Fact]
    public async Task An_edit_sent_twice_is_stored_once()
    {
        var id = await NewProduct();
        var first = await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        var second = await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        Assert.Equal((1L, false), (first.Sequence, first.Repeated));
        Assert.Equal((1L, true), (second.Sequence, second.Repeated));
        var only = Assert.Single(await _store.History(id, long.MaxValue, 100, default));
        Assert.Equal(("engineer", "max"), (only.Person, Assert.IsType<SetField>(only.Steps[0]).Field));
    }

    [Fact]
    public async Task A_long_edit_keeps_nobody_waiting_and_is_worked_out_again_on_what_has_come_meanwhile()
    {
        var id = await NewProduct();
        var (under, go, tries) = (new TaskCompletionSource(), new TaskCompletionSource(), 0);
        var slow = new RevisionStore(_data, async (document, edit, facts, _) =>
        {
            tries++;
            under.TrySetResult();
            await go.Task;
            return ModelEditor.Apply(document, edit, facts);
        });
        var first = slow.Apply(await Seen(id), new("slow", [new SetField("w", "note", "slow", "Überlappung 漢")]), "engineer", LibraryFacts.Empty, default);
        await under.Task;
        Assert.Equal(1, (await Edit(id, "quick", "colleague", new SetField("w", "max", "12", "9"))).Sequence);
        go.SetResult();
        Assert.Equal((2L, 2), ((await first).Sequence, tries));
        Assert.Equal(("12", "slow"), (await MaxOf(id), new ModelIndex((await _store.Load(id, default))!.Document).Rows["w"].Note));
        // What it saw has changed under it: then it is refused, as if it had come later.
        Assert.Equal(EditFault.Changed, (await Edit(id, "late", "engineer", new SetField("w", "max", "13", "9"))).Refusal!.Fault);
    }

    [Theory]
    [InlineData("Host=nowhere", 40, 60), InlineData("Host=nowhere;Maximum Pool Size=7", 7, 60), InlineData("Host=nowhere;Timeout=3", 40, 3)]
    public void Connections_are_bounded_unless_something_else_is_said(string connection, int most, int seconds)
    {
        using var data = Database.Open(connection);
        var used = new NpgsqlConnectionStringBuilder(data.ConnectionString);
        Assert.Equal((most, seconds), (used.MaxPoolSize, used.Timeout));
    }

    [Fact]
    public async Task Thirty_edits_at_once_are_all_stored_in_a_row_and_undone_by_whoever_made_them()
    {
        var id = await NewProduct();
        var outcomes = await Task.WhenAll(Enumerable.Range(0, 30)
            .Select(i => Edit(id, $"e{i}", $"person {i % 3}",
            new AddRow("t", "rows", null, new() { ["kind"] = "attribute", ["id"] = $"x{i}", ["name"] = $"x{i}", ["type"] = "yesNo" }))));
        Assert.Equal(Enumerable.Range(1, 30).Select(i => (long?)i), outcomes.Select(o => o.Sequence).Order());
        var undone = await Task.WhenAll(Enumerable.Range(0, 3)
            .Select(async i => await _store.Undo(await Seen(id), $"u{i}", null, $"person {i}", LibraryFacts.Empty, default)));
        Assert.All(undone, o => Assert.Null(o.Refusal));
        Assert.Equal(27, new ModelIndex((await _store.Load(id, default))!.Document).Rows.Keys.Count(k => k.StartsWith('x')));
        Assert.Equal(33, (await _store.History(id, long.MaxValue, 100, default)).Count);
    }

    [Fact]
    public async Task Undo_takes_back_ones_own_last_edits_and_leaves_those_of_others()
    {
        var id = await NewProduct();
        await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        await Edit(id, "e2", "colleague", new SetField("w", "note", "checked", "Überlappung 漢"));
        await Edit(id, "e3", "engineer", new SetField("w", "min", "2", "1"));
        Assert.Null((await _store.Undo(await Seen(id), "u1", null, "engineer", LibraryFacts.Empty, default)).Refusal);
        Assert.Null((await _store.Undo(await Seen(id), "u2", null, "engineer", LibraryFacts.Empty, default)).Refusal);
        Assert.True((await _store.Undo(await Seen(id), "u2", null, "engineer", LibraryFacts.Empty, default)).Repeated);
        Assert.Equal(EditFault.Gone, (await _store.Undo(await Seen(id), "u3", null, "engineer", LibraryFacts.Empty, default)).Refusal!.Fault);
        var row = (AttributeRow)new ModelIndex((await _store.Load(id, default))!.Document).Rows["w"];
        Assert.Equal(("1", "9", "checked"), (row.Min, row.Max, row.Note));
        Assert.Equal([1L, 3L, null, null, null], (await _store.History(id, long.MaxValue, 100, default)).Select(e => e.Undoes));
    }

    [Fact]
    public async Task Redo_brings_back_what_was_undone_until_the_person_makes_another_edit()
    {
        var id = await NewProduct();
        async Task<EditOutcome> Undo(string edit) => await _store.Undo(await Seen(id), edit, null, "engineer", LibraryFacts.Empty, default);
        async Task<EditOutcome> Redo(string edit) => await _store.Redo(await Seen(id), edit, null, "engineer", LibraryFacts.Empty, default);
        await Edit(id, "e1", "engineer", new SetField("w", "max", "10", "9"));
        await Edit(id, "e2", "engineer", new SetField("w", "max", "11", "10"));
        await Undo("u1");
        await Undo("u2");
        Assert.Equal("9", await MaxOf(id));
        await Redo("r1");
        Assert.Equal("10", await MaxOf(id));
        Assert.True((await Redo("r1")).Repeated);
        await Redo("r2");
        Assert.Equal("11", await MaxOf(id));
        Assert.Equal(EditFault.Gone, (await Redo("r3")).Refusal!.Fault);
        await Undo("u3");
        Assert.Equal("10", await MaxOf(id));
        await Edit(id, "e3", "colleague", new SetField("w", "note", "seen", "Überlappung 漢"));
        await Redo("r4");
        Assert.Equal("11", await MaxOf(id));
        await Undo("u4");
        await Edit(id, "e4", "engineer", new SetField("w", "min", "2", "1"));
        Assert.Equal(EditFault.Gone, (await Redo("r5")).Refusal!.Fault);
        Assert.Equal("10", await MaxOf(id));
    }

    [Fact]
    public async Task An_edit_is_taken_back_by_its_id_whatever_came_after_it_and_applied_again()
    {
        var id = await NewProduct();
        async Task<EditOutcome> Undo(string edit, string of, string person = "engineer") =>
            await _store.Undo(await Seen(id), edit, of, person, LibraryFacts.Empty, default);
        async Task<EditOutcome> Redo(string edit, string of) => await _store.Redo(await Seen(id), edit, of, "engineer", LibraryFacts.Empty, default);
        await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        await Edit(id, "e2", "engineer", new SetField("w", "min", "2", "1"));
        Assert.Null((await Undo("u1", "e1")).Refusal);
        var row = (AttributeRow)new ModelIndex((await _store.Load(id, default))!.Document).Rows["w"];
        Assert.Equal(("2", "9"), (row.Min, row.Max));
        // Once only, by its author only, and an undo is no edit.
        foreach (var refused in new[] { await Undo("u2", "e1"), await Undo("u3", "e2", "colleague"), await Undo("u4", "u1"), await Undo("u5", "never"),
            await Redo("r1", "e2") })
            Assert.Equal(EditFault.Gone, refused.Refusal!.Fault);
        Assert.Null((await Redo("r2", "u1")).Refusal);
        Assert.Equal("12", await MaxOf(id));
        // What was applied again is taken back again by the id it was applied with.
        Assert.Null((await Undo("u6", "r2")).Refusal);
        Assert.Equal("9", await MaxOf(id));
    }

    [Fact]
    public async Task Every_kind_of_step_is_undone_and_read_back_also_where_members_are_nothing()
    {
        var id = await NewProduct();
        await Edit(id, "e1", "engineer", new AddRow("t", "rows", null, new() { ["kind"] = "computed", ["id"] = "x", ["name"] = "x", ["expression"] = "1" }));
        await Edit(id, "e2", "engineer", new MoveRow("c", "t", "rows", null));
        await Edit(id, "e3", "engineer", new RemoveRow("c"));
        await Edit(id, "e4", "engineer", new SetField("w", "note", null, "Überlappung 漢"));
        await Edit(id, "e5", "engineer", new SetField("w", "step", "1", null));
        Assert.Equal(5, (await _store.History(id, long.MaxValue, 100, default)).Count);
        for (var i = 0; i < 5; i++)
            Assert.Null((await _store.Undo(await Seen(id), $"u{i}", null, "engineer", LibraryFacts.Empty, default)).Refusal);
        var rows = (await _store.Load(id, default))!.Document.Assemblies[0].Rows.ToList();
        Assert.Equal(["w", "c"], rows.Select(r => r.Id));
        Assert.Equal(("Überlappung 漢", null), (rows[0].Note, ((AttributeRow)rows[0]).Step));
    }

    [Fact]
    public async Task Undo_is_refused_with_what_stands_there_when_someone_has_changed_it_since()
    {
        var id = await NewProduct();
        await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        await Edit(id, "e2", "colleague", new SetField("w", "max", "15", "12"));
        var refusal = (await _store.Undo(await Seen(id), "u1", null, "engineer", LibraryFacts.Empty, default)).Refusal!;
        Assert.Equal((EditFault.Changed, "w", "max", "15"), (refusal.Fault, refusal.RowId, refusal.Field, refusal.Current!.GetValue<string>()));
        Assert.Equal("15", await MaxOf(id));
    }

    [Fact]
    public async Task Of_many_at_once_each_edit_is_stored_in_order_or_told_of_the_difference()
    {
        var id = await NewProduct();
        var outcomes = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => Edit(id, $"e{i}", $"p{i}", new SetField("w", "max", $"{20 + i}", "9"))));
        var stored = Assert.Single(outcomes, o => o.Refusal is null);
        Assert.Equal(1, stored.Sequence);
        Assert.All(outcomes.Where(o => o.Refusal is not null), o => Assert.Equal(EditFault.Changed, o.Refusal!.Fault));
        var notes = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => Edit(id, $"n{i}", "p", new AddRow("t", "rows", null,
            new() { ["kind"] = "computed", ["id"] = $"x{i}", ["name"] = $"x{i}", ["expression"] = "1" }))));
        Assert.Equal(Enumerable.Range(2, 12).Select(i => (long?)i), notes.Select(o => o.Sequence).Order());
        Assert.Equal(14, (await _store.Load(id, default))!.Document.Assemblies[0].Rows.Count());

    }

    [Fact]
    public async Task A_released_revision_cannot_be_changed_by_any_way_and_not_be_released_by_its_author()
    {
        var id = await NewProduct();
        Assert.False(await _data.Do(w => _store.Release(w, id, 0, "engineer", LibraryFacts.Empty, default)));
        Assert.True(await _data.Do(w => _store.Release(w, id, 0, "approver", LibraryFacts.Empty, default)));
        Assert.False(await _data.Do(w => _store.Release(w, id, 0, "approver", LibraryFacts.Empty, default)));
        Assert.Equal(EditFault.Changed, (await Edit(id, "late", "engineer", new SetField("w", "max", "12", "9"))).Refusal!.Fault);
        foreach (var sql in new[] { "update revision set content = '{}'", "update revision set head = 7", "update revision set facts = '{}'",
            "delete from revision", "update revision set state = 'draft'",
            "update revision set state = 'in review'", "update revision set released_by = 'someone'", "update revision set author = 'someone'" })
            await Assert.ThrowsAsync<PostgresException>(() => _data.CreateCommand(sql).ExecuteNonQueryAsync());
        await _data.CreateCommand("update revision set state = 'withdrawn'").ExecuteNonQueryAsync();
        await Assert.ThrowsAsync<PostgresException>(() => _data.CreateCommand("update revision set state = 'released'").ExecuteNonQueryAsync());
    }

    [Fact]
    public async Task The_history_is_only_added_to()
    {
        var id = await NewProduct();
        await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        foreach (var sql in new[] { "update edit set person = 'someone'", "update edit set steps = '[]'", "delete from edit", "truncate edit" })
            await Assert.ThrowsAsync<PostgresException>(() => _data.CreateCommand(sql).ExecuteNonQueryAsync());
        Assert.Equal("engineer", Assert.Single(await _store.History(id, long.MaxValue, 100, default)).Person);
    }

    [Fact]
    public async Task What_a_server_did_not_outlive_is_not_worked_out_ahead_again_until_it_is_edited()
    {
        var id = await NewProduct();
        var journal = new WarmUpJournal(_data);
        var revision = Assert.Single(await journal.LastChanged(3, default));
        Assert.Equal(new(id, 0), revision);
        // One that throws is over; the server lives.
        await Assert.ThrowsAsync<InvalidOperationException>(() => journal.Try(revision, () => throw new InvalidOperationException(), default));
        Assert.False(await journal.HasFailed(revision, default));
        // While a server is at it, another one leaves it alone, and it has not failed.
        Assert.True(await journal.Try(revision, async () =>
        {
            Assert.False(await journal.HasFailed(revision, default));
            Assert.False(await journal.Try(revision, () => Task.CompletedTask, default));
        }, default));
        // A server that dies leaves its row, and its lock is free.
        await _data.CreateCommand($"insert into warm_up (revision_id, head) values ({id}, 0)").ExecuteNonQueryAsync();
        Assert.True(await journal.HasFailed(revision, default));
        Assert.False(await journal.Try(revision, () => throw new InvalidOperationException("It is tried again."), default));
        await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        Assert.True(await journal.Try(Assert.Single(await journal.LastChanged(3, default)), () => Task.CompletedTask, default));
    }

    [Fact]
    public async Task Every_edit_is_announced()
    {
        var id = await NewProduct();
        await using var listener = await _data.OpenConnectionAsync();
        var heard = new List<string>();
        listener.Notification += (_, e) => heard.Add(e.Payload);
        await new NpgsqlCommand($"listen {RevisionStore.Channel}", listener).ExecuteNonQueryAsync();
        await Edit(id, "e1", "engineer", new SetField("w", "max", "12", "9"));
        Assert.True(await listener.WaitAsync(TimeSpan.FromSeconds(10)));
        Assert.Equal([$"{id}:1"], heard);
    }
}
