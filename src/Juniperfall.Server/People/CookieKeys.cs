using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Xml.Linq;
using Juniperfall.Storage;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Microsoft.Extensions.Options;

namespace Juniperfall.Server.People;

/// <summary>
/// The keys of cookies lie in the database, for every instance of the server, encrypted with a certificate that does not: whoever has the
/// database alone can make no cookie. The setting Certificate names its file; where there is none yet, one is made.
/// </summary>
public static class CookieKeys
{
    private static readonly TimeSpan CertificateLasts = TimeSpan.FromDays(3_650);

    /// <param name="file">A PKCS #12 file without a password, readable by the server only.</param>
    /// <exception cref="InvalidOperationException">The file cannot be read as one.</exception>
    public static void AddCookieKeys(this IServiceCollection services, string file)
    {
        services.AddDataProtection().SetApplicationName("juniperfall").ProtectKeysWithCertificate(ReadOrMake(file));
        services.AddSingleton<IConfigureOptions<KeyManagementOptions>>(s =>
            new ConfigureOptions<KeyManagementOptions>(o => o.XmlRepository = new InDatabase(s.GetRequiredService<ProtectionKeyStore>())));
    }

    private static X509Certificate2 ReadOrMake(string file)
    {
        if (!File.Exists(file))
            Make(file);
        try
        {
            return X509CertificateLoader.LoadPkcs12FromFile(file, null);
        }
        catch (Exception e) when (e is CryptographicException or UnauthorizedAccessException or IOException)
        {
            throw new InvalidOperationException($"The setting Certificate names {file}, which cannot be read as a certificate with its key: {e.Message}", e);
        }
    }

    private static void Make(string file)
    {
        using var key = RSA.Create(3072);
        var request = new CertificateRequest("CN=juniperfall cookie keys", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        using var certificate = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow + CertificateLasts);
        Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(file))!);
        // Nobody else may read it, not even for a moment; of two servers that start at once, the second takes that of the first.
        try
        {
            using var made = new FileStream(file,
                new FileStreamOptions
                {
                    Mode = FileMode.CreateNew,
                    Access = FileAccess.Write,
                    UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite
                });
            made.Write(certificate.Export(X509ContentType.Pfx));
        }
        catch (IOException) when (File.Exists(file))
        {
            Thread.Sleep(200);
        }
    }

    private sealed class InDatabase(ProtectionKeyStore keys) : IXmlRepository
    {
        public IReadOnlyCollection<XElement> GetAllElements() => keys.All();
        public void StoreElement(XElement element, string friendlyName) => keys.Add(element, friendlyName);
    }
}
