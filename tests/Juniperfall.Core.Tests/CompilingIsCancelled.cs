using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>The time limit of a question reaches into compiling: binding a model and building its network end when they are cancelled.</summary>
public class CompilingIsCancelled
{
    /// <summary>A model whose compiling takes long beside what is waited for.</summary>
    private static ModelDocument Large() => new()
    {
        Id = "m",
        Code = "M",
        Root = "room",
        Assemblies =
        [
            Assembly("room", [.. Enumerable.Range(0, 8_000).SelectMany(i => new Row[]
            {
                new AttributeRow { Id = $"a{i}", Name = $"a{i}", Kind = AttributeKind.YesNo },
                new ComputedAttribute { Id = $"c{i}", Name = $"c{i}", Expression = i == 0 ? "1" : $"if ⟦a{i}⟧ then {i} else ⟦c{i - 1}⟧ + 1" },
            })]),
        ],
    };

    [Fact]
    public void Whatever_moment_it_is_cancelled_at_it_ends_soon_and_the_next_one_is_whole()
    {
        var document = Large();
        var clock = Stopwatch.StartNew();
        var model = new BoundModel(document, Facts);
        Assert.Empty(model.Findings);
        var binding = clock.Elapsed;
        clock.Restart();
        var rows = new Reasoner(model).AskedPaths.Count();
        var building = clock.Elapsed;
        foreach (var share in new[] { 0, 0.2, 0.5, 0.8 })
        {
            Cancelled(binding * share, cancel => new BoundModel(document, Facts, cancel));
            Cancelled(building * share, cancel => new Reasoner(model, default, null, cancel));
        }
        Assert.Equal(rows, new Reasoner(model).AskedPaths.Count());

        // On a busy machine a part takes longer than it did before, and is not through by the time it is cancelled; sooner is no fault.
        static void Cancelled(TimeSpan after, Func<CancellationToken, object> part)
        {
            using var cancel = new CancellationTokenSource();
            if (after == TimeSpan.Zero)
                cancel.Cancel();
            else
                cancel.CancelAfter(after);
            var exception = Record.Exception(() => part(cancel.Token));
            Assert.True(exception is OperationCanceledException || (exception is null && after > TimeSpan.Zero), $"{exception}");
        }
    }
}
