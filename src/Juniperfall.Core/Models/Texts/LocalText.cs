using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Juniperfall.Core.Models.Texts;

/// <summary>A text that people read, by language code; falls back to English, then to the first there is.</summary>
[JsonConverter(typeof(LocalTextConverter))]
public sealed record LocalText(ImmutableSortedDictionary<string, string> Texts)
{
    public static readonly LocalText Empty = new(ImmutableSortedDictionary<string, string>.Empty);
    public static LocalText English(string text) => new(Empty.Texts.Add("en", text));

    public string In(string language = "en") =>
        Texts.TryGetValue(language, out var text) || Texts.TryGetValue("en", out text) ? text : Texts.Values.FirstOrDefault() ?? "";

    public string Or(string fallback) => In() is { Length: > 0 } text ? text : fallback;
}

internal sealed class LocalTextConverter : JsonConverter<LocalText>
{
    public override LocalText Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
        JsonSerializer.Deserialize<ImmutableSortedDictionary<string, string?>>(ref reader, options) is { } texts && texts.Count <= Limits.MostLanguages
            && texts.Values.All(t => t is not null)
            ? new(texts!) : throw new JsonException();

    public override void Write(Utf8JsonWriter writer, LocalText value, JsonSerializerOptions options) =>
        JsonSerializer.Serialize(writer, value.Texts, options);
}
