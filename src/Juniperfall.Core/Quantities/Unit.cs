using System.Collections.Frozen;

namespace Juniperfall.Core.Quantities;

/// <summary>
/// A unit of measure by its UCUM code (https://ucum.org, case-sensitive). A number in this unit times
/// <see cref="Factor"/>, plus <see cref="Offset"/>, is the number in base units (m, kg, s, K, A of the SI, and EUR), exactly.
/// </summary>
public sealed record Unit(string Code, Dimension Dimension, Exact Factor, Exact Offset)
{
    /// <summary>The unit of plain numbers: UCUM's "1", shown as nothing.</summary>
    public static readonly Unit One = new("", Dimension.None, Exact.One, Exact.Zero);

    /// <summary>The currency of costs and prices.</summary>
    public static readonly Unit Euro = new("EUR", Dimension.OfMoney, Exact.One, Exact.Zero);

    /// <summary>A unit code as people write it: °C for Cel, raised exponents. The code itself is what is typed and stored.</summary>
    public static string Readable(string code)
    {
        var text = new System.Text.StringBuilder(code.Length);
        for (var i = 0; i < code.Length; i++)
            text.Append(i > 0 && char.IsAsciiDigit(code[i]) && (char.IsAsciiLetter(code[i - 1]) || text[^1] > 'z') ? "⁰¹²³⁴⁵⁶⁷⁸⁹"[code[i] - '0'] : code[i]);
        return text.Replace("Cel", "°C").Replace("Ohm", "Ω").ToString();
    }

    public Exact ToBase(Exact number) => number * Factor + Offset;
    public Exact FromBase(Exact number) => (number - Offset) / Factor;

    private sealed record Atom(Dimension Dimension, Exact Factor, bool TakesPrefix);

    private static readonly Exact Celsius0 = Exact.Parse("273.15");
    private static readonly Dimension Power = new(2, 1, -3, 0, 0);
    private static readonly Dimension Energy = new(2, 1, -2, 0, 0);
    private static readonly Dimension Force = new(1, 1, -2, 0, 0);
    private static readonly Dimension Pressure = new(-1, 1, -2, 0, 0);
    private static readonly Dimension Voltage = new(2, 1, -3, 0, -1);

    private static readonly FrozenDictionary<string, Atom> Atoms = new Dictionary<string, Atom>
    {
        ["m"] = new(Dimension.OfLength, 1, true),
        ["g"] = new(Dimension.OfMass, Exact.Of(1, 1000), true),
        ["s"] = new(Dimension.OfTime, 1, true),
        ["K"] = new(Dimension.OfTemperature, 1, true),
        ["A"] = new(Dimension.OfCurrent, 1, true),
        ["t"] = new(Dimension.OfMass, 1000, false),
        ["L"] = new(Dimension.OfLength.Power(3), Exact.Of(1, 1000), true),
        ["l"] = new(Dimension.OfLength.Power(3), Exact.Of(1, 1000), true),
        ["min"] = new(Dimension.OfTime, 60, false),
        ["h"] = new(Dimension.OfTime, 3600, false),
        ["d"] = new(Dimension.OfTime, 86400, false),
        ["wk"] = new(Dimension.OfTime, 604800, false),
        ["W"] = new(Power, 1, true),
        ["J"] = new(Energy, 1, true),
        ["N"] = new(Force, 1, true),
        ["Pa"] = new(Pressure, 1, true),
        ["bar"] = new(Pressure, 100000, true),
        ["V"] = new(Voltage, 1, true),
        ["Hz"] = new(Dimension.OfTime.Power(-1), 1, true),
        // UCUM has no currencies; this is the code of ISO 4217 for the one that costs and prices are in.
        ["EUR"] = new(Dimension.OfMoney, 1, false),
        ["%"] = new(Dimension.None, Exact.Of(1, 100), false),
        ["[in_i]"] = new(Dimension.OfLength, Exact.Parse("0.0254"), false),
        ["[ft_i]"] = new(Dimension.OfLength, Exact.Parse("0.3048"), false),
        ["[lb_av]"] = new(Dimension.OfMass, Exact.Parse("0.45359237"), false),
    }.ToFrozenDictionary();

    private static readonly FrozenDictionary<char, int> Prefixes = new Dictionary<char, int>
    {
        ['G'] = 9,
        ['M'] = 6,
        ['k'] = 3,
        ['h'] = 2,
        ['d'] = -1,
        ['c'] = -2,
        ['m'] = -3,
        ['u'] = -6,
        ['n'] = -9,
    }.ToFrozenDictionary();

    /// <summary>Units offered by completion, in the order of how often a product engineer needs them.</summary>
    public static readonly IReadOnlyList<string> Common =
        ["mm", "m", "cm", "m2", "m3", "kg", "g", "W", "kW", "h", "min", "s", "d", "K", "Cel", "%", "V", "A", "Pa", "bar", "L", "kg/d", "W/m2", "W/(m2.K)",
            "[in_i]", "EUR", "EUR/m2", "EUR/m"];

    /// <summary>Reads a whole unit code; the empty code is <see cref="One"/>.</summary>
    public static Unit? TryParse(string code)
    {
        if (code is "" or "1")
            return One;
        if (code == "Cel")
            return new("Cel", Dimension.TemperaturePoint, Exact.One, Celsius0);
        var position = 0;
        return Term(code, ref position, 0) is { } unit && position == code.Length ? unit with { Code = code } : null;
    }

    /// <exception cref="FormatException">The code is not known.</exception>
    public static Unit Parse(string code) => TryParse(code) ?? throw new FormatException($"“{code}” is not a unit code.");

    /// <summary>
    /// The longest unit code without blanks that begins at <paramref name="start"/> and does not run into a following
    /// letter, digit or underscore; its length is 0 where there is none.
    /// </summary>
    public static int LongestAt(string text, int start)
    {
        var end = start;
        while (end < text.Length && !char.IsWhiteSpace(text[end]) && end - start < 40)
            end++;
        for (; end > start; end--)
        {
            var joinsOn = end < text.Length && (char.IsLetterOrDigit(text[end]) || text[end] == '_');
            if (!joinsOn && !char.IsDigit(text[start]) && TryParse(text[start..end]) is not null)
                return end - start;
        }
        return 0;
    }

    private static Unit? Term(string code, ref int position, int depth)
    {
        if (depth > 8 || Factored(code, ref position, depth) is not { } unit)
            return null;
        while (position < code.Length && code[position] is '.' or '/')
        {
            var restore = position;
            var divide = code[position++] == '/';
            if (Factored(code, ref position, depth) is not { } next)
            {
                position = restore;
                break;
            }
            unit = divide
                ? new("", unit.Dimension / next.Dimension, unit.Factor / next.Factor, Exact.Zero)
                : new("", unit.Dimension * next.Dimension, unit.Factor * next.Factor, Exact.Zero);
        }
        return unit;
    }

    private static Unit? Factored(string code, ref int position, int depth)
    {
        if (position >= code.Length)
            return null;
        if (code[position] == '(')
        {
            position++;
            var inner = Term(code, ref position, depth + 1);
            if (inner is null || position >= code.Length || code[position] != ')')
                return null;
            position++;
            return inner;
        }
        var start = position;
        if (code[position] == '[')
            position = Math.Max(code.IndexOf(']', position) + 1, position + 1);
        else if (code[position] == '%')
            position++;
        else
            while (position < code.Length && char.IsAsciiLetter(code[position]))
                position++;
        if (FindAtom(code[start..position]) is not { } atom)
            return null;
        var sign = position + 1 < code.Length && code[position] == '-' && char.IsAsciiDigit(code[position + 1]) ? -1 : 1;
        if (sign < 0)
            position++;
        var exponent = 0;
        var digits = 0;
        while (position < code.Length && char.IsAsciiDigit(code[position]) && digits < 2)
        {
            exponent = exponent * 10 + (code[position++] - '0');
            digits++;
        }
        return digits == 0 ? atom : new("", atom.Dimension.Power(sign * exponent), atom.Factor.Power(sign * exponent), Exact.Zero);
    }

    private static Unit? FindAtom(string code)
    {
        if (Atoms.TryGetValue(code, out var atom))
            return new("", atom.Dimension, atom.Factor, Exact.Zero);
        return code.Length > 1 && Prefixes.TryGetValue(code[0], out var power) && Atoms.TryGetValue(code[1..], out atom) && atom.TakesPrefix
            ? new("", atom.Dimension, atom.Factor * ((Exact)10).Power(power), Exact.Zero)
            : null;
    }

    /// <summary>A readable unit for a computed number of this dimension: the first common one that fits, else base units.</summary>
    public static Unit ForDisplay(Dimension dimension) =>
        dimension.IsNone ? One : Preferred.FirstOrDefault(u => u.Dimension == dimension) ?? Parse(dimension.BaseUnits());

    private static readonly Unit[] Preferred =
        [.. new[] { "m", "m2", "m3", "kg", "W", "h", "K", "Cel", "V", "A", "Pa", "J", "W/(m2.K)", "W/m2", "EUR", "EUR/m2", "EUR/m" }.Select(Parse)];
}
