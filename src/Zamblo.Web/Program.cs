using System.IO.Compression;
using System.Text.Json;
using Hangfire;
using Hangfire.InMemory;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Web;
using Zamblo.Web.Api;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

string data = DataFolder.Default, urls = "http://127.0.0.1:5170";
var demo = true;
for (var i = 0; i < args.Length; i++)
    switch (args[i])
    {
        case "--data" when i + 1 < args.Length:
            data = Path.Combine(Environment.GetEnvironmentVariable("ZAMBLO_CALLED_FROM") ?? ".", args[++i]);
            break;
        case "--urls" when i + 1 < args.Length:
            urls = args[++i];
            break;
        case "--no-demo":
            demo = false;
            break;
        default:
            Console.Error.WriteLine($"\"{args[i]}\" is not understood. usage: start [--urls URL] [--data DIR] [--no-demo]");
            return 2;
    }

var builder = WebApplication.CreateBuilder(new WebApplicationOptions { ContentRootPath = File.Exists("Zamblo.Web.csproj") ? Directory.GetCurrentDirectory() : AppContext.BaseDirectory });
builder.WebHost.UseUrls(urls);
builder.WebHost.ConfigureKestrel(k => k.AddServerHeader = false);
builder.Logging.SetMinimumLevel(LogLevel.Warning);
builder.Logging.AddFilter("Microsoft.EntityFrameworkCore", LogLevel.Error);
builder.Logging.AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error);

var folder = new DataFolder(data);
builder.Services.AddSingleton(folder);
// Keys in the data folder: a page that is open while the program restarts stays valid.
builder.Services.AddDataProtection().PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(folder.Root, "keys"))).SetApplicationName("Zamblo");
builder.Services.AddSingleton(new AssetStore(folder.Assets));
builder.Services.AddDbContextFactory<ZambloContext>(o => o.UseSqlite($"Data Source={folder.Database};Foreign Keys=True;Default Timeout=30"));
builder.Services.AddSingleton<ProductionStore>();
builder.Services.AddSingleton<VoiceStore>();
builder.Services.AddSingleton<SceneDesk>();
builder.Services.AddSingleton<MouthEndpoints.Desk>();
builder.Services.AddSingleton<JobDesk>();
builder.Services.AddSingleton<IJobHandler, TakeJob>();
builder.Services.AddSingleton<IJobHandler, SpeakJob>();
builder.Services.AddSingleton<IJobHandler, ListenJob>();
builder.Services.AddSingleton<IJobHandler, TurnsJob>();
builder.Services.AddSingleton<IJobHandler, RenderJob>();
builder.Services.AddHangfire(h => h.UseInMemoryStorage());
// One worker each: a film uses all cores by itself, and takes keep their order.
foreach (var queue in new[] { JobDesk.Voices, JobDesk.Films })
    builder.Services.AddHangfireServer(o =>
    {
        o.WorkerCount = 1;
        o.Queues = [queue];
    });
builder.Services.AddAntiforgery(o =>
{
    o.HeaderName = "X-Csrf-Token";
    o.Cookie.SameSite = SameSiteMode.Strict;
});
builder.Services.AddSingleton<Icons>();
builder.Services.AddRazorPages();
builder.Services.ConfigureHttpJsonOptions(o => o.SerializerOptions.PropertyNamingPolicy = JsonNamingPolicy.CamelCase);
builder.Services.AddResponseCompression(o =>
{
    o.Providers.Add<BrotliCompressionProvider>();
    o.Providers.Add<GzipCompressionProvider>();
});
builder.Services.Configure<BrotliCompressionProviderOptions>(o => o.Level = CompressionLevel.Fastest);

var app = builder.Build();
await using (var db = await app.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync())
{
    await db.Database.MigrateAsync();
    await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL");
}

app.Use(async (context, next) =>
{
    // A page elsewhere that resolves its own name to this machine must not get in.
    var host = context.Request.Host.Host;
    if (!IsOwnHost(host, urls))
    {
        context.Response.StatusCode = 421;
        await context.Response.WriteAsync("This address is not served here.");
        return;
    }
    var headers = context.Response.Headers;
    headers.ContentSecurityPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; media-src 'self' blob:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";
    headers.XContentTypeOptions = "nosniff";
    headers["Referrer-Policy"] = "no-referrer";
    headers["Permissions-Policy"] = "microphone=(self)";
    await next();
});
app.UseResponseCompression();
app.UseStaticFiles();
app.MapRazorPages();
var api = app.MapGroup("/api").AddEndpointFilter<ApiFilter>();
ProductionEndpoints.Map(api);
SceneEndpoints.Map(api);
SceneList.Map(api);
SoundEndpoints.Map(api);
JobEndpoints.Map(api);
MouthEndpoints.Map(api);
ClipEndpoints.Map(api);
BoothEndpoints.Map(api);
CutEndpoints.Map(api);
PerformEndpoints.Map(api);
CharacterEndpoints.Map(api);

var jobs = app.Services.GetRequiredService<JobDesk>();
await app.StartAsync();
await jobs.ResumeAsync();
if (demo) await Demo.PlaceAsync(app.Services.GetRequiredService<IDbContextFactory<ZambloContext>>(), jobs);
Console.WriteLine($"Zamblo is on {string.Join(", ", app.Urls)} with its data in {folder.Root}");
await app.WaitForShutdownAsync();
return 0;

static bool IsOwnHost(string host, string urls)
{
    if (host is "localhost" or "127.0.0.1" or "[::1]" or "::1") return true;
    // Whoever binds elsewhere on purpose is reached under that name, or under any when bound to all.
    return urls.Split(';').Any(u => Uri.TryCreate(u.Replace("*", "0.0.0.0").Replace("+", "0.0.0.0"), UriKind.Absolute, out var uri) && (uri.Host == host || uri.Host == "0.0.0.0" || uri.Host == "[::]"));
}

/// <summary>Visible to tests.</summary>
public partial class Program;
