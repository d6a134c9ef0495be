using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

/// <summary>Where totals are bound: the paths that they run over, outermost first, each with the instance or the value being bound.</summary>
internal sealed class TotalScope
{
    private ImmutableStack<(string Path, string Member)> _members = [];

    /// <summary>A path below those that a total runs over at which there can be several, and which is not told apart.</summary>
    public (string Path, Subassembly Place)? RunsBelow { get; set; }

    /// <summary>The innermost path and its member; null outside of totals.</summary>
    public (string Path, string Member)? Innermost => _members.IsEmpty ? null : _members.Peek();

    /// <summary>The member that is being bound at a path; null where no total runs over it.</summary>
    public string? MemberAt(string path) => _members.FirstOrDefault(m => m.Path == path).Member;

    /// <summary>Binds something for one member of what a total runs over.</summary>
    /// <param name="below">What the total runs over below the path, too; null where nothing such was found.</param>
    public T Within<T>(string path, string member, Func<T> bind, out (string Path, Subassembly Place)? below)
    {
        var (outer, outerBelow) = (_members, RunsBelow);
        (_members, RunsBelow) = (outer.Push((path, member)), null);
        var bound = bind();
        below = RunsBelow;
        (_members, RunsBelow) = (outer, outerBelow);
        return bound;
    }

    /// <summary>Goes through something while a member is being bound.</summary>
    public T While<T>(string path, string member, Func<T> go)
    {
        var outer = _members;
        _members = outer.Push((path, member));
        var result = go();
        _members = outer;
        return result;
    }
}

/// <summary>Binds calls: functions of numbers, applies(…), and totals over instances or several choices.</summary>
internal sealed class CallBinder(Binder binder, TotalScope scope)
{
    private static readonly ImmutableSortedDictionary<string, Function> Functions = new Dictionary<string, Function>
    {
        ["ceil"] = Function.Ceiling,
        ["floor"] = Function.Floor,
        ["round"] = Function.Round,
        ["abs"] = Function.Absolute,
        ["min"] = Function.Minimum,
        ["max"] = Function.Maximum,
        ["sqrt"] = Function.SquareRoot,
    }.ToImmutableSortedDictionary(StringComparer.OrdinalIgnoreCase);

    private static readonly ImmutableSortedDictionary<string, TotalKind> Totals = new Dictionary<string, TotalKind>
    {
        ["sum"] = TotalKind.Sum,
        ["count"] = TotalKind.Count,
        ["min"] = TotalKind.Minimum,
        ["max"] = TotalKind.Maximum,
        ["all"] = TotalKind.All,
        ["any"] = TotalKind.Any,
    }.ToImmutableSortedDictionary(StringComparer.OrdinalIgnoreCase);

    /// <summary>Every function name, for completion and suggestions.</summary>
    public static IEnumerable<string> FunctionNames => Functions.Keys.Concat(Totals.Keys).Append("applies").Distinct();

    public Bound? Bind(CallSyntax call)
    {
        var name = call.Function.Name;
        if (name.Equals("applies", StringComparison.OrdinalIgnoreCase))
            return Applies(call);
        var isTotal = Totals.TryGetValue(name, out var total)
            && (!Functions.ContainsKey(name) || call.Where is not null
                || (call.Arguments is [MemberSyntax only] && Base(only) is NameSyntax first && binder.Find(first) is { } over && IsRange(over)));
        if (isTotal)
            return Total(call, total);
        if (!Functions.TryGetValue(name, out var function))
        {
            var near = Spelling.Nearest(name, FunctionNames);
            return binder.Report(Fault.UnknownFunction, call.Function.Span, $"There is no function “{name}”." + Binder.DidYouMean(near), near);
        }
        if (call.Where is not null)
            binder.Report(Fault.UnexpectedWord, call.Where.Span, "Only totals over a subassembly take “where”.");
        var arguments = call.Arguments.Select(binder.Number).ToList();
        if (arguments.Contains(null))
            return null;
        var count = arguments.Count;
        var (fewest, most) = function switch
        {
            Function.Minimum or Function.Maximum => (1, int.MaxValue),
            Function.Absolute or Function.SquareRoot => (1, 1),
            _ => (1, 2),
        };
        if (count < fewest || count > most)
            return binder.Report(Fault.WrongArgumentCount, call.Span,
                fewest == most ? $"{name}(…) takes one value." : most == 2
                ? $"{name}(…) takes a value and, if wanted, a step." : $"{name}(…) takes at least one value.");
        var dimension = arguments[0]!.Type.Dimension;
        for (var i = 1; i < count; i++)
            if (arguments[i]!.Type.Dimension != dimension)
                return binder.Report(Fault.UnitMismatch, call.Arguments[i].Span,
                    $"The first value is {dimension.Describe()}, this is {arguments[i]!.Type.Dimension.Describe()}.");
        if (dimension.IsPoint && function is not (Function.Minimum or Function.Maximum))
            return binder.Report(Fault.TemperaturePoint, call.Arguments[0].Span, "A temperature cannot be used here; a difference of temperatures can.");
        if (function is Function.Ceiling or Function.Floor or Function.Round && count == 1 && !dimension.IsNone)
            return binder.Report(Fault.UnitMismatch, call.Span,
                $"To round {dimension.Describe()}, say to what: {name}({call.Arguments[0] switch { NameSyntax n => binder.Shown(n), _ => "…" }}, 1 "
                    + $"{Unit.ForDisplay(dimension).Code}).");
        if (function == Function.SquareRoot)
        {
            int[] exponents = [dimension.Length, dimension.Mass, dimension.Time, dimension.Temperature, dimension.Current];
            if (exponents.Any(e => e % 2 != 0))
                return binder.Report(Fault.UnitMismatch, call.Arguments[0].Span, $"The square root of {dimension.Describe()} has no unit.");
            dimension = new(exponents[0] / 2, exponents[1] / 2, exponents[2] / 2, exponents[3] / 2, exponents[4] / 2);
        }
        return new BoundCall(ExpressionType.Number(dimension), function, [.. arguments!]);
    }

    private static Syntax Base(Syntax syntax) => syntax switch
    {
        MemberSyntax m => Base(m.Target),
        IndexSyntax i => Base(i.Target),
        _ => syntax,
    };

    private Bound? Applies(CallSyntax call)
    {
        if (call.Arguments.Length != 1)
            return binder.Report(Fault.WrongArgumentCount, call.Span, "applies(…) takes one name.");
        return binder.Resolve(call.Arguments[0]) switch
        {
            null => null,
            ReachedPlace place => new BoundApplies(place.Prefix.TrimEnd(RowPath.Below), true),
            BoundAttribute attribute => new BoundApplies(attribute.Path, false),
            ReachedSeveral several => new BoundApplies(several.Path, false),
            _ => binder.Report(Fault.NotAPath, call.Arguments[0].Span, "applies(…) takes the name of an attribute or a subassembly."),
        };
    }

    /// <summary>What a total can run over: a subassembly by its instances, several choices by the values that are chosen.</summary>
    private static bool IsRange(NamedRow row) => row is Subassembly or AttributeRow { Kind: AttributeKind.Several };

    private Bound? Total(CallSyntax call, TotalKind kind)
    {
        if (call.Arguments.Length != 1)
            return binder.Report(Fault.WrongArgumentCount, call.Span, $"{call.Function.Name}(…) takes one expression about a subassembly or several choices.");
        var range = FirstRange(call.Arguments[0]);
        var several = range is AttributeRow attribute ? binder.SeveralAt("", attribute, call.Arguments[0].Span) : null;
        if (range is null || (range is AttributeRow && several is null))
            return range is not null ? null : binder
                .Report(Fault.NotAPath, call.Arguments[0].Span,
                $"{call.Function.Name}(…) totals over a subassembly or over several choices; none is named here.");
        var members = ImmutableArray.CreateBuilder<BoundTotalMember>();
        var ranges = ImmutableArray.Create(range.Id);
        IEnumerable<(string Id, Bound? There)> all = range is Subassembly subassembly ? ModelIndex.InstancesOf(subassembly).Select(i => (i.Id, (Bound?)null))
            : several!.List.Values.Select(v => (v.Id, (Bound?)several.Member(v)));
        foreach (var (id, there) in all)
            if (!AddMembers(call, kind, range.Id, id, there, members, ref ranges))
                return null;
        var type = kind switch
        {
            TotalKind.Count => ExpressionType.PlainNumber,
            TotalKind.All or TotalKind.Any => ExpressionType.YesNo,
            _ => members[0].Body.Type,
        };
        return new BoundTotal(type, kind, ranges, members.ToImmutable());
    }

    /// <summary>Binds a total for one member of its range, or for all that are below it where there can be several. False where there is a fault.</summary>
    private bool AddMembers(CallSyntax call, TotalKind kind, string path, string id, Bound? there, ImmutableArray<BoundTotalMember>.Builder members,
        ref ImmutableArray<string> ranges)
    {
        if (scope.Within(path, id, () => Member(call, kind, there), out var below) is not { } member)
            return false;
        if (below is not { } found)
        {
            members.Add(member);
            return true;
        }
        if (!ranges.Contains(found.Place.Id))
            ranges = ranges.Add(found.Place.Id);
        var (isSound, all) = (true, ranges);
        foreach (var instance in ModelIndex.InstancesOf(found.Place))
            isSound &= scope.While(path, id, () => AddMembers(call, kind, found.Path, instance.Id, there, members, ref all));
        ranges = all;
        return isSound;
    }

    /// <param name="there">Whether the member is there at all, where its body does not tell.</param>
    private BoundTotalMember? Member(CallSyntax call, TotalKind kind, Bound? there)
    {
        var body = kind switch
        {
            TotalKind.Count => Counted(call.Arguments[0], there),
            TotalKind.All or TotalKind.Any => binder.Condition(call.Arguments[0]),
            _ => binder.Number(call.Arguments[0]),
        };
        var where = call.Where is null ? null : binder.Condition(call.Where);
        if (body is null || (call.Where is not null && where is null))
            return null;
        if (kind == TotalKind.Count && body.Type.Kind != TypeKind.YesNo)
        {
            binder.Report(Fault.NotACondition, call.Arguments[0].Span, "count(…) takes a subassembly, several choices or a condition.");
            return null;
        }
        if (kind == TotalKind.Sum && body.Type.Dimension.IsPoint)
        {
            binder.Report(Fault.TemperaturePoint, call.Arguments[0].Span, "Temperatures cannot be summed.");
            return null;
        }
        return new(body, there is null ? where : where is null ? there : new BoundBinary(ExpressionType.YesNo, BinaryOperator.And, there, where));
    }

    /// <summary>What is counted: that an instance or an attribute is there, that a value is chosen, or that a condition holds.</summary>
    private Bound? Counted(Syntax syntax, Bound? there) => binder.Resolve(syntax) switch
    {
        ReachedPlace place => new BoundApplies(place.Prefix.TrimEnd(RowPath.Below), true),
        BoundLiteral { Type.Kind: TypeKind.Choice } when there is not null => there,
        BoundAttribute { Type.Kind: not TypeKind.YesNo } attribute => new BoundApplies(attribute.Path, false),
        Bound bound => bound,
        null => null,
        _ => binder.BindPath(syntax),
    };

    private NamedRow? FirstRange(Syntax syntax) => syntax switch
    {
        NameSyntax name => binder.Find(name) is { } row && IsRange(row) ? row : null,
        MemberSyntax member => FirstRange(member.Target),
        UnarySyntax unary => FirstRange(unary.Operand),
        BinarySyntax binary => FirstRange(binary.Left) ?? FirstRange(binary.Right),
        IfSyntax c => FirstRange(c.Condition) ?? FirstRange(c.Then) ?? (c.Else is null ? null : FirstRange(c.Else)),
        InSyntax i => FirstRange(i.Item),
        BetweenSyntax b => FirstRange(b.Item),
        // What stands before “has” is asked as a whole, so that it is not what a total runs over.
        HasSyntax { Item: MemberSyntax within } => FirstRange(within),
        CallSyntax c => c.Arguments.Select(FirstRange).FirstOrDefault(s => s is not null),
        CountingSyntax c => c.Conditions.Select(FirstRange).FirstOrDefault(s => s is not null),
        _ => null,
    };
}
