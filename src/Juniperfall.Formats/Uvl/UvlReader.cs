using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Formats.Uvl;

/// <summary>A line of a UVL file and what is to be said of it.</summary>
public sealed record UvlNote(int Line, string Sentence);

/// <param name="Package">The model; null where the text is not UVL.</param>
/// <param name="Errors">What is wrong, each at its line.</param>
/// <param name="Unread">What is UVL but has no counterpart in a model, each at its line.</param>
public sealed record UvlResult(ModelPackage? Package, ImmutableArray<UvlNote> Errors, ImmutableArray<UvlNote> Unread);

/// <summary>
/// Reads UVL, the Universal Variability Language (Benavides and others, “UVL: feature modelling with the Universal Variability
/// Language”, 2024). Every feature becomes a yes/no attribute that always applies, the tree and the constraints become rules.
/// </summary>
public sealed class UvlReader
{
    /// <summary>An integer feature has no range in UVL; a whole-number attribute needs one.</summary>
    private const int FarthestInteger = 1_000_000;
    private const int DeepestTree = 2000;

    private sealed record Group(string Keyword, int Line, UvlFeature Parent)
    {
        public List<UvlFeature> Members { get; } = [];
    }

    private readonly UvlNotes _notes = new();
    private readonly UvlFeatures _features = new();
    private readonly List<Group> _groups = [];
    private readonly List<Row> _rules = [];
    private readonly HashSet<string> _ids = [];
    private int _number;

    private UvlReader()
    {
    }

    public static UvlResult Read(string text)
    {
        var reader = new UvlReader();
        reader.Sections(text);
        return new(reader._notes.Errors.Count > 0 ? null : reader.Package(), [.. reader._notes.Errors], [.. reader._notes.Unread]);
    }

    private void Sections(string text)
    {
        var section = "";
        var tree = new List<UvlLine>();
        var constraints = new List<UvlLine>();
        foreach (var line in UvlLines.Of(text))
            if (line.Indent == 0)
            {
                section = line.Text.Split(' ', '\t')[0];
                if (section is "imports")
                    _notes.LeftOut(line.Number, "Imports have no counterpart: one file holds one model.");
                else if (section is not ("namespace" or "include" or "features" or "constraints"))
                    _notes.Error(line.Number, $"“{section}” is no section; there are namespace, include, features and constraints.");
            }
            else if (section == "features")
                tree.Add(line);
            else if (section == "constraints")
                constraints.Add(line);
        if (tree.Count == 0 && _notes.Errors.Count == 0)
            _notes.Error(1, "There are no features.");
        Tree(tree);
        foreach (var constraint in constraints)
            if (UvlConstraint.Read(constraint, _features, _notes) is { } expression)
                Rule(constraint.Number, expression);
    }

    // ---- The tree -----------------------------------------------------------------------------------------------

    private void Tree(List<UvlLine> lines)
    {
        var open = new Stack<(int Indent, UvlFeature? Feature, Group? Group)>();
        foreach (var line in lines)
        {
            while (open.TryPeek(out var top) && top.Indent >= line.Indent)
                open.Pop();
            var above = open.TryPeek(out var found) ? found : default;
            if (open.Count > DeepestTree)
            {
                _notes.Error(line.Number, $"The tree is deeper than {DeepestTree} levels.");
                return;
            }
            if (IsGroup(line.Text))
            {
                if (above.Feature is null)
                {
                    _notes.Error(line.Number, $"“{line.Text}” stands below no feature.");
                    continue;
                }
                var group = new Group(line.Text, line.Number, above.Feature);
                _groups.Add(group);
                open.Push((line.Indent, null, group));
                continue;
            }
            if (above.Group is null && above.Feature is not null)
            {
                _notes.Error(line.Number, $"A feature stands in a group: mandatory, optional, alternative, or, [n..m].");
                continue;
            }
            if (above.Group is null && _features.InOrder.Count > 0)
            {
                _notes.Error(line.Number, "There is one root feature.");
                continue;
            }
            if (ReadFeature(line, above.Group?.Parent) is not { } feature)
                continue;
            above.Group?.Members.Add(feature);
            open.Push((line.Indent, feature, null));
        }
        if (_features.InOrder.Count > 0)
            TreeRules();
    }

    private static bool IsGroup(string text) => text is "mandatory" or "optional" or "alternative" or "or" || Cardinality(text) is not null;

    /// <summary>[n], [n..m] or [n..*].</summary>
    private static (int Least, int? Most)? Cardinality(string text)
    {
        if (text.Length < 3 || text[0] != '[' || text[^1] != ']')
            return null;
        var ends = text[1..^1].Split("..");
        if (ends.Length > 2 || !int.TryParse(ends[0], out var least) || least < 0)
            return null;
        if (ends.Length == 1)
            return (least, least);
        return ends[1] == "*" ? (least, null) : int.TryParse(ends[1], out var most) && most >= least ? (least, most) : null;
    }

    private UvlFeature? ReadFeature(UvlLine line, UvlFeature? parent)
    {
        var tokens = UvlTokens.Of(line.Text, out var wrong);
        if (wrong is not null)
        {
            _notes.Error(line.Number, wrong);
            return null;
        }
        var at = 0;
        var type = tokens.Count > 1 && tokens[0].Kind == UvlTokenKind.Name && tokens[1].Kind == UvlTokenKind.Name
            && tokens[0].Text is "Boolean" or "Integer" or "Real" or "String" ? tokens[at++].Text : "Boolean";
        if (at >= tokens.Count || tokens[at].Kind != UvlTokenKind.Name)
        {
            _notes.Error(line.Number, "Here stands the name of a feature.");
            return null;
        }
        var name = tokens[at++].Text;
        if (_features.Named(name) is { } twice)
        {
            _notes.Error(line.Number, $"The feature “{name}” is there already, in line {twice.Line}.");
            return null;
        }
        var feature = _features.Add(name, line.Number, parent, type);
        if (type is "Real" or "String")
            _notes.LeftOut(line.Number, $"The {(type == "Real" ? "number" : "text")} of the {type} feature “{name}” has no counterpart; the feature itself "
                + $"is yes or no.");
        if (at < tokens.Count && tokens[at].Text == "cardinality")
        {
            _notes.LeftOut(line.Number, $"“{name}” may be there several times in UVL; here it is there once or not at all.");
            while (at < tokens.Count && tokens[at].Text != "{")
                at++;
        }
        if (at < tokens.Count)
            ReadFigures(feature, line.Number, tokens, at);
        return feature;
    }

    private void ReadFigures(UvlFeature feature, int line, List<UvlToken> tokens, int at)
    {
        if (tokens[at].Text != "{" || tokens[^1].Text != "}")
        {
            _notes.Error(line, $"After “{feature.Name}” only its attributes may stand, in braces.");
            return;
        }
        at++;
        while (at < tokens.Count - 1)
        {
            var name = tokens[at++].Text;
            var negative = at < tokens.Count && tokens[at].Text == "-";
            at += negative ? 1 : 0;
            var value = at < tokens.Count - 1 && tokens[at].Text != "," ? tokens[at++] : default;
            if (value.Kind == UvlTokenKind.Number)
                _features.AddFigure(feature, name, (negative ? "-" : "") + value.Text);
            else if (value.Text is "true" or "false")
                _features.AddFigure(feature, name, value.Text == "true" ? "yes" : "no");
            else if (name != "abstract")
                _notes.LeftOut(line, $"The attribute “{name}” of “{feature.Name}” is neither a number nor true or false.");
            // What cannot be read as one value goes up to the next comma on this level.
            for (var depth = 0; at < tokens.Count - 1 && (depth > 0 || tokens[at].Text != ","); at++)
                depth += tokens[at].Text is "[" or "{" ? 1 : tokens[at].Text is "]" or "}" ? -1 : 0;
            at++;
        }
    }

    // ---- Rules --------------------------------------------------------------------------------------------------

    private void Rule(int line, string expression)
    {
        var id = $"L{line}";
        for (var more = 2; !_ids.Add(id); more++)
            id = $"L{line}.{more}";
        _rules.Add(new StatementRule { Id = id, Number = ++_number, Expression = expression });
    }

    private void TreeRules()
    {
        Rule(_features.InOrder[0].Line, UvlFeature.Ref(_features.InOrder[0].Id));
        foreach (var group in _groups)
        {
            var parent = UvlFeature.Ref(group.Parent.Id);
            foreach (var member in group.Members)
                Rule(member.Line, group.Keyword == "mandatory" ? $"{UvlFeature.Ref(member.Id)} = {parent}" : $"if {UvlFeature.Ref(member.Id)} then {parent}");
            if (group.Members.Count == 0)
                _notes.Error(group.Line, $"The group “{group.Keyword}” has no features.");
            else if (group.Keyword is not ("mandatory" or "optional"))
                GroupRules(group, parent, $"({string.Join(", ", group.Members.Select(m => UvlFeature.Ref(m.Id)))})");
        }
    }

    private void GroupRules(Group group, string parent, string members)
    {
        var count = group.Members.Count;
        var (least, most) = group.Keyword switch { "alternative" => (1, (int?)1), "or" => (1, null), _ => Cardinality(group.Keyword)!.Value };
        if (least > count)
            _notes.Error(group.Line, $"{group.Keyword} asks for more features than the {count} that are there.");
        if (least > 0)
            Rule(group.Line, least == 1 ? $"if {parent} then {string.Join(" or ", group.Members.Select(m => UvlFeature.Ref(m.Id)))}" : $"if {parent} then "
                + $"at least {least} of {members}");
        // Members need their parent, so that the upper end holds whether it is there or not.
        if (most is { } limit && limit < count)
            Rule(group.Line, $"at most {limit} of {members}");
    }

    // ---- The model ----------------------------------------------------------------------------------------------

    private ModelPackage Package()
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        var rows = new List<Row>();
        foreach (var feature in _features.InOrder)
        {
            rows.Add(new AttributeRow { Id = feature.Id, Name = Unique(feature.Name, feature.Line), Kind = AttributeKind.YesNo, Required = true });
            if (feature.NumberId.Length > 0)
                rows.Add(new AttributeRow
                {
                    Id = feature.NumberId,
                    Name = Unique(feature.Name + " number", feature.Line),
                    AppliesWhen = UvlFeature.Ref(feature.Id),
                    Kind = AttributeKind.Whole,
                    Min = (-FarthestInteger).ToString(System.Globalization.CultureInfo.InvariantCulture),
                    Max = FarthestInteger.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    Required = true,
                });
        }
        if (_features.InOrder.Any(f => f.NumberId.Length > 0))
            _notes.LeftOut(_features.InOrder.First(f => f.NumberId.Length > 0).Line,
                $"Integer features have no range in UVL; here they go from -{FarthestInteger} to {FarthestInteger}.");
        var root = _features.InOrder[0];
        return new()
        {
            Model = new()
            {
                Id = "uvl",
                Code = CodeOf(root.Name),
                Label = LocalText.English(root.Name),
                Root = "root",
                Assemblies = [new() { Id = "root", Name = "model", Label = LocalText.English(root.Name), Topics = [
                    new() { Id = "features", Label = LocalText.English("Features"), Rows = [.. rows] },
                    new() { Id = "rules", Label = LocalText.English("Rules"), Rows = [.. _rules] },
                ] }],
            },
        };

        // Names that differ only in case are one name in a model, and a quote cannot stand in one.
        string Unique(string name, int line)
        {
            var wanted = name.Replace('\'', '’').Trim();
            var unique = wanted;
            for (var more = 2; !names.Add(Names.Fold(unique)); more++)
                unique = $"{wanted}_{more}";
            if (unique != name)
                _notes.LeftOut(line, $"“{name}” is called “{unique}” here: case makes no difference in names, and quotes cannot stand in them.");
            return unique;
        }
    }

    private static string CodeOf(string name)
    {
        var code = new string([.. name.Where(c => char.IsLetterOrDigit(c) || c is '-' or '_').Take(20)]).ToUpperInvariant();
        return code.Length == 0 ? "UVL" : code;
    }
}
