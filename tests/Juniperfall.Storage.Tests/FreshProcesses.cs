using System.Diagnostics;
using System.Text.Json;

namespace Juniperfall.Storage.Tests;

/// <summary>What a process answers that knows nothing yet is what one answers that has answered a whole session.</summary>
public sealed class FreshProcesses : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("juniperfall").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public void Each_question_of_a_session_is_answered_alike_by_a_process_of_its_own()
    {
        string[] session =
        [
            """[]""",
            """[{"name":"kind","value":"sliding"}]""",
            """[{"name":"kind","value":"sliding"},{"name":"clear_width","value":"1200"}]""",
            """[{"name":"clear_width","value":"1200"},{"name":"kind","value":"hinged"}]""",
            """[{"name":"kind","value":"hinged"}]""",
        ];
        var warm = Answers(session);
        Assert.Equal(session.Length, warm.Count);
        Assert.Equal(session.Length, warm.Distinct().Count());
        for (var line = 0; line < session.Length; line++)
            Assert.Equal(Assert.Single(Answers(session[line])), warm[line]);
    }

    /// <summary>The answers of one process to some questions, without their times.</summary>
    private List<string> Answers(params string[] questions)
    {
        var picks = Path.Combine(_folder, "picks.jsonl");
        File.WriteAllLines(picks, questions);
        var model = Path.Combine(Path.GetDirectoryName(CommandsOnTheDatabase.Demo())!, "door-set.json");
        using var process = Process.Start(new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "juniperfall.dll"), "replay", model, picks])
        { RedirectStandardOutput = true })!;
        var said = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        Assert.Equal(0, process.ExitCode);
        return [.. said.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(WithoutTimes)];
    }

    private static string WithoutTimes(string answer)
    {
        using var json = JsonDocument.Parse(answer);
        return string.Join(",", json.RootElement.EnumerateObject().Where(m => m.Name != "ms").Select(m => $"{m.Name}:{m.Value.GetRawText()}"));
    }
}
