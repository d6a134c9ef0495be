using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

if (args is ["growth"])
{
    Juniperfall.Bench.Growth.Run("bench/growth.svg");
    return;
}
if (args is ["health", ..])
{
    Juniperfall.Bench.HealthOfModels.Run(args.Length > 1 ? args[1] : "");
    return;
}
if (args is ["sessions", ..])
{
    Juniperfall.Bench.RandomSessions.Run(args.Length > 1 ? int.Parse(args[1]) : 40);
    return;
}
if (args is ["structures"])
{
    Juniperfall.Bench.Structures.Run();
    return;
}
if (args is ["generated", .. var families])
{
    Juniperfall.Bench.Generated.Run(string.Join(" ", families));
    return;
}

// The answer on the demo model: after opening, and after each pick of a session at the order desk. Each line has the
// quickest and the median of several runs with a reasoner of their own, and the share of the first line's quickest.
// The quickest is what the program takes; the median is what a shared machine makes of it.

var package = ModelJson.Read(File.ReadAllBytes(args.Length > 0 ? args[0] : "demo/cold-room.json")).Package!;
var model = new BoundModel(ModelEditor.BindNames(package.Model, package.Library).Document!, package.Library);
var text = new PickText(model);
(string Name, string Value)[] session =
[
    ("duty", "freezer"), ("core", "120"), ("floor", "insulated"), ("length", "6000"), ("width", "3600"), ("height", "2600"), ("goods", "meat"),
        ("goods_per_day", "500"),
    ("doors[1].kind", "sliding"), ("doors[1].clear_width", "1200"), ("cooling.refrigerant", "R449A"), ("cooling.voltage", "400"), ("control", "logging"),
        ("delivery", "assembled"),
    // Changes of what was picked before, and a way back.
    ("length", "5000"), ("duty", "deep_freezer"), ("duty", "freezer"),
];

const int Runs = 20;
var times = new double[session.Length + 4][];
for (var i = 0; i < times.Length; i++)
    times[i] = new double[Runs];
for (var run = -1; run < Runs; run++)
{
    Answer? last = null;
    void Record(int step, Func<Answer> ask)
    {
        var watch = Stopwatch.StartNew();
        last = ask();
        if (run >= 0)
            times[step][run] = watch.Elapsed.TotalMilliseconds;
    }
    Reasoner? reasoner = null;
    Record(0, () => (reasoner = new Reasoner(model)).Answer(new([]), default));
    var picks = new List<Pick>();
    for (var i = 0; i < session.Length; i++)
    {
        var (pick, error) = text.Read(session[i].Name, session[i].Value);
        if (pick is not { } read)
            throw new InvalidOperationException(error);
        var at = picks.FindIndex(p => p.Path == read.Path);
        if (at >= 0)
            picks[at] = read;
        else
            picks.Add(read);
        Record(i + 1, () => reasoner!.Answer(new([.. picks]), default));
    }
    Record(session.Length + 1, () => { reasoner!.Complete(last!, default); return last!; });
    var built = reasoner!.Complete(last!, default)!.Value.ToDictionary(p => p.Path, p => p.Value);
    Record(session.Length + 2, () => { StructureBuilder.Build(model, built); return last!; });
    Record(session.Length + 3, () => new Reasoner(model, previous: reasoner).Answer(new([.. picks]), default));
}

double Median(double[] of) => of.Order().ElementAt(of.Length / 2);
var first = times[0].Min();
Console.WriteLine($"{"step",-34}{"quickest ms",12}{"median ms",12}{"of first",10}");
for (var i = 0; i < times.Length; i++)
    Console.WriteLine($"{(i == 0 ? "open, nothing picked" : i <= session.Length ? $"{session[i - 1].Name} = {session[i - 1].Value}" : i == session.Length + 1 ? "complete" : i == session.Length + 2 ? "structure" : "after an edit of the model"),-34}{times[i].Min(),12:0.0}{Median(times[i]),12:0.0}{times[i].Min() / first,10:0.000}");
