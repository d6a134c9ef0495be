using System.CommandLine;
using System.Globalization;
using System.Reflection;

namespace Juniperfall.Cli;

/// <summary>The commands with their arguments and options: what --help lists and the shell completes.</summary>
public static class CommandLine
{
    private const string ExitCodes =
        "Exit codes: 0 done, 1 no complete configuration or not buildable, 2 wrong input, 3 the time limit was reached or the database cannot be.";

    public static string Version { get; } = typeof(CommandLine).Assembly
        .GetCustomAttribute<AssemblyInformationalVersionAttribute>()?.InformationalVersion ?? "0";

    /// <summary>Runs a command line; wrong ones get a sentence, the usage of their command, and exit code 2.</summary>
    public static async Task<int> Run(string[] arguments, TextWriter output, TextWriter errors)
    {
        var root = Root(output, errors);
        var parsed = root.Parse(arguments);
        if (parsed.Errors.Count > 0 && parsed.Action is not System.CommandLine.Help.HelpAction)
        {
            foreach (var error in parsed.Errors.Select(e => e.Message).Distinct())
                errors.WriteLine(error);
            errors.WriteLine($"juniperfall {(parsed.CommandResult.Command is RootCommand ? "--help" : $"help {parsed.CommandResult.Command.Name}")} says "
                + $"what there is.");
            return Commands.WrongInput;
        }
        return await parsed.InvokeAsync(new InvocationConfiguration { Output = output, Error = errors, EnableDefaultExceptionHandler = false });
    }

    private static RootCommand Root(TextWriter output, TextWriter errors)
    {
        var root = new RootCommand($"Configuration models: checked, answered, built. {ExitCodes}");
        var file = new Argument<string>("FILE") { Description = "A model file; “-” reads it from standard input." };
        var picks = new Option<string[]>("--pick")
        {
            Description = "A pick, NAME=VALUE; repeatable, in the order made.",
            HelpName = "NAME=VALUE",
            DefaultValueFactory = _ => []
        };
        var site = new Option<string?>("--site") { Description = "The code of the site that it is for." };
        var date = new Option<string?>("--date") { Description = "The day that it is for, YYYY-MM-DD." };
        var limit = new Option<double>("--limit")
        {
            Description = "The time limit for everything together, in seconds.",
            HelpName = "SECONDS",
            DefaultValueFactory = _ => 60
        };
        limit.Validators.Add(result =>
        {
            if (result.Tokens is [var token]
                && !(double.TryParse(token.Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var seconds) && seconds is >= 0 and <= 86_400))
                result.AddError($"“{token.Value}” is no time limit; it is a number of seconds up to 86400.");
        });
        AskedFor Asked(ParseResult parsed) => new(parsed.GetValue(picks) ?? [], parsed.GetValue(site), parsed.GetValue(date), Limit(parsed));
        TimeSpan Limit(ParseResult parsed) => TimeSpan.FromSeconds(parsed.GetValue(limit));

        var checkFormat = new Option<string>("--format") { Description = "Lines of FILE:LINE:COLUMN, or SARIF.", DefaultValueFactory = _ => "text" };
        checkFormat.AcceptOnlyFromAmong("text", "sarif");
        Add("check", "Every fault of a model file at its place.", [file], [checkFormat, limit], p =>
            Commands.Check(p.GetRequiredValue(file), p.GetValue(checkFormat) == "sarif", Limit(p), output, errors));

        Add("answer", "What can still be chosen, what follows, what is computed.", [file], [picks, site, date, limit], p =>
            Commands.Answer(p.GetRequiredValue(file), Asked(p), output, errors));

        var any = new Argument<string>("FILE") { Description = "A model file, or UVL by its ending .uvl; “-” reads a model file from standard input." };
        var why = new Option<string?>("--why") { Description = "One smallest reason why a value cannot be had, or why it follows.", HelpName = "NAME=VALUE" };
        var waysOut = new Option<string?>("--ways-out")
        {
            Description = "Smallest sets of picks to change, out of a clash or towards a wanted value.",
            HelpName = "NAME=VALUE",
            Arity = ArgumentArity.ZeroOrOne
        };
        var complete = new Option<string?>("--complete")
        {
            Description = "Fills in what is open: by suggestions, or for lowest:NAME or highest:NAME.",
            HelpName = "lowest:NAME",
            Arity = ArgumentArity.ZeroOrOne
        };
        var count = new Option<bool>("--count") { Description = "How many complete configurations there are." };
        var explore = new Option<int>("--explore") { Description = "The first so many complete configurations.", HelpName = "N" };
        explore.Validators.Add(result =>
        {
            if (result.Tokens is [var token] && !(int.TryParse(token.Value, out var most) && most is > 0 and <= 100_000))
                result.AddError($"“{token.Value}” is no number from 1 to 100000.");
        });
        var pairs = new Option<bool>("--pairs") { Description = "A few configurations in which every pair of values stands that can stand together." };
        var health = new Option<bool>("--health") { Description = "What analysis finds in the model as a whole." };
        var analyzeFormat = new Option<string>("--format") { Description = "JSON or text.", DefaultValueFactory = _ => "json" };
        analyzeFormat.AcceptOnlyFromAmong("json", "text");
        Add("analyze", "The answer and more, as JSON: docs/cli.md.", [any],
            [picks, site, date, why, waysOut, complete, count, explore, pairs, health, limit, analyzeFormat], p =>
            AnalyzeCommands.Analyze(p.GetRequiredValue(any), Asked(p),
                new(p.GetValue(why), Optional(p, waysOut), Optional(p, complete), p.GetValue(count), p.GetValue(explore), p.GetValue(pairs),
                p.GetValue(health)), p.GetValue(analyzeFormat) == "text", output, errors));

        var above = new Option<string[]>("--above")
        {
            Description = "Two attributes: the deepest place that holds both is told.",
            HelpName = "NAME",
            Arity = new(2, 2),
            AllowMultipleArgumentsPerToken = true,
            DefaultValueFactory = _ => []
        };
        Add("measure", "How many configurations, what is in all of them or none, what goes together: docs/analysis.md.", [any],
            [picks, site, date, above, limit], p =>
            MeasureCommands.Measure(p.GetRequiredValue(any), Asked(p), p.GetValue(above) ?? [], output, errors));

        var to = new Option<string[]>("--to")
        {
            Description = "What the last configuration has; repeatable.",
            HelpName = "NAME=VALUE",
            Required = true
        };
        var changes = Count("--changes", "How many answers a step may change.", 1, 20);
        var steps = Count("--steps", "How many steps there may be.", 10, 1_000);
        Add("steps", "From one configuration to another over configurations that each stand, in the fewest steps.", [any],
            [picks, site, date, to, changes, steps, limit], p =>
            MeasureCommands.Steps(p.GetRequiredValue(any), Asked(p), p.GetValue(to) ?? [], p.GetValue(changes), p.GetValue(steps), output, errors));

        var after = new Argument<string>("AFTER") { Description = "The same model, edited." };
        Add("difference", "What an edit means: which configurations only one of two model files allows.", [any, after], [limit], p =>
            MeasureCommands.Difference(p.GetRequiredValue(any), p.GetRequiredValue(after), Limit(p), output, errors));

        var lines = new Argument<string>("PICKS") { Description = "A file with a JSON list of picks on each line; “-” reads them from standard input." };
        Add("replay", "One answer for each line of picks, as JSON lines.", [any, lines], [limit], p =>
            AnalyzeCommands.Replay(p.GetRequiredValue(any), p.GetRequiredValue(lines), Limit(p), output, errors));

        var junit = new Option<string?>("--junit") { Description = "Where a JUnit XML report is written.", HelpName = "FILE" };
        var coverage = new Option<bool>("--coverage") { Description = "Lists what no case reaches." };
        var record = new Option<bool>("--record") { Description = "Writes FILE with what comes out now, for cases that expect nothing yet." };
        Add("test", "The test cases of a model file, each held against what comes out.", [file], [junit, coverage, record, limit], p =>
            p.GetValue(record) ? TestCommand.Record(p.GetRequiredValue(file), Limit(p), output, errors)
            : TestCommand.Test(p.GetRequiredValue(file), p.GetValue(junit), p.GetValue(coverage), Limit(p), output, errors));

        Add("uvl", "A model file as UVL, as far as UVL goes; the rest is listed.", [file], [], p =>
            Commands.WriteUvl(p.GetRequiredValue(file), output, errors));

        var other = new Argument<string>("OTHER") { Description = "The model file that is taken in." };
        var entry = new Option<string>("--entry") { Description = "The entry that it is held under.", HelpName = "ID", DefaultValueFactory = _ => "" };
        var revision = new Option<int?>("--revision") { Description = "The number of its revision.", HelpName = "NUMBER" };
        revision.Validators.Add(result =>
        {
            if (result.Tokens is [var token] && !(int.TryParse(token.Value, out var number) && number > 0))
                result.AddError($"“{token.Value}” is no revision; they are counted from 1.");
        });
        Add("reuse", "FILE with the model of OTHER taken in, to fill subassemblies.", [file, other], [entry, revision], p =>
            ReuseCommand.Run(p.GetRequiredValue(file), p.GetRequiredValue(other), p.GetValue(entry)!, p.GetValue(revision), output, errors));

        var quantity = new Option<string>("--quantity") { Description = "How many are ordered.", HelpName = "N", DefaultValueFactory = _ => "1" };
        var customers = new Option<string?>("--customer-class") { Description = "Whose price is told.", HelpName = "CODE" };
        var structureFormat = new Option<string>("--format") { Description = "How it is written.", DefaultValueFactory = _ => "text" };
        structureFormat.AcceptOnlyFromAmong("text", "json", "csv", "b2mml");
        var table = new Option<string>("--table") { Description = "Which table csv writes.", DefaultValueFactory = _ => "bom" };
        table.AcceptOnlyFromAmong("bom", "routing", "consumption", "load", "totals", "answers");
        var draft = new Option<bool>("--draft") { Description = "Builds a model with faults, too, without what is faulty." };
        Add("structure", "The bill of materials and the routings of one configuration.", [file],
            [picks, site, date, quantity, customers, structureFormat, table, draft, limit], p =>
            StructureCommand.Structure(p.GetRequiredValue(file), Asked(p), p.GetValue(quantity)!, p.GetValue(customers), p.GetValue(structureFormat)!,
                p.GetValue(table)!, p.GetValue(draft), output, errors));

        var code = new Argument<string>("PRODUCT") { Description = "The code of a product, in any case." };
        var number = new Argument<string?>("REVISION") { Description = "The number of a revision; the latest without it.", Arity = ArgumentArity.ZeroOrOne };
        AddAsync("export", "A revision as a model file, from the database.", [code, number], [], p =>
            DatabaseCommands.Export(p.GetRequiredValue(code), p.GetValue(number), output, errors));

        var person = new Option<string>("--as")
        {
            Description = "The sign-in name of the product engineer whose draft it becomes.",
            HelpName = "PERSON",
            Required = true
        };
        AddAsync("import", "A model file (or UVL) into the database, as a new product or the next draft.", [any], [person], p =>
            DatabaseCommands.Import(p.GetRequiredValue(any), p.GetRequiredValue(person), output, errors));

        var administrator = new Argument<string>("NAME") { Description = "A sign-in name." };
        var display = new Option<string?>("--display") { Description = "The name as others read it.", HelpName = "NAME" };
        var mail = new Option<string?>("--mail") { Description = "The mail address.", HelpName = "ADDRESS" };
        AddAsync("administrator", "A link to choose a password, for a new administrator or one who cannot get in.", [administrator], [display, mail], p =>
            DatabaseCommands.Administrator(p.GetRequiredValue(administrator), p.GetValue(display), p.GetValue(mail), output, errors));

        var schema = new Argument<string>("WHICH") { Description = "model or structure.", DefaultValueFactory = _ => "model" };
        schema.AcceptOnlyFromAmong("model", "structure");
        Add("schema", "The JSON Schema of the model file, or of a structure.", [schema], [], p => Commands.Schema(p.GetValue(schema) == "structure", output));

        var about = new Argument<string[]>("COMMAND") { Description = "A command.", Arity = ArgumentArity.ZeroOrMore };
        AddAsync("help", "What a command takes.", [about], [], p =>
            root.Parse([.. p.GetValue(about) ?? [], "--help"]).InvokeAsync(new InvocationConfiguration { Output = output, Error = errors }));

        var shell = new Argument<string>("SHELL") { Description = "bash or zsh." };
        shell.AcceptOnlyFromAmong("bash", "zsh");
        Add("completion", "A script that completes commands and options in a shell: source <(juniperfall completion bash)", [shell], [], p =>
            Completion(p.GetRequiredValue(shell), output));
        return root;

        void Add(string name, string description, Argument[] of, Option[] options, Func<ParseResult, int> run) =>
            AddAsync(name, description, of, options, p => Task.FromResult(run(p)));

        void AddAsync(string name, string description, Argument[] of, Option[] options, Func<ParseResult, Task<int>> run)
        {
            var command = new Command(name, description);
            foreach (var argument in of)
                command.Arguments.Add(argument);
            foreach (var option in options)
                command.Options.Add(option);
            command.SetAction((parsed, _) => run(parsed));
            root.Subcommands.Add(command);
        }

        static Option<int> Count(string name, string description, int without, int most)
        {
            var option = new Option<int>(name) { Description = description, HelpName = "N", DefaultValueFactory = _ => without };
            option.Validators.Add(result =>
            {
                if (result.Tokens is [var token] && !(int.TryParse(token.Value, out var number) && number >= 1 && number <= most))
                    result.AddError($"“{token.Value}” is no number from 1 to {most}.");
            });
            return option;
        }

        // Null where the option is not there, empty where it stands without a value.
        static string? Optional(ParseResult parsed, Option<string?> option) => parsed.GetResult(option) is null ? null : parsed.GetValue(option) ?? "";
    }

    private static int Completion(string shell, TextWriter output)
    {
        if (shell == "zsh")
            output.WriteLine("autoload -U +X bashcompinit && bashcompinit");
        output.WriteLine("""
            _juniperfall() {
              local IFS=$'\n'
              COMPREPLY=( $(compgen -W "$("${COMP_WORDS[0]}" "[suggest:${COMP_POINT}]" "${COMP_LINE}" 2>/dev/null)" -- "${COMP_WORDS[COMP_CWORD]}") )
            }
            complete -o default -F _juniperfall juniperfall
            """);
        return Commands.Valid;
    }
}
