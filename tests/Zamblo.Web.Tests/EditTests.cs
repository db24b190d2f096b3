using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Edits of a production by whoever is at it.</summary>
public class EditTests(Host host) : IClassFixture<Host>
{
    private Talk Server => host.Talk;

    [Fact]
    public async Task Two_tabs_never_overwrite_each_other_and_do_not_stand_in_each_others_way()
    {
        var (production, scene, member) = await Server.NewProductionAsync();
        var state = await Server.SpeakAsync(production, scene, member, "Ding.");
        var revision = state.GetProperty("production").GetProperty("revision").GetInt64();
        var line = state.GetProperty("lines")[0].GetProperty("id").GetString();
        // Another tab has renamed the role. Moving the line does not touch that, another name does.
        await Server.SendAsync(HttpMethod.Patch, "/api/members/" + member, new { revision, roleName = "Timer" });
        await Server.SendAsync(HttpMethod.Patch, $"/api/lines/{line}", new { revision, by = 0.4 });
        var refused = await Server.SendAsync(HttpMethod.Patch, "/api/members/" + member, new { revision, roleName = "Clock" }, expect: 409);
        Assert.Equal(revision + 2, refused.GetProperty("revision").GetInt64());
        Assert.Contains("\"Timer\" now", refused.GetProperty("error").GetString());
        // The line was moved in the meantime: taking it out is refused, too.
        await Server.SendAsync(HttpMethod.Delete, $"/api/lines/{line}?revision={revision}", expect: 409);
        Assert.Single((await Server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").EnumerateArray());
    }

    [Fact]
    public async Task Every_edit_of_the_studio_can_be_undone()
    {
        var (production, scene, member) = await Server.NewProductionAsync();
        await Server.SpeakAsync(production, scene, member, "The oven is hot.");
        string Fingerprint(JsonElement state) =>
            string.Join(
                '|',
                state.GetProperty("members").ToString(),
                state.GetProperty("scene").ToString(),
                state.GetProperty("production").GetProperty("title"),
                state.GetProperty("production").GetProperty("width"),
                state.GetProperty("production").GetProperty("rate"),
                string.Join(
                    ';',
                    state
                        .GetProperty("lines")
                        .EnumerateArray()
                        .Select(l => $"{l.GetProperty("id")}{l.GetProperty("member")}{l.GetProperty("start")}{l.GetProperty("take")}")
                )
            );
        var before = Fingerprint(await Server.GetAsync("/api/scenes/" + scene));
        var line = (await Server.GetAsync("/api/scenes/" + scene)).GetProperty("lines")[0].GetProperty("id").GetString();
        var edits = new (HttpMethod, string, object?)[]
        {
            (HttpMethod.Patch, "/api/productions/" + production, new { title = "Morning" }),
            (HttpMethod.Patch, "/api/productions/" + production, new { size = "640x360" }),
            (HttpMethod.Patch, "/api/productions/" + production, new { rate = "30" }),
            (HttpMethod.Patch, "/api/scenes/" + scene, new { backdrop = "paper" }),
            (HttpMethod.Patch, "/api/members/" + member, new { character = "tock" }),
            (
                HttpMethod.Patch,
                "/api/members/" + member,
                new
                {
                    mouth = new
                    {
                        strength = 0.5,
                        dynamics = 0.1,
                        lead = 0.05,
                        density = 1,
                        holdFrames = 2,
                    },
                }
            ),
            (
                HttpMethod.Patch,
                "/api/members/" + member,
                new
                {
                    performance = new
                    {
                        turn = 2,
                        nod = 0,
                        tilt = 0,
                        brows = 0,
                        blinks = 0,
                        body = 0,
                        seed = 9,
                    },
                }
            ),
            (HttpMethod.Post, $"/api/productions/{production}/members", new { character = "bubb" }),
            (HttpMethod.Patch, "/api/lines/" + line, new { at = 3.5 }),
            (HttpMethod.Delete, "/api/lines/" + line, null),
            (HttpMethod.Delete, "/api/members/" + member, null),
        };
        foreach (var (method, url, body) in edits)
        {
            var was = Fingerprint(await Server.GetAsync("/api/scenes/" + scene));
            await Server.SendAsync(method, url, body);
            Assert.NotEqual(was, Fingerprint(await Server.GetAsync("/api/scenes/" + scene)));
        }
        for (var i = 0; i < edits.Length; i++)
            await Server.PostAsync($"/api/productions/{production}/undo", new { });
        Assert.Equal(before, Fingerprint(await Server.GetAsync("/api/scenes/" + scene)));
    }
}
