using System.Net;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio.Assets;

namespace Zamblo.Web.Tests;

/// <summary>Pictures that become characters, over HTTP. The pictures are painted by the tests of Zamblo.Media.</summary>
public class PortraitWebTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private readonly Host _host = host;

    private async Task<JsonElement> BringAsync(string name) => await Server.PostAsync($"/api/portraits/pictures?name={name}", Picture(name));

    private static object Order(JsonElement brought, int faces = 1, bool isFree = true) =>
        new
        {
            picture = brought.GetProperty("hash").GetString(),
            isFree,
            faces = brought
                .GetProperty("faces")
                .EnumerateArray()
                .Take(faces)
                .Select(
                    (f, i) =>
                        new
                        {
                            name = $"Painted {i + 1}",
                            voice = "flite:slt",
                            kind = "person",
                            marks = f.GetProperty("marks"),
                            teeth = "Even",
                        }
                )
                .ToArray(),
        };

    [Fact]
    public async Task A_picture_is_brought_looked_at_kept_filmed_and_goes_along_in_the_file()
    {
        var brought = await BringAsync("one.jpg");
        Assert.Equal(1, brought.GetProperty("faces").GetArrayLength());
        var order = Order(brought);
        var look = new
        {
            order,
            which = 0,
            mood = "Joy",
        };
        var shapes = await Server.PostAsync("/api/portraits/shapes", look);
        Assert.False(shapes.GetProperty("grain").GetBoolean());
        var mesh = shapes.GetProperty("shapes").EnumerateArray().First(s => s.TryGetProperty("mesh", out _));
        Assert.True(mesh.GetProperty("mesh").GetProperty("triangles").GetArrayLength() > 300);
        var frames = (await Server.PostAsync("/api/portraits/frames", look)).GetProperty("frames");
        Assert.True(frames.GetArrayLength() > 75);
        // All its pictures can be fetched, and nothing else that is kept under a hash.
        foreach (var shape in shapes.GetProperty("shapes").EnumerateArray())
            if (shape.TryGetProperty("picture", out var hash))
                Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/pictures/{hash.GetString()}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/pictures/{new string('0', 64)}")).StatusCode);

        var made = await Server.PostAsync("/api/portraits", order);
        var key = made.GetProperty("keys")[0].GetString()!;
        var card = (await Server.GetAsync("/api/characters")).EnumerateArray().First(c => c.GetProperty("key").GetString() == key);
        Assert.True(card.GetProperty("isOwn").GetBoolean());
        Assert.False(card.GetProperty("isDressed").GetBoolean());
        foreach (var part in (string[])["picture", "moods/Anger", "mouths/Wide", "preview-shapes"])
            Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync($"/api/characters/{key}/{part}")).StatusCode);
        // The longer side as a usual film's.
        Assert.Equal("1048x1280", made.GetProperty("size").GetString());

        var take = await Server.PostAsync(
            "/api/one-take",
            new
            {
                text = "Good morning.",
                character = key,
                backdrop = made.GetProperty("set").GetString(),
                size = "262x320",
            },
            expect: 201
        );
        var (production, scene) = (take.GetProperty("production").GetString()!, take.GetProperty("scene").GetString()!);
        for (var i = 0; i < 200 && (await Server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").GetArrayLength() == 0; i++)
            await Task.Delay(100);
        var job = Text(await Server.PostAsync($"/api/scenes/{scene}/renders", new { }), "job");
        Assert.Equal("done", Text(await Server.WaitAsync(production, job), "state"));

        // Out as a file, and in again, where nobody knows the character.
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{production}/archive");
        await using (var db = await _host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync())
        {
            var recipe = (await db.OwnCharacters.SingleAsync(c => c.Key == key)).Recipe;
            using var zip = new System.IO.Compression.ZipArchive(new MemoryStream(file));
            var hashes = JsonNode.Parse(recipe)!;
            foreach (var hash in (string[])[(string)hashes["picture"]!, (string)hashes["eyeLeft"]!["white"]!, (string)hashes["mouth"]!["teethUpper"]!["hash"]!])
                Assert.NotNull(zip.GetEntry("media/" + hash));
            Assert.NotNull(zip.GetEntry($"characters/{key}.json"));
        }
        var other = new Host();
        await other.InitializeAsync();
        try
        {
            var id = Text(await other.Talk.PostAsync("/api/archives", file), "id");
            Assert.Equal(HttpStatusCode.OK, (await other.Talk.Client.GetAsync($"/api/characters/{key}/picture")).StatusCode);
            Assert.Equal(
                await Server.Client.GetByteArrayAsync($"/api/characters/{key}/picture"),
                await other.Talk.Client.GetByteArrayAsync($"/api/characters/{key}/picture")
            );
            Assert.NotEmpty(id);
        }
        finally
        {
            await other.DisposeAsync();
        }
    }

    [Fact]
    public async Task All_motions_are_seen_and_what_is_no_stroke_or_part_is_refused()
    {
        var brought = await BringAsync("one.jpg");
        JsonNode Changed(Action<JsonNode> change)
        {
            var order = JsonSerializer.SerializeToNode(Order(brought))!;
            change(order);
            return new JsonObject { ["order"] = order, ["which"] = 0 };
        }
        JsonObject At(float x, float y) => new() { ["x"] = x, ["y"] = y };
        JsonObject Part(int marks) =>
            new()
            {
                ["edge"] = new JsonArray([.. Enumerable.Range(0, marks).Select(i => (JsonNode)At(300 + 200 * (i % 2), 100 + 60 * (i / 2)))]),
                ["pivot"] = At(400, 260),
                ["wags"] = true,
                ["amount"] = 0.5,
            };
        JsonObject Stroke(params float[] points) =>
            new()
            {
                ["isKept"] = false,
                ["size"] = 30,
                ["feather"] = 0.2,
                ["points"] = new JsonArray([.. points.Select(p => (JsonNode)p)]),
            };
        var strip = await Server.PostAsync(
            "/api/portraits/strip",
            Changed(o =>
            {
                o["strokes"] = new JsonArray(Stroke(20, 20, 90, 60));
                o["faces"]![0]!["parts"] = new JsonArray(Part(4));
                o["faces"]![0]!["eyes"] = "Cartoon";
            })
        );
        var cells = strip.GetProperty("cells").EnumerateArray().ToArray();
        Assert.Equal(cells.Length, cells.Select(c => Text(c, "name")).Distinct().Count());
        Assert.Equal(Core.Mouth.MouthShapes.All.Count, cells.Count(c => Text(c, "name").StartsWith("mouth: ", StringComparison.Ordinal)));
        Assert.Equal(Core.Performance.Moods.All.Count, cells.Count(c => Text(c, "name").StartsWith("mood: ", StringComparison.Ordinal)));
        // No two mouths are alike.
        string Items(string name) => cells.Single(c => Text(c, "name") == name).GetProperty("items").GetRawText();
        Assert.NotEqual(Items("mouth: open"), Items("mouth: closed"));
        foreach (
            var wrong in (Action<JsonNode>[])
                [
                    o => o["strokes"] = new JsonArray(Stroke(20)),
                    o => o["strokes"] = new JsonArray((JsonNode?)null),
                    o => o["faces"]![0]!["parts"] = new JsonArray(Part(2)),
                    o => o["faces"]![0]!["parts"] = new JsonArray([.. Enumerable.Range(0, 9).Select(_ => (JsonNode)Part(4))]),
                    o => o["faces"]![0]!["teeth"] = "Gold",
                ]
        )
            await Server.PostAsync("/api/portraits/strip", Changed(wrong), expect: 400);
    }

    [Fact]
    public async Task What_a_character_is_made_of_is_not_swept_and_what_was_only_tried_is()
    {
        var brought = await BringAsync("one.jpg");
        await Server.PostAsync("/api/portraits", Order(brought));
        var tried = await BringAsync("two.jpg");
        await Server.PostAsync("/api/portraits/shapes", new { order = Order(tried), which = 0 });
        var services = _host.Services;
        var assets = services.GetRequiredService<AssetStore>();
        await using var db = await services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        await db.Assets.ExecuteUpdateAsync(u => u.SetProperty(a => a.Created, DateTime.UtcNow.AddDays(-3)));
        // Frames of a clip that nobody of Casting comes from.
        var frames = Directory.CreateDirectory(Path.Combine(Data, "cache", "plates", new string('d', 64)));
        frames.LastWriteTimeUtc = DateTime.UtcNow.AddDays(-3);
        await services.GetRequiredService<DataSweep>().SweepAsync(default);
        Assert.False(Directory.Exists(frames.FullName));
        var recipe = JsonNode.Parse(
            (await db.OwnCharacters.AsNoTracking().OrderByDescending(c => c.Created).FirstAsync(c => c.Key.StartsWith("pic-"))).Recipe
        )!;
        Assert.True(File.Exists(assets.PathOf((string)recipe["picture"]!)));
        Assert.True(File.Exists(assets.PathOf((string)recipe["eyeRight"]!["iris"]!)));
        Assert.False(File.Exists(assets.PathOf(tried.GetProperty("hash").GetString()!)));
    }

    [Fact]
    public async Task Two_of_one_picture_talk_to_each_other_where_they_are()
    {
        var brought = await BringAsync("two.jpg");
        Assert.Equal(2, brought.GetProperty("faces").GetArrayLength());
        var made = await Server.PostAsync("/api/portraits", Order(brought, 2));
        var id = Text(
            await Server.PostAsync(
                "/api/portraits/production",
                new
                {
                    title = "Two",
                    keys = made.GetProperty("keys"),
                    set = made.GetProperty("set"),
                    size = made.GetProperty("size"),
                }
            ),
            "id"
        );
        var scene = await Server.FirstSceneAsync(id);
        var state = await Server.GetAsync($"/api/scenes/{scene}");
        Assert.Equal(2, state.GetProperty("members").GetArrayLength());
        // At rest the picture is as it was, but for what breath and a glance do.
        var still = await Server.Client.GetByteArrayAsync($"/api/scenes/{scene}/frames/0");
        Assert.Equal(0x89, still[0]);
    }

    [Fact]
    public async Task Faces_are_marked_by_a_box_and_by_their_handles()
    {
        var picture = Text(await BringAsync("one.jpg"), "hash");
        object Box(string of, float width) =>
            new
            {
                picture = of,
                left = 10,
                top = 20,
                width,
                height = 240,
                kind = "animal",
            };
        await Server.PostAsync("/api/portraits/guess", Box(picture, 2), expect: 400);
        await Server.PostAsync("/api/portraits/guess", Box(new string('a', 64), 200), expect: 404);
        var box = await Server.PostAsync("/api/portraits/guess", Box(picture, 200));
        var handle = box.GetProperty("handles").EnumerateArray().First(h => Text(h, "name") == "chin");
        var y = handle.GetProperty("at").GetProperty("y").GetSingle();
        Assert.Equal(260, y, 0.5f);
        var moved = await Server.PostAsync(
            "/api/portraits/moved",
            new
            {
                marks = box.GetProperty("marks"),
                handle = "chin",
                x = 110,
                y = 270,
                isPaired = false,
            }
        );
        Assert.Equal(270, moved.GetProperty("handles").EnumerateArray().First(h => Text(h, "name") == "chin").GetProperty("at").GetProperty("y").GetSingle());
    }

    [Fact]
    public async Task What_is_no_picture_or_no_face_is_refused_with_a_sentence()
    {
        var refused = await Server.PostAsync("/api/portraits/pictures?name=a.jpg", "hello"u8.ToArray(), expect: 400);
        Assert.Contains("no picture", Text(refused, "error"));
        var brought = await BringAsync("one.jpg");
        var hash = brought.GetProperty("hash").GetString()!;
        Assert.Contains(
            "Mark a face",
            await Server.ErrorAsync(
                "/api/portraits",
                new
                {
                    picture = hash,
                    isFree = true,
                    faces = Array.Empty<object>(),
                }
            )
        );
        var marks = JsonNode.Parse(brought.GetProperty("faces")[0].GetProperty("marks").GetRawText())!;
        async Task RefusedAsync(string part, Action<JsonNode> spoil)
        {
            var wrong = marks.DeepClone();
            spoil(wrong);
            Assert.Contains(
                part,
                await Server.ErrorAsync(
                    "/api/portraits",
                    new
                    {
                        picture = hash,
                        isFree = true,
                        faces = new[] { new { marks = wrong } },
                    }
                )
            );
        }
        await RefusedAsync("too few", m => m["outline"] = new JsonArray());
        await RefusedAsync("outside", m => m["outline"]![0]!["x"] = 1e7);
        await RefusedAsync("more than", m => m["browLeft"] = new JsonArray([.. Enumerable.Range(0, 200).Select(i => new JsonObject { ["x"] = i, ["y"] = 0 })]));
        // Somebody else's asset is no picture.
        await Server.PostAsync(
            "/api/portraits",
            new
            {
                picture = "../../etc/passwd",
                isFree = true,
                faces = new[] { new { marks } },
            },
            expect: 404
        );
        await Server.PostAsync(
            "/api/portraits",
            new
            {
                picture = new string('0', 64),
                isFree = true,
                faces = new[] { new { marks } },
            },
            expect: 404
        );
    }
}
