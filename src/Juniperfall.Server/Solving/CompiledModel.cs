using System.Collections.Concurrent;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>A revision as it stood at one edit, ready to be asked. All reasoning about it is done by the scheduler.</summary>
public sealed class CompiledModel
{
    private readonly Lazy<Dictionary<string, Occurrence>> _occurrences;
    private readonly Lazy<ModelDocument> _shown;
    private readonly Effectivities _effectivities;
    private readonly ConcurrentDictionary<Effectivity, Lazy<Reasoner>> _reasoners = new();
    private readonly ConcurrentDictionary<Effectivity, Reasoner> _earlier = new();
    private readonly ConcurrentDictionary<string, SharedAnswer> _asked = new();
    private readonly Scheduler _scheduler;
    private readonly Askers _askers;

    /// <param name="previous">The same revision before its latest edits, if it was compiled.</param>
    public CompiledModel(StoredRevision revision, LibraryFacts facts, CompiledModel? previous, Scheduler scheduler, Askers askers)
    {
        (_scheduler, _askers) = (scheduler, askers);
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

    /// <summary>How long a single question may take, from when its turn has come; what is not finished then says so.</summary>
    public static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(20);

    private const int MostKept = 200;
    private const int MostReasoners = 12;

    /// <summary>
    /// Asks the reasoner for a site and day when the turn of the person who asks has come. The time to build the reasoner counts, too.
    /// </summary>
    /// <param name="work">Given a token that is cancelled when time has run out, or whoever asked has gone.</param>
    public Task<T> Solve<T>(Effectivity at, Func<Reasoner, CancellationToken, T> work, CancellationToken cancel, Urgency urgency = Urgency.Question, TimeSpan? limit = null) =>
        _scheduler.Run(_askers.Person, urgency, limit ?? TimeLimit, time => work(ReasonerAt(at), time), cancel);

    /// <summary>The site and day that stands for all that make no more difference to the model than this one.</summary>
    public Effectivity Alike(Effectivity at) => _effectivities.Representative(at);

    /// <summary>The reasoner for a site and day; one stands for all that make no difference to the model. Only asked for by work of the scheduler.</summary>
    internal Reasoner ReasonerAt(Effectivity at)
    {
        var alike = Alike(at);
        if (_reasoners.Count > MostReasoners)
            _reasoners.Clear();
        return _reasoners.GetOrAdd(alike, _ => new(() => new(Model, alike, _earlier.TryRemove(alike, out var earlier) ? earlier : null))).Value;
    }

    /// <summary>
    /// The answer to a set of picks, worked out once for everyone who asks at the same time, and given up when nobody waits for it any more.
    /// What ran out of time is not kept: the next time it is gone on with.
    /// </summary>
    public async Task<Asked> Ask(IReadOnlyList<Pick> picks, Effectivity at, CancellationToken cancel)
    {
        if (_asked.Count > MostKept)
            foreach (var (old, answer) in _asked)
                if (answer.IsCompleted)
                    _asked.TryRemove(KeyValuePair.Create(old, answer));
        var key = KeyOf(picks, at);
        while (true)
        {
            var shared = _asked.GetOrAdd(key, _ => new SharedAnswer(given => _scheduler.Run(_askers.Person, Urgency.Answer, TimeLimit, time => Asked.Of(this, ReasonerAt(at), picks, at, time), given)));
            if (!shared.TryJoin())
            {
                _asked.TryRemove(KeyValuePair.Create(key, shared));
                continue;
            }
            try
            {
                var asked = await shared.Task.WaitAsync(cancel);
                if (!asked.Answer.Exact)
                    _asked.TryRemove(KeyValuePair.Create(key, shared));
                return asked;
            }
            catch (Exception) when (!shared.IsSound)
            {
                _asked.TryRemove(KeyValuePair.Create(key, shared));
                throw;
            }
            finally
            {
                shared.Leave();
            }
        }
    }

    /// <summary>The answer to a set of picks where it is known already.</summary>
    public Asked? AskedAlready(IReadOnlyList<Pick> picks, Effectivity at) => _asked.TryGetValue(KeyOf(picks, at), out var shared) && shared.IsCompleted && shared.Task.IsCompletedSuccessfully ? shared.Task.Result : null;

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
