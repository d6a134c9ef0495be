using System.Diagnostics;
using System.Globalization;
using System.Text;
using Juniperfall.Bench;

namespace SideBySide;

/// <summary>
/// clasp, asked for the brave consequences of a set of clauses. Its own time is taken, without that of starting and reading,
/// which its statistics tell apart.
/// </summary>
internal sealed class Clasp : ISolver
{
    private readonly Generator _generator;
    private readonly TimeSpan _limit;
    private readonly string _program;
    private readonly int[][] _literals;

    public Clasp(Generator generator, TimeSpan limit)
    {
        (_generator, _limit) = (generator, limit);
        var (variables, clauses) = (0, new List<int[]>());
        var family = generator.Family;
        _literals = new int[generator.Planted.Length][];
        for (var a = 0; a < _literals.Length; a++)
        {
            // Only what is true counts as a consequence, so that no has a variable of its own.
            _literals[a] = [.. Enumerable.Range(0, Available.SizeOf(generator, a)).Select(_ => ++variables)];
            clauses.Add(_literals[a]);
            for (var v = 0; v < _literals[a].Length; v++)
                for (var w = 0; w < v; w++)
                    clauses.Add([-_literals[a][v], -_literals[a][w]]);
        }
        foreach (var clause in generator.Clauses)
            clauses.Add([.. clause.Select(l => _literals[l.Feature][l.Yes ? 1 : 0])]);
        foreach (var (first, among, then, of) in generator.Implications)
            foreach (var value in among)
                clauses.Add([-_literals[first][value], .. of.Select(v => _literals[then][v])]);
        var named = variables;
        foreach (var (keys, rows) in generator.Tables)
        {
            // A row that holds gives its values, and one of them holds.
            var chosen = rows.Select(_ => ++variables).ToArray();
            clauses.Add(chosen);
            for (var r = 0; r < rows.Count; r++)
                for (var c = 0; c < keys.Length; c++)
                    if (rows[r][c] >= 0)
                        clauses.Add([-chosen[r], _literals[keys[c]][rows[r][c]]]);
        }
        // In its own input format: atoms that are free, clauses as constraints, and only the values shown, so that nothing else is asked for.
        var text = new StringBuilder("asp 1 0 0\n1 1 ").Append(variables).Append(' ').AppendJoin(' ', Enumerable.Range(1, variables)).Append(" 0 0\n");
        foreach (var clause in clauses)
            text.Append("1 0 0 0 ").Append(clause.Length).Append(' ').AppendJoin(' ', clause.Select(l => -l)).Append('\n');
        for (var v = 1; v <= named; v++)
            text.Append("4 ").Append(v.ToString(CultureInfo.InvariantCulture).Length + 1).Append(" x").Append(v).Append(" 1 ").Append(v).Append('\n');
        _program = text.ToString();
    }

    public string Name => "clasp";

    public (Available? Available, double Ms) Ask((int Attribute, int Value)[] picks)
    {
        var file = Path.Combine(Path.GetTempPath(), $"side-by-side-{Environment.ProcessId}.aspif");
        File.WriteAllText(file, $"{_program}{string.Concat(picks.Select(p => $"1 0 0 0 1 {-_literals[p.Attribute][p.Value]}\n"))}0\n");
        using var process = Process.Start(new ProcessStartInfo("clasp", $"-e brave --sign-def=pos -q1 0 --time-limit={(int)_limit.TotalSeconds} {file}") { RedirectStandardOutput = true })!;
        var (answer, time, done) = ("", 0.0, false);
        while (process.StandardOutput.ReadLine() is { } line)
            if (line.StartsWith('x') && line.Length > 1 && char.IsDigit(line[1]))
                answer = line;
            else if (line.StartsWith("Time", StringComparison.Ordinal))
                // Time : 0.034s (Solving: 0.01s 1st Model: 0.00s Unsat: 0.00s); the rest is reading and starting.
                time = double.Parse(line[(line.IndexOf("Solving:", StringComparison.Ordinal) + 8)..].Trim().Split('s')[0], CultureInfo.InvariantCulture) * 1000;
            else if (line is "SATISFIABLE" or "UNSATISFIABLE")
                done = true;
        process.WaitForExit();
        if (!done || process.ExitCode is not (10 or 20 or 30))
            return (null, _limit.TotalMilliseconds);
        var found = Available.Nothing(_generator);
        var yes = answer.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(x => int.Parse(x.AsSpan(1))).ToHashSet();
        for (var a = 0; a < _literals.Length; a++)
            for (var v = 0; v < _literals[a].Length; v++)
                found.Values[a][v] = yes.Contains(_literals[a][v]);
        return (found, time);
    }
}
