namespace Juniperfall.Core.Language;

/// <summary>A stretch of a text, in UTF-16 characters.</summary>
public readonly record struct Span(int Start, int Length)
{
    public int End => Start + Length;
    public Span To(Span other) => new(Math.Min(Start, other.Start), Math.Max(End, other.End) - Math.Min(Start, other.Start));
}

/// <summary>Something wrong with a text: which fault it is, where, in a sentence, and what could stand there instead.</summary>
public sealed record Diagnostic(Fault Fault, Span Span, string Message, string? Suggestion = null)
{
    public string Id => $"JF{(int)Fault:000}";
}

/// <summary>Every fault that a text or a row can have, with its number. Numbers are never reused.</summary>
public enum Fault
{
    // Reading the text
    UnexpectedCharacter = 1,
    UnclosedQuote = 2,
    ExpressionExpected = 3,
    UnexpectedWord = 4,
    MissingClosing = 5,
    MissingWord = 6,
    TooDeep = 7,
    DecimalComma = 8,
    BadNumber = 9,
    TooLong = 10,

    // Finding what names mean
    UnknownName = 20,
    UnknownValue = 21,
    UnknownProperty = 22,
    UnknownFunction = 23,
    NotAPath = 24,
    NoSuchInstance = 25,
    UnknownUnit = 26,

    // Types and units
    TypeMismatch = 40,
    UnitMismatch = 41,
    WrongArgumentCount = 42,
    NotACondition = 43,
    NotANumber = 44,
    DifferentLists = 45,
    TextCannotBeReasoned = 46,
    WrongResult = 47,
    TemperaturePoint = 48,

    // The model around it
    Circular = 60,
    DependsOnFaulty = 61,
    MissingExpression = 62,

    // Rows
    DuplicateName = 80,
    BoundsReversed = 81,
    StepNotPositive = 82,
    EmptyList = 83,
    MissingList = 84,
    UnknownItem = 85,
    UnknownWorkCentre = 86,
    MissingAssembly = 87,
    BadCell = 88,
    BadName = 89,
    OffStep = 90,
    BadSuggestion = 91,
    UnknownOperation = 92,
    DatesReversed = 93,
    NothingToAsk = 94,
    CircularAssembly = 95,
    UnknownSite = 96,
    BadFilter = 97,
    NoCounterpart = 98,
    InputGone = 99,
    MissingRoot = 100,
    TooManyCells = 101,
    MissingId = 102,
    TooLarge = 103,
    DuplicateId = 104,
    BadId = 105,
}
