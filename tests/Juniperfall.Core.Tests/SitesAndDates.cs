using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Tests;

/// <summary>What holds only at some sites or on some days is not there elsewhere, and all that reads it follows.</summary>
public class SitesAndDates
{
    private static readonly DateOnly Spring = new(2026, 4, 1), Autumn = new(2026, 10, 1);

    private static readonly LibraryFacts Facts = RandomModels.Facts with
    {
        Sites = RandomModels.Facts.Sites.Add("NORTH", new() { Code = "NORTH" }).Add("SOUTH", new() { Code = "SOUTH" }),
    };

    private static Reasoner At(string? site, DateOnly? date)
    {
        var list = new ValueList
        {
            Id = "cores",
            Name = "cores",
            Values = [new() { Id = "v80", Code = "80", To = new(2026, 6, 30) }, new() { Id = "v100", Code = "100" },
            new() { Id = "v120", Code = "120", Sites = ["NORTH"] }]
        };
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "CR",
            Root = "root",
            Lists = [list],
            Assemblies = [new() { Id = "root", Name = "room", Topics = [new() { Id = "t", Rows = [
                new AttributeRow { Id = "core", Name = "core", Kind = AttributeKind.Choice, ListId = "cores", Required = true },
                new AttributeRow { Id = "shelves", Name = "shelves", Kind = AttributeKind.Whole, Min = "0", Max = "3", Required = true, Sites = ["NORTH"] },
                new StatementRule { Id = "rule", Expression = "core <> '100'", From = new(2026, 7, 1) },
                new ComputedAttribute { Id = "load", Name = "load", Expression = "if applies(shelves) then shelves + 1 else 1" },
                new PartLine { Id = "part", Item = "X", Quantity = "2", Sites = ["SOUTH"] },
            ] }] }],
        }, Facts);
        Assert.Empty(model.Findings);
        return new(model, new(site, date));
    }

    private static Answer Ask(Reasoner reasoner) => reasoner.Answer(new([]), CancellationToken.None);
    private static IEnumerable<string> Cores(Answer answer) => answer.Attributes.Single(a => a.Path == "core").Available.Values.Select(v => v.Text!);

    [Fact]
    public void Values_rules_and_rows_hold_where_and_when_they_say()
    {
        Assert.Equal(["v80", "v100", "v120"], Cores(Ask(At("NORTH", Spring))));
        Assert.Equal(["v80", "v100"], Cores(Ask(At("SOUTH", Spring))));
        // From July on one core is no longer there, and the rule takes the other.
        Assert.Equal(["v120"], Cores(Ask(At("NORTH", Autumn))));
    }

    [Fact]
    public void Where_nothing_is_left_there_is_no_configuration_and_the_rule_that_leaves_nothing_is_named()
    {
        var answer = Ask(At("SOUTH", Autumn));
        Assert.False(answer.Valid == true);
        Assert.Equal("rule", Assert.Single(Assert.Single(answer.Clashes).Causes).RowId);
    }

    [Fact]
    public void An_attribute_of_another_site_is_not_asked_and_what_reads_it_goes_on_without()
    {
        Assert.DoesNotContain(Ask(At("SOUTH", Spring)).Attributes, a => a.Path == "shelves" && a.Applies != Applicability.Never);
        Assert.Equal((Exact)1, Ask(At("SOUTH", Spring)).AsSuggested.Computed.Single().Number!.High);
        Assert.Equal((Exact)4, Ask(At("NORTH", Spring)).AsSuggested.Computed.Single().Number!.High);
        Assert.Single(Ask(At("SOUTH", Spring)).AsSuggested.Lines);
        Assert.Empty(Ask(At("NORTH", Spring)).AsSuggested.Lines);
    }

    [Fact]
    public void Without_a_site_or_a_day_everything_holds()
    {
        var answer = Ask(At(null, null));
        // The rule holds too, as there is no day on which it would not.
        Assert.Equal(["v80", "v120"], Cores(answer));
        Assert.Single(answer.AsSuggested.Lines);
    }
}
