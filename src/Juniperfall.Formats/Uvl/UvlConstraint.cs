using Juniperfall.Core.Language;

namespace Juniperfall.Formats.Uvl;

/// <summary>A constraint of UVL as an expression of our language. It notes itself what is wrong, or has no counterpart.</summary>
internal sealed class UvlConstraint(UvlFeatures features, UvlNotes notes, List<UvlToken> tokens, int line)
{
    private const int DeepestNesting = 500;

    /// <summary>To guess what was meant looks at every feature; nobody reads the guesses of a file that has so many faults.</summary>
    private const int MostGuesses = 100;

    /// <returns>Null where it is wrong, or is left out.</returns>
    public static string? Read(UvlLine line, UvlFeatures features, UvlNotes notes)
    {
        var tokens = UvlTokens.Of(line.Text, out var wrong);
        if (wrong is null)
            return new UvlConstraint(features, notes, tokens, line.Number).Read();
        notes.Error(line.Number, wrong);
        return null;
    }

    private int _at, _depth;
    private bool _failed;

    private string Text => _at < tokens.Count ? tokens[_at].Text : "";
    private bool IsOperator(string text) => _at < tokens.Count && tokens[_at].Kind == UvlTokenKind.Symbol && tokens[_at].Text == text;

    /// <summary>Whether what was just read is the left side of a comparison.</summary>
    private bool IsCompared => Text is "==" or "!=" or "<" or "<=" or ">" or ">=" or "+" or "-" or "*" or "/";

    private bool Take(string symbol)
    {
        if (!IsOperator(symbol))
            return false;
        _at++;
        return true;
    }

    private string Fail(string sentence)
    {
        if (!_failed)
            notes.Error(line, sentence);
        _failed = true;
        return "yes";
    }

    /// <summary>The whole constraint has no counterpart: it is listed, and left out.</summary>
    private string LeaveOut(string why)
    {
        if (!_failed)
            notes.LeftOut(line, $"{why}; the constraint is left out.");
        _failed = true;
        return "0";
    }

    private string? Read()
    {
        var expression = Equivalence();
        if (!_failed && _at < tokens.Count)
            Fail($"“{Text}” does not belong here.");
        return _failed ? null : expression;
    }

    private string Deeper(Func<string> read)
    {
        if (++_depth > DeepestNesting)
            return Fail($"This nests deeper than {DeepestNesting} levels.");
        var text = read();
        _depth--;
        return text;
    }

    private string Equivalence()
    {
        var left = Implication();
        for (var more = 0; !_failed && Take("<=>"); more++)
            left = more == DeepestNesting ? Fail($"More than {DeepestNesting} “<=>” follow one another.") : $"(({left}) = ({Implication()}))";
        return left;
    }

    private string Implication()
    {
        var left = Disjunction();
        return !_failed && Take("=>") ? $"(if {left} then {Deeper(Implication)})" : left;
    }

    private string Disjunction()
    {
        List<string> parts = [Conjunction()];
        while (!_failed && Take("|"))
            parts.Add(Conjunction());
        return parts.Count == 1 ? parts[0] : $"({string.Join(" or ", parts)})";
    }

    private string Conjunction()
    {
        List<string> parts = [Negation()];
        while (!_failed && Take("&"))
            parts.Add(Negation());
        return parts.Count == 1 ? parts[0] : $"({string.Join(" and ", parts)})";
    }

    private string Negation() => Take("!") ? $"not ({Deeper(Negation)})" : Comparison();

    private static readonly Dictionary<string, string> Comparisons = new()
    {
        ["=="] = "=",
        ["!="] = "<>",
        ["<"] = "<",
        [">"] = ">",
        ["<="] = "<=",
        [">="] = ">=",
    };

    private string Comparison()
    {
        var start = _at;
        var left = Sum(asNumber: false);
        if (_failed || _at >= tokens.Count || !Comparisons.TryGetValue(Text, out var comparison))
            return left;
        // Read again as a number, now that it is known to be compared.
        var after = _at;
        _at = start;
        left = Sum(asNumber: true);
        if (_at != after)
            return Fail("The two sides of a comparison are numbers.");
        _at++;
        return $"({left} {comparison} {Sum(asNumber: true)})";
    }

    private string Sum(bool asNumber) => Chain("+", "-", asNumber, Product);

    private string Product(bool asNumber) => Chain("*", "/", asNumber, Primary);

    /// <summary>Operators of one rank go from left to right in both languages, so that a long chain needs no brackets.</summary>
    private string Chain(string one, string other, bool asNumber, Func<bool, string> read)
    {
        List<string> parts = [read(asNumber)];
        while (!_failed && (IsOperator(one) || IsOperator(other)))
        {
            parts.Add(tokens[_at++].Text);
            parts.Add(read(true));
        }
        return parts.Count == 1 ? parts[0] : $"({string.Join(' ', parts)})";
    }

    private string Primary(bool asNumber)
    {
        if (_at >= tokens.Count)
            return Fail("The constraint ends too early.");
        if (Take("("))
        {
            var inner = Deeper(asNumber ? () => Sum(true) : Equivalence);
            return Take(")") || _failed ? $"({inner})" : Fail("A closing bracket is missing.");
        }
        if (Take("-"))
            return $"-{Deeper(() => Primary(true))}";
        var token = tokens[_at++];
        if (token.Kind == UvlTokenKind.Number)
            return token.Text;
        if (token.Kind == UvlTokenKind.Text)
            return LeaveOut($"The text “{token.Text}” has no counterpart");
        if (token.Kind != UvlTokenKind.Name)
            return Fail($"“{token.Text}” does not belong here.");
        if (token.Text is "true" or "false")
            return token.Text == "true" ? "yes" : "no";
        if (IsOperator("("))
            return Function(token.Text);
        return Name(token.Text, asNumber);
    }

    private string Function(string name)
    {
        _at++;
        var end = tokens.FindIndex(_at, t => t is { Kind: UvlTokenKind.Symbol, Text: ")" });
        if (end < 0)
            return Fail("A closing bracket is missing.");
        if (name is "floor" or "ceil")
        {
            var inner = Deeper(() => Sum(true));
            return Take(")") ? $"{name}({inner})" : Fail("A closing bracket is missing.");
        }
        var arguments = tokens[_at..end].Where(t => t.Text != ",").ToList();
        _at = end + 1;
        if (name != "sum" || arguments.Count is 0 or > 2)
            return LeaveOut($"“{name}” has no counterpart");
        // sum(attribute), or sum(feature, attribute) over the features below one.
        var below = arguments.Count == 2 ? features.Named(arguments[0].Text) : null;
        if (arguments.Count == 2 && below is null)
            return Fail($"There is no feature “{arguments[0].Text}”.");
        if (features.Terms(arguments[^1].Text, below) is not { } terms)
            return Fail($"The sums of this file come to more than {UvlFeatures.MostTerms} terms.");
        return terms.Count == 0 ? Fail($"No feature has an attribute “{arguments[^1].Text}”.") : $"({string.Join(" + ", terms)})";
    }

    private string Name(string name, bool asNumber)
    {
        if (features.Named(name) is { } feature)
        {
            if (feature.Type is not ("Boolean" or "Integer") && (asNumber || IsCompared))
                return LeaveOut($"The {(feature.Type == "Real" ? "number" : "text")} of “{name}” has no counterpart");
            if (!asNumber)
                return UvlFeature.Ref(feature.Id);
            return feature.NumberId.Length > 0 ? UvlFeature.Ref(feature.NumberId) : Fail($"“{name}” is yes or no; here a number is needed.");
        }
        var dot = name.LastIndexOf('.');
        if (dot > 0 && features.Named(name[..dot]) is { } owner && owner.Figures.ContainsKey(name[(dot + 1)..]))
            return owner.Figure(name[(dot + 1)..]);
        var near = notes.Errors.Count < MostGuesses ? Spelling.Nearest(name, features.Names) : null;
        return Fail($"There is no feature “{name}”.{(near is null ? "" : $" Did you mean “{near}”?")}");
    }
}
