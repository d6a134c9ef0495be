using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;

namespace Juniperfall.Storage;

/// <summary>What a link to choose a password carries: 256 random bits. Only its hash is kept, which opens nothing.</summary>
public static class PasswordToken
{
    /// <summary>How long a link works.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromHours(24);

    public static (string Token, byte[] Hash) New()
    {
        var token = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(32));
        return (token, HashOf(token));
    }

    public static byte[] HashOf(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));
}
