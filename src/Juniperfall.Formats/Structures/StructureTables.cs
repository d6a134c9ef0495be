namespace Juniperfall.Formats.Structures;

/// <summary>Structures as tables, one row a line, levels written out. Each column says whether it is of a piece or of the order.</summary>
public static class StructureTables
{
    private const string CostPerPiece = "Cost EUR per piece", CostOfOrder = "Cost EUR for the order";

    private static Table Told(StructureFile file, Table table) =>
        (file.TellsCosts ? table : table.Without(c => c is CostPerPiece or CostOfOrder)) is var told && file.Concession is { } concession
            // Each row is handed on alone; it says under what it is made.
            ? new([.. told.Columns, "Concession"], [.. told.Rows.Select(r => (object?[])[.. r, concession.Number])]) : told;

    private static object? Number(string text) => text.Length == 0 ? null : Tables.Number(text);

    public static Table Bom(StructureFile file)
    {
        var rows = new List<object?[]>();
        void Add(MadeItem at, int level)
        {
            foreach (var line in at.Lines)
            {
                rows.Add([level, at.Item, line.Position, line.Item, line.Description.In(), line.PerOrder ? null : Number(line.Net),
                    line.PerOrder ? null : Number(line.Gross), Number(line.OrderNet), Number(line.OrderGross),
                    line.Unit.Length == 0 ? "pcs" : line.Unit, Number(line.Cost), Number(line.OrderCost), Number(line.Weight), Number(line.OrderWeight),
                    line.PerOrder ? "order" : "piece", line.Operation, line.Issue == "hand" ? "by hand" : "backflush", line.Store,
                    string.Join("; ", line.Figures.Select(f => $"{f.Name} {f.Number} {f.Unit}".TrimEnd())), string.Join(", ", line.Substitutes), line.From,
                        line.To, line.Condition]);
                if (line.Structure is { } below)
                    Add(below, level + 1);
            }
        }
        Add(file.Structure, 1);
        return Told(file, new(["Level", "Parent", "Position", "Item", "Description", "Net per piece", "Gross per piece", "Net for the order",
            "Gross for the order", "Unit", CostPerPiece, CostOfOrder,
            "Weight kg per piece", "Weight kg for the order", "Per", "Operation", "Issue", "Store", "Figures", "Substitutes", "From", "To",
            "Condition"], rows));
    }

    public static Table Routing(StructureFile file) => Told(file, new(
        ["Level", "Item", "Made for the order", "Sequence", "Operation", "Work centre", "Set-up min per lot", "Run min per piece or batch", "Batch",
            "Set-up min for the order", "Run min for the order", "Queue min", CostPerPiece, CostOfOrder, "Crew", "Parallel", "Instructions", "Condition"],
        [.. StructureWriter.Made(file.Structure).SelectMany(m => m.Made.Operations.Select(o => new object?[]
        {
            m.Level, m.Made.Item, Number(m.Made.Quantity), o.Sequence, o.Label.Or(o.Name), o.WorkCentre, Number(o.Setup), Number(o.Run), o.Batch is { } batch
                ? Number(batch) : null, Number(o.OrderSetup), Number(o.OrderRun), Number(o.Queue),
            Number(o.Cost), Number(o.OrderCost), o.Crew, o.Parallel, o.Instructions.In(), o.Condition,
        }))]));

    /// <summary>Days are working days from the start of everything.</summary>
    public static Table Consumption(StructureFile file) => new(["Item", "Description", "Unit", "Net for the order", "Gross for the order", "To order",
        "Lead time days", "Needed on day", "Order by day"],
        [.. file.Consumption.Select(c => new object?[]
        {
            c.Item, c.Description.In(), c.Unit.Length == 0 ? "pcs" : c.Unit, Number(c.Net), Number(c.Gross), Number(c.ToOrder), Number(c.LeadTimeDays),
            Number(c.NeededOnDay), Number(c.OrderByDay),
        })]);

    public static Table Load(StructureFile file) => new(["Work centre", "Name", "Site", "Operations", "Set-up min", "Run min", "Working days"],
        [.. file.Load.Select(l => new object?[] { l.WorkCentre, l.Label.In(), l.Site, l.Operations, Number(l.Setup), Number(l.Run), Number(l.Days) })]);

    public static Table Answers(StructureFile file) =>
        new(["Section", "Name", "Question", "Answer", "How"], [.. file.Answers.Select(a => new object?[] { a.Section, a.Name, a.Label, a.Value, a.State })]);

    /// <summary>What the order and one piece come to.</summary>
    public static Table Totals(StructureFile file) => new(["", "One piece", "The order"],
    [
        .. new (string Name, Func<CostFile, string> Of)[]
        {
            ("Material EUR", c => c.Material), ("Scrap EUR", c => c.Scrap), ("Labour EUR", c => c.Labour), ("Machine EUR", c => c.Machine),
                ("Overhead EUR", c => c.Overhead), ("Cost EUR", c => c.Cost), ("Weight kg", c => c.Weight), ("Work min", c => c.Work),
        }.Where(t => t.Of(file.Order).Length > 0).Select(t => new object?[] { t.Name, Number(t.Of(file.Piece)), Number(t.Of(file.Order)) }),
        .. file.Price is { } price ? new[] { new object?[] { "Price EUR", Number(price.Each), Number(price.Order) } } : [],
        ["Lead time, working days", null, Number(file.LeadTimeDays)],
    ]);

    /// <summary>What a sheet is of.</summary>
    public static IReadOnlyList<(string Label, object? Value)> Head(StructureFile file) =>
    [
        ("Product", $"{file.Product} {file.Label.In()}".Trim()), ("Revision", file.Revision), ("Configuration", file.Configuration),
            ("Quantity", Tables.Number(file.Quantity)), ("Site", file.Site), ("Day", file.Date),
            .. file.Concession is { } concession ? new (string, object?)[] { ("Concession", concession.Sentence) } : [],
    ];

    /// <summary>Everything of a structure as one workbook.</summary>
    public static IReadOnlyList<NamedTable> Workbook(StructureFile file) =>
        [new("BOM", Bom(file), Head(file)), new("Routing", Routing(file), Head(file)), new("Consumption", Consumption(file), Head(file)),
            new("Load", Load(file), Head(file)),
            new("Totals", Totals(file), Head(file)), new("Answers", Answers(file), Head(file))];
}
