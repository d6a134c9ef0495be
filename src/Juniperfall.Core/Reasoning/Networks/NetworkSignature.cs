using System.Buffers.Binary;
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
    private readonly IncrementalHash _hash;
    private readonly int[] _numbers;
    private int _count;

    private NetworkSignature(Network network, IncrementalHash hash)
    {
        (_network, _hash, _numbers) = (network, hash, new int[network.Nodes.Length]);
        Array.Fill(_numbers, -1);
    }

    public static string Of(Network network)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        new NetworkSignature(network, hash).Write();
        return Convert.ToHexString(hash.GetHashAndReset());
    }

    private void Write(long number)
    {
        Span<byte> bytes = stackalloc byte[sizeof(long)];
        BinaryPrimitives.WriteInt64LittleEndian(bytes, number);
        _hash.AppendData(bytes);
    }

    /// <summary>With its length first, so that no two texts run together.</summary>
    private void Write(string? text)
    {
        Write(text?.Length ?? -1);
        _hash.AppendData(Encoding.UTF8.GetBytes(text ?? ""));
    }

    private void Write(Exact? number) => Write(number?.ToString());

    private void Write()
    {
        foreach (var variable in _network.Variables)
            Write(variable);
        foreach (var (occurrence, row) in _network.Texts)
        {
            var path = occurrence.Prefix + row.Id;
            Write(path);
            Write(row.Required ? 1 : 0);
            Write(row.Suggestion);
            Visit(_network.ConditionOfPath[path]);
            Write(_numbers[_network.ConditionOfPath[path]]);
        }
        foreach (var (node, allowed, group) in _network.Roots)
        {
            Visit(node);
            Write(_numbers[node]);
            Write((int)allowed);
            Write(group);
        }
        for (var n = 0; n < _network.Nodes.Length; n++)
            if (_network.Nodes[n].Operator == Operator.Presence)
                Visit(n);
        foreach (var group in _network.Groups)
        {
            Write((int)group.Kind);
            Write(group.Row.Id);
            Write(group.Field);
            Write(group.Occurrence.Prefix);
        }
    }

    private void Write(Variable variable)
    {
        Visit(variable.Node);
        Write(variable.Path);
        Write(variable.Member?.Id);
        Write((int)variable.Row.Kind);
        Write(variable.Row.Required ? 1 : 0);
        Write(variable.Row.Unit);
        Write(variable.Row.Suggestion);
        foreach (var member in variable.Row.SuggestedMembers)
            Write(member);
        foreach (var value in variable.List?.Values ?? [])
            Write(value.Id);
        Write(variable.Origin);
        Write(variable.Step);
        var (_, outcomes, first, last, bits) = variable.Initial;
        Write((int)outcomes);
        Write(first);
        Write(last);
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
        Write((int)node.Operator);
        foreach (var child in node.Children)
            Write(_numbers[child]);
        Write(node.Count);
        Write((int)node.CountingKind);
        Write(node.Group);
        Write(node.Variable?.Index ?? -1);
        if (node.Operator == Operator.Constant)
        {
            var domain = _network.Initial[at];
            Write((int)domain.Kind);
            Write((int)domain.Outcomes);
            Write(domain.Numbers.Low.Number);
            Write(domain.Numbers.High.Number);
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
        Write(grid.Rows.Length);
        foreach (var cell in grid.Rows.SelectMany(r => r))
        {
            Write(cell.Cell.Any ? 1 : 0);
            Write((int)cell.YesNo);
            Write(cell.Bits);
            Write(cell.Cell.Values.Length);
            foreach (var value in cell.Cell.Values)
                Write(value);
            foreach (var (low, high) in cell.Cell.Ranges)
            {
                Write(low);
                Write(high);
            }
        }
    }

    private void Write(Value value)
    {
        Write((int)value.Kind);
        Write(value.ToString());
    }

    private void Write(ulong[]? bits)
    {
        Write(bits?.Length ?? -1);
        foreach (var word in bits ?? [])
            Write((long)word);
    }
}
