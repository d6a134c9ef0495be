using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Structures;

/// <summary>One step of a formula: a part of it as it is written, and what it comes to.</summary>
public sealed record WorkingStep(string Text, string Result);

/// <summary>Formulas worked out step by step, from the names up to the whole, as on paper.</summary>
public static class Working
{
    private const int MostSteps = 60;

    /// <param name="stored">The formula in stored form, written in the occurrence's assembly.</param>
    public static IReadOnlyList<WorkingStep> Of(BoundModel model, Evaluator evaluator, Occurrence at, string stored)
    {
        var steps = new List<WorkingStep>();
        if (stored.Length > 0 && Parser.Parse(StoredText.Show(stored, model.Index)) is { Root: { } root, Diagnostics.Length: 0 })
            Add(root);
        return steps;

        void Add(Syntax syntax)
        {
            // What an “if” does not take does not count.
            if (syntax is IfSyntax choice)
            {
                Add(choice.Condition);
                if (Evaluated(choice.Condition) is { Value: { HasValue: true } condition })
                    Add(condition.IsTrue || choice.Else is null ? choice.Then : choice.Else);
            }
            else
                foreach (var part in PartsOf(syntax))
                    Add(part);
            if (syntax is NumberSyntax or TextSyntax or YesNoSyntax or NoneSyntax || steps.Count >= MostSteps || Evaluated(syntax) is not { } done)
                return;
            var text = Printer.Print(syntax);
            if (steps.TrueForAll(s => s.Text != text))
                steps.Add(new(text, ShownValue.Of(model, done.Expression, done.Value)));
        }

        (Bound Expression, Quantities.Value Value)? Evaluated(Syntax syntax)
        {
            // A name that only means something beside another one, such as a code in a comparison, is no step of its own.
            if (model.Check(at.Assembly, Printer.Print(syntax), null) is not { Expression: { } expression } || expression is BoundLiteral)
                return null;
            return (expression, evaluator.Evaluate(expression, at.Prefix));
        }
    }

    private static IEnumerable<Syntax> PartsOf(Syntax syntax) => syntax switch
    {
        UnarySyntax unary => [unary.Operand],
        BinarySyntax binary => [binary.Left, binary.Right],
        BetweenSyntax between => [between.Item, between.Lower, between.Upper],
        InSyntax { Item: var item } => [item],
        CountingSyntax counting => counting.Conditions,
        // What a total counts with a condition is written for each instance by itself.
        CallSyntax { Where: null } call => call.Arguments,
        _ => [],
    };
}
