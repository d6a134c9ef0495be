namespace Juniperfall.Core.Models.Document;

/// <summary>Which field of a row says what it does to the price, and in which order rows do.</summary>
public static class PriceFields
{
    internal const string Amount = "amount";
    internal const string Surcharge = "surcharge";
    internal const string SurchargeColumn = "surchargeColumn";

    /// <summary>The field of a row that says what it adds to the price; null for rows that have none.</summary>
    public static string? Of(Row row) => row switch
    {
        AttributeRow { SurchargeColumn.Length: > 0 } => SurchargeColumn,
        PartLine { Surcharge.Length: > 0 } or OperationLine { Surcharge.Length: > 0 } => Surcharge,
        PriceLine => Amount,
        _ => null,
    };

    /// <summary>In the order in which they work: amounts, factors, least prices, roundings; the author's order among equals.</summary>
    internal static IEnumerable<Row> InOrder(IEnumerable<Row> rows) =>
        rows.Where(r => r is Subassembly || Of(r) is not null).OrderBy(r => r is PriceLine line ? line.Effect : PriceEffect.Adds);

    /// <summary>Whether anything in a model has to do with a price.</summary>
    public static bool AreIn(ModelDocument document) => document.AllAssemblies.Any(a => a.Rows.Any(r => Of(r) is not null));

    /// <summary>The first row of a model's own that has to do with a price; null where there is none.</summary>
    internal static Row? FirstRow(ModelDocument document) => document.Assemblies.SelectMany(a => a.Rows).FirstOrDefault(r => Of(r) is not null);
}
