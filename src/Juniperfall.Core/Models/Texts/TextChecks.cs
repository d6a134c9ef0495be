using System.Text.Json.Nodes;

namespace Juniperfall.Core.Models.Texts;

/// <summary>What keeps a text from being kept: its length, or characters that no store takes.</summary>
public static class TextChecks
{
    /// <summary>What is wrong with a text, as a sentence; null where nothing is.</summary>
    public static string? FaultOf(string text)
    {
        if (text.Length > Limits.LongestText)
            return $"This text is longer than {Limits.LongestText} characters.";
        return text.Contains('\0', StringComparison.Ordinal) || !IsUnicode(text) ? "This text holds a character that cannot be kept." : null;
    }

    /// <summary>Whether a text holds no half of a surrogate pair.</summary>
    public static bool IsUnicode(string text)
    {
        for (var i = 0; i < text.Length; i++)
            if (char.IsSurrogate(text[i]) && !(char.IsHighSurrogate(text[i]) && i + 1 < text.Length && char.IsLowSurrogate(text[++i])))
                return false;
        return true;
    }

    /// <summary>The first fault of a text anywhere in a document or a part of one; null where there is none.</summary>
    public static string? FaultIn(JsonNode? node)
    {
        try
        {
            return FirstFaultIn(node);
        }
        catch (InvalidOperationException)
        {
            // A text of a request is looked into only now, and half a surrogate pair is none.
            return FaultOf("\0");
        }
    }

    private static string? FirstFaultIn(JsonNode? node)
    {
        var open = new Stack<JsonNode?>([node]);
        while (open.TryPop(out var next))
            switch (next)
            {
                case JsonObject thing:
                    foreach (var (name, member) in thing)
                    {
                        if (FaultOf(name) is { } fault)
                            return fault;
                        open.Push(member);
                    }
                    break;
                case JsonArray array:
                    foreach (var member in array)
                        open.Push(member);
                    break;
                case JsonValue value when value.TryGetValue<string>(out var text) && FaultOf(text) is { } fault:
                    return fault;
            }
        return null;
    }
}
