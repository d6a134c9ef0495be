using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures;

/// <summary>
/// What one piece of a structure comes to, all levels below included, at a lot of one: costs in EUR, weight in kg,
/// work in seconds. Exact.
/// </summary>
/// <param name="Material">Gross quantities × standard cost of the items that are not made here.</param>
/// <param name="Labour">Set-up and run times × labour rate × crew.</param>
/// <param name="Machine">Set-up and run times × machine rate.</param>
/// <param name="Weight">Net quantities × weight.</param>
/// <param name="Work">Set-up and run times.</param>
public sealed record Totals(Exact Material, Exact Labour, Exact Machine, Exact Weight, Exact Work)
{
    public static readonly Totals Zero = new(Exact.Zero, Exact.Zero, Exact.Zero, Exact.Zero, Exact.Zero);

    public Exact Cost => Material + Labour + Machine;

    public static Totals operator +(Totals a, Totals b) =>
        new(a.Material + b.Material, a.Labour + b.Labour, a.Machine + b.Machine, a.Weight + b.Weight, a.Work + b.Work);

    public static Totals operator *(Totals a, Exact count) =>
        new(a.Material * count, a.Labour * count, a.Machine * count, a.Weight * count, a.Work * count);
}

/// <summary>Adds a structure up. Items and work centres that the library does not know count as nothing.</summary>
public static class RollUp
{
    private static readonly Exact SecondsPerHour = Exact.Parse("3600");

    public static Totals Of(Structure structure, LibraryFacts facts)
    {
        var totals = Totals.Zero;
        foreach (var line in structure.Bom)
            totals += Of(line, facts);
        foreach (var operation in structure.Routing)
            totals += Of(operation, facts);
        return totals;
    }

    /// <summary>One line: its item's cost and weight, or what the structure below comes to.</summary>
    public static Totals Of(BomLine line, LibraryFacts facts)
    {
        if (line.Below is { } below)
            return Of(below, facts) * line.Gross;
        return facts.Items.TryGetValue(line.Item, out var item)
            ? Totals.Zero with { Material = line.Gross * Exact.Parse(item.Cost), Weight = line.Net * Exact.Parse(item.Weight) }
            : Totals.Zero;
    }

    public static Totals Of(RoutingOperation operation, LibraryFacts facts)
    {
        var work = operation.Setup + operation.Run;
        if (!facts.WorkCentres.TryGetValue(operation.WorkCentre, out var centre))
            return Totals.Zero with { Work = work };
        var hours = work / SecondsPerHour;
        return Totals.Zero with
        {
            Work = work,
            Labour = hours * Exact.Parse(centre.LabourRate) * centre.Crew,
            Machine = hours * Exact.Parse(centre.MachineRate),
        };
    }
}
