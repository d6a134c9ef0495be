namespace Juniperfall.Core.Models.Texts;

/// <summary>How names of a model, of its values and of the library are compared.</summary>
public static class Names
{
    /// <summary>Names are compared in this form: case never matters.</summary>
    public static string Fold(string name) => (TextChecks.IsUnicode(name) ? name.Normalize() : name).ToUpperInvariant();
}
