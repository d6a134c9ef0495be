using NetArchTest.Rules;

namespace Juniperfall.Core.Tests;

public class Architecture
{
    [Fact]
    public void The_core_knows_no_files_web_or_database()
    {
        var result = Types.InAssembly(typeof(Core.Models.ModelDocument).Assembly).ShouldNot()
            .HaveDependencyOnAny("Juniperfall.Formats", "Juniperfall.Cli", "System.IO", "System.Net", "Npgsql", "Microsoft.AspNetCore").GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }
}
