using System.Diagnostics;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Diagnostics.HealthChecks;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using OpenTelemetry.Metrics;
using Zamblo.Data;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Jobs;
using Zamblo.Web.People;

namespace Zamblo.Web.Watching;

/// <summary>
/// For whoever runs a studio for others: whether it is well, figures in Prometheus' text format, and a line of JSON for each request and job. Nothing of it is
/// anybody's words: routes in place of addresses, numbers in place of names.
/// </summary>
internal static class Watch
{
    private const string Metrics = "/metrics";

    /// <summary>Where the key lies with which figures may be fetched from elsewhere.</summary>
    public static string KeyIn(DataFolder folder) => Path.Combine(folder.Root, "metrics-key");

    /// <summary>What it needs.</summary>
    public static void Add(WebApplicationBuilder builder, ServerOptions options)
    {
        builder.Services.AddHealthChecks().AddCheck<DataCheck>("data");
        builder
            .Services.AddOpenTelemetry()
            .WithMetrics(m =>
                m.AddMeter(JobMeter.Name, "Microsoft.AspNetCore.Hosting", "Microsoft.AspNetCore.Server.Kestrel", "System.Runtime").AddPrometheusExporter()
            );
        if (!options.LogsAsJson)
            return;
        builder.Logging.ClearProviders();
        builder.Logging.AddJsonConsole(o =>
        {
            o.UseUtcTimestamp = true;
            o.TimestampFormat = "yyyy-MM-ddTHH:mm:ss.fffZ";
        });
        builder.Logging.AddFilter("Zamblo", LogLevel.Information);
    }

    /// <summary>Writes down each request when it is over.</summary>
    public static void Log(WebApplication app)
    {
        var log = app.Services.GetRequiredService<ILoggerFactory>().CreateLogger("Zamblo.Requests");
        app.Use(
            async (http, next) =>
            {
                var begun = Stopwatch.GetTimestamp();
                // A file of the page has no route, and is not told; what goes wrong forgets its own.
                var route = (http.GetEndpoint() as RouteEndpoint)?.RoutePattern.RawText;
                try
                {
                    await next(http);
                }
                finally
                {
                    if (route != null)
                        log.LogInformation(
                            "{Method} {Route} {Status} in {Milliseconds:0.0} ms for {Person}",
                            http.Request.Method,
                            route,
                            http.RequestAborted.IsCancellationRequested ? 499 : http.Response.StatusCode,
                            Stopwatch.GetElapsedTime(begun).TotalMilliseconds,
                            Caller.Of(http)?.Id.ToString("N") ?? "-"
                        );
                }
            }
        );
    }

    /// <summary>Its addresses.</summary>
    public static void Map(WebApplication app)
    {
        // Who asks whether it lives does not wait for a disk.
        app.MapHealthChecks("/health/live", new HealthCheckOptions { Predicate = _ => false }).WithMetadata(new OpenToAllAttribute());
        app.MapHealthChecks("/health/ready").WithMetadata(new OpenToAllAttribute());
        app.MapPrometheusScrapingEndpoint(Metrics).WithMetadata(new NeedsAttribute(PersonRole.Owns));
    }

    /// <summary>Whether a request brings the key for the figures, which lets it in without a person.</summary>
    public static bool HoldsKey(HttpContext http)
    {
        if (http.Request.Path != Metrics || http.Request.Headers.Authorization.ToString() is not { Length: > 7 } given)
            return false;
        try
        {
            var key = SecretFile.Read(KeyIn(http.RequestServices.GetRequiredService<DataFolder>()));
            return key.Length > 0 && CryptographicOperations.FixedTimeEquals(Encoding.UTF8.GetBytes(given), Encoding.UTF8.GetBytes("Bearer " + key));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    // The database answers, and there is room for what comes.
    private sealed class DataCheck(IDbContextFactory<ZambloContext> contexts, DataFolder folder) : IHealthCheck
    {
        public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancel = default)
        {
            try
            {
                await using var db = await contexts.CreateDbContextAsync(cancel);
                await db.Productions.AnyAsync(cancel);
                return folder.IsNearlyFull ? HealthCheckResult.Degraded() : HealthCheckResult.Healthy();
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                return HealthCheckResult.Unhealthy();
            }
        }
    }
}
