using Juniperfall.Cli;

return args switch
{
    ["check", var file] => Commands.Check(file, Console.Out, Console.Error),
    ["answer", var file, .. var options] => Commands.Answer(file, options, Console.Out, Console.Error),
    ["structure", var file, .. var options] => StructureCommand.Structure(file, options, Console.Out, Console.Error),
    ["analyze", var file, .. var options] => AnalyzeCommands.Analyze(file, options, Console.Out, Console.Error),
    ["replay", var file, var picks] => AnalyzeCommands.Replay(file, picks, Console.Out, Console.Error),
    ["reuse", var file, var other, .. var options] => ReuseCommand.Run(file, other, options, Console.Out, Console.Error),
    ["uvl", var file] => Commands.WriteUvl(file, Console.Out, Console.Error),
    ["export", var code] => await DatabaseCommands.Export(code, null, Console.Out, Console.Error),
    ["export", var code, var number] => await DatabaseCommands.Export(code, number, Console.Out, Console.Error),
    ["import", var file, "--as", var person] => await DatabaseCommands.Import(file, person, Console.Out, Console.Error),
    ["schema"] => Commands.Schema(false, Console.Out),
    ["schema", "structure"] => Commands.Schema(true, Console.Out),
    _ => Commands.Usage(Console.Error),
};
