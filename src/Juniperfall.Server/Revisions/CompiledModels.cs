using System.Collections.Concurrent;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Bench;
using Juniperfall.Storage;

namespace Juniperfall.Server.Revisions;

/// <summary>A revision as it stood at one edit, ready to be asked.</summary>
public sealed class CompiledModel
{
    private readonly Lazy<Dictionary<string, Occurrence>> _occurrences;
    private readonly Lazy<ModelDocument> _shown;
    private readonly Lazy<Reasoner> _reasoner;
    private Reasoner? _earlier;
    private readonly ConcurrentDictionary<string, Task<Asked>> _asked = new();

    /// <param name="previous">The same revision before its latest edits, if it was compiled.</param>
    public CompiledModel(StoredRevision revision, LibraryFacts facts, CompiledModel? previous)
    {
        Revision = revision;
        Model = new(revision.Document, facts);
        Text = new(Model);
        Words = new(Model);
        _occurrences = new(() => Occurrence.All(Model).ToDictionary(o => o.Prefix));
        _shown = new(() => ShownDocument.Of(Model.Index));
        _earlier = previous is null ? null : previous._reasoner.IsValueCreated ? previous._reasoner.Value : previous._earlier;
        _reasoner = new(() => new(Model, previous: Interlocked.Exchange(ref _earlier, null)));
    }

    public StoredRevision Revision { get; }
    public BoundModel Model { get; }
    public PickText Text { get; }
    public Wording Words { get; }
    public ModelDocument Shown => _shown.Value;
    public Reasoner Reasoner => _reasoner.Value;

    /// <summary>How long a single question may take; what is not finished then says so.</summary>
    public static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(20);

    private const int MostKept = 200;

    /// <summary>
    /// The answer to a set of picks, worked out once for everyone who asks at the same time. It is not given up when one of
    /// them leaves: the next key mostly needs it.
    /// </summary>
    public Task<Asked> Ask(IReadOnlyList<Pick> picks)
    {
        if (_asked.Count > MostKept)
            _asked.Clear();
        return _asked.GetOrAdd(KeyOf(picks), _ => Task.Run(() => Asked.Of(this, picks)));
    }

    /// <summary>The answer to a set of picks where it is known already.</summary>
    public Asked? AskedAlready(IReadOnlyList<Pick> picks) => _asked.TryGetValue(KeyOf(picks), out var task) && task.IsCompletedSuccessfully ? task.Result : null;

    private static string KeyOf(IReadOnlyList<Pick> picks) => string.Join('\n', picks.Select(p => $"{p.Path}={p.Value.Kind}:{p.Value}"));

    /// <summary>What an asked or computed attribute is called at a path.</summary>
    public string LabelOf(string path) => At(path) is { } at ? Words.LabelOf(at.Occurrence, at.Row) : path;

    /// <summary>A value of the attribute at a path, as people read it.</summary>
    public string ValueAt(string path, Value value) => At(path)?.Row switch
    {
        _ when value.IsNothing => "none",
        AttributeRow row => Words.ValueOf(row, value),
        ComputedAttribute row => Words.ValueOf(row, value),
        _ => value.ToString(),
    };

    public (Occurrence Occurrence, NamedRow Row)? At(string path)
    {
        var slash = path.LastIndexOf('/') + 1;
        return _occurrences.Value.TryGetValue(path[..slash], out var occurrence) && Model.Index.Rows.GetValueOrDefault(path[slash..]) is NamedRow row ? (occurrence, row) : null;
    }

    /// <summary>The places where assemblies stand, parents first.</summary>
    public IEnumerable<Occurrence> Occurrences => _occurrences.Value.Values;

    public string NameOf(string rowId) => Model.Index.Rows.TryGetValue(rowId, out var row) ? Words.NameOf(row)
        : Model.Index.Lists.TryGetValue(rowId, out var list) ? list.Name
        : Model.Index.Assemblies.TryGetValue(rowId, out var assembly) ? assembly.Name : Model.Index.NameOf(rowId) ?? "something that is gone";
}

/// <summary>
/// Compiled revisions by the edit that they stand at. A copy is only a copy: whether it is the latest is asked of the
/// database each time, so that any number of servers agree.
/// </summary>
public sealed class CompiledModels(RevisionStore revisions, LibraryStore library)
{
    private const int MostKept = 24;
    private readonly ConcurrentDictionary<long, (RevisionMark Mark, long Library, CompiledModel Model, long Used)> _kept = new();
    private long _clock;

    public async Task<CompiledModel?> Get(long revisionId, CancellationToken cancel)
    {
        if (await revisions.Mark(revisionId, cancel) is not { } mark)
            return null;
        var live = await library.Load(cancel);
        _kept.TryGetValue(revisionId, out var kept);
        var model = kept.Model;
        if (model is null || kept.Mark != mark || (model.Revision.Facts is null && kept.Library != live.Version))
        {
            if (await revisions.Load(revisionId, cancel) is not { } revision)
                return null;
            model = new(revision, revision.Facts ?? live.Facts, kept.Model);
            mark = new(revision.Head, revision.State);
        }
        _kept[revisionId] = (mark, live.Version, model, Interlocked.Increment(ref _clock));
        if (_kept.Count > MostKept)
            _kept.TryRemove(_kept.MinBy(k => k.Value.Used).Key, out _);
        return model;
    }
}
