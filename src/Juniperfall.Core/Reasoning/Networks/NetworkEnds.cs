using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>The numbers of a network written as interval ends of one kind, once for all solvers over it.</summary>
internal sealed class NetworkEnds<T> where T : struct, IEnd<T>
{
    private readonly (Interval<T> Origin, Interval<T> Step)[] _grids;

    public NetworkEnds(Network network)
    {
        _grids = [.. network.Variables.Select(v => (Interval<T>.Around(v.Origin), Interval<T>.Around(v.Step)))];
        var cells = new Dictionary<CompiledGrid, (Interval<T>, Interval<T>)[][][]>(ReferenceEqualityComparer.Instance);
        Initial = new Domain<T>[network.Nodes.Length];
        Properties = new Interval<T>[network.Nodes.Length][];
        Figures = new Interval<T>[network.Nodes.Length][];
        Cells = new (Interval<T>, Interval<T>)[network.Nodes.Length][][][];
        for (var n = 0; n < Initial.Length; n++)
        {
            var (node, exactly) = (network.Nodes[n], network.Initial[n]);
            Initial[n] = new()
            {
                Kind = exactly.Kind,
                Outcomes = exactly.Outcomes,
                Bits = exactly.Bits,
                Numbers = new(exactly.Numbers.Low.Number is { } low ? T.Down(low) : T.NegativeInfinity,
                    exactly.Numbers.High.Number is { } high ? T.Up(high) : T.PositiveInfinity),
            };
            if (node.Variable is { } variable)
            {
                (Initial[n].First, Initial[n].Last) = (variable.Initial.First, variable.Initial.Last);
                if (exactly.Kind == DomainKind.Number)
                    Initial[n].Numbers = Between(variable.Index, variable.Initial.First, variable.Initial.Last);
            }
            if (node.PropertyValues is { } properties)
                Properties[n] = [.. properties.Select(Around)];
            if (node.Operator == Operator.Figure)
                Figures[n] = [.. node.Figures.Select(Around)];
            if (node.Grid is { } grid)
            {
                if (!cells.TryGetValue(grid, out var known))
                    cells[grid] = known = [.. grid.Rows.Select(r => r.Select(RangesOf).ToArray())];
                Cells[n] = known;
            }
        }
    }

    public Domain<T>[] Initial { get; }

    /// <summary>By node: the property of each value of the list, and the figure of each row of the grid.</summary>
    public Interval<T>[]?[] Properties { get; }
    public Interval<T>[]?[] Figures { get; }

    /// <summary>By node, row and column: the ranges of numbers that a cell stands for, rounded outward and inward.</summary>
    public (Interval<T> Outer, Interval<T> Inner)[][][]?[] Cells { get; }

    private static Interval<T> Around(Value value) => value.Kind == ValueKind.Number ? Interval<T>.Around(value.Number) : Interval<T>.All;

    private static (Interval<T>, Interval<T>)[] RangesOf(CompiledCell cell) =>
        [.. cell.Cell.Values.Where(v => v.Kind == ValueKind.Number).Select(v => RangeOf(v.Number, v.Number)),
            .. cell.Cell.Ranges.Select(r => RangeOf(r.Low, r.High))];

    private static (Interval<T> Outer, Interval<T> Inner) RangeOf(Exact? low, Exact? high) => (
        new(low is { } l ? T.Down(l) : T.NegativeInfinity, high is { } h ? T.Up(h) : T.PositiveInfinity),
        new(low is { } m ? T.Up(m) : T.NegativeInfinity, high is { } i ? T.Down(i) : T.PositiveInfinity));

    public T LowAt(int variable, long step) =>
        T.AddDown(_grids[variable].Origin.Low, T.MultiplyDown(T.Of(step), step < 0 ? _grids[variable].Step.High : _grids[variable].Step.Low));
    public T HighAt(int variable, long step) =>
        T.AddUp(_grids[variable].Origin.High, T.MultiplyUp(T.Of(step), step < 0 ? _grids[variable].Step.Low : _grids[variable].Step.High));
    public Interval<T> Between(int variable, long first, long last) => new(LowAt(variable, first), HighAt(variable, last));

    /// <summary>The step that is surely not above the first one at or above a number, give or take a few; for a start of counting.</summary>
    public long Near(int variable, T number) =>
        (long)Math.Clamp(Math.Floor((number.ToDouble() - _grids[variable].Origin.Low.ToDouble()) / _grids[variable].Step.Low.ToDouble()), -MostSteps,
            MostSteps);

    /// <summary>Beyond the most steps that a model may have (`RowChecks`), and still exact in a double.</summary>
    public const double MostSteps = 1e15;
}
