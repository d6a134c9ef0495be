using System.Diagnostics;
using Juniperfall.Bench;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace SideBySide;

internal sealed class Ours(Generator generator, BoundModel model, TimeSpan limit) : IPeer
{
    private readonly Reasoner _reasoner = new(model);

    public string Name => "ours";

    private Value ValueOf(int attribute, int value) => attribute < generator.Family.Choices
        ? Value.Choice($"v{value}") : attribute < generator.Family.FirstNumber ? Value.Of(value == 1) : Value.Of((Exact)value);

    public (Available? Available, double Ms) Ask((int Attribute, int Value)[] picks)
    {
        var question = new Question([.. picks.Select(p => new Pick(generator.Family.IdOf(p.Attribute), ValueOf(p.Attribute, p.Value)))]);
        using var stop = new CancellationTokenSource(limit);
        var clock = Stopwatch.StartNew();
        var answer = _reasoner.Answer(question, stop.Token);
        var ms = clock.Elapsed.TotalMilliseconds;
        if (!answer.Exact)
            return (null, ms);
        var found = Available.Nothing(generator);
        foreach (var attribute in answer.Attributes)
        {
            var at = int.Parse(attribute.Path.AsSpan(1))
                + attribute.Path[0] switch { 'f' => generator.Family.Choices, 'n' => generator.Family.FirstNumber, _ => 0 };
            foreach (var value in attribute.Available.Values)
                found.Values[at][value.Kind switch
                {
                    ValueKind.YesNo => value.IsTrue ? 1 : 0,
                    ValueKind.Number => (int)value.Number.Numerator,
                    _ =>
                    int.Parse(value.Text.AsSpan(1))
                }] = true;
        }
        return (found, ms);
    }
}
