using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Json;
using Zamblo.Storm;

namespace Zamblo.Bench;

/// <summary>
/// People who come by chance: edits arrive at a rate (a Poisson process, whoever waits), each is a write and a look at the scene that it has changed, and is
/// timed from its arrival until what it did is there. The rate is doubled until it takes too long; what was busy then is the bottleneck.
/// </summary>
internal static class ArrivalsBench
{
    // Each of ten people works on one of them; somebody makes an edit every 20 s.
    private const int Productions = 20,
        Lines = 40;
    private const double BetweenEdits = 20,
        TooLong = 1.0;
    private static readonly TimeSpan Length = TimeSpan.FromSeconds(20),
        Warm = TimeSpan.FromSeconds(5);

    private sealed record Step(double Rate, double Median, double Late, double Cores, double DatabaseCores, int Refused);

    public static async Task RunAsync(string folder, int seed)
    {
        var most = new Dictionary<string, double> { ["a file"] = await OnAsync(Path.Combine(folder, "file"), null, seed) };
        if (PostgresServer.Missing is { } why)
            Console.WriteLine($"on a server: left out. {why}");
        else
        {
            await using var database = await PostgresServer.StartAsync(Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}"));
            most["a server"] = await OnAsync(Path.Combine(folder, "server"), database, seed);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"a server carries {most["a server"] / most["a file"]:0.00} of what a file carries"));
        }
    }

    private static async Task<double> OnAsync(string data, PostgresServer? database, int seed)
    {
        Console.WriteLine(database == null ? "rows in a file" : "rows on a PostgreSQL server (nothing forced onto the disk)");
        var environment = database == null ? null : new Dictionary<string, string> { ["ZAMBLO_DATABASE"] = await database.NewAsync("arrivals") };
        await using var server = await ServerProcess.StartAsync(data, environment: environment);
        var scenes = new List<string>();
        var first = await Fixture.MakeAsync(server);
        await GrowAsync(server, first);
        scenes.Add(first.Ids["scene"]);
        while (scenes.Count < Productions)
            scenes.Add((await first.CopyAsync()).Ids["scene"]);
        await StepAsync(server, database, scenes, 5, Warm, new Random(seed));
        var carried = 0.0;
        for (var rate = 5.0; rate <= 320; rate *= 1.5)
        {
            var step = await StepAsync(server, database, scenes, rate, Length, new Random(seed));
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  {step.Rate, 5:0.0} edits a second ({step.Rate * BetweenEdits:0} people): median {1000 * step.Median:0} ms, 95 % within "
                        + $"{1000 * step.Late:0} ms, {step.Cores:0.00} cores of the studio, {step.DatabaseCores:0.00} of the database, {step.Refused} refused"
                )
            );
            if (step.Late > TooLong || step.Refused > 0)
                break;
            carried = step.Rate;
        }
        return carried;
    }

    // Two who talk for some minutes.
    private static async Task GrowAsync(ServerProcess server, Fixture fixture)
    {
        var script = string.Concat(
            Enumerable
                .Range(1, Lines / 2)
                .Select(n => $"MARO\nBatch {n} is in the oven, and the street is still asleep.\n\nBUBB\nThen I have time for a nap, before it rings.\n\n")
        );
        await server.PostAsync($"/api/scenes/{fixture.Ids["scene"]}/script", new { text = script });
        for (var i = 0; i < 3000; i++)
        {
            var jobs = (await server.GetAsync($"/api/productions/{fixture.Production}/jobs")).EnumerateArray().ToArray();
            if (jobs.All(j => j.GetProperty("state").GetString() is "done"))
                break;
            await Task.Delay(200);
        }
        var state = await server.GetAsync("/api/scenes/" + fixture.Ids["scene"]);
        Console.WriteLine($"  {Productions} productions with a scene of {state.GetProperty("lines").GetArrayLength()} lines each");
    }

    private static async Task<Step> StepAsync(
        ServerProcess server,
        PostgresServer? database,
        IReadOnlyList<string> scenes,
        double rate,
        TimeSpan length,
        Random random
    )
    {
        var (own, theirs) = (server.CpuSeconds, database?.CpuSeconds ?? 0);
        var clock = Stopwatch.StartNew();
        var edits = new List<Task<double>>();
        var at = 0.0;
        while ((at -= Math.Log(1 - random.NextDouble()) / rate) < length.TotalSeconds)
        {
            var wait = at - clock.Elapsed.TotalSeconds;
            if (wait > 0)
                await Task.Delay(TimeSpan.FromSeconds(wait));
            edits.Add(EditAsync(server, scenes[random.Next(scenes.Count)], random.Next(100), clock, at));
        }
        var times = await Task.WhenAll(edits);
        var took = clock.Elapsed.TotalSeconds;
        var done = times.Where(t => !double.IsNaN(t)).Order().ToArray();
        return new Step(
            edits.Count / length.TotalSeconds,
            done[done.Length / 2],
            done[(int)(done.Length * 0.95)],
            (server.CpuSeconds - own) / took,
            ((database?.CpuSeconds ?? 0) - theirs) / took,
            times.Length - done.Length
        );
    }

    // From when somebody wanted it, however late its turn was, until the scene is there anew; NaN where it was refused.
    private static async Task<double> EditAsync(ServerProcess server, string scene, int number, Stopwatch clock, double arrived)
    {
        using var written = await server.Client.PatchAsJsonAsync($"/api/scenes/{scene}", new { gap = 0.2 + number / 200.0 });
        if (!written.IsSuccessStatusCode)
            return double.NaN;
        using var seen = await server.Client.GetAsync($"/api/scenes/{scene}");
        await seen.Content.ReadAsByteArrayAsync();
        return seen.IsSuccessStatusCode ? clock.Elapsed.TotalSeconds - arrived : double.NaN;
    }
}
