using System.Diagnostics;
using System.Globalization;
using System.Text;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Bench;

/// <summary>How the time of an answer grows with the size of a model, the rows of its grids and the number of picks; as a picture.</summary>
internal static class Growth
{
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(5);

    private sealed record Line(string Title, string Unit, IReadOnlyList<(double X, double Ms)> Points);

    public static void Run(string file)
    {
        int[] sizes = [250, 500, 1000, 2000, 4000], choices = [40, 80, 160, 320], rows = [500, 2000, 8000, 32000], picks = [1, 2, 4, 8, 16];
        foreach (var family in new[] { Generator.Families[0], Generator.Families[2] })
            Generated.WarmUp(new(family, 2));
        List<Line> lines =
        [
            new("yes/no features, 3 rules each", "features", [.. sizes.Select(n => ((double)n, Median(new("", 0, 0, n, 3 * n, 0, 0, 0, 0), 4)))]),
            new("choices of 14 values, 5 rules each", "choices", [.. choices.Select(n => ((double)n, Median(new("", n, 14, 0, 5 * n, 0, 0, 0, 0.2), 4)))]),
            new("rows of 6 grids over 60 choices", "rows of each", [.. rows.Select(n => ((double)n, Median(new("", 60, 14, 0, 240, 6, 4, n, 0.2), 4)))]),
            new("picks on 120 choices with 600 rules", "picks", [.. picks.Select(n => ((double)n, Median(new("", 120, 14, 0, 600, 4, 3, 1000, 0.2), n)))]),
        ];
        foreach (var line in lines)
            Console.WriteLine($"{line.Title}: {string.Join(", ", line.Points.Select(p => $"{p.X:0} {line.Unit} {p.Ms:0.0} ms"))}");
        File.WriteAllText(file, Drawn(lines));
    }

    /// <summary>The median time of an answer to so many picks along the planted solution, over fifteen sessions.</summary>
    private static double Median(Family family, int picks)
    {
        var generator = new Generator(family, 3);
        var reasoner = new Reasoner(new BoundModel(generator.Next(), LibraryFacts.Empty));
        var random = new Random(5);
        var times = new List<double>();
        for (var session = 0; session < 15; session++)
        {
            var chosen = Enumerable.Range(0, generator.Planted.Length).OrderBy(_ => random.Next()).Take(picks)
                .Select(a => new Pick(a < family.Choices ? $"c{a}" : $"f{a - family.Choices}",
                    a < family.Choices ? Value.Choice($"v{generator.Planted[a]}") : Value.Of(generator.Planted[a] == 1))).ToList();
            using var limit = new CancellationTokenSource(Limit);
            // The picks before are asked first, as they are at an order desk.
            reasoner.Answer(new([.. chosen.SkipLast(1)]), limit.Token);
            var clock = Stopwatch.StartNew();
            reasoner.Answer(new([.. chosen]), limit.Token);
            times.Add(clock.Elapsed.TotalMilliseconds);
        }
        return times.Order().ElementAt(times.Count / 2);
    }

    private const int Width = 360, Height = 220, Margin = 62;

    private static string Drawn(IReadOnlyList<Line> lines)
    {
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture,
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{2 * Width}\" height=\"{2 * Height}\" font-family=\"sans-serif\" font-size=\"11\" "
                + $"fill=\"#23292f\"><rect width=\"100%\" height=\"100%\" fill=\"#fcfdfe\"/>\n");
        for (var i = 0; i < lines.Count; i++)
            Panel(svg, lines[i], i % 2 * Width, i / 2 * Height);
        return svg.Append("</svg>\n").ToString();
    }

    /// <summary>One line over logarithmic axes, each with its own range.</summary>
    private static void Panel(StringBuilder svg, Line line, int left, int top)
    {
        var (low, high) = (Math.Floor(Math.Log10(line.Points.Min(p => p.Ms))), Math.Ceiling(Math.Log10(line.Points.Max(p => p.Ms))));
        high = Math.Max(high, low + 1);
        double X(double x) => left + Margin + (Math.Log(x / line.Points[0].X) / Math.Log(line.Points[^1].X / line.Points[0].X)) * (Width - 2 * Margin);
        double Y(double ms) => top + Height - Margin - (Math.Log10(ms) - low) / (high - low) * (Height - 2 * Margin);
        svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{left + Margin}\" y=\"{top + 22}\" font-weight=\"600\">{line.Title}</text>\n");
        for (var power = low; power <= high; power++)
            svg.Append(CultureInfo.InvariantCulture,
                $"<path d=\"M{left + Margin} {Y(Math.Pow(10, power)):0.0}h{Width - 2 * Margin}\" stroke=\"#d5dbe1\"/><text x=\"{left + Margin - 6}\" "
                    + $"y=\"{Y(Math.Pow(10, power)) + 4:0.0}\" text-anchor=\"end\">{Math.Pow(10, power):0.###} ms</text>\n");
        svg.Append(CultureInfo.InvariantCulture,
            $"<path d=\"M{string.Join("L", line.Points.Select(p => string.Create(CultureInfo.InvariantCulture, $"{X(p.X):0.0} {Y(p.Ms):0.0}")))}\" "
                + $"fill=\"none\" stroke=\"#3a4796\" stroke-width=\"1.6\"/>\n");
        foreach (var (x, ms) in line.Points)
            svg.Append(CultureInfo.InvariantCulture,
                $"<circle cx=\"{X(x):0.0}\" cy=\"{Y(ms):0.0}\" r=\"3\" fill=\"#3a4796\"/><text x=\"{X(x):0.0}\" y=\"{top + Height - Margin + 16}\" "
                    + $"text-anchor=\"middle\">{x:0}</text>\n");
        svg.Append(CultureInfo.InvariantCulture,
            $"<text x=\"{left + Width - Margin}\" y=\"{top + Height - Margin + 32}\" text-anchor=\"end\" font-style=\"italic\">{line.Unit}</text>\n");
    }
}
