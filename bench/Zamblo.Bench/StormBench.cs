using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Storm;
using Zamblo.Web;

namespace Zamblo.Bench;

/// <summary>
/// Tries to break the server: every address with everything that nobody should send, hostile files, then a storm of kills, full disks and many people at
/// once. Prints counts; any loss is a failure.
/// </summary>
internal static class StormBench
{
    private const int PerRoute = 400,
        Files = 500;

    public static async Task<bool> RunAsync(string folder, double minutes, int seed, bool onServer, int workers, bool isOnlyStorm)
    {
        var isWhole = isOnlyStorm || await FuzzAsync(folder, seed);
        var options = new StormOptions(seed, TimeSpan.FromMinutes(minutes), 10, 30, TimeSpan.FromSeconds(2), 20, 25, 3L << 30)
        {
            OnServer = onServer,
            Workers = workers,
        };
        Console.WriteLine($"a storm of {minutes} minutes, seed {seed}");
        var report = await new Storm.Storm(options, Console.Error.WriteLine).RunAsync();
        foreach (var (what, count) in report.Counts)
            Console.WriteLine($"  {count} {what}");
        Console.WriteLine($"  {report.Losses.Count} losses");
        foreach (var loss in report.Losses)
            Console.WriteLine($"  LOST: {loss}");
        return isWhole && report.Losses.Count == 0;
    }

    private static async Task<bool> FuzzAsync(string folder, int seed)
    {
        var app = await ZambloServer.StartAsync(new ServerOptions(Path.Combine(folder, "fuzz"), "http://127.0.0.1:0", false));
        using var talk = await Talk.WithAsync(app.Urls.First());
        var report = await new RouteFuzz(talk, ApiRoute.Of(app.Services.GetServices<EndpointDataSource>()), seed).RunAsync(PerRoute);
        Console.WriteLine($"{report.Routes} addresses, {report.Requests} requests, {report.Accepted} accepted, {report.Faults.Count} answered wrongly");
        Console.WriteLine($"  the slowest took {report.Slowest.TotalSeconds:0.00} s: {report.SlowestRequest}");
        foreach (var fault in report.Faults)
            Console.WriteLine($"  WRONG: {fault.Fault}: {fault.Request}");
        var faults = await HostileUploads.SendAsync(talk, seed, Files);
        Console.WriteLine($"{Files} hostile files, {faults.Count} answered wrongly");
        foreach (var fault in faults)
            Console.WriteLine($"  WRONG: {fault.Fault}: {fault.Request}");
        await app.StopAsync();
        await app.DisposeAsync();
        return report.Faults.Count + faults.Count == 0;
    }
}
