using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Formats;
using Juniperfall.Formats.Structures;

namespace Juniperfall.Cli;

/// <summary>The structure of a configuration, from a model file alone.</summary>
public static class StructureCommand
{
    private static readonly string[] OwnOptions = ["--quantity", "--format", "--table", "--customer-class"];

    public static int Structure(string file, string[] options, TextWriter output, TextWriter errors)
    {
        var own = options.Chunk(2).Where(o => OwnOptions.Contains(o[0])).ToDictionary(o => o[0], o => o.Length > 1 ? o[1] : "");
        var quantity = Exact.One;
        if (own.TryGetValue("--quantity", out var written) && (!Exact.TryParse(written, out quantity) || quantity.Sign <= 0 || !quantity.IsWhole))
            return Wrong($"“{written}” is not a quantity; it is a whole number above zero.");
        var format = own.GetValueOrDefault("--format", "text");
        if (format is not ("text" or "json" or "csv" or "b2mml"))
            return Wrong($"“{format}” is no format; there are text, json, csv and b2mml.");
        var table = own.GetValueOrDefault("--table", "bom");
        if (table is not ("bom" or "routing"))
            return Wrong($"“{table}” is no table; there are bom and routing.");
        if (Commands.Load(file, errors) is not { } model || Commands.Read(model, [.. options.Chunk(2).Where(o => !OwnOptions.Contains(o[0])).SelectMany(o => o)], errors) is not { } asked)
            return Commands.WrongInput;
        CustomerClassFact? customers = null;
        if (own.TryGetValue("--customer-class", out var code) && (customers = model.Facts.CustomerClassOf(code)) is null)
            return Wrong($"There is no customer class “{code}”; there are {(model.Facts.CustomerClasses.Count == 0 ? "none" : string.Join(", ", model.Facts.CustomerClasses.Keys))}.");
        var reasoner = new Reasoner(model, asked.At);
        var answer = reasoner.Answer(new(asked.Picks), CancellationToken.None);
        if (answer.Valid != true)
        {
            errors.WriteLine("These picks cannot stand together: " + string.Join("; ", answer.Clashes.SelectMany(c => c.Causes).Select(c => Commands.Describe(model, c))));
            return Commands.Invalid;
        }
        if (answer.Missing.Length > 0)
        {
            errors.WriteLine("Still needed: " + string.Join(", ", answer.Missing.Select(p => Commands.Name(answer, p))));
            return Commands.Invalid;
        }
        var values = reasoner.Complete(answer, CancellationToken.None)!.Value.ToDictionary(p => p.Path, p => p.Value);
        var result = StructureBuilder.Build(model, values, asked.At);
        foreach (var fault in result.Faults)
            errors.WriteLine(fault.Message);
        if (result.Structure is not { } structure)
            return Commands.Invalid;
        var price = Pricing.Of(model, values, asked.At);
        foreach (var fault in price.Faults)
            errors.WriteLine(fault.Message);
        if (price.Faults.Count > 0)
            return Commands.Invalid;
        var whole = StructureFiles.Of(model, structure, asked.At, quantity, asked.Picks, GivenAnswers.Of(model, answer, values)) with { Price = PriceFile.Of(model, price, customers, quantity) };
        foreach (var finding in whole.Findings)
            errors.WriteLine($"{finding.Severity}: {finding.Message}");
        switch (format)
        {
            case "json":
                output.Write(StructureFiles.Json(whole));
                break;
            case "csv":
                output.Write(System.Text.Encoding.UTF8.GetString(Tables.Csv(table == "bom" ? StructureTables.Bom(whole) : StructureTables.Routing(whole))).TrimStart('\uFEFF'));
                break;
            case "b2mml":
                output.Write(B2mml.Write(whole));
                break;
            default:
                Print(structure, output, 0);
                if (whole.Price is { } paid)
                    output.WriteLine($"list price {paid.List} EUR{(paid.Discount == "0" ? "" : $", less {paid.Discount} %: {paid.Each} EUR")} each, {paid.Order} EUR for {whole.Quantity}");
                break;
        }
        // What stands against building it is said, and told to pipelines by the exit code.
        return whole.Findings.Any(f => f.Severity == "error") ? Commands.Invalid : Commands.Valid;

        int Wrong(string sentence)
        {
            errors.WriteLine(sentence);
            return Commands.WrongInput;
        }
    }

    private static void Print(Structure structure, TextWriter output, int level)
    {
        var indent = new string(' ', level * 2);
        output.WriteLine($"{indent}{structure.Item}  {structure.Description.In()}");
        foreach (var line in structure.Bom)
        {
            output.WriteLine($"{indent}  {line.Position,4}  {line.Item,-14} {line.Gross.ToDisplay(4),10} {line.Unit,-3} {line.Description.In(),-44} {line.Reason.Condition}");
            if (line.Below is { } below)
                Print(below, output, level + 2);
        }
        foreach (var operation in structure.Routing)
            output.WriteLine($"{indent}  op {operation.Sequence,4}  {operation.WorkCentre,-14} {(operation.Setup / 60).ToDisplay(1),6} + {(operation.Run / 60).ToDisplay(1),7} min  {operation.Label.Or(operation.Name)}");
    }
}
