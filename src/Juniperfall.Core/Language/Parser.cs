using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

/// <summary>The outcome of reading a text: always a tree, and what was wrong.</summary>
public sealed record ParseResult(string Text, Syntax Root, ImmutableArray<Diagnostic> Diagnostics);

/// <summary>
/// Recursive descent with one function a level of precedence. After a fault it skips to the next word that can close or
/// continue an enclosing construct, so that one text can report several independent faults.
/// </summary>
public sealed class Parser
{
    private static readonly ImmutableHashSet<string> Synchronising = ["and", "or", "then", "else", ")", ",", "where"];

    private readonly List<Diagnostic> _diagnostics = [];
    private readonly List<Token> _tokens;
    private int _position;
    private int _depth;
    private bool _tooDeep;

    private Parser(string text) => _tokens = Lexer.Read(text, _diagnostics);

    public static ParseResult Parse(string text)
    {
        var parser = new Parser(text);
        var root = parser.Expression();
        if (parser.Current.Kind != TokenKind.End && !parser._tooDeep)
            parser.Report(Fault.UnexpectedWord, parser.Current.Span, parser.Current.Is(")")
                ? "There is a “)” too many."
                : $"“{parser.Shown(parser.Current)}” is not expected here; an operator such as +, =, and is missing before it.");
        return new(text, root, [.. parser._diagnostics.OrderBy(d => d.Span.Start)]);
    }

    private Token Current => _tokens[_position];
    private Token Next => _tokens[Math.Min(_position + 1, _tokens.Count - 1)];
    private string Shown(Token token) => token.Kind == TokenKind.End ? "the end" : token.Text;

    private Token Take() => _tokens[_position < _tokens.Count - 1 ? _position++ : _position];

    private bool TryTake(string text)
    {
        if (!Current.Is(text))
            return false;
        _position++;
        return true;
    }

    internal static bool IsWord(Token token, string word) =>
        token.Kind == TokenKind.Name && token.Text.Equals(word, StringComparison.OrdinalIgnoreCase);

    private void Report(Fault fault, Span span, string message, string? suggestion = null)
    {
        // One fault a place: what follows from it would only repeat it.
        if (!_tooDeep && !_diagnostics.Any(d => d.Span.Start == span.Start))
            _diagnostics.Add(new(fault, span, message, suggestion));
    }

    private void Expect(string text, Span opening)
    {
        if (TryTake(text))
            return;
        Report(text is ")" or "]" ? Fault.MissingClosing : Fault.MissingWord, Current.Kind == TokenKind.End ? opening : Current.Span,
            text is ")" or "]" ? $"The “{text}” for this opening is missing." : $"“{text}” is missing before {Shown(Current)}.");
    }

    private Syntax Expression()
    {
        if (++_depth > Limits.DeepestExpression)
        {
            var deep = TooDeep();
            _depth--;
            return deep;
        }
        var result = Current.Is("if") ? If() : Or();
        _depth--;
        return result;
    }

    /// <summary>Gives the text up at this place: what follows would only be faults of the same kind.</summary>
    private FaultySyntax TooDeep()
    {
        // What is missing at the end, then, is missing because of this.
        _diagnostics.RemoveAll(d => d.Fault is Fault.MissingClosing or Fault.MissingWord or Fault.ExpressionExpected);
        Report(Fault.TooDeep, Current.Span,
            $"Here more than {Limits.DeepestExpression} parts are nested in one another, or more than {Limits.HighestExpression} stand in a row. Split it "
                + $"into computed attributes.");
        _tooDeep = true;
        _position = _tokens.Count - 1;
        return new FaultySyntax(Current.Span);
    }

    private Syntax If()
    {
        var start = Take().Span;
        var condition = Expression();
        Expect("then", start);
        var then = Expression();
        var otherwise = TryTake("else") ? Expression() : null;
        return new IfSyntax(start.To((otherwise ?? then).Span), condition, then, otherwise);
    }

    private Syntax Or() => Chain(And, ("or", BinaryOperator.Or));

    private Syntax And() => Chain(Not, ("and", BinaryOperator.And));

    private Syntax Chain(Func<Syntax> operand, params ReadOnlySpan<(string Text, BinaryOperator Operator)> operators)
    {
        var left = operand();
        var (run, runOf) = (new List<Syntax>(), BinaryOperator.Add);
        while (true)
        {
            BinaryOperator? found = null;
            foreach (var (text, candidate) in operators)
                if (Current.Is(text))
                    found = candidate;
            if (found != runOf || !IsAssociative(runOf))
            {
                left = Joined(runOf, left, run);
                run.Clear();
            }
            if (left.Height > Limits.HighestExpression)
                return TooDeep();
            if (found is not { } op)
                return left;
            Take();
            var right = operand();
            runOf = op;
            run.Add(right);
        }
    }

    /// <summary>Whether it makes no difference how operands with this operator between them are put in parentheses.</summary>
    internal static bool IsAssociative(BinaryOperator op) => op is BinaryOperator.And or BinaryOperator.Or or BinaryOperator.Add or BinaryOperator.Multiply;

    private const int LongRun = 64;

    /// <summary>Operands with one operator between them, from left to right; many are joined as a balanced tree, which comes to the same and is low.</summary>
    private static Syntax Joined(BinaryOperator op, Syntax left, List<Syntax> run)
    {
        if (run.Count < LongRun)
            return run.Aggregate(left, (all, next) => Join(op, all, next));
        List<Syntax> level = [left, .. run];
        while (level.Count > 1)
            level = [.. level.Chunk(2).Select(pair => pair.Length == 2 ? Join(op, pair[0], pair[1]) : pair[0])];
        return level[0];
    }

    private static BinarySyntax Join(BinaryOperator op, Syntax left, Syntax right) => new(left.Span.To(right.Span), op, left, right);

    private Syntax Not()
    {
        if (!Current.Is("not"))
            return Comparison();
        var start = Take().Span;
        if (++_depth > Limits.DeepestExpression)
            return Expression();
        var operand = Not();
        _depth--;
        return new UnarySyntax(start.To(operand.Span), UnaryOperator.Not, operand);
    }

    private static BinaryOperator? ComparisonOperator(Token token) => token.Kind != TokenKind.Symbol ? null : token.Text switch
    {
        "=" => BinaryOperator.Equal,
        "<>" => BinaryOperator.NotEqual,
        "<" => BinaryOperator.Less,
        "<=" => BinaryOperator.LessOrEqual,
        ">" => BinaryOperator.Greater,
        ">=" => BinaryOperator.GreaterOrEqual,
        _ => null,
    };

    private Syntax Comparison()
    {
        var left = Sum();
        if (ComparisonOperator(Current) is { } op)
        {
            Take();
            var right = Sum();
            if (ComparisonOperator(Current) is not null)
                Report(Fault.UnexpectedWord, Current.Span, "Comparisons cannot be chained. Write “x between a and b”, or join two with “and”.");
            return new BinarySyntax(left.Span.To(right.Span), op, left, right);
        }
        if (Current.Is("in") || (Current.Is("not") && Next.Is("in")))
        {
            var negated = TryTake("not");
            Take();
            var (options, end) = List();
            return new InSyntax(left.Span.To(end), left, options, negated);
        }
        // Only after a value is this a keyword, so that a name may be spelt like it.
        if (IsWord(Current, "has"))
        {
            Take();
            var value = Sum();
            return new HasSyntax(left.Span.To(value.Span), left, value);
        }
        if (TryTake("between"))
        {
            var lower = Sum();
            Expect("and", left.Span);
            var upper = Sum();
            return new BetweenSyntax(left.Span.To(upper.Span), left, lower, upper);
        }
        return left;
    }

    private Syntax Sum() => Chain(Product, ("+", BinaryOperator.Add), ("-", BinaryOperator.Subtract));

    private Syntax Product() => Chain(Unary, ("*", BinaryOperator.Multiply), ("/", BinaryOperator.Divide));

    private Syntax Unary()
    {
        if (!Current.Is("-"))
            return Power();
        var start = Take().Span;
        // The minus belongs to the number where it can: −20 Cel is a temperature, not the opposite of one.
        if (Current.Kind == TokenKind.Number && !Next.Is("^"))
        {
            var number = Take();
            return new NumberSyntax(start.To(number.Span), -number.Number, number.Unit!);
        }
        if (++_depth > Limits.DeepestExpression)
            return Expression();
        var operand = Unary();
        _depth--;
        return new UnarySyntax(start.To(operand.Span), UnaryOperator.Negate, operand);
    }

    private Syntax Power()
    {
        var left = Postfix();
        if (!TryTake("^"))
            return left;
        var right = Current.Is("-") ? Unary() : Postfix();
        return new BinarySyntax(left.Span.To(right.Span), BinaryOperator.Power, left, right);
    }

    private Syntax Postfix()
    {
        var result = Primary();
        while (true)
        {
            if (result.Height > Limits.HighestExpression)
                return TooDeep();
            if (Current.Is("."))
            {
                Take();
                if (NameOrNull() is not { } member)
                {
                    Report(Fault.ExpressionExpected, Current.Span, "A name belongs after the dot.");
                    return result;
                }
                result = new MemberSyntax(result.Span.To(member.Span), result, member);
            }
            else if (Current.Is("["))
            {
                var open = Take().Span;
                var index = Current.Kind == TokenKind.Number && Current.Number.IsWhole
                    && Current.Number.CompareTo(100_000) < 0 ? (int)Take().Number.Numerator : -1;
                if (index < 0)
                    Report(Fault.ExpressionExpected, Current.Span, "A whole number belongs between [ and ].");
                Expect("]", open);
                result = new IndexSyntax(result.Span.To(_tokens[_position - 1].Span), result, index);
            }
            else
                return result;
        }
    }

    /// <summary>A name, also one spelt like a keyword where only a name can stand (after a dot).</summary>
    private NameSyntax? NameOrNull()
    {
        if (Current.Kind is not (TokenKind.Name or TokenKind.QuotedName or TokenKind.Reference or TokenKind.Keyword))
            return null;
        var token = Take();
        return new(token.Span, token.Text, token.Kind == TokenKind.Reference ? token.Text : null);
    }

    private Syntax Primary()
    {
        var token = Current;
        switch (token.Kind)
        {
            case TokenKind.Number:
                Take();
                return new NumberSyntax(token.Span, token.Number, token.Unit!);
            case TokenKind.Text:
                Take();
                return new TextSyntax(token.Span, token.Text);
            case TokenKind.Keyword when token.Text is "yes" or "no":
                Take();
                return new YesNoSyntax(token.Span, token.Text == "yes");
            case TokenKind.Keyword when token.Text == "none":
                Take();
                return new NoneSyntax(token.Span);
            case TokenKind.Keyword when token.Text == "if":
                return Expression();
            case TokenKind.Keyword when token.Text is "exactly" or "at":
                return Counting();
            case TokenKind.Name or TokenKind.QuotedName or TokenKind.Reference:
                var name = NameOrNull()!;
                return Current.Is("(") && token.Kind == TokenKind.Name ? Call(name) : name;
            case TokenKind.Symbol when token.Text == "(":
                Take();
                var inner = Expression();
                Expect(")", token.Span);
                return inner;
            default:
                Report(Fault.ExpressionExpected, token.Span, token.Kind == TokenKind.End
                    ? "Something is missing at the end: a value, a name or an expression."
                    : $"A value, a name or an expression belongs before “{token.Text}”.");
                Synchronise();
                return new FaultySyntax(token.Span);
        }
    }

    private void Synchronise()
    {
        while (Current.Kind != TokenKind.End && !(Current.Kind is TokenKind.Symbol or TokenKind.Keyword && Synchronising.Contains(Current.Text)))
            Take();
    }

    private Syntax Call(NameSyntax function)
    {
        var open = Take().Span;
        var arguments = ImmutableArray.CreateBuilder<Syntax>();
        Syntax? where = null;
        if (!Current.Is(")"))
        {
            do
                arguments.Add(Expression());
            while (TryTake(","));
            if (TryTake("where"))
                where = Expression();
        }
        Expect(")", open);
        return new CallSyntax(function.Span.To(_tokens[_position - 1].Span), function, arguments.ToImmutable(), where);
    }

    private Syntax Counting()
    {
        var start = Take();
        var kind = CountingKind.Exactly;
        if (start.Text == "at")
        {
            kind = IsWord(Current, "least") ? CountingKind.AtLeast : CountingKind.AtMost;
            if (IsWord(Current, "least") || IsWord(Current, "most"))
                Take();
            else
                Report(Fault.MissingWord, Current.Span, "After “at” comes “most” or “least”.");
        }
        var count = 1;
        if (IsWord(Current, "one"))
            Take();
        else if (Current.Kind == TokenKind.Number && Current.Number.IsWhole && Current.Unit == Unit.One && Current.Number.CompareTo(10_000) < 0)
            count = (int)Take().Number.Numerator;
        else
            Report(Fault.MissingWord, Current.Span, "Say how many: a whole number.");
        if (IsWord(Current, "of"))
            Take();
        else
            Report(Fault.MissingWord, Current.Span, "“of” is missing before the list.");
        var (conditions, end) = List();
        return new CountingSyntax(start.Span.To(end), kind, count, conditions);
    }

    private (ImmutableArray<Syntax>, Span End) List()
    {
        var open = Current.Span;
        if (!TryTake("("))
        {
            Report(Fault.MissingWord, Current.Span, "A list in parentheses belongs here.");
            return ([], open);
        }
        var items = ImmutableArray.CreateBuilder<Syntax>();
        do
            items.Add(Expression());
        while (TryTake(","));
        Expect(")", open);
        return (items.ToImmutable(), _tokens[_position - 1].Span);
    }
}
