namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// Some of these variables must have one of these values: a clause over finite domains (Beckert, Hähnle and Manyà, “The SAT problem of signed
/// CNF formulas”, 2000).
/// </summary>
/// <param name="Literals">By variable, the values as bits from its first slot on; neither none nor all of them.</param>
internal sealed record SlotClause((int Variable, ulong Values)[] Literals);
