using System.Collections.Immutable;

namespace Juniperfall.Core.Entry;

/// <summary>The kinds of rows that can be typed, in the order in which they are offered.</summary>
public static class EntryKinds
{
    public static readonly ImmutableArray<EntryKind> All =
    [
        new("choice", "name: value, value, …", "choice finish: white, grey"),
        new("several", "name: value, value, …", "several accessories: rail, lamp, alarm"),
        new("yes/no", "name", "yes/no window"),
        new("whole", "name low..high", "whole shelves 1..12"),
        new("quantity", "name unit low..high step size", "quantity width mm 600..1200 step 50"),
        new("text", "name", "text label"),
        new("compute", "name = expression", "compute area = width * height"),
        new("rule", "statement", "rule width <= height"),
        new("requires", "condition then condition", "requires heated then voltage = 230"),
        new("excludes", "condition with condition", "excludes window with sliding"),
        new("limit", "quantity between low and high", "limit weight between 0 kg and 60 kg"),
        new("grid", "name: attribute, attribute, …", "grid spans: core, load"),
        new("subassembly", "name, or name low..high", "subassembly door 1..4"),
        new("phantom", "name", "phantom services"),
        new("part", "item × quantity when condition", "part GSK-D × 2 when window"),
        new("operation", "number name at centre set-up + run when condition", "operation 10 cut at SAW 5 min + 2 min"),
        new("price", "label = amount when condition, × factor, at least amount, round up to amount", "price base = 240 EUR"),
    ];

    /// <summary>The kind that a word begins, in any case; null where it begins none.</summary>
    public static EntryKind? Of(string word) => All.FirstOrDefault(k => k.Word.Equals(word, StringComparison.OrdinalIgnoreCase))
        ?? (word.Equals("yesno", StringComparison.OrdinalIgnoreCase) ? All.First(k => k.Word == "yes/no") : null);
}
