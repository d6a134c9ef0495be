namespace Juniperfall.Core.Quantities;

/// <summary>
/// The dimension of a number as exponents of the SI base quantities, and of money, which mixes with none of them.
/// <see cref="IsPoint"/> marks temperature points (degrees Celsius), which can be compared and subtracted but not added or
/// multiplied.
/// </summary>
public readonly record struct Dimension(int Length, int Mass, int Time, int Temperature, int Current, bool IsPoint = false, int Money = 0)
{
    public static readonly Dimension None = default;
    public static readonly Dimension OfLength = new(1, 0, 0, 0, 0);
    public static readonly Dimension OfMass = new(0, 1, 0, 0, 0);
    public static readonly Dimension OfTime = new(0, 0, 1, 0, 0);
    public static readonly Dimension OfTemperature = new(0, 0, 0, 1, 0);
    public static readonly Dimension OfCurrent = new(0, 0, 0, 0, 1);
    public static readonly Dimension OfMoney = new(0, 0, 0, 0, 0, Money: 1);
    public static readonly Dimension TemperaturePoint = new(0, 0, 0, 1, 0, true);

    public bool IsNone => this == None;

    public static Dimension operator *(Dimension a, Dimension b) =>
        new(a.Length + b.Length, a.Mass + b.Mass, a.Time + b.Time, a.Temperature + b.Temperature, a.Current + b.Current, Money: a.Money + b.Money);

    public Dimension Power(int n) => new(Length * n, Mass * n, Time * n, Temperature * n, Current * n, Money: Money * n);

    public static Dimension operator /(Dimension a, Dimension b) => a * b.Power(-1);

    /// <summary>Plain words for the commoner dimensions, base units for the rest; used in messages.</summary>
    public string Describe() => this switch
    {
        { IsPoint: true } => "a temperature",
        (0, 0, 0, 0, 0, _, 0) => "a plain number",
        (1, 0, 0, 0, 0, _, 0) => "a length",
        (2, 0, 0, 0, 0, _, 0) => "an area",
        (3, 0, 0, 0, 0, _, 0) => "a volume",
        (0, 1, 0, 0, 0, _, 0) => "a weight",
        (0, 0, 1, 0, 0, _, 0) => "a time",
        (0, 0, 0, 1, 0, _, 0) => "a temperature difference",
        (0, 0, 0, 0, 1, _, 0) => "a current",
        (2, 1, -3, 0, 0, _, 0) => "a power",
        (2, 1, -2, 0, 0, _, 0) => "an energy",
        (-1, 1, -2, 0, 0, _, 0) => "a pressure",
        (0, 1, -3, -1, 0, _, 0) => "a heat transfer coefficient",
        (2, 1, -3, 0, -1, _, 0) => "a voltage",
        (0, 0, 0, 0, 0, _, 1) => "an amount of money",
        (-2, 0, 0, 0, 0, _, 1) => "a price by area",
        _ => "a quantity in " + BaseUnits(),
    };

    /// <summary>The dimension as a product of base units, e.g. <c>m2.kg/s3</c> written with negative exponents.</summary>
    public string BaseUnits()
    {
        (string Code, int Exponent)[] parts = [("m", Length), ("kg", Mass), ("s", Time), ("K", Temperature), ("A", Current), ("EUR", Money)];
        var used = parts.Where(p => p.Exponent != 0).Select(p => p.Exponent == 1 ? p.Code : p.Code + p.Exponent);
        return string.Join('.', used);
    }
}
