using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

/// <summary>Another text for an expression in which a fault is mended.</summary>
/// <param name="Label">What is written, in a few words.</param>
public sealed record TextFix(string Label, string Text);

/// <summary>
/// Mends faults of an expression where what was meant is nearly certain. Each fix is tried: only what leaves fewer faults is offered.
/// </summary>
public sealed class QuickFixes
{
    private const int MostOffered = 3, MostTried = 60;

    private readonly string _text;
    private readonly ModelIndex _index;
    private readonly AssemblyDefinition _assembly;
    private readonly List<Token> _tokens;

    private QuickFixes(string text, ModelIndex index, AssemblyDefinition assembly) =>
        (_text, _index, _assembly, _tokens) = (text, index, assembly, [.. Lexer.Read(text, []).Where(t => t.Kind != TokenKind.End)]);

    /// <param name="faults">What a text has.</param>
    /// <param name="check">The faults that another text would have in the same place.</param>
    /// <returns>For each fault what would mend it, the likeliest first.</returns>
    public static ImmutableArray<ImmutableArray<TextFix>> For(string text, ImmutableArray<Diagnostic> faults, ModelIndex index, AssemblyDefinition assembly,
        Func<string, int> check)
    {
        var (fixes, tried) = (new QuickFixes(text, index, assembly), 0);
        return [.. faults.Select(fault => fixes.Candidates(fault).DistinctBy(c => c.Text).TakeWhile(_ => tried++ < MostTried)
            .Where(c => c.Text != text && check(c.Text) < faults.Length).Take(MostOffered).ToImmutableArray())];
    }

    private IEnumerable<TextFix> Candidates(Diagnostic fault)
    {
        if (fault.Suggestion is { } suggestion)
            yield return Instead(fault.Span, suggestion);
        foreach (var fix in fault.Fault switch
        {
            Fault.MissingClosing or Fault.UnexpectedWord or Fault.UnclosedQuote => Closed().Concat(Joined(fault.Span)).Concat(OtherSigns()),
            Fault.UnexpectedCharacter or Fault.ExpressionExpected or Fault.MissingWord => OtherSigns().Concat(Closed()),
            Fault.UnknownName or Fault.UnknownValue => Joined(fault.Span).Concat(ValueOfSome(fault.Span)),
            Fault.UnitMismatch or Fault.WrongResult => WithUnit(fault.Span),
            _ => [],
        })
            yield return fix;
        foreach (var fix in NotNone().Concat(Several(fault.Span)).Concat(fault.Fault is Fault.TypeMismatch or Fault.NotACondition ? WithUnit(fault.Span) : []))
            yield return fix;
    }

    private TextFix Instead(Span of, string text, string? label = null) => new(label ?? text, _text[..of.Start] + text + _text[of.End..]);

    /// <summary>What is open is closed at the end.</summary>
    private IEnumerable<TextFix> Closed()
    {
        var open = new Stack<string>();
        foreach (var token in _tokens)
            if (token.Is("(") || token.Is("["))
                open.Push(token.Is("(") ? ")" : "]");
            else if (open.Count > 0 && token.Is(open.Peek()))
                open.Pop();
        if (open.Count > 0)
            yield return new($"close with {string.Concat(open)}", _text.TrimEnd() + string.Concat(open));
    }

    /// <summary>Two or more words beside each other that are one name, or one value.</summary>
    private IEnumerable<TextFix> Joined(Span at)
    {
        for (var first = 0; first < _tokens.Count; first++)
            for (var last = first + 1; last < _tokens.Count && last < first + 5 && IsWord(_tokens[first]) && IsWord(_tokens[last]); last++)
            {
                var span = _tokens[first].Span.To(_tokens[last].Span);
                if (span.End < at.Start || span.Start > at.End)
                    continue;
                var words = _text.Substring(span.Start, span.Length);
                foreach (var name in new[] { words, words.Replace(' ', '_') })
                    if (_index.Named(_assembly, name) is { } row)
                        yield return Instead(span, Printer.Name(row.Name));
                    else if (ListsHere().SelectMany(l => l.List.Values).FirstOrDefault(v => Names.Fold(v.Code) == Names.Fold(name)) is { } value)
                        yield return Instead(span, Printer.Name(value.Code));
            }
    }

    private static bool IsWord(Token token) => token.Kind is TokenKind.Name or TokenKind.Keyword or TokenKind.Number;

    private IEnumerable<(AttributeRow Row, ValueList List)> ListsHere() => _assembly.Rows.OfType<AttributeRow>()
        .Where(r => r.ListId is not null && _index.Lists.ContainsKey(r.ListId)).Select(r => (r, _index.Lists[r.ListId!]));

    /// <summary>A value alone: of which attribute it is.</summary>
    private IEnumerable<TextFix> ValueOfSome(Span at)
    {
        if (at.End > _text.Length || at.Length == 0)
            return [];
        var word = Names.Fold(_text.Substring(at.Start, at.Length).Trim('\''));
        return ListsHere().Where(l => l.List.Values.Any(v => Names.Fold(v.Code) == word))
            .Select(l => Instead(at,
                $"{Printer.Name(l.Row.Name)} {(l.Row.Kind == AttributeKind.Several ? "has" : "=")} {_text.Substring(at.Start, at.Length)}"));
    }

    /// <summary>A number without a unit gets one: those of the attributes that stand beside it first.</summary>
    private IEnumerable<TextFix> WithUnit(Span at)
    {
        var beside = _tokens.Where(t => t.Kind is TokenKind.Name or TokenKind.QuotedName).Select(t => _index.Named(_assembly, t.Text))
            .Select(r => r switch { AttributeRow a => a.Unit, ComputedAttribute c => c.Unit, _ => "" });
        var units = beside.Concat(_tokens.Where(t => t is { Kind: TokenKind.Number, Unit: { } u } && u != Unit.One).Select(t => t.Unit!.Code))
            .Concat(["mm", "EUR", "min", "kg"]).Concat(Unit.Common).Where(u => u.Length > 0).Distinct().ToList();
        return from number in _tokens
               where number.Kind == TokenKind.Number && number.Unit == Unit.One && number.Span.Start >= at.Start && number.Span.End <= at.End
               from unit in units
               select Instead(number.Span, $"{number.Text} {unit}");
    }

    /// <summary>“not none” and “= not x” are written with “&lt;&gt;”.</summary>
    private IEnumerable<TextFix> NotNone()
    {
        for (var i = 0; i + 1 < _tokens.Count; i++)
            if (_tokens[i].Is("=") && _tokens[i + 1].Is("not"))
                yield return Instead(_tokens[i].Span.To(_tokens[i + 1].Span), "<>");
            else if (i > 0 && _tokens[i].Is("not") && _tokens[i - 1].Kind is TokenKind.Name or TokenKind.QuotedName)
                yield return Instead(_tokens[i].Span, "<>");
    }

    /// <summary>What can hold several values has one of them; what holds one equals it.</summary>
    private IEnumerable<TextFix> Several(Span at)
    {
        for (var i = 1; i < _tokens.Count; i++)
        {
            if (_tokens[i].Span.End < at.Start || _tokens[i - 1].Span.Start > at.End
                || _tokens[i - 1].Kind is not (TokenKind.Name or TokenKind.QuotedName)
                || _index.Named(_assembly, _tokens[i - 1].Text) is not AttributeRow row)
                continue;
            if (row.Kind == AttributeKind.Several && _tokens[i].Is("="))
                yield return Instead(_tokens[i].Span, "has");
            else if (row.Kind == AttributeKind.Several && _tokens[i].Is("<>") && i + 1 < _tokens.Count)
                yield return Instead(_tokens[i - 1].Span.To(_tokens[i + 1].Span),
                    $"not ({Printer.Name(row.Name)} has {_text.Substring(_tokens[i + 1].Span.Start, _tokens[i + 1].Span.Length)})");
            else if (row.Kind != AttributeKind.Several && Parser.IsWord(_tokens[i], "has"))
                yield return Instead(_tokens[i].Span, "=");
        }
    }

    private static readonly (string Written, string Meant)[] Signs =
        [("==", "="), ("&&", " and "), ("||", " or "), ("=<", "<="), ("=>", ">="), ("÷", "/"), ("!", "not ")];

    /// <summary>Signs that other languages write.</summary>
    private IEnumerable<TextFix> OtherSigns()
    {
        foreach (var (written, meant) in Signs)
            if (_text.IndexOf(written, StringComparison.Ordinal) is >= 0 and var at)
                yield return Instead(new(at, written.Length), meant, meant.Trim());
    }
}
