using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>The demo products as docs/worked-example.md works them out by hand.</summary>
public class WorkedExamples
{
    private static (BoundModel Model, Structure Structure, Dictionary<string, Value> Values) Build(string file, string? site, params string[] picks)
    {
        var package = ModelJson.Read(File.ReadAllBytes(DemoModel.RepositoryFile("demo", file))).Package!;
        var model = new BoundModel(ModelEditor.BindNames(package.Model, package.Library).Document!, package.Library);
        Assert.Empty(model.Findings);
        var at = new Effectivity(site, null);
        var reasoner = new Reasoner(model, at);
        var values = reasoner.Complete(reasoner.Answer(new(Picks(model, picks)), CancellationToken.None), CancellationToken.None)!.Value
            .ToDictionary(p => p.Path, p => p.Value);
        return (model, StructureBuilder.Build(model, values, at).Structure!, values);
    }

    [Fact]
    public void Four_strip_curtains_are_those_worked_out_by_hand()
    {
        var (model, curtain, values) = Build("strip-curtain.json", "HAL", "width=1200", "height=2100", "strip=s300", "overlap=third", "mount=face");
        var evaluator = new Evaluator(model, values, new("HAL", null));
        Assert.Equal(["1.3", "0.201", "6", "2.15"], new[] { "s.covered", "s.pitch", "s.count", "s.length" }.Select(id => evaluator[id].Number.ToString()));
        Assert.Equal(["STR-300 12.9 13.2", "RAIL-F 1.3 1.3", "PLT-300 6 6", "SCRW-R 2 2", "BOX-SC 1 1", "LBL-SC 1 1"],
            curtain.Bom.Select(l => $"{l.Item} {l.Net} {l.Gross}"));
        Assert.Equal(["20.4", "21", "25.6", "23"], curtain.Routing.Select(o => ((o.Setup + o.RunOf(4)) / 60).ToString()));
        Assert.Equal("6 strips of 2150 mm; square to 1 mm.", curtain.Routing[0].Instructions.In());
        var four = new RollUp(model.Facts).Of(curtain, 4);
        Assert.Equal(("484.2", "7.68", "77.79", "17.89", "48.01", "635.57"),
            (four.Material.ToString(), four.Scrap.ToString(), four.Labour.ToDisplay(2), four.Machine.ToDisplay(2), four.Overhead.ToDisplay(2),
                four.Cost.ToDisplay(2)));
        Assert.Equal("0.123", LeadTime.Of(curtain, model.Facts, 4).Days.ToDisplay(3));
        Assert.Empty(BuildableCheck.Of(model, curtain, new("HAL", null)));
        var price = Pricing.Of(model, values, new("HAL", null)).Sheet!;
        Assert.Equal(["257.04", "257.04", "258"], price.Steps.Select(s => s.After.ToString()));
        Assert.Equal("18 211.56 846.24",
            Pricing.OfferFor(price.Price, model.Facts.CustomerClassOf("trade"), "SC", 4) is var offer ? $"{offer.Discount} {offer.Each} {offer.Order}" : "");
    }

    [Fact]
    public void The_price_of_a_room_is_that_worked_out_by_hand()
    {
        var (model, _, values) = Build("cold-room.json", null, "duty=chill", "core=80", "cooling.unit=C290-22", "control=logging", "doors[1].window=yes",
            "doors[1].kind=sliding");
        var sheet = Pricing.Of(model, values).Sheet!;
        Assert.Equal(["Door 1 1285", "Cooling set 1959.2", "Site services 204", "Panels 4417.92", "Floor 829.44", "Lighting 104"],
            sheet.Steps.Where(s => s.Effect == PriceEffect.Adds && s.Row is not AttributeRow)
                .Select(s => $"{(s.Below is { } below ? new ModelWording(model).PlaceOf(sheet.At, (Subassembly)s.Row!, below.At) : new ModelWording(model).NameOf(s.Row!))} {s.Number}"));
        Assert.Equal("240", Assert.Single(sheet.Steps, s => s.Row is AttributeRow).Number.ToString());
        Assert.Equal("9040", sheet.Price.ToString());
    }

    [Fact]
    public void A_door_sold_alone_is_the_door_of_a_room()
    {
        var alone = Build("door-set.json", null, "clear_width=1000", "core=80", "below_zero=no", "heated=no").Structure;
        var room = Build("cold-room.json", null, "duty=chill", "core=80", "doors[1].clear_width=1000", "cooling.unit=C290-22").Structure;
        var door = room.Bom.First(l => l.Item == "DS").Below!;
        Assert.Equal(door.Bom.Select(l => (l.Item, l.Net, l.Gross)), alone.Bom.Select(l => (l.Item, l.Net, l.Gross)));
        Assert.Equal(door.Routing.Select(o => (o.Sequence, o.Setup, o.Run)), alone.Routing.Select(o => (o.Sequence, o.Setup, o.Run)));
    }
}
