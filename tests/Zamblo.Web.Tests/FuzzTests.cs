using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>Every address of the server, sent what nobody should send (OWASP ASVS 4.0.3, 5.1.3 and 5.1.4).</summary>
public sealed class FuzzTests(Host host, Xunit.Abstractions.ITestOutputHelper output) : IClassFixture<Host>
{
    [Fact]
    public async Task No_request_breaks_the_server_or_a_production()
    {
        var routes = ApiRoute.Of(host.Services.GetServices<EndpointDataSource>());
        Assert.InRange(routes.Count, 80, 400);
        var per = int.TryParse(Environment.GetEnvironmentVariable("ZAMBLO_FUZZ"), out var n) ? n : 8;
        var report = await new RouteFuzz(host.Talk, routes, 20261126).RunAsync(per);
        foreach (var route in report.Unreached)
            output.WriteLine("not reached: " + route);
        output.WriteLine($"{report.Routes} routes, {report.Requests} requests, {report.Accepted} accepted; slowest {report.Slowest}: {report.SlowestRequest}");
        Assert.True(
            report.Faults.Count == 0,
            $"{report.Faults.Count} of {report.Requests}:\n" + string.Join('\n', report.Faults.Take(60).Select(f => $"{f.Fault}: {f.Request}"))
        );
    }

    [Fact]
    public async Task No_file_breaks_the_server_and_what_is_refused_leaves_nothing_behind()
    {
        var faults = await HostileUploads.SendAsync(host.Talk, 20261126, 40);
        Assert.True(faults.Count == 0, string.Join('\n', faults));
        // What ffmpeg could make a sound of is kept; nothing else is.
        await using var db = await host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        var kept = Directory.GetFiles(Path.Combine(host.Data, "assets"), "*", SearchOption.AllDirectories).Select(Path.GetFileName);
        Assert.Equal(db.Assets.Select(a => a.Hash).ToHashSet(), kept.ToHashSet()!);
        Assert.Empty(Directory.GetFileSystemEntries(Path.Combine(host.Data, "tmp")));
    }
}
