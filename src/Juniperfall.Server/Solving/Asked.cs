using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;

namespace Juniperfall.Server.Solving;

/// <summary>The answer to a set of picks at a site and day and, where nothing more is needed, what is built from it.</summary>
/// <param name="Values">A complete configuration with all picks and suggestions that stand: an example where something is still open.</param>
public sealed record Asked(Effectivity At, Answer Answer, IReadOnlyDictionary<string, Value>? Values, StructureResult? Result, PriceResult? Price)
{
    internal static Asked Of(CompiledModel compiled, Reasoner reasoner, Question question, Effectivity at, Action<Func<PartialAnswer>> watch,
        CancellationToken time)
    {
        var answer = reasoner.Answer(question, time, watch);
        if (answer is not { Valid: true, Exact: true } || reasoner.Complete(answer, time) is not { } complete)
            return new(at, answer, null, null, null);
        var values = complete.ToDictionary(p => p.Path, p => p.Value);
        return answer.Missing.IsEmpty
            ? new(at, answer, values, StructureBuilder.Build(compiled.Model, values, at), Pricing.Of(compiled.Model, values, at))
            : new(at, answer, values, null, null);
    }
}
