using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Formats;

namespace Juniperfall.Cli;

/// <summary>Takes the model of one file into another one, or another revision of it in place of the one that is there.</summary>
public static class ReuseCommand
{
    /// <summary>Writes the first model with the second one in it. Its subassemblies name it by its entry.</summary>
    /// <param name="entry">The entry; empty: the one that holds the product already, or a new one.</param>
    /// <param name="revision">The number of the revision; null: as it is, or 1.</param>
    public static int Run(string file, string other, string entry, int? revision, TextWriter output, TextWriter errors)
    {
        if (Commands.LoadPackage(file, errors) is not { } package || Commands.LoadPackage(other, errors) is not { } given)
            return Commands.WrongInput;
        var model = new BoundModel(given.Model, given.Library);
        if (model.Findings.FirstOrDefault(f => f.Blocks) is { } fault)
        {
            errors.WriteLine($"{other} has faults, so it cannot be reused: {fault.Diagnostic.Message}");
            return Commands.WrongInput;
        }
        var there = package.Model.Reused.FirstOrDefault(r => entry.Length == 0 ? r.ProductId == given.Model.Id : r.Id == entry);
        var number = revision ?? there?.Revision ?? 1;
        var id = there?.Id ?? (entry.Length > 0 ? entry : given.Model.Code.ToLowerInvariant());
        var edited = ModelEditor.Apply(package.Model,
            new("reuse", [new ReuseRevision(id, given.Model.Id, number, there?.Revision, Reuse.Of(model, number, id))]), package.Library);
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
