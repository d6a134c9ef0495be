namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Copies of a search that nothing has been asked of. Writing a network as clauses takes longer than most questions to it, so
/// that a search without history is copied from one that is kept for that.
/// </summary>
internal sealed partial class Search
{
    /// <summary>A search that gives the same answers as this one would, if nothing has been asked of this one yet. Safe for concurrent use.</summary>
    public Search Copy() => new(this);

    private Search(Search of) : base(of)
    {
        // What is written once and for all is shared.
        (_outcomeLiterals, _valueLiterals, _groupLiterals, _truths) = (of._outcomeLiterals, of._valueLiterals, of._groupLiterals, of._truths);
        (_rootsOf, _wokenBy, _sleepsUntil, _rootNodes, _variableOf) = (of._rootsOf, of._wokenBy, of._sleepsUntil, of._rootNodes, of._variableOf);
        (_isPlain, _isAbsorbed, _isDiscrete, _variablesAtFirst) = (of._isPlain, of._isAbsorbed, of._isDiscrete, of._variablesAtFirst);
        (_meanings, _meaningCount) = (of._meanings, of._meaningCount);
        // What changes with questions is its own.
        (_variableCount, _isDead, _mostLearned) = (of._variableCount, of._isDead, of._mostLearned);
        (_values, _positions, _firstMeaning, _atoms) = ([.. of._values], [.. of._positions], [.. of._firstMeaning], [.. of._atoms]);
        (_clauses, _clausesEnd, _watches) = ([.. of._clauses], of._clausesEnd, [.. of._watches.Select(w => w.Copy())]);
        (_trail, _levels, _trailCount, _head, _settled) = ([.. of._trail], [.. of._levels], of._trailCount, of._head, of._settled);
        (_seen, _needed, _lastEvents) = (new bool[of._seen.Length], new double[of._needed.Length], [.. of._lastEvents]);
        (_cones, _atomsOf) = (new int[of._cones.Length][], new List<(double, int)>[of._atomsOf.Length]);
        (_phases, Preferred, _changedIn) = (new Assigned?[of._phases.Length], [.. of.Preferred], new int[of._changedIn.Length]);
        (_heap, _evaluator) = (new(of._phases.Length), _isDiscrete ? of._evaluator : new(_network));
    }
}
