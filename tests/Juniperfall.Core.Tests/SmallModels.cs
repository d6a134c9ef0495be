using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Tests;

/// <summary>Models of a few rows, written by hand in the terms of their test.</summary>
internal static class SmallModels
{
    public static readonly LibraryFacts Facts = new()
    {
        Items = LibraryFacts.Empty.Items
            .Add("PANEL", new() { Number = "PANEL", Unit = "m2", Cost = "20", Weight = "11" })
            .Add("BOLT", new() { Number = "BOLT", Cost = "0.25", Weight = "0.02", Stores = ImmutableSortedDictionary<string, string>.Empty.Add("HAL", "Raw") })
            .Add("SEAL", new() { Number = "SEAL", Unit = "m" })
            .Add("OLD", new() { Number = "OLD", Active = false })
            .Add("DOOR", new() { Number = "DOOR", Description = LocalText.English("Door leaf") }),
        WorkCentres = LibraryFacts.Empty.WorkCentres.Add("BENCH", new() { Code = "BENCH", Site = "HAL", LabourRate = "36", MachineRate = "12", Crew = 2 }),
        Sites = LibraryFacts.Empty.Sites.Add("HAL", new() { Code = "HAL" }).Add("ELL", new() { Code = "ELL" }),
    };

    public static readonly ValueList Cores = new()
    {
        Id = "cores",
        Name = "cores",
        Properties = [new() { Id = "thick", Name = "thickness", Unit = "mm" }, new() { Id = "item", Name = "item", Type = PropertyType.Text }],
        Values = [.. new[] { "80", "100", "120" }.Select(c => new ListValue
        {
            Id = "c" + c,
            Code = c,
            Properties = ImmutableSortedDictionary<string, string>.Empty.Add("thick", c).Add("item", c == "80" ? "BOLT" : "SEAL"),
        })],
    };

    public static AttributeRow Choice(string name) => new() { Id = name, Name = name, Kind = AttributeKind.Choice, ListId = "cores", Required = true };
    public static AttributeRow YesNo(string name) => new() { Id = name, Name = name, Kind = AttributeKind.YesNo, Required = true };
    public static AttributeRow Whole(string name, int min, int max) =>
        new() { Id = name, Name = name, Kind = AttributeKind.Whole, Min = $"{min}", Max = $"{max}", Required = true };
    public static AttributeRow Length(string name, int min, int max, int step) =>
        new() { Id = name, Name = name, Kind = AttributeKind.Quantity, Unit = "mm", Min = $"{min}", Max = $"{max}", Step = $"{step}", Required = true };
    public static ComputedAttribute Computed(string name, string expression) => new() { Id = name, Name = name, Expression = expression };
    public static StatementRule Rule(string id, string expression) => new() { Id = id, Expression = expression };

    public static AssemblyDefinition Assembly(string name, params Row[] rows) =>
        new() { Id = name, Name = name, Topics = [new() { Id = "t" + name, Rows = [.. rows] }] };

    /// <summary>A model whose first assembly is the product itself.</summary>
    public static BoundModel Of(params AssemblyDefinition[] assemblies) =>
        new(new() { Id = "m", Code = "CR", Root = assemblies[0].Id, Lists = [Cores], Assemblies = [.. assemblies] }, Facts);

    /// <summary>The same, sound.</summary>
    public static BoundModel Sound(params AssemblyDefinition[] assemblies)
    {
        var model = Of(assemblies);
        Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => $"{f.RowId}.{f.Field}: {f.Diagnostic.Message}")));
        return model;
    }

    public static ImmutableArray<Pick> Picks(BoundModel model, params string[] picks)
    {
        var text = new PickText(model);
        return [.. picks.Select(p => p.Split('=', 2)).Select(p => text.Read(p[0], p[1])).Select(r => r.Pick ?? throw new InvalidOperationException(r.Error))];
    }

    public static Answer Ask(BoundModel model, params string[] picks) => new Reasoner(model).Answer(new(Picks(model, picks)), CancellationToken.None);

    public static AttributeAnswer At(this Answer answer, string path) => answer.Attributes.Single(a => a.DisplayPath == path);

    /// <summary>The available values of an attribute as people write them, none last.</summary>
    public static string Available(this Answer answer, BoundModel model, string path)
    {
        var at = answer.At(path);
        var text = new PickText(model);
        return string.Join(" ", at.Available.Values.Select(v => text.Write(at.Row, v)).Concat(at.Available.None ? ["none"] : Array.Empty<string>()));
    }

    public static Exact In(string unit, Exact number) => Unit.Parse(unit).FromBase(number);
}
