using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Tests;

/// <summary>Clips that talk, over HTTP. The clip is painted by the tests of Zamblo.Media: forty frames of 480 by 360.</summary>
public sealed class PlateWebTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<JsonElement> FollowedAsync(string id)
    {
        for (var i = 0; i < 300; i++)
        {
            var work = await Server.GetAsync($"/api/plates/{id}");
            if (Text(work, "state") != "following")
                return work;
            await Task.Delay(100);
        }
        throw new TimeoutException("The clip was not followed.");
    }

    [Fact]
    public async Task A_clip_is_followed_given_another_mouth_and_goes_along_in_the_file()
    {
        var id = Text(await Server.PostAsync("/api/plates?name=clip.mp4", Picture("clip.mp4"), expect: 202), "id");
        var work = await FollowedAsync(id);
        Assert.True(Text(work, "state") == "done", work.ToString());
        Assert.Equal("480x360", Text(work, "size"));
        Assert.Empty(work.GetProperty("notes").EnumerateArray());
        var key = Text(work, "key");
        Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/characters/{key}/picture")).StatusCode);
        var order = new
        {
            text = "Good morning.",
            character = key,
            backdrop = "clear",
            size = "480x360",
        };
        var take = await Server.PostAsync("/api/one-take", order, expect: 201);
        var (production, scene) = (Text(take, "production"), Text(take, "scene"));
        for (var i = 0; i < 200 && (await Server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").GetArrayLength() == 0; i++)
            await Task.Delay(100);
        // Every frame names the clip's own, and that can be fetched.
        var shapes = await Server.GetAsync($"/api/scenes/{scene}/shapes");
        var filmed = shapes.GetProperty("shapes").EnumerateArray().First(s => s.TryGetProperty("filmed", out _));
        var clip = Text(filmed, "picture");
        Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/plates/{clip}/frames/39")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/plates/{clip}/frames/40")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync("/api/plates/..%2f..%2fetc/frames/1")).StatusCode);
        Assert.Contains("\"#3 ", await Server.Client.GetStringAsync($"/api/scenes/{scene}/frames?from=3&count=1"));
        var job = Text(await Server.PostAsync($"/api/scenes/{scene}/renders", new { }), "job");
        Assert.Equal("done", Text(await Server.WaitAsync(production, job), "state"));
        // A sound it has not, and that is said; a part of it is played, and it is that one in Casting from then on.
        await Server.PostAsync(
            $"/api/scenes/{scene}/sounds",
            new
            {
                hash = clip,
                name = "Its own",
                kind = "Room",
            },
            expect: 400
        );
        async Task<JsonElement> PlayAsync(string[] keys, double from = 0, double to = 0, bool loops = false, bool lids = false, int expect = 200) =>
            await Server.PostAsync(
                "/api/plates/play",
                new
                {
                    keys,
                    from,
                    to,
                    loops,
                    lids,
                },
                expect
            );
        static string KeyOf(JsonElement played) => played.GetProperty("keys")[0].GetString()!;
        var part = await PlayAsync([key], 0.4, 1.2);
        Assert.Equal(0.8, part.GetProperty("seconds").GetDouble(), 3);
        Assert.NotEqual(key, KeyOf(part));
        var round = await PlayAsync([KeyOf(part)], loops: true);
        Assert.True(round.GetProperty("loops").GetBoolean());
        Assert.InRange(round.GetProperty("jump").GetDouble(), 0, 0.2);
        var cards = (await Server.GetAsync("/api/characters")).EnumerateArray().Select(c => Text(c, "key")).ToArray();
        Assert.Contains(KeyOf(round), cards);
        Assert.DoesNotContain(key, cards);
        var lids = await PlayAsync([KeyOf(round)], lids: true);
        Assert.NotEqual(key, KeyOf(lids));
        Assert.Equal(key, KeyOf(await PlayAsync([KeyOf(lids)])));
        await PlayAsync([key], 1, 1.1, expect: 400);
        await PlayAsync([key], 30, expect: 400);
        await PlayAsync([], expect: 400);
        await PlayAsync(["clip-0"], expect: 404);
        // Elsewhere its frames are made anew.
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{production}/archive");
        var other = new Host();
        await other.InitializeAsync();
        try
        {
            await other.Talk.PostAsync("/api/archives", file);
            Assert.Equal(
                await Server.Client.GetByteArrayAsync($"/api/characters/{key}/picture"),
                await other.Talk.Client.GetByteArrayAsync($"/api/characters/{key}/picture")
            );
        }
        finally
        {
            await other.DisposeAsync();
        }
    }

    [Fact]
    public async Task A_clip_that_is_none_fails_with_a_sentence_and_a_work_is_stopped()
    {
        var id = Text(await Server.PostAsync("/api/plates?name=no.mp4", "no clip"u8.ToArray(), expect: 202), "id");
        var work = await FollowedAsync(id);
        Assert.Equal("failed", Text(work, "state"));
        Assert.Contains("no clip that can be read", Text(work, "error"));
        id = Text(await Server.PostAsync("/api/plates?name=clip.mp4", Picture("clip.mp4"), expect: 202), "id");
        await Server.DeleteAsync($"/api/plates/{id}");
        Assert.Equal("cancelled", Text(await FollowedAsync(id), "state"));
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/plates/{Guid.NewGuid()}")).StatusCode);
    }

    [Fact]
    public async Task Two_faces_of_a_clip_become_two_who_talk_to_each_other_in_it()
    {
        var folder = Directory.CreateTempSubdirectory("zamblo-two-").FullName;
        try
        {
            await File.WriteAllBytesAsync(Path.Combine(folder, "two.jpg"), Picture("two.jpg"));
            string[] made =
            [
                .. "-v error -loop 1 -framerate 25 -t 0.6 -i".Split(' '),
                Path.Combine(folder, "two.jpg"),
                .. "-vf scale=800:-2 -pix_fmt yuv420p".Split(' '),
                Path.Combine(folder, "two.mp4"),
            ];
            Assert.Equal(0, (await Media.OutsideProgram.RunAsync("ffmpeg", made)).ExitCode);
            var clip = await File.ReadAllBytesAsync(Path.Combine(folder, "two.mp4"));
            var work = await FollowedAsync(Text(await Server.PostAsync("/api/plates?name=two.mp4", clip, expect: 202), "id"));
            Assert.True(Text(work, "state") == "done", work.ToString());
            var keys = work.GetProperty("keys").EnumerateArray().Select(k => k.GetString()!).ToArray();
            Assert.Equal(2, keys.Distinct().Count());
            Assert.Equal(keys[0], Text(work, "key"));
            var order = new
            {
                title = "Two",
                keys,
                set = "clear",
                size = Text(work, "size"),
            };
            var production = Text(await Server.PostAsync("/api/portraits/production", order), "id");
            await using var db = await Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
            var scene = await db.Scenes.Where(s => s.ProductionId == Guid.Parse(production)).Select(s => s.Id).SingleAsync();
            var items = (await Server.GetAsync($"/api/scenes/{scene}/frames?from=0&count=1")).GetProperty("frames")[0].EnumerateArray().ToArray();
            var shapes = (await Server.GetAsync($"/api/scenes/{scene}/shapes")).GetProperty("shapes").EnumerateArray().ToArray();
            // Each has the clip and the lower face; the clip is drawn once.
            int[] filmed = [.. Enumerable.Range(0, shapes.Length).Where(i => shapes[i].TryGetProperty("filmed", out _))];
            Assert.Equal(4, filmed.Length);
            Assert.Equal(3, items.Count(i => filmed.Contains(i[0].GetInt32()) && i[7].GetDouble() > 0));
            // What of the clip is shown when stays while one of both is there.
            JsonElement[] members = [.. (await Server.GetAsync($"/api/scenes/{scene}")).GetProperty("members").EnumerateArray()];
            var second = Id(members[1]);
            await Server.PostAsync(
                $"/api/scenes/{scene}/clips",
                new
                {
                    member = second,
                    kind = "Footage",
                    start = 0.2,
                    from = 0.1,
                }
            );
            await Server.DeleteAsync($"/api/members/{second}");
            Assert.Equal(Id(members[0]), Text(Clips(await Server.GetAsync($"/api/scenes/{scene}")).Single(), "member"));
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    [Fact]
    public async Task A_clip_is_moved_trimmed_and_paced_like_a_line_and_goes_on_in_the_next_scene()
    {
        var work = await FollowedAsync(Text(await Server.PostAsync("/api/plates?name=clip.mp4", Picture("clip.mp4"), expect: 202), "id"));
        var filmed = Id(await Server.PostAsync($"/api/productions/{Production}/members", new { character = Text(work, "key"), roleName = "Ada" }));
        await Server.SpeakAsync(Production, Scene, Member, "Mind the oven, and tell me when it is warm.");
        var desk = Services.GetRequiredService<SceneDesk>();
        async Task<LoadedScene> LoadAsync(string? scene = null) => await desk.LoadAsync(Guid.Parse(scene ?? Scene));
        async Task<JsonElement> ClipAsync(string id) => Clips(await StateAsync()).Single(c => Id(c) == id);
        static (double, double, double, double) Of(JsonElement c) =>
            (Number(c, "start"), Number(c, "end"), Math.Round(Number(c, "from"), 3), Number(c, "speed"));
        Task ChangeAsync(string id, object change, int expect = 200) => Server.SendAsync(HttpMethod.Patch, $"/api/clips/{id}", change, expect);
        // What is shown there stays as it is until something is changed.
        var before = await Server.Client.GetStringAsync($"/api/scenes/{Scene}/frames?from=0&count=40");
        var id = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    member = filmed,
                    kind = "Footage",
                    start = 0.4,
                    end = 1.4,
                }
            )
        );
        Assert.Equal((0.4, 1.4, 0.4, 1), Of(await ClipAsync(id)));
        Assert.Equal(before, await Server.Client.GetStringAsync($"/api/scenes/{Scene}/frames?from=0&count=40"));
        // Moved it takes its frames along; trimmed at its start it leaves them where they are.
        await ChangeAsync(id, new { start = 0.8, end = 1.8 });
        Assert.Equal((0.8, 1.8, 0.4, 1), Of(await ClipAsync(id)));
        await ChangeAsync(id, new { speed = 0.5 });
        await ChangeAsync(id, new { start = 1.2, end = 1.8 });
        Assert.Equal((1.2, 1.8, 0.6, 0.5), Of(await ClipAsync(id)));
        Assert.Equal("Clip at 50 %", Text(await ClipAsync(id), "title"));
        Assert.Equal(0.7, (await LoadAsync()).Stage.Cast[1].Footage.At(1.4), 6);
        // Split, both show what the one did.
        var second = Id(await Server.PostAsync($"/api/clips/{id}/split", new { at = 1.6 }));
        Assert.Equal((1.6, 1.8, 0.8, 0.5), Of(await ClipAsync(second)));
        await ChangeAsync(second, new { speed = 0 });
        Assert.Equal("Held frame", Text(await ClipAsync(second), "title"));
        await ChangeAsync(second, new { from = -1 });
        Assert.Equal(0, Number(await ClipAsync(second), "from"));
        await ChangeAsync(second, new { from = 0.8, speed = 1 });
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Footage",
                start = 0,
            },
            expect: 400
        );
        await Server.PostAsync($"/api/scenes/{Scene}/clips/join", new { ids = new[] { id, second } }, expect: 400);
        // The next scene begins with the frame after the last one of this.
        var next = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { }));
        var (here, there) = (await LoadAsync(), await LoadAsync(next));
        var plate = (Core.Portraits.PlateFigure)here.Stage.Cast[1].Figure;
        double Shown(LoadedScene scene, double t) => plate.ClipTime(scene.Stage.Cast[1].Footage.At(t));
        for (var t = 0.0; t < 3; t += 0.04)
            Assert.Equal(Shown(here, here.Evaluated.Duration + t), Shown(there, t), 0.041);
        Assert.NotEqual(plate.ClipTime(0), Shown(there, 0));
    }
}
