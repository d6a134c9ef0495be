namespace Juniperfall.Formats.Uvl;

/// <summary>
/// When something is true and when it is false, as UVL formulas; where neither holds it has no value. Formulas are texts, with
/// <see cref="Yes"/> and <see cref="No"/> taken out as they are put together.
/// </summary>
internal readonly record struct UvlFormula(string True, string False)
{
    public const string Yes = "true", No = "false";

    public static readonly UvlFormula Always = new(Yes, No), Never = new(No, Yes);

    public static string And(params IEnumerable<string> parts)
    {
        var left = parts.Where(p => p != Yes).Distinct().ToList();
        return left.Contains(No) ? No : left.Count switch { 0 => Yes, 1 => left[0], _ => $"({string.Join(" & ", left)})" };
    }

    public static string Or(params IEnumerable<string> parts)
    {
        var left = parts.Where(p => p != No).Distinct().ToList();
        return left.Contains(Yes) ? Yes : left.Count switch { 0 => No, 1 => left[0], _ => $"({string.Join(" | ", left)})" };
    }

    public static string Not(string formula) =>
        formula switch
        {
            Yes => No,
            No => Yes,
            ['!', .. var rest] when rest.Length > 0 && rest[0] is '(' or '"' || !rest.Contains(' ') => rest,
            _ =>
        $"!{formula}"
        };

    public static UvlFormula operator !(UvlFormula x) => new(x.False, x.True);
    public static UvlFormula operator &(UvlFormula x, UvlFormula y) => new(And(x.True, y.True), Or(x.False, y.False));
    public static UvlFormula operator |(UvlFormula x, UvlFormula y) => !(!x & !y);

    /// <summary>The same where a condition holds, no value otherwise.</summary>
    public UvlFormula Where(string condition) => new(And(condition, True), And(condition, False));

    /// <summary>A condition, which is false where it does not hold.</summary>
    public static UvlFormula Of(string condition) => new(condition, Not(condition));
}
