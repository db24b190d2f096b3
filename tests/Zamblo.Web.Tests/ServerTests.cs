using System.Net;
using System.Text.Json;

namespace Zamblo.Web.Tests;

public sealed class ServerTests : IDisposable
{
    private readonly string _data = Directory.CreateTempSubdirectory("zamblo-web-").FullName;

    public void Dispose() => Directory.Delete(_data, true);

    [Fact]
    public async Task The_demo_is_in_place_once_and_speaks()
    {
        await using (var server = await ServerProcess.StartAsync(_data, demo: true))
        {
            for (var i = 0; i < 100; i++)
            {
                var card = Assert.Single((await server.GetAsync("/api/productions")).EnumerateArray());
                Assert.Equal("Night Shift", card.GetProperty("title").GetString());
                var page = await server.Client.GetStringAsync("/production/" + card.GetProperty("id").GetString());
                var state = await server.GetAsync("/api/scenes/" + System.Text.RegularExpressions.Regex.Match(page, "data-scene=\"([^\"]+)\"").Groups[1].Value);
                Assert.Equal((4, 3, 2), (state.GetProperty("lines").GetArrayLength(), state.GetProperty("members").GetArrayLength(), state.GetProperty("clips").GetArrayLength()));
                if (state.GetProperty("lines").EnumerateArray().All(l => l.GetProperty("words").ValueKind == JsonValueKind.Array && !l.GetProperty("isStale").GetBoolean())) break;
                Assert.True(i < 99, "The demo's lines were not spoken.");
                await Task.Delay(200);
            }
            var id = (await server.GetAsync("/api/productions"))[0].GetProperty("id").GetString();
            using var picture = await server.Client.GetAsync($"/api/productions/{id}/picture");
            Assert.Equal("image/png", picture.Content.Headers.ContentType!.MediaType);
            await server.SendAsync(HttpMethod.Delete, "/api/productions/" + id);
        }
        await using var again = await ServerProcess.StartAsync(_data, demo: true);
        Assert.Empty((await again.GetAsync("/api/productions")).EnumerateArray());
    }

    [Fact]
    public async Task A_server_killed_while_rendering_goes_on_after_its_next_start()
    {
        string production, scene, job;
        await using (var server = await ServerProcess.StartAsync(_data))
        {
            (production, scene, var member) = await server.NewProductionAsync();
            await server.SpeakAsync(production, scene, member, "One, two, three, four, five, six, seven, eight, nine, ten, eleven, twelve, thirteen, fourteen, fifteen, sixteen, seventeen, eighteen.");
            await server.SendAsync(HttpMethod.Patch, "/api/productions/" + production, new { size = "640x360" });
            job = (await server.PostAsync($"/api/scenes/{scene}/renders", new { })).GetProperty("job").GetString()!;
            for (var i = 0; i < 200; i++)
            {
                var now = (await server.GetAsync($"/api/productions/{production}/jobs"))[0];
                if (now.GetProperty("progress").GetDouble() > 0.15) break;
                await Task.Delay(50);
            }
            await server.KillAsync();
        }
        Assert.Empty(Directory.GetFiles(Path.Combine(_data, "renders"), "*.mp4"));
        await using var again = await ServerProcess.StartAsync(_data);
        var done = await again.WaitAsync(production, job);
        Assert.Equal("done", done.GetProperty("state").GetString());
        using var film = await again.Client.GetAsync($"/api/jobs/{job}/film?download=true");
        Assert.Equal("video/mp4", film.Content.Headers.ContentType!.MediaType);
        Assert.Equal("Test.mp4", film.Content.Headers.ContentDisposition!.FileName);
        Assert.True((await film.Content.ReadAsByteArrayAsync()).Length > 50_000);
        // Undo survives the crash too.
        Assert.Equal("Change the picture size", (await again.PostAsync($"/api/productions/{production}/undo", new { })).GetProperty("name").GetString());
    }

    [Fact]
    public async Task A_render_can_be_cancelled_and_run_again()
    {
        await using var server = await ServerProcess.StartAsync(_data);
        var (production, scene, member) = await server.NewProductionAsync();
        await server.SpeakAsync(production, scene, member, "The oven is hot, and the bread is not. The oven is hot, and the bread is not.");
        var job = (await server.PostAsync($"/api/scenes/{scene}/renders", new { })).GetProperty("job").GetString()!;
        await Task.Delay(400);
        await server.PostAsync($"/api/jobs/{job}/cancel", new { });
        Assert.Equal("cancelled", (await server.WaitAsync(production, job)).GetProperty("state").GetString());
        await server.PostAsync($"/api/jobs/{job}/retry", new { });
        Assert.Equal("done", (await server.WaitAsync(production, job)).GetProperty("state").GetString());
        await server.PostAsync($"/api/jobs/{job}/retry", new { }, expect: 404);
    }

    [Fact]
    public async Task Bad_sound_is_refused_at_the_door_and_leaves_nothing_behind()
    {
        await using var server = await ServerProcess.StartAsync(_data);
        var (_, scene, _) = await server.NewProductionAsync();
        async Task Refused(string name, byte[] bytes, string part)
        {
            var answer = await server.PostAsync($"/api/uploads?name={name}", bytes, expect: 400);
            Assert.Contains(part, answer.GetProperty("error").GetString());
        }
        await Refused("letter.wav", "Dear Maro, the flour is late."u8.ToArray(), "\"letter.wav\" is not a sound file");
        await Refused("empty.mp3", [], "empty");
        Assert.Empty((await server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").EnumerateArray());
        await server.PostAsync($"/api/scenes/{scene}/renders", new { }, expect: 400);
    }

    [Fact]
    public async Task Without_its_programs_the_server_says_what_to_install_and_the_job_can_run_again()
    {
        string production, job;
        await using (var server = await ServerProcess.StartAsync(_data, environment: new Dictionary<string, string> { ["ZAMBLO_FFMPEG"] = "/nowhere/ffmpeg" }))
        {
            (production, var scene, var member) = await server.NewProductionAsync();
            job = (await server.PostAsync($"/api/scenes/{scene}/lines", new { member, kind = "synthesis", text = "Ding." })).GetProperty("job").GetString()!;
            var failed = await server.WaitAsync(production, job);
            Assert.Equal("failed", failed.GetProperty("state").GetString());
            Assert.Contains("install the Debian package ffmpeg", failed.GetProperty("error").GetString());
        }
        await using var mended = await ServerProcess.StartAsync(_data);
        await mended.PostAsync($"/api/jobs/{job}/retry", new { });
        Assert.Equal("done", (await mended.WaitAsync(production, job)).GetProperty("state").GetString());
    }

    [Fact]
    public async Task Two_tabs_never_overwrite_each_other_and_do_not_stand_in_each_others_way()
    {
        await using var server = await ServerProcess.StartAsync(_data);
        var (production, scene, member) = await server.NewProductionAsync();
        var state = await server.SpeakAsync(production, scene, member, "Ding.");
        var revision = state.GetProperty("production").GetProperty("revision").GetInt64();
        var line = state.GetProperty("lines")[0].GetProperty("id").GetString();
        // Another tab has renamed the role. Moving the line does not touch that, another name does.
        await server.SendAsync(HttpMethod.Patch, "/api/members/" + member, new { revision, roleName = "Timer" });
        await server.SendAsync(HttpMethod.Patch, $"/api/lines/{line}", new { revision, by = 0.4 });
        var refused = await server.SendAsync(HttpMethod.Patch, "/api/members/" + member, new { revision, roleName = "Clock" }, expect: 409);
        Assert.Equal(revision + 2, refused.GetProperty("revision").GetInt64());
        Assert.Contains("\"Timer\" now", refused.GetProperty("error").GetString());
        // The line was moved in the meantime: taking it out is refused, too.
        await server.SendAsync(HttpMethod.Delete, $"/api/lines/{line}?revision={revision}", expect: 409);
        Assert.Single((await server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").EnumerateArray());
    }

    [Fact]
    public async Task The_door_is_shut_to_strangers()
    {
        await using var server = await ServerProcess.StartAsync(_data);
        using var bare = new HttpClient { BaseAddress = new Uri(server.Address) };
        Assert.Equal(HttpStatusCode.BadRequest, (await bare.PostAsync("/api/productions", new StringContent("{}", System.Text.Encoding.UTF8, "application/json"))).StatusCode);
        using var foreign = new HttpRequestMessage(HttpMethod.Get, "/api/productions");
        foreign.Headers.Host = "evil.example";
        Assert.Equal(HttpStatusCode.BadRequest, (await bare.SendAsync(foreign)).StatusCode);
        var page = await bare.GetAsync("/");
        var policy = page.Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("script-src 'self';", policy);
        Assert.DoesNotContain("unsafe", policy);
        Assert.Equal("nosniff", page.Headers.GetValues("X-Content-Type-Options").Single());
        foreach (var path in new[] { "/api/jobs/../../etc/passwd", "/../zamblo.db", "/api/characters/..%2f..%2fetc/picture" })
            Assert.NotEqual(HttpStatusCode.OK, (await bare.GetAsync(path)).StatusCode);
    }

    [Fact]
    public async Task Every_edit_of_the_studio_can_be_undone()
    {
        await using var server = await ServerProcess.StartAsync(_data);
        var (production, scene, member) = await server.NewProductionAsync();
        await server.SpeakAsync(production, scene, member, "The oven is hot.");
        string Fingerprint(JsonElement state) => string.Join('|', state.GetProperty("members").ToString(), state.GetProperty("scene").ToString(), state.GetProperty("production").GetProperty("title"), state.GetProperty("production").GetProperty("width"),
            state.GetProperty("production").GetProperty("rate"), string.Join(';', state.GetProperty("lines").EnumerateArray().Select(l => $"{l.GetProperty("id")}{l.GetProperty("member")}{l.GetProperty("start")}{l.GetProperty("take")}")));
        var before = Fingerprint(await server.GetAsync("/api/scenes/" + scene));
        var line = (await server.GetAsync("/api/scenes/" + scene)).GetProperty("lines")[0].GetProperty("id").GetString();
        var edits = new (HttpMethod, string, object?)[]
        {
            (HttpMethod.Patch, "/api/productions/" + production, new { title = "Morning" }), (HttpMethod.Patch, "/api/productions/" + production, new { size = "640x360" }), (HttpMethod.Patch, "/api/productions/" + production, new { rate = "30" }),
            (HttpMethod.Patch, "/api/scenes/" + scene, new { backdrop = "paper" }), (HttpMethod.Patch, "/api/members/" + member, new { character = "tock" }), (HttpMethod.Patch, "/api/members/" + member, new { mouth = new { strength = 0.5, dynamics = 0.1, lead = 0.05, density = 1, holdFrames = 2 } }),
            (HttpMethod.Patch, "/api/members/" + member, new { performance = new { turn = 2, nod = 0, tilt = 0, brows = 0, blinks = 0, body = 0, seed = 9 } }), (HttpMethod.Post, $"/api/productions/{production}/members", new { character = "bubb" }),
            (HttpMethod.Patch, "/api/lines/" + line, new { at = 3.5 }), (HttpMethod.Delete, "/api/lines/" + line, null), (HttpMethod.Delete, "/api/members/" + member, null),
        };
        foreach (var (method, url, body) in edits)
        {
            var was = Fingerprint(await server.GetAsync("/api/scenes/" + scene));
            await server.SendAsync(method, url, body);
            Assert.NotEqual(was, Fingerprint(await server.GetAsync("/api/scenes/" + scene)));
        }
        for (var i = 0; i < edits.Length; i++) await server.PostAsync($"/api/productions/{production}/undo", new { });
        Assert.Equal(before, Fingerprint(await server.GetAsync("/api/scenes/" + scene)));
    }
}
