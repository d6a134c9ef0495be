using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// The propagators: for each operator, what the children allow the node and what the node allows the children. Each is
/// exact on points and never removes what a solution has. Strict operators have no value where a child has none.
/// </summary>
internal sealed partial class Solver
{
    private bool Revise(int n)
    {
        var node = _network.Nodes[n];
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Variable or Operator.Constant:
                return true;
            case Operator.Presence:
                return node.Group >= 0 && !_active[node.Group] || RevisePresence(c[0], c[1]);
            case Operator.And:
                return ReviseLogic(n, c[0], c[1], Kleene.And);
            case Operator.Or:
                return ReviseLogic(n, c[0], c[1], Kleene.Or);
            case Operator.Not:
                return ReviseUnaryLogic(n, c[0], Kleene.Not);
            case Operator.Holds:
                return ReviseUnaryLogic(n, c[0], static x => x == Outcomes.Absent ? Outcomes.False : x);
            case Operator.IsNone:
                return ReviseIsNone(n, c[0]);
            case Operator.If:
                return ReviseIf(n, c[0], c[1], c[2], hasElse: true);
            case Operator.Where:
                return ReviseIf(n, c[0], c[1], -1, hasElse: false);
            case Operator.Else:
                return ReviseElse(n, c[0], c[1]);
            case Operator.ToNumber:
                return ReviseToNumber(n, c[0]);
            case Operator.Counting:
                return ReviseCounting(n, node);
            case Operator.LeastOf or Operator.GreatestOf:
                return ReviseExtremeOf(n, c, node.Operator == Operator.LeastOf);
            case Operator.Property:
                return ReviseProperty(n, c[0], node.PropertyValues!);
            case Operator.Table:
                return ReviseTable(n, c, node.Grid!);
            case Operator.Figure:
                return ReviseFigure(n, c, node);
            case Operator.Less or Operator.LessOrEqual or Operator.Equal or Operator.NotEqual:
                return Strict(n, c, Outcomes.True | Outcomes.False) && (!AllMayHaveValue(c) || ReviseComparison(n, node.Operator, c[0], c[1]));
            case Operator.SameChoice or Operator.OtherChoice:
                return Strict(n, c, Outcomes.True | Outcomes.False) && (!AllMayHaveValue(c) || ReviseChoices(n, node.Operator == Operator.SameChoice, c[0], c[1]));
            case Operator.SameYesNo or Operator.OtherYesNo:
                return ReviseLogic(n, c[0], c[1], node.Operator == Operator.SameYesNo ? Kleene.Same : Kleene.Other);
            default:
                var ownError = node.Operator is Operator.Divide or Operator.SquareRoot or Operator.Power || IsRounding(node.Operator) ? Outcomes.Error : 0;
                return Strict(n, c, Outcomes.Present | ownError) && (!AllMayHaveValue(c) || ReviseArithmetic(n, node));
        }
    }

    private static bool IsRounding(Operator op) => op is Operator.Ceiling or Operator.Floor or Operator.Round;

    private bool AllMayHaveValue(int[] children)
    {
        foreach (var child in children)
            if (!_domains[child].MayHaveValue)
                return false;
        return true;
    }

    private bool RevisePresence(int condition, int variable)
    {
        var truth = _domains[condition].Outcomes;
        if ((truth & Outcomes.True) == 0 && !SetOutcomes(variable, Outcomes.Absent))
            return false;
        if ((truth & (Outcomes.False | Outcomes.Absent)) == 0 && !SetOutcomes(variable, ~Outcomes.Absent))
            return false;
        var outcomes = _domains[variable].Outcomes;
        if ((outcomes & Outcomes.Absent) == 0 && !SetOutcomes(condition, Outcomes.True))
            return false;
        return outcomes != Outcomes.Absent || SetOutcomes(condition, ~Outcomes.True);
    }

    /// <summary>Outcomes of a strict operator: an error dominates, then no value; otherwise the operator computes.</summary>
    private bool Strict(int n, int[] children, Outcomes computed)
    {
        var may = Outcomes.Impossible;
        var all = true;
        foreach (var child in children)
        {
            var outcomes = _domains[child].Outcomes;
            if ((outcomes & (Outcomes.Absent | Outcomes.None)) != 0)
                may |= Outcomes.Absent;
            may |= outcomes & Outcomes.Error;
            all &= (outcomes & Outcomes.Value) != 0;
        }
        var childMayFail = (may & Outcomes.Error) != 0;
        if (all)
            may |= computed;
        if (!SetOutcomes(n, may))
            return false;
        var left = _domains[n].Outcomes;
        foreach (var child in children)
        {
            if ((left & Outcomes.Error) == 0 && !SetOutcomes(child, ~Outcomes.Error))
                return false;
            if ((left & Outcomes.Absent) == 0 && (!childMayFail || (left & Outcomes.Error) == 0) && !SetOutcomes(child, Outcomes.Value))
                return false;
        }
        if (left == Outcomes.Absent && Only(children, d => !d.MustHaveValue) is { } child1)
            return SetOutcomes(child1, ~Outcomes.Value);
        return true;
    }

    /// <summary>The one child that the test holds for; null where there is none or more than one.</summary>
    private int? Only(int[] children, Func<Domain, bool> test)
    {
        int? found = null;
        foreach (var child in children)
            if (test(_domains[child]))
            {
                if (found is not null)
                    return null;
                found = child;
            }
        return found;
    }

    /// <summary>Whether the node's value binds this child: only where every other child certainly has a value.</summary>
    private bool Binds(int[] children, int child)
    {
        foreach (var other in children)
            if (other != child && !_domains[other].MustHaveValue)
                return false;
        return true;
    }

    // ---- Logic --------------------------------------------------------------------------------------------------

    private static readonly Outcomes[] LogicOutcomes = [Outcomes.Absent, Outcomes.None, Outcomes.Error, Outcomes.False, Outcomes.True];

    private static Outcomes Plain(Outcomes outcome) => outcome == Outcomes.None ? Outcomes.Absent : outcome;

    private bool ReviseLogic(int n, int a, int b, Func<Outcomes, Outcomes, Outcomes> table)
    {
        var (of, left, right) = (_domains[n].Outcomes, _domains[a].Outcomes, _domains[b].Outcomes);
        Outcomes keepNode = 0, keepLeft = 0, keepRight = 0;
        foreach (var x in LogicOutcomes)
        {
            if ((left & x) == 0)
                continue;
            foreach (var y in LogicOutcomes)
            {
                if ((right & y) == 0)
                    continue;
                var result = table(Plain(x), Plain(y));
                if ((of & result) == 0)
                    continue;
                keepNode |= result;
                keepLeft |= x;
                keepRight |= y;
            }
        }
        return SetOutcomes(n, keepNode) && SetOutcomes(a, keepLeft) && SetOutcomes(b, keepRight);
    }

    private bool ReviseUnaryLogic(int n, int a, Func<Outcomes, Outcomes> table)
    {
        Outcomes keepNode = 0, keepChild = 0;
        foreach (var x in LogicOutcomes)
        {
            if ((_domains[a].Outcomes & x) == 0)
                continue;
            var result = table(Plain(x));
            if ((_domains[n].Outcomes & result) == 0)
                continue;
            keepNode |= result;
            keepChild |= x;
        }
        return SetOutcomes(n, keepNode) && SetOutcomes(a, keepChild);
    }

    private bool ReviseIsNone(int n, int a)
    {
        Outcomes keepNode = 0, keepChild = 0;
        foreach (var x in new[] { Outcomes.Absent, Outcomes.None, Outcomes.Error, Outcomes.False, Outcomes.True, Outcomes.Present })
        {
            var result = x switch { Outcomes.Absent or Outcomes.Error => x, Outcomes.None => Outcomes.True, _ => Outcomes.False };
            if ((_domains[a].Outcomes & x) == 0 || (_domains[n].Outcomes & result) == 0)
                continue;
            keepNode |= result;
            keepChild |= x;
        }
        return SetOutcomes(n, keepNode) && SetOutcomes(a, keepChild);
    }

    private bool ReviseCounting(int n, Node node)
    {
        var (sureTrue, mayTrue, sureNotFalse, mayNotFalse, mayNothing, mustNothing) = (0, 0, 0, 0, false, false);
        Outcomes errors = 0;
        foreach (var child in node.Children)
        {
            var outcomes = _domains[child].Outcomes;
            var nothing = outcomes & (Outcomes.Absent | Outcomes.None);
            if (outcomes == Outcomes.True) sureTrue++;
            if ((outcomes & Outcomes.True) != 0) mayTrue++;
            if ((outcomes & Outcomes.False) == 0) sureNotFalse++;
            if ((outcomes & ~Outcomes.False & ~Outcomes.Error) != 0) mayNotFalse++;
            mayNothing |= nothing != 0;
            mustNothing |= nothing != 0 && nothing == outcomes;
            errors |= outcomes & Outcomes.Error;
        }
        var k = node.Count;
        var (isTrue, isFalse, isNothing) = node.CountingKind switch
        {
            CountingKind.Exactly => (sureTrue <= k && k <= mayTrue && !mustNothing, mayTrue > k || sureNotFalse < k, mayNothing && sureTrue <= k && k <= mayNotFalse),
            CountingKind.AtMost => (sureNotFalse <= k, mayTrue > k, mayNothing && sureTrue <= k && k < mayNotFalse),
            _ => (mayTrue >= k, sureNotFalse < k, mayNothing && sureTrue < k && k <= mayNotFalse),
        };
        var may = errors | (isTrue ? Outcomes.True : 0) | (isFalse ? Outcomes.False : 0) | (isNothing ? Outcomes.Absent : 0);
        if (!SetOutcomes(n, may))
            return false;
        if ((_domains[n].Outcomes & ~Outcomes.Absent) != Outcomes.True || mayNothing || errors != 0)
            return true;
        foreach (var child in node.Children)
        {
            if (_domains[child].Outcomes == Outcomes.True)
                continue;
            if (node.CountingKind != CountingKind.AtLeast && sureTrue == k && !SetOutcomes(child, ~Outcomes.True))
                return false;
            if (node.CountingKind != CountingKind.AtMost && mayTrue == k && (_domains[child].Outcomes & Outcomes.True) != 0 && !SetOutcomes(child, Outcomes.True))
                return false;
        }
        return true;
    }

    // ---- Choosing between values --------------------------------------------------------------------------------

    private static bool Overlap(in Domain a, in Domain b)
    {
        static Outcomes Fold(Outcomes o) => (o & Outcomes.None) != 0 ? o & ~Outcomes.None | Outcomes.Absent : o;
        var common = Fold(a.Outcomes) & Fold(b.Outcomes);
        if ((common & ~Outcomes.Present) != 0)
            return true;
        return (common & Outcomes.Present) != 0 && (a.Kind == DomainKind.Choice ? BitSet.Intersects(a.Bits!, b.Bits!) : !(a.Low > b.High) && !(b.Low > a.High));
    }

    /// <summary>Makes the node and the child that it stands for agree. None of the child is no value of the node.</summary>
    private bool Agree(int n, int child)
    {
        var outcomes = _domains[child].Outcomes;
        var asNode = (outcomes & Outcomes.None) != 0 ? outcomes & ~Outcomes.None | Outcomes.Absent : outcomes;
        var back = (_domains[n].Outcomes & Outcomes.Absent) != 0 ? _domains[n].Outcomes | Outcomes.None : _domains[n].Outcomes;
        return SetOutcomes(n, asNode) && SetOutcomes(child, back) && SameValues(n, child) && SameValues(child, n);
    }

    private bool SameValues(int to, int from)
    {
        var domain = _domains[from];
        if ((domain.Outcomes & Outcomes.Present) == 0)
            return true;
        return domain.Kind == DomainKind.Choice ? SetBits(to, domain.Bits!) : SetBounds(to, domain.Low, domain.High);
    }

    private bool ReviseIf(int n, int condition, int then, int otherwise, bool hasElse)
    {
        var truth = _domains[condition].Outcomes;
        var mayThen = (truth & Outcomes.True) != 0 && Overlap(_domains[n], _domains[then]);
        var mayElse = (truth & Outcomes.False) != 0 && (hasElse ? Overlap(_domains[n], _domains[otherwise]) : (_domains[n].Outcomes & Outcomes.Absent) != 0);
        var mayNothing = (truth & (Outcomes.Absent | Outcomes.None)) != 0 && (_domains[n].Outcomes & Outcomes.Absent) != 0;
        var mayFail = (truth & Outcomes.Error) != 0 && (_domains[n].Outcomes & Outcomes.Error) != 0;
        if (!SetOutcomes(condition, (mayThen ? Outcomes.True : 0) | (mayElse ? Outcomes.False : 0) | (mayNothing ? Outcomes.Absent | Outcomes.None : 0) | (mayFail ? Outcomes.Error : 0)))
            return false;
        if (mayThen && !mayElse && !mayNothing && !mayFail)
            return Agree(n, then);
        if (mayElse && hasElse && !mayThen && !mayNothing && !mayFail)
            return Agree(n, otherwise);
        var hull = new Domain { Kind = _domains[n].Kind };
        if (mayThen)
            Join(ref hull, _domains[then]);
        if (mayElse && hasElse)
            Join(ref hull, _domains[otherwise]);
        if (mayNothing || (mayElse && !hasElse))
            hull.Outcomes |= Outcomes.Absent;
        if (mayFail)
            hull.Outcomes |= Outcomes.Error;
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull);
    }

    private bool NarrowTo(int n, in Domain hull) =>
        (hull.Outcomes & Outcomes.Present) == 0 || (hull.Kind == DomainKind.Choice ? SetBits(n, hull.Bits!) : SetBounds(n, hull.Low, hull.High));

    private static void Join(ref Domain hull, in Domain other)
    {
        if ((other.Outcomes & Outcomes.Present) != 0)
        {
            var first = (hull.Outcomes & Outcomes.Present) == 0;
            if (other.Kind == DomainKind.Choice)
                hull.Bits = first ? other.Bits : BitSet.Union(hull.Bits!, other.Bits!);
            else
                (hull.Low, hull.High) = first ? (other.Low, other.High)
                    : (hull.Low is null || other.Low is null ? null : Exact.Min(hull.Low.Value, other.Low.Value),
                       hull.High is null || other.High is null ? null : Exact.Max(hull.High.Value, other.High.Value));
        }
        hull.Outcomes |= (other.Outcomes & Outcomes.None) != 0 ? other.Outcomes & ~Outcomes.None | Outcomes.Absent : other.Outcomes;
    }

    private bool ReviseElse(int n, int value, int fallback)
    {
        var outcomes = _domains[value].Outcomes;
        var mayFall = (outcomes & (Outcomes.Absent | Outcomes.None)) != 0;
        if (mayFall && !Overlap(_domains[n], _domains[fallback]))
        {
            if (!SetOutcomes(value, ~(Outcomes.Absent | Outcomes.None)))
                return false;
            mayFall = false;
        }
        if (!mayFall)
            return Agree(n, value);
        var hull = _domains[value];
        hull.Outcomes &= ~(Outcomes.Absent | Outcomes.None);
        Join(ref hull, _domains[fallback]);
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull);
    }

    private bool ReviseToNumber(int n, int child)
    {
        if (!Strict(n, [child], Outcomes.Present))
            return false;
        var truth = _domains[child].Outcomes;
        if ((truth & Outcomes.Value) == 0)
            return true;
        if (!SetBounds(n, (truth & Outcomes.False) != 0 ? 0 : 1, (truth & Outcomes.True) != 0 ? 1 : 0))
            return false;
        if ((_domains[n].Outcomes & Outcomes.Present) == 0)
            return true;
        return (!(_domains[n].Low > Exact.Zero) || SetOutcomes(child, ~Outcomes.False)) && (!(_domains[n].High < Exact.One) || SetOutcomes(child, ~Outcomes.True));
    }

    private bool ReviseExtremeOf(int n, int[] children, bool least)
    {
        var allMayBeNothing = true;
        Outcomes errors = 0;
        Domain hull = new() { Kind = DomainKind.Number };
        Exact? cut = null;
        foreach (var child in children)
        {
            ref readonly var domain = ref _domains[child];
            errors |= domain.Outcomes & Outcomes.Error;
            allMayBeNothing &= !domain.MustHaveValue;
            if ((domain.Outcomes & Outcomes.Present) != 0)
                Join(ref hull, Domain.Number(domain.Low, domain.High));
            // One that is surely there limits the outcome from the other side.
            if (domain.MustHaveValue && (least ? domain.High : domain.Low) is { } end)
                cut = cut is null ? end : least ? Exact.Min(cut.Value, end) : Exact.Max(cut.Value, end);
        }
        hull.Outcomes = hull.Outcomes & Outcomes.Present | errors | (allMayBeNothing ? Outcomes.Absent : 0);
        if (!SetOutcomes(n, hull.Outcomes) || !NarrowTo(n, hull))
            return false;
        return cut is null || (least ? SetBounds(n, null, cut) : SetBounds(n, cut, null));
    }

    // ---- Choices and grids --------------------------------------------------------------------------------------

    private bool ReviseChoices(int n, bool same, int a, int b)
    {
        int[] children = [a, b];
        var (left, right) = (_domains[a].Bits!, _domains[b].Bits!);
        var may = Outcomes.NoValue;
        if (BitSet.Intersects(left, right))
            may |= same ? Outcomes.True : Outcomes.False;
        if (BitSet.Count(left) > 1 || BitSet.Count(right) > 1 || BitSet.First(left) != BitSet.First(right))
            may |= same ? Outcomes.False : Outcomes.True;
        if (!SetOutcomes(n, may))
            return false;
        var truth = _domains[n].Outcomes & Outcomes.Value;
        if (truth == (same ? Outcomes.True : Outcomes.False))
            return (!Binds(children, a) || SetBits(a, right)) && (!Binds(children, b) || SetBits(b, left));
        if (truth == (same ? Outcomes.False : Outcomes.True))
            return Exclude(a, b) && Exclude(b, a);
        return true;

        bool Exclude(int from, int single)
        {
            var bits = _domains[single].Bits!;
            if (!Binds(children, from) || BitSet.Count(bits) != 1)
                return true;
            return SetBits(from, [.. bits.Select(word => ~word)]);
        }
    }

    private bool ReviseProperty(int n, int choice, Value[] values)
    {
        var domain = _domains[choice];
        var of = _domains[n];
        var hull = new Domain { Kind = of.Kind, Outcomes = domain.Outcomes & Outcomes.Error };
        if ((domain.Outcomes & (Outcomes.Absent | Outcomes.None)) != 0)
            hull.Outcomes |= Outcomes.Absent;
        if ((domain.Outcomes & Outcomes.Present) != 0)
        {
            var keep = new ulong[domain.Bits!.Length];
            var mustHave = _domains[n].Outcomes;
            for (var i = 0; i < values.Length; i++)
            {
                if (!BitSet.Has(domain.Bits, i))
                    continue;
                var one = values[i].Kind switch
                {
                    ValueKind.Number => Domain.Number(values[i].Number, values[i].Number),
                    ValueKind.YesNo => Domain.YesNo(values[i].IsTrue ? Outcomes.True : Outcomes.False),
                    _ => new Domain { Kind = of.Kind, Outcomes = Outcomes.Absent },
                };
                if (!Overlap(one, of))
                    continue;
                BitSet.Set(keep, i);
                Join(ref hull, one);
            }
            if (!SetBits(choice, keep))
                return false;
        }
        if (!SetOutcomes(n, hull.Outcomes) || !NarrowTo(n, hull))
            return false;
        var left = _domains[n].Outcomes;
        return (left & Outcomes.Absent) != 0 || SetOutcomes(choice, ~(Outcomes.Absent | Outcomes.None));
    }

    private bool ReviseTable(int n, int[] columns, CompiledGrid grid)
    {
        if (!Strict(n, columns, Outcomes.True | Outcomes.False) || !AllMayHaveValue(columns))
            return _domains[n].Outcomes != Outcomes.Impossible;
        var onlyTrue = (_domains[n].Outcomes & Outcomes.False) == 0;
        var (some, certain) = (false, false);
        var hulls = onlyTrue ? new Domain[columns.Length] : null;
        foreach (var row in grid.Rows)
        {
            var (may, must) = (true, true);
            for (var c = 0; c < columns.Length && may; c++)
            {
                may = row[c].MayMatch(_domains[columns[c]]);
                must = must && may && row[c].MustMatch(_domains[columns[c]]);
            }
            if (!may)
                continue;
            some = true;
            certain |= must;
            if (hulls is not null)
                for (var c = 0; c < columns.Length; c++)
                    JoinCell(ref hulls[c], row[c], _domains[columns[c]]);
        }
        if (!SetOutcomes(n, Outcomes.NoValue | (some ? Outcomes.True : 0) | (certain ? 0 : Outcomes.False)))
            return false;
        if (hulls is null || !some)
            return true;
        for (var c = 0; c < columns.Length; c++)
        {
            if (!Binds(columns, columns[c]))
                continue;
            if (_domains[columns[c]].Kind == DomainKind.YesNo ? !SetOutcomes(columns[c], hulls[c].Outcomes | Outcomes.NoValue) : !NarrowTo(columns[c], hulls[c]))
                return false;
        }
        return true;
    }

    private static void JoinCell(ref Domain hull, CompiledCell cell, in Domain column)
    {
        hull.Kind = column.Kind;
        if (cell.Cell.Any)
            Join(ref hull, column);
        else if (column.Kind == DomainKind.Choice)
            Join(ref hull, Domain.Choice(cell.Bits!));
        else if (column.Kind == DomainKind.YesNo)
            hull.Outcomes |= cell.YesNo;
        else
        {
            foreach (var value in cell.Cell.Values)
                if (!(value.Number < column.Low) && !(value.Number > column.High))
                    Join(ref hull, Domain.Number(value.Number, value.Number));
            foreach (var (low, high) in cell.Cell.Ranges)
                if (!(high < column.Low) && !(low > column.High))
                    Join(ref hull, Domain.Number(low, high));
        }
    }

    private bool ReviseFigure(int n, int[] keys, Node node)
    {
        var hull = new Domain { Kind = DomainKind.Number };
        var mayNothing = false;
        foreach (var key in keys)
        {
            hull.Outcomes |= _domains[key].Outcomes & Outcomes.Error;
            mayNothing |= (_domains[key].Outcomes & (Outcomes.Absent | Outcomes.None)) != 0;
        }
        var decided = false;
        if (AllMayHaveValue(keys))
            for (var r = 0; r < node.Grid!.Rows.Length && !decided; r++)
            {
                var row = node.Grid.Rows[r];
                var (may, must) = (true, true);
                for (var c = 0; c < keys.Length && may; c++)
                {
                    may = row[c].MayMatch(_domains[keys[c]]);
                    must = must && may && row[c].MustMatch(_domains[keys[c]]);
                }
                if (!may)
                    continue;
                if (node.Figures[r].IsNothing)
                    mayNothing = true;
                else
                    Join(ref hull, Domain.Number(node.Figures[r].Number, node.Figures[r].Number));
                decided = must;
            }
        if (mayNothing || !decided)
            hull.Outcomes |= Outcomes.Absent;
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull);
    }

    // ---- Comparisons --------------------------------------------------------------------------------------------

    private bool ReviseComparison(int n, Operator op, int a, int b)
    {
        ref readonly var left = ref _domains[a];
        ref readonly var right = ref _domains[b];
        bool mayHold, mayFail;
        switch (op)
        {
            case Operator.Less:
                mayHold = !(left.Low >= right.High);
                mayFail = !(left.High < right.Low);
                break;
            case Operator.LessOrEqual:
                mayHold = !(left.Low > right.High);
                mayFail = !(left.High <= right.Low);
                break;
            default:
                mayHold = !(left.Low > right.High) && !(right.Low > left.High);
                mayFail = !(left.Low is { } l && left.High == l && right.Low == l && right.High == l);
                if (op == Operator.NotEqual)
                    (mayHold, mayFail) = (mayFail, mayHold);
                break;
        }
        if (a == b)
            (mayHold, mayFail) = op is Operator.LessOrEqual or Operator.Equal ? (true, false) : (false, true);
        if (!SetOutcomes(n, Outcomes.NoValue | (mayHold ? Outcomes.True : 0) | (mayFail ? Outcomes.False : 0)))
            return false;
        var truth = _domains[n].Outcomes & Outcomes.Value;
        if (truth is not (Outcomes.True or Outcomes.False) || a == b)
            return true;
        int[] children = [a, b];
        var holds = truth == Outcomes.True;
        var (bindsA, bindsB) = (Binds(children, a), Binds(children, b));
        switch (op)
        {
            case Operator.Less or Operator.LessOrEqual when holds:
                var strict = op == Operator.Less;
                return (!bindsA || SetBounds(a, null, _domains[b].High, strictHigh: strict)) && (!bindsB || SetBounds(b, _domains[a].Low, null, strictLow: strict));
            case Operator.Less or Operator.LessOrEqual:
                strict = op == Operator.LessOrEqual;
                return (!bindsA || SetBounds(a, _domains[b].Low, null, strictLow: strict)) && (!bindsB || SetBounds(b, null, _domains[a].High, strictHigh: strict));
            default:
                if (holds == (op == Operator.Equal))
                    return (!bindsA || SetBounds(a, _domains[b].Low, _domains[b].High)) && (!bindsB || SetBounds(b, _domains[a].Low, _domains[a].High));
                return (!bindsA || Shave(a, b)) && (!bindsB || Shave(b, a));
        }

        bool Shave(int from, int point)
        {
            if (_domains[point] is not { Low: { } value } fixedTo || fixedTo.High != value || _network.Nodes[from].Variable is null)
                return true;
            return (_domains[from].Low != value || SetBounds(from, value, null, strictLow: true)) && (_domains[from].High != value || SetBounds(from, null, value, strictHigh: true));
        }
    }

    // ---- Arithmetic ---------------------------------------------------------------------------------------------

    private bool ReviseArithmetic(int n, Node node)
    {
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Add:
                return Forward(n, Interval.Add(_domains[c[0]], _domains[c[1]]))
                    && Backward(n, c, c[0], () => Interval.Subtract(_domains[n], _domains[c[1]]))
                    && Backward(n, c, c[1], () => Interval.Subtract(_domains[n], _domains[c[0]]));
            case Operator.Subtract:
                return Forward(n, Interval.Subtract(_domains[c[0]], _domains[c[1]]))
                    && Backward(n, c, c[0], () => Interval.Add(_domains[n], _domains[c[1]]))
                    && Backward(n, c, c[1], () => Interval.Subtract(_domains[c[0]], _domains[n]));
            case Operator.Negate:
                return Forward(n, Interval.Negate(_domains[c[0]])) && Backward(n, c, c[0], () => Interval.Negate(_domains[n]));
            case Operator.Multiply:
                return Forward(n, c[0] == c[1] ? Interval.Square(_domains[c[0]]) : Interval.Multiply(_domains[c[0]], _domains[c[1]]))
                    && (c[0] == c[1] || (Backward(n, c, c[0], () => Interval.DivideNonZero(_domains[n], _domains[c[1]]))
                    && Backward(n, c, c[1], () => Interval.DivideNonZero(_domains[n], _domains[c[0]]))));
            case Operator.Divide:
                return ReviseDivide(n, c);
            case Operator.Power:
                return RevisePower(n, c[0], node.Count);
            case Operator.Absolute:
                return Forward(n, Interval.Absolute(_domains[c[0]])) && Backward(n, c, c[0], () => (-_domains[n].High, _domains[n].High));
            case Operator.Minimum:
                return Forward(n, (Fold(c, d => d.Low, Exact.Min, unboundedWins: true), Fold(c, d => d.High, Exact.Min, unboundedWins: false)))
                    && c.All(child => Backward(n, c, child, () => (_domains[n].Low, null)));
            case Operator.Maximum:
                return Forward(n, (Fold(c, d => d.Low, Exact.Max, unboundedWins: false), Fold(c, d => d.High, Exact.Max, unboundedWins: true)))
                    && c.All(child => Backward(n, c, child, () => (null, _domains[n].High)));
            case Operator.SquareRoot:
                return ReviseSquareRoot(n, c[0]);
            default:
                return ReviseRounding(n, node.Operator, c[0], c[1]);
        }
    }

    private bool Forward(int n, (Exact? Low, Exact? High) bounds) => SetBounds(n, bounds.Low, bounds.High);

    private bool Backward(int n, int[] children, int child, Func<(Exact? Low, Exact? High)> bounds)
    {
        if ((_domains[n].Outcomes & Outcomes.Value) == 0 || !Binds(children, child))
            return true;
        var (low, high) = bounds();
        return SetBounds(child, low, high);
    }

    private Exact? Fold(int[] children, Func<Domain, Exact?> end, Func<Exact, Exact, Exact> combine, bool unboundedWins)
    {
        Exact? result = null;
        foreach (var child in children)
        {
            var next = end(_domains[child]);
            if (next is null && unboundedWins)
                return null;
            result = result is null ? next : next is null ? result : combine(result.Value, next.Value);
        }
        return result;
    }

    private bool ReviseDivide(int n, int[] c)
    {
        ref readonly var divisor = ref _domains[c[1]];
        var mayBeZero = !(divisor.Low > Exact.Zero) && !(divisor.High < Exact.Zero);
        var mustBeZero = divisor.Low is { IsZero: true } && divisor.High is { IsZero: true };
        var childMayFail = ((_domains[c[0]].Outcomes | divisor.Outcomes) & Outcomes.Error) != 0;
        if (!mayBeZero && !childMayFail && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (mustBeZero)
            return SetOutcomes(n, ~Outcomes.Present);
        if (!Forward(n, Interval.DivideNonZero(_domains[c[0]], _domains[c[1]])))
            return false;
        if ((_domains[n].Outcomes & Outcomes.Error) != 0)
            return true;
        // Zero at an end of a divisor that is a variable can go once an error is not allowed.
        if (mayBeZero && Binds(c, c[1]) && _network.Nodes[c[1]].Variable is not null)
        {
            if (_domains[c[1]].Low is { IsZero: true } && !SetBounds(c[1], 0, null, strictLow: true))
                return false;
            if (_domains[c[1]].High is { IsZero: true } && !SetBounds(c[1], null, 0, strictHigh: true))
                return false;
        }
        return Backward(n, c, c[0], () => Interval.Multiply(_domains[n], _domains[c[1]]))
            && Backward(n, c, c[1], () => Interval.DivideNonZero(_domains[c[0]], _domains[n]));
    }

    private bool RevisePower(int n, int child, int exponent)
    {
        var domain = _domains[child];
        var mayBeZero = !(domain.Low > Exact.Zero) && !(domain.High < Exact.Zero);
        if ((exponent >= 0 || !mayBeZero) && (domain.Outcomes & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (domain.Low is not { } low || domain.High is not { } high)
            return true;
        if (exponent == 0)
            return SetBounds(n, 1, 1);
        if (exponent < 0 && mayBeZero)
            return !(low.IsZero && high.IsZero) || SetOutcomes(n, ~Outcomes.Present);
        var (a, b) = (low.Power(exponent), high.Power(exponent));
        if (exponent % 2 == 0 && mayBeZero)
            return SetBounds(n, 0, Exact.Max(a, b));
        return SetBounds(n, Exact.Min(a, b), Exact.Max(a, b));
    }

    private bool ReviseSquareRoot(int n, int child)
    {
        var domain = _domains[child];
        if (!(domain.Low < Exact.Zero) && domain.Low is not null && (domain.Outcomes & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (domain.High < Exact.Zero)
            return SetOutcomes(n, ~Outcomes.Present);
        Exact? low = domain.Low is { Sign: > 0 } l ? l.Sqrt() : 0;
        Exact? high = domain.High?.Sqrt();
        if (!SetBounds(n, low, high))
            return false;
        return (_domains[n].Outcomes & (Outcomes.Error | Outcomes.Absent)) != 0 || SetBounds(child, 0, null);
    }

    private bool ReviseRounding(int n, Operator op, int value, int step)
    {
        var steps = _domains[step];
        if (steps.Low is not { } size || steps.High != size)
            return true;
        if (size.Sign <= 0)
            return SetOutcomes(n, ~Outcomes.Present);
        if (((_domains[value].Outcomes | steps.Outcomes) & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        Exact? Rounded(Exact? x) => x is not { } number ? null : size * (op switch
        {
            Operator.Ceiling => (number / size).Ceiling(),
            Operator.Floor => (number / size).Floor(),
            _ => (number / size).Round(),
        });
        if (!SetBounds(n, Rounded(_domains[value].Low), Rounded(_domains[value].High)))
            return false;
        var half = size / 2;
        return Backward(n, [value, step], value, () => op switch
        {
            Operator.Ceiling => (Rounded(_domains[n].Low) - size, _domains[n].High),
            Operator.Floor => (_domains[n].Low, _domains[n].High + size),
            _ => (_domains[n].Low - half, _domains[n].High + half),
        });
    }
}

/// <summary>Kleene's logic with a fourth value for what cannot be computed; that one yields only to what decides alone.</summary>
internal static class Kleene
{
    public static Outcomes Not(Outcomes x) => x switch { Outcomes.True => Outcomes.False, Outcomes.False => Outcomes.True, _ => x };

    public static Outcomes And(Outcomes x, Outcomes y) =>
        x == Outcomes.False || y == Outcomes.False ? Outcomes.False
        : x == Outcomes.Error || y == Outcomes.Error ? Outcomes.Error
        : x == Outcomes.Absent || y == Outcomes.Absent ? Outcomes.Absent : Outcomes.True;

    public static Outcomes Or(Outcomes x, Outcomes y) => Not(And(Not(x), Not(y)));

    public static Outcomes Same(Outcomes x, Outcomes y) =>
        x == Outcomes.Error || y == Outcomes.Error ? Outcomes.Error
        : x == Outcomes.Absent || y == Outcomes.Absent ? Outcomes.Absent
        : x == y ? Outcomes.True : Outcomes.False;

    public static Outcomes Other(Outcomes x, Outcomes y) => Not(Same(x, y));
}

/// <summary>Interval arithmetic with exact, possibly infinite (null) ends.</summary>
internal static class Interval
{
    public static (Exact? Low, Exact? High) Add(in Domain a, in Domain b) => (a.Low + b.Low, a.High + b.High);
    public static (Exact? Low, Exact? High) Subtract(in Domain a, in Domain b) => (a.Low - b.High, a.High - b.Low);
    public static (Exact? Low, Exact? High) Negate(in Domain a) => (-a.High, -a.Low);

    public static (Exact? Low, Exact? High) Multiply(in Domain a, in Domain b)
    {
        if (a.Low is not { } al || a.High is not { } ah || b.Low is not { } bl || b.High is not { } bh)
            return a.Low >= Exact.Zero && b.Low >= Exact.Zero ? (Exact.Zero, null) : (null, null);
        if (al == ah && bl == bh)
            return (al * bl, al * bl);
        if (al.Sign >= 0 && bl.Sign >= 0)
            return (al * bl, ah * bh);
        var (p, q, r, s) = (al * bl, al * bh, ah * bl, ah * bh);
        return (Exact.Min(Exact.Min(p, q), Exact.Min(r, s)), Exact.Max(Exact.Max(p, q), Exact.Max(r, s)));
    }

    public static (Exact? Low, Exact? High) Square(in Domain a)
    {
        if (a.Low is not { } low || a.High is not { } high)
            return (0, null);
        var (p, q) = (low * low, high * high);
        return (low.Sign <= 0 && high.Sign >= 0 ? 0 : Exact.Min(p, q), Exact.Max(p, q));
    }

    /// <summary>The quotients for divisors other than zero.</summary>
    public static (Exact? Low, Exact? High) DivideNonZero(in Domain a, in Domain b)
    {
        if (b.Low is not { } bl || b.High is not { } bh || a.Low is not { } al || a.High is not { } ah)
            return (null, null);
        if (bl.Sign > 0 || bh.Sign < 0)
        {
            if (bl == bh && al == ah)
                return (al / bl, al / bl);
            var (p, q, r, s) = (al / bl, al / bh, ah / bl, ah / bh);
            return (Exact.Min(Exact.Min(p, q), Exact.Min(r, s)), Exact.Max(Exact.Max(p, q), Exact.Max(r, s)));
        }
        // A divisor from zero upwards still gives the side that is away from zero.
        if (bl.IsZero && bh.Sign > 0 && al.Sign >= 0)
            return (al / bh, null);
        return (null, null);
    }

    public static (Exact? Low, Exact? High) Absolute(in Domain a)
    {
        if (a.Low is not { } low || a.High is not { } high)
            return (0, null);
        if (low.Sign >= 0)
            return (low, high);
        return high.Sign <= 0 ? (-high, -low) : (0, Exact.Max(-low, high));
    }
}
