using System.Security.Claims;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Library;

/// <summary>A row of a model that names an item.</summary>
/// <param name="How">“fixed”, “by value” where a property of a value names it, “substitute”, or “made as” for a subassembly.</param>
public sealed record UsedInModel(long RevisionId, string ProductCode, string ProductLabel, int Revision, string State, string AssemblyId, string RowId,
    string RowName, string How, string Condition, string Quantity);

public sealed record UsedInStructure(string StructureId, string Name, string ProductCode, int Revision, DateTime MadeAt);

public sealed record PerSite(string Site, string Label, string Store, string Cost);

/// <summary>One item with all that the register knows, and where it is used.</summary>
/// <param name="More">Whether there are more uses than are listed.</param>
public sealed record ItemPageView(ItemView Item, IReadOnlyDictionary<string, string> Descriptions, IReadOnlyList<PerSite> Sites,
    IReadOnlyDictionary<string, string> Conversions, string OrderMultiple, string LeadTimeDays,
    IReadOnlyDictionary<string, string> Properties, IReadOnlyList<string> Substitutes, IReadOnlyList<UsedInModel> Models,
        IReadOnlyList<UsedInStructure> Structures, bool More = false);

/// <summary>The page of one item.</summary>
public static class ItemEndpoint
{
    private const int MostStructures = 200, MostRevisions = 200;

    public static void MapItem(this IEndpointRouteBuilder api) =>
        api.MapGet("/items/{number}", Show).Needs(Right.Read).WithName("item").WithSummary("An item with where it is used").Produces<ItemPageView>()
            .ProducesProblem(404);

    private static async Task<IResult> Show(string number, ClaimsPrincipal user, LibraryStore library, CompiledModels models, CancellationToken cancel)
    {
        if (await library.Item(number, cancel) is not { } item)
            return Problems.Gone("item");
        var facts = (await library.Load(cancel)).Facts;
        var used = new List<UsedInModel>();
        var revisions = await library.RevisionsWith(number, MostRevisions + 1, cancel);
        foreach (var id in revisions.Take(MostRevisions))
            if (await models.Get(id, cancel) is { } compiled)
                used.AddRange(Uses(compiled, number));
        var structures = await library.StructuresWith(number, MostStructures + 1, cancel);
        return TypedResults.Ok(new ItemPageView(ItemView.Of(item, user),
            item.Description.Texts,
            [.. facts.Sites.Values.Where(s => item.Stores.ContainsKey(s.Code) || item.Costs.ContainsKey(s.Code))
                .Select(s => new PerSite(s.Code, s.Label.Or(s.Code), item.Stores.GetValueOrDefault(s.Code, ""),
                    user.Has(Right.SeeCosts) ? item.CostAt(s.Code).ToString() : ""))],
            item.Conversions, item.OrderMultiple, item.LeadTimeDays, item.Properties,
                [.. item.Substitutes.Select(s => s.Product is null ? s.Item : $"{s.Item} in {s.Product}")],
            used, [.. structures.Take(MostStructures).Select(s => new UsedInStructure(s.Id, s.Name, s.Product, s.Revision, s.MadeAt))],
                revisions.Count > MostRevisions || structures.Count > MostStructures));
    }

    private static IEnumerable<UsedInModel> Uses(CompiledModel compiled, string number)
    {
        var model = compiled.Model;
        foreach (var assembly in model.Document.AllAssemblies)
            foreach (var row in assembly.Rows)
                if (How(row) is { } how)
                    yield return new(compiled.Revision.Id, compiled.Revision.Document.Code,
                        compiled.Revision.Document.Label.Or(compiled.Revision.Document.Code), compiled.Revision.Number, compiled.Revision.State,
                        assembly.Id, row.Id, $"{assembly.Label.Or(assembly.Name)}: {compiled.NameOf(row.Id)}", how,
                            StoredText.Show(row.AppliesWhen, model.Index),
                        StoredText.Show(row switch { PartLine part => part.Quantity, Subassembly place => place.Quantity, _ => "" }, model.Index));

        string? How(Row row) => row switch
        {
            PartLine part when part.Item == number => "fixed",
            PartLine part when model.Expression(part.Id, "itemFrom") is { } from
                && ItemTexts.Of(model.Index, from, null, model.Index.FactsOf(model.Index.AssemblyOfRow[part.Id])).Contains(number) => "by value",
            PartLine part when part.SubstituteItems.Contains(number) => "substitute",
            Subassembly place when place.Item == number => "made as",
            CombinationGrid grid when DrawnRows.Items(grid.DrawnFrom, model.Facts).Any(i => i.Number == number) => "drawn row",
            _ => null,
        };
    }
}
