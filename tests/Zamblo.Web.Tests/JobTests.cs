using System.IO.Compression;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Jobs;

namespace Zamblo.Web.Tests;

/// <summary>Jobs whose rows say what is not so, and what is kept of a disk for when it is full.</summary>
public sealed class JobTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private async Task<Guid> RowAsync(JobState state, DateTime created)
    {
        await using var db = await Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        var job = JobDesk.New("listen", Guid.Parse(Production), "Listen", new { });
        (job.State, job.Created) = (state, created);
        db.Jobs.Add(job);
        await db.SaveChangesAsync();
        return job.Id;
    }

    [Fact]
    public async Task A_job_that_says_it_runs_though_nobody_works_on_it_can_be_cancelled_and_run_again()
    {
        // Its end could not be written down: the disk was full, and then the program was killed.
        var job = $"{await RowAsync(JobState.Running, DateTime.UtcNow)}";
        await Server.PostAsync($"/api/jobs/{job}/cancel", new { });
        Assert.Equal("cancelled", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        await Server.PostAsync($"/api/jobs/{job}/retry", new { });
        // What it is about is not there any more: nothing is to be done, and the queue goes on.
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.PostAsync($"/api/jobs/{Guid.NewGuid()}/cancel", new { }, expect: 404);
    }

    [Fact]
    public async Task A_render_can_be_cancelled_and_run_again()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, and the bread is not. The oven is hot, and the bread is not.");
        var job = (await Server.PostAsync($"/api/scenes/{Scene}/renders", new { })).GetProperty("job").GetString()!;
        await Task.Delay(400);
        await Server.PostAsync($"/api/jobs/{job}/cancel", new { });
        Assert.Equal("cancelled", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        await Server.PostAsync($"/api/jobs/{job}/retry", new { });
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        await Server.PostAsync($"/api/jobs/{job}/retry", new { }, expect: 404);
    }

    private async Task<string> StateOfAsync(string job) =>
        (await Server.GetAsync($"/api/productions/{Production}/jobs")).EnumerateArray().First(j => Id(j) == job).GetProperty("state").GetString()!;

    [Fact]
    public async Task A_film_is_paused_goes_on_where_it_was_and_one_that_waits_is_paused_too()
    {
        await Server.SpeakAsync(Production, Scene, Member, string.Join(' ', Enumerable.Repeat("The oven is hot, and the bread is not.", 8)));
        async Task<string> RenderAsync() => (await Server.PostAsync($"/api/scenes/{Scene}/renders", new { })).GetProperty("job").GetString()!;
        var (first, second) = (await RenderAsync(), await RenderAsync());
        await Server.PostAsync($"/api/jobs/{second}/pause", new { });
        Assert.Equal("paused", await StateOfAsync(second));
        // Until some pieces of the first are there.
        var chunks = Services.GetRequiredService<DataFolder>().Chunks;
        for (var i = 0; i < 300 && !(Directory.Exists(chunks) && Directory.GetFiles(chunks, "*.mp4").Length > 0); i++)
            await Task.Delay(50);
        await Server.PostAsync($"/api/jobs/{first}/pause", new { });
        for (var i = 0; i < 100 && await StateOfAsync(first) == "running"; i++)
            await Task.Delay(50);
        Assert.Equal("paused", await StateOfAsync(first));
        var kept = Directory.GetFiles(chunks, "*.mp4");
        Assert.NotEmpty(kept);
        var made = kept.ToDictionary(c => c, File.GetLastWriteTimeUtc);
        await Server.PostAsync($"/api/jobs/{first}/retry", new { }, expect: 404);
        await Server.PostAsync($"/api/jobs/{first}/go-on", new { });
        Assert.Equal("done", (await Server.WaitAsync(Production, first)).GetProperty("state").GetString());
        Assert.All(made, c => Assert.Equal(c.Value, File.GetLastWriteTimeUtc(c.Key)));
        await Server.PostAsync($"/api/jobs/{first}/pause", new { }, expect: 404);
        await Server.PostAsync($"/api/jobs/{first}/go-on", new { }, expect: 404);
        // What waited and is not wanted any more goes.
        await Server.PostAsync($"/api/jobs/{second}/cancel", new { });
        Assert.Equal("cancelled", await StateOfAsync(second));
    }

    [Fact]
    public void Whoever_draws_says_so_from_any_thread()
    {
        var pace = new Pace();
        var done = 0;
        // What goes wrong on one of them is thrown here.
        Parallel.For(0, 400_000, i => pace.Left(i * 1e-3, Interlocked.Increment(ref done), 400_000));
        Assert.NotNull(pace.Left(1000, 500_000, 600_000));
    }

    [Fact]
    public void How_long_it_takes_yet_is_said_from_how_fast_it_has_gone_of_late()
    {
        var pace = new Pace();
        // What was there before is no pace, and a moment is too little to know.
        Assert.Null(pace.Left(0, 500, 1000));
        Assert.Null(pace.Left(1, 510, 1000));
        Assert.Equal(48, pace.Left(2, 520, 1000)!.Value, 6);
        // Ten a second from then on, for longer than is looked back at; then twice as fast.
        for (var t = 3; t <= 22; t++)
            Assert.Equal((1000 - 500 - (10 * t)) / 10.0, pace.Left(t, 500 + (10 * t), 1000)!.Value, 6);
        var slow = new Pace();
        for (var t = 0; t <= 40; t++)
            slow.Left(t, t, 1000);
        double? left = null;
        for (var t = 41; t <= 80; t++)
            left = slow.Left(t, 40 + (2 * (t - 40)), 1000);
        Assert.Equal((1000 - 120) / 2.0, left!.Value, 6);
        // Nothing has moved.
        Assert.Null(Stuck().Left(9, 5, 10));
        Assert.Equal(
            ["", ", a few seconds left", ", 30 s left", ", a minute left", ", 12 min left", ", 1.5 h left"],
            new double?[] { null, 4, 31, 70, 731, 5400 }.Select(Pace.Said)
        );
        static Pace Stuck()
        {
            var pace = new Pace();
            pace.Left(0, 5, 10);
            return pace;
        }
    }

    [Fact]
    public async Task A_film_is_made_in_the_form_that_is_asked_for_and_goes_with_its_job()
    {
        await Server.PatchAsync(
            $"/api/productions/{Production}",
            new { revision = (await StateAsync()).GetProperty("production").GetProperty("revision").GetInt64(), size = "160x90" }
        );
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        async Task<(string Job, JsonElement Shows)> MakeAsync(object order, string of)
        {
            var job = (await Server.PostAsync($"/api/{of}/renders", order)).GetProperty("job").GetString()!;
            var done = await Server.WaitAsync(Production, job);
            Assert.Equal("done", done.GetProperty("state").GetString());
            return (job, done.GetProperty("shows"));
        }
        var (wav, sound) = await MakeAsync(new { form = "wav", loudness = -16 }, $"scenes/{Scene}");
        Assert.Equal("WAV", sound.GetProperty("made").GetString());
        var bytes = await Server.Client.GetByteArrayAsync($"/api/jobs/{wav}/film?download=true");
        Assert.Equal(sound.GetProperty("bytes").GetInt64(), bytes.Length);
        Assert.Equal("RIFF", System.Text.Encoding.ASCII.GetString(bytes[..4]));
        var (png, _) = await MakeAsync(
            new
            {
                form = "png",
                from = 0.2,
                to = 0.6,
            },
            $"scenes/{Scene}"
        );
        using var zip = new ZipArchive(new MemoryStream(await Server.Client.GetByteArrayAsync($"/api/jobs/{png}/film")));
        Assert.Equal(10, zip.Entries.Count);
        var (hevc, film) = await MakeAsync(new { form = "mp4-h265", captions = true }, $"productions/{Production}");
        Assert.True(film.GetProperty("isWatched").GetBoolean());
        // A film's files go with its job, and no other's.
        var renders = Services.GetRequiredService<DataFolder>().Renders;
        foreach (var job in (string[])[wav, png, hevc])
        {
            Assert.Single(Directory.GetFileSystemEntries(renders), f => f.Contains(Guid.Parse(job).ToString("N")));
            await Server.DeleteAsync($"/api/jobs/{job}");
            Assert.DoesNotContain(Directory.GetFileSystemEntries(renders), f => f.Contains(Guid.Parse(job).ToString("N")));
        }
        foreach (var wrong in (object[])[new { form = "avi" }, new { loudness = 3 }, new { from = 3, to = 2 }, new { from = -1 }])
            await Server.PostAsync($"/api/scenes/{Scene}/renders", wrong, expect: 400);
        await Server.PostAsync($"/api/productions/{Production}/renders", new { from = 1 }, expect: 400);
    }

    [Fact]
    public async Task What_failed_long_ago_is_still_there_to_be_run_again()
    {
        var failed = await RowAsync(JobState.Failed, DateTime.UtcNow.AddDays(-1));
        for (var i = 0; i < 30; i++)
            await RowAsync(JobState.Done, DateTime.UtcNow);
        var shown = (await Server.GetAsync($"/api/productions/{Production}/jobs")).EnumerateArray().Select(Id).ToArray();
        Assert.Contains($"{failed}", shown);
        Assert.Equal(21, shown.Length);
    }

    [Fact]
    public void Something_is_held_back_for_edits_and_given_up_once()
    {
        var root = Directory.CreateTempSubdirectory("zamblo-held-").FullName;
        try
        {
            var folder = new DataFolder(root);
            Assert.False(folder.LetGo());
            var before = folder.FreeBytes;
            folder.HoldBack();
            folder.HoldBack();
            var held = new FileInfo(Path.Combine(root, "held-back"));
            Assert.Equal(8L << 20, held.Length);
            Assert.True(folder.LetGo());
            Assert.False(folder.LetGo());
            Assert.True(before > 0 && !folder.IsNearlyFull);
            Assert.Throws<DiskFullException>(() => folder.CheckRoom(long.MaxValue / 2));
        }
        finally
        {
            Directory.Delete(root, true);
        }
    }

    // Eight find the disk full at the same moment; only one of them gives up what was held back, and all go in.
    [Fact]
    public async Task All_who_find_the_disk_full_at_once_go_in_by_what_was_held_back()
    {
        var root = Directory.CreateTempSubdirectory("zamblo-held-").FullName;
        try
        {
            var folder = new DataFolder(root);
            folder.HoldBack();
            var held = Path.Combine(root, "held-back");
            using var all = new Barrier(8);
            var tries = new int[8];
            var edits = Enumerable
                .Range(0, 8)
                .Select(i =>
                    Task.Factory.StartNew(
                            () =>
                                folder.WithRoomAsync(() =>
                                {
                                    var isFirst = tries[i]++ == 0;
                                    if (isFirst)
                                        all.SignalAndWait();
                                    if (isFirst || File.Exists(held))
                                        throw new DiskFullException();
                                    return Task.FromResult(i);
                                }),
                            TaskCreationOptions.LongRunning
                        )
                        .Unwrap()
                );
            Assert.Equal(Enumerable.Range(0, 8), (await Task.WhenAll(edits)).Order());
            Assert.All(tries, t => Assert.Equal(2, t));
            // What fails for another reason, or still, is not tried for ever.
            var count = 0;
            await Assert.ThrowsAsync<DiskFullException>(() =>
                folder.WithRoomAsync<int>(() => throw (++count > 2 ? new InvalidOperationException() : new DiskFullException()))
            );
            await Assert.ThrowsAsync<InvalidOperationException>(() => folder.WithRoomAsync<int>(() => throw new InvalidOperationException()));
        }
        finally
        {
            Directory.Delete(root, true);
        }
    }

    [Fact]
    public void A_full_disk_is_known_whoever_meets_it()
    {
        // sqlite.org/rescode.html: 13 SQLITE_FULL, 778 SQLITE_IOERR_WRITE, 5 SQLITE_BUSY, 266 SQLITE_IOERR_READ.
        Assert.True(DiskFullException.Is(new DbUpdateException("x", new SqliteException("full", 13))));
        Assert.True(DiskFullException.Is(new SqliteException("write", 10, 778)));
        Assert.True(DiskFullException.Is(new IOException("No space left on device : '/data/x'")));
        Assert.False(DiskFullException.Is(new SqliteException("busy", 5)));
        Assert.False(DiskFullException.Is(new SqliteException("read", 10, 266)));
        Assert.False(DiskFullException.Is(null));
    }

    private sealed record Inner(double At, string? Text);

    private sealed record Outer(IReadOnlyList<Inner?>? Parts, Dictionary<string, double[]>? Samples, DayOfWeek Day, float? Maybe);

    public static TheoryData<string, bool> Shapes =>
        new()
        {
            { "good", true },
            { "hole", false },
            { "infinite", false },
            { "deep infinite", false },
            { "nul", false },
            { "choice", false },
            { "long", false },
            { "not a number", false },
        };

    [Theory]
    [MemberData(nameof(Shapes))]
    public void Values_from_outside_are_whole_finite_and_known(string what, bool isGood)
    {
        var good = new Outer([new Inner(1, "oven")], new() { ["headTurn"] = [0.1, 2] }, DayOfWeek.Friday, null);
        object value = what switch
        {
            "hole" => good with { Parts = [null] },
            "infinite" => good with { Parts = [new Inner(double.PositiveInfinity, null)] },
            "deep infinite" => good with { Samples = new() { ["x"] = [0, double.NegativeInfinity] } },
            "nul" => good with { Parts = [new Inner(1, "a\0b")] },
            "choice" => good with { Day = (DayOfWeek)999 },
            "long" => good with { Parts = [new Inner(1, new string('a', RequestShape.LongestText + 1))] },
            "not a number" => good with { Maybe = float.NaN },
            _ => good,
        };
        if (isGood)
            RequestShape.Check(value);
        else
            Assert.EndsWith(".", Assert.Throws<RequestException>(() => RequestShape.Check(value)).Message, StringComparison.Ordinal);
    }
}
