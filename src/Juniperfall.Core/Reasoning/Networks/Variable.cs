using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>An asked attribute of the instantiated model as a decision variable; numbers go in steps, counted from an origin.</summary>
internal sealed record Variable(int Index, int Node, string Path, Occurrence Occurrence, AttributeRow Row, ValueList? List, Unit Unit, Exact Step,
    Exact Origin, VariableDomain Initial)
{
    /// <summary>For one value of several choices: the value.</summary>
    public ListValue? Member { get; init; }

    /// <summary>Whether it cannot be left without a value where it applies.</summary>
    public bool IsRequired => Row.Required || Member is not null;

    /// <summary>How people write its path.</summary>
    public string DisplayPath(ModelIndex index) => Occurrence.DisplayPath(index, Row.Id) + (Member is null ? "" : $".{Member.Code}");

    /// <summary>The number at a step, in base units.</summary>
    public Exact At(long step) => Origin + step * Step;

    /// <summary>The index of a value in the list by its id; −1 where the list has none such.</summary>
    public int IndexOf(string valueId)
    {
        for (var i = 0; i < List!.Values.Length; i++)
            if (List.Values[i].Id == valueId)
                return i;
        return -1;
    }

    private static readonly Exact FarthestStep = (long)NetworkEnds<DoubleEnd>.MostSteps;

    /// <summary>The step of a number in base units; null where it lies between steps or beyond all.</summary>
    public long? StepOf(Exact number) => (number - Origin) / Step is { IsWhole: true } step && step.Abs() <= FarthestStep ? (long)step.Numerator : null;
}
