using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Cases;

/// <summary>A part of a test case that cannot be asked any more: its attribute is gone, or its value is none.</summary>
/// <param name="Pick">The place of the pick, counted from 0; null where it is an expectation.</param>
/// <param name="Expectation">The place of the expectation, counted from 0; null where it is a pick.</param>
public sealed record CaseFault(int? Pick, int? Expectation, string Sentence);

/// <summary>What a test case asks, read against a model as it is now.</summary>
/// <param name="Picks">Those that can be asked.</param>
/// <param name="Quantity">How many are ordered, above zero.</param>
public sealed record CaseQuestion(ImmutableArray<Pick> Picks, Effectivity At, Exact Quantity, ImmutableArray<CaseFault> Faults)
{
    /// <summary>Whether values that can still be had are expected; of what is picked that is what it could be instead.</summary>
    public bool AsksForValues { get; init; } = true;

    /// <summary>What was filled in beside the picks of a saved configuration; a test case has none.</summary>
    public ImmutableArray<Pick> FillIns { get; init; } = [];

    /// <summary>Reads a case. What cannot be read is a fault at its place; the rest is read all the same.</summary>
    public static CaseQuestion Of(TestCase one, BoundModel model, PickText text)
    {
        var (picks, faults) = (new List<Pick>(), new List<CaseFault>());
        for (var i = 0; i < one.Picks.Length; i++)
        {
            var (pick, error) = Read(one.Picks[i], model, text);
            if (pick is { } read && picks.Exists(p => p.Path == read.Path))
                (pick, error) = (null, $"“{text.NameOf(read.Path)}” is picked above already.");
            if (pick is { } there)
                picks.Add(there);
            else
                faults.Add(new(i, null, error!));
        }
        for (var i = 0; i < one.Expected.Length; i++)
            if (FaultOf(one.Expected[i], model, text) is { } fault)
                faults.Add(new(null, i, fault));
        if (one.Site is { Length: > 0 } site && !model.Facts.Sites.ContainsKey(site))
            faults.Add(new(null, null, $"There is no site “{site}”."));
        if (!Exact.TryParse(one.Quantity, out var quantity) || quantity.Sign <= 0 || quantity > MostPieces)
        {
            faults.Add(new(null, null, $"“{one.Quantity}” is no quantity; it is a number above zero."));
            quantity = Exact.One;
        }
        return new([.. picks], new(one.Site, one.Date), quantity, [.. faults]) { AsksForValues = one.Expected.Any(e => e.Of == ExpectedOf.Available) };
    }

    private static readonly Exact MostPieces = 1_000_000;

    private static (Pick? Pick, string? Error) Read(CasePick pick, BoundModel model, PickText text)
    {
        if (text.At(pick.At) is not { } row)
            return text.Read(pick.At, pick.Is) is { Pick: { } named } ? (named, null)
                : text.Read(pick.At, "").Error is { } error && error.StartsWith("There is no attribute", StringComparison.Ordinal)
                    ? (null, "What it picks is no longer asked.") : text.Read(pick.At, pick.Is);
        if (row.Kind == AttributeKind.Choice && model.Index.Lists[row.ListId!].Values.Any(v => v.Id == pick.Is))
            return (new Pick(pick.At, Value.Choice(pick.Is)), null);
        return text.ReadAt(pick.At, pick.Is);
    }

    /// <summary>A value of an attribute as a case writes it: by its id where it is one of a list, so that it may be renamed.</summary>
    public static string Written(AttributeRow row, Value value, PickText text) => value.Kind == ValueKind.Choice ? value.Text! : text.Write(row, value);

    private static string? FaultOf(CaseExpectation expected, BoundModel model, PickText text)
    {
        var row = model.Index.Rows.GetValueOrDefault(RowPath.RowId(expected.At));
        return expected.Of switch
        {
            ExpectedOf.Value when text.At(expected.At) is null && row is not ComputedAttribute => "The attribute is gone.",
            ExpectedOf.Available when text.At(expected.At) is null => "The attribute is gone.",
            ExpectedOf.Rule when row is not IRule => "The rule is gone.",
            ExpectedOf.Item or ExpectedOf.Quantity when row is not (PartLine or Subassembly) => "The line is gone.",
            ExpectedOf.Setup or ExpectedOf.Run when row is not OperationLine => "The operation is gone.",
            _ => expected.Within is { Length: > 0 } within && !(Exact.TryParse(within, out var off) && off.Sign >= 0)
                ? $"“{within}” is no tolerance; it is a number from zero." : null,
        };
    }
}
