using System.Collections.Immutable;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;

namespace Juniperfall.Core.Tests;

/// <summary>A kind of row and its fields are said once, in <see cref="RowKinds"/>.</summary>
public class KindsOfRows
{
    /// <summary>Members of rows that are no fields of a form: the number of a rule is given to it, the register is drawn from in a grid's editor.</summary>
    private static readonly string[] NoFields = ["id", "number", "drawnFrom"];

    [Fact]
    public void Every_member_of_every_row_is_a_field_of_its_kind_and_the_other_way_round()
    {
        Assert.Equal(typeof(Row).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(Row)) && !t.IsAbstract).Select(t => t.Name).Order(),
            RowKinds.All.Select(k => k.Type.Name).Order());
        foreach (var kind in RowKinds.All)
        {
            var members = DocumentJson.Options.GetTypeInfo(kind.Type).Properties.Where(p => p.Get is not null).Select(p => p.Name).Except(NoFields);
            Assert.Equal(members.Order(), kind.Fields.Concat(RowKinds.Common).Select(f => f.Name).Distinct().Order());
        }
    }

    /// <summary>Conditions and choices are written as in files; nothing is null unless the member can be.</summary>
    [Fact]
    public void What_a_field_says_of_itself_is_true_of_its_member()
    {
        foreach (var kind in RowKinds.All)
            foreach (var field in kind.Fields.Concat(RowKinds.Common))
            {
                var member = Member(kind.Type, field.Name);
                var isNullable = new NullabilityInfoContext().Create(member).WriteState == NullabilityState.Nullable;
                if (field.Nullable)
                    Assert.True(isNullable, $"{kind.Name}.{field.Name}");
                Assert.Equal(member.PropertyType.IsEnum, !field.Choices.IsEmpty);
                foreach (var choice in field.Choices)
                    Assert.Equal(choice, JsonSerializer.SerializeToNode(JsonSerializer.Deserialize($"\"{choice}\"", member.PropertyType))!.GetValue<string>());
                if (field.Only is { } only)
                    Assert.True(only.Values.All(Choices(kind, only.Field).Contains), $"{kind.Name}.{field.Name} while {only.Field}");
            }
    }

    private static ImmutableArray<string> Choices(RowKind kind, string field) => kind.Fields.First(f => f.Name == field).Choices;

    private static PropertyInfo Member(Type type, string name) =>
        (PropertyInfo)DocumentJson.Options.GetTypeInfo(type).Properties.First(p => p.Name == name).AttributeProvider!;

    /// <summary>What is written into any field of text is bound, checked and edited there, without anything that knows the field by its name.</summary>
    [Fact]
    public void Every_expression_of_every_kind_is_bound_and_its_names_follow_a_rename()
    {
        var reached = new HashSet<string>();
        foreach (var kind in RowKinds.All)
            foreach (var field in kind.Fields.Where(f => f.Form == FieldForm.Expression))
            {
                var row = Written(kind, field, field.Expects switch
                {
                    Expectation.YesNo => "asked > 1",
                    Expectation.Text => "if asked > 1 then \"A\" else \"B\"",
                    Expectation.Money => "asked * 1 EUR",
                    Expectation.Time => "asked * 1 min",
                    _ => "asked + 1",
                });
                var model = SmallModels.Of(SmallModels.Assembly("room", SmallModels.Whole("asked", 1, 3), row), SmallModels.Assembly("leaf"));
                var bound = ModelEditor.BindNames(model.Document, model.Facts).Document!;
                var renamed = ModelEditor.Apply(bound, new("e", [new SetField("asked", "name", "said", "asked")]), model.Facts).Document;
                var text = RowKinds.Of(row).FieldsOf(row).First(f => f.Name == field.Name).Texts(new ModelIndex(renamed).Rows[row.Id]).Single().Text;
                Assert.True(text.Contains("⟦asked⟧", StringComparison.Ordinal), $"{kind.Name}.{field.Name}: {text}");
                Assert.NotNull(new BoundModel(renamed, model.Facts).Expression(row.Id, field.Name));
                reached.Add($"{kind.Name}.{field.Caption}");
            }
        Assert.True(reached.Count > 35, $"{reached.Count}");
    }

    /// <summary>A sound row of a kind with a text in a field, and whatever else it needs.</summary>
    private static Row Written(RowKind kind, RowField field, string text)
    {
        var row = new JsonObject { ["kind"] = kind.Name, ["id"] = "row" };
        var needed = new Dictionary<string, JsonNode>
        {
            ["name"] = "row",
            ["listId"] = "cores",
            ["assemblyId"] = "leaf",
            ["item"] = "BOLT",
            ["workCentre"] = "SAW",
            ["sequence"] = 10,
        };
        if (field.Only is { } only)
            row[only.Field] = only.Values[0];
        if (kind.Type == typeof(AttributeRow) && field.Only?.Values is not ["several"])
            (row["attributeKind"], row["min"], row["max"]) = ("whole", "1", "3");
        foreach (var (name, value) in needed)
            if (kind.Fields.Any(f => f.Name == name) && (name != "listId" || field.Only?.Values is ["several"]) && !row.ContainsKey(name))
                row[name] = value;
        foreach (var other in kind.Fields.Where(f => f is { Required: true, Form: FieldForm.Expression }))
            row[other.Name] = other.Expects == Expectation.YesNo ? "asked > 1" : other.Expects == Expectation.Money ? "asked * 1 EUR" : "asked + 0";
        row[field.Name] = text;
        if (kind.Type == typeof(LimitRule) && field.Name == "of")
            row["upper"] = "3";
        return JsonSerializer.Deserialize<Row>(row, DocumentJson.Options)!;
    }

    /// <summary>
    /// The places, beside the table, where models, files and the server name a field as a text: rules of their own that no single field decides.
    /// A new field adds none; one that is listed and gone is refused as well.
    /// </summary>
    private static readonly Dictionary<string, int> NamedBeside = new()
    {
        ["AttributeChecks.input"] = 1,
        ["AttributeChecks.listId"] = 2,
        ["AttributeChecks.suggestion"] = 3,
        ["AttributeChecks.surchargeColumn"] = 2,
        ["BoundModel.expression"] = 2,
        ["Circles.appliesWhen"] = 2,
        ["Circles.expression"] = 2,
        ["Circles.inputs"] = 1,
        ["Circles.instanceCount"] = 2,
        ["GridBinder.columns"] = 1,
        ["IdChecks.columns"] = 1,
        ["IdChecks.instances"] = 2,
        ["ItemExchange.quantity"] = 1,
        ["ItemExchange.substitutes"] = 1,
        ["LibraryRemoval.sites"] = 1,
        ["LineChecks.oneOf"] = 1,
        ["LineChecks.operationId"] = 1,
        ["LineChecks.position"] = 1,
        ["LineChecks.scrap"] = 1,
        ["LineChecks.substitutes"] = 1,
        ["LineChecks.workCentre"] = 1,
        ["ModelEditor.instances"] = 1,
        ["PriceFields.amount"] = 1,
        ["PriceFields.surcharge"] = 1,
        ["PriceFields.surchargeColumn"] = 1,
        ["Reuse.attributeKind"] = 1,
        ["Reuse.suggestion"] = 1,
        ["HistoryWords.label"] = 1,
        ["RowBinder.quantity"] = 1,
        ["RowBinder.upper"] = 1,
        ["RowChecks.assemblyId"] = 2,
        ["RowChecks.columns"] = 2,
        ["RowChecks.sites"] = 1,
        ["RowPath.inputs"] = 1,
        ["Rows.attributeKind"] = 1,
        ["Rows.quantity"] = 1,
        ["SizeChecks.columns"] = 2,
        ["SizeChecks.instances"] = 2,
        ["TestCase.quantity"] = 1,
        ["TestCase.setup"] = 1,
        ["Uses.instances"] = 2,
    };

    [Fact]
    public void A_field_is_named_in_the_table_and_nowhere_else()
    {
        var names = RowKinds.All.SelectMany(k => k.Fields).Concat(RowKinds.Common).Select(f => f.Name).Where(n => n.Length > 4).ToHashSet();
        var found = new[] { "src/Juniperfall.Core/Models", "src/Juniperfall.Storage", "src/Juniperfall.Server/Revisions", "src/Juniperfall.Server/Products" }
            .SelectMany(f => Directory.EnumerateFiles(Path.Combine(Architecture.Root, f), "*.cs", SearchOption.AllDirectories))
            .Where(f => !f.Contains($"{Path.DirectorySeparatorChar}obj{Path.DirectorySeparatorChar}") && Path.GetFileName(f) is not ("RowKinds.cs"))
            .SelectMany(f => CSharpSyntaxTree.ParseText(File.ReadAllText(f)).GetRoot().DescendantTokens().Where(t => t.IsKind(SyntaxKind.StringLiteralToken)
                && names.Contains(t.ValueText)).Select(t => $"{Path.GetFileNameWithoutExtension(f)}.{t.ValueText}"))
            .GroupBy(n => n).ToDictionary(g => g.Key, g => g.Count());
        var (said, there) = (Lines(NamedBeside), Lines(found));
        Assert.True(said == there, $"Named beside the table: {there}");

        static string Lines(Dictionary<string, int> places) => string.Join(", ", places.OrderBy(p => p.Key, StringComparer.Ordinal).Select(p => $"{p.Key} {p.Value}"));
    }
}
