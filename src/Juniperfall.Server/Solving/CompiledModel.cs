using System.Threading.Channels;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>A revision as it stood at one edit, ready to be asked. All reasoning about it is done by the scheduler.</summary>
public sealed class CompiledModel
{
    private readonly Lazy<ShownDocument> _shown;
    private readonly Effectivities _effectivities;
    private readonly KeptReasoners _reasoners;
    private readonly KeptAnswers _answers;
    private readonly Scheduler _scheduler;
    private readonly Askers _askers;

    /// <param name="previous">The same revision before its latest edits, if it was compiled.</param>
    /// <param name="warm">What other processes have found out of the revision, packed.</param>
    public CompiledModel(StoredRevision revision, BoundModel model, CompiledModel? previous, IReadOnlyDictionary<Effectivity, byte[]> warm,
        Scheduler scheduler, Askers askers, CacheBudget budget)
    {
        (_scheduler, _askers) = (scheduler, askers);
        Revision = revision;
        Model = model;
        Text = new(Model);
        Words = new(Model);
        var before = previous?._shown is { IsValueCreated: true } known ? known.Value : null;
        _shown = new(() => new(Model.Index, before));
        _effectivities = new(revision.Document, model.Facts.CostsDependOnSite);
        EstimatedBytes = BytesOfModel + (Model.Index.Rows.Count * BytesOfRow);
        _reasoners = new(Model, EstimatedBytes, previous?._reasoners, warm, scheduler, budget);
        _answers = new(budget);
    }

    private const long BytesOfModel = 256 * 1024, BytesOfRow = 4 * 1024;

    /// <summary>What it holds of memory without its reasoners and answers, by the number of its rows.</summary>
    internal long EstimatedBytes { get; }

    /// <summary>The same as it is. What the library holds counts nowhere else where the revision carries it.</summary>
    internal long Bytes() => RetainedSize
        .Of(this, reached => reached is KeptReasoners or KeptAnswers or Solving.Scheduler or Askers or CacheBudget
        || (reached is LibraryFacts && Revision.Facts is null));

    /// <summary>Nothing of it is kept any longer.</summary>
    internal void Forget()
    {
        _reasoners.Forget();
        _answers.Forget();
    }

    public StoredRevision Revision { get; }

    /// <summary>The version of the library that it was compiled with; zero for a revision that carries its own.</summary>
    public long LibraryVersion { get; init; }

    /// <summary>What the product is to bring at the least, in percent of the price; null where that is not set.</summary>
    public Exact? LeastMargin => Revision.LeastMargin is { } least ? Exact.Parse(least) : null;

    public BoundModel Model { get; }
    public PickText Text { get; }
    public ModelWording Words { get; }
    public ModelDocument Shown => _shown.Value.Document;

    /// <summary>How long a single question may take, from when its turn has come; what is not finished then says so.</summary>
    public static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(20);

    /// <summary>
    /// Asks the reasoner for a site and day when the turn of the person who asks has come. The time to build the reasoner counts, too.
    /// </summary>
    /// <param name="work">Given a token that is cancelled when time has run out, or whoever asked has gone.</param>
    public Task<T> Solve<T>(Effectivity at, Func<Reasoner, CancellationToken, T> work, CancellationToken cancel, Urgency urgency = Urgency.Question,
        TimeSpan? limit = null) =>
        _scheduler.Run(_askers.Person, urgency, limit ?? TimeLimit, time => _reasoners.Use(Alike(at), reasoner => work(reasoner, time), time), cancel);

    /// <summary>Works on something that needs no reasoner, though it grows with the model or with what is asked, when the turn of the person who asks has
    /// come.</summary>
    public Task<T> InTurn<T>(Func<T> work, CancellationToken cancel, Urgency urgency = Urgency.Question) =>
        _scheduler.Run(_askers.Person, urgency, TimeLimit, _ => work(), cancel);

    /// <summary>The site and day that stands for all that make no more difference to the model than this one.</summary>
    public Effectivity Alike(Effectivity at) => _effectivities.Representative(at);

    /// <summary>The answer to a set of picks, worked out once for everyone who asks.</summary>
    /// <param name="parts">Given what is known until then, where it takes longer.</param>
    public Task<Asked> Ask(Question question, Effectivity at, CancellationToken cancel, ChannelWriter<PartialAnswer>? parts = null) =>
        _answers.Get(KeyOf(question, at), (progress, given) => _scheduler.Run(_askers.Person, Urgency.Answer, TimeLimit, time =>
            _reasoners.Use(Alike(at), reasoner => Asked.Of(this, reasoner, question, at, progress.Look, time), time), given), parts, cancel);

    /// <summary>The answer to a set of picks beside which nothing was filled in.</summary>
    public Task<Asked> Ask(IReadOnlyList<Pick> picks, Effectivity at, CancellationToken cancel) => Ask(new Question([.. picks]), at, cancel);

    /// <summary>The answer to a set of picks where it is known already.</summary>
    public Asked? AskedAlready(Question question, Effectivity at) => _answers.Known(KeyOf(question, at));

    private string KeyOf(Question question, Effectivity at) =>
        // The site matters to stores even where it does not matter to the rules.
        string.Join('\n', question.Picks.Select(Written).Concat(question.FillIns.Select(f => $"~{Written(f)}"))
            .Prepend($"{at.Site} {_effectivities.Representative(at).Date:O}"));

    private static string Written(Pick pick) => $"{pick.Path}={pick.Value.Kind}:{pick.Value}";

    /// <summary>The code of a site as the library writes it, empty for none in particular; null where there is no such site.</summary>
    public string? SiteOf(string? code) => string.IsNullOrEmpty(code)
        ? "" : Model.Facts.Sites.Keys.FirstOrDefault(k => k.Equals(code, StringComparison.OrdinalIgnoreCase));

    /// <summary>What an asked or computed attribute is called at a path.</summary>
    public string LabelOf(string path) => Words.LabelAt(path);

    /// <summary>A value of the attribute at a path, as people read it.</summary>
    public string ValueAt(string path, Value value) => Words.ValueAt(path, value);

    public (Occurrence Occurrence, NamedRow Row)? At(string path) => Words.At(path);

    /// <summary>The places where assemblies stand, parents first.</summary>
    public IEnumerable<Occurrence> Occurrences => Words.Places.Values;

    /// <summary>What a row is called, and the id of its assembly; empty where there is no such row.</summary>
    public (string Name, string AssemblyId) RowNamed(string rowId) =>
        (Model.Index.Rows.ContainsKey(rowId) ? NameOf(rowId) : "", Model.Index.AssemblyOfRow.GetValueOrDefault(rowId)?.Id ?? "");

    public string NameOf(string rowId) => Model.Index.Rows.TryGetValue(rowId, out var row) ? Words.NameOf(row)
        : Model.Index.Lists.TryGetValue(rowId, out var list) ? list.Name
        : Model.Index.Assemblies.TryGetValue(rowId, out var assembly) ? assembly.Name : Model.Index.NameOf(rowId) ?? "something that is gone";
}
