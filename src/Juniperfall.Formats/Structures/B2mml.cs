using System.Text;
using System.Xml;

namespace Juniperfall.Formats.Structures;

/// <summary>
/// Structures in the vocabulary of B2MML V7, the XML form of ISA-95 (docs/formats.md says what goes where): the material
/// definitions of all items, for each made item an operations definition of one piece with its material bill and its segments,
/// and the schedule of the order with what it takes in all.
/// </summary>
public static class B2mml
{
    public const string Namespace = "http://www.mesa.org/xml/B2MML";
    public const string Wrapper = "urn:juniperfall:structure:1";

    public static string Write(StructureFile file)
    {
        var text = new Utf8Writer();
        using (var xml = XmlWriter.Create(text, new() { Indent = true, CheckCharacters = true }))
        {
            xml.WriteStartElement("Structure", Wrapper);
            xml.WriteStartElement("MaterialInformation", Namespace);
            foreach (var line in Items(file.Structure))
                Material(xml, line);
            xml.WriteEndElement();
            xml.WriteStartElement("OperationsDefinitionInformation", Namespace);
            // What stands below is written first, so that a bill can name it.
            foreach (var (made, _) in StructureWriter.Made(file.Structure).Reverse())
                Operations(xml, file, made);
            xml.WriteEndElement();
            Schedule(xml, file);
            xml.WriteEndElement();
        }
        return text + "\n";
    }

    private sealed class Utf8Writer : StringWriter
    {
        public override Encoding Encoding => Encoding.UTF8;
    }

    private static IEnumerable<LineFile> Items(MadeItem structure) =>
        StructureWriter.Made(structure).SelectMany(m => m.Made.Lines).DistinctBy(l => l.Item).OrderBy(l => l.Item, StringComparer.Ordinal)
            .Prepend(new()
            {
                Position = 0,
                Item = structure.Item,
                Description = structure.Description,
                Net = "1",
                Gross = "1",
                Cost = "0",
                Weight = "0",
                Structure = structure
            });

    private static void Material(XmlWriter xml, LineFile line)
    {
        xml.WriteStartElement("MaterialDefinition", Namespace);
        Text(xml, "ID", line.Item);
        foreach (var (language, text) in line.Description.Texts)
            Text(xml, "Description", text, language);
        Property(xml, "Unit", line.Unit.Length == 0 ? "1" : line.Unit);
        Property(xml, "Made", line.Structure is null ? "false" : "true");
        xml.WriteEndElement();
    }

    private static void Property(XmlWriter xml, string id, string value, string? unit = null, string type = "string")
    {
        xml.WriteStartElement("MaterialDefinitionProperty", Namespace);
        Text(xml, "ID", id);
        xml.WriteStartElement("Value", Namespace);
        Text(xml, "ValueString", value);
        Text(xml, "DataType", type);
        if (unit is not null)
            Text(xml, "UnitOfMeasure", unit);
        xml.WriteEndElement();
        xml.WriteEndElement();
    }

    private static void Operations(XmlWriter xml, StructureFile file, MadeItem made)
    {
        var id = IdOf(made);
        xml.WriteStartElement("OperationsDefinition", Namespace);
        Text(xml, "ID", id);
        Text(xml, "Version", file.Revision is { } revision ? $"{revision}" : "1");
        foreach (var (language, text) in made.Description.Texts)
            Text(xml, "Description", text, language);
        Text(xml, "OperationsType", "Production");
        if (made.Site is { } site)
        {
            xml.WriteStartElement("HierarchyScope", Namespace);
            Text(xml, "EquipmentID", site);
            Text(xml, "EquipmentLevel", "Site");
            xml.WriteEndElement();
        }
        xml.WriteStartElement("OperationsMaterialBill", Namespace);
        Text(xml, "ID", id);
        foreach (var line in made.Lines)
        {
            xml.WriteStartElement("OperationsMaterialBillItem", Namespace);
            Text(xml, "ID", $"{line.Position}");
            foreach (var (language, text) in line.Description.Texts)
                Text(xml, "Description", text, language);
            Text(xml, "MaterialDefinitionID", line.Item);
            Text(xml, "UseType", "Consumed");
            if (line.Structure is { } below)
            {
                Text(xml, "AssemblyBillOfMaterialID", IdOf(below));
                Text(xml, "AssemblyType", "Physical");
            }
            Quantity(xml, line);
            xml.WriteEndElement();
        }
        xml.WriteEndElement();
        foreach (var (operation, i) in made.Operations.Select((o, i) => (o, i)))
            Segment(xml, made, operation, i);
        xml.WriteEndElement();
    }

    /// <summary>Of what was kept before made items had ids, the item.</summary>
    private static string IdOf(MadeItem made) => made.Id.Length > 0 ? made.Id : made.Item;

    /// <summary>The order: each made item with how many of it are made, and what each of its operations takes and uses in all.</summary>
    private static void Schedule(XmlWriter xml, StructureFile file)
    {
        xml.WriteStartElement("OperationsSchedule", Namespace);
        Text(xml, "ID", $"{file.Product} × {file.Quantity}");
        foreach (var (language, text) in file.Label.Texts)
            Text(xml, "Description", text, language);
        if (file.Concession is { } concession)
            Text(xml, "Description", concession.Sentence, "en");
        Text(xml, "OperationsType", "Production");
        foreach (var (made, _) in StructureWriter.Made(file.Structure))
        {
            xml.WriteStartElement("OperationsRequest", Namespace);
            Text(xml, "ID", IdOf(made));
            Text(xml, "OperationsType", "Production");
            Text(xml, "OperationsDefinitionID", IdOf(made));
            foreach (var (operation, i) in made.Operations.Select((o, i) => (o, i)))
            {
                xml.WriteStartElement("SegmentRequirement", Namespace);
                Text(xml, "ID", SegmentId(operation, i));
                Text(xml, "OperationsType", "Production");
                if (operation.OrderRun.Length > 0)
                    Text(xml, "Duration", Duration(Tables.Number(operation.OrderSetup) + Tables.Number(operation.OrderRun)));
                Required(xml, made.Item, "Produced", made.Quantity, "1");
                foreach (var line in ConsumedAt(made, operation, i))
                    Required(xml, line.Item, "Consumed", line.OrderGross, UnitOf(line));
                xml.WriteEndElement();
            }
            // What is made without an operation is still asked for, with what it takes.
            if (made.Operations.IsDefaultOrEmpty)
            {
                xml.WriteStartElement("SegmentRequirement", Namespace);
                Text(xml, "ID", "all");
                Text(xml, "OperationsType", "Production");
                Required(xml, made.Item, "Produced", made.Quantity, "1");
                foreach (var line in made.Lines)
                    Required(xml, line.Item, "Consumed", line.OrderGross, UnitOf(line));
                xml.WriteEndElement();
            }
            xml.WriteEndElement();
        }
        xml.WriteEndElement();
    }

    private static void Required(XmlWriter xml, string item, string use, string number, string unit)
    {
        xml.WriteStartElement("MaterialRequirement", Namespace);
        Text(xml, "MaterialDefinitionID", item);
        Text(xml, "MaterialUse", use);
        Amount(xml, number, unit);
        xml.WriteEndElement();
    }

    private static string UnitOf(LineFile line) => line.Unit.Length == 0 ? "1" : line.Unit;

    /// <summary>The lines that an operation consumes; the first one takes those that name none which is there.</summary>
    private static IEnumerable<LineFile> ConsumedAt(MadeItem made, OperationFile operation, int at) =>
        made.Lines.Where(l => l.Operation == operation.Sequence || (at == 0 && (l.Operation is null || made.Operations.All(o => o.Sequence != l.Operation))));

    private static void Segment(XmlWriter xml, MadeItem made, OperationFile operation, int at)
    {
        xml.WriteStartElement("OperationsSegment", Namespace);
        Text(xml, "ID", SegmentId(operation, at));
        foreach (var (language, text) in operation.Label.Texts.IsEmpty ? [new("en", operation.Name)] : operation.Label.Texts.AsEnumerable())
            Text(xml, "Description", text, language);
        Text(xml, "OperationsType", "Production");
        // Set-up and one run; what a batch is stands as a parameter.
        Text(xml, "Duration", Duration(Tables.Number(operation.Setup) + Tables.Number(operation.Run)));
        foreach (var (id, value, unit) in new[] { ("SetUp", operation.Setup, "min"), ("Run", operation.Run, "min"), ("Queue", operation.Queue, "min"),
            ("Batch", operation.Batch ?? "1", "1") })
        {
            xml.WriteStartElement("Parameter", Namespace);
            Text(xml, "ID", id);
            xml.WriteStartElement("Value", Namespace);
            Text(xml, "ValueString", value);
            Text(xml, "DataType", "decimal");
            Text(xml, "UnitOfMeasure", unit);
            xml.WriteEndElement();
            xml.WriteEndElement();
        }
        if (!operation.Instructions.Texts.IsEmpty)
        {
            xml.WriteStartElement("Parameter", Namespace);
            Text(xml, "ID", "Instructions");
            foreach (var (language, text) in operation.Instructions.Texts)
                Text(xml, "Description", text, language);
            xml.WriteEndElement();
        }
        xml.WriteStartElement("PersonnelSpecification", Namespace);
        Text(xml, "PersonnelUse", "Allocated");
        Amount(xml, $"{operation.Crew}", "1");
        xml.WriteEndElement();
        xml.WriteStartElement("EquipmentSpecification", Namespace);
        Text(xml, "EquipmentClassID", operation.WorkCentre);
        xml.WriteEndElement();
        xml.WriteStartElement("MaterialSpecification", Namespace);
        Text(xml, "MaterialDefinitionID", made.Item);
        Text(xml, "MaterialUse", "Produced");
        Amount(xml, "1", "1");
        xml.WriteEndElement();
        foreach (var line in ConsumedAt(made, operation, at))
        {
            xml.WriteStartElement("MaterialSpecification", Namespace);
            Text(xml, "MaterialDefinitionID", line.Item);
            Text(xml, "MaterialUse", "Consumed");
            Quantity(xml, line);
            foreach (var figure in line.Figures)
            {
                xml.WriteStartElement("MaterialSpecificationProperty", Namespace);
                Text(xml, "ID", figure.Name);
                xml.WriteStartElement("Value", Namespace);
                Text(xml, "ValueString", figure.Number);
                Text(xml, "DataType", "decimal");
                Text(xml, "UnitOfMeasure", figure.Unit.Length == 0 ? "1" : figure.Unit);
                xml.WriteEndElement();
                xml.WriteEndElement();
            }
            xml.WriteEndElement();
        }
        // Members of a parallel group start together; the first of them, like an operation by itself, comes after the end of all before.
        bool Together(int one, int other) => made.Operations[one].Parallel.Length > 0
            && made.Operations[one].Parallel.Equals(made.Operations[other].Parallel, StringComparison.OrdinalIgnoreCase);
        var first = at;
        while (first > 0 && Together(first - 1, at))
            first--;
        for (var before = first - 1; before >= 0 && (before == first - 1 || Together(before, first - 1)); before--)
            Depends(xml, made, operation, at, before, "AfterEnd");
        if (first < at)
            Depends(xml, made, operation, at, first, "AtStart");
        xml.WriteEndElement();
    }

    private static void Depends(XmlWriter xml, MadeItem made, OperationFile operation, int at, int other, string how)
    {
        var on = SegmentId(made.Operations[other], other);
        xml.WriteStartElement("SegmentDependency", Namespace);
        Text(xml, "ID", $"{SegmentId(operation, at)} {(how == "AtStart" ? "with" : "after")} {on}");
        Text(xml, "Dependency", how);
        Text(xml, "SegmentID", on);
        xml.WriteEndElement();
    }

    private static string SegmentId(OperationFile operation, int at) => $"{operation.Sequence}-{at + 1}";

    private static string Duration(decimal minutes) => XmlConvert.ToString(TimeSpan.FromMinutes((double)minutes));

    private static void Quantity(XmlWriter xml, LineFile line) => Amount(xml, line.Gross, line.Unit.Length == 0 ? "1" : line.Unit);

    private static void Amount(XmlWriter xml, string number, string unit)
    {
        xml.WriteStartElement("Quantity", Namespace);
        Text(xml, "QuantityString", number);
        Text(xml, "DataType", "decimal");
        Text(xml, "UnitOfMeasure", unit);
        xml.WriteEndElement();
    }

    /// <summary>An element with a text; characters that XML has no way to hold are left out.</summary>
    private static void Text(XmlWriter xml, string name, string text, string? language = null)
    {
        xml.WriteStartElement(name, Namespace);
        if (language is not null)
            xml.WriteAttributeString("languageID", language);
        xml.WriteString(string.Concat(text.EnumerateRunes().Where(r => r.Value > 0xFFFF || XmlConvert.IsXmlChar((char)r.Value))));
        xml.WriteEndElement();
    }
}
