using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Extensions.FileProviders;
using Microsoft.Net.Http.Headers;

namespace Juniperfall.Server;

/// <summary>
/// The built front end: files were compressed when they were built and go out as they are; those with a hash in their name never
/// change, so that a browser asks for them once. One that is not there is not found, and no page.
/// </summary>
public static class WebAssets
{
    private const string Assets = "/assets";
    private static readonly (string Name, string Ending)[] Encodings = [("br", ".br"), ("gzip", ".gz")];

    public static void UseWebAssets(this WebApplication app)
    {
        var types = new FileExtensionContentTypeProvider();
        var files = app.Environment.WebRootFileProvider;
        app.Use((context, next) =>
        {
            var path = context.Request.Path.Value ?? "";
            if (HttpMethods.IsGet(context.Request.Method) && types.TryGetContentType(path, out var type)
                && Compressed(files, path, context.Request.Headers.AcceptEncoding.ToString()) is var (name, ending))
            {
                context.Items[typeof(WebAssets)] = type;
                context.Request.Path = path + ending;
                context.Response.Headers.ContentEncoding = name;
                context.Response.Headers.Vary = HeaderNames.AcceptEncoding;
            }
            return next();
        });
        types.Mappings[".br"] = types.Mappings[".gz"] = "application/octet-stream";
        app.UseStaticFiles(new StaticFileOptions
        {
            ContentTypeProvider = types,
            OnPrepareResponse = c =>
            {
                if (c.Context.Items[typeof(WebAssets)] is string type)
                    c.Context.Response.ContentType = type;
                c.Context.Response.Headers.CacheControl = c.Context.Request.Path.StartsWithSegments(Assets)
                    ? "public, max-age=31536000, immutable" : "no-cache";
            },
        });
        app.Use((context, next) => context.Request.Path.StartsWithSegments(Assets)
            ? Answers.Problems.Write(context, StatusCodes.Status404NotFound, "There is no such file.") : next());
    }

    private static (string Name, string Ending)? Compressed(IFileProvider files, string path, string accepted)
    {
        foreach (var (name, ending) in Encodings)
            if (accepted.Contains(name, StringComparison.OrdinalIgnoreCase) && files.GetFileInfo(path + ending) is { Exists: true, IsDirectory: false })
                return (name, ending);
        return null;
    }
}
