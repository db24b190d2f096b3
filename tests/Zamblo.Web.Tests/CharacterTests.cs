using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Studio.Characters;

namespace Zamblo.Web.Tests;

/// <summary>Casting and the Wardrobe over HTTP.</summary>
public class CharacterTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private static JsonObject Recipe(string name = "Ada") =>
        new()
        {
            ["name"] = name,
            ["description"] = "Made here.",
            ["voice"] = "flite:slt",
            ["parts"] = new JsonObject { ["hair"] = "bun", ["top"] = "coat" },
            ["palette"] = new JsonObject { ["skin"] = "#A5694A" },
            ["build"] = 1.1,
        };

    [Fact]
    public async Task A_character_is_saved_cast_changed_and_deleted_and_the_production_keeps_the_one_it_had()
    {
        var key = (await Server.PostAsync("/api/characters", new { recipe = Recipe(), kind = "person" })).GetProperty("key").GetString()!;
        // The same recipe is the same character, whatever order its parts come in.
        var turned = Recipe();
        turned["parts"] = new JsonObject { ["top"] = "coat", ["hair"] = "bun" };
        Assert.Equal(key, (await Server.PostAsync("/api/characters", new { recipe = turned })).GetProperty("key").GetString());
        var cards = (await Server.GetAsync("/api/characters")).EnumerateArray().ToArray();
        Assert.Equal(key, cards[0].GetProperty("key").GetString());
        Assert.True(cards[0].GetProperty("isOwn").GetBoolean() && cards.Length > 16);
        // Twice in one cast: the second in other colours.
        foreach (var expected in (string[])[key, key + "~2"])
        {
            await Server.PostAsync($"/api/productions/{Production}/members", new { revision = Revision(await StateAsync()), character = key });
            Assert.Equal(expected, (await StateAsync()).GetProperty("members").EnumerateArray().Last().GetProperty("character").GetString());
        }
        var picture = await Server.Client.GetByteArrayAsync($"/api/characters/{key}/picture");
        var twin = await Server.Client.GetByteArrayAsync($"/api/characters/{key}~2/picture");
        Assert.NotEqual(Convert.ToHexString(picture), Convert.ToHexString(twin));
        // A changed one takes its place in Casting; who was cast with the old one stays as it is.
        var changed = Recipe();
        changed["parts"]!["hat"] = "beret";
        var other = (await Server.PostAsync("/api/characters", new { recipe = changed, replaces = key })).GetProperty("key").GetString()!;
        Assert.NotEqual(key, other);
        cards = [.. (await Server.GetAsync("/api/characters")).EnumerateArray()];
        Assert.DoesNotContain(cards, c => c.GetProperty("key").GetString() == key);
        // It is offered there, also after one more change; taken, it is there for the first of the two alone.
        JsonElement First(JsonElement s) => s.GetProperty("members").EnumerateArray().First(m => m.GetProperty("character").GetString() == key);
        var cast = First(await StateAsync());
        Assert.Equal(("Ada", other), (cast.GetProperty("characterName").GetString(), cast.GetProperty("newer").GetProperty("key").GetString()));
        var last = Recipe("Ada the Second");
        var newest = (await Server.PostAsync("/api/characters", new { recipe = last, replaces = other })).GetProperty("key").GetString()!;
        cast = First(await StateAsync());
        Assert.Equal("Ada the Second", cast.GetProperty("newer").GetProperty("name").GetString());
        await Server.PatchAsync($"/api/members/{Id(cast)}", new { revision = Revision(await StateAsync()), character = newest });
        var members = (await StateAsync()).GetProperty("members").EnumerateArray().ToArray();
        Assert.Equal(JsonValueKind.Null, members.Single(m => Id(m) == Id(cast)).GetProperty("newer").ValueKind);
        Assert.Equal(newest, members.Single(m => m.GetProperty("character").GetString() == key + "~2").GetProperty("newer").GetProperty("key").GetString());
        // Changed back into the first: that one is the newest.
        await Server.PostAsync("/api/characters", new { recipe = Recipe(), replaces = newest });
        Assert.Equal(
            key,
            (await StateAsync()).GetProperty("members").EnumerateArray().Single(m => Id(m) == Id(cast)).GetProperty("newer").GetProperty("key").GetString()
        );
        await Server.PostAsync("/api/characters", new { recipe = changed, replaces = key });
        await Server.DeleteAsync($"/api/characters/{other}");
        Assert.Equal(picture, await Server.Client.GetByteArrayAsync($"/api/characters/{key}/picture"));
        Assert.True((await Server.GetAsync($"/api/scenes/{Scene}/frames?from=0&count=1")).GetProperty("frames").GetArrayLength() == 1);
        // Out as a file, and in again.
        var file = JsonNode.Parse(await Server.Client.GetStringAsync($"/api/characters/{other}/recipe?download=true"))!;
        Assert.Equal("beret", file["parts"]!["hat"]!.GetValue<string>());
        Assert.Equal(other, (await Server.PostAsync("/api/characters", new { recipe = file })).GetProperty("key").GetString());
    }

    [Fact]
    public async Task A_drawing_goes_out_is_drawn_over_and_is_cast_and_goes_along_with_its_production()
    {
        var zip = await Server.Client.GetByteArrayAsync("/api/characters/bubb/drawing");
        using var files = new System.IO.Compression.ZipArchive(new MemoryStream(zip));
        Assert.Equal(["READ ME.txt", "art.svg", "rig.json"], files.Entries.Select(e => e.FullName).Order(StringComparer.Ordinal));
        using var reader = new StreamReader(files.GetEntry("art.svg")!.Open());
        var art = await reader.ReadToEndAsync();
        // As it is it is another one of one's own; drawn over it has another name and the same rig.
        var same = (await Server.PostAsync("/api/characters/drawings?kind=creature", zip)).GetProperty("key").GetString()!;
        var colour = System.Text.RegularExpressions.Regex.Match(art, "fill=\"(#[0-9A-Fa-f]{6})\"").Groups[1].Value;
        var key = (await Server.PostAsync("/api/characters/bubb/drawing?name=Blub", Encoding.UTF8.GetBytes(art.Replace($"\"{colour}\"", "\"#3344AA\""))))
            .GetProperty("key")
            .GetString()!;
        Assert.NotEqual(same, key);
        var card = (await Server.GetAsync("/api/characters")).EnumerateArray().First(c => c.GetProperty("key").GetString() == key);
        Assert.Equal(
            ("Blub", "creature", true, false),
            (
                card.GetProperty("name").GetString(),
                card.GetProperty("kind").GetString(),
                card.GetProperty("isDrawn").GetBoolean(),
                card.GetProperty("isDressed").GetBoolean()
            )
        );
        Assert.NotEqual(
            Convert.ToHexString(await Server.Client.GetByteArrayAsync($"/api/characters/{same}/picture")),
            Convert.ToHexString(await Server.Client.GetByteArrayAsync($"/api/characters/{key}/picture"))
        );
        await Server.PostAsync($"/api/productions/{Production}/members", new { revision = Revision(await StateAsync()), character = key });
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        var taken = (await Server.PostAsync("/api/archives", file)).GetProperty("id").GetString()!;
        var scene = await Server.FirstSceneAsync(taken);
        Assert.Equal(key, (await Server.GetAsync("/api/scenes/" + scene)).GetProperty("members").EnumerateArray().Last().GetProperty("character").GetString());
        // Drawn over once more under its name it takes the old one's place; a file that has the old one changes nothing of that.
        var again = (await Server.PostAsync("/api/characters/bubb/drawing?name=Blub", Encoding.UTF8.GetBytes(art.Replace($"\"{colour}\"", "\"#AA4433\""))))
            .GetProperty("key")
            .GetString()!;
        await Server.PostAsync("/api/archives", file);
        Assert.Equal(again, (await StateAsync()).GetProperty("members").EnumerateArray().Last().GetProperty("newer").GetProperty("key").GetString());
        // Nor has a drawing of that name that nobody here has seen.
        var store = Services.GetRequiredService<CharacterStore>();
        var seen = store.FindDrawing(again)!;
        var foreign = await store.TakeAsync((seen with { Art = seen.Art.Replace("#AA4433", "#22BB66") }).ToJson(), "creature");
        var keys = (await Server.GetAsync("/api/characters")).EnumerateArray().Select(c => c.GetProperty("key").GetString()).ToArray();
        Assert.Contains(again, keys);
        Assert.Contains(foreign, keys);
        // What is wrong with one is said, and nothing is kept.
        var refused = await Server.PostAsync("/api/characters/bubb/drawing", "<svg viewBox='0 0 9 9'><text>Bubb</text></svg>"u8.ToArray(), expect: 400);
        Assert.Contains("<text>", refused.GetProperty("error").GetString());
        await Server.PostAsync("/api/characters/drawings?kind=ghost", zip, expect: 400);
        await Server.SendAsync(HttpMethod.Get, "/api/characters/ines/drawing", expect: 404);
    }

    [Fact]
    public async Task Mouths_that_are_pictures_make_a_character_of_one_s_own_and_go_along_in_the_file()
    {
        var files = new[] { ("mbp.png", 20), ("ai.png", 60), ("o.png", 40) }.Select(f => new { name = f.Item1, data = MouthPicture(f.Item2) }).ToArray();
        var key = (await Server.PostAsync("/api/characters/bubb/mouths", new { files })).GetProperty("key").GetString()!;
        var card = (await Server.GetAsync("/api/characters")).EnumerateArray().First(c => c.GetProperty("key").GetString() == key);
        Assert.Equal(("Bubb, own mouths", true), (card.GetProperty("name").GetString(), card.GetProperty("isDrawn").GetBoolean()));
        async Task<string> SeenAsync(string who, string shape) =>
            Convert.ToHexString(await Server.Client.GetByteArrayAsync($"/api/characters/{who}/mouths/{shape}"));
        Assert.NotEqual(await SeenAsync(key, "Open"), await SeenAsync(key, "Round"));
        // A lip at the teeth is served by lips that close.
        Assert.Equal(await SeenAsync(key, "Closed"), await SeenAsync(key, "Tuck"));
        var other = (await Server.PostAsync($"/api/characters/{key}/mouths/Mid?by=Round", new { })).GetProperty("key").GetString()!;
        // The jaw is as before, the mouth is another.
        Assert.NotEqual(await SeenAsync(key, "Mid"), await SeenAsync(other, "Mid"));
        Assert.DoesNotContain((await Server.GetAsync("/api/characters")).EnumerateArray(), c => c.GetProperty("key").GetString() == key);
        // The canvas gets its pictures, and another house gets all of it.
        var hashes = Services.GetRequiredService<CharacterStore>().FileOf(other)!.Value.Hashes;
        Assert.Equal(3, hashes.Count);
        foreach (var hash in hashes)
            Assert.Equal("image/png", (await Server.Client.GetAsync("/api/pictures/" + hash)).Content.Headers.ContentType!.MediaType);
        await Server.PostAsync($"/api/productions/{Production}/members", new { revision = Revision(await StateAsync()), character = other });
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        var elsewhere = new Host();
        await elsewhere.InitializeAsync();
        try
        {
            await elsewhere.Talk.PostAsync("/api/archives", file);
            Assert.Equal(
                await SeenAsync(other, "Open"),
                Convert.ToHexString(await elsewhere.Talk.Client.GetByteArrayAsync($"/api/characters/{other}/mouths/Open"))
            );
        }
        finally
        {
            await elsewhere.DisposeAsync();
        }
        var refused = await Server.PostAsync(
            "/api/characters/bubb/mouths",
            new { files = new[] { new { name = "head.png", data = MouthPicture(30) } } },
            expect: 400
        );
        Assert.Contains("names no mouth", refused.GetProperty("error").GetString());
        await Server.PostAsync("/api/characters/bubb/mouths", new { files = Array.Empty<object>() }, expect: 400);
        await Server.PostAsync("/api/characters/ines/mouths", new { files }, expect: 404);
        await Server.PostAsync("/api/characters/bubb/mouths/Mid?by=Round", new { }, expect: 400);
    }

    private static byte[] MouthPicture(int across)
    {
        using var bitmap = new SkiaSharp.SKBitmap(120, 80);
        using var canvas = new SkiaSharp.SKCanvas(bitmap);
        canvas.Clear(SkiaSharp.SKColors.Transparent);
        using var paint = new SkiaSharp.SKPaint { Color = SkiaSharp.SKColors.DarkRed };
        canvas.DrawOval(60, 40, across / 2f, across / 4f, paint);
        using var png = bitmap.Encode(SkiaSharp.SKEncodedImageFormat.Png, 100);
        return png.ToArray();
    }

    [Fact]
    public async Task What_makes_no_figure_is_refused_with_what_is_wrong()
    {
        async Task RefusedAsync(string part, Action<JsonObject> spoil)
        {
            var recipe = Recipe();
            spoil(recipe);
            Assert.Contains(part, await Server.ErrorAsync("/api/characters", new { recipe }));
        }
        await RefusedAsync("no hair \"x\"", r => r["parts"]!["hair"] = "x");
        await RefusedAsync("no kind of part", r => r["parts"]!["../hair"] = "bun");
        await RefusedAsync("#rrggbb", r => r["palette"]!["skin"] = "url(#a)");
        await RefusedAsync("build", r => r["build"] = 40);
        await RefusedAsync("1 to 40", r => r["name"] = new string('x', 41));
        await RefusedAsync("no voice", r => r["voice"] = "espeak:../../etc");
        await RefusedAsync("200 characters", r => r["description"] = new string('x', 201));
        await RefusedAsync("is missing", r => r["name"] = null);
        await RefusedAsync("is missing", r => r["parts"]!["hair"] = null);
        await RefusedAsync("is missing", r => r["palette"] = null);
        Assert.Contains("no recipe", await Server.ErrorAsync("/api/characters", new { }));
        Assert.Contains("no recipe", await Server.ErrorAsync("/api/wardrobe/shapes", new { }));
        Assert.Contains("no kind of character", await Server.ErrorAsync("/api/characters", new { recipe = Recipe(), kind = "god" }));
        foreach (var key in (string[])["own-0000000000000000", "nobody", "ines~x", "..%2f"])
            Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/characters/{key}/picture")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.DeleteAsync("/api/characters/maro")).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await Server.Client.GetAsync("/api/wardrobe/thumb?kind=hair&part=bun&recipe=e30")).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await Server.Client.GetAsync("/api/wardrobe/thumb?kind=hair&part=bun&recipe=%7B")).StatusCode);
    }

    [Fact]
    public async Task The_Wardrobe_shows_every_part_and_the_figure_speaking()
    {
        var stock = (await Server.GetAsync("/api/wardrobe/stock")).EnumerateArray().ToArray();
        var code = Convert.ToBase64String(Encoding.UTF8.GetBytes(Recipe().ToJsonString())).Replace('+', '-').Replace('/', '_').TrimEnd('=');
        foreach (var kind in stock)
        {
            var part = kind.GetProperty("parts").EnumerateArray().Last().GetProperty("key").GetString();
            var png = await Server.Client.GetByteArrayAsync($"/api/wardrobe/thumb?kind={kind.GetProperty("kind").GetString()}&part={part}&recipe={code}");
            Assert.Equal([0x89, (byte)'P', (byte)'N', (byte)'G'], png[..4]);
        }
        var body = new { recipe = Recipe(), mood = "Joy" };
        var shapes = await Server.PostAsync("/api/wardrobe/shapes", body);
        var frames = (await Server.PostAsync("/api/wardrobe/frames", body)).GetProperty("frames").EnumerateArray().ToArray();
        Assert.True(frames.Length > 100 && shapes.GetProperty("shapes").GetArrayLength() > 60);
        // It speaks: the mouth's paths change over the frames.
        Assert.True(frames.Skip(40).Take(40).Count(f => f.GetRawText().Contains('C')) > 20);
        var one = await Server.PostAsync("/api/wardrobe/frames?from=10&count=1", body);
        Assert.Equal(1, one.GetProperty("frames").GetArrayLength());
        Assert.Equal(
            JsonSerializer.Serialize(await Server.GetAsync("/api/wardrobe/random?seed=7")),
            JsonSerializer.Serialize(await Server.GetAsync("/api/wardrobe/random?seed=7"))
        );
    }
}
