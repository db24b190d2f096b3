using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Zamblo.Media;

namespace Zamblo.Web.Tests;

/// <summary>The rig bench over HTTP: a drawing gets a rig, which is put right and kept.</summary>
public class RigBenchTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<string> BringAsync(string name)
    {
        var svg = Encoding.UTF8.GetBytes(DrawingExamples.Read("owl")!);
        var made = await Server.PostAsync($"/api/characters/rigged?name={Uri.EscapeDataString(name)}", svg);
        Assert.Equal(0, made.GetProperty("warnings").GetArrayLength());
        return made.GetProperty("key").GetString()!;
    }

    private async Task<JsonObject> SheetAsync(string key) => JsonNode.Parse(await Server.Client.GetStringAsync($"/api/characters/{key}/rig"))!.AsObject();

    [Fact]
    public async Task A_drawing_gets_a_rig_that_is_changed_tried_and_kept_and_productions_keep_the_one_they_have()
    {
        var key = await BringAsync("Owl of the yard");
        var revision = Revision(await StateAsync());
        await Server.PostAsync($"/api/productions/{Production}/members", new { revision, character = key });
        var sheet = await SheetAsync(key);
        Assert.True(sheet["isOwn"]!.GetValue<bool>());
        Assert.Contains(sheet["findings"]!.AsArray(), f => f!["what"]!.GetValue<string>() == "Lids" && f["state"]!.GetValue<string>() == "StandIn");
        // Every part that is drawn has a place, and every shape a part.
        Assert.Equal(4, sheet["boxes"]!["tail"]!.AsArray().Count);
        Assert.Contains("pupil-left", sheet["shapeParts"]!.AsArray().Select(p => p!.GetValue<string>()));

        // Tried: another pivot moves the wing elsewhere, and nothing is kept.
        var rig = sheet["rig"]!.AsObject();
        string Frames(JsonElement e) => e.GetProperty("frames").GetRawText();
        var before = Frames(await Server.PostAsync($"/api/characters/{key}/rig/frames", new { rig, test = "hands" }));
        rig["parts"]!.AsArray().First(p => p!["id"]!.GetValue<string>() == "wing-left")!["pivot"] = new JsonArray(10, 900);
        Assert.NotEqual(before, Frames(await Server.PostAsync($"/api/characters/{key}/rig/frames", new { rig, test = "hands" })));
        Assert.True((await Server.PostAsync($"/api/characters/{key}/rig/shapes", new { rig })).GetProperty("shapes").GetArrayLength() > 20);
        foreach (var test in sheet["tests"]!.AsArray())
            Assert.True(
                (await Server.PostAsync($"/api/characters/{key}/rig/frames", new { rig, test = test!["key"]!.GetValue<string>() }))
                    .GetProperty("frames")
                    .GetArrayLength() > 25
            );
        Assert.Equal(key, (await SheetAsync(key))["key"]!.GetValue<string>());

        // Kept, it takes the place of the one that it was; whoever is cast stays and is offered the new one.
        string[] order = [.. sheet["order"]!.AsArray().Select(o => o!.GetValue<string>()).Where(o => o != "tail"), "tail"];
        var kept = (await Server.PostAsync($"/api/characters/{key}/rig", new { rig, order })).GetProperty("key").GetString()!;
        Assert.NotEqual(key, kept);
        Assert.Equal("tail", (await SheetAsync(kept))["order"]!.AsArray()[^1]!.GetValue<string>());
        var cards = (await Server.GetAsync("/api/characters")).EnumerateArray().Select(c => c.GetProperty("key").GetString()).ToArray();
        Assert.Contains(kept, cards);
        Assert.DoesNotContain(key, cards);
        var member = (await StateAsync()).GetProperty("members").EnumerateArray().Last();
        Assert.Equal((key, kept), (member.GetProperty("character").GetString(), member.GetProperty("newer").GetProperty("key").GetString()));

        // Its drawing goes out with its rig, and its mouth comes off.
        var zip = await Server.Client.GetByteArrayAsync($"/api/characters/{kept}/drawing");
        var back = (await Server.PostAsync("/api/characters/drawings", zip)).GetProperty("key").GetString()!;
        Assert.Equal((await SheetAsync(kept))["rig"]!.ToJsonString(), (await SheetAsync(back))["rig"]!.ToJsonString());
        var bare = (await Server.PostAsync($"/api/characters/{kept}/mouths/off", new { })).GetProperty("key").GetString()!;
        Assert.Equal("muzzle", (await SheetAsync(bare))["rig"]!["mouth"]!["style"]!.GetValue<string>());
    }

    [Fact]
    public async Task One_of_ours_gets_a_rig_of_ones_own_beside_it()
    {
        var rig = (await SheetAsync("tock"))["rig"]!.AsObject();
        rig["head"]!["tiltLimit"] = 3;
        var key = (await Server.PostAsync("/api/characters/tock/rig", new { rig })).GetProperty("key").GetString()!;
        Assert.Equal("Tock, own rig", (await SheetAsync(key))["name"]!.GetValue<string>());
        Assert.Equal(10, (await SheetAsync("tock"))["rig"]!["head"]!["tiltLimit"]!.GetValue<float>());
    }

    [Fact]
    public async Task What_is_no_rig_or_no_drawing_is_said()
    {
        var key = await BringAsync("Owl of the mill");
        var rig = (await SheetAsync(key))["rig"]!.AsObject();
        async Task RefusedAsync(string part, object body) =>
            Assert.Contains(part, (await Server.PostAsync($"/api/characters/{key}/rig/frames", body, expect: 400)).GetProperty("error").GetString());
        await RefusedAsync("no rig", new { });
        await RefusedAsync("no rig", new { rig = 3 });
        await RefusedAsync("cannot be read", new { rig = new { } });
        await RefusedAsync("order", new { rig, order = new[] { "body" } });
        rig["parts"]!.AsArray()[0]!["pivot"] = new JsonArray(1);
        await RefusedAsync("two numbers", new { rig });
        rig["parts"]!.AsArray()[0]!["pivot"] = new JsonArray(1, 2);
        rig["parts"]!.AsArray()[0]!["parent"] = "nobody";
        await RefusedAsync("nobody", new { rig });
        await Server.PostAsync("/api/characters/rigged", "<svg viewBox='0 0 9 9'/>"u8.ToArray(), expect: 400);
        await Server.PostAsync("/api/characters/rigged", "a letter"u8.ToArray(), expect: 400);
        await Server.SendAsync(HttpMethod.Get, "/api/characters/ines/rig", expect: 404);
        await Server.SendAsync(HttpMethod.Get, "/api/drawings/nothing", expect: 404);
    }
}
