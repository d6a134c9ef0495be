using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Structures;

/// <summary>One answer of a complete configuration, as people read it.</summary>
/// <param name="Section">The topic that it stands in, with the place where that is not the product itself: “Door 2: Leaf”.</param>
/// <param name="Name">Its path as it is written in picks and expressions.</param>
/// <param name="Value">Its value with its unit; of several choices all that are chosen.</param>
/// <param name="State">How it came about; of several choices that of the one that was least left to the model.</param>
public sealed record GivenAnswer(string Section, string Name, string Label, string Value, AttributeState State);

/// <summary>The answers of a complete configuration in the order of the form: several choices are one answer like others.</summary>
public static class GivenAnswers
{
    /// <param name="values">Path → value in base units of everything that applies, as the reasoner completes them.</param>
    public static ImmutableArray<GivenAnswer> Of(BoundModel model, Answer answer, IReadOnlyDictionary<string, Value> values, string language = "en")
    {
        var words = new ModelWording(model, language);
        var states = answer.Attributes.ToDictionary(a => a.Path, a => a.State);
        var occurrences = Occurrence.All(model).ToList();
        var given = ImmutableArray.CreateBuilder<GivenAnswer>();
        if (occurrences.Count > 0)
            Add(occurrences[0]);
        return given.ToImmutable();

        void Add(Occurrence at)
        {
            var place = at is { Parent: { } parent, Place: { } stands } ? words.PlaceOf(parent, stands, at) + ": " : "";
            foreach (var topic in at.Assembly.Topics)
            {
                var title = words.Text(topic.Label) is { Length: > 0 } label ? label : at.Assembly.Label.Or(at.Assembly.Name);
                foreach (var row in topic.Rows.OfType<AttributeRow>())
                    if (Value(at, row) is { } found)
                        given.Add(new(place + title, at.DisplayPath(model.Index, row.Id), words.NameOf(row), found.Text, found.State));
                foreach (var below in occurrences.Where(o => o.Parent == at && o.Place is { } p && topic.Rows.Contains(p)))
                    Add(below);
            }
        }

        (string Text, AttributeState State)? Value(Occurrence at, AttributeRow row)
        {
            var path = at.Prefix + row.Id;
            if (row.Kind != AttributeKind.Several)
                return values.TryGetValue(path, out var value) && states.TryGetValue(path, out var state) ? (words.ValueOf(row, value), state) : null;
            var members = model.Index.Lists[row.ListId!].Values.Select(v => (Value: v, Path: RowPath.OfMember(path, v.Id)))
                .Where(m => values.ContainsKey(m.Path)).ToList();
            if (members.Count == 0)
                return null;
            var chosen = members.Where(m => values[m.Path].IsTrue).Select(m => words.LabelOf(m.Value)).ToList();
            return (chosen.Count == 0 ? "none" : string.Join(", ", chosen), members.Select(m => states.GetValueOrDefault(m.Path, AttributeState.Absent)).Min());
        }
    }
}
