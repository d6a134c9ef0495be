using System.Text;
using System.Xml;

namespace Juniperfall.Formats.Structures;

/// <summary>
/// Structures in the vocabulary of B2MML V7, the XML form of ISA-95 (docs/formats.md says what goes where): the material
/// definitions of all items, and for each made item an operations definition with its material bill and its segments.
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
            // The number of each made item tells different structures of the same item apart.
            var number = 0;
            Operations(xml, file, file.Structure, ref number);
            xml.WriteEndElement();
            xml.WriteEndElement();
        }
        return text + "\n";
    }

    private sealed class Utf8Writer : StringWriter
    {
        public override Encoding Encoding => Encoding.UTF8;
    }

    private static IEnumerable<LineFile> Items(MadeItem structure) =>
        StructureFiles.Made(structure).SelectMany(m => m.Made.Lines).DistinctBy(l => l.Item).OrderBy(l => l.Item, StringComparer.Ordinal)
            .Prepend(new() { Position = 0, Item = structure.Item, Description = structure.Description, Net = "1", Gross = "1", Cost = "0", Weight = "0", Structure = structure });

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

    private static string Operations(XmlWriter xml, StructureFile file, MadeItem made, ref int number)
    {
        var id = ++number == 1 ? made.Item : $"{made.Item}/{number}";
        // What stands below is written first, so that a bill can name it.
        var below = new Dictionary<LineFile, string>(ReferenceEqualityComparer.Instance);
        foreach (var line in made.Lines)
            if (line.Structure is { } inner)
                below[line] = Operations(xml, file, inner, ref number);
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
            if (below.TryGetValue(line, out var bill))
            {
                Text(xml, "AssemblyBillOfMaterialID", bill);
                Text(xml, "AssemblyType", "Physical");
            }
            Quantity(xml, line);
            xml.WriteEndElement();
        }
        xml.WriteEndElement();
        foreach (var (operation, i) in made.Operations.Select((o, i) => (o, i)))
            Segment(xml, made, operation, i);
        xml.WriteEndElement();
        return id;
    }

    private static void Segment(XmlWriter xml, MadeItem made, OperationFile operation, int at)
    {
        xml.WriteStartElement("OperationsSegment", Namespace);
        Text(xml, "ID", SegmentId(operation, at));
        foreach (var (language, text) in operation.Label.Texts.IsEmpty ? [new("en", operation.Name)] : operation.Label.Texts.AsEnumerable())
            Text(xml, "Description", text, language);
        foreach (var (language, text) in operation.Instructions.Texts)
            Text(xml, "Description", text, language);
        Text(xml, "OperationsType", "Production");
        // Set-up and one run; what a batch is stands as a parameter.
        Text(xml, "Duration", Duration(Tables.Number(operation.Setup) + Tables.Number(operation.Run)));
        foreach (var (id, value, unit) in new[] { ("SetUp", operation.Setup, "min"), ("Run", operation.Run, "min"), ("Queue", operation.Queue, "min"), ("Batch", operation.Batch ?? "1", "1") })
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
        xml.WriteStartElement("PersonnelSpecification", Namespace);
        Text(xml, "PersonnelUse", "Allocated");
        Amount(xml, $"{operation.Crew}", "1");
        xml.WriteEndElement();
        xml.WriteStartElement("EquipmentSpecification", Namespace);
        Text(xml, "EquipmentClassID", operation.WorkCentre);
        xml.WriteEndElement();
        var isFirst = at == 0;
        foreach (var line in made.Lines.Where(l => l.Operation == operation.Sequence || (isFirst && (l.Operation is null || made.Operations.All(o => o.Sequence != l.Operation)))))
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
        var group = operation.Parallel;
        var before = at - 1;
        while (before >= 0 && group.Length > 0 && made.Operations[before].Parallel.Equals(group, StringComparison.OrdinalIgnoreCase))
            before--;
        // After the operation before it, or after all of the parallel group before it.
        for (var (i, last) = (before, before < 0 ? "" : made.Operations[before].Parallel); i >= 0 && (i == before || (last.Length > 0 && made.Operations[i].Parallel.Equals(last, StringComparison.OrdinalIgnoreCase))); i--)
        {
            xml.WriteStartElement("SegmentDependency", Namespace);
            Text(xml, "ID", $"{SegmentId(operation, at)} after {SegmentId(made.Operations[i], i)}");
            Text(xml, "Dependency", "AtStart");
            Text(xml, "SegmentID", SegmentId(made.Operations[i], i));
            xml.WriteEndElement();
        }
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
