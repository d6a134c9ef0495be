using System.Numerics;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>What a literal says of a node once it is true; a literal can say something of several nodes.</summary>
internal struct Meaning
{
    public int Node;
    public Outcomes Is, Removes;
    public int IsValue, RemovesValue;

    /// <summary>The next meaning of the same literal; −1 where there is none.</summary>
    public int Next;
}

/// <summary>
/// Which literals stand for the outcomes and values of nodes. A literal is twice its variable, odd where it is negated; variable 0 is
/// true. Written once when a network is encoded; searches over the same network share it.
/// </summary>
internal sealed class LiteralNames
{
    public const int True = 0, False = 1;

    /// <summary>How many different outcomes there are.</summary>
    public const int OutcomeCount = 6;

    private readonly int[] _ofOutcomes;
    private readonly int[]?[] _ofValues;
    private int[] _firstMeaning = [];
    private Meaning[] _meanings = new Meaning[256];
    private int _count;

    public LiteralNames(int nodes) => (_ofOutcomes, _ofValues) = (new int[nodes * OutcomeCount], new int[nodes][]);

    public static int Negated(int literal) => literal ^ 1;

    private static int IndexOf(Outcomes outcome) => BitOperations.TrailingZeroCount((uint)outcome);

    /// <summary>The literal that a node has an outcome.</summary>
    public int Of(int node, Outcomes outcome) => _ofOutcomes[node * OutcomeCount + IndexOf(outcome)];

    /// <summary>The literal that a node has an outcome, by the outcome's number.</summary>
    public int Of(int node, int outcome) => _ofOutcomes[node * OutcomeCount + outcome];

    /// <summary>By value, the literals that a choice has it; <see cref="False"/> for those that it cannot have.</summary>
    public int[] ValuesOf(int node) => _ofValues[node]!;

    /// <summary>The literal that a choice has a value, or that a yes/no is no (0) or yes (1).</summary>
    public int OfValue(int node, int value, DomainKind kind) => kind == DomainKind.YesNo ? Of(node, value == 1 ? Outcomes.True : Outcomes.False)
        : _ofValues[node] is { } literals && value < literals.Length ? literals[value] : False;

    /// <summary>The first meaning of a literal; −1 where it has none.</summary>
    public int FirstMeaning(int literal) => literal < _firstMeaning.Length ? _firstMeaning[literal] : -1;

    public ref readonly Meaning this[int meaning] => ref _meanings[meaning];

    // ---- Writing ------------------------------------------------------------------------------------------------

    /// <summary>Forgets what stands for the outcomes of a node.</summary>
    public void Clear(int node) => Array.Fill(_ofOutcomes, False, node * OutcomeCount, OutcomeCount);

    public void Name(int node, Outcomes outcome, int literal) => _ofOutcomes[node * OutcomeCount + IndexOf(outcome)] = literal;

    public void NameValues(int node, int[] literals) => _ofValues[node] = literals;

    /// <summary>Adds what a literal says of a node once it is true.</summary>
    public void Means(int literal, int node, Outcomes isOutcome = 0, Outcomes removes = 0, int isValue = -1, int removesValue = -1)
    {
        if (literal is True or False)
            return;
        if (literal >= _firstMeaning.Length)
        {
            var length = _firstMeaning.Length;
            Array.Resize(ref _firstMeaning, Math.Max(256, Math.Max(literal + 1, length * 2)));
            Array.Fill(_firstMeaning, -1, length, _firstMeaning.Length - length);
        }
        if (_count == _meanings.Length)
            Array.Resize(ref _meanings, _count * 2);
        _meanings[_count] = new()
        {
            Node = node,
            Is = isOutcome,
            Removes = removes,
            IsValue = isValue,
            RemovesValue = removesValue,
            Next = _firstMeaning[literal]
        };
        _firstMeaning[literal] = _count++;
    }
}
