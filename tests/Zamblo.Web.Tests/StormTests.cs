namespace Zamblo.Web.Tests;

/// <summary>The short form of the storm; the long one is a bench.</summary>
public sealed class StormTests(Host host, Xunit.Abstractions.ITestOutputHelper output) : IClassFixture<Host>
{
    private static readonly StormOptions Short = new(Environment.TickCount, TimeSpan.FromSeconds(6), 1, 3, TimeSpan.FromSeconds(3), 1, 8, 400 << 20);

    [Fact]
    public Task A_server_that_is_edited_fed_killed_and_filled_loses_nothing_that_it_acknowledged() => BlowAsync(Short);

    [PostgresFact]
    public Task Nor_does_one_whose_database_and_worker_are_killed_with_it() =>
        BlowAsync(Short with { OnServer = true, Workers = 1, BetweenKills = TimeSpan.FromSeconds(1.5), DiskBytes = null });

    private async Task BlowAsync(StormOptions options)
    {
        var report = await new Storm.Storm(options, output.WriteLine).RunAsync();
        foreach (var (what, count) in report.Counts)
            output.WriteLine($"{count} {what}");
        Assert.True(report.Losses.Count == 0, string.Join('\n', report.Losses));
    }

    [Fact]
    public async Task A_storm_notices_what_is_lost()
    {
        // The check that cannot fail checks nothing: here a title goes back behind its acknowledgement.
        var fixture = await Fixture.MakeAsync(host.Talk);
        var ledger = new Ledger();
        ledger.Titles[fixture.Ids["scene"]] = (2, 2);
        await host.Talk.PatchAsync("/api/scenes/" + fixture.Ids["scene"], new { title = "Loaf 1" });
        var losses = await new Aftermath(host.Talk, ledger, host.Data, await TestDatabases.ContextsAsync(host.Data), 3, output.WriteLine).LookAsync([fixture]);
        Assert.Contains("title 2 was acknowledged", Assert.Single(losses), StringComparison.Ordinal);
    }
}
