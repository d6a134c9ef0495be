using Juniperfall.Core.Models;
using Juniperfall.Formats;

namespace Juniperfall.Cli;

/// <summary>Takes the model of one file into another one, or another revision of it in place of the one that is there.</summary>
public static class ReuseCommand
{
    /// <summary>Writes the first model with the second one in it. Its subassemblies name it by its entry.</summary>
    public static int Run(string file, string other, string[] options, TextWriter output, TextWriter errors)
    {
        var (entry, revision) = ("", 0);
        for (var i = 0; i < options.Length; i += 2)
            switch (options[i])
            {
                case "--entry" when i + 1 < options.Length:
                    entry = options[i + 1];
                    break;
                case "--revision" when i + 1 < options.Length && int.TryParse(options[i + 1], out revision) && revision > 0:
                    break;
                default:
                    errors.WriteLine($"“{options[i]}” is not understood; options are --entry ID and --revision NUMBER.");
                    return Commands.WrongInput;
            }
        if (Commands.LoadPackage(file, errors) is not { } package || Commands.LoadPackage(other, errors) is not { } given)
            return Commands.WrongInput;
        var model = new BoundModel(given.Model, given.Library);
        if (model.Findings.FirstOrDefault(f => f.Blocks) is { } fault)
        {
            errors.WriteLine($"{other} has faults, so it cannot be reused: {fault.Diagnostic.Message}");
            return Commands.WrongInput;
        }
        var there = package.Model.Reused.FirstOrDefault(r => entry.Length == 0 ? r.ProductId == given.Model.Id : r.Id == entry);
        var number = revision > 0 ? revision : there?.Revision ?? 1;
        var id = there?.Id ?? (entry.Length > 0 ? entry : given.Model.Code.ToLowerInvariant());
        var edited = ModelEditor.Apply(package.Model, new("reuse", [new ReuseRevision(id, given.Model.Id, number, there?.Revision, Reuse.Of(model, number, id))]), package.Library);
        if (edited.Refusal is { } refusal)
        {
            errors.WriteLine(refusal.Message);
            return Commands.WrongInput;
        }
        // What is known of the library there stays; what only the other file knows comes along.
        var own = package.Library;
        output.Write(ModelJson.Write(new()
        {
            Model = edited.Document,
            Library = own with
            {
                Items = given.Library.Items.SetItems(own.Items),
                WorkCentres = given.Library.WorkCentres.SetItems(own.WorkCentres),
                Sites = given.Library.Sites.SetItems(own.Sites),
                StandardOperations = given.Library.StandardOperations.SetItems(own.StandardOperations),
                CustomerClasses = given.Library.CustomerClasses.SetItems(own.CustomerClasses),
            },
        }));
        return Commands.Valid;
    }
}
