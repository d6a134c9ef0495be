using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;

namespace Juniperfall.Core.Entry;

/// <summary>Reads several lines one after the other, each as if those before it were in the model already.</summary>
public static class EntryLines
{
    /// <summary>How many lines are read in one go.</summary>
    public const int MostLines = 200;

    /// <param name="numbered">The highest number of a rule that is on its way to the model.</param>
    /// <param name="newId">Makes an id that nothing has.</param>
    /// <returns>For each line what it was read as; empty where there is no such assembly or topic.</returns>
    public static List<EntryReading> Read(IReadOnlyList<string> lines, ModelIndex index, string assemblyId, string topicId, string? afterId, int numbered,
        Func<string> newId)
    {
        var readings = new List<EntryReading>();
        foreach (var line in lines)
        {
            if (index.Document.Assemblies.FirstOrDefault(a => a.Id == assemblyId) is not { } assembly || assembly.Topics.All(t => t.Id != topicId))
                return [];
            var number = Math.Max(numbered, index.Rows.Values.OfType<IRule>().Select(r => r.Number).DefaultIfEmpty(0).Max()) + 1;
            var reading = EntryLine.Read(line, new(index, assembly, topicId, afterId, number, newId));
            readings.Add(reading);
            if (reading.RowId is null || ModelEditor.Apply(index.Document, new(newId(), reading.Steps), index.Facts) is not { Refusal: null } applied)
                continue;
            index = new(applied.Document, index.Facts);
            afterId = reading.RowId;
        }
        return readings;
    }

    /// <summary>What can stand at a place of a line, and the stretch that it replaces.</summary>
    public static CompletionResult Complete(string line, int position, ModelIndex index, AssemblyDefinition assembly)
    {
        position = Math.Clamp(position, 0, line.Length);
        var parts = EntryLine.Read(line, new(index, assembly, "", null, 1, () => "")).Parts;
        var part = parts.LastOrDefault(p => p.Span.Start <= position && position <= p.Span.End) ?? parts.LastOrDefault(p => p.Span.Start <= position);
        if (part is null)
            return new(new(position, 0), []);
        var typed = line[Math.Min(part.Span.Start, position)..position];
        if (part.Kind == EntryPartKind.Expression)
        {
            var found = Completion.At(line[part.Span.Start..Math.Max(position, part.Span.End)], position - part.Span.Start, index, assembly);
            return found with { Replaces = new(found.Replaces.Start + part.Span.Start, found.Replaces.Length) };
        }
        if (position > part.Span.End)
            return new(new(position, 0), []);
        bool Fits(CompletionItem item) => $"{item.Text} {item.Detail}".Contains(typed, StringComparison.OrdinalIgnoreCase)
            && !item.Text.Equals(typed, StringComparison.OrdinalIgnoreCase);
        return new(part.Span, [.. Items(part.Kind, index).Where(Fits).OrderBy(i => i.Text.StartsWith(typed, StringComparison.OrdinalIgnoreCase) ? 0 : 1)
            .Take(MostItems)]);
    }

    private const int MostItems = 40;

    private static IEnumerable<CompletionItem> Items(EntryPartKind kind, ModelIndex index) => kind switch
    {
        EntryPartKind.Kind => EntryKinds.All.Select(k => new CompletionItem(k.Word, CompletionKind.Row, k.Example)),
        EntryPartKind.Unit => Quantities.Unit.Common.Select(u => new CompletionItem(u, CompletionKind.Unit, Quantities.Unit.Parse(u).Dimension.Describe())),
        EntryPartKind.List => index.Lists.Values.OrderBy(l => l.Name, StringComparer.Ordinal)
            .Select(l => new CompletionItem(Printer.Name(l.Name), CompletionKind.List, string.Join(", ", l.Values.Take(4).Select(v => v.Code)))),
        EntryPartKind.Item => index.Facts.Items.Values.Where(i => i.Active).Select(i => new CompletionItem(i.Number, CompletionKind.Item, i.Description.In())),
        EntryPartKind.WorkCentre => index.Facts.WorkCentres.Values.Select(c => new CompletionItem(c.Code, CompletionKind.WorkCentre, c.Label.In())),
        EntryPartKind.Operation => index.Facts.StandardOperations.Values
            .Select(o => new CompletionItem(o.Code, CompletionKind.Operation,
                string.Join(" · ", new[] { o.Label.Or(o.Code), o.WorkCentre, o.Setup, o.Run }.Where(t => t.Length > 0)))),
        _ => [],
    };
}
