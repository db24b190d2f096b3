using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Members are put where they stand, over HTTP.</summary>
public class PlaceTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private string Places => $"/api/scenes/{Scene}/places";

    private async Task<JsonElement> StandsAsync(int member = 0) => (await StateAsync()).GetProperty("members")[member].GetProperty("stands");

    private async Task<string> AddAsync(string role) =>
        (await Server.PostAsync($"/api/productions/{Production}/members", new { roleName = role, character = "tock" })).GetProperty("id").GetString()!;

    [Fact]
    public async Task Somebody_is_put_elsewhere_made_larger_and_stands_by_itself_again()
    {
        var before = await StandsAsync();
        await Server.PostAsync(
            Places,
            new
            {
                member = Member,
                x = 300,
                lift = 25.5,
            }
        );
        await Server.PostAsync(Places, new { member = Member, size = 1.5 });
        var put = await StandsAsync();
        Assert.Equal((300, 25.5, 1.5, true), (D(put, "x"), D(put, "lift"), D(put, "size"), put.GetProperty("isPlaced").GetBoolean()));
        Assert.Equal(D(before, "y") - 25.5, D(put, "y"), 3);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal(1, D(await StandsAsync(), "size"));
        await Server.PostAsync(Places + "/own", new { member = Member });
        Assert.Equal(before.GetRawText(), (await StandsAsync()).GetRawText());
        // Out of all bounds is brought back into sight; nonsense is refused.
        await Server.PostAsync(
            Places,
            new
            {
                member = Member,
                x = 1e12,
                size = 0,
            }
        );
        Assert.Equal((1680, 0.25), (D(await StandsAsync(), "x"), D(await StandsAsync(), "size")));
        await Server.PostAsync(Places, new { member = Guid.NewGuid(), x = 5 }, expect: 404);
        static double D(JsonElement e, string name) => e.GetProperty(name).GetDouble();
    }

    [Fact]
    public async Task Each_press_to_the_front_or_back_passes_the_next_one()
    {
        var (second, third) = (await AddAsync("Tock"), await AddAsync("Tick"));
        async Task<string> OrderAsync()
        {
            var all = (await StateAsync()).GetProperty("members").EnumerateArray().ToArray();
            return string.Concat(
                Enumerable.Range(0, 3).OrderBy(i => all[i].GetProperty("stands").GetProperty("first").GetInt32()).Where(i => i > 0).Select(i => i)
            );
        }
        // Of one layer: the first may stand behind the counter.
        Assert.Equal("12", await OrderAsync());
        await Server.PostAsync(Places, new { member = second, step = 1 });
        Assert.Equal("21", await OrderAsync());
        await Server.PostAsync(Places, new { member = second, step = -1 });
        Assert.Equal("12", await OrderAsync());
        await Server.PostAsync(Places, new { member = third, step = -1 });
        Assert.Equal("21", await OrderAsync());
        // Where nobody is left to pass nothing changes.
        await Server.PostAsync(Places, new { member = third, step = -1 });
        Assert.Equal("21", await OrderAsync());
    }

    [Fact]
    public async Task Two_pages_put_two_members_and_neither_is_told_that_it_was_late()
    {
        var second = await AddAsync("Tock");
        var revision = Revision(await StateAsync());
        await Server.PostAsync(
            Places,
            new
            {
                revision,
                member = Member,
                x = 200,
            }
        );
        await Server.PostAsync(
            Places,
            new
            {
                revision,
                member = second,
                x = 900,
            }
        );
        Assert.Equal((200, 900), ((await StandsAsync()).GetProperty("x").GetDouble(), (await StandsAsync(1)).GetProperty("x").GetDouble()));
        // A scene that is cut in two has them in the same places.
        await Server.SpeakAsync(Production, Scene, Member, "One.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "Two.");
        var at = Line(state, 1).GetProperty("start").GetDouble() - 0.05;
        var other = (await Server.PostAsync($"/api/scenes/{Scene}/cut", new { at })).GetProperty("id").GetString();
        var there = (await Server.GetAsync("/api/scenes/" + other)).GetProperty("members");
        Assert.Equal(200, there[0].GetProperty("stands").GetProperty("x").GetDouble());
    }
}
