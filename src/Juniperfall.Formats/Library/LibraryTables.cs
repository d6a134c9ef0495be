using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Formats.Library;

/// <summary>The tables of the library: items, work centres, sites, standard operations and customer classes.</summary>
public static class LibraryTables
{
    private const int LongestText = 400;
    private static readonly string[] Kinds = ["bought", "made", "service"];

    /// <summary>What is wrong with a library that came in a file, by the checks of its tables; null where nothing is.</summary>
    public static string? FaultOf(LibraryFacts facts)
    {
        // A file may leave out sites that its items are kept at.
        var sites = facts.Sites.Keys.Concat(facts.Items.Values.SelectMany(i => i.Stores.Keys.Concat(i.Costs.Keys))).ToHashSet();
        return Of("item", Items(sites), facts.Items) ?? Of("work centre", WorkCentres, facts.WorkCentres) ?? Of("site", Sites, facts.Sites)
            ?? Of("standard operation", StandardOperations, facts.StandardOperations) ?? Of("customer class", CustomerClasses, facts.CustomerClasses);

        static string? Of<T>(string what, LibraryTable<T> table, ImmutableSortedDictionary<string, T> things) where T : class
        {
            if (things.FirstOrDefault(t => t.Key != table.KeyOf(t.Value)) is { Value: not null } misplaced)
                return $"The {what} “{table.KeyOf(misplaced.Value)}” stands under the name “{misplaced.Key}”.";
            var written = table.Write([.. things.Values]);
            var faults = table.Read(new([.. written.Columns], [.. written.Rows.Select(r => r.Select(c => (string)c!).ToArray())], FirstRow: 0), _ =>
                null).Faults;
            return faults is [var first, ..] ? $"In the library, {what} “{written.Rows[first.Row][0]}”, {first.Column}: {first.Sentence}" : null;
        }
    }

    // ---- Items --------------------------------------------------------------------------------------------------

    private static readonly LibraryColumn<ItemFact>[] ItemColumns =
    [
        new("number", i => i.Number, (i, _) => (i, null)),
        Text<ItemFact>("description", i => i.Description.Texts.GetValueOrDefault("en", ""), (i, t) => i with { Description = With(i.Description, "en", t) }),
        new("unit", i => i.Unit, (i, t) => t is "pcs" or "1" ? (i with { Unit = "" }, null) : t.Length == 0
            || Unit.TryParse(t) is not null ? (i with { Unit = t }, null) : (i, $"“{t}” is not a unit code; pieces are left empty.")),
        new("kind", i => i.Kind, (i, t) => t.Length == 0 ? (i, null) : Kinds.FirstOrDefault(k => k.Equals(t, StringComparison.OrdinalIgnoreCase)) is { } kind
            ? (i with { Kind = kind }, null) : (i, $"“{t}” is no kind; there are {string.Join(", ", Kinds)}.")),
        new("active", i => i.Active ? "yes" : "no", (i, t) => YesNo(t) is { } truth ? (i with { Active = truth }, null) : (i, $"“{t}” is neither yes nor no.")),
        Amount<ItemFact>("cost", i => i.Cost, (i, t) => i with { Cost = t }) with { IsCost = true },
        Amount<ItemFact>("weight kg", i => i.Weight, (i, t) => i with { Weight = t }),
        Optional<ItemFact>("order multiple", i => i.OrderMultiple, (i, t) => i with { OrderMultiple = t }, aboveZero: true),
        Optional<ItemFact>("lead time days", i => i.LeadTimeDays, (i, t) => i with { LeadTimeDays = t }, aboveZero: false),
        new("substitutes", i => string.Join(", ", i.Substitutes.Select(s => s.Product is null ? s.Item : $"{s.Item} in {s.Product}")), (i, t) =>
            (i with { Substitutes = SubstitutesOf(t) }, null)),
    ];

    /// <summary>
    /// Items. Beside the columns of all: “description de” by language, “cost HAL” and “store HAL” by site, “m per unit” by the unit
    /// that one of the item can be turned into, “property NAME” for free properties.
    /// </summary>
    public static LibraryTable<ItemFact> Items(IReadOnlyCollection<string> sites) =>
        new("number", i => i.Number, n => new() { Number = n }, ItemColumns, name => ItemColumn(name, sites), MoreItemColumns);

    private static LibraryColumn<ItemFact>? ItemColumn(string name, IReadOnlyCollection<string> sites)
    {
        if (ItemColumns.FirstOrDefault(c => c.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) is { } known)
            return known;
        if (name.Split(' ', 2, StringSplitOptions.RemoveEmptyEntries) is not [var first, var rest])
            return null;
        string? Site() => sites.FirstOrDefault(s => s.Equals(rest, StringComparison.OrdinalIgnoreCase));
        switch (first.ToLowerInvariant())
        {
            case "description" when rest.Length is 2 or 3 && rest.All(char.IsAsciiLetter):
                var language = rest.ToLowerInvariant();
                return Text<ItemFact>($"description {language}", i => i.Description.Texts.GetValueOrDefault(language, ""), (i, t) =>
                    i with { Description = With(i.Description, language, t) });
            case "cost" when Site() is { } site:
                return Optional<ItemFact>($"cost {site}", i => i.Costs.GetValueOrDefault(site, ""), (i, t) =>
                    i with { Costs = t.Length == 0 ? i.Costs.Remove(site) : i.Costs.SetItem(site, t) }, aboveZero: false) with
                { IsCost = true };
            case "store" when Site() is { } site:
                return Text<ItemFact>($"store {site}", i => i.Stores.GetValueOrDefault(site, ""), (i, t) =>
                    i with { Stores = t.Length == 0 ? i.Stores.Remove(site) : i.Stores.SetItem(site, t) });
            case "property":
                return Text<ItemFact>($"property {rest}", i => i.Properties.GetValueOrDefault(rest, ""), (i, t) =>
                    i with { Properties = t.Length == 0 ? i.Properties.Remove(rest) : i.Properties.SetItem(rest, t) });
            default:
                return rest.Equals("per unit", StringComparison.OrdinalIgnoreCase) && Unit.TryParse(first) is { Code.Length: > 0 }
                    ? Optional<ItemFact>($"{first} per unit", i => i.Conversions.GetValueOrDefault(first, ""), (i, t) =>
                        i with { Conversions = t.Length == 0 ? i.Conversions.Remove(first) : i.Conversions.SetItem(first, t) }, aboveZero: true) : null;
        }
    }

    private static IEnumerable<string> MoreItemColumns(IEnumerable<ItemFact> items) => items.SelectMany(i =>
            i.Description.Texts.Keys.Where(l => l != "en").Select(l => $"description {l}").Concat(i.Stores.Keys.Select(s => $"store {s}"))
                .Concat(i.Costs.Keys.Select(s => $"cost {s}"))
                .Concat(i.Conversions.Keys.Select(u => $"{u} per unit")).Concat(i.Properties.Keys.Select(p => $"property {p}"))).Distinct()
                    .Order(StringComparer.Ordinal);

    private static ImmutableArray<ItemSubstitute> SubstitutesOf(string text) =>
        [.. text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
        .Select(s => s.Split(" in ", 2, StringSplitOptions.TrimEntries)).Select(s => new ItemSubstitute(s[0], s.Length > 1 ? s[1] : null))];

    // ---- Work centres -------------------------------------------------------------------------------------------

    private static readonly LibraryColumn<WorkCentreFact>[] WorkCentreColumns =
    [
        new("code", w => w.Code, (w, _) => (w, null)),
        Text<WorkCentreFact>("label", w => w.Label.Texts.GetValueOrDefault("en", ""), (w, t) => w with { Label = With(w.Label, "en", t) }),
        Text<WorkCentreFact>("site", w => w.Site, (w, t) => w with { Site = t }),
        Amount<WorkCentreFact>("labour rate", w => w.LabourRate, (w, t) => w with { LabourRate = t }) with { IsCost = true },
        Amount<WorkCentreFact>("machine rate", w => w.MachineRate, (w, t) => w with { MachineRate = t }) with { IsCost = true },
        new("crew", w => $"{w.Crew}", (w, t) =>
            int.TryParse(t, out var crew)
            && crew is >= 1 and <= 1000 ? (w with { Crew = crew }, null) : (w, $"“{t}” is no number of people.")) { IsNumber = true },
        new("hours per day", w => w.HoursPerDay, (w, t) =>
            Exact.TryParse(t, out var hours) && hours.Sign > 0
            && hours <= 24 ? (w with { HoursPerDay = t }, null) : (w, $"“{t}” is no number of hours up to 24.")) { IsNumber = true },
        Amount<WorkCentreFact>("overhead %", w => w.Overhead, (w, t) => w with { Overhead = t }) with { IsCost = true },
    ];

    public static LibraryTable<WorkCentreFact> WorkCentres { get; } = Plain("code", w => w.Code, c => new WorkCentreFact { Code = c }, WorkCentreColumns);

    // ---- Sites --------------------------------------------------------------------------------------------------

    private static readonly LibraryColumn<SiteFact>[] SiteColumns =
    [
        new("code", s => s.Code, (s, _) => (s, null)),
        Text<SiteFact>("label", s => s.Label.Texts.GetValueOrDefault("en", ""), (s, t) => s with { Label = With(s.Label, "en", t) }),
        new("stores", s => string.Join(", ", s.Stores), (s, t) =>
            t.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) is var stores
            && stores.Distinct(StringComparer.OrdinalIgnoreCase).Count() == stores.Length
            ? (s with { Stores = [.. stores] }, null) : (s, "A store is there twice.")),
        Amount<SiteFact>("material overhead %", s => s.MaterialOverhead, (s, t) => s with { MaterialOverhead = t }) with { IsCost = true },
    ];

    public static LibraryTable<SiteFact> Sites { get; } = Plain("code", s => s.Code, c => new SiteFact { Code = c }, SiteColumns);

    // ---- Standard operations ------------------------------------------------------------------------------------

    private static readonly LibraryColumn<StandardOperationFact>[] OperationColumns =
    [
        new("code", o => o.Code, (o, _) => (o, null)),
        Text<StandardOperationFact>("label", o => o.Label.Texts.GetValueOrDefault("en", ""), (o, t) => o with { Label = With(o.Label, "en", t) }),
        Text<StandardOperationFact>("work centre", o => o.WorkCentre, (o, t) => o with { WorkCentre = t }),
        Formula("set-up", o => o.Setup, (o, t) => o with { Setup = t }),
        Formula("run", o => o.Run, (o, t) => o with { Run = t }),
        Text<StandardOperationFact>("instructions", o => o.Instructions.Texts.GetValueOrDefault("en", ""), (o, t) =>
            o with { Instructions = With(o.Instructions, "en", t) }),
    ];

    public static LibraryTable<StandardOperationFact> StandardOperations { get; } =
        Plain("code", o => o.Code, c => new StandardOperationFact { Code = c }, OperationColumns);

    // ---- Customer classes ---------------------------------------------------------------------------------------

    private static readonly LibraryColumn<CustomerClassFact>[] CustomerClassColumns =
    [
        new("code", c => c.Code, (c, _) => (c, null)),
        Text<CustomerClassFact>("label", c => c.Label.Texts.GetValueOrDefault("en", ""), (c, t) => c with { Label = With(c.Label, "en", t) }),
        Percent("discount %", c => c.Discount, (c, t) => c with { Discount = t.Length == 0 ? "0" : t }),
    ];

    /// <summary>Customer classes. Beside the columns of all: “discount CR %” by product, where it differs.</summary>
    public static LibraryTable<CustomerClassFact> CustomerClasses { get; } =
        new("code", c => c.Code, c => new() { Code = c }, CustomerClassColumns, CustomerClassColumn,
        classes => classes.SelectMany(c => c.Discounts.Keys).Distinct().Order(StringComparer.Ordinal).Select(p => $"discount {p} %"));

    private static LibraryColumn<CustomerClassFact>? CustomerClassColumn(string name) =>
        CustomerClassColumns.FirstOrDefault(c => c.Name.Equals(name, StringComparison.OrdinalIgnoreCase))
            ?? (name.Split(' ', StringSplitOptions.RemoveEmptyEntries) is [var first, var product, "%"]
            && first.Equals("discount", StringComparison.OrdinalIgnoreCase)
            ? Percent($"discount {product} %", c => c.Discounts.GetValueOrDefault(product, ""), (c, t) =>
                c with { Discounts = t.Length == 0 ? c.Discounts.Remove(product) : c.Discounts.SetItem(product, t) }) : null);

    private static LibraryColumn<CustomerClassFact> Percent(string name, Func<CustomerClassFact, string> write,
        Func<CustomerClassFact, string, CustomerClassFact> with) => new(name, c => Plain(write(c)), (thing, text) =>
        text.Length == 0 ? (with(thing, ""), null) : Number(text) is { } fault ? (thing, fault) : Exact.Parse(text) > 100
            ? (thing, "A discount is at most 100 %.") : (with(thing, Exact.Parse(text).ToString()), null))
        { IsNumber = true };

    // ---- Columns ------------------------------------------------------------------------------------------------

    private static LibraryTable<T> Plain<T>(string key, Func<T, string> keyOf, Func<string, T> fresh, LibraryColumn<T>[] columns) where T : class =>
        new(key, keyOf, fresh, columns, name => columns.FirstOrDefault(c => c.Name.Equals(name, StringComparison.OrdinalIgnoreCase)), _ => []);

    private static LibraryColumn<T> Text<T>(string name, Func<T, string> write, Func<T, string, T> with) => new(name, write, (thing, text) =>
        text.Length > LongestText ? (thing, $"It is longer than {LongestText} characters.") : text
            .Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t'))
            ? (thing, "It has a character in it that cannot be printed.") : (with(thing, text), null));

    private static LibraryColumn<T> Amount<T>(string name, Func<T, string> write, Func<T, string, T> with) => new(name, t => Plain(write(t)), (thing, text) =>
        text.Length == 0 ? (with(thing, "0"), null) : Number(text) is { } fault ? (thing, fault) : (with(thing, Exact.Parse(text).ToString()), null))
    { IsNumber = true };

    private static LibraryColumn<T> Optional<T>(string name, Func<T, string> write, Func<T, string, T> with, bool aboveZero) =>
        new(name, t => Plain(write(t)), (thing, text) =>
        text.Length == 0 ? (with(thing, ""), null) : Number(text) is { } fault ? (thing, fault) : aboveZero
            && Exact.Parse(text).IsZero ? (thing, "It must be more than zero.") : (with(thing, Exact.Parse(text).ToString()), null))
        { IsNumber = true };

    private static LibraryColumn<StandardOperationFact> Formula(string name, Func<StandardOperationFact, string> write,
        Func<StandardOperationFact, string, StandardOperationFact> with) => new(name, write, (thing, text) =>
        text.Length > 0 && Parser.Parse(text).Diagnostics is [var first, ..] ? (thing, first.Message) : (with(thing, text), null));

    /// <summary>A number without needless zeros, so that one that was read compares with one that is written.</summary>
    private static string Plain(string number) => Exact.TryParse(number, out var exact) ? exact.ToString() : number;

    /// <summary>What is wrong with a number that cannot be below zero; null where nothing is.</summary>
    private static string? Number(string text) => !Exact.TryParse(text, out var number) || text.Contains('/', StringComparison.Ordinal)
        ? text.Contains(',', StringComparison.Ordinal) ? $"“{text}” is not a number; decimals are written with a point." : $"“{text}” is not a number."
        : number.Sign < 0 ? "It cannot be negative." : number > Largest ? "It is too large." : null;

    private static readonly Exact Largest = Exact.Parse("1000000000000");

    private static bool? YesNo(string text) =>
        text.ToLowerInvariant() switch { "yes" or "true" or "1" or "" => true, "no" or "false" or "0" => false, _ => null };

    private static LocalText With(LocalText texts, string language, string text) =>
        new(text.Length == 0 ? texts.Texts.Remove(language) : texts.Texts.SetItem(language, text));
}
