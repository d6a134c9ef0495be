using MimeKit;

namespace Juniperfall.Server.People;

/// <summary>
/// Letters to people, each as a file (RFC 5322) in the folder that the setting Mail names, from where a mail server or a person takes
/// them. Without the setting none can be sent.
/// </summary>
public sealed class Mail(IConfiguration configuration, TimeProvider clock)
{
    private readonly string? _folder = configuration["Mail"] is { Length: > 0 } folder ? folder : null;

    public bool IsPossible => _folder is not null;

    /// <summary>Where the pages are that a letter links to: the setting Address where the server does not know how it is reached.</summary>
    public string BaseOf(HttpRequest request) => configuration["Address"] is { Length: > 0 } address
        ? address.TrimEnd('/') : $"{request.Scheme}://{request.Host}";

    /// <exception cref="InvalidOperationException">The setting Mail is missing.</exception>
    public async Task Send(string display, string address, string subject, string text, CancellationToken cancel)
    {
        var folder = _folder ?? throw new InvalidOperationException("The setting Mail is missing.");
        Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        using var message = new MimeMessage
        {
            Date = clock.GetUtcNow(),
            Subject = subject,
            Body = new TextPart("plain") { Text = text },
        };
        message.From.Add(new MailboxAddress("Juniperfall", "juniperfall@localhost"));
        message.To.Add(new MailboxAddress(display, address));
        var name = $"{clock.GetUtcNow():yyyyMMdd-HHmmss}-{Guid.NewGuid():n}.eml";
        await using var file = new FileStream(Path.Combine(folder, name),
            new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite });
        await message.WriteToAsync(file, cancel);
    }
}
