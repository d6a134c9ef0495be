using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>The propagators over one store, by operator: to each operator belongs the one family that knows it.</summary>
internal sealed class Propagators<T> where T : struct, IEnd<T>
{
    private readonly Node[] _nodes;
    private readonly TablePropagator<T> _tables;
    private readonly Propagator<T>?[] _families = new Propagator<T>?[Enum.GetValues<Operator>().Length];

    /// <param name="spent">Those over a store that is not used any more: what their tables keep is used again.</param>
    public Propagators(DomainStore<T> store, Propagators<T>? spent = null)
    {
        _nodes = store.Nodes;
        _tables = new(store, spent?._tables);
        Put(new LogicPropagator<T>(store), Operator.And, Operator.Or, Operator.SameYesNo, Operator.OtherYesNo, Operator.Not, Operator.Holds, Operator.IsNone,
            Operator.Presence);
        Put(new CountingPropagator<T>(store), Operator.Counting);
        Put(new ConditionalPropagator<T>(store), Operator.If, Operator.Where, Operator.Else);
        Put(new ChoicePropagator<T>(store), Operator.SameChoice, Operator.OtherChoice, Operator.Property);
        Put(new ComparisonPropagator<T>(store), Operator.Less, Operator.LessOrEqual, Operator.Equal, Operator.NotEqual);
        Put(new ArithmeticPropagator<T>(store), Operator.Add, Operator.Subtract, Operator.Negate, Operator.Multiply, Operator.Divide, Operator.Power,
            Operator.Absolute,
            Operator.Minimum, Operator.Maximum, Operator.SquareRoot, Operator.ToNumber, Operator.LeastOf, Operator.GreatestOf);
        Put(new RoundingPropagator<T>(store), Operator.Ceiling, Operator.Floor, Operator.Round);
        Put(new LexicographicPropagator<T>(store), Operator.InOrder);
        Put(_tables, Operator.Table, Operator.Figure);
    }

    private void Put(Propagator<T> family, params ReadOnlySpan<Operator> operators)
    {
        foreach (var one in operators)
            _families[(int)one] = family;
    }

    /// <summary>Narrows a node and its children to what they allow each other. False: nothing is left.</summary>
    public bool Revise(int n)
    {
        var node = _nodes[n];
        return _families[(int)node.Operator]?.Revise(n, node) ?? true;
    }
}
