using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>A bound that a learned clause names: true where the node does not apply or lies at or beyond it.</summary>
internal readonly record struct Atom(int Node, bool Upper, double Bound)
{
    /// <summary>No bound.</summary>
    public static readonly Atom None = new(-1, false, 0);
}

/// <summary>The bounds of numbers that have a literal, by literal and by node.</summary>
internal sealed class BoundAtoms
{
    private Atom[] _atoms;
    private readonly List<(double Bound, int Literal)>?[] _named;

    public BoundAtoms(int nodes)
    {
        _atoms = new Atom[128];
        Array.Fill(_atoms, Atom.None);
        _named = new List<(double, int)>[nodes * 2];
    }

    /// <summary>One without any names, for as many nodes as another one.</summary>
    /// <param name="spent">An earlier one that is not used any more.</param>
    public BoundAtoms(BoundAtoms like, BoundAtoms? spent)
    {
        _atoms = spent?._atoms ?? new Atom[128];
        Array.Fill(_atoms, Atom.None);
        _named = ReusedArrays.Cleared(like._named.Length, spent?._named);
    }

    /// <summary>What a literal names.</summary>
    public Atom Of(int literal) => literal >> 1 < _atoms.Length ? _atoms[literal >> 1] : Atom.None;

    /// <summary>The named bounds on a side of a node; null where there are none.</summary>
    public List<(double Bound, int Literal)>? On(int node, bool upper) => _named[node * 2 + (upper ? 1 : 0)];

    /// <summary>The literal of a bound; −1 where it has none.</summary>
    public int Find(int node, bool upper, double bound)
    {
        foreach (var (known, literal) in On(node, upper) ?? [])
            if (known == bound)
                return literal;
        return -1;
    }

    public void Add(int literal, in Atom atom)
    {
        if (literal >> 1 >= _atoms.Length)
        {
            var length = _atoms.Length;
            Array.Resize(ref _atoms, Math.Max(length * 2, (literal >> 1) + 1));
            Array.Fill(_atoms, Atom.None, length, _atoms.Length - length);
        }
        _atoms[literal >> 1] = atom;
        (_named[atom.Node * 2 + (atom.Upper ? 1 : 0)] ??= []).Add((atom.Bound, literal));
    }
}
