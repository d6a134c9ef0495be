using Juniperfall.Core.Models.Document;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;
using NetArchTest.Rules;

namespace Juniperfall.Core.Tests;

/// <summary>The walls of the house: which room needs which, and how large things may become.</summary>
public class Architecture
{
    private const int MostFileLines = 500, MostMethodLines = 60, MostTypeLines = 1_000, MostColumns = 160;

    /// <summary>The rooms of models and of reasoning, and what each of them needs; what is not listed is refused, and what is listed is needed.</summary>
    private static readonly Dictionary<string, Dictionary<string, string[]>> Arrows = new()
    {
        ["Models"] = new()
        {
            ["Texts"] = [],
            ["Library"] = ["Texts"],
            ["Document"] = ["Texts", "Library"],
            ["Binding"] = ["Texts", "Library", "Document"],
            ["Editing"] = ["Texts", "Library", "Document", "Binding"],
            ["Reuse"] = ["Library", "Document", "Binding", "Editing"],
            ["Differences"] = ["Library", "Document"],
        },
        ["Reasoning"] = new()
        {
            ["Numbers"] = [],
            ["Networks"] = ["Numbers"],
            ["Evaluation"] = ["Numbers", "Networks"],
            ["Symmetry"] = ["Networks"],
            ["Networks.Building"] = ["Numbers", "Networks", "Symmetry"],
            ["Propagation"] = ["Numbers", "Networks", "Evaluation"],
            ["Solver"] = ["Numbers", "Networks", "Evaluation", "Propagation"],
            ["Discrete"] = ["Numbers", "Networks", "Evaluation", "Symmetry", "Propagation", "Solver"],
            ["Counting"] = ["Numbers", "Networks", "Propagation"],
            ["Diagrams"] = ["Numbers", "Networks", "Discrete", "Counting"],
            ["Asking"] = ["Numbers", "Networks", "Networks.Building", "Evaluation", "Propagation", "Solver", "Discrete", "Diagrams"],
            ["Explaining"] = ["Numbers", "Networks", "Evaluation", "Solver", "Asking"],
            ["Answering"] = ["Numbers", "Networks", "Networks.Building", "Evaluation", "Symmetry", "Propagation", "Solver", "Discrete", "Diagrams", "Asking",
                "Explaining"],
            ["Enumerating"] = ["Numbers", "Networks", "Networks.Building", "Symmetry", "Propagation", "Solver", "Counting", "Asking", "Answering"],
        },
    };

    /// <summary>What is still larger than it may be. Each is to be mended and then taken out of here.</summary>
    private static readonly HashSet<string> StillTooLarge = ["Printer.Write"];

    internal static string Root { get; } = FindRoot();

    private static string FindRoot()
    {
        for (var at = new DirectoryInfo(AppContext.BaseDirectory); at is not null; at = at.Parent)
            if (at.GetFiles("Juniperfall.slnx").Length > 0)
                return at.FullName;
        throw new InvalidOperationException("The tests do not run inside the repository.");
    }

    private static IEnumerable<(string Path, SyntaxTree Tree)> Sources(string folder) =>
        Directory.EnumerateFiles(Path.Combine(Root, folder), "*.cs", SearchOption.AllDirectories)
        .Where(f => !f.Contains($"{Path.DirectorySeparatorChar}obj{Path.DirectorySeparatorChar}")
            && !f.Contains($"{Path.DirectorySeparatorChar}bin{Path.DirectorySeparatorChar}"))
        .Select(f => (Path.GetRelativePath(Root, f), CSharpSyntaxTree.ParseText(File.ReadAllText(f))));

    private static int LinesOf(SyntaxNode node) => node.GetLocation().GetLineSpan() is var span
        ? span.EndLinePosition.Line - span.StartLinePosition.Line + 1 : 0;

    [Fact]
    public void The_core_knows_no_files_web_or_database()
    {
        var result = Types.InAssembly(typeof(ModelDocument).Assembly).ShouldNot()
            .HaveDependencyOnAny("Juniperfall.Formats", "Juniperfall.Cli", "System.IO", "System.Net", "Npgsql", "Microsoft.AspNetCore").GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Theory]
    [InlineData("Reasoning")]
    [InlineData("Models")]
    public void The_rooms_need_what_is_listed_and_nothing_else(string house)
    {
        var (prefix, arrows) = ($"Juniperfall.Core.{house}.", Arrows[house]);
        var types = typeof(ModelDocument).Assembly.GetTypes().Where(t => t.Namespace?.StartsWith(prefix, StringComparison.Ordinal) ?? false).ToList();
        Assert.Equal(arrows.Keys.Order(), types.Select(t => t.Namespace![prefix.Length..]).Distinct().Order());
        var used = Sources($"src/Juniperfall.Core/{house}").SelectMany(s => RoomsUsed(s.Tree, types, prefix)).Distinct().ToList();
        foreach (var (room, needs) in arrows)
            Assert.Equal($"{room}: {string.Join(", ", needs.Order())}",
                $"{room}: {string.Join(", ", used.Where(u => u.From == room).Select(u => u.To).Order())}");
    }

    /// <summary>The rooms whose types a file names.</summary>
    private static IEnumerable<(string From, string To)> RoomsUsed(SyntaxTree tree, List<Type> types, string house)
    {
        var root = tree.GetRoot();
        if (root.DescendantNodes().OfType<BaseNamespaceDeclarationSyntax>().FirstOrDefault()?.Name.ToString() is not { } space
            || !space.StartsWith(house, StringComparison.Ordinal))
            yield break;
        var imported = root.DescendantNodes().OfType<UsingDirectiveSyntax>().Select(u => u.Name!.ToString()).ToHashSet();
        var parents = types.Select(t => t.Namespace!).Where(s => space.StartsWith(s + ".", StringComparison.Ordinal)).ToHashSet();
        var names = root.DescendantTokens(descendIntoTrivia: false).Where(t => t.IsKind(SyntaxKind.IdentifierToken)).Select(t => t.ValueText).ToHashSet();
        foreach (var type in types)
            if (type.Namespace != space && (imported.Contains(type.Namespace!) || parents.Contains(type.Namespace!)) && names.Contains(type.Name.Split('`')[0]))
                yield return (space[house.Length..], type.Namespace![house.Length..]);
    }

    [Fact]
    public void Reasoning_says_nothing_in_words()
    {
        var sentences = Sources("src/Juniperfall.Core/Reasoning").SelectMany(s => s.Tree.GetRoot().DescendantNodes()
            .Where(n => n is LiteralExpressionSyntax { RawKind: (int)SyntaxKind.StringLiteralExpression } or InterpolatedStringExpressionSyntax)
            // What an exception says is read by whoever mends the program.
            .Where(n => !n.Ancestors().OfType<BaseObjectCreationExpressionSyntax>().Any(c => c.ToString().Contains("Exception("))
                && n.ToString().Count(c => c == ' ') >= 2)
            .Select(n => $"{s.Path}: {n}"));
        Assert.True(!sentences.Any(), string.Join("\n", sentences));
    }

    [Fact]
    public void Files_methods_and_types_fit_in_the_head()
    {
        var (tooLarge, mended) = (new List<string>(), StillTooLarge.ToHashSet());
        var types = new Dictionary<string, int>();
        foreach (var (path, tree) in Sources("src/Juniperfall.Core"))
        {
            if (tree.GetText().Lines.Count - 1 > MostFileLines && !mended.Remove(Path.GetFileName(path)))
                tooLarge.Add($"{path}: {tree.GetText().Lines.Count - 1} lines");
            tooLarge.AddRange(tree.GetText().Lines.Where(l => l.Span.Length > MostColumns).Select(l => $"{path}({l.LineNumber + 1}): {l.Span.Length} columns"));
            foreach (var method in tree.GetRoot().DescendantNodes().OfType<BaseMethodDeclarationSyntax>().Where(m => LinesOf(m) > MostMethodLines))
                if ($"{Path.GetFileNameWithoutExtension(path)}.{(method as MethodDeclarationSyntax)?.Identifier.ValueText}" is var name && !mended.Remove(name))
                    tooLarge.Add($"{path}: {name} has {LinesOf(method)} lines");
            foreach (var type in tree.GetRoot().DescendantNodes().OfType<TypeDeclarationSyntax>())
            {
                if (type.Modifiers.Any(SyntaxKind.PartialKeyword))
                    tooLarge.Add($"{path}: {type.Identifier.ValueText} is partial");
                types[type.Identifier.ValueText] = types.GetValueOrDefault(type.Identifier.ValueText) + LinesOf(type);
            }
        }
        tooLarge.AddRange(types.Where(t => t.Value > MostTypeLines).Select(t => $"{t.Key} has {t.Value} lines"));
        tooLarge.AddRange(mended.Select(m => $"{m} is no longer too large; take it out of the list"));
        Assert.True(tooLarge.Count == 0, string.Join("\n", tooLarge));
    }
}
