using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Two tabs at the same state: what they do in different places lands, what they do in the same place is refused.</summary>
public sealed class FootprintTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    // Where it goes, and what it says the first and the second time.
    private sealed record Wish(string Name, string Url, Func<int, Dictionary<string, object>> Body);

    private async Task<Wish[]> WishesAsync()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Ding.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "Dong.");
        string first = Id(Line(state)),
            second = Id(Line(state, 1)),
            other = Id(await Server.PostAsync($"/api/productions/{Production}/members", new { character = "bubb" }));
        return
        [
            new("title", "/api/productions/" + Production, i => new() { ["title"] = $"Shift {i}" }),
            new("size", "/api/productions/" + Production, i => new() { ["size"] = i == 0 ? "640x360" : "1920x1080" }),
            new("scene", "/api/scenes/" + Scene, i => new() { ["title"] = $"Dawn {i}" }),
            new("lead-out", "/api/scenes/" + Scene, i => new() { ["leadOut"] = 2.0 + i }),
            new("role", "/api/members/" + Member, i => new() { ["roleName"] = $"Baker {i}" }),
            new(
                "mouth",
                "/api/members/" + Member,
                i =>
                    new()
                    {
                        ["mouth"] = new
                        {
                            strength = 0.5 + 0.2 * i,
                            dynamics = 0.1,
                            lead = 0.05,
                            density = 1,
                            holdFrames = 2,
                        },
                    }
            ),
            new("other role", "/api/members/" + other, i => new() { ["roleName"] = $"Starter {i}" }),
            new("first pause", "/api/lines/" + first, i => new() { ["pause"] = 0.3 + i }),
            new("second pause", "/api/lines/" + second, i => new() { ["pause"] = 0.4 + i }),
        ];
    }

    [Fact]
    public async Task Every_pair_of_edits_lands_or_is_refused_by_what_it_touches()
    {
        var wishes = await WishesAsync();
        var wrong = new List<string>();
        for (var x = 0; x < wishes.Length; x++)
        for (var y = x; y < wishes.Length; y++)
        {
            var (a, b) = (wishes[x], wishes[y]);
            var revision = Revision(await StateAsync());
            async Task<HttpStatusCode> SendAsync(Wish wish, int i)
            {
                using var answer = await Server.Client.PatchAsJsonAsync(wish.Url, new Dictionary<string, object>(wish.Body(i)) { ["revision"] = revision });
                return answer.StatusCode;
            }
            if ((int)await SendAsync(a, 0) is < 200 or > 299)
                wrong.Add($"{a.Name} was refused alone");
            var code = (int)await SendAsync(b, 1);
            if (a == b ? code != 409 : code is < 200 or > 299)
                wrong.Add($"{a.Name}, then {b.Name}: {code}");
            // As it was, for the next pair.
            await BackAsync(code == 409 ? 1 : 2);
        }
        Assert.Empty(wrong);
    }

    private async Task BackAsync(int steps)
    {
        for (var i = 0; i < steps; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { });
    }

    [Fact]
    public async Task What_is_refused_has_changed_nothing_and_says_what_it_is_now()
    {
        var wish = (await WishesAsync()).First(w => w.Name == "role");
        var revision = Revision(await StateAsync());
        await Server.PatchAsync(wish.Url, wish.Body(0));
        var before = (await StateAsync()).GetRawText();
        using var answer = await Server.Client.PatchAsJsonAsync(wish.Url, new Dictionary<string, object>(wish.Body(1)) { ["revision"] = revision });
        Assert.Equal(HttpStatusCode.Conflict, answer.StatusCode);
        var said = await answer.Content.ReadFromJsonAsync<JsonElement>();
        Assert.Contains("Baker 0", said.GetProperty("error").GetString());
        Assert.Equal(Revision(await StateAsync()), said.GetProperty("revision").GetInt64());
        Assert.Equal(before, (await StateAsync()).GetRawText());
        // Whoever knows it now may do it.
        await Server.PatchAsync(wish.Url, new Dictionary<string, object>(wish.Body(1)) { ["revision"] = said.GetProperty("revision").GetInt64() });
        Assert.Equal("Baker 1", (await StateAsync()).GetProperty("members")[0].GetProperty("roleName").GetString());
    }

    [Fact]
    public async Task Edits_from_many_sides_at_once_are_all_there_and_all_can_be_undone()
    {
        var wishes = await WishesAsync();
        var before = Revision(await StateAsync());
        var codes = await Task.WhenAll(
            wishes.Select(async w =>
                (await Server.Client.PatchAsJsonAsync(w.Url, new Dictionary<string, object>(w.Body(0)) { ["revision"] = before })).StatusCode
            )
        );
        Assert.All(codes, c => Assert.InRange((int)c, 200, 299));
        var state = await StateAsync();
        Assert.Equal(before + wishes.Length, Revision(state));
        Assert.Equal(
            ("Shift 0", "Dawn 0", "Baker 0", "Starter 0"),
            (
                state.GetProperty("production").GetProperty("title").GetString(),
                state.GetProperty("scene").GetProperty("title").GetString(),
                state.GetProperty("members")[0].GetProperty("roleName").GetString(),
                state.GetProperty("members")[1].GetProperty("roleName").GetString()
            )
        );
        await BackAsync(wishes.Length);
        Assert.NotEqual("Baker 0", (await StateAsync()).GetProperty("members")[0].GetProperty("roleName").GetString());
    }
}
