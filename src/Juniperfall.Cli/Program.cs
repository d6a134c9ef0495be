using Juniperfall.Cli;

return await CommandLine.Run(args, Console.Out, Console.Error);
