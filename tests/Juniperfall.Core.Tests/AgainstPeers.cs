using Juniperfall.Bench;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Library;
using SideBySide;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Exactly which values can be had on models too large for brute force, held against clasp and CP-SAT, solvers of other kinds. Sessions
/// go on with one reasoner, and some go against the planted solution.
/// </summary>
public class AgainstPeers
{
    private static readonly int Seeds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 40 : 4;

    private static readonly Family[] Families =
    [
        new("features", 0, 0, 300, 700, 0, 0, 0, 0),
        new("tight features", 0, 0, 200, 620, 0, 0, 0, 0),
        new("choices", 24, 8, 0, 70, 5, 3, 150, 0.3),
        new("tight choices", 20, 6, 0, 80, 6, 3, 60, 0.5),
        new("choices and features", 12, 6, 60, 0, 3, 3, 90, 0.3),
        new("numbers", 0, 0, 0, 0, 0, 0, 0, 0.3, 8, 16),
        new("numbers, choices and features", 6, 5, 8, 12, 2, 3, 30, 0.6, 8, 12),
    ];

    public static TheoryData<string> Names => [.. Families.Select(f => f.Name)];

    [Theory]
    [MemberData(nameof(Names))]
    public void All_find_the_same_values(string name)
    {
        Assert.True(File.Exists("/usr/bin/clasp"), "Debian's package clasp is missing; ./test installs it.");
        var (family, compared, ruledOut) = (Families.Single(f => f.Name == name), 0, 0);
        for (var seed = 1; seed <= Seeds; seed++)
        {
            var generator = new Generator(family, seed);
            var model = new BoundModel(generator.Next(), LibraryFacts.Empty);
            var limit = TimeSpan.FromSeconds(60);
            var ours = new Ours(generator, model, limit);
            // clasp has no numbers.
            IPeer[] others = [.. family.Numbers > 0
                ? [] : new IPeer[] { new Clasp(generator, limit, Consequences.Brave), new Clasp(generator, limit, Consequences.BraveAndCautious) },
                new CpSat(generator, limit)];
            var random = new Random(seed);
            var picked = new List<(int, int)>();
            foreach (var attribute in Enumerable.Range(0, generator.Planted.Length).OrderBy(_ => random.Next()).Take(5))
            {
                picked.Add((attribute, generator.Planted[attribute]));
                var mine = ours.Ask([.. picked]).Available;
                Assert.NotNull(mine);
                foreach (var other in others)
                {
                    var theirs = other.Ask([.. picked]).Available;
                    Assert.NotNull(theirs);
                    Assert.True(mine.Same(theirs), $"{name}, seed {seed}, {picked.Count} picks, {other.Name}");
                    compared++;
                }
                ruledOut += mine.Values.Sum(v => v.Count(x => !x));
            }
        }
        Assert.True(compared == Seeds * (family.Numbers > 0 ? 5 : 15) && ruledOut > compared, $"{ruledOut} values were ruled out in {compared} answers");
    }
}
