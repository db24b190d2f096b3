using System.Text.Json;
using Zamblo.Core.Light;

namespace Zamblo.Web.Tests;

/// <summary>Lamps of a scene, through the server.</summary>
public sealed class LampEditTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<JsonElement[]> LampsAsync() => [.. (await StateAsync()).GetProperty("scene").GetProperty("light").GetProperty("lamps").EnumerateArray()];

    private Task<JsonElement> SetAsync(object lamp) => Server.PostAsync($"/api/scenes/{Scene}/lamps", lamp);

    [Fact]
    public async Task Lamps_are_hung_changed_and_taken_away_step_by_step()
    {
        var lamp = Id(await SetAsync(new { x = 300, y = 150 }));
        await SetAsync(new { x = 900 });
        await SetAsync(
            new
            {
                lamp,
                reach = 500,
                color = "#FF8040",
                flicker = 0.5,
            }
        );
        var first = (await LampsAsync())[0];
        Assert.Equal((300, 150, 500, 0.5), (N("x"), N("y"), N("reach"), N("flicker")));
        Assert.Equal("#ff8040", first.GetProperty("color").GetString());
        double N(string name) => first.GetProperty(name).GetDouble();
        // Other dials of the light leave them where they are.
        await Server.PatchAsync($"/api/scenes/{Scene}", new { light = new { light = "Night", shade = 0.2 } });
        Assert.Equal(2, (await LampsAsync()).Length);
        await Server.PostAsync($"/api/scenes/{Scene}/lamps/drop", new { lamp });
        Assert.Equal(900, Assert.Single(await LampsAsync()).GetProperty("x").GetDouble());
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(lamp, Id((await LampsAsync())[0]));
        while ((await LampsAsync()).Length < Lamp.Most)
            await SetAsync(new { });
        await RefusedAsync("lamps", new { }, 400);
        await RefusedAsync("lamps", new { lamp, color = "url(x)" }, 400);
        await SetAsync(new { lamp, reach = 1e9 });
        Assert.Equal(Lamp.Farthest, (await LampsAsync())[0].GetProperty("reach").GetDouble());
        await RefusedAsync("lamps/drop", new { lamp = Guid.NewGuid() }, 404);
        Task RefusedAsync(string what, object order, int status) => Server.SendAsync(HttpMethod.Post, $"/api/scenes/{Scene}/{what}", order, status);
    }

    [Fact]
    public async Task A_change_of_the_light_dims_lamps_and_the_next_scene_begins_with_them_dimmed()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Mind the oven.");
        await SetAsync(new { x = 300, strength = 0.8 });
        var clip = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    member = Member,
                    kind = "Light",
                    name = "Night",
                    start = 0.2,
                    end = 0.6,
                    lamps = 0.5,
                }
            )
        );
        double Lamps(JsonElement state) => state.GetProperty("clips").EnumerateArray().Single(c => Id(c) == clip).GetProperty("lamps").GetDouble();
        Assert.Equal(0.5, Lamps(await StateAsync()));
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{clip}", new { name = "Lamp" });
        Assert.Equal(0.5, Lamps(await StateAsync()));
        var next = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { revision = Revision(await StateAsync()) }));
        var light = (await Server.GetAsync("/api/scenes/" + next)).GetProperty("scene").GetProperty("light");
        Assert.Equal(0.4, light.GetProperty("lamps")[0].GetProperty("strength").GetDouble(), 3);
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{clip}", new { lamps = -1 });
        Assert.Equal(JsonValueKind.Null, (await StateAsync()).GetProperty("clips").EnumerateArray().Single(c => Id(c) == clip).GetProperty("lamps").ValueKind);
    }
}
