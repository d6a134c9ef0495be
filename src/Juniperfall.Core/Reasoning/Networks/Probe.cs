using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>What a network is asked beside its configurations.</summary>
internal enum NetworkExtras
{
    Nothing,

    /// <summary>What a structure costs and weighs as a whole.</summary>
    Goals,

    /// <summary>What lines, conditions and grid rows can come to.</summary>
    Outcomes,

    /// <summary>What can be reached that cannot be computed: here that makes no combination invalid.</summary>
    Errors,
}

internal enum ProbeKind { LineIn, LineOut, PlaceIn, RuleApplies, NumberNegative, NumberZero, NumberMissing, GridRow, Error, PriceUnderCost }

/// <summary>Whether a node can come out as wanted in some configuration. It is no other node's child.</summary>
internal sealed record Probe(ProbeKind Kind, Row Row, Occurrence Occurrence, string Field, int Node, Outcomes Wanted);
