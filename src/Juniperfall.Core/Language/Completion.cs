using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

public enum CompletionKind { Attribute, Computed, Subassembly, Grid, Value, Property, Figure, Function, Keyword, Unit, Row, List, Item, WorkCentre, Operation }

/// <summary>A text that can stand at the cursor, and what it is.</summary>
public sealed record CompletionItem(string Text, CompletionKind Kind, string Detail);

/// <summary>What can be typed at a place, and the stretch that it replaces.</summary>
public sealed record CompletionResult(Span Replaces, ImmutableArray<CompletionItem> Items);

/// <summary>Finds what can stand at the cursor of an expression, from the words in front of it; the text may be unfinished or faulty.</summary>
public static class Completion
{
    private static readonly ImmutableArray<string> Comparisons = ["=", "<>", "in"];

    public static CompletionResult At(string text, int position, ModelIndex index, AssemblyDefinition assembly)
    {
        position = Math.Clamp(position, 0, text.Length);
        var tokens = Lexer.Read(text[..position], []).Where(t => t.Kind != TokenKind.End).ToList();
        if (tokens.Count > 0 && tokens[^1] is { Kind: TokenKind.Text } literal && IsOpen(text[..position], literal.Span))
            return Register(literal, text, position, index.FactsOf(assembly));
        // The word under the cursor is replaced; an opening quote without its closing one is part of it.
        var typed = tokens.Count > 0 && tokens[^1] is { Kind: TokenKind.Name or TokenKind.Keyword or TokenKind.QuotedName } last
            && last.Span.End == position ? last : null;
        if (typed is not null)
            tokens.RemoveAt(tokens.Count - 1);
        var word = typed?.Text ?? "";
        var replaces = typed is null ? new Span(position, 0) : typed.Span;
        var items = tokens.Count > 0 && tokens[^1].Is(".")
            ? Members(Target(tokens, tokens.Count - 2, index, assembly), index).Concat(ItemProperties(tokens, tokens.Count - 2, index, assembly))
            : typed is null && tokens.Count > 0 && tokens[^1] is { Kind: TokenKind.Number } number && number.Unit == Unit.One && position > number.Span.End
                ? Unit.Common.Select(u => new CompletionItem(u, CompletionKind.Unit, Unit.Parse(u).Dimension.Describe()))
            : Values(tokens, index, assembly).Concat(NamesIn(assembly)).Concat(Words());
        return new(replaces, [.. items.Where(i => Fits(i.Text, word)).OrderBy(i => StartsWith(i.Text, word) ? 0 : 1)]);
    }

    /// <summary>Whether a text literal that ends at the cursor still lacks its closing quote.</summary>
    private static bool IsOpen(string text, Span span) => span.End == text.Length && (span.Length == 1 || text[^1] != '"');

    /// <summary>Within a text: the items and work centres whose number, code or name has what is typed of it.</summary>
    private static CompletionResult Register(Token literal, string text, int position, LibraryFacts facts)
    {
        var word = Names.Fold(text[(literal.Span.Start + 1)..position]);
        bool Has(string of) => Names.Fold(of).Contains(word, StringComparison.Ordinal);
        var items = facts.Items.Values.Where(i => i.Active && (Has(i.Number) || Has(i.Description.In())))
            .Select(i => new CompletionItem($"\"{i.Number}\"", CompletionKind.Item, i.Description.In()))
            .Concat(facts.WorkCentres.Values.Where(w => Has(w.Code) || Has(w.Label.In()))
                .Select(w => new CompletionItem($"\"{w.Code}\"", CompletionKind.WorkCentre, w.Label.In())));
        // A closing quote that an editor has put there already is replaced, too.
        var end = position < text.Length && text[position] == '"' ? position + 1 : position;
        return new(new(literal.Span.Start, end - literal.Span.Start),
            [.. items.OrderBy(i => Names.Fold(i.Text.Trim('"')).StartsWith(word, StringComparison.Ordinal) ? 0 : 1).Take(MostOfRegister)]);
    }

    /// <summary>No more items and work centres than this are offered; typing on narrows them.</summary>
    private const int MostOfRegister = 60;

    private static string Bare(string text) => Names.Fold(text.Trim('\''));
    private static bool StartsWith(string text, string word) => Bare(text).StartsWith(Names.Fold(word), StringComparison.Ordinal);
    private static bool Fits(string text, string word) => Bare(text).Contains(Names.Fold(word), StringComparison.Ordinal);

    private static IEnumerable<CompletionItem> NamesIn(AssemblyDefinition assembly) => assembly.Rows.OfType<NamedRow>().Select(Item);

    private static CompletionItem Item(NamedRow row) => new(Printer.Name(row.Name), row switch
    {
        ComputedAttribute => CompletionKind.Computed,
        Subassembly => CompletionKind.Subassembly,
        CombinationGrid => CompletionKind.Grid,
        _ => CompletionKind.Attribute,
    }, row.Label.In());

    private static IEnumerable<CompletionItem> Words() =>
        CallBinder.FunctionNames.Select(f => new CompletionItem(f + "(", CompletionKind.Function, ""))
            .Concat(Lexer.Keywords.Append("has").Order().Select(k => new CompletionItem(k, CompletionKind.Keyword, "")));

    /// <summary>After a comparison with a choice, and in its list of alternatives: the values of that choice.</summary>
    private static IEnumerable<CompletionItem> Values(List<Token> tokens, ModelIndex index, AssemblyDefinition assembly)
    {
        var at = tokens.Count - 1;
        while (at > 0 && (tokens[at].Is(",") || tokens[at].Is("(") || tokens[at] is { Kind: TokenKind.Name or TokenKind.QuotedName }
            && tokens[at - 1] is { } before && (before.Is(",") || before.Is("("))))
            at--;
        if (at < 1 || !Comparisons.Any(tokens[at].Is) && !Parser.IsWord(tokens[at], "has") || (at < tokens.Count - 1 && !tokens[at].Is("in")))
            return [];
        if (tokens[at - 1].Is("not"))
            at--;
        return at >= 1 && Target(tokens, at - 1, index, assembly) is AttributeRow { ListId: { } listId } && index.Lists.TryGetValue(listId, out var list)
            ? list.Values.Select(v => new CompletionItem(Printer.Name(v.Code), CompletionKind.Value, v.Label.In())) : [];
    }

    /// <summary>The row that the path ending at a token leads to.</summary>
    private static NamedRow? Target(List<Token> tokens, int end, ModelIndex index, AssemblyDefinition assembly)
    {
        if (end < 0)
            return null;
        // An instance number in brackets does not change where the path leads.
        if (tokens[end].Is("]") && end >= 3)
            return Target(tokens, end - 3, index, assembly);
        if (tokens[end].Kind is not (TokenKind.Name or TokenKind.QuotedName or TokenKind.Keyword))
            return null;
        if (end < 2 || !tokens[end - 1].Is("."))
            return index.Named(assembly, tokens[end].Text);
        return Target(tokens, end - 2, index, assembly) is Subassembly place && index.Assemblies.TryGetValue(place.AssemblyId, out var below)
            ? index.Named(below, tokens[end].Text) : null;
    }

    /// <summary>After a text that names items, a column of a list or a grid: what these items have.</summary>
    private static IEnumerable<CompletionItem> ItemProperties(List<Token> tokens, int end, ModelIndex index, AssemblyDefinition assembly)
    {
        if (end < 2 || !tokens[end - 1].Is("."))
            return [];
        bool IsNamed(string name) => Names.Fold(name) == Names.Fold(tokens[end].Text);
        Bound? text = Target(tokens, end - 2, index, assembly) switch
        {
            AttributeRow { ListId: { } listId } when index.Lists.TryGetValue(listId, out var list)
                && list.Properties.FirstOrDefault(p => p.Type == PropertyType.Text && IsNamed(p.Name)) is { } property =>
                new BoundProperty(ExpressionType.Text, new BoundLiteral(ExpressionType.Choice(listId), Value.Nothing), listId, property.Id),
            CombinationGrid grid when grid.Columns
                .FirstOrDefault(c => c.Reference.Length == 0 && c.Type == PropertyType.Text && IsNamed(c.Name)) is { } column =>
                new BoundGridFigure(ExpressionType.Text, grid.Id, column.Id),
            _ => null,
        };
        if (text is null)
            return [];
        var items = ItemTexts.Of(index, text).Distinct().ToList();
        return items.Select(index.Facts.Items.GetValueOrDefault).OfType<ItemFact>().SelectMany(i => i.Properties.Keys).Concat(ItemFact.OwnProperties)
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .Select(p => new CompletionItem(Printer.Name(p), CompletionKind.Property, ItemReading.TypeOf(index.Facts, items, p)?.Describe() ?? ""));
    }

    private static IEnumerable<CompletionItem> Members(NamedRow? target, ModelIndex index) => target switch
    {
        Subassembly place when index.Assemblies.TryGetValue(place.AssemblyId, out var below) => NamesIn(below).Where(i => i.Kind != CompletionKind.Grid),
        AttributeRow { ListId: { } listId } when index.Lists.TryGetValue(listId, out var list) =>
            list.Properties.Select(p => new CompletionItem(Printer.Name(p.Name), CompletionKind.Property, p.Unit)),
        CombinationGrid grid => grid.Columns.Where(c => c.Reference.Length == 0)
            .Select(c => new CompletionItem(Printer.Name(c.Name), CompletionKind.Figure, c.Unit)),
        _ => [],
    };
}
