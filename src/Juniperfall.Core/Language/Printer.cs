using System.Text;

namespace Juniperfall.Core.Language;

/// <summary>Prints an expression in canonical form: one blank around operators, parentheses only where needed. Printing, reading and printing again gives the
/// same text.</summary>
public static class Printer
{
    public static string Print(Syntax syntax)
    {
        var text = new StringBuilder();
        Write(text, syntax, 0);
        return text.ToString();
    }

    /// <summary>A name as it stands in an expression: in quotes where it has to, with a quote inside written twice.</summary>
    public static string Name(string name) => Lexer.IsPlainName(name) ? name : $"'{name.Replace("'", "''", StringComparison.Ordinal)}'";

    private static int Precedence(Syntax syntax) => syntax switch
    {
        IfSyntax => 0,
        BinarySyntax b => Precedence(b.Operator),
        UnarySyntax { Operator: UnaryOperator.Not } => 3,
        InSyntax or BetweenSyntax or HasSyntax => 4,
        UnarySyntax => 7,
        NumberSyntax n when n.Number.Sign < 0 => 7,
        _ => 9,
    };

    private static int Precedence(BinaryOperator op) => op switch
    {
        BinaryOperator.Or => 1,
        BinaryOperator.And => 2,
        BinaryOperator.Add or BinaryOperator.Subtract => 5,
        BinaryOperator.Multiply or BinaryOperator.Divide => 6,
        BinaryOperator.Power => 8,
        _ => 4,
    };

    public static string Symbol(BinaryOperator op) => op switch
    {
        BinaryOperator.Add => "+",
        BinaryOperator.Subtract => "-",
        BinaryOperator.Multiply => "*",
        BinaryOperator.Divide => "/",
        BinaryOperator.Power => "^",
        BinaryOperator.Equal => "=",
        BinaryOperator.NotEqual => "<>",
        BinaryOperator.Less => "<",
        BinaryOperator.LessOrEqual => "<=",
        BinaryOperator.Greater => ">",
        BinaryOperator.GreaterOrEqual => ">=",
        BinaryOperator.And => "and",
        _ => "or",
    };

    private static void Write(StringBuilder text, Syntax syntax, int minimum)
    {
        var bracketed = Precedence(syntax) < minimum;
        if (bracketed)
            text.Append('(');
        switch (syntax)
        {
            case NumberSyntax number:
                text.Append(number.Number);
                if (number.Unit.Code.Length > 0)
                    text.Append(' ').Append(number.Unit.Code);
                break;
            case YesNoSyntax yesNo:
                text.Append(yesNo.Value ? "yes" : "no");
                break;
            case NoneSyntax:
                text.Append("none");
                break;
            case TextSyntax t:
                text.Append('"').Append(t.Text).Append('"');
                break;
            case NameSyntax name:
                text.Append(name.Id is null ? Name(name.Name) : $"{Lexer.ReferenceOpen}{name.Id}{Lexer.ReferenceClose}");
                break;
            case MemberSyntax member:
                Write(text, member.Target, 9);
                text.Append('.');
                Write(text, member.Member, 9);
                break;
            case IndexSyntax index:
                Write(text, index.Target, 9);
                text.Append('[').Append(index.Index).Append(']');
                break;
            case UnarySyntax { Operator: UnaryOperator.Not } not:
                text.Append("not ");
                Write(text, not.Operand, 3);
                break;
            case UnarySyntax negate:
                // Brackets keep −(5 m) apart from the number −5 m.
                text.Append('-');
                Write(text, negate.Operand, negate.Operand is NumberSyntax ? 10 : 7);
                break;
            case BinarySyntax binary:
                var level = Precedence(binary.Operator);
                var nonAssociative = level is 4 or 8;
                Write(text, binary.Left, nonAssociative ? level + 1 : level);
                text.Append(' ').Append(Symbol(binary.Operator)).Append(' ');
                Write(text, binary.Right, binary.Right is BinarySyntax { Operator: var next } && next == binary.Operator
                    && Parser.IsAssociative(next) ? level : level + 1);
                break;
            case IfSyntax conditional:
                text.Append("if ");
                Write(text, conditional.Condition, 1);
                text.Append(" then ");
                Write(text, conditional.Then, 1);
                if (conditional.Else is not null)
                {
                    text.Append(" else ");
                    Write(text, conditional.Else, 0);
                }
                break;
            case InSyntax inside:
                Write(text, inside.Item, 5);
                text.Append(inside.Negated ? " not in (" : " in (");
                WriteList(text, inside.Options);
                text.Append(')');
                break;
            case HasSyntax has:
                Write(text, has.Item, 5);
                text.Append(" has ");
                Write(text, has.Value, 5);
                break;
            case BetweenSyntax between:
                Write(text, between.Item, 5);
                text.Append(" between ");
                Write(text, between.Lower, 5);
                text.Append(" and ");
                Write(text, between.Upper, 5);
                break;
            case CallSyntax call:
                text.Append(call.Function.Name.ToLowerInvariant()).Append('(');
                WriteList(text, call.Arguments);
                if (call.Where is not null)
                {
                    text.Append(" where ");
                    Write(text, call.Where, 0);
                }
                text.Append(')');
                break;
            case CountingSyntax counting:
                text.Append(counting.Kind switch { CountingKind.Exactly => "exactly ", CountingKind.AtMost => "at most ", _ => "at least " });
                text.Append(counting.Count).Append(" of (");
                WriteList(text, counting.Conditions);
                text.Append(')');
                break;
        }
        if (bracketed)
            text.Append(')');
    }

    private static void WriteList(StringBuilder text, IReadOnlyList<Syntax> items)
    {
        for (var i = 0; i < items.Count; i++)
        {
            if (i > 0)
                text.Append(", ");
            Write(text, items[i], 0);
        }
    }
}
