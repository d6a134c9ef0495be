namespace Juniperfall.Core;

/// <summary>
/// How large things may be; docs/limits.md says the same in a table. What is larger is a fault with its place, never an endless
/// wait or a full stack. They lie well above what products need and well below what one process could bear.
/// </summary>
public static class Limits
{
    /// <summary>Characters of an expression.</summary>
    public const int LongestExpression = 20_000;

    /// <summary>Levels of an expression that nest in one another: parentheses, conditions, functions, signs.</summary>
    public const int DeepestExpression = 120;

    /// <summary>Levels of an expression as a tree, in which each operator of “a + b + c” is one more.</summary>
    public const int HighestExpression = 250;

    /// <summary>Bits of the numerator or the denominator of a number that is computed; beyond it, the number is too large to compute.</summary>
    public const int MostBits = 16_384;

    /// <summary>Characters of an id.</summary>
    public const int LongestName = 200;

    /// <summary>Characters of any other text in one language.</summary>
    public const int LongestText = 20_000;

    /// <summary>Languages of a text.</summary>
    public const int MostLanguages = 50;

    /// <summary>Rows of a model in all its assemblies, with those of what it reuses.</summary>
    public const int MostRows = 50_000;

    public const int MostAssemblies = 5_000;

    /// <summary>Assemblies that stand in one another.</summary>
    public const int DeepestAssemblies = 30;

    /// <summary>Instances of one subassembly.</summary>
    public const int MostInstances = 1_000;

    /// <summary>Places where assemblies stand in the whole product, every instance counted.</summary>
    public const int MostOccurrences = 5_000;

    /// <summary>Rows in the whole product, those of every instance counted.</summary>
    public const int MostInstantiatedRows = 100_000;

    /// <summary>Values of all value lists.</summary>
    public const int MostValues = 100_000;

    public const int MostColumns = 100;

    /// <summary>Cells of all combination grids of a model.</summary>
    public const int MostCells = 1_000_000;

    /// <summary>Test cases of a product.</summary>
    public const int MostCases = 5_000;

    /// <summary>Picks and expectations of all test cases of a product together.</summary>
    public const int MostExpectations = 500_000;

    /// <summary>Picks of a configuration.</summary>
    public const int MostPicks = 20_000;

    /// <summary>Steps of an edit.</summary>
    public const int MostSteps = 2_000;

    /// <summary>Bytes of a model file.</summary>
    public const int LargestFile = 64 * 1024 * 1024;

    /// <summary>Bytes of a table that is loaded.</summary>
    public const int LargestTable = 32 * 1024 * 1024;

    /// <summary>Rows of a table that is loaded.</summary>
    public const int MostTableRows = 150_000;

    /// <summary>Columns of a table that is loaded.</summary>
    public const int MostTableColumns = 200;

    /// <summary>Characters of all cells of a table that is loaded.</summary>
    public const int MostTableText = 64 * 1024 * 1024;

    /// <summary>Files in a zipped workbook.</summary>
    public const int MostParts = 1_000;

    /// <summary>Bytes of a workbook once it is unpacked.</summary>
    public const int LargestUnpacked = 512 * 1024 * 1024;

    /// <summary>Bytes of the texts that the cells of a workbook share, once they are unpacked.</summary>
    public const int LargestSharedTexts = 64 * 1024 * 1024;

    /// <summary>Bytes of one text of a workbook; what people can type there is shorter.</summary>
    public const int LongestUnpackedText = 256 * 1024;
}
