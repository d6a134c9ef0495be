using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>Models of the same signature give the same answers: after edits of random models, answers are taken over only where they are the same.</summary>
public class AnswersAgain
{
    /// <summary>One row, or a few, otherwise: what rules read, and what they do not.</summary>
    private static ModelDocument Edited(ModelDocument document, Random random)
    {
        var rows = document.Assemblies.SelectMany(a => a.Rows).ToList();
        var at = rows[random.Next(rows.Count)].Id;
        return document.WithRows(r => r.Id != at ? r : r switch
        {
            AttributeRow { Kind: AttributeKind.Whole, Max: { } max } n => random.Next(2) == 0 ? n with { Max = (Exact.Parse(max) - Exact.One).ToString() }
                : n with { Suggestion = "" },
            AttributeRow a => random.Next(2) == 0 ? a with { Required = !a.Required } : a with { Suggestion = "" },
            ComputedAttribute { Unit: "" } c => c with { Expression = $"({c.Expression})" },
            PartLine p => p with { Quantity = $"({p.Quantity}) * 2", AppliesWhen = "" },
            StatementRule s => random.Next(2) == 0 ? s with { Expression = $"not ({s.Expression})" } : s with { Note = "As agreed." },
            _ => r with { Note = "As agreed." },
        });
    }

    [Fact]
    public void An_answer_is_taken_over_only_where_a_new_one_would_be_the_same()
    {
        var (taken, other, ruledOut) = (0, 0, 0);
        foreach (var c in RandomCase.Of(83))
        {
            var random = new Random(c.Seed);
            for (var edit = 0; edit < 4; edit++)
            {
                var model = new BoundModel(Edited(c.Model.Document, random), c.Model.Facts);
                if (model.Findings.Any(f => f.Blocks))
                    continue;
                var reasoner = new Reasoner(model);
                if (reasoner.Signature != c.Reasoner.Signature)
                {
                    other++;
                    continue;
                }
                var question = new Question(c.Picks) { WithAvailability = false };
                var known = c.Reasoner.Answer(question, CancellationToken.None);
                var fresh = reasoner.Answer(question, CancellationToken.None);
                Assert.Equal((known.Valid, known.Only is null), (fresh.Valid, fresh.Only is null));
                if (reasoner.Again(known, CancellationToken.None) is not { } again)
                    continue;
                taken++;
                ruledOut += again.Valid == false ? 1 : 0;
                Assert.Equal(fresh.Attributes.Select(a => (a.Path, a.Value)), again.Attributes.Select(a => (a.Path, a.Value)));
                Assert.Equal(fresh.Only?.AsEnumerable(), again.Only?.AsEnumerable());
                Assert.Equal(Said(fresh), Said(again));
                Assert.Equal(fresh.Advice.AsEnumerable(), again.Advice);
                Assert.Equal(fresh.AsSuggested.Computed.Select(x => (x.Number?.Low, x.Number?.High, x.Value)),
                    again.AsSuggested.Computed.Select(x => (x.Number?.Low, x.Number?.High, x.Value)));
                Assert.Equal(fresh.AsSuggested.Lines.Select(l => (l.Path, l.State)), again.AsSuggested.Lines.Select(l => (l.Path, l.State)));
            }
        }
        Assert.True(taken > 40 && other > 40 && ruledOut > 5, $"{taken} taken over, {other} otherwise, {ruledOut} ruled out");
    }

    private static IEnumerable<string> Said(Answer answer) =>
        answer.Clashes.Select(c => $"{string.Join(' ', c.Picks)} {string.Join(' ', c.Causes)}");
}
