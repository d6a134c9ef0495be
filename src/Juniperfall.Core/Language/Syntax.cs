using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

public enum UnaryOperator { Negate, Not }

public enum BinaryOperator { Add, Subtract, Multiply, Divide, Power, Equal, NotEqual, Less, LessOrEqual, Greater, GreaterOrEqual, And, Or }

public enum CountingKind { Exactly, AtMost, AtLeast }

/// <summary>An expression as it was written, before names are looked up. Immutable, with the place of every part.</summary>
/// <param name="Height">How many parts stand in one another, this one counted: at most <see cref="Limits.HighestExpression"/>.</param>
public abstract record Syntax(Span Span, int Height = 1)
{
    private protected static int Above(params ReadOnlySpan<Syntax?> parts)
    {
        var highest = 0;
        foreach (var part in parts)
            highest = Math.Max(highest, part?.Height ?? 0);
        return highest + 1;
    }
}

public sealed record NumberSyntax(Span Span, Exact Number, Unit Unit) : Syntax(Span);
public sealed record YesNoSyntax(Span Span, bool Value) : Syntax(Span);
public sealed record NoneSyntax(Span Span) : Syntax(Span);
public sealed record TextSyntax(Span Span, string Text) : Syntax(Span);

/// <summary>A name; <see cref="Id"/> is set where the stored form already knows what it means.</summary>
public sealed record NameSyntax(Span Span, string Name, string? Id) : Syntax(Span);

/// <summary><c>target.name</c>.</summary>
public sealed record MemberSyntax(Span Span, Syntax Target, NameSyntax Member) : Syntax(Span, Above(Target));

/// <summary><c>target[2]</c>: one instance of a subassembly.</summary>
public sealed record IndexSyntax(Span Span, Syntax Target, int Index) : Syntax(Span, Above(Target));
public sealed record UnarySyntax(Span Span, UnaryOperator Operator, Syntax Operand) : Syntax(Span, Above(Operand));
public sealed record BinarySyntax(Span Span, BinaryOperator Operator, Syntax Left, Syntax Right) : Syntax(Span, Above(Left, Right));

/// <summary><c>if … then … else …</c>; without else it is a statement: whenever the first holds, so does the second.</summary>
public sealed record IfSyntax(Span Span, Syntax Condition, Syntax Then, Syntax? Else) : Syntax(Span, Above(Condition, Then, Else));
public sealed record InSyntax(Span Span, Syntax Item, ImmutableArray<Syntax> Options, bool Negated) : Syntax(Span, Above([Item, .. Options]));

/// <summary><c>accessories has rail</c>: whether a value is among several choices.</summary>
public sealed record HasSyntax(Span Span, Syntax Item, Syntax Value) : Syntax(Span, Above(Item, Value));
public sealed record BetweenSyntax(Span Span, Syntax Item, Syntax Lower, Syntax Upper) : Syntax(Span, Above(Item, Lower, Upper));

/// <summary><c>name(arguments)</c>, with <c>where</c> for totals.</summary>
public sealed record CallSyntax(Span Span, NameSyntax Function, ImmutableArray<Syntax> Arguments, Syntax? Where) : Syntax(Span, Above([Where, .. Arguments]));

/// <summary><c>at most 2 of (…)</c>.</summary>
public sealed record CountingSyntax(Span Span, CountingKind Kind, int Count, ImmutableArray<Syntax> Conditions) : Syntax(Span, Above([.. Conditions]));

/// <summary>What stands where no expression could be read; a diagnostic says why.</summary>
public sealed record FaultySyntax(Span Span) : Syntax(Span);
