using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;

namespace Juniperfall.Core.Tests;

/// <summary>Where a model names its things.</summary>
public class UsesOfThings
{
    private static readonly ModelDocument Demo = DemoModel.Room.Value.Model.Document;

    [Fact]
    public void What_is_named_nowhere_can_be_removed_and_what_can_be_removed_is_named_nowhere()
    {
        foreach (var row in Demo.Assemblies.SelectMany(a => a.Rows).Where((_, i) => i % 6 == 0))
        {
            var refusal = ModelEditor.Apply(Demo, new("e", [new RemoveRow(row.Id)]), LibraryFacts.Empty).Refusal;
            var uses = Uses.Of(Demo, row.Id);
            Assert.Equal(refusal?.Fault == EditFault.InUse, !uses.IsEmpty);
            Assert.DoesNotContain(uses, u => u.RowId == row.Id);
            if (refusal is not null)
                Assert.True(refusal.Places.SequenceEqual(uses));
        }
    }

    [Fact]
    public void What_is_not_there_has_no_uses() => Assert.Empty(Uses.Of(Demo, "nothing"));
}
