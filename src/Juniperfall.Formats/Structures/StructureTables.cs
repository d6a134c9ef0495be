namespace Juniperfall.Formats.Structures;

/// <summary>Structures as tables, one row a line, levels written out.</summary>
public static class StructureTables
{
    public static Table Bom(StructureFile file)
    {
        var rows = new List<object?[]>();
        void Add(MadeItem at, int level)
        {
            foreach (var line in at.Lines)
            {
                rows.Add([level, at.Item, line.Position, line.Item, line.Description.In(), Tables.Number(line.Net), Tables.Number(line.Gross), line.Unit.Length == 0 ? "pcs" : line.Unit,
                    line.PerOrder ? "order" : "piece", line.Operation, line.Issue == "hand" ? "by hand" : "backflush", line.Store,
                    string.Join("; ", line.Figures.Select(f => $"{f.Name} {f.Number} {f.Unit}".TrimEnd())), string.Join(", ", line.Substitutes),
                    line.From?.ToString("yyyy-MM-dd", null), line.To?.ToString("yyyy-MM-dd", null), line.Condition]);
                if (line.Structure is { } below)
                    Add(below, level + 1);
            }
        }
        Add(file.Structure, 1);
        return new(["Level", "Parent", "Position", "Item", "Description", "Net", "Gross", "Unit", "Per", "Operation", "Issue", "Store", "Figures", "Substitutes", "From", "To", "Condition"], rows);
    }

    public static Table Routing(StructureFile file) => new(
        ["Level", "Item", "Sequence", "Operation", "Work centre", "Set-up min", "Run min", "Batch", "Queue min", "Crew", "Parallel", "Instructions", "Condition"],
        [.. StructureFiles.Made(file.Structure).SelectMany(m => m.Made.Operations.Select(o => new object?[]
        {
            m.Level, m.Made.Item, o.Sequence, o.Label.Or(o.Name), o.WorkCentre, Tables.Number(o.Setup), Tables.Number(o.Run), o.Batch is { } batch ? Tables.Number(batch) : null, Tables.Number(o.Queue),
            o.Crew, o.Parallel, o.Instructions.In(), o.Condition,
        }))]);
}
