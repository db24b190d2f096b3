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
                var card = Assert.Single((await server.GetAsync("/api/productions")).GetProperty("cards").EnumerateArray());
                Assert.Equal("Night Shift", card.GetProperty("title").GetString());
                var page = await server.Client.GetStringAsync("/production/" + card.GetProperty("id").GetString());
                var state = await server.GetAsync("/api/scenes/" + System.Text.RegularExpressions.Regex.Match(page, "data-scene=\"([^\"]+)\"").Groups[1].Value);
                Assert.Equal(
                    (5, 4, 3),
                    (state.GetProperty("lines").GetArrayLength(), state.GetProperty("members").GetArrayLength(), state.GetProperty("clips").GetArrayLength())
                );
                if (
                    state
                        .GetProperty("lines")
                        .EnumerateArray()
                        .All(l => l.GetProperty("words").ValueKind == JsonValueKind.Array && !l.GetProperty("isStale").GetBoolean())
                )
                    break;
                Assert.True(i < 99, "The demo's lines were not spoken.");
                await Task.Delay(200);
            }
            var id = (await server.GetAsync("/api/productions")).GetProperty("cards")[0].GetProperty("id").GetString();
            using var picture = await server.Client.GetAsync($"/api/productions/{id}/picture");
            Assert.Equal("image/png", picture.Content.Headers.ContentType!.MediaType);
            await server.SendAsync(HttpMethod.Delete, "/api/productions/" + id);
        }
        await using var again = await ServerProcess.StartAsync(_data, demo: true);
        Assert.Empty((await again.GetAsync("/api/productions")).GetProperty("cards").EnumerateArray());
    }

    [Fact]
    public async Task A_server_killed_while_rendering_goes_on_after_its_next_start()
    {
        string production,
            scene,
            job;
        await using (var server = await ServerProcess.StartAsync(_data))
        {
            (production, scene, var member) = await server.NewProductionAsync();
            await server.SpeakAsync(
                production,
                scene,
                member,
                "One, two, three, four, five, six, seven, eight, nine, ten, eleven, twelve, thirteen, fourteen, fifteen, sixteen, seventeen, eighteen."
            );
            await server.SendAsync(HttpMethod.Patch, "/api/productions/" + production, new { size = "640x360" });
            job = (await server.PostAsync($"/api/scenes/{scene}/renders", new { })).GetProperty("job").GetString()!;
            for (var i = 0; i < 200; i++)
            {
                var now = (await server.GetAsync($"/api/productions/{production}/jobs"))[0];
                if (now.GetProperty("progress").GetDouble() > 0.15)
                    break;
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
    public async Task Without_its_programs_the_server_says_what_to_install_and_the_job_can_run_again()
    {
        string production,
            job;
        await using (var server = await ServerProcess.StartAsync(_data, environment: new Dictionary<string, string> { ["ZAMBLO_FFMPEG"] = "/nowhere/ffmpeg" }))
        {
            (production, var scene, var member) = await server.NewProductionAsync();
            job = (
                await server.PostAsync(
                    $"/api/scenes/{scene}/lines",
                    new
                    {
                        member,
                        kind = "synthesis",
                        text = "Ding.",
                    }
                )
            ).GetProperty("job").GetString()!;
            var failed = await server.WaitAsync(production, job);
            Assert.Equal("failed", failed.GetProperty("state").GetString());
            Assert.Contains("install the Debian package ffmpeg", failed.GetProperty("error").GetString());
        }
        await using var mended = await ServerProcess.StartAsync(_data);
        await mended.PostAsync($"/api/jobs/{job}/retry", new { });
        Assert.Equal("done", (await mended.WaitAsync(production, job)).GetProperty("state").GetString());
    }
}
