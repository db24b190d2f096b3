using System.Net;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;

namespace Zamblo.Web.Tests;

/// <summary>Workers of other machines: they draw pieces of films over HTTP.</summary>
public sealed class FarmTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private DataFolder Folder => Services.GetRequiredService<DataFolder>();
    private FarmKey Key => Services.GetRequiredService<FarmKey>();
    private Uri Studio => Server.Client.BaseAddress!;

    private FarmLine Line(FarmKey? key = null) => new(Studio, key ?? Key);

    private static FarmKey OtherKey() => FarmKey.Parse(new string('a', 64))!;

    private async Task<string> OrderAsync() => (await Server.PostAsync($"/api/scenes/{Scene}/renders", new { })).GetProperty("job").GetString()!;

    private async Task<string> PictureOfAsync(string job)
    {
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            ["-v", "error", "-i", Folder.FilmOf(Guid.Parse(job)), "-map", "0:v", "-c", "copy", "-f", "md5", "-"]
        );
        return System.Text.Encoding.UTF8.GetString(result.Output);
    }

    // Somebody of one's own on the stage, a picture of one's own beside it, and enough to be said for several pieces.
    private async Task FillAsync(string size = "640x360", int lines = 5)
    {
        await Server.PatchAsync($"/api/productions/{Production}", new { revision = Revision(await StateAsync()), size });
        var recipe = new
        {
            name = "Ada",
            voice = "flite:slt",
            parts = new { hair = "bun", top = "coat" },
        };
        var character = (await Server.PostAsync("/api/characters", new { recipe })).GetProperty("key").GetString()!;
        await Server.PostAsync($"/api/productions/{Production}/members", new { revision = Revision(await StateAsync()), character });
        var png = await Server.Client.GetByteArrayAsync("/api/props/cake/picture");
        var art = (await Server.PostAsync("/api/pictures?name=cake.png", png)).GetProperty("set").GetString()!;
        await Server.PostAsync($"/api/scenes/{Scene}/props", new { art });
        var other = (await StateAsync()).GetProperty("members").EnumerateArray().Last().GetProperty("id").GetString()!;
        for (var i = 0; i < lines; i++)
            await Server.SpeakAsync(
                Production,
                Scene,
                i % 2 == 0 ? Member : other,
                $"Batch {i}: the oven is hot, the bread is in it, and nobody but us is awake in the whole of this street."
            );
    }

    [Fact]
    public async Task A_worker_draws_pieces_of_a_film_and_nobody_can_tell_which()
    {
        await FillAsync();
        var alone = await OrderAsync();
        Assert.Equal("done", (await Server.WaitAsync(Production, alone)).GetProperty("state").GetString());
        var own = Directory.CreateTempSubdirectory("zamblo-worker-");
        using var stop = new CancellationTokenSource();
        var said = new List<string>();
        var worker = new FarmWorker(Studio, Key, new DataFolder(own.FullName), "Oven two", 2, said.Add);
        var work = worker.RunAsync(stop.Token);
        try
        {
            for (var i = 0; i < 100 && !(await Server.GetAsync("/api/workers")).EnumerateArray().Any(); i++)
                await Task.Delay(100);
            // It has its pictures the first time, and may be too late with them; the second time it has all that it needs.
            for (var n = 0; n < 3 && worker.Brought == 0; n++)
            {
                Directory.Delete(Folder.Chunks, true);
                var together = await OrderAsync();
                Assert.Equal("done", (await Server.WaitAsync(Production, together)).GetProperty("state").GetString());
                Assert.Equal(await PictureOfAsync(alone), await PictureOfAsync(together));
            }
            Assert.True(worker.Brought > 0, string.Join(" ", said));
            async Task<JsonElement> ViewAsync() =>
                (await Server.GetAsync("/api/workers")).EnumerateArray().Single(w => w.GetProperty("name").GetString() == "Oven two");
            var view = await ViewAsync();
            // A piece is counted here once it was looked at, there once it has been told so.
            for (var i = 0; i < 100 && view.GetProperty("chunks").GetInt32() != worker.Brought; i++)
            {
                await Task.Delay(100);
                view = await ViewAsync();
            }
            Assert.True(view.GetProperty("isHere").GetBoolean());
            Assert.Equal(worker.Brought, view.GetProperty("chunks").GetInt32());
            Assert.Equal(0, view.GetProperty("failures").GetInt32());
            Assert.True(view.GetProperty("framesPerSecond").GetDouble() > 0);
        }
        finally
        {
            await stop.CancelAsync();
            await work;
        }
        // Whoever says goodbye is not shown any more; nothing lies about.
        Assert.DoesNotContain((await Server.GetAsync("/api/workers")).EnumerateArray(), w => w.GetProperty("name").GetString() == "Oven two");
        Assert.Empty(Directory.EnumerateFiles(own.FullName, "*chunk-*", SearchOption.AllDirectories));
        Assert.Empty(Directory.EnumerateFiles(own.FullName, "*.part", SearchOption.AllDirectories));
        own.Delete(true);
    }

    [Fact]
    public async Task Only_the_studio_s_own_key_and_version_get_in_and_only_to_what_a_film_needs()
    {
        // Nothing, another key, an old signature, another body than was signed.
        Assert.Equal(HttpStatusCode.Unauthorized, (await Server.Client.PostAsync("/pieces/crew", null)).StatusCode);
        using var stranger = Line(OtherKey());
        var hello = new WorkerHello("Stranger", FilmChunks.Version, 1);
        var refused = await Assert.ThrowsAsync<MediaException>(() => stranger.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", hello, default));
        Assert.Contains("The key is not this studio's", refused.Message, StringComparison.Ordinal);
        foreach (var (age, body) in new[] { (3600, "{}"), (0, "{ }") })
        {
            var time = (DateTimeOffset.UtcNow.ToUnixTimeSeconds() - age).ToString(System.Globalization.CultureInfo.InvariantCulture);
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData("{}"u8));
            using var request = new HttpRequestMessage(HttpMethod.Post, "/pieces/crew") { Content = new StringContent(body) };
            request.Headers.Add(FarmKey.TimeHeader, time);
            request.Headers.Add(FarmKey.BodyHeader, hash);
            request.Headers.Add(FarmKey.SignatureHeader, Key.Sign("POST", "/pieces/crew", time, hash));
            Assert.Equal(HttpStatusCode.Unauthorized, (await Server.Client.SendAsync(request)).StatusCode);
        }
        // The key itself is its owner's only.
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(FarmKey.PathIn(Folder)));
        using var line = Line();
        var old = await Assert.ThrowsAsync<MediaException>(() =>
            line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", hello with { Version = "1.0" }, default)
        );
        Assert.Contains("another version", old.Message, StringComparison.Ordinal);
        foreach (var strange in new object[] { new { }, "x", new WorkerHello("", FilmChunks.Version, 1), new WorkerHello("a\nb", FilmChunks.Version, 1) })
            await Assert.ThrowsAsync<MediaException>(() => line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", strange, default));
        // Whoever has not said hello gets no work.
        await Assert.ThrowsAsync<UnknownWorkerException>(() => line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{Guid.NewGuid()}/work", null, default));
        await Assert.ThrowsAsync<LoanOverException>(() => line.AskAsync<FilmPackage>(HttpMethod.Get, $"/pieces/films/{Guid.NewGuid()}", null, default));
    }

    [Fact]
    public async Task What_a_worker_brings_is_looked_at_and_one_that_dies_costs_nothing()
    {
        await FillAsync("960x540");
        using var line = Line();
        var hello = new WorkerHello("Half baked", FilmChunks.Version, 1);
        var id = (await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", hello, default))!.Worker;
        var asked = line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{id}/work", null, default);
        var job = await OrderAsync();
        var loan = (await asked)!.Chunk!;
        Assert.Equal(Guid.Parse(job), loan.Film);
        var package = (await line.AskAsync<FilmPackage>(HttpMethod.Get, $"/pieces/films/{job}", null, default))!;
        Assert.Single(package.Characters);
        Assert.NotEmpty(package.Files);
        // A sound of the production is no part of its picture: it stays here.
        var sound = package.Film.Scenes[0].Lines[0].SoundHash;
        var part = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N"));
        try
        {
            await Assert.ThrowsAsync<MediaException>(() => line.FetchAsync($"/pieces/films/{job}/files/{sound}", part, default));
            // What had come before is not fetched again.
            var hash = package.Files[0];
            var whole = await File.ReadAllBytesAsync(Path.Combine(Folder.Assets, hash[..2], hash));
            await File.WriteAllBytesAsync(part, whole[..(whole.Length / 2)]);
            Assert.Equal(hash, await line.FetchAsync($"/pieces/films/{job}/files/{hash}", part, default));
            // Flour, and then a film that is another one.
            foreach (var bytes in new[] { "flour"u8.ToArray(), await AnyFilmAsync() })
            {
                await File.WriteAllBytesAsync(part, bytes);
                await Assert.ThrowsAsync<MediaException>(() => line.BringAsync($"/pieces/crew/{id}/loans/{loan.Id}/chunk", part, default));
            }
        }
        finally
        {
            File.Delete(part);
        }
        await line.AskAsync<object>(HttpMethod.Post, $"/pieces/crew/{id}/loans/{loan.Id}/failure", new ChunkFailure("The fuse blew."), default);
        var view = (await Server.GetAsync("/api/workers")).EnumerateArray().Single(w => w.GetProperty("name").GetString() == "Half baked");
        Assert.Equal("The fuse blew.", view.GetProperty("error").GetString());
        // Another piece, of which nothing is heard any more.
        var silent = (await line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{id}/work", null, default))?.Chunk;
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        if (silent != null)
            await Assert.ThrowsAsync<LoanOverException>(() =>
                line.AskAsync<object>(HttpMethod.Post, $"/pieces/crew/{id}/loans/{silent.Id}", new ChunkBeat(3), default)
            );
        Assert.Empty(Directory.EnumerateFiles(Folder.Chunks, "*.part"));
    }

    private static async Task<byte[]> AnyFilmAsync()
    {
        var path = Path.Combine(Path.GetTempPath(), Guid.NewGuid() + ".mp4");
        await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", "color=s=960x540:d=1:r=25", "-c:v", "libx264", path]);
        var bytes = await File.ReadAllBytesAsync(path);
        File.Delete(path);
        return bytes;
    }

    [Fact]
    public async Task A_film_that_is_cancelled_is_over_for_its_workers_too()
    {
        await FillAsync("960x540");
        using var line = Line();
        var id = (await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", new WorkerHello("Late", FilmChunks.Version, 1), default))!.Worker;
        var asked = line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{id}/work", null, default);
        var job = await OrderAsync();
        var loan = (await asked)!.Chunk!;
        await line.AskAsync<object>(HttpMethod.Post, $"/pieces/crew/{id}/loans/{loan.Id}", new ChunkBeat(1), default);
        await Server.PostAsync($"/api/jobs/{job}/cancel", new { });
        Assert.Equal("cancelled", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        await Assert.ThrowsAsync<LoanOverException>(() =>
            line.AskAsync<object>(HttpMethod.Post, $"/pieces/crew/{id}/loans/{loan.Id}", new ChunkBeat(2), default)
        );
    }
}
