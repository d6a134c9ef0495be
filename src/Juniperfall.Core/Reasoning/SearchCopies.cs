namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Copies of a search that nothing has been asked of. Writing a network as clauses takes longer than most questions to it, so
/// that a search without history is copied from one that is kept for that.
/// </summary>
internal sealed partial class Search
{
    /// <summary>A search that gives the same answers as this one would, if nothing has been asked of this one yet. Safe for concurrent use.</summary>
    /// <param name="spent">An earlier copy that is not asked any more: its arrays are used again, which spares collecting megabytes.</param>
    public Search Copy(Search? spent) => new(this, spent);

    private Search(Search of, Search? spent) : base(of, spent)
    {
        // What is written once and for all is shared.
        (_outcomeLiterals, _valueLiterals, _groupLiterals, _truths) = (of._outcomeLiterals, of._valueLiterals, of._groupLiterals, of._truths);
        (_rootsOf, _wokenBy, _sleepsUntil, _rootNodes, _variableOf) = (of._rootsOf, of._wokenBy, of._sleepsUntil, of._rootNodes, of._variableOf);
        (_isPlain, _isAbsorbed, _isDiscrete, _variablesAtFirst) = (of._isPlain, of._isAbsorbed, of._isDiscrete, of._variablesAtFirst);
        (_meanings, _meaningCount) = (of._meanings, of._meaningCount);
        // What changes with questions is its own.
        (_variableCount, _isDead, _mostLearned) = (of._variableCount, of._isDead, of._mostLearned);
        (_values, _positions) = (Copied(of._values, spent?._values), Copied(of._positions, spent?._positions));
        (_firstMeaning, _atoms) = (Copied(of._firstMeaning, spent?._firstMeaning), Copied(of._atoms, spent?._atoms));
        (_clauses, _clausesEnd, _watches) = (Copied(of._clauses, spent?._clauses), of._clausesEnd, Copied(of._watches, spent?._watches));
        for (var literal = 0; literal < of._watches.Length; literal++)
            _watches[literal] = of._watches[literal].Shared();
        (_trail, _levels) = (Copied(of._trail, spent?._trail), Copied(of._levels, spent?._levels));
        (_trailCount, _head, _settled) = (of._trailCount, of._head, of._settled);
        (_seen, _needed, _lastEvents) = (Cleared(_trail.Length, spent?._seen), Cleared(_trail.Length, spent?._needed), Copied(of._lastEvents, spent?._lastEvents));
        (_cones, _atomsOf) = (spent?._cones ?? new int[of._cones.Length][], Cleared(of._atomsOf.Length, spent?._atomsOf));
        (_phases, Preferred, _changedIn) = (Cleared(of._phases.Length, spent?._phases), Copied(of.Preferred, spent?.Preferred), Cleared(of._changedIn.Length, spent?._changedIn));
        (_heap, _evaluator) = (new(of._phases.Length), _isDiscrete ? of._evaluator : new(_network));
    }
}
