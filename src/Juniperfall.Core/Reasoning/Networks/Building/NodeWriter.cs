using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>Writes the nodes of a network, children before their nodes.</summary>
/// <param name="index">Of the model, whose lists constants are of.</param>
internal sealed class NodeWriter(ModelIndex index, CancellationToken cancel) : IArithmetic<int>
{
    private readonly Dictionary<string, Dictionary<string, int>> _valueIndexes = [];

    public List<Node> Nodes { get; } = [];
    public List<Domain<ExactEnd>> Domains { get; } = [];

    /// <summary>The node that is always true.</summary>
    public int True => _true ??= Constant(Value.Of(true));

    private int? _true;

    /// <summary>Adds a node.</summary>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public int Make(Operator op, DomainKind kind, params int[] children) => Make(new Node(op, children), kind);

    public int Make(Node node, DomainKind kind, ulong[]? bits = null)
    {
        cancel.ThrowIfCancellationRequested();
        Nodes.Add(node);
        const Outcomes any = Outcomes.Absent | Outcomes.Error;
        Domains.Add(kind switch
        {
            DomainKind.YesNo => Domain<ExactEnd>.YesNo(any | Outcomes.True | Outcomes.False),
            DomainKind.Number => Domain<ExactEnd>.Number(Interval<ExactEnd>.All, any | Outcomes.Present),
            _ => Domain<ExactEnd>.Choice(bits!, any | Outcomes.Present),
        });
        return Nodes.Count - 1;
    }

    public int Constant(Value value, string? listId = null)
    {
        Nodes.Add(new(Operator.Constant, []));
        Domains.Add(value.Kind switch
        {
            ValueKind.YesNo => Domain<ExactEnd>.YesNo(value.IsTrue ? Outcomes.True : Outcomes.False),
            ValueKind.Number => Domain<ExactEnd>.Number(Interval<ExactEnd>.Around(value.Number)),
            ValueKind.Choice => Domain<ExactEnd>.Choice(BitSet.Single(index.Lists[listId!].Values.Length, ValueIndex(listId!, value.Text!))),
            _ => throw new InvalidOperationException("Texts are not reasoned about."),
        });
        return Nodes.Count - 1;
    }

    /// <summary>The place of a value in its list.</summary>
    public int ValueIndex(string listId, string valueId)
    {
        if (!_valueIndexes.TryGetValue(listId, out var indexes))
        {
            indexes = [];
            foreach (var (value, i) in index.Lists[listId].Values.Select((v, i) => (v, i)))
                indexes.TryAdd(value.Id, i);
            _valueIndexes[listId] = indexes;
        }
        return indexes[valueId];
    }

    // ---- Arithmetic and logic -----------------------------------------------------------------------------------

    public int Of(Exact number) => Constant(Value.Of(number));
    public int Add(int a, int b) => Make(Operator.Add, DomainKind.Number, a, b);
    public int Multiply(int a, int b) => Make(Operator.Multiply, DomainKind.Number, a, b);
    public int Divide(int a, int b) => Make(Operator.Divide, DomainKind.Number, a, b);
    public int Greatest(int a, int b) => Make(Operator.Maximum, DomainKind.Number, a, b);

    public int Rounded(int number, int step, PriceRounding way) =>
        Make(way switch { PriceRounding.Up => Operator.Ceiling, PriceRounding.Down => Operator.Floor, _ => Operator.Round }, DomainKind.Number, number, step);

    public int Times(int a, Exact number) => number == Exact.One ? a : Multiply(a, Of(number));
    public int And(int a, int b) => a == True ? b : b == True ? a : Make(Operator.And, DomainKind.YesNo, a, b);
    public int Not(int a) => Make(Operator.Not, DomainKind.YesNo, a);
    public int Holds(int a) => Make(Operator.Holds, DomainKind.YesNo, a);
    public int Choose(int condition, int then, int otherwise) => condition == True ? then : Make(Operator.If, DomainKind.Number, condition, then, otherwise);

    /// <summary>A value where a condition holds, none otherwise.</summary>
    public int Where(int condition, int value) => condition == True
        ? value : Make(new Node(Operator.Where, [condition, value]), Domains[value].Kind, Domains[value].Bits);

    /// <summary>A number, or another one where it has no value.</summary>
    public int Else(int number, Exact otherwise) => Make(Operator.Else, DomainKind.Number, number, Of(otherwise));

    /// <summary>A number where a condition holds and it has one, nothing otherwise.</summary>
    public int OrNothing(int condition, int number) => Else(Where(condition, number), Exact.Zero);
}
