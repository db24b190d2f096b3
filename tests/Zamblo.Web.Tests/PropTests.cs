using System.Net;
using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Props of a scene, over HTTP.</summary>
public class PropTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<string> BringAsync(string art, double? x = null) =>
        (await Server.PostAsync($"/api/scenes/{Scene}/props", new { art, x })).GetProperty("id").GetString()!;

    private async Task<JsonElement[]> PropsAsync() => [.. (await StateAsync()).GetProperty("props").EnumerateArray()];

    private async Task<JsonElement> PlaceAsync(string id) => (await PropsAsync()).First(p => p.GetProperty("id").GetString() == id).GetProperty("place");

    private Task<JsonElement> ChangeAsync(string id, object change, int expect = 200) => Server.SendAsync(HttpMethod.Patch, $"/api/props/{id}", change, expect);

    [Fact]
    public async Task A_prop_comes_moves_is_copied_and_goes_and_all_of_it_can_be_undone()
    {
        var id = await BringAsync("pendant", 300);
        var place = await PlaceAsync(id);
        Assert.Equal((300, "Swing"), (place.GetProperty("x").GetDouble(), place.GetProperty("motion").GetString()));
        await ChangeAsync(
            id,
            new
            {
                y = 320,
                size = 1.4,
                flip = true,
                motion = "Spin",
                period = 4,
            }
        );
        place = await PlaceAsync(id);
        Assert.Equal((300, 320), (place.GetProperty("x").GetDouble(), place.GetProperty("y").GetDouble()));
        Assert.Equal(
            (1.4, true, "Spin"),
            (Math.Round(place.GetProperty("size").GetDouble(), 4), place.GetProperty("flip").GetBoolean(), place.GetProperty("motion").GetString())
        );
        var copy = (await Server.PostAsync($"/api/props/{id}/copy", new { })).GetProperty("id").GetString()!;
        Assert.Equal(370, (await PlaceAsync(copy)).GetProperty("x").GetDouble());
        await Server.SendAsync(HttpMethod.Delete, $"/api/props/{id}");
        Assert.Equal(copy, Assert.Single(await PropsAsync()).GetProperty("id").GetString());
        for (var i = 0; i < 4; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Empty(await PropsAsync());
        for (var i = 0; i < 2; i++)
            await Server.PostAsync($"/api/productions/{Production}/redo", new { });
        Assert.Equal("Spin", (await PlaceAsync(id)).GetProperty("motion").GetString());
        await Server.PostAsync($"/api/scenes/{Scene}/props", new { art = "none such" }, expect: 400);
        await ChangeAsync(id, new { motion = 77 }, 400);
        await ChangeAsync(Guid.NewGuid().ToString(), new { x = 1 }, 404);
        // All that are offered have a picture.
        foreach (var prop in (await Server.GetAsync("/api/props")).EnumerateArray().Take(5))
            Assert.Equal(
                "image/png",
                (await Server.Client.GetAsync($"/api/props/{prop.GetProperty("key").GetString()}/picture")).Content.Headers.ContentType!.MediaType
            );
    }

    [Fact]
    public async Task What_is_held_hangs_on_its_words_goes_with_its_prop_and_into_copies_and_cut_scenes()
    {
        await Server.SpeakAsync(Production, Scene, Member, "One, two, three, four, five, six.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "Seven, eight, nine, and ten.");
        var second = Line(state, 1);
        var (start, length) = (second.GetProperty("start").GetDouble(), second.GetProperty("duration").GetDouble());
        var id = await BringAsync("letter");
        var hold = await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Hold",
                prop = id,
                right = false,
                start = start + 0.3 * length,
                end = start + 0.9 * length,
            }
        );
        var clip = (await StateAsync()).GetProperty("clips").EnumerateArray().Single();
        Assert.Equal(
            ("hold", "Holds letter", false),
            (clip.GetProperty("kind").GetString(), clip.GetProperty("title").GetString(), clip.GetProperty("right").GetBoolean())
        );
        Assert.Equal(second.GetProperty("id").GetString(), clip.GetProperty("line").GetString());
        // A line that moves takes it along.
        await Server.SendAsync(HttpMethod.Patch, $"/api/lines/{second.GetProperty("id").GetString()}", new { at = start + 2 });
        var moved = (await StateAsync()).GetProperty("clips")[0];
        Assert.Equal(clip.GetProperty("start").GetDouble() + 2, moved.GetProperty("start").GetDouble(), 2);
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{hold.GetProperty("id").GetString()}", new { right = true });
        Assert.True((await StateAsync()).GetProperty("clips")[0].GetProperty("right").GetBoolean());

        // An equal production holds its own.
        var copy = (await Server.PostAsync($"/api/productions/{Production}/duplicate", new { })).GetProperty("id").GetString()!;
        var there = await Server.GetAsync("/api/scenes/" + await Server.FirstSceneAsync(copy));
        Assert.Equal(there.GetProperty("props")[0].GetProperty("id").GetString(), there.GetProperty("clips")[0].GetProperty("prop").GetString());
        Assert.NotEqual(id, there.GetProperty("clips")[0].GetProperty("prop").GetString());

        // Cut in two, both halves have it; what is held in the second is that of the second.
        var other = (await Server.PostAsync($"/api/scenes/{Scene}/cut", new { at = start + 1.5 })).GetProperty("id").GetString();
        var later = await Server.GetAsync("/api/scenes/" + other);
        Assert.Equal(later.GetProperty("props")[0].GetProperty("id").GetString(), later.GetProperty("clips")[0].GetProperty("prop").GetString());
        Assert.Equal(id, Assert.Single(await PropsAsync()).GetProperty("id").GetString());
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });

        // Taken out of the scene it is taken out of the hand; undone it is held again.
        await Server.SendAsync(HttpMethod.Delete, $"/api/props/{id}");
        Assert.Empty((await StateAsync()).GetProperty("clips").EnumerateArray());
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal(id, (await StateAsync()).GetProperty("clips")[0].GetProperty("prop").GetString());
    }

    [Fact]
    public async Task A_shot_is_of_a_thing_that_is_there_and_goes_with_it()
    {
        await Server.SpeakAsync(Production, Scene, Member, "One, two, three, four, five, six.");
        object Shot(string? prop) =>
            new
            {
                member = Member,
                kind = "Shot",
                name = "Insert",
                prop,
                start = 0.5,
                end = 1.6,
            };
        await Server.PostAsync($"/api/scenes/{Scene}/clips", Shot(null), expect: 400);
        var (mug, letter) = (await BringAsync("mug", 900), await BringAsync("letter", 300));
        var clip = (await Server.PostAsync($"/api/scenes/{Scene}/clips", Shot(mug))).GetProperty("id").GetString();
        async Task<JsonElement> InsertAsync() =>
            (await StateAsync()).GetProperty("shots").EnumerateArray().Single(s => s.GetProperty("framing").GetString() == "Insert");
        Assert.Equal(mug, (await InsertAsync()).GetProperty("prop").GetString());
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{clip}", new { prop = letter });
        Assert.Equal(letter, (await InsertAsync()).GetProperty("prop").GetString());
        await Server.SendAsync(HttpMethod.Delete, $"/api/props/{letter}");
        Assert.DoesNotContain((await StateAsync()).GetProperty("shots").EnumerateArray(), s => s.GetProperty("framing").GetString() == "Insert");
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal(letter, (await InsertAsync()).GetProperty("prop").GetString());
        // Reframed it is of somebody again.
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{clip}", new { name = "Close" });
        Assert.Contains((await StateAsync()).GetProperty("shots").EnumerateArray(), s => s.GetProperty("framing").GetString() == "Close");
    }

    [Fact]
    public Task Only_what_is_there_can_be_held() =>
        Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Hold",
                prop = Guid.NewGuid(),
                start = 0.2,
                end = 1.0,
            },
            expect: 404
        );

    [Fact]
    public async Task A_picture_of_one_s_own_is_a_prop_is_seen_and_goes_along_in_the_file()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var frame = $"/api/scenes/{Scene}/frames/3";
        var before = await Server.Client.GetByteArrayAsync(frame);
        var png = await Server.Client.GetByteArrayAsync("/api/props/cake/picture");
        var art = (await Server.PostAsync("/api/pictures?name=cake.png", png)).GetProperty("set").GetString()!;
        var hash = art.Split(':')[1];
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/pictures/{hash}")).StatusCode);
        await BringAsync(art, 900);
        Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/pictures/{hash}")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/props/{Uri.EscapeDataString(art)}/picture")).StatusCode);
        Assert.NotEqual(before, await Server.Client.GetByteArrayAsync(frame));
        await Server.PostAsync($"/api/scenes/{Scene}/props", new { art = art.Replace(hash, new string('0', 64)) }, expect: 400);
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        var id = (await Server.PostAsync("/api/archives", file)).GetProperty("id").GetString()!;
        var there = await Server.GetAsync("/api/scenes/" + await Server.FirstSceneAsync(id));
        Assert.Equal(art, there.GetProperty("props")[0].GetProperty("art").GetString());
    }
}
