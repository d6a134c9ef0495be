using System.Security.Cryptography;
using System.Text;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>
/// A hash of all that decides which configurations there are, and which of them is suggested: what is asked, with what is suggested, and what the
/// rules, conditions and bounds read. Computed values, lines and prices that no rule reads are left out. Two networks with the same one give the same
/// answers; those that differ in names alone have another one.
/// </summary>
internal sealed class NetworkSignature
{
    private readonly Network _network;
    private readonly BinaryWriter _to;
    private readonly int[] _numbers;
    private int _count;

    private NetworkSignature(Network network, Stream to)
    {
        (_network, _to, _numbers) = (network, new(to, Encoding.UTF8), new int[network.Nodes.Length]);
        Array.Fill(_numbers, -1);
    }

    public static string Of(Network network)
    {
        using var bytes = new MemoryStream();
        var of = new NetworkSignature(network, bytes);
        of.Write();
        of._to.Flush();
        return Convert.ToHexString(SHA256.HashData(bytes.GetBuffer().AsSpan(0, (int)bytes.Length)));
    }

    private void Write()
    {
        foreach (var variable in _network.Variables)
            Write(variable);
        foreach (var (occurrence, row) in _network.Texts)
        {
            var path = occurrence.Prefix + row.Id;
            _to.Write($"text {path} {row.Required} {row.Suggestion}");
            Visit(_network.ConditionOfPath[path]);
            _to.Write(_numbers[_network.ConditionOfPath[path]]);
        }
        foreach (var (node, allowed, group) in _network.Roots)
        {
            Visit(node);
            _to.Write(_numbers[node]);
            _to.Write((int)allowed);
            _to.Write(group);
        }
        for (var n = 0; n < _network.Nodes.Length; n++)
            if (_network.Nodes[n].Operator == Operator.Presence)
                Visit(n);
        foreach (var group in _network.Groups)
            _to.Write($"{group.Kind} {group.Row.Id} {group.Field} {group.Occurrence.Prefix}");
    }

    private void Write(Variable variable)
    {
        Visit(variable.Node);
        _to.Write($"{variable.Path} {variable.Member?.Id} {variable.Row.Kind} {variable.Row.Required} {variable.Row.Unit} {variable.Row.Suggestion}");
        foreach (var member in variable.Row.SuggestedMembers)
            _to.Write(member);
        foreach (var value in variable.List?.Values ?? [])
            _to.Write($"value {value.Id}");
        _to.Write($"{variable.Origin} {variable.Step}");
        var (_, outcomes, first, last, bits) = variable.Initial;
        _to.Write((int)outcomes);
        _to.Write(first);
        _to.Write(last);
        Write(bits);
    }

    /// <summary>Numbers a node and all that it is made of by when they are met first, and writes each once; without recursion, as models can be deep.</summary>
    private void Visit(int start)
    {
        var open = new Stack<(int Node, bool Done)>([(start, false)]);
        while (open.TryPop(out var at))
        {
            if (_numbers[at.Node] >= 0)
                continue;
            if (!at.Done)
            {
                open.Push((at.Node, true));
                foreach (var child in _network.Nodes[at.Node].Children.Reverse())
                    open.Push((child, false));
                continue;
            }
            _numbers[at.Node] = _count++;
            Write(at.Node, _network.Nodes[at.Node]);
        }
    }

    private void Write(int at, Node node)
    {
        _to.Write((byte)node.Operator);
        foreach (var child in node.Children)
            _to.Write(_numbers[child]);
        _to.Write(node.Count);
        _to.Write((int)node.CountingKind);
        _to.Write(node.Group);
        _to.Write(node.Variable?.Index ?? -1);
        if (node.Operator == Operator.Constant)
        {
            var domain = _network.Initial[at];
            _to.Write($"{domain.Kind} {domain.Outcomes} {domain.Numbers.Low.Number} {domain.Numbers.High.Number}");
            Write(domain.Bits);
        }
        foreach (var value in node.PropertyValues ?? [])
            Write(value);
        foreach (var choice in node.Choices ?? [])
            Write(choice);
        foreach (var figure in node.Figures.IsDefault ? [] : node.Figures)
            Write(figure);
        if (node.Grid is { } grid)
            Write(grid);
    }

    private void Write(CompiledGrid grid)
    {
        _to.Write(grid.Rows.Length);
        foreach (var cell in grid.Rows.SelectMany(r => r))
        {
            _to.Write(cell.Cell.Any);
            _to.Write((int)cell.YesNo);
            Write(cell.Bits);
            _to.Write(cell.Cell.Values.Length);
            foreach (var value in cell.Cell.Values)
                Write(value);
            foreach (var (low, high) in cell.Cell.Ranges)
                _to.Write($"{low} .. {high}");
        }
    }

    private void Write(Value value) => _to.Write($"{value.Kind} {value}");

    private void Write(ulong[]? bits)
    {
        _to.Write(bits?.Length ?? -1);
        foreach (var word in bits ?? [])
            _to.Write(word);
    }
}
