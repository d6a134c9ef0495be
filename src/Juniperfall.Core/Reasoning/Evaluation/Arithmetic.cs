using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Evaluation;

/// <summary>What an arithmetic operator means on exact numbers: for all evaluators the same.</summary>
internal static class Arithmetic
{
    /// <summary>
    /// The result in base units; null where it cannot be computed: a division by zero, the root of a negative number, a step that is not
    /// above zero, or a result of more than <see cref="Limits.MostBits"/>.
    /// </summary>
    /// <param name="b">The second operand, or the step to round to; for operators of one operand without meaning.</param>
    /// <param name="exponent">For <see cref="Operator.Power"/> only.</param>
    public static Exact? Compute(Operator op, Exact a, Exact b, int exponent = 0) =>
        Unbounded(op, a, b, exponent) is { } result && !result.IsTooLarge ? result : null;

    private static Exact? Unbounded(Operator op, Exact a, Exact b, int exponent) => op switch
    {
        Operator.Add => a + b,
        Operator.Subtract => a - b,
        Operator.Negate => -a,
        Operator.Multiply => a * b,
        Operator.Divide => b.IsZero ? null : a / b,
        Operator.Power => exponent < 0 && a.IsZero ? null : a.Power(exponent),
        Operator.Absolute => a.Abs(),
        Operator.SquareRoot => a.Sign < 0 ? null : a.Sqrt(),
        Operator.Ceiling => b.Sign > 0 ? (a / b).Ceiling() * b : null,
        Operator.Floor => b.Sign > 0 ? (a / b).Floor() * b : null,
        Operator.Round => b.Sign > 0 ? (a / b).Round() * b : null,
        Operator.Minimum or Operator.LeastOf => Exact.Min(a, b),
        Operator.Maximum or Operator.GreatestOf => Exact.Max(a, b),
        _ => throw new ArgumentOutOfRangeException(nameof(op), op, "This is no arithmetic operator."),
    };

    public static bool Compare(BinaryOperator op, Exact a, Exact b) => op switch
    {
        BinaryOperator.Equal => a == b,
        BinaryOperator.NotEqual => a != b,
        BinaryOperator.Less => a < b,
        BinaryOperator.LessOrEqual => a <= b,
        BinaryOperator.Greater => a > b,
        BinaryOperator.GreaterOrEqual => a >= b,
        _ => throw new ArgumentOutOfRangeException(nameof(op), op, "This is no comparison."),
    };

    public static Operator Of(BinaryOperator op) => op switch
    {
        BinaryOperator.Add => Operator.Add,
        BinaryOperator.Subtract => Operator.Subtract,
        BinaryOperator.Multiply => Operator.Multiply,
        BinaryOperator.Divide => Operator.Divide,
        BinaryOperator.Power => Operator.Power,
        _ => throw new ArgumentOutOfRangeException(nameof(op), op, "This is no arithmetic operator."),
    };

    public static Operator Of(Function function) => function switch
    {
        Function.Ceiling => Operator.Ceiling,
        Function.Floor => Operator.Floor,
        Function.Round => Operator.Round,
        Function.Absolute => Operator.Absolute,
        Function.Minimum => Operator.Minimum,
        Function.Maximum => Operator.Maximum,
        _ => Operator.SquareRoot,
    };
}
