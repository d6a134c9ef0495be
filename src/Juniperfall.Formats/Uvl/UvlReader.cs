using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
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
public sealed partial class UvlReader
{
    /// <summary>An integer feature has no range in UVL; a whole-number attribute needs one.</summary>
    private const int FarthestInteger = 1_000_000;
    private const int DeepestNesting = 500, DeepestTree = 2000;

    private sealed record Feature(string Name, int Line, Feature? Parent)
    {
        public string Id { get; init; } = "";
        /// <summary>Boolean, Integer, Real or String; of the last two the number or text is not read.</summary>
        public string Type { get; init; } = "Boolean";
        public string NumberId { get; set; } = "";
        public Dictionary<string, string> Figures { get; } = new(StringComparer.Ordinal);
    }

    private sealed record Group(string Keyword, int Line, Feature Parent)
    {
        public List<Feature> Members { get; } = [];
    }

    private readonly record struct Line(int Number, int Indent, string Text);

    private readonly List<UvlNote> _errors = [], _unread = [];
    private readonly Dictionary<string, Feature> _features = new(StringComparer.Ordinal);
    private readonly List<Feature> _inOrder = [];
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
        return new(reader._errors.Count > 0 ? null : reader.Package(), [.. reader._errors], [.. reader._unread]);
    }

    private void Error(int line, string sentence) => _errors.Add(new(line, sentence));
    private void Unread(int line, string what) => _unread.Add(new(line, what));

    // ---- Lines --------------------------------------------------------------------------------------------------

    private static IEnumerable<Line> Lines(string text)
    {
        var number = 0;
        foreach (var raw in WithoutBlockComments(text.TrimStart('\uFEFF')).Split('\n'))
        {
            number++;
            var line = WithoutComment(raw.TrimEnd('\r', ' ', '\t'));
            var indent = 0;
            var at = 0;
            for (; at < line.Length && line[at] is ' ' or '\t'; at++)
                indent += line[at] == '\t' ? 8 - indent % 8 : 1;
            if (at < line.Length)
                yield return new(number, indent, line[at..].TrimEnd());
        }
    }

    /// <summary>The text with blanks in place of block comments, so that lines and places stay; quotes and line comments are none of theirs.</summary>
    private static string WithoutBlockComments(string text)
    {
        if (!text.Contains("/*", StringComparison.Ordinal))
            return text;
        var plain = text.ToCharArray();
        var quote = '\0';
        for (var i = 0; i < plain.Length; i++)
            if (plain[i] == '\n')
                quote = '\0';
            else if (quote != '\0')
                quote = plain[i] == quote ? '\0' : quote;
            else if (plain[i] is '"' or '\'')
                quote = plain[i];
            else if (plain[i] == '/' && i + 1 < plain.Length && plain[i + 1] == '/')
                i = text.IndexOf('\n', i) is >= 0 and var end ? end - 1 : plain.Length;
            else if (plain[i] == '/' && i + 1 < plain.Length && plain[i + 1] == '*')
            {
                var close = text.IndexOf("*/", i + 2, StringComparison.Ordinal) is >= 0 and var at ? at + 2 : plain.Length;
                for (; i < close; i++)
                    if (plain[i] is not ('\n' or '\r'))
                        plain[i] = ' ';
                i--;
            }
        return new(plain);
    }

    private static string WithoutComment(string line)
    {
        var quote = '\0';
        for (var i = 0; i < line.Length; i++)
            if (quote != '\0')
                quote = line[i] == quote ? '\0' : quote;
            else if (line[i] is '"' or '\'')
                quote = line[i];
            else if (line[i] == '/' && i + 1 < line.Length && line[i + 1] == '/')
                return line[..i];
        return line;
    }

    private void Sections(string text)
    {
        var section = "";
        var tree = new List<Line>();
        var constraints = new List<Line>();
        foreach (var line in Lines(text))
            if (line.Indent == 0)
            {
                section = line.Text.Split(' ', '\t')[0];
                if (section is "imports")
                    Unread(line.Number, "Imports have no counterpart: one file holds one model.");
                else if (section is not ("namespace" or "include" or "features" or "constraints"))
                    Error(line.Number, $"“{section}” is no section; there are namespace, include, features and constraints.");
            }
            else if (section == "features")
                tree.Add(line);
            else if (section == "constraints")
                constraints.Add(line);
        if (tree.Count == 0 && _errors.Count == 0)
            Error(1, "There are no features.");
        Tree(tree);
        foreach (var constraint in constraints)
            Constraint(constraint);
    }

    // ---- The tree -----------------------------------------------------------------------------------------------

    private void Tree(List<Line> lines)
    {
        var open = new Stack<(int Indent, Feature? Feature, Group? Group)>();
        foreach (var line in lines)
        {
            while (open.TryPeek(out var top) && top.Indent >= line.Indent)
                open.Pop();
            var above = open.TryPeek(out var found) ? found : default;
            if (open.Count > DeepestTree)
            {
                Error(line.Number, $"The tree is deeper than {DeepestTree} levels.");
                return;
            }
            if (IsGroup(line.Text))
            {
                if (above.Feature is null)
                {
                    Error(line.Number, $"“{line.Text}” stands below no feature.");
                    continue;
                }
                var group = new Group(line.Text, line.Number, above.Feature);
                _groups.Add(group);
                open.Push((line.Indent, null, group));
                continue;
            }
            if (above.Group is null && above.Feature is not null)
            {
                Error(line.Number, $"A feature stands in a group: mandatory, optional, alternative, or, [n..m].");
                continue;
            }
            if (above.Group is null && _inOrder.Count > 0)
            {
                Error(line.Number, "There is one root feature.");
                continue;
            }
            if (ReadFeature(line, above.Group?.Parent) is not { } feature)
                continue;
            above.Group?.Members.Add(feature);
            open.Push((line.Indent, feature, null));
        }
        if (_inOrder.Count > 0)
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

    private Feature? ReadFeature(Line line, Feature? parent)
    {
        var tokens = UvlTokens.Of(line.Text, out var wrong);
        if (wrong is not null)
        {
            Error(line.Number, wrong);
            return null;
        }
        var at = 0;
        var type = tokens.Count > 1 && tokens[0].Kind == UvlTokenKind.Name && tokens[1].Kind == UvlTokenKind.Name && tokens[0].Text is "Boolean" or "Integer" or "Real" or "String" ? tokens[at++].Text : "Boolean";
        if (at >= tokens.Count || tokens[at].Kind != UvlTokenKind.Name)
        {
            Error(line.Number, "Here stands the name of a feature.");
            return null;
        }
        var name = tokens[at++].Text;
        if (_features.TryGetValue(name, out var twice))
        {
            Error(line.Number, $"The feature “{name}” is there already, in line {twice.Line}.");
            return null;
        }
        var feature = new Feature(name, line.Number, parent) { Id = $"f{_inOrder.Count}", Type = type };
        if (type == "Integer")
            feature.NumberId = $"n{_inOrder.Count}";
        else if (type != "Boolean")
            Unread(line.Number, $"The {(type == "Real" ? "number" : "text")} of the {type} feature “{name}” has no counterpart; the feature itself is yes or no.");
        _features[name] = feature;
        _inOrder.Add(feature);
        if (at < tokens.Count && tokens[at].Text == "cardinality")
        {
            Unread(line.Number, $"“{name}” may be there several times in UVL; here it is there once or not at all.");
            while (at < tokens.Count && tokens[at].Text != "{")
                at++;
        }
        if (at < tokens.Count)
            ReadFigures(feature, line.Number, tokens, at);
        return feature;
    }

    private void ReadFigures(Feature feature, int line, List<UvlToken> tokens, int at)
    {
        if (tokens[at].Text != "{" || tokens[^1].Text != "}")
        {
            Error(line, $"After “{feature.Name}” only its attributes may stand, in braces.");
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
                feature.Figures[name] = (negative ? "-" : "") + value.Text;
            else if (value.Text is "true" or "false")
                feature.Figures[name] = value.Text == "true" ? "yes" : "no";
            else if (name != "abstract")
                Unread(line, $"The attribute “{name}” of “{feature.Name}” is neither a number nor true or false.");
            // What cannot be read as one value goes up to the next comma on this level.
            for (var depth = 0; at < tokens.Count - 1 && (depth > 0 || tokens[at].Text != ","); at++)
                depth += tokens[at].Text is "[" or "{" ? 1 : tokens[at].Text is "]" or "}" ? -1 : 0;
            at++;
        }
    }

    // ---- Rules --------------------------------------------------------------------------------------------------

    private static string Ref(string id) => $"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}";

    private void Rule(int line, string expression)
    {
        var id = $"L{line}";
        for (var more = 2; !_ids.Add(id); more++)
            id = $"L{line}.{more}";
        _rules.Add(new StatementRule { Id = id, Number = ++_number, Expression = expression });
    }

    private void TreeRules()
    {
        Rule(_inOrder[0].Line, Ref(_inOrder[0].Id));
        foreach (var group in _groups)
        {
            var parent = Ref(group.Parent.Id);
            foreach (var member in group.Members)
                Rule(member.Line, group.Keyword == "mandatory" ? $"{Ref(member.Id)} = {parent}" : $"if {Ref(member.Id)} then {parent}");
            if (group.Members.Count == 0)
                Error(group.Line, $"The group “{group.Keyword}” has no features.");
            else if (group.Keyword is not ("mandatory" or "optional"))
                GroupRules(group, parent, $"({string.Join(", ", group.Members.Select(m => Ref(m.Id)))})");
        }
    }

    private void GroupRules(Group group, string parent, string members)
    {
        var count = group.Members.Count;
        var (least, most) = group.Keyword switch { "alternative" => (1, (int?)1), "or" => (1, null), _ => Cardinality(group.Keyword)!.Value };
        if (least > count)
            Error(group.Line, $"{group.Keyword} asks for more features than the {count} that are there.");
        if (least > 0)
            Rule(group.Line, least == 1 ? $"if {parent} then {string.Join(" or ", group.Members.Select(m => Ref(m.Id)))}" : $"if {parent} then at least {least} of {members}");
        // Members need their parent, so that the upper end holds whether it is there or not.
        if (most is { } limit && limit < count)
            Rule(group.Line, $"at most {limit} of {members}");
    }

    // ---- The model ----------------------------------------------------------------------------------------------

    private ModelPackage Package()
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        var rows = new List<Row>();
        foreach (var feature in _inOrder)
        {
            rows.Add(new AttributeRow { Id = feature.Id, Name = Unique(feature.Name, feature.Line), Type = AttributeType.YesNo, Required = true });
            if (feature.NumberId.Length > 0)
                rows.Add(new AttributeRow
                {
                    Id = feature.NumberId,
                    Name = Unique(feature.Name + " number", feature.Line),
                    AppliesWhen = Ref(feature.Id),
                    Type = AttributeType.Whole,
                    Min = (-FarthestInteger).ToString(System.Globalization.CultureInfo.InvariantCulture),
                    Max = FarthestInteger.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    Required = true,
                });
        }
        if (_inOrder.Any(f => f.NumberId.Length > 0))
            Unread(_inOrder.First(f => f.NumberId.Length > 0).Line, $"Integer features have no range in UVL; here they go from -{FarthestInteger} to {FarthestInteger}.");
        var root = _inOrder[0];
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
            for (var more = 2; !names.Add(ModelIndex.Fold(unique)); more++)
                unique = $"{wanted}_{more}";
            if (unique != name)
                Unread(line, $"“{name}” is called “{unique}” here: case makes no difference in names, and quotes cannot stand in them.");
            return unique;
        }
    }

    private static string CodeOf(string name)
    {
        var code = new string([.. name.Where(c => char.IsLetterOrDigit(c) || c is '-' or '_').Take(20)]).ToUpperInvariant();
        return code.Length == 0 ? "UVL" : code;
    }
}
