using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>What a variable is known to be able to be.</summary>
internal sealed class KnownValues
{
    public Outcomes Outcomes { get; private set; }

    private SortedSet<long>? _indexes;

    /// <summary>The steps of a number, or the indexes of values.</summary>
    public SortedSet<long> Indexes => _indexes ??= [];

    public bool Has(in Assigned value) => (Outcomes & value.Outcome) != 0 && (value.Outcome != Outcomes.Present || Indexes.Contains(value.Index));

    public void Add(in Assigned value)
    {
        Outcomes |= value.Outcome;
        if (value.Outcome == Outcomes.Present)
            Indexes.Add(value.Index);
    }
}
