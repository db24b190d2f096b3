using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;

namespace Zamblo.Storm;

/// <summary>Looks for what a storm may have lost.</summary>
/// <param name="server">Where it is asked for.</param>
/// <param name="ledger">What was acknowledged.</param>
/// <param name="data">The server's folder.</param>
/// <param name="rows">Its database.</param>
/// <param name="steps">So many edits are taken back and made again in each production.</param>
/// <param name="tell">For what is worth knowing.</param>
internal sealed class Aftermath(Talk server, Ledger ledger, string data, ZambloContexts rows, int steps, Action<string> tell)
{
    private readonly List<string> _losses = [];

    /// <summary>Films that were looked at frame by frame.</summary>
    public int Films { get; private set; }

    /// <summary>Edits that were taken back and made again.</summary>
    public int Undone { get; private set; }

    public async Task<IReadOnlyList<string>> LookAsync(IReadOnlyList<Fixture> fixtures)
    {
        foreach (var fixture in fixtures)
        {
            fixture.MoveTo(server);
            await SettleAsync(fixture.Production);
            if (await fixture.TroubleAsync() is { } trouble)
                _losses.Add($"a production does not open: {trouble}");
        }
        await TitlesAsync();
        await LinesAsync();
        await FilmsAsync();
        foreach (var fixture in fixtures)
            await UndoAsync(fixture);
        return _losses;
    }

    // Until nothing is under way; what failed, on a full disk say, is run again once.
    private async Task SettleAsync(string production)
    {
        var retried = new HashSet<string>();
        for (var waited = Stopwatch.StartNew(); waited.Elapsed < TimeSpan.FromMinutes(8); await Task.Delay(300))
        {
            var jobs = await JobsAsync(production);
            foreach (var (job, _) in jobs.Where(j => j.Value == "Failed" && retried.Add(j.Key)).ToArray())
            {
                await server.PostAsync($"/api/jobs/{job}/retry", new { });
                jobs[job] = "Queued";
            }
            if (jobs.Values.All(s => s is "Done" or "Failed" or "Cancelled"))
                return;
        }
        _losses.Add("jobs did not end");
    }

    private async Task TitlesAsync()
    {
        foreach (var (scene, (acknowledged, sent)) in ledger.Titles)
        {
            var title = (await server.GetAsync($"/api/scenes/{scene}")).GetProperty("scene").GetProperty("title").GetString()!;
            var number = title.StartsWith("Loaf ", StringComparison.Ordinal) ? int.Parse(title[5..], CultureInfo.InvariantCulture) : 0;
            if (number < acknowledged || number > sent)
                _losses.Add($"title {acknowledged} was acknowledged, {sent} sent, \"{title}\" is there");
        }
    }

    private async Task LinesAsync()
    {
        foreach (var scene in ledger.Lines.GroupBy(l => l.Scene))
        {
            var texts = (await server.GetAsync($"/api/scenes/{scene.Key}"))
                .GetProperty("lines")
                .EnumerateArray()
                .Select(l => l.GetProperty("text").GetString()!)
                .ToArray();
            var jobs = await JobsAsync(scene.First().Production);
            foreach (var (job, _, _, mark) in scene)
            {
                var count = texts.Count(t => t == mark);
                if (count != (jobs.GetValueOrDefault(job) == "Done" ? 1 : 0))
                    _losses.Add($"\"{mark}\" is there {count} times; its job is {jobs.GetValueOrDefault(job, "gone")}");
            }
            foreach (var mark in ledger.Unsure.Keys)
                if (texts.Count(t => t == mark) > 1)
                    _losses.Add($"\"{mark}\" was ordered once and is there twice");
        }
    }

    // Pages are told of the newest only: here all are looked at.
    private async Task<Dictionary<string, string>> JobsAsync(string production)
    {
        var id = Guid.Parse(production);
        await using var db = rows.CreateDbContext();
        return await db.Jobs.AsNoTracking().Where(j => j.ProductionId == id).ToDictionaryAsync(j => $"{j.Id}", j => $"{j.State}");
    }

    // ffprobe is the judge: as many frames as the scene has, and ffmpeg decodes all of them without a word.
    private async Task FilmsAsync()
    {
        foreach (var (job, production, frames) in ledger.Films)
        {
            if ((await JobsAsync(production)).GetValueOrDefault(job) != "Done")
            {
                _losses.Add($"film {job} was not made");
                continue;
            }
            var path = Path.Combine(data, "renders", Guid.Parse(job).ToString("N") + ".mp4");
            string[] probe = ["-v", "error", "-count_frames", "-select_streams", "v:0", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", path];
            var counted = (await RunAsync("ffprobe", probe)).Trim().TrimEnd(',');
            var said = await RunAsync("ffmpeg", ["-nostdin", "-v", "error", "-i", path, "-f", "null", "-"]);
            // A scene may have grown between the look at it and the order, but never by nothing at all.
            if (!int.TryParse(counted, CultureInfo.InvariantCulture, out var count) || count < frames || said.Length > 0)
                _losses.Add($"film {job}: {counted} frames of {frames}; {said}");
            Films++;
        }
    }

    private async Task UndoAsync(Fixture fixture)
    {
        var before = await StateAsync(fixture);
        var names = new Stack<string>();
        for (var i = 0; i < steps; i++)
        {
            var done = await server.PostAsync($"/api/productions/{fixture.Production}/undo", new { });
            if (done.ValueKind != JsonValueKind.Object || done.GetProperty("name").GetString() is not { } name)
                break;
            names.Push(name);
            if (await fixture.TroubleAsync() is { } trouble && !trouble.EndsWith(": 404", StringComparison.Ordinal))
                _losses.Add($"after \"{name}\" was taken back: {trouble}");
        }
        Undone += names.Count;
        while (names.TryPop(out var name))
            if ((await server.PostAsync($"/api/productions/{fixture.Production}/redo", new { })).GetProperty("name").GetString() is var again && again != name)
                _losses.Add($"\"{name}\" was taken back, \"{again}\" made again");
        var after = await StateAsync(fixture);
        if (before != after)
            _losses.Add($"taking back and making again changed a production: {Difference(before, after)}");
    }

    private async Task<string> StateAsync(Fixture fixture)
    {
        var state = JsonNode.Parse((await server.GetAsync("/api/scenes/" + fixture.Ids["scene"])).GetRawText())!.AsObject();
        // What counts edits, or was heard meanwhile, is no part of what was made.
        foreach (var name in (string[])["heard", "picture", "undo", "redo", "sound", "shapesKey", "mouths", "production"])
            state.Remove(name);
        return state.ToJsonString();
    }

    private static string Difference(string a, string b)
    {
        var at = a.Zip(b).TakeWhile(p => p.First == p.Second).Count();
        return $"...{a[Math.Max(0, at - 60)..Math.Min(a.Length, at + 80)]} / {b[Math.Max(0, at - 20)..Math.Min(b.Length, at + 80)]}";
    }

    /// <summary>Films are the same whoever draws them: one that workers help with, and one that is drawn here alone, with nothing kept of the first.</summary>
    public async Task<IReadOnlyList<string>> WorkersAsync(Fixture fixture, Action stopWorkers)
    {
        var together = await FilmAsync(fixture);
        stopWorkers();
        Directory.Delete(Path.Combine(data, "cache", "chunks"), true);
        var alone = await FilmAsync(fixture);
        return together == alone && together.Length > 0 ? [] : [$"a film with workers is another one than without: {together} {alone}"];
    }

    private async Task<string> FilmAsync(Fixture fixture)
    {
        var order = await server.PostAsync($"/api/scenes/{fixture.Ids["scene"]}/renders", new { });
        var job = order.GetProperty("job").GetString()!;
        await server.WaitAsync(fixture.Production, job, 300);
        var path = Path.Combine(data, "renders", Guid.Parse(job).ToString("N") + ".mp4");
        return (await RunAsync("ffmpeg", ["-nostdin", "-v", "error", "-i", path, "-map", "0:v", "-c", "copy", "-f", "md5", "-"])).Trim();
    }

    /// <summary>
    /// The database's own checks: of SQLite (sqlite.org/pragma.html, integrity_check and foreign_key_check), or of PostgreSQL (15, F.2: amcheck, every index
    /// with its table).
    /// </summary>
    public static async Task<IReadOnlyList<string>> DatabaseAsync(ZambloContexts rows)
    {
        string[] checks = rows.Address.IsServer
            ?
            [
                "CREATE EXTENSION IF NOT EXISTS amcheck",
                """
                    SELECT bt_index_check(c.oid, true) FROM pg_class c JOIN pg_am m ON m.oid = c.relam JOIN pg_namespace n ON n.oid = c.relnamespace
                    WHERE m.amname = 'btree' AND c.relkind = 'i' AND n.nspname = 'public'
                    """,
            ]
            : ["PRAGMA integrity_check", "PRAGMA foreign_key_check"];
        var losses = new List<string>();
        await using var db = rows.CreateDbContext();
        await db.Database.OpenConnectionAsync();
        foreach (var check in checks)
            try
            {
                await using var command = db.Database.GetDbConnection().CreateCommand();
                command.CommandText = check;
                await using var reader = await command.ExecuteReaderAsync();
                while (await reader.ReadAsync())
                    if (!rows.Address.IsServer && reader.GetValue(0).ToString() is { } told && told != "ok")
                        losses.Add($"{check}: {told}");
            }
            catch (System.Data.Common.DbException e)
            {
                losses.Add($"{check}: {e.Message}");
            }
        return losses;
    }

    /// <summary>What lies about after a start: parts of uploads, work of films that are done, files of engines.</summary>
    public static IReadOnlyList<string> Litter(string data) =>
        [
            .. Directory.EnumerateFiles(data, "*.part", SearchOption.AllDirectories).Select(p => $"left behind: {p}"),
            .. Directory.EnumerateFileSystemEntries(Path.Combine(data, "tmp")).Select(p => $"left behind: {p}"),
        ];

    /// <summary>Programs that have outlived the server.</summary>
    public static IReadOnlyList<string> Orphans(string data) =>
        [
            .. Directory
                .EnumerateDirectories("/proc")
                .Where(d => Path.GetFileName(d).All(char.IsAsciiDigit) && Path.GetFileName(d) != Environment.ProcessId.ToString(CultureInfo.InvariantCulture))
                .Select(d =>
                {
                    try
                    {
                        return File.ReadAllText(Path.Combine(d, "cmdline")).Replace('\0', ' ');
                    }
                    catch (Exception e) when (e is IOException or UnauthorizedAccessException)
                    {
                        return "";
                    }
                })
                .Where(c => c.Contains(data, StringComparison.Ordinal))
                .Select(c => $"still runs: {c}"),
        ];

    private async Task<string> RunAsync(string program, string[] arguments)
    {
        using var process = Process.Start(new ProcessStartInfo(program, arguments) { RedirectStandardOutput = true, RedirectStandardError = true })!;
        var error = process.StandardError.ReadToEndAsync();
        var output = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        if (process.ExitCode != 0)
            tell($"{program} ended with {process.ExitCode}");
        return output + await error;
    }
}
