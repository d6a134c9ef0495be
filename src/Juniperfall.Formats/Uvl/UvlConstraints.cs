using Juniperfall.Core.Language;

namespace Juniperfall.Formats.Uvl;

/// <summary>Constraints of UVL as rules: what is compared, added up and combined.</summary>
public sealed partial class UvlReader
{
    private void Constraint(Line line)
    {
        var tokens = UvlTokens.Of(line.Text, out var wrong);
        if (wrong is not null)
        {
            Error(line.Number, wrong);
            return;
        }
        var parser = new Constraints(this, tokens, line.Number);
        if (parser.Read() is { } expression)
            Rule(line.Number, expression);
    }

    /// <summary>A constraint as an expression of our language. It reports what is wrong, or has no counterpart, itself.</summary>
    private sealed class Constraints(UvlReader reader, List<UvlToken> tokens, int line)
    {
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
                reader.Error(line, sentence);
            _failed = true;
            return "yes";
        }

        /// <summary>The whole constraint has no counterpart: it is listed, and left out.</summary>
        private string LeaveOut(string why)
        {
            if (!_failed)
                reader.Unread(line, $"{why}; the constraint is left out.");
            _failed = true;
            return "0";
        }

        public string? Read()
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
            while (!_failed && Take("<=>"))
                left = $"(({left}) = ({Implication()}))";
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

        private string Sum(bool asNumber)
        {
            var left = Product(asNumber);
            while (!_failed && (IsOperator("+") || IsOperator("-")))
            {
                var op = tokens[_at++].Text;
                left = $"({left} {op} {Product(true)})";
            }
            return left;
        }

        private string Product(bool asNumber)
        {
            var left = Primary(asNumber);
            while (!_failed && (IsOperator("*") || IsOperator("/")))
            {
                var op = tokens[_at++].Text;
                left = $"({left} {op} {Primary(true)})";
            }
            return left;
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
                return $"-{Primary(true)}";
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
            var below = arguments.Count == 2 ? reader._features.GetValueOrDefault(arguments[0].Text) : null;
            if (arguments.Count == 2 && below is null)
                return Fail($"There is no feature “{arguments[0].Text}”.");
            var terms = reader._inOrder.Where(f => f.Figures.ContainsKey(arguments[^1].Text) && (below is null || IsBelow(f, below)))
                .Select(f => Figure(f, arguments[^1].Text)).ToList();
            return terms.Count == 0 ? Fail($"No feature has an attribute “{arguments[^1].Text}”.") : $"({string.Join(" + ", terms)})";
        }

        private static bool IsBelow(Feature? feature, Feature above)
        {
            for (; feature is not null; feature = feature.Parent)
                if (feature == above)
                    return true;
            return false;
        }

        /// <summary>The figure of a feature that is chosen; nothing of one that is not.</summary>
        private static string Figure(Feature feature, string name) => feature.Figures[name] is var value && value is "yes" or "no"
            ? $"({Ref(feature.Id)} and {value})" : $"(if {Ref(feature.Id)} then {value} else 0)";

        private string Name(string name, bool asNumber)
        {
            if (reader._features.TryGetValue(name, out var feature))
            {
                if (feature.Type is not ("Boolean" or "Integer") && (asNumber || IsCompared))
                    return LeaveOut($"The {(feature.Type == "Real" ? "number" : "text")} of “{name}” has no counterpart");
                if (!asNumber)
                    return Ref(feature.Id);
                return feature.NumberId.Length > 0 ? Ref(feature.NumberId) : Fail($"“{name}” is yes or no; here a number is needed.");
            }
            var dot = name.LastIndexOf('.');
            if (dot > 0 && reader._features.TryGetValue(name[..dot], out var owner) && owner.Figures.ContainsKey(name[(dot + 1)..]))
                return Figure(owner, name[(dot + 1)..]);
            var near = Spelling.Nearest(name, reader._features.Keys);
            return Fail($"There is no feature “{name}”.{(near is null ? "" : $" Did you mean “{near}”?")}");
        }
    }
}
