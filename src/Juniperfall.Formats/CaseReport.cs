using System.Globalization;
using System.Xml.Linq;

namespace Juniperfall.Formats;

/// <summary>What became of one test case, for a report.</summary>
/// <param name="Failure">The first difference in a sentence; null where it passed.</param>
/// <param name="IsError">Whether it could not be asked, rather than came out otherwise.</param>
public sealed record ReportedCase(string Name, double Seconds, string? Failure, bool IsError, IReadOnlyList<string> Details);

/// <summary>Test results in the form that build servers read: JUnit XML.</summary>
public static class CaseReport
{
    public static string Write(string suite, IReadOnlyList<ReportedCase> cases) => new XDocument(new XElement("testsuites",
        new XElement("testsuite", new XAttribute("name", Printable(suite)), new XAttribute("tests", cases.Count),
            new XAttribute("failures", cases.Count(c => c is { Failure: not null, IsError: false })), new XAttribute("errors", cases.Count(c => c.IsError)),
            new XAttribute("time", Seconds(cases.Sum(c => c.Seconds))), cases.Select(c => One(suite, c))))) is var document
        ? $"<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n{document}\n" : "";

    private static XElement One(string suite, ReportedCase one) => new("testcase", new XAttribute("classname", Printable(suite)),
        new XAttribute("name", Printable(one.Name)), new XAttribute("time", Seconds(one.Seconds)),
        one.Failure is null ? null : new XElement(one.IsError ? "error" : "failure", new XAttribute("message", Printable(one.Failure)),
            Printable(string.Join('\n', one.Details))));

    private static string Seconds(double seconds) => seconds.ToString("0.000", CultureInfo.InvariantCulture);

    /// <summary>XML 1.0 has no way to write most control characters.</summary>
    private static string Printable(string text) => string.Concat(text.EnumerateRunes().Where(r => r.Value is 9 or 10 or 13 or (>= 32 and < 0xfffe) or > 0xffff));
}
