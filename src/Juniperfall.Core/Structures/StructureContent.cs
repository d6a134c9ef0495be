using System.Text;

namespace Juniperfall.Core.Structures;

/// <summary>
/// What makes a structure what it is, as a text: two are the same to make if and only if these texts are. Where lines come
/// from, and why they are there, does not count.
/// </summary>
public static class StructureContent
{
    public static string Of(Structure structure)
    {
        var text = new StringBuilder();
        Write(structure, text);
        return text.ToString();
    }

    private static void Write(Structure structure, StringBuilder text)
    {
        // Each part has its length in front, so that no name can pretend to be two.
        void Part(object? part)
        {
            var written = part?.ToString() ?? "";
            text.Append(written.Length).Append(':').Append(written);
        }

        Part(structure.Item);
        Part(structure.Site);
        Part(structure.Bom.Length);
        foreach (var line in structure.Bom)
        {
            foreach (var part in new object?[] { line.Position, line.Item, line.Unit, line.Net, line.Gross, line.PerOrder, line.Issue, line.Store,
                line.Operation, line.From?.DayNumber, line.To?.DayNumber, line.Figures.Length })
                Part(part);
            foreach (var figure in line.Figures)
            {
                Part(figure.Name);
                Part(figure.Number);
                Part(figure.Unit);
            }
            Part(string.Join('\n', line.Substitutes));
            if (line.Below is { } below)
                Write(below, text.Append('('));
            text.Append(')');
        }
        foreach (var o in structure.Routing)
        {
            foreach (var part in new object?[] { o.Sequence, o.Name, o.WorkCentre, o.Setup, o.Run, o.Batch, o.Pieces, o.Queue, o.Crew, o.Parallel })
                Part(part);
            foreach (var (language, instruction) in o.Instructions.Texts)
            {
                Part(language);
                Part(instruction);
            }
        }
    }
}
