using System.IO.Compression;
using Juniperfall.Core;

namespace Juniperfall.Formats.Library;

/// <summary>
/// What a zipped workbook comes to once it is unpacked, measured by unpacking it through a small buffer: what it says of itself cannot be
/// believed, and what reads it afterwards holds whole texts.
/// </summary>
internal static class UnpackedSize
{
    /// <summary>Why the workbook is too large to be read; null where it is not.</summary>
    public static string? FaultOf(ZipArchive archive, CancellationToken cancel)
    {
        if (archive.Entries.Count > Limits.MostParts)
            return $"The workbook has more than {Limits.MostParts} parts.";
        var left = (long)Limits.LargestUnpacked;
        var buffer = new byte[1 << 16];
        foreach (var entry in archive.Entries)
        {
            // Texts that cells share are kept while a sheet is read; the cells themselves pass by.
            var isKept = !entry.FullName.StartsWith("xl/worksheets/", StringComparison.OrdinalIgnoreCase);
            var leftOfPart = isKept ? Math.Min(left, Limits.LargestSharedTexts) : left;
            var run = 0;
            using var stream = entry.Open();
            for (int read; (read = stream.Read(buffer)) > 0;)
            {
                cancel.ThrowIfCancellationRequested();
                if ((left -= read) < 0 || (leftOfPart -= read) < 0)
                    return $"The workbook is larger than {(isKept ? Limits.LargestSharedTexts : Limits.LargestUnpacked) >> 20} MB once it is unpacked.";
                if (IsLong(buffer.AsSpan(0, read), ref run))
                    return $"A text of the workbook is longer than {Limits.LongestUnpackedText} characters.";
            }
        }
        return null;
    }

    /// <summary>Whether more stands between two signs of the markup than one text can be long.</summary>
    private static bool IsLong(ReadOnlySpan<byte> bytes, ref int run)
    {
        while (bytes.IndexOfAny((byte)'<', (byte)'>') is var next and >= 0)
        {
            if (run + next > Limits.LongestUnpackedText)
                return true;
            run = 0;
            bytes = bytes[(next + 1)..];
        }
        return (run += bytes.Length) > Limits.LongestUnpackedText;
    }
}
