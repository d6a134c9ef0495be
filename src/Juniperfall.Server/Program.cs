using System.Reflection;
using Microsoft.AspNetCore.ResponseCompression;
using Juniperfall.Server.Solving;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Baselines;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Cases;
using Juniperfall.Server.Concessions;
using Juniperfall.Server.Configurations;
using Juniperfall.Server.Differences;
using Juniperfall.Server.Exchanges;
using Juniperfall.Server.Health;
using Juniperfall.Server.Impacts;
using Juniperfall.Server.Library;
using Juniperfall.Server.People;
using Juniperfall.Server.Products;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;
using Npgsql;

var builder = WebApplication.CreateBuilder(args);
var describing = Assembly.GetEntryAssembly()?.GetName().Name == "GetDocument.Insider";
var connection = builder.Configuration["Database"]
    ?? (describing ? "Host=nowhere" : throw new InvalidOperationException("The setting Database (a connection string) is missing; ./start gives it."));

builder.WebHost.ConfigureKestrel(k =>
{
    k.Limits.MaxRequestBodySize = RequestSizes.Usual;
    k.AddServerHeader = false;
});
builder.Services.ConfigureHttpJsonOptions(o => Json.Configure(o.SerializerOptions));
builder.Services.AddOpenApi(o =>
{
    o.AddSchemaTransformer(Json.Describe).AddDocumentTransformer(Json.DescribeKinds).AddDocumentTransformer(RowFieldDescription.Describe);
    ApiDescription.Describe(o);
});
builder.AddTelemetry();
builder.Services.AddProblemDetails();
builder.Services.AddExceptionHandler<Unforeseen>();
builder.Services.AddResponseCompression(o => o.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "text/event-stream"]);
builder.Services.AddSingleton(_ => Database.Open(connection));
builder.Services.AddSingleton(s =>
    new RevisionStore(s.GetRequiredService<NpgsqlDataSource>(), (document, edit, facts, cancel) => s.GetRequiredService<Scheduler>()
    .Run(s.GetRequiredService<Askers>().Person, Urgency.Answer, CompiledModel.TimeLimit, _ => ModelEditor.Apply(document, edit, facts), cancel)));
builder.Services.AddSingleton<Database.State>();
builder.Services.AddSingleton<WarmUpJournal>();
builder.Services.AddSingleton<LibraryRemoval>();
builder.Services.AddSingleton<LibraryStore>();
builder.Services.AddSingleton<ReviewStore>();
builder.Services.AddSingleton<RemarkStore>();
builder.Services.AddSingleton<ConcessionStore>();
builder.Services.AddSingleton<PauseStore>();
builder.Services.AddSingleton<BaselineStore>();
builder.Services.AddSingleton<SavedViewStore>();
builder.Services.AddSingleton<HeldConcessions>();
builder.Services.AddSingleton<Juniperfall.Server.Library.ArrangedLibrary>();
builder.Services.AddSingleton<ConfigurationStore>();
builder.Services.AddSingleton<PersonStore>();
builder.Services.AddSingleton<DemoPeople>();
builder.Services.AddSingleton<ProtectionKeyStore>();
builder.Services.AddSingleton<AuditStore>();
builder.Services.AddSingleton(TimeProvider.System);
builder.Services.AddSingleton<Mail>();
builder.Services.AddSingleton<SessionStore>();
builder.Services.AddSingleton<SignInAttempts>();
builder.Services.AddRateLimits();
builder.Services.AddProxies(builder.Configuration);
builder.Services.AddSingleton<HealthStore>();
builder.Services.AddSingleton<HealthRuns>();
builder.Services.AddSingleton<CaseRuns>();
builder.Services.AddSingleton<ImpactStore>();
builder.Services.AddSingleton<ImpactRuns>();
builder.Services.AddSingleton<PdfPrinter>();
// Pages listen for changes as long as they are open; the end does not wait for them.
builder.Services.Configure<HostOptions>(o => o.ShutdownTimeout = TimeSpan.FromSeconds(3));
builder.Services.AddHttpContextAccessor();
builder.Services.AddSingleton<Scheduler>();
builder.Services.AddSingleton<Askers>();
builder.Services.AddSingleton(s => Caches.BudgetOf(builder.Configuration, s.GetRequiredService<TimeProvider>()));
builder.Services.AddSingleton<WarmStateStore>();
builder.Services.AddSingleton<WarmStates>();
builder.Services.AddSingleton<CompiledModels>();
builder.Services.AddSingleton<EditFeed>();
builder.Services.AddSingleton<Presence>();
builder.Services.AddSingleton<INoticeHearer>(s => s.GetRequiredService<EditFeed>()).AddSingleton<INoticeHearer>(s => s.GetRequiredService<Presence>());
builder.Services.AddHostedService<DatabaseNotices>();
builder.Services.AddSingleton<WarmUp>();
builder.Services.AddHostedService(s => s.GetRequiredService<WarmUp>());
builder.Services.AddReleaseChecks();
builder.Services.AddSignIn();
if (!describing)
    builder.Services.AddCookieKeys(builder.Configuration["Certificate"]
        ?? throw new InvalidOperationException("The setting Certificate (a file for the certificate that encrypts cookie keys) is missing; ./start gives it."));

var app = builder.Build();
if (!describing)
{
    Database.Migrate(connection);
    if (app.Configuration["Demo"] is { Length: > 0 } demo)
        await DemoData.LoadIfEmpty(demo, app.Services, CancellationToken.None);
    else
        await app.Services.GetRequiredService<DemoPeople>().TakeKnownPasswords(CancellationToken.None);
}

app.Services.GetRequiredService<SolvingMetrics>();
app.UseForwardedHeaders();
app.UseRequestLog();
app.UseExceptionHandler();
app.UseWordsForEmptyErrors();
app.UseResponseCompression();
app.Use((context, next) =>
{
    var headers = context.Response.Headers;
    headers.ContentSecurityPolicy =
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'";
    headers.XContentTypeOptions = "nosniff";
    headers["Referrer-Policy"] = "same-origin";
    // What the application tells is for whoever is signed in now, and for no shared or later use of a browser.
    if (context.Request.Path.StartsWithSegments("/api"))
        headers.CacheControl = "no-store";
    return next();
});
app.UseHsts();
app.UseCrossSiteProtection();
app.UseWebAssets();
app.UseAuthentication();
app.UseRateLimiter();
app.UseAuthorization();

var api = app.MapGroup("/api");
api.MapSignIn();
api.MapPasswords();
api.MapPeople();
api.MapAudit();
api.MapProducts();
api.MapBaselines();
api.MapSavedViews();
api.MapPauses();
api.MapTimes();
api.MapRevisions();
api.MapEntry();
api.MapReleases();
api.MapBench();
api.MapBest();
api.MapSolving();
api.MapTotals();
api.MapDrawnRows();
api.MapUses();
api.MapReviews();
api.MapRemarks();
api.MapHealth();
api.MapMeasures();
api.MapCases();
api.MapDifferences();
api.MapImpact();
api.MapLibraryImpact();
api.MapConfigurations();
api.MapConcessions();
api.MapCompare();
api.MapWhatIf();
api.MapStructures();
api.MapFullStructures();
api.MapLibrary();
api.MapItem();
api.MapExchanges();
api.MapFallback(() => Problems.Gone("address")).AllowAnonymous();
app.MapOpenApi("/api/openapi.json").AllowAnonymous();
app.MapGet("/health", ServerHealth.Of).AllowAnonymous().ExcludeFromDescription();
// Pages have addresses of their own; the front end finds its way from there.
app.MapFallbackToFile("index.html").AllowAnonymous();

app.Run();

/// <summary>Named so that tests can start the server.</summary>
public partial class Program;
