using System.Diagnostics;

namespace Juniperfall.Server.Structures;

/// <summary>Prints pages as PDF by Debian's Chromium, which stands on the server; one at a time.</summary>
public sealed class PdfPrinter(IWebHostEnvironment environment)
{
    private static readonly string[] Browsers = ["/usr/bin/chromium", "/usr/bin/chromium-browser"];
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(60);
    private readonly SemaphoreSlim _one = new(1);
    private readonly Lazy<string?> _font = new(() => FindFont(environment.WebRootPath));

    /// <summary>The font of the pages as a data URI; null where the front end is not built.</summary>
    public string? Font => _font.Value;

    private static string? FindFont(string? root) => root is null || !Directory.Exists(Path.Combine(root, "assets")) ? null
        : Directory.GetFiles(Path.Combine(root, "assets"), "*.woff2")
            .Where(f => Path.GetFileName(f).StartsWith("hanken", StringComparison.OrdinalIgnoreCase)
            && f.Contains("latin-wght-normal", StringComparison.Ordinal) && !f.Contains("ext", StringComparison.Ordinal)).Order(StringComparer.Ordinal)
            .FirstOrDefault() is { } file
            ? "data:font/woff2;base64," + Convert.ToBase64String(File.ReadAllBytes(file)) : null;

    /// <summary>The PDF of a page; null where there is no browser, or it did not finish in time.</summary>
    public async Task<byte[]?> Print(string html, CancellationToken cancel)
    {
        if (Array.Find(Browsers, File.Exists) is not { } browser)
            return null;
        await _one.WaitAsync(cancel);
        var folder = Directory.CreateTempSubdirectory("juniperfall-print-").FullName;
        try
        {
            var (page, pdf) = (Path.Combine(folder, "page.html"), Path.Combine(folder, "page.pdf"));
            await File.WriteAllTextAsync(page, html, cancel);
            using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            limit.CancelAfter(Limit);
            using var process = Process.Start(new ProcessStartInfo(browser,
            [
                "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync",
                $"--user-data-dir={folder}/profile", "--no-pdf-header-footer", $"--print-to-pdf={pdf}", new Uri(page).AbsoluteUri,
            ])
            { RedirectStandardError = true, RedirectStandardOutput = true })!;
            try
            {
                var (errors, output) = (process.StandardError.ReadToEndAsync(limit.Token), process.StandardOutput.ReadToEndAsync(limit.Token));
                await process.WaitForExitAsync(limit.Token);
                await Task.WhenAll(errors, output);
            }
            catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
            {
                return null;
            }
            finally
            {
                if (!process.HasExited)
                    process.Kill(entireProcessTree: true);
            }
            return File.Exists(pdf) ? await File.ReadAllBytesAsync(pdf, cancel) : null;
        }
        finally
        {
            _one.Release();
            Directory.Delete(folder, recursive: true);
        }
    }
}
