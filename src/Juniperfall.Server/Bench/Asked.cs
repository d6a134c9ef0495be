using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Server.Revisions;

namespace Juniperfall.Server.Bench;

/// <summary>The answer to a set of picks and, where nothing more is needed, what is built from it.</summary>
/// <param name="Values">A complete configuration with all picks and suggestions that stand: an example where something is still open.</param>
public sealed record Asked(Answer Answer, IReadOnlyDictionary<string, Value>? Values, StructureResult? Result)
{
    public static Asked Of(CompiledModel compiled, IReadOnlyList<Pick> picks)
    {
        using var limit = new CancellationTokenSource(CompiledModel.TimeLimit);
        var answer = compiled.Reasoner.Answer(new([.. picks]), limit.Token);
        if (!answer.Valid || compiled.Reasoner.Complete(answer, limit.Token) is not { } complete)
            return new(answer, null, null);
        var values = complete.ToDictionary(p => p.Path, p => p.Value);
        return new(answer, values, answer.Missing.IsEmpty ? StructureBuilder.Build(compiled.Model, values) : null);
    }
}
