namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>Why something on the trail is so: the kind in the low bits, what it is of above them.</summary>
internal static class Antecedent
{
    public enum Kind { Decision, Clause, Literal, Revised, RevisedByExactNumbers, Others, OtherValues, Event, NoRoom, Crossing }

    public const long Decision = 0;
    private static long Of(Kind kind, long data) => data << 4 | (long)kind;

    public static long ByClause(int clause) => Of(Kind.Clause, clause);

    /// <summary>Another literal alone.</summary>
    public static long ByLiteral(int literal) => Of(Kind.Literal, literal);

    /// <summary>What a propagator made of the domains of its node and children, or of all that these stem from.</summary>
    public static long Revised(int node, bool byExactNumbers) => Of(byExactNumbers ? Kind.RevisedByExactNumbers : Kind.Revised, node);

    /// <summary>All other outcomes, or values, of a node are ruled out.</summary>
    public static long Others(int node) => Of(Kind.Others, node);
    public static long OtherValues(int node) => Of(Kind.OtherValues, node);

    /// <summary>A bound reached the one that is named.</summary>
    public static long ByEvent(int position) => Of(Kind.Event, position);

    /// <summary>The opposite bound leaves no room for a named one.</summary>
    public static long NoRoom(int node, bool upper) => Of(Kind.NoRoom, node * 2 + (upper ? 1 : 0));

    /// <summary>A named bound, or its negation, crosses the opposite bound.</summary>
    public static long Crossing(int literal) => Of(Kind.Crossing, literal);

    public static Kind KindOf(long reason) => (Kind)(reason & 15);
    public static int DataOf(long reason) => (int)(reason >> 4);
}
