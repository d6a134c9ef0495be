using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Every id is there, is usable in paths and stored texts, and stands for one thing only.</summary>
internal static class IdChecks
{
    public static void Run(ModelDocument document, List<Finding> findings)
    {
        void Report(string id, string field, Fault fault, string message) => findings.Add(new(id, field, new(fault, default, message)));

        // Each is looked up by its kind.
        HashSet<string> assemblies = [], topics = [], lists = [], rows = [], columns = [], values = [], properties = [], cases = [];
        void Check(HashSet<string> seen, string id, string reportAt, string field, string what, bool isInPaths = true)
        {
            if (id.Length == 0)
                Report(reportAt, field, Fault.MissingId, $"{what} has no id.");
            else if (!IsUsable(id, isInPaths))
                Report(reportAt, field, Fault.BadId,
                    $"{what} has an id that cannot be used: up to {Limits.LongestName} characters, no blanks and none of {(isInPaths ? ": / " : "")}# ⟦ ⟧.");
            else if (!seen.Add(id))
                Report(reportAt, field, Fault.DuplicateId, $"{what} has the id “{id}”, which something else has, too.");
        }

        foreach (var assembly in document.AllAssemblies)
        {
            Check(assemblies, assembly.Id, assembly.Id, "id", $"The assembly “{assembly.Name}”");
            foreach (var topic in assembly.Topics)
            {
                Check(topics, topic.Id, assembly.Id, "topics", $"A topic of “{assembly.Name}”", false);
                foreach (var row in topic.Rows)
                {
                    Check(rows, row.Id, row.Id, "id",
                        $"A row of “{assembly.Name}”{(row is NamedRow { Name.Length: > 0 } called ? $", “{called.Name}”," : "")}");
                    if (row is Subassembly place)
                        Instances(place);
                    else if (row is CombinationGrid grid)
                        foreach (var column in grid.Columns)
                            Check(columns, column.Id, grid.Id, "columns", $"The column “{column.Name}”", false);
                }
            }
        }
        foreach (var list in document.AllLists)
        {
            Check(lists, list.Id, list.Id, "id", $"The value list “{list.Name}”", false);
            foreach (var value in list.Values)
                Check(values, value.Id, list.Id, "values", $"The value “{value.Code}”", false);
            foreach (var property in list.Properties)
                Check(properties, property.Id, list.Id, "properties", $"The property “{property.Name}”", false);
        }

        foreach (var one in document.Cases)
            Check(cases, one.Id, document.Id, "cases", $"The test case “{one.Name}”", false);

        // Instances are told apart within their subassembly only.
        void Instances(Subassembly place)
        {
            var instances = new HashSet<string>();
            foreach (var instance in place.Instances)
                if (instance.Id.Length == 0 || !IsUsable(instance.Id, true))
                    Report(place.Id, "instances", Fault.BadId,
                        $"An instance of “{place.Name}” has no id that can be used: up to {Limits.LongestName} characters, no blanks and none of : / # ⟦ ⟧.");
                else if (!instances.Add(instance.Id))
                    Report(place.Id, "instances", Fault.DuplicateId, $"Two instances of “{place.Name}” have the id “{instance.Id}”.");
        }
    }

    private static bool IsUsable(string id, bool isInPaths) => id.Length <= Limits.LongestName && !id.Any(c =>
        char.IsWhiteSpace(c) || char.IsControl(c) || c is RowPath.Member or Lexer.ReferenceOpen or Lexer.ReferenceClose
            || (isInPaths && c is (RowPath.Instance or RowPath.Below)));
}
