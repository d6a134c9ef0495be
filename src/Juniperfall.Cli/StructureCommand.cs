using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;
using Juniperfall.Formats.Structures;

namespace Juniperfall.Cli;

/// <summary>The structure of a configuration, from a model file alone.</summary>
public static class StructureCommand
{
    /// <param name="written">How many are ordered.</param>
    /// <param name="code">The customer class whose price is told; null for list price.</param>
    /// <param name="table">bom or routing, for csv.</param>
    /// <param name="draft">Whether a faulty model is built without what is faulty; that is said.</param>
    public static int Structure(string file, AskedFor options, string written, string? code, string format, string table, bool draft, TextWriter output,
        TextWriter errors)
    {
        if (!Exact.TryParse(written, out var quantity) || quantity.Sign <= 0 || !quantity.IsWhole)
            return Wrong($"“{written}” is not a quantity; it is a whole number above zero.");
        if (Commands.ReadFile(file, errors) is not { } bytes)
            return Commands.WrongInput;
        var (_, read, faults) = FileFaults.Of(bytes);
        foreach (var fault in faults.Where(f => f.Blocks))
            errors.WriteLine($"{file}:{fault.Place.Line}:{fault.Place.Column}: error {fault.Id}: {fault.Message}");
        if (read is not { } model)
            return Commands.WrongInput;
        if (faults.Any(f => f.Blocks))
        {
            if (!draft)
                return Wrong("Nothing was built of a model with faults. With --draft what is faulty is left out.");
            errors.WriteLine("This is a draft: what is faulty is left out of it.");
        }
        if (Commands.Read(model, options, errors) is not { } asked)
            return Commands.WrongInput;
        CustomerClassFact? customers = null;
        if (code is not null && (customers = model.Facts.CustomerClassOf(code)) is null)
            return Wrong($"There is no customer class “{code}”; there are "
                + $"{(model.Facts.CustomerClasses.Count == 0 ? "none" : string.Join(", ", model.Facts.CustomerClasses.Keys))}.");
        var reasoner = new Reasoner(model, asked.At);
        using var limit = new CancellationTokenSource(options.Limit);
        var answer = reasoner.Answer(new(asked.Picks), limit.Token);
        if (!answer.Exact)
            return Late();
        if (answer.Valid != true)
        {
            errors.WriteLine("These picks cannot stand together: "
                + string.Join("; ", answer.Clashes.SelectMany(c => c.Causes).Select(c => Commands.Describe(model, c))));
            return Commands.Invalid;
        }
        if (answer.Missing.Length > 0)
        {
            errors.WriteLine("Still needed: " + string.Join(", ", answer.Missing.Select(p => Commands.Name(answer, p))));
            return Commands.Invalid;
        }
        if (reasoner.Complete(answer, limit.Token) is not { } complete)
            return Late();
        var values = complete.ToDictionary(p => p.Path, p => p.Value);
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
        var words = new ModelWording(model);
        var explainer = new StructureExplainer(model, words, values, asked.At, withSteps: true);
        var whole = new StructureWriter(model, words, explainer)
            .Of(structure, asked.At, quantity, asked.Picks,
            GivenAnswers.Of(model, answer, values)) with
        { Price = PriceFile.Of(model, price, customers, quantity, explainer) };
        foreach (var finding in whole.Findings)
            errors.WriteLine($"{finding.Severity}: {finding.Message}");
        switch (format)
        {
            case "json":
                output.Write(StructureWriter.Json(whole));
                break;
            case "csv":
                output.Write(System.Text.Encoding.UTF8
                    .GetString(Tables.Csv(table switch
                    {
                        "routing" => StructureTables.Routing(whole),
                        "consumption" =>
                    StructureTables.Consumption(whole),
                        "load" => StructureTables.Load(whole),
                        "totals" => StructureTables.Totals(whole),
                        "answers" => StructureTables.Answers(whole),
                        _ =>
                    StructureTables.Bom(whole)
                    })).TrimStart('\uFEFF'));
                break;
            case "b2mml":
                output.Write(B2mml.Write(whole));
                break;
            default:
                Print(structure, output, 0);
                if (whole.Price is { } paid)
                    output.WriteLine($"list price {paid.List} EUR{(paid.Discount == "0" ? "" : $", less {paid.Discount} %: {paid.Each} EUR")} each, "
                        + $"{paid.Order} EUR for {whole.Quantity}");
                break;
        }
        // What stands against building it is said, and told to pipelines by the exit code.
        return whole.Findings.Any(f => f.Severity == "error") ? Commands.Invalid : Commands.Valid;

        int Late()
        {
            errors.WriteLine("Whether this configuration is valid was not found out in time.");
            return Commands.TimeLimit;
        }

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
            output.WriteLine($"{indent}  {line.Position,4}  {line.Item,-14} {line.Gross.ToDisplay(4),10} {line.Unit,-3} {line.Description.In(),-44} "
                + $"{line.Reason.Condition}");
            if (line.Below is { } below)
                Print(below, output, level + 2);
        }
        foreach (var operation in structure.Routing)
            output.WriteLine($"{indent}  op {operation.Sequence,4}  {operation.WorkCentre,-14} {(operation.Setup / 60).ToDisplay(1),6} + "
                + $"{(operation.Run / 60).ToDisplay(1),7} min  {operation.Label.Or(operation.Name)}");
    }
}
