using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures;

namespace Juniperfall.Bench;

/// <summary>Structures of many lines: generated, added up, scheduled and checked.</summary>
internal static class Structures
{
    private const int Lines = 10_000, Assemblies = 50, Runs = 7;

    public static void Run()
    {
        var items = Enumerable.Range(0, 500).ToDictionary(i => $"P{i}", i => new ItemFact { Number = $"P{i}", Cost = $"{i % 90}.5", Weight = "0.2" });
        var facts = new LibraryFacts
        {
            Items = LibraryFacts.Empty.Items.AddRange(items),
            WorkCentres = LibraryFacts.Empty.WorkCentres.Add("BENCH", new() { Code = "BENCH", LabourRate = "36", MachineRate = "12" }),
        };
        AssemblyDefinition Assembly(string id, IEnumerable<Row> rows) => new() { Id = id, Name = id, Topics = [new() { Id = "t" + id, Rows = [.. rows] }] };
        Row Number(string id) => new AttributeRow { Id = id, Name = "n", Kind = AttributeKind.Whole, Min = "1", Max = "9", Required = true };
        var below = Enumerable.Range(0, Assemblies).Select(a => Assembly($"a{a}", Enumerable.Range(0, Lines / Assemblies).Select(l => (Row)new PartLine
        {
            Id = $"l{a}.{l}",
            Item = $"P{(a * 31 + l) % 500}",
            Quantity = $"ceil(n * {l % 7 + 1} / 3) + 1",
            AppliesWhen = $"n + {l % 5} > 2",
            Step = "1",
            Scrap = "3",
        }).Prepend(Number($"n{a}")).Append(
            new OperationLine { Id = $"o{a}", Name = $"o{a}", Sequence = 10, WorkCentre = "BENCH", Setup = "5 min", Run = "n * 2 min" })));
        var root = Assembly("root", Enumerable.Range(0, Assemblies)
            .Select(a => (Row)new Subassembly
            {
                Id = $"s{a}",
                Name = $"s{a}",
                AssemblyId = $"a{a}",
                Make = a % 2 == 0 ? SubassemblyKind.OwnItem : SubassemblyKind.Phantom,
                Item = "P1",
                Quantity = "2",
                Instances = [new() { Id = "1" }]
            }));
        var document = ModelEditor.BindNames(new() { Id = "m", Code = "BIG", Root = "root", Assemblies = [root, .. below] }, facts).Document!;
        var model = new BoundModel(document, facts);
        if (model.Findings.Count > 0)
            throw new InvalidOperationException(model.Findings[0].Diagnostic.Message);
        var values = Enumerable.Range(0, Assemblies).ToDictionary(a => $"s{a}:1/n{a}", a => Value.Of((Exact)(a % 9 + 1)));
        Structure structure = null!;
        Time("generate", () => structure = StructureBuilder.Build(model, values).Structure!);
        Time("add up at a lot of 10", () => new RollUp(facts).Ordered(structure, 10));
        Time("schedule", () => LeadTime.Of(structure, facts, 10));
        Time("check what is missing", () => BuildableCheck.Of(model, structure, default));
        Console.WriteLine($"lines: {structure.Bom.Sum(l => 1 + (l.Below?.Bom.Length ?? 0))}");
    }

    private static void Time(string what, Action run)
    {
        var times = new List<double>();
        for (var i = 0; i <= Runs; i++)
        {
            var watch = Stopwatch.StartNew();
            run();
            if (i > 0)
                times.Add(watch.Elapsed.TotalMilliseconds);
        }
        Console.WriteLine($"{what,-30}{times.Min(),10:0.0} ms quickest{times.Order().ElementAt(Runs / 2),10:0.0} ms median");
    }
}
