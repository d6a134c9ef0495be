using System.Security.Claims;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Concessions;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Configurations;

/// <summary>One of two configurations that are compared.</summary>
/// <param name="CustomerClass">The name of the class that it is priced for; null for list price.</param>
/// <param name="Complete">Whether it has a structure; without one there are no parts, operations and totals to compare.</param>
public sealed record ComparedView(string Id, string Name, string ProductCode, int RevisionNumber, string? Site, DateOnly? Date, bool Complete,
    string? CustomerClass);

/// <param name="Rows">Everything that either has, what is the same among it.</param>
public sealed record ComparisonView(ComparedView Left, ComparedView Right, IReadOnlyList<MoveChange> Rows);

/// <summary>Two configurations side by side, to look at and to take out.</summary>
public static class CompareEndpoint
{
    public static void MapCompare(this IEndpointRouteBuilder api)
    {
        api.MapGet("/compare", Compare).Needs(Right.Read).WithName("compare").WithSummary("Two configurations side by side").Produces<ComparisonView>()
            .ProducesProblem(404);
        api.MapGet("/compare.xlsx", TakeOut).Needs(Right.Read).WithName("takeOutComparison").WithSummary("Two configurations side by side as a workbook")
            .Produces<Stream>(200, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet").ProducesProblem(404).ProducesProblem(422);
    }

    private static async Task<(ComparedView Head, Compared Side)?> Load(string id, Exact quantity, ConfigurationStore store, CompiledModels models,
        HeldConcessions held, LibraryStore library, ClaimsPrincipal user, CancellationToken cancel)
    {
        if (await store.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } compiled)
            return null;
        (compiled, _) = await held.Of(stored, compiled, cancel);
        var read = ReadPicks.Of(compiled, stored);
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        var audience = await Audience.Of(user, stored.CustomerClass, library, cancel);
        return await compiled.InTurn(() => Side(stored, compiled, read, asked, audience, quantity), cancel);
    }

    private static (ComparedView Head, Compared Side) Side(StoredConfiguration stored, CompiledModel compiled, ReadPicks read, Asked asked,
        Audience audience, Exact quantity)
    {
        var view = new AnswerWords(compiled).Of(asked, read.Faults, audience);
        var costs = asked.Result?.Structure is { } structure
            ? FullStructureEndpoints.CostsOf(compiled, asked, structure, audience, quantity) : null;
        return (new(stored.Id, stored.Name, compiled.Revision.Document.Code, compiled.Revision.Number, stored.At.Site, stored.At.Date,
            view.Structure is not null, audience.Customers is { } customers ? customers.Label.Or(customers.Code) : null), new(view, Given(asked), costs));
    }

    /// <summary>The paths that have a value in the configuration, suggestions included; what does not apply has none.</summary>
    internal static IReadOnlySet<string>? Given(Asked asked) => asked.Values is { } values
        ? values.Keys.Select(RowPath.OfRow).Concat(values.Keys).ToHashSet() : null;

    private static async Task<(ComparisonView? View, IResult? Problem)> Of(string left, string right, string? quantity, ConfigurationStore store,
        CompiledModels models, HeldConcessions held, LibraryStore library, ClaimsPrincipal user, CancellationToken cancel)
    {
        if (FullStructureEndpoints.QuantityOf(quantity ?? "1") is not { } lot)
            return (null, Problems.Wrong("/quantity", $"“{quantity}” is not a quantity; it is a whole number from 1 to 1,000,000."));
        return await Load(left, lot, store, models, held, library, user, cancel) is { } a
            && await Load(right, lot, store, models, held, library, user, cancel) is { } b
            ? (new(a.Head, b.Head, Comparison.Of(a.Side, b.Side)), null) : (null, Problems.Gone("configuration"));
    }

    private static async Task<IResult> Compare(string left, string right, string? quantity, ConfigurationStore store, CompiledModels models,
        HeldConcessions held, LibraryStore library, ClaimsPrincipal user, CancellationToken cancel)
    {
        var (view, problem) = await Of(left, right, quantity, store, models, held, library, user, cancel);
        return view is null ? problem! : TypedResults.Ok(view);
    }

    private static async Task<IResult> TakeOut(string left, string right, string? quantity, bool? all, ConfigurationStore store, CompiledModels models,
        HeldConcessions held, LibraryStore library, ClaimsPrincipal user, CancellationToken cancel)
    {
        var (view, problem) = await Of(left, right, quantity, store, models, held, library, user, cancel);
        return view is null ? problem! : TypedResults
            .File(await Tables.Xlsx([new("Comparison",
            new Table(["Kind", "What", view.Left.Name, view.Right.Name == view.Left.Name ? view.Right.Name + " (2)" : view.Right.Name, "Differs"],
                [.. view.Rows.Where(r => all == true || r.Before != r.After)
                    .Select(r => new object?[] { r.Kind, r.Name, r.Before, r.After, r.Before == r.After ? "" : "yes" })]),
                [.. new[] { view.Left, view.Right }.Select((side, i) =>
                    (i == 0 ? "Left" : "Right", (object?)$"{side.ProductCode} revision {side.RevisionNumber}, {side.Name}")),
                    ("Quantity", Tables.Number(quantity ?? "1"))])], cancel),
                "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "comparison.xlsx");
    }
}

/// <summary>One side of a comparison.</summary>
/// <param name="Given">The paths that have a value in it; null where that is not known.</param>
/// <param name="Costs">What a quantity of it comes to; null: what one piece does.</param>
internal sealed record Compared(AnswerView View, IReadOnlySet<string>? Given, CostsView? Costs = null);

/// <summary>Two results side by side: attributes, figures, parts, operations, and what they come to.</summary>
internal static class Comparison
{
    public static List<MoveChange> Of(Compared left, Compared right)
    {
        var ((before, then, _), (after, now, _)) = (left, right);
        var changes = new List<MoveChange>();
        Compare("attribute", Asked(before, then), Asked(after, now));
        Compare("figure", before.Figures.Where(f => f.HasValue).ToDictionary(f => f.Path, f => (Name(f.Place, f.Label), f.Suggested)),
            after.Figures.Where(f => f.HasValue).ToDictionary(f => f.Path, f => (Name(f.Place, f.Label), f.Suggested)));
        Compare("part", Lines(before.Structure), Lines(after.Structure));
        Compare("operation", Operations(before.Structure), Operations(after.Structure));
        Compare("total", Totals(left), Totals(right));
        return changes;

        void Compare(string kind, Dictionary<string, (string Name, string Text)> old, Dictionary<string, (string Name, string Text)> fresh)
        {
            foreach (var key in old.Keys.Union(fresh.Keys))
            {
                var (was, present) = (old.GetValueOrDefault(key), fresh.GetValueOrDefault(key));
                changes.Add(new(kind, present.Name ?? was.Name, was.Text ?? "", present.Text ?? ""));
            }
        }
    }

    private static string Name(string? place, string label) => place is null ? label : $"{place}: {label}";

    private static Dictionary<string, (string, string)> Asked(AnswerView view, IReadOnlySet<string>? given) =>
        view.Sections.SelectMany(s =>
        s.Asked.Where(a => a.ValueLabel is not null && a.State != AttributeState.Resting && a.Applies != Applicability.Never
        && (given is null || given.Contains(a.Path)))
        .Select(a => (a.Path, (Name(s.Place, a.Label), a.ValueLabel!)))).ToDictionary();

    private static Dictionary<string, (string, string)> Lines(StructureView? structure)
    {
        var lines = new Dictionary<string, (string, string)>();
        void Add(StructureView at)
        {
            foreach (var line in at.Bom)
            {
                lines[$"{line.Prefix}{line.RowId}"] = ($"{line.Item} {line.Description}", $"{line.Item} × {line.Gross} {line.Unit}".TrimEnd());
                if (line.Below is { } below)
                    Add(below);
            }
        }
        if (structure is not null)
            Add(structure);
        return lines;
    }

    private static string Money(string amount) => Tables.Number(amount).ToString("0.00", System.Globalization.CultureInfo.InvariantCulture);

    private static Dictionary<string, (string, string)> Totals(Compared side)
    {
        if (side.View.Structure is not { Totals: var one })
            return [];
        var totals = Totals(side.Costs?.Piece ?? one);
        if (side.View.Price is { } price)
        {
            totals["price"] = ("List price", $"{Money(price.List)} EUR");
            if (price.CustomerClass is not null)
                totals["each"] = ("Price paid, each", $"{Money(price.Each)} EUR");
        }
        if (side.Costs is { } costs)
        {
            totals["leadTime"] = ("Lead time", $"{costs.Schedule.Days} days");
            if (costs.Order.Cost.Length > 0)
                totals["order"] = ("Cost of the order", $"{Money(costs.Order.Cost)} EUR");
            if (costs.Price is { List: not null } paid)
            {
                totals["each"] = ("Price paid, each", $"{Money(paid.Each)} EUR");
                totals["orderPrice"] = ("Price of the order", $"{Money(paid.Order)} EUR");
            }
        }
        return totals;
    }

    /// <summary>What costs is left out for who may not see it.</summary>
    private static Dictionary<string, (string, string)> Totals(TotalsView t)
    {
        var totals = new Dictionary<string, (string, string)>();
        foreach (var (key, name, amount) in new[] { ("material", "Material", t.Material), ("scrap", "Scrap", t.Scrap), ("labour", "Labour", t.Labour),
            ("machine", "Machine", t.Machine), ("overhead", "Overhead", t.Overhead), ("cost", "Cost", t.Cost) })
            if (amount.Length > 0)
                totals[key] = (name, $"{Money(amount)} EUR");
        (totals["weight"], totals["work"]) = (("Weight", $"{t.Weight} kg"), ("Work", $"{t.Work} min"));
        return totals;
    }

    private static Dictionary<string, (string, string)> Operations(StructureView? structure)
    {
        var operations = new Dictionary<string, (string, string)>();
        void Add(StructureView at)
        {
            foreach (var operation in at.Routing)
                operations[$"{operation.Prefix}{operation.RowId}"] = (operation.Name, $"{operation.WorkCentre}, {operation.Setup} + {operation.Run} min");
            foreach (var line in at.Bom)
                if (line.Below is { } below)
                    Add(below);
        }
        if (structure is not null)
            Add(structure);
        return operations;
    }
}
