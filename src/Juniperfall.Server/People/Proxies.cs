using System.Net;
using Microsoft.AspNetCore.HttpOverrides;

namespace Juniperfall.Server.People;

/// <summary>
/// Behind a proxy, the address and the scheme of a request are those that the proxy tells of. Only the proxies named by the setting
/// Proxies (addresses or networks, with commas between) are believed; without it, nobody is.
/// </summary>
public static class Proxies
{
    /// <exception cref="InvalidOperationException">The setting names something that is neither an address nor a network.</exception>
    public static void AddProxies(this IServiceCollection services, IConfiguration configuration)
    {
        var named = (configuration["Proxies"] ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        services.Configure<ForwardedHeadersOptions>(o =>
        {
            o.ForwardedHeaders = named.Length > 0 ? ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto : ForwardedHeaders.None;
            o.KnownProxies.Clear();
            o.KnownIPNetworks.Clear();
            foreach (var proxy in named)
                if (IPAddress.TryParse(proxy, out var address))
                    o.KnownProxies.Add(address);
                else if (System.Net.IPNetwork.TryParse(proxy, out var network))
                    o.KnownIPNetworks.Add(network);
                else
                    throw new InvalidOperationException($"The setting Proxies names “{proxy}”, which is neither an address nor a network.");
        });
    }
}
