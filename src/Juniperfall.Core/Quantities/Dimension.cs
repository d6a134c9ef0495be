namespace Juniperfall.Core.Quantities;

/// <summary>
/// The physical dimension of a number as exponents of the SI base quantities. <see cref="IsPoint"/> marks temperature
/// points (degrees Celsius), which can be compared and subtracted but not added or multiplied.
/// </summary>
public readonly record struct Dimension(int Length, int Mass, int Time, int Temperature, int Current, bool IsPoint = false)
{
    public static readonly Dimension None = default;
    public static readonly Dimension OfLength = new(1, 0, 0, 0, 0);
    public static readonly Dimension OfMass = new(0, 1, 0, 0, 0);
    public static readonly Dimension OfTime = new(0, 0, 1, 0, 0);
    public static readonly Dimension OfTemperature = new(0, 0, 0, 1, 0);
    public static readonly Dimension OfCurrent = new(0, 0, 0, 0, 1);
    public static readonly Dimension TemperaturePoint = new(0, 0, 0, 1, 0, true);

    public bool IsNone => this == None;

    public static Dimension operator *(Dimension a, Dimension b) =>
        new(a.Length + b.Length, a.Mass + b.Mass, a.Time + b.Time, a.Temperature + b.Temperature, a.Current + b.Current);

    public Dimension Power(int n) => new(Length * n, Mass * n, Time * n, Temperature * n, Current * n);

    public static Dimension operator /(Dimension a, Dimension b) => a * b.Power(-1);

    /// <summary>Plain words for the commoner dimensions, base units for the rest; used in messages.</summary>
    public string Describe() => this switch
    {
        { IsPoint: true } => "a temperature",
        (0, 0, 0, 0, 0, _) => "a plain number",
        (1, 0, 0, 0, 0, _) => "a length",
        (2, 0, 0, 0, 0, _) => "an area",
        (3, 0, 0, 0, 0, _) => "a volume",
        (0, 1, 0, 0, 0, _) => "a weight",
        (0, 0, 1, 0, 0, _) => "a time",
        (0, 0, 0, 1, 0, _) => "a temperature difference",
        (0, 0, 0, 0, 1, _) => "a current",
        (2, 1, -3, 0, 0, _) => "a power",
        (2, 1, -2, 0, 0, _) => "an energy",
        (-1, 1, -2, 0, 0, _) => "a pressure",
        (0, 1, -3, -1, 0, _) => "a heat transfer coefficient",
        (2, 1, -3, 0, -1, _) => "a voltage",
        _ => "a quantity in " + BaseUnits(),
    };

    /// <summary>The dimension as a product of base units, e.g. <c>m2.kg/s3</c> written with negative exponents.</summary>
    public string BaseUnits()
    {
        (string Code, int Exponent)[] parts = [("m", Length), ("kg", Mass), ("s", Time), ("K", Temperature), ("A", Current)];
        var used = parts.Where(p => p.Exponent != 0).Select(p => p.Exponent == 1 ? p.Code : p.Code + p.Exponent);
        return string.Join('.', used);
    }
}
