using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Structures;

/// <summary>Lines of an assembly that answer the same question, of which exactly one has to stand.</summary>
public static class ExclusiveGroups
{
    /// <summary>The question of a row; empty where it answers none.</summary>
    public static string QuestionOf(Row row) => row switch { PartLine part => part.OneOf.Trim(), OperationLine operation => operation.OneOf.Trim(), _ => "" };

    /// <summary>The questions with their rows, in the author's order. Case makes no difference; parts and operations are groups of their own.</summary>
    public static IEnumerable<(string Question, IReadOnlyList<Row> Rows)> Of(AssemblyDefinition assembly, Func<Row, bool> isSound) =>
        assembly.Rows.Where(r => QuestionOf(r).Length > 0 && isSound(r)).GroupBy(r => (r is PartLine, Names.Fold(QuestionOf(r))))
            .Select(g => (QuestionOf(g.First()), (IReadOnlyList<Row>)[.. g]));
}
