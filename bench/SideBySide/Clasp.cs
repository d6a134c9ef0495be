using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Juniperfall.Bench;

namespace SideBySide;

/// <summary>In which way clasp is asked.</summary>
internal enum Consequences
{
    /// <summary>Which atoms some solution makes true. Every no is an atom of its own, so that this is the whole question.</summary>
    Brave,
    /// <summary>An atom for each yes/no attribute: which some solution makes true, and then which all do. Both times count.</summary>
    BraveAndCautious,
}

/// <summary>
/// clasp, asked for the consequences of a set of clauses. Its own time of solving is taken, without that of starting and reading,
/// which its statistics tell apart.
/// </summary>
internal sealed class Clasp : IPeer
{
    private readonly Generator _generator;
    private readonly TimeSpan _limit;
    private readonly Consequences _asked;
    private readonly string _program;
    private readonly int[][] _literals;

    public Clasp(Generator generator, TimeSpan limit, Consequences asked)
    {
        (_generator, _limit, _asked) = (generator, limit, asked);
        var (variables, clauses) = (0, new List<int[]>());
        var family = generator.Family;
        _literals = new int[generator.Planted.Length][];
        for (var a = 0; a < _literals.Length; a++)
            if (asked == Consequences.BraveAndCautious && a >= family.Choices)
            {
                variables++;
                _literals[a] = [-variables, variables];
            }
            else
            {
                // Only what is true counts as a consequence, so that no has a variable of its own.
                _literals[a] = [.. Enumerable.Range(0, family.SizeOf(a)).Select(_ => ++variables)];
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

    public string Name => _asked == Consequences.Brave ? "clasp, brave" : "clasp, both";

    public (Available? Available, double Ms) Ask((int Attribute, int Value)[] picks)
    {
        var file = Path.Combine(Path.GetTempPath(), $"side-by-side-{Environment.ProcessId}.aspif");
        File.WriteAllText(file, $"{_program}{string.Concat(picks.Select(p => $"1 0 0 0 1 {-_literals[p.Attribute][p.Value]}\n"))}0\n");
        var (some, time) = Run(file, "-e brave --sign-def=pos", _limit);
        var all = new HashSet<int>();
        if (some is not null && _asked == Consequences.BraveAndCautious)
        {
            var (also, more) = Run(file, "-e cautious --sign-def=neg", _limit - TimeSpan.FromMilliseconds(time));
            (some, all, time) = (also is null ? null : some, also, time + more);
        }
        if (some is null)
            return (null, _limit.TotalMilliseconds);
        var found = Available.Nothing(_generator);
        for (var a = 0; a < _literals.Length; a++)
            for (var v = 0; v < _literals[a].Length; v++)
                found.Values[a][v] = _literals[a][v] is var l && l > 0 ? some.Contains(l) : !all!.Contains(-l);
        return (found, time);
    }

    /// <summary>The atoms that some solution of a program makes true beside some that are asked for; null where that was not finished.</summary>
    public static (HashSet<int>? Atoms, double Ms) AskProgram(string program, IEnumerable<int> atoms, TimeSpan limit)
    {
        var file = Path.Combine(Path.GetTempPath(), $"side-by-side-{Environment.ProcessId}-{Environment.CurrentManagedThreadId}.aspif");
        try
        {
            File.WriteAllText(file, $"{program[..program.LastIndexOf('\n')]}\n{string.Concat(atoms.Select(a => $"1 0 0 0 1 {-a}\n"))}0\n");
            return Run(file, "-e brave --sign-def=pos", limit);
        }
        finally
        {
            File.Delete(file);
        }
    }

    /// <summary>The atoms that are consequences; null where that was not finished. In ms what it says that solving took.</summary>
    private static (HashSet<int>? Atoms, double Ms) Run(string file, string settings, TimeSpan limit)
    {
        using var process = Process.Start(
            new ProcessStartInfo("clasp",
            $"{settings} -q1 0 --outf=2 --time-limit={Math.Max(1, (int)limit.TotalSeconds)} {file}")
            { RedirectStandardOutput = true })!;
        using var said = JsonDocument.Parse(process.StandardOutput.ReadToEnd());
        process.WaitForExit();
        if (said.RootElement.GetProperty("Result").GetString() is not ("SATISFIABLE" or "UNSATISFIABLE") || process.ExitCode is not (10 or 20 or 30))
            return (null, 0);
        var time = said.RootElement.GetProperty("Time").GetProperty("Solve").GetDouble() * 1000;
        if (!said.RootElement.GetProperty("Call")[0].TryGetProperty("Witnesses", out var witnesses))
            return ([], time);
        var last = witnesses[witnesses.GetArrayLength() - 1].GetProperty("Value");
        return ([.. last.EnumerateArray().Select(atom => int.Parse(atom.GetString().AsSpan(1), CultureInfo.InvariantCulture))], time);
    }
}
