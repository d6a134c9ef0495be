using System.Diagnostics;
using Google.OrTools.Sat;
using Juniperfall.Bench;

namespace SideBySide;

/// <summary>
/// CP-SAT, in process, one worker: each solution marks its values, only the rest is asked for, with hints towards what has
/// not been seen.
/// </summary>
internal sealed class CpSat : IPeer
{
    private readonly Generator _generator;
    private readonly CpModel _model = new();
    private readonly ILiteral[][] _literals;
    private readonly TimeSpan _limit;

    public CpSat(Generator generator, TimeSpan limit)
    {
        (_generator, _limit) = (generator, limit);
        var family = generator.Family;
        _literals = new ILiteral[generator.Planted.Length][];
        var choices = new IntVar[_literals.Length];
        for (var a = 0; a < _literals.Length; a++)
            if (a < family.Choices || a >= family.FirstNumber)
            {
                var values = Enumerable.Range(0, family.SizeOf(a)).Select(v => _model.NewBoolVar($"{family.IdOf(a)}.{v}")).ToArray();
                choices[a] = _model.NewIntVar(0, values.Length - 1, family.IdOf(a));
                _model.AddExactlyOne(values);
                for (var v = 0; v < values.Length; v++)
                {
                    _model.Add(choices[a] == v).OnlyEnforceIf(values[v]);
                    _model.Add(choices[a] != v).OnlyEnforceIf(values[v].Not());
                }
                _literals[a] = [.. values];
            }
            else
            {
                var yes = _model.NewBoolVar($"f{a}");
                _literals[a] = [yes.Not(), yes];
            }
        foreach (var clause in generator.Clauses)
            _model.AddBoolOr(clause.Select(l => _literals[l.Feature][l.Yes ? 1 : 0]));
        foreach (var (first, among, then, of) in generator.Implications)
            foreach (var value in among)
                _model.AddBoolOr(of.Select(v => _literals[then][v]).Append(_literals[first][value].Not()));
        foreach (var (keys, rows) in generator.Tables)
        {
            var table = _model.AddAllowedAssignments(keys.Select(k => choices[k]));
            foreach (var row in rows.SelectMany(r => WrittenOut(r, 0)))
                table.AddTuple(row);
        }
        foreach (var rule in generator.Arithmetics)
            Add(rule, choices[rule.A], choices[rule.B], choices[rule.C]);
    }

    private void Add(Arithmetic rule, IntVar a, IntVar b, IntVar c)
    {
        var highest = _generator.Family.Highest;
        switch (rule.Kind)
        {
            case ArithmeticKind.Sum:
                _model.Add(a + b <= c + rule.K);
                break;
            case ArithmeticKind.Product:
                var product = _model.NewIntVar(0, highest * highest, "");
                _model.AddMultiplicationEquality(product, a, b);
                _model.Add(product <= rule.K);
                break;
            case ArithmeticKind.Rounded:
                var fifths = _model.NewIntVar(0, highest, "");
                _model.AddDivisionEquality(fifths, a + 4, 5);
                _model.Add(fifths * 5 + b >= rule.K);
                break;
            case ArithmeticKind.Difference:
                _model.AddLinearConstraint(a * 2 - b, rule.K, rule.L);
                break;
            case ArithmeticKind.WhereChosen:
                _model.Add(a <= rule.K).OnlyEnforceIf(_literals[rule.C][rule.L]);
                break;
        }
    }

    public string Name => "CP-SAT";

    /// <summary>A row with each of its wildcards as every value.</summary>
    private IEnumerable<int[]> WrittenOut(int[] row, int from)
    {
        var at = Array.IndexOf(row, -1, from);
        return at < 0 ? [row] : Enumerable.Range(0, _generator.Family.Values).SelectMany(v => WrittenOut([.. row[..at], v, .. row[(at + 1)..]], at + 1));
    }

    public (Available? Available, double Ms) Ask((int Attribute, int Value)[] picks)
    {
        var found = Available.Nothing(_generator);
        var clock = Stopwatch.StartNew();
        var own = _model.Model.Constraints.Count;
        foreach (var (attribute, value) in picks)
            _model.AddBoolAnd([_literals[attribute][value]]);
        var answer = (Available: Rest(found, clock), clock.Elapsed.TotalMilliseconds);
        // What was added for this question goes again.
        while (_model.Model.Constraints.Count > own)
            _model.Model.Constraints.RemoveAt(_model.Model.Constraints.Count - 1);
        return answer;
    }

    private Available? Rest(Available found, Stopwatch clock)
    {
        var asked = _model.Model.Constraints.Count;
        while (true)
        {
            var left = _limit - clock.Elapsed;
            if (left <= TimeSpan.Zero)
                return null;
            var solver = new CpSolver { StringParameters = $"num_workers:1 max_time_in_seconds:{left.TotalSeconds:0.000}" };
            while (_model.Model.Constraints.Count > asked)
                _model.Model.Constraints.RemoveAt(_model.Model.Constraints.Count - 1);
            _model.ClearHints();
            var unseen = new List<ILiteral>();
            for (var a = 0; a < _literals.Length; a++)
                for (var v = 0; v < _literals[a].Length; v++)
                    if (!found.Values[a][v])
                        unseen.Add(_literals[a][v]);
            if (unseen.Count == 0)
                return found;
            _model.AddBoolOr(unseen);
            for (var a = 0; a < _literals.Length; a++)
                if (_literals[a].Length > 2)
                    for (var v = 0; v < _literals[a].Length; v++)
                        _model.AddHint((BoolVar)_literals[a][v], found.Values[a][v] ? 0 : 1);
                else
                    _model.AddHint((BoolVar)_literals[a][1], found.Values[a][1] ? 0 : 1);
            var status = solver.Solve(_model);
            if (status == CpSolverStatus.Infeasible)
                return found;
            if (status is not (CpSolverStatus.Optimal or CpSolverStatus.Feasible))
                return null;
            for (var a = 0; a < _literals.Length; a++)
                for (var v = 0; v < _literals[a].Length; v++)
                    found.Values[a][v] |= solver.BooleanValue(_literals[a][v]);
        }
    }
}
