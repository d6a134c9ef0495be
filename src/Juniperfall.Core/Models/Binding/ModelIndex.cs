using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Look-ups over one document: rows, lists, values and assemblies by id, names by assembly without regard to case.</summary>
public sealed class ModelIndex
{
    public ModelDocument Document { get; }

    /// <summary>What expressions can read of the library.</summary>
    public LibraryFacts Facts { get; }

    /// <summary>Every assembly by its id, also those of what is reused, and the head of a reused model by the id of its entry.</summary>
    public FrozenDictionary<string, AssemblyDefinition> Assemblies { get; }
    public FrozenDictionary<string, Row> Rows { get; }
    public FrozenDictionary<string, AssemblyDefinition> AssemblyOfRow { get; }
    public FrozenDictionary<string, ValueList> Lists { get; }
    public FrozenDictionary<string, (ValueList List, ListValue Value)> Values { get; }
    public FrozenDictionary<string, string> NamesById { get; }

    private readonly FrozenDictionary<(string AssemblyId, string Name), NamedRow> _names;
    private readonly FrozenDictionary<string, ReusedModel> _reusedBy;
    private readonly FrozenDictionary<string, LibraryFacts> _facts;

    public ModelIndex(ModelDocument document, LibraryFacts? facts = null)
    {
        Document = document;
        Facts = facts ?? LibraryFacts.Empty;
        List<AssemblyDefinition> assemblies = [.. document.AllAssemblies];
        List<ValueList> lists = [.. document.AllLists];
        var heads = document.Reused.SelectMany(r => r.Assemblies.Where(a => a.Id == r.Root).Select(a => (r.Id, a)));
        Assemblies = First(assemblies.Select(a => (a.Id, a)).Concat(heads));
        Rows = First(assemblies.SelectMany(a => a.Rows).Select(r => (r.Id, r)));
        AssemblyOfRow = First(assemblies.SelectMany(a => a.Rows.Select(r => (r.Id, a))));
        Lists = First(lists.Select(l => (l.Id, l)));
        Values = First(lists.SelectMany(l => l.Values.Select(v => (v.Id, (l, v)))));
        _reusedBy = First(document.Reused.SelectMany(r => r.Assemblies.Select(a => (a.Id, r))));
        _facts = First(document.Reused.Where(r => !r.Items.IsEmpty).Select(r => (r.Id, Facts with { Items = Facts.Items.SetItems(r.Items) })));
        _names = First(assemblies.SelectMany(a => a.Rows.OfType<NamedRow>().Select(r => ((a.Id, Names.Fold(r.Name)), r))));
        NamesById = First(
            assemblies.SelectMany(a => a.Rows.OfType<NamedRow>()).Select(r => (r.Id, r.Name))
            .Concat(lists.SelectMany(l => l.Values).Select(v => (v.Id, v.Code)))
            .Concat(lists.SelectMany(l => l.Properties).Select(p => (p.Id, p.Name)))
            .Concat(assemblies.SelectMany(a => a.Rows.OfType<CombinationGrid>()).SelectMany(g => g.Columns).Select(c => (c.Id, c.Name))));
    }

    // Duplicate ids and names are findings of their own; look-ups take the first.
    private static FrozenDictionary<TKey, T> First<TKey, T>(IEnumerable<(TKey Key, T Value)> pairs) where TKey : notnull
    {
        var result = new Dictionary<TKey, T>();
        foreach (var (key, value) in pairs)
            result.TryAdd(key, value);
        return result.ToFrozenDictionary();
    }

    /// <summary>The entry that an assembly belongs to; null for those of the document itself.</summary>
    public ReusedModel? ReusedModelOf(AssemblyDefinition assembly) => _reusedBy.GetValueOrDefault(assembly.Id);

    /// <summary>Whether a row stands in the document itself and not in something that it reuses.</summary>
    public bool IsOwn(Row row) => !AssemblyOfRow.TryGetValue(row.Id, out var assembly) || ReusedModelOf(assembly) is null;

    /// <summary>The number that people quote a rule by, of a reused model with the code of its product: “§12”, “CS §12”; null for other rows and rules
    /// without one.</summary>
    public string? MarkOf(Row row) => row is not IRule { Number: > 0 } rule ? null
        : AssemblyOfRow.TryGetValue(row.Id, out var assembly) && ReusedModelOf(assembly) is { } reused ? $"{reused.Code} §{rule.Number}" : $"§{rule.Number}";

    /// <summary>The library as the expressions of an assembly read it: in a reused model, items as they were at its release.</summary>
    public LibraryFacts FactsOf(AssemblyDefinition assembly) => ReusedModelOf(assembly) is { } reused ? _facts.GetValueOrDefault(reused.Id, Facts) : Facts;

    public AssemblyDefinition? Root => Assemblies.GetValueOrDefault(Document.Root);

    public NamedRow? Named(AssemblyDefinition assembly, string name) => _names.GetValueOrDefault((assembly.Id, Names.Fold(name)));

    // A list never changes, and every cell of a grid looks for its value.
    private static readonly ConditionalWeakTable<ValueList, Dictionary<string, ListValue>> Codes = new();

    /// <summary>The value of a list that has a code, in any case; of several, the first.</summary>
    public static ListValue? ValueByCode(ValueList list, string code) => Codes.GetValue(list, ByCode).GetValueOrDefault(Names.Fold(code));

    private static Dictionary<string, ListValue> ByCode(ValueList list)
    {
        var values = new Dictionary<string, ListValue>();
        foreach (var value in list.Values)
            values.TryAdd(Names.Fold(value.Code), value);
        return values;
    }

    /// <summary>The name as people see it of anything that an expression can refer to.</summary>
    public string? NameOf(string id) => NamesById.GetValueOrDefault(id);

    /// <summary>The instances of a subassembly; one that was never given any has a single one.</summary>
    public static ImmutableArray<Instance> InstancesOf(Subassembly subassembly) =>
        subassembly.Instances.IsDefaultOrEmpty ? [new Instance { Id = "1" }] : subassembly.Instances;
}
