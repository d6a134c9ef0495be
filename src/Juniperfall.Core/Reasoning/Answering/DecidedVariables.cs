using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>
/// Which variables have no choice left beside what stands, as far as that is seen without search: a value that stands, or a condition that is false
/// because all that it reads is decided.
/// </summary>
internal sealed class DecidedVariables(Network network)
{
    private readonly int[]?[] _behind = new int[network.Variables.Length][];

    /// <summary>The variables that the condition of a variable reads. Found once; two that find it at once find the same.</summary>
    private int[] Behind(int variable) => _behind[variable] ??=
        network.ConditionOf[network.Variables[variable].Node] is >= 0 and var condition ? network.VariablesUnder(condition) : [];

    /// <summary>Begins anew.</summary>
    /// <param name="stands">Whether a value of the variable stands, where it applies.</param>
    public Seen Beside(Func<int, bool> stands) => new(this, stands);

    /// <summary>What was seen to be decided. It stays so while more comes to stand.</summary>
    public sealed class Seen(DecidedVariables of, Func<int, bool> stands)
    {
        private readonly bool[] _known = new bool[of._behind.Length];

        /// <summary>Whether a variable that does not apply in a configuration with all that stands applies in none.</summary>
        /// <param name="now">A configuration with all that stands.</param>
        public bool IsAbsent(int variable, Assigned[] now) => now[variable].Outcome == Outcomes.Absent && IsDecided(variable, now);

        private bool IsDecided(int variable, Assigned[] now)
        {
            if (_known[variable])
                return true;
            // Conditions are not circular: a deeper call is of a variable before this one.
            if (now[variable].Outcome != Outcomes.Absent && !stands(variable))
                return false;
            return _known[variable] = Array.TrueForAll(of.Behind(variable), v => IsDecided(v, now));
        }
    }
}
