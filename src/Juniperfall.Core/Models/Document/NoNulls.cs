using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization.Metadata;

namespace Juniperfall.Core.Models.Document;

/// <summary>
/// Refuses a JSON null in a list or a dictionary that holds none, and in place of the list itself. The serializer's own check of nullable
/// annotations covers single members only.
/// </summary>
public static class NoNulls
{
    /// <summary>A modifier of a type resolver; what it refuses is a <see cref="JsonException"/> with its place.</summary>
    public static void Refuse(JsonTypeInfo type)
    {
        if (type.Kind != JsonTypeInfoKind.Object)
            return;
        var checks = type.Properties.Where(p => p.Get is not null && p.PropertyType != typeof(string) && typeof(IEnumerable).IsAssignableFrom(p.PropertyType)
            && p.AttributeProvider is PropertyInfo && !IsNode(p.PropertyType))
            .Select(p => (p.Name, p.Get, Nullability: new NullabilityInfoContext().Create((PropertyInfo)p.AttributeProvider!))).ToList();
        if (checks.Count == 0)
            return;
        var before = type.OnDeserialized;
        type.OnDeserialized = thing =>
        {
            before?.Invoke(thing);
            foreach (var (name, get, nullability) in checks)
                if (HoldsNull(get!(thing), nullability))
                    throw new JsonException($"A null stands in “{name}”, which holds none.");
        };
    }

    private static bool IsNode(Type type) => typeof(System.Text.Json.Nodes.JsonNode).IsAssignableFrom(type);

    private static bool HoldsNull(object? value, NullabilityInfo nullability)
    {
        if (value is null)
            return nullability.ReadState == NullabilityState.NotNull;
        // A list that is a structure can be there without being made.
        if (value.GetType() is { IsValueType: true } structure && structure.GetProperty("IsDefault")?.GetValue(value) is true)
            return true;
        if (value is IDictionary dictionary)
            return nullability.GenericTypeArguments is [_, { ReadState: NullabilityState.NotNull } of] && Any(dictionary.Values, of);
        return nullability.GenericTypeArguments is [{ } element] && element.ReadState == NullabilityState.NotNull && Any((IEnumerable)value, element);
    }

    private static bool Any(IEnumerable members, NullabilityInfo nullability)
    {
        if (nullability.Type.IsValueType && !typeof(IEnumerable).IsAssignableFrom(nullability.Type))
            return false;
        var isList = nullability.Type != typeof(string) && typeof(IEnumerable).IsAssignableFrom(nullability.Type) && !IsNode(nullability.Type);
        foreach (var member in members)
            if (member is null || (isList && HoldsNull(member, nullability)))
                return true;
        return false;
    }
}
