using Juniperfall.Storage;
using Microsoft.AspNetCore.Identity;

namespace Juniperfall.Server.People;

/// <summary>How passwords are kept, and which are good enough: long ones that are not put together from what everyone tries first.</summary>
public static class Passwords
{
    public const int Shortest = 12;

    /// <summary>A longer password is not looked at; hashing it would take time.</summary>
    public const int Longest = 1_000;

    /// <summary>So many characters have to be left once each common word counts as one.</summary>
    private const int FewestParts = 6;

    private const int ShortestWord = 4;

    private static readonly PasswordHasher<Person> Hasher = new();
    // Checked where there is no such person or no password, so that the time taken does not tell.
    private static readonly string NobodysHash = Hasher.HashPassword(null!, "nobody");
    private static readonly Lazy<HashSet<string>> Common = new(ReadCommon);

    public static string Hash(string password) => Hasher.HashPassword(null!, password);

    /// <summary>Whether it is the password of a person who has one.</summary>
    public static bool IsOf(Person? person, string password)
    {
        if (password.Length > Longest)
            return false;
        var hash = person?.Password is { Length: > 0 } own ? own : null;
        return Hasher.VerifyHashedPassword(null!, hash ?? NobodysHash, password) != PasswordVerificationResult.Failed && hash is not null;
    }

    /// <summary>Why a password is not taken; null where it is.</summary>
    public static string? Objection(string password, Person person)
    {
        if (password.Length < Shortest)
            return $"A password has at least {Shortest} characters; this one has {password.Length}. A few words that have nothing to do with each other "
                + $"are easy to keep in mind.";
        if (password.Length > Longest)
            return $"A password has at most {Longest} characters.";
        if (Common.Value.Contains(password.ToLowerInvariant()))
            return "This password is one of those that everyone tries first. Take another one.";
        var own = $"{person.Name} {person.Display} {person.Mail} juniperfall".ToLowerInvariant()
            .Split([' ', '.', '@', '-'], StringSplitOptions.RemoveEmptyEntries).Where(w => w.Length >= 3).ToHashSet();
        return Parts(password.ToLowerInvariant(), own) < FewestParts
            ? "This password is easy to guess: it is made of common words, names or runs of the same characters. Take another one." : null;
    }

    /// <summary>How many parts a text is put together from: a common word, a name, or a run is one, any other character is one.</summary>
    private static int Parts(string text, HashSet<string> own)
    {
        var fewest = new int[text.Length + 1];
        for (var end = 1; end <= text.Length; end++)
        {
            fewest[end] = fewest[end - 1] + 1;
            for (var length = 2; length <= Math.Min(end, 40); length++)
            {
                var part = text.AsSpan(end - length, length);
                if (fewest[end - length] + 1 < fewest[end] && (IsRun(part) || IsWord(part.ToString(), own)))
                    fewest[end] = fewest[end - length] + 1;
            }
        }
        return fewest[text.Length];
    }

    private static bool IsWord(string part, HashSet<string> own) => own.Contains(part) || (part.Length >= ShortestWord && Common.Value.Contains(part));

    /// <summary>The same distance from each character to the next: aaaa, 1234, dcba.</summary>
    private static bool IsRun(ReadOnlySpan<char> part)
    {
        var step = part[1] - part[0];
        if (part.Length < 3 || Math.Abs(step) > 1)
            return false;
        for (var i = 2; i < part.Length; i++)
            if (part[i] - part[i - 1] != step)
                return false;
        return true;
    }

    private static HashSet<string> ReadCommon()
    {
        using var resource = typeof(Passwords).Assembly.GetManifestResourceStream("common-passwords.txt")!;
        using var lines = new StreamReader(resource);
        var words = new HashSet<string>();
        while (lines.ReadLine() is { } line)
            if (!line.StartsWith('#'))
                words.Add(line);
        return words;
    }
}
