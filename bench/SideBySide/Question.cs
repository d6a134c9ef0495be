using Juniperfall.Bench;

namespace SideBySide;

/// <summary>What can still be had: by attribute, a flag for each value.</summary>
internal sealed record Available(bool[][] Values)
{
    public static Available Nothing(Generator of) => new([.. Enumerable.Range(0, of.Planted.Length).Select(a => new bool[of.Family.SizeOf(a)])]);
    public bool Same(Available other) => Values.Zip(other.Values).All(p => p.First.AsSpan().SequenceEqual(p.Second));
}

/// <summary>A solver that is asked for exactly the values that can be had beside some picks.</summary>
internal interface IPeer
{
    string Name { get; }

    /// <summary>Null where it was not done within the limit. The time is that of the question alone, in ms.</summary>
    (Available? Available, double Ms) Ask((int Attribute, int Value)[] picks);
}
