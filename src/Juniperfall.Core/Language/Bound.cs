using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

public enum TypeKind { YesNo, Number, Choice, Text }

/// <summary>The type of an expression: a number has a dimension, a choice the list its values come from.</summary>
public readonly record struct ExpressionType(TypeKind Kind, Dimension Dimension = default, string? ListId = null)
{
    public static readonly ExpressionType YesNo = new(TypeKind.YesNo);
    public static readonly ExpressionType Text = new(TypeKind.Text);
    public static readonly ExpressionType PlainNumber = new(TypeKind.Number);
    public static ExpressionType Number(Dimension dimension) => new(TypeKind.Number, dimension);
    public static ExpressionType Choice(string listId) => new(TypeKind.Choice, default, listId);

    public string Describe() => Kind switch
    {
        TypeKind.YesNo => "yes or no",
        TypeKind.Number => Dimension.Describe(),
        TypeKind.Choice => "a choice",
        _ => "a text",
    };
}

/// <summary>
/// An expression whose names are looked up and whose types and units are checked. Every number in it is in SI base units.
/// Paths are relative to the assembly it was written in: <c>subassembly:instance/…/row</c>.
/// </summary>
public abstract record Bound(ExpressionType Type)
{
    public virtual ImmutableArray<Bound> Children => [];

    /// <summary>This expression and everything in it.</summary>
    public IEnumerable<Bound> All()
    {
        var open = new Stack<Bound>([this]);
        while (open.TryPop(out var part))
        {
            yield return part;
            var children = part.Children;
            for (var i = children.Length - 1; i >= 0; i--)
                open.Push(children[i]);
        }
    }
}

public sealed record BoundLiteral(ExpressionType Type, Value Value) : Bound(Type);

/// <summary>An asked or computed attribute.</summary>
public sealed record BoundAttribute(ExpressionType Type, string Path) : Bound(Type);

/// <summary><c>path = none</c>: whether an optional attribute that applies was left without a value.</summary>
public sealed record BoundIsNone(string Path) : Bound(ExpressionType.YesNo);

/// <summary><c>applies(path)</c>, of an attribute or of a subassembly (path ending in <c>subassembly:instance</c>).</summary>
public sealed record BoundApplies(string Path, bool OfSubassembly) : Bound(ExpressionType.YesNo);

/// <summary>A property of the value that a choice has.</summary>
public sealed record BoundProperty(ExpressionType Type, Bound Choice, string ListId, string PropertyId) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [Choice];
}

/// <summary>A choice as the value with the same code of another list; no value where that has none such.</summary>
/// <param name="Values">The ids of the values of the list that it comes from, with those of the list of its type.</param>
public sealed record BoundRecoded(ExpressionType Type, Bound Choice, ImmutableDictionary<string, string> Values) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [Choice];
}

/// <summary>A figure of the first grid row that matches the attributes of its columns.</summary>
public sealed record BoundGridFigure(ExpressionType Type, string GridId, string ColumnId) : Bound(Type);

/// <summary>A property of the item that a text names.</summary>
public sealed record BoundItemProperty(ExpressionType Type, Bound Item, string Property) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [Item];
}

public sealed record BoundUnary(ExpressionType Type, UnaryOperator Operator, Bound Operand) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [Operand];
}

public sealed record BoundBinary(ExpressionType Type, BinaryOperator Operator, Bound Left, Bound Right) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [Left, Right];
}

public sealed record BoundIf(ExpressionType Type, Bound Condition, Bound Then, Bound Else) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [Condition, Then, Else];
}

public enum Function { Ceiling, Floor, Round, Absolute, Minimum, Maximum, SquareRoot }

/// <summary>A function of numbers. Rounding takes a second argument, the step.</summary>
public sealed record BoundCall(ExpressionType Type, Function Function, ImmutableArray<Bound> Arguments) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => Arguments;
}

public sealed record BoundCounting(CountingKind Kind, int Count, ImmutableArray<Bound> Conditions) : Bound(ExpressionType.YesNo)
{
    public override ImmutableArray<Bound> Children => Conditions;
}

public enum TotalKind { Sum, Count, Minimum, Maximum, All, Any }

/// <summary>A total over the instances of a subassembly; each has its body and its filter bound for that instance.</summary>
/// <param name="RangeIds">The subassembly or the several choices that it runs over, and the subassemblies below it that it runs over, too.</param>
public sealed record BoundTotal(ExpressionType Type, TotalKind Kind, ImmutableArray<string> RangeIds, ImmutableArray<BoundTotalMember> Members) : Bound(Type)
{
    public override ImmutableArray<Bound> Children => [.. Members.SelectMany(m => m.Where is null ? new[] { m.Body } : [m.Body, m.Where])];
}

public readonly record struct BoundTotalMember(Bound Body, Bound? Where);
