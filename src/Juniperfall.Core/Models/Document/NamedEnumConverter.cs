using System.Text.Json.Serialization;

namespace Juniperfall.Core.Models.Document;

/// <summary>Kinds are written by their names; a number in place of one, which may be none of them, is refused.</summary>
internal sealed class NamedEnumConverter<T>() : JsonStringEnumConverter<T>(null, allowIntegerValues: false) where T : struct, Enum;
