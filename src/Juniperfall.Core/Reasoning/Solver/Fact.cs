using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// What is true of a solution, in a form that can be assumed: a literal, or a bound of a number. The bound of an asked
/// number is a step, that of a computed one a number; it says “does not apply, or lies at or beyond it”.
/// </summary>
internal readonly record struct Fact(int Literal, int Node, bool Upper, double Bound)
{
    public static Fact Of(int literal) => new(literal, -1, false, 0);
    public static Fact AtLeast(int node, double bound) => new(-1, node, false, bound);
    public static Fact AtMost(int node, double bound) => new(-1, node, true, bound);
    public bool IsBound => Literal < 0;
}
