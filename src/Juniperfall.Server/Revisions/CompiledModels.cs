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
    private readonly Effectivities _effectivities;
    private readonly ConcurrentDictionary<Effectivity, Lazy<Reasoner>> _reasoners = new();
    private readonly ConcurrentDictionary<Effectivity, Reasoner> _earlier = new();
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
        _effectivities = new(revision.Document, facts.CostsDependOnSite);
        if (previous is null)
            return;
        foreach (var (at, reasoner) in previous._earlier)
            _earlier[at] = reasoner;
        foreach (var (at, reasoner) in previous._reasoners)
            if (reasoner.IsValueCreated)
                _earlier[at] = reasoner.Value;
    }

    public StoredRevision Revision { get; }
    public BoundModel Model { get; }
    public PickText Text { get; }
    public Wording Words { get; }
    public ModelDocument Shown => _shown.Value;

    /// <summary>The reasoner for a site and day; one stands for all that make no difference to the model.</summary>
    public Reasoner Reasoner(Effectivity at)
    {
        var alike = _effectivities.Representative(at);
        if (_reasoners.Count > MostReasoners)
            _reasoners.Clear();
        return _reasoners.GetOrAdd(alike, _ => new(() => new(Model, alike, _earlier.TryRemove(alike, out var earlier) ? earlier : null))).Value;
    }

    /// <summary>How long a single question may take; what is not finished then says so.</summary>
    public static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(20);

    private const int MostKept = 200;
    private const int MostReasoners = 12;

    /// <summary>
    /// The answer to a set of picks, worked out once for everyone who asks at the same time. It is not given up when one of
    /// them leaves: the next key mostly needs it.
    /// </summary>
    public Task<Asked> Ask(IReadOnlyList<Pick> picks, Effectivity at)
    {
        if (_asked.Count > MostKept)
            _asked.Clear();
        return _asked.GetOrAdd(KeyOf(picks, at), _ => Task.Run(() => Asked.Of(this, picks, at)));
    }

    /// <summary>The answer to a set of picks where it is known already.</summary>
    public Asked? AskedAlready(IReadOnlyList<Pick> picks, Effectivity at) => _asked.TryGetValue(KeyOf(picks, at), out var task) && task.IsCompletedSuccessfully ? task.Result : null;

    private string KeyOf(IReadOnlyList<Pick> picks, Effectivity at) =>
        // The site matters to stores even where it does not matter to the rules.
        string.Join('\n', picks.Select(p => $"{p.Path}={p.Value.Kind}:{p.Value}").Prepend($"{at.Site} {_effectivities.Representative(at).Date:O}"));

    /// <summary>The code of a site as the library writes it, empty for none in particular; null where there is no such site.</summary>
    public string? SiteOf(string? code) => string.IsNullOrEmpty(code) ? "" : Model.Facts.Sites.Keys.FirstOrDefault(k => k.Equals(code, StringComparison.OrdinalIgnoreCase));

    /// <summary>What an asked or computed attribute is called at a path.</summary>
    public string LabelOf(string path) => At(path) is { } at ? Words.LabelOf(at.Occurrence, at.Row, path) : path;

    /// <summary>A value of the attribute at a path, as people read it.</summary>
    public string ValueAt(string path, Value value) => At(path)?.Row switch
    {
        _ when value.IsNothing => "none",
        AttributeRow row => Words.ValueOf(row, value),
        ComputedAttribute row => Words.ValueOf(row, value),
        _ => value.ToString(),
    };

    public (Occurrence Occurrence, NamedRow Row)? At(string path) =>
        _occurrences.Value.TryGetValue(RowPath.Prefix(path), out var occurrence) && Model.Index.Rows.GetValueOrDefault(RowPath.RowId(path)) is NamedRow row ? (occurrence, row) : null;

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
