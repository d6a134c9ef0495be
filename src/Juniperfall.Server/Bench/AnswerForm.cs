using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Formats.Structures;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;

namespace Juniperfall.Server.Bench;

public sealed record ChoiceForm(string Value, string Label, string? Color);

/// <summary>One value of several choices.</summary>
/// <param name="Suggested">Whether the author suggests it; the others are suggested to be left out.</param>
public sealed record MemberForm(string Path, string Label, string? Color, bool Suggested);

/// <summary>A question, without what is answered.</summary>
/// <param name="UnitLabel">The unit as people write it.</param>
/// <param name="Min">Outermost bound of a number; <paramref name="Max"/> and <paramref name="Step"/> alike.</param>
/// <param name="Several">For several choices: each value, answered by yes or no at a path of its own.</param>
public sealed record AskedForm(string Path, string RowId, string Name, string Label, AttributeKind Kind, bool Required, string Unit, string UnitLabel,
    string? Min, string? Max, string? Step, IReadOnlyList<ChoiceForm> Choices, IReadOnlyList<MemberForm>? Several);

/// <summary>A stretch of the form: one topic at one place.</summary>
/// <param name="Place">The subassembly that it belongs to, where it is not the product itself.</param>
/// <param name="Prefix">The path of that place; empty for the product itself.</param>
public sealed record SectionForm(string Id, string TopicId, string AssemblyId, string Title, string? Place, string Prefix, IReadOnlyList<AskedForm> Asked);

/// <summary>A subassembly that can be there several times.</summary>
/// <param name="CountPath">The attribute that says how many there are, where one does.</param>
/// <param name="Prefixes">The paths of the instances, those that are there first.</param>
public sealed record PlaceForm(string Path, string Name, string? CountPath, IReadOnlyList<string> Prefixes);

/// <summary>A computed attribute.</summary>
/// <param name="IsGoal">Whether completion for its lowest or highest is offered.</param>
/// <param name="Reads">The paths in its formula.</param>
public sealed record FigureForm(string Path, string RowId, string AssemblyId, string Label, string? Place, bool IsNumber, bool IsGoal, string Unit, string Formula,
    IReadOnlyList<string> Reads);

/// <summary>A part or operation line.</summary>
/// <param name="Kind">part or operation.</param>
/// <param name="Name">Of a line whose item hangs on answers: empty.</param>
public sealed record LineForm(string Kind, string RowId, string AssemblyId, string Prefix, string Name, string Description, string Condition);

/// <summary>What every line of a structure that comes from a row has alike.</summary>
/// <param name="Quantity">The formula of a quantity, or of the run time of an operation.</param>
/// <param name="Reads">The paths in that formula, from the place of the line.</param>
/// <param name="Scrap">In percent.</param>
public sealed record RowForm(string AssemblyId, string Quantity, IReadOnlyList<string> Reads, string Scrap, string Step);

/// <summary>
/// The form of a revision at a site and day: everything in its answers that no pick changes. A draft also shows names of the library as it is. It is told
/// once; answers then carry what can
/// change, in the same order.
/// </summary>
public sealed record AnswerForm
{
    /// <summary>Names this form: whoever has it says so, and is not told it again.</summary>
    public required string Key { get; init; }
    public required IReadOnlyList<SectionForm> Sections { get; init; }
    public required IReadOnlyList<PlaceForm> Places { get; init; }
    public required IReadOnlyList<FigureForm> Figures { get; init; }
    public required IReadOnlyList<LineForm> Lines { get; init; }

    /// <summary>Part lines, operations and subassemblies by the id of their row.</summary>
    public required IReadOnlyDictionary<string, RowForm> Rows { get; init; }

    /// <summary>What asked and computed attributes are called at their paths, with their place.</summary>
    public required IReadOnlyDictionary<string, string> Labels { get; init; }

    /// <summary>How many faults the model has: of a draft that is tried out, what is faulty is left out.</summary>
    public required int LeftOut { get; init; }

    /// <summary>Whether the model has prices at all.</summary>
    public required bool Priced { get; init; }

    public static string KeyOf(CompiledModel compiled, Effectivity at) =>
        compiled.Alike(at) is var alike ? $"{compiled.Revision.Head} {compiled.LibraryVersion} {alike.Site} {alike.Date:O}".TrimEnd() : "";

    /// <summary>What of an answer every answer at that site and day has alike.</summary>
    internal static AnswerForm Of(CompiledModel compiled, Effectivity at, AnswerView view) => new()
    {
        Key = KeyOf(compiled, at),
        Sections = [.. view.Sections.Select(s => new SectionForm(s.Id, s.TopicId, s.AssemblyId, s.Title, s.Place, s.Prefix, [.. s.Asked.Select(Of)]))],
        Places = [.. view.Places.Select(p => new PlaceForm(p.Path, p.Name, p.CountPath, p.Prefixes))],
        Figures = [.. view.Figures.Select(f =>
            new FigureForm(f.Path, f.RowId, f.AssemblyId, f.Label, f.Place, f.IsNumber, f.IsGoal, f.Unit, f.Formula, [.. f.Because.Select(b => b.Path)]))],
        Lines = [.. view.Lines.Select(l =>
            new LineForm(l.Kind, l.RowId, l.AssemblyId, l.Prefix, l.HangsOnAnswers ? "" : l.Name, l.HangsOnAnswers ? "" : l.Description, l.Condition))],
        Rows = RowsOf(compiled.Model),
        Labels = view.Sections.SelectMany(s => s.Asked).Select(a => a.Path).Concat(view.Figures.Select(f => f.Path)).Distinct()
            .ToDictionary(p => p, compiled.LabelOf),
        LeftOut = view.LeftOut,
        Priced = view.Priced,
    };

    private static AskedForm Of(AskedView a) => new(a.Path, a.RowId, a.Name, a.Label, a.Kind, a.Required, a.Unit, a.UnitLabel, a.Min, a.Max, a.Step,
        [.. a.Choices.Select(c => new ChoiceForm(c.Value, c.Label, c.Color))], a.Several is null
            ? null : [.. a.Several.Select(m => new MemberForm(m.Path, m.Label, m.Color, m.Suggested))]);

    private static Dictionary<string, RowForm> RowsOf(BoundModel model) =>
        model.Document.AllAssemblies.SelectMany(a => a.Rows.Select(r => (Assembly: a, Row: r)))
        .Where(x => x.Row is PartLine or OperationLine or Subassembly).DistinctBy(x => x.Row.Id)
        .ToDictionary(x => x.Row.Id, x => x.Row is OperationLine ? Of(model, x.Assembly, x.Row, "run") : Of(model, x.Assembly, x.Row, "quantity"));

    private static RowForm Of(BoundModel model, AssemblyDefinition assembly, Row row, string field) =>
        new(assembly.Id, StoredText.Show(StructureExplainer.FormulaOf(row, field), model.Index),
        model.Expression(row.Id, field) is { } expression ? [.. expression.All().OfType<BoundAttribute>().Select(a => a.Path).Distinct()] : [],
        row is PartLine { Scrap: { Length: > 0 } scrap } ? scrap : "0", row is PartLine part ? part.Step : "");
}
