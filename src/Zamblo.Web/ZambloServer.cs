using System.IO.Compression;
using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.HostFiltering;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;
using Zamblo.Web.People;
using Zamblo.Web.Routes;
using Zamblo.Web.Watching;

namespace Zamblo.Web;

/// <summary>How the server is started.</summary>
/// <param name="Data">Folder of everything that is kept.</param>
/// <param name="Urls">Where to listen.</param>
/// <param name="HasDemo">Whether the demo is placed in an empty folder.</param>
public sealed record ServerOptions(string Data, string Urls, bool HasDemo)
{
    /// <summary>Names under which this machine is reached, where it listens on all addresses.</summary>
    public IReadOnlyList<string> Hosts { get; init; } = [];

    /// <summary>So much the data folder may take at the most.</summary>
    public long? QuotaBytes { get; init; }

    /// <summary>The server's database that rows are kept in; null for a file in the data folder.</summary>
    public DatabaseAddress? Database { get; init; }

    /// <summary>Whether people sign in before they get in.</summary>
    public bool HasDoor { get; init; }

    /// <summary>What it says is a line of JSON each, requests and jobs among it.</summary>
    public bool LogsAsJson { get; init; }

    /// <summary>Whether any of these addresses is one that other machines reach.</summary>
    internal static bool IsReachedFromElsewhere(string urls) =>
        urls.Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Any(u => UriOf(u) is not { IsLoopback: true });

    /// <summary>An address that a browser can open, of one that is listened on: all addresses are reached by a name.</summary>
    internal string ReachedAt(string url) =>
        UriOf(url) is { Host: "0.0.0.0" or "[::]" } all ? $"{all.Scheme}://{Hosts.FirstOrDefault() ?? "localhost"}:{all.Port}" : url;

    /// <summary>An address to listen on, or null where it is none; "*" and "+" stand for all of the machine's.</summary>
    internal static Uri? UriOf(string url) =>
        Uri.TryCreate(url.Replace("*", "0.0.0.0", StringComparison.Ordinal).Replace("+", "0.0.0.0", StringComparison.Ordinal), UriKind.Absolute, out var uri)
            ? uri
            : null;
}

/// <summary>Puts the server together.</summary>
public static class ZambloServer
{
    /// <summary>Runs it until it is told to stop.</summary>
    public static async Task<int> RunAsync(ServerOptions options, CancellationToken cancel)
    {
        try
        {
            // This process is the server's alone: what programs leave for a moment lies where the sweep of the next start finds it.
            Scratch.Folder = new DataFolder(options.Data).Temporary;
            await using var app = await StartAsync(options, cancel);
            if (options.LogsAsJson)
                app.Logger.LogWarning("Zamblo is on {Urls}", string.Join(", ", app.Urls));
            else
                Console.WriteLine(
                    $"Zamblo is on {string.Join(", ", app.Urls)} with its data in {app.Services.GetRequiredService<DataFolder>().Root}"
                        + (options.Database is { } database ? $" and {database}" : "")
                );
            await app.WaitForShutdownAsync(cancel);
            return 0;
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            Console.Error.WriteLine($"Zamblo could not start: {StartProblem.Of(e, options)}");
            return 1;
        }
    }

    /// <summary>Starts it; the caller stops it.</summary>
    public static async Task<WebApplication> StartAsync(ServerOptions options, CancellationToken cancel = default)
    {
        var app = Build(options);
        try
        {
            await BeginAsync(app, options, cancel);
            return app;
        }
        catch
        {
            // What it has taken hold of is let go of.
            await app.DisposeAsync();
            throw;
        }
    }

    private static async Task BeginAsync(WebApplication app, ServerOptions options, CancellationToken cancel)
    {
        app.Services.GetRequiredService<DataLock>();
        var contexts = app.Services.GetRequiredService<IDbContextFactory<ZambloContext>>();
        if (options.Database is { } database)
        {
            var hold = await DatabaseHold.TakeAsync(database, cancel);
            app.Services.GetRequiredService<HoldKeeper>().Keep(hold);
        }
        await using (var db = await contexts.CreateDbContextAsync(cancel))
            await DataUpgrade.RunAsync(db);
        var sweep = app.Services.GetRequiredService<DataSweep>();
        await sweep.AtStartAsync(cancel);
        SpeechModels.Drafts = new DraftShelf(app.Services.GetRequiredService<DataFolder>().Drafts);
        var jobs = app.Services.GetRequiredService<JobDesk>();
        Keys(app, options);
        await app.StartAsync(cancel);
        if (options.HasDoor)
            await app.Services.GetRequiredService<PeopleDesk>().GreetAsync(options.ReachedAt(app.Urls.First()), Console.Out);
        await jobs.ResumeAsync();
        if (options.HasDemo)
            await Demo.PlaceAsync(contexts, app.Services.GetRequiredService<CastLibrary>(), jobs);
        // What an earlier version heard otherwise, or nobody has listened to yet, is asked for once, in the background.
        _ = Task.Run(() => app.Services.GetRequiredService<HearingDesk>().AskEverywhereAsync(app.Lifetime.ApplicationStopping), CancellationToken.None);
        _ = Task.Run(() => sweep.RunAsync(app.Lifetime.ApplicationStopping), CancellationToken.None);
    }

    // There for a worker on this machine, and for whoever watches; a disk that takes nothing in must not keep the studio from starting.
    private static void Keys(WebApplication app, ServerOptions options)
    {
        try
        {
            app.Services.GetRequiredService<FarmKey>();
            if (options.HasDoor)
                SecretFile.Read(Watch.KeyIn(app.Services.GetRequiredService<DataFolder>()));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or RequestException)
        {
            app.Logger.LogWarning("There is no key for workers or figures: {Reason}", e.Message);
        }
    }

    private static WebApplication Build(ServerOptions options)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions { ContentRootPath = ContentRoot(), ApplicationName = typeof(ZambloServer).Assembly.GetName().Name }
        );
        builder.WebHost.UseUrls(options.Urls);
        builder.WebHost.ConfigureKestrel(k => k.AddServerHeader = false);
        builder.Logging.SetMinimumLevel(LogLevel.Warning);
        // What goes wrong there comes back to us, and is told once.
        builder.Logging.AddFilter("Microsoft.EntityFrameworkCore", LogLevel.None);
        builder.Logging.AddFilter("Microsoft.Extensions.Hosting.Internal", LogLevel.None);
        builder.Logging.AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error);
        builder.Logging.AddFilter("Microsoft.AspNetCore.Diagnostics", LogLevel.None);
        var folder = new DataFolder(options.Data) { QuotaBytes = options.QuotaBytes };
        var hold = DataLock.Take(folder);
        // Made by a factory, so that it is let go of with everything else.
        builder.Services.AddSingleton(_ => hold);
        // Keys in the data folder: a page that is open while the program restarts stays valid.
        builder.Services.AddDataProtection().PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(folder.Root, "keys"))).SetApplicationName("Zamblo");
        builder.Services.AddStudio(folder, options.Database);
        builder.Services.AddSingleton<HoldKeeper>();
        builder.Services.AddSingleton(_ => FarmKey.Of(folder));
        foreach (var queue in JobDesk.Queues)
            builder.Services.AddSingleton<IHostedService>(p => new JobWorker(p.GetRequiredService<JobDesk>(), queue));
        builder.Services.AddHostedService<HearingLender>();
        Door.Add(builder.Services, options);
        Watch.Add(builder, options);
        builder.Services.AddAntiforgery(o =>
        {
            o.HeaderName = "X-Csrf-Token";
            o.Cookie.SameSite = SameSiteMode.Strict;
        });
        // A page elsewhere that resolves its own name to this machine must not get in, also when all addresses are listened on.
        builder.Services.Configure<HostFilteringOptions>(o =>
        {
            o.AllowedHosts = [.. OwnHosts(options)];
            o.AllowEmptyHosts = false;
            o.IncludeFailureMessage = false;
        });
        builder.Services.AddSingleton<Icons>();
        builder.Services.AddRazorPages();
        builder.Services.AddProblemDetails();
        builder.Services.AddExceptionHandler<ProblemAnswers>();
        builder.Services.ConfigureHttpJsonOptions(o =>
        {
            o.SerializerOptions.PropertyNamingPolicy = JsonNamingPolicy.CamelCase;
            // A number never stands for a name.
            o.SerializerOptions.Converters.Add(new JsonStringEnumConverter(allowIntegerValues: false));
        });
        builder.Services.AddResponseCompression(o =>
        {
            o.Providers.Add<BrotliCompressionProvider>();
            o.Providers.Add<GzipCompressionProvider>();
        });
        builder.Services.Configure<BrotliCompressionProviderOptions>(o => o.Level = CompressionLevel.Fastest);
        var app = builder.Build();
        if (options.LogsAsJson)
            Watch.Log(app);
        app.UseHostFiltering();
        app.Use(
            async (context, next) =>
            {
                var headers = context.Response.Headers;
                headers.ContentSecurityPolicy =
                    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; media-src 'self' blob:; font-src "
                    + "'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";
                headers.XContentTypeOptions = "nosniff";
                headers["Referrer-Policy"] = "no-referrer";
                headers["Cross-Origin-Resource-Policy"] = "same-origin";
                headers["Permissions-Policy"] = "microphone=(self)";
                await next();
            }
        );
        if (options.HasDoor)
            app.UseForwardedHeaders();
        app.UseExceptionHandler();
        app.UseStatusCodePages();
        app.UseResponseCompression();
        app.UseStaticFiles();
        FarmRoutes.Guard(app);
        Door.Use(app, options);
        app.MapRazorPages();
        var api = app.MapGroup("/api").AddEndpointFilter<ApiFilter>();
        ProductionRoutes.Map(api);
        SceneRoutes.Map(api);
        LineRoutes.Map(api);
        MouthRoutes.Map(api);
        ClipRoutes.Map(api);
        SoundRoutes.Map(api);
        PropRoutes.Map(api);
        UploadRoutes.Map(api);
        JobRoutes.Map(api);
        CharacterRoutes.Map(api);
        RigRoutes.Map(api);
        WardrobeRoutes.Map(api);
        PortraitRoutes.Map(api);
        VoiceRoutes.Map(api);
        PlateRoutes.Map(api);
        ArchiveRoutes.Map(api);
        OneTakeRoutes.Map(api);
        FarmRoutes.MapView(api);
        PeopleRoutes.Map(api);
        TeamRoutes.Map(api);
        RemarkRoutes.Map(api);
        LookRoutes.Map(api, app);
        FarmRoutes.Map(app);
        Watch.Map(app);
        return app;
    }

    // Where wwwroot lies: beside the sources while developing, else beside the program.
    private static string ContentRoot()
    {
        for (var at = new DirectoryInfo(AppContext.BaseDirectory); at != null; at = at.Parent)
            if (File.Exists(Path.Combine(at.FullName, "Zamblo.slnx")))
                return Path.Combine(at.FullName, "src", "Zamblo.Web");
        return AppContext.BaseDirectory;
    }

    private static IEnumerable<string> OwnHosts(ServerOptions options)
    {
        foreach (var host in (string[])["localhost", "127.0.0.1", "[::1]"])
            yield return host;
        // Whoever binds elsewhere on purpose is reached under that name.
        foreach (var url in options.Urls.Split(';'))
            if (ServerOptions.UriOf(url) is { Host: not ("0.0.0.0" or "[::]") } uri)
                yield return uri.Host;
        foreach (var host in options.Hosts)
            yield return host;
    }
}

/// <summary>Keeps hold of a server's database until the program ends; ends it where another studio has it.</summary>
internal sealed class HoldKeeper(IHostApplicationLifetime lifetime, ILogger<HoldKeeper> log) : IAsyncDisposable
{
    private readonly CancellationTokenSource _stop = new();
    private DatabaseHold? _hold;
    private Task _keeping = Task.CompletedTask;

    public void Keep(DatabaseHold hold)
    {
        _hold = hold;
        _keeping = Task.Run(async () =>
        {
            try
            {
                await hold.KeepAsync(log, _stop.Token);
            }
            catch (DatabaseInUseException e)
            {
                log.LogCritical("{Reason} This studio ends.", e.Message);
                lifetime.StopApplication();
            }
        });
    }

    public async ValueTask DisposeAsync()
    {
        // Until everything else has ended: the last edits are still ours.
        await _stop.CancelAsync();
        await _keeping;
        if (_hold != null)
            await _hold.DisposeAsync();
        _stop.Dispose();
    }
}

/// <summary>Works through one queue of jobs.</summary>
internal sealed class JobWorker(JobDesk jobs, string queue) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => Task.Run(() => jobs.WorkAsync(queue, stoppingToken), stoppingToken);
}

/// <summary>Has workers listen along.</summary>
internal sealed class HearingLender(JobDesk jobs) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => Task.Run(() => jobs.LendAsync(stoppingToken), stoppingToken);
}
