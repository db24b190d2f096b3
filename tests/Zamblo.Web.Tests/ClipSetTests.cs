using System.Net;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio.Assets;

namespace Zamblo.Web.Tests;

/// <summary>A clip of one's own as the set.</summary>
public sealed class ClipSetTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private static byte[] Clip() => Picture("clip.mp4");

    [Fact]
    public async Task A_clip_is_taken_apart_played_over_and_over_kept_and_rendered()
    {
        // Forty frames of 480 by 360 (PortraitWebTests tells the same of it).
        var set = (await Server.PostAsync("/api/plates/sets?name=clip.mp4", Clip())).GetProperty("set").GetString()!;
        Assert.Matches("^clip:[0-9a-f]{64}:480x360:[0-9a-f]{6}:fill:0:0:40$", set);
        Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/sets/{set}/picture")).StatusCode);
        await Server.SpeakAsync(Production, Scene, Member, "This is a clip, and it begins again and again.");
        await Server.PatchAsync($"/api/scenes/{Scene}", new { revision = Revision(await StateAsync()), backdrop = set });
        var filmed = (await Server.GetAsync($"/api/scenes/{Scene}/shapes"))
            .GetProperty("shapes")
            .EnumerateArray()
            .Single(s => s.TryGetProperty("filmed", out _));
        Assert.Equal(40, filmed.GetProperty("filmed").GetInt32());
        async Task<string> FrameAsync(int frame) => await Server.Client.GetStringAsync($"/api/scenes/{Scene}/frames?from={frame}&count=1");
        Assert.Contains("\"#7 ", await FrameAsync(7), StringComparison.Ordinal);
        Assert.Contains("\"#7 ", await FrameAsync(47), StringComparison.Ordinal);
        var before = await Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/frames/7");
        Assert.NotEqual(before, await Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/frames/27"));
        // Frames that are gone are made again, and those of a set that is in use are not swept away.
        var hash = set.Split(':')[1];
        var frames = new DirectoryInfo(Path.Combine(Data, "cache", "plates", hash));
        frames.LastWriteTimeUtc = DateTime.UtcNow.AddDays(-3);
        await Services.GetRequiredService<DataSweep>().SweepAsync(default);
        Assert.True(frames.Exists);
        var job = (await Server.PostAsync($"/api/scenes/{Scene}/renders", new { })).GetProperty("job").GetString()!;
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        // Elsewhere it is the same.
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        var other = new Host();
        await other.InitializeAsync();
        try
        {
            var there = Guid.Parse((await other.Talk.PostAsync("/api/archives", file)).GetProperty("id").GetString()!);
            await using var db = await other.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
            var scene = await db.Scenes.Where(s => s.ProductionId == there).Select(s => s.Id).FirstAsync();
            Assert.Equal(before, await other.Talk.Client.GetByteArrayAsync($"/api/scenes/{scene}/frames/7"));
        }
        finally
        {
            await other.DisposeAsync();
        }
    }

    [Fact]
    public async Task What_is_no_clip_is_refused_in_a_sentence_and_leaves_no_frames()
    {
        async Task<string> RefusedAsync(byte[] bytes)
        {
            var answer = await Server.Client.PostAsync("/api/plates/sets?name=x.mp4", new ByteArrayContent(bytes));
            Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
            return await answer.Content.ReadAsStringAsync();
        }
        Assert.Contains("MP4", await RefusedAsync([1, 2, 3]), StringComparison.Ordinal);
        Assert.Contains("MP4", await RefusedAsync(Clip()[..3000]), StringComparison.Ordinal);
        var plates = new DirectoryInfo(Path.Combine(Data, "cache", "plates"));
        Assert.All(plates.Exists ? plates.GetDirectories() : [], d => Assert.NotEmpty(d.GetFiles("whole")));
        // A key that nobody has brought.
        var error = await Server.ErrorAsync($"/api/scenes/{Scene}", new { backdrop = $"clip:{new string('a', 64)}:480x360:000000:fill:0:0:40" }, patch: true);
        Assert.Contains("bring it again", error, StringComparison.Ordinal);
    }
}
