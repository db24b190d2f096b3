using System.IO.Compression;
using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio.Jobs;

namespace Zamblo.Web.Tests;

/// <summary>Camera, lettering, review, productions as files, and one take, through the server.</summary>
public sealed class DirectedTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private static JsonElement[] Shots(JsonElement state) => [.. state.GetProperty("shots").EnumerateArray()];

    [Fact]
    public async Task The_camera_cuts_by_itself_and_by_hand_and_undo_takes_it_back()
    {
        await Server.SpeakAsync(Production, Scene, Member, "One two three four five six seven eight nine ten eleven twelve thirteen.");
        var state = await StateAsync();
        var chosen = Shots(state);
        Assert.True(chosen.Length >= 2, state.GetProperty("shots").ToString() + state.GetProperty("duration"));
        Assert.All(chosen, s => Assert.NotEmpty(Text(s, "reason")));
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = Member,
                kind = "Shot",
                name = "Close",
                start = 0.0,
                end = 1.2,
            }
        );
        state = await StateAsync();
        Assert.Equal("Close", Text(Shots(state)[0], "framing"));
        var clip = Text(Shots(state)[0], "clip");
        await Server.PatchAsync(
            $"/api/clips/{clip}",
            new
            {
                revision = Revision(state),
                name = "Medium",
                move = "Push",
            }
        );
        Assert.Equal(("Medium", "Push"), (Text(Shots(await StateAsync())[0], "framing"), Text(Shots(await StateAsync())[0], "move")));
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Shot",
                name = "7",
                start = 0.0,
            },
            expect: 400
        );
        // It hangs on what is said: the line goes, and the shot goes along.
        state = await StateAsync();
        var end = Shots(state)[0].GetProperty("end").GetDouble();
        await Server.PatchAsync($"/api/lines/{Id(Line(state))}", new { revision = Revision(state), at = Line(state).GetProperty("start").GetDouble() + 3 });
        var moved = Shots(await StateAsync()).First(s => s.GetProperty("clip").ValueKind == JsonValueKind.String);
        Assert.Equal(end + 3, moved.GetProperty("end").GetDouble(), 0.05);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        await Server.PatchAsync($"/api/scenes/{Scene}", new { revision = Revision(await StateAsync()), camera = new { isFixed = true } });
        Assert.Equal("Medium", Text(Shots(await StateAsync())[0], "framing"));
        await Server.PostAsync($"/api/scenes/{Scene}/free-camera", new { revision = Revision(await StateAsync()) });
        Assert.Equal("Wide", Text(Assert.Single(Shots(await StateAsync())), "framing"));
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal("Medium", Text(Shots(await StateAsync())[0], "framing"));
        // What a frame shows travels with it.
        var frames = await Server.GetAsync($"/api/scenes/{Scene}/frames?from=0&count=3");
        Assert.Equal(3, frames.GetProperty("looks").GetArrayLength());
        Assert.True(frames.GetProperty("looks")[0][2].GetDouble() < 1280);
    }

    [Fact]
    public async Task Words_in_the_picture_are_switched_and_bounded()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var before = await StateAsync();
        await Server.PatchAsync(
            $"/api/productions/{Production}",
            new { revision = Revision(before), lettering = new { hasCaptions = true, title = " Night " } }
        );
        var after = await StateAsync();
        Assert.NotEqual(Text(before, "shapesKey"), Text(after, "shapesKey"));
        var lettering = after.GetProperty("production").GetProperty("lettering");
        Assert.True(lettering.GetProperty("hasCaptions").GetBoolean());
        Assert.False(lettering.GetProperty("hasNames").GetBoolean());
        Assert.Equal("Night", Text(lettering, "title"));
        Assert.Contains(
            "title",
            await Server.ErrorAsync($"/api/productions/{Production}", new { lettering = new { title = new string('x', 500) } }, patch: true)
        );
    }

    [Fact]
    public async Task The_review_finds_mends_and_forgets()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.SpeakAsync(Production, Scene, Member, "The bread is asleep.");
        var state = await StateAsync();
        await Server.PatchAsync($"/api/lines/{Id(Line(state, 1))}", new { revision = Revision(state), at = 12.0 });
        async Task<JsonElement?> DeadAirAsync() =>
            (await Server.GetAsync($"/api/productions/{Production}/review"))
                .EnumerateArray()
                .Cast<JsonElement?>()
                .FirstOrDefault(f => Text(f!.Value, "kind") == "DeadAir");
        var flag = (await DeadAirAsync())!.Value;
        Assert.Contains("s without a word", Text(flag, "measure"));
        await Server.PostAsync($"/api/productions/{Production}/fine", new { key = Text(flag, "key"), isFine = true });
        Assert.True((await DeadAirAsync())!.Value.GetProperty("isFine").GetBoolean());
        Assert.Contains("called fine", await Server.Client.GetStringAsync($"/production/{Production}/review"));
        await Server.PostAsync($"/api/scenes/{Scene}/fix", new { key = Text(flag, "key") });
        Assert.Null(await DeadAirAsync());
        await Server.PostAsync($"/api/scenes/{Scene}/fix", new { key = Text(flag, "key") }, expect: 400);
    }

    [Fact]
    public async Task The_review_takes_a_look_out_uses_the_starred_take_and_has_measured_the_film()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Three in the morning, and the oven is finally hot, and nobody is here but a jar and a clock.");
        await Server.PostAsync($"/api/productions/{Production}/members", new { character = "bubb" });
        async Task<JsonElement?> FlagAsync(string kind) =>
            (await Server.GetAsync($"/api/productions/{Production}/review"))
                .EnumerateArray()
                .Cast<JsonElement?>()
                .FirstOrDefault(f => Text(f!.Value, "kind") == kind);
        async Task FixAsync(string kind, string fix)
        {
            var flag = (await FlagAsync(kind))!.Value;
            Assert.Equal(fix, Text(flag, "fix"));
            await Server.PostAsync($"/api/scenes/{Scene}/fix", new { key = Text(flag, "key") });
            Assert.Null(await FlagAsync(kind));
        }
        var start = Line(await StateAsync()).GetProperty("start").GetDouble();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(await StateAsync()),
                member = Member,
                kind = "Look",
                name = "up",
                start = start + 0.2,
                end = start + 5,
            }
        );
        await FixAsync("LooksAtNobody", "Take out this look");
        Assert.DoesNotContain((await StateAsync()).GetProperty("clips").EnumerateArray(), c => Text(c, "kind") == "Look");
        var line = Id(Line(await StateAsync()));
        var first = Line(await StateAsync()).GetProperty("take").GetProperty("id").GetString();
        await Server.PatchAsync($"/api/lines/{line}", new { text = "Three in the morning." });
        await IdleAsync();
        Assert.Null(await FlagAsync("UnusedTake"));
        await Server.PatchAsync($"/api/takes/{first}", new { isStarred = true });
        await FixAsync("UnusedTake", "Use the starred take");
        Assert.Equal(first, Line(await StateAsync()).GetProperty("take").GetProperty("id").GetString());
        await Server.PatchAsync($"/api/productions/{Production}", new { revision = Revision(await StateAsync()), size = "320x180" });
        var job = (await Server.PostAsync($"/api/scenes/{Scene}/renders", new { })).GetProperty("job").GetString()!;
        Assert.InRange((await Server.WaitAsync(Production, job)).GetProperty("shows").GetProperty("offset").GetDouble(), -0.02, 0.02);
        Assert.Null(await FlagAsync("OutOfSync"));
        // A film that was made when something was wrong.
        await using (var db = await Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync())
        {
            var row = await db.Jobs.FirstAsync(j => j.Id == Guid.Parse(job));
            row.Result = JsonSerializer.Serialize(FilmShows.Of(row)! with { Offset = -0.08 });
            await db.SaveChangesAsync();
        }
        Assert.Contains("too early", Text((await FlagAsync("OutOfSync"))!.Value, "text"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Shots_that_are_kept_stay_when_the_camera_throws_its_dice_again()
    {
        var other = Id(await Server.PostAsync($"/api/productions/{Production}/members", new { character = "tock" }));
        foreach (var (who, text) in new[] { (Member, "The oven is hot, and it has been so since midnight."), (other, "I have counted all of the minutes!") })
            await Server.SpeakAsync(Production, Scene, who, text);
        string[] Shots(JsonElement state) => [.. state.GetProperty("shots").EnumerateArray().Select(s => $"{s.GetProperty("start")} {Text(s, "framing")}")];
        async Task<JsonElement> SetAsync(object camera)
        {
            await Server.PatchAsync($"/api/scenes/{Scene}", new { revision = Revision(await StateAsync()), camera });
            return await StateAsync();
        }
        var before = Shots(
            await SetAsync(
                new
                {
                    isFixed = false,
                    pace = 0.9,
                    nearness = 0.6,
                }
            )
        );
        Assert.InRange(before.Length, 2, 20);
        await Server.PostAsync($"/api/scenes/{Scene}/keep-shots", new { });
        Assert.All((await StateAsync()).GetProperty("shots").EnumerateArray(), s => Assert.Equal(JsonValueKind.String, s.GetProperty("clip").ValueKind));
        for (var seed = 2; seed < 6; seed++)
            Assert.Equal(before, Shots(await SetAsync(new { seed, pace = 0.1 * seed })));
        Assert.Contains(
            "kept already",
            (await Server.PostAsync($"/api/scenes/{Scene}/keep-shots", new { }, expect: 400)).GetProperty("error").GetString(),
            StringComparison.Ordinal
        );
        await Server.PostAsync($"/api/scenes/{Scene}/free-camera", new { });
        Assert.NotEqual(before, Shots(await StateAsync()));
    }

    [Fact]
    public async Task A_production_goes_out_as_a_file_and_comes_back_equal()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, Bubb.");
        var state = await StateAsync();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = Member,
                kind = "Mood",
                name = "Joy",
                start = 0.5,
                end = 1.4,
            }
        );
        state = await StateAsync();
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        var id = Text(await Server.PostAsync("/api/archives", file), "id");
        var other = await Server.GetAsync("/api/scenes/" + await Server.FirstSceneAsync(id));
        Assert.NotEqual(Id(state), Id(other));
        foreach (var name in new[] { "frames", "duration", "sound", "shapesKey" })
            Assert.Equal(state.GetProperty(name).ToString(), other.GetProperty(name).ToString());
        Assert.Equal(Text(Line(state), "text"), Text(Line(other), "text"));
        Assert.Equal(Line(state).GetProperty("cues").ToString(), Line(other).GetProperty("cues").ToString());
        Assert.Equal(state.GetProperty("clips")[0].GetProperty("start").GetDouble(), other.GetProperty("clips")[0].GetProperty("start").GetDouble());
        // The same frames, to the last number.
        var there = await Server.GetAsync($"/api/scenes/{Id(other)}/frames?from=10&count=5");
        Assert.Equal((await Server.GetAsync($"/api/scenes/{Scene}/frames?from=10&count=5")).ToString(), there.ToString());
    }

    [Fact]
    public async Task Files_that_are_no_production_or_were_tampered_with_are_refused()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        Task RefusedAsync(byte[] bytes) => Server.PostAsync("/api/archives", bytes, expect: 400);
        await RefusedAsync([]);
        await RefusedAsync([1, 2, 3, 4]);
        await RefusedAsync(file[..(file.Length / 2)]);
        byte[] With(Action<ZipArchive> change)
        {
            using var stream = new MemoryStream();
            stream.Write(file);
            using (var zip = new ZipArchive(stream, ZipArchiveMode.Update, leaveOpen: true))
                change(zip);
            return stream.ToArray();
        }
        void Write(ZipArchive zip, string name, string text)
        {
            zip.GetEntry(name)?.Delete();
            using var writer = new StreamWriter(zip.CreateEntry(name).Open());
            writer.Write(text);
        }
        await RefusedAsync(With(z => Write(z, "production.json", "{}")));
        await RefusedAsync(With(z => Write(z, "production.json", "{\"format\":99,\"rows\":{}}")));
        // A sound that is another one than its name says.
        await RefusedAsync(With(z => Write(z, z.Entries.First(e => e.FullName.StartsWith("media/", StringComparison.Ordinal)).FullName, "noise")));
        // Rows of another version: kinds that nobody knows are left out, columns that are missing have their usual value.
        var newer = With(z =>
        {
            string text;
            using (var reader = new StreamReader(z.GetEntry("production.json")!.Open()))
                text = reader.ReadToEnd();
            Write(z, "production.json", text.Replace("\"Scene\":[", "\"Hologram\":[{\"Id\":1}],\"Scene\":[").Replace("\"Camera\":", "\"Lens\":"));
        });
        await Server.PostAsync("/api/archives", newer, expect: 201);
    }

    [Fact]
    public async Task One_take_is_a_production_with_its_line_under_way()
    {
        var start = await Server.PostAsync(
            "/api/one-take",
            new
            {
                character = "bubb",
                backdrop = "street",
                size = "720x1280",
                text = "I am hungry, and it is only three in the morning, which is very early for a jar.",
                hasCaptions = true,
            }
        );
        var (production, scene) = (Text(start, "production"), Text(start, "scene"));
        JsonElement state = default;
        for (var i = 0; i < 200; i++)
        {
            state = await Server.GetAsync("/api/scenes/" + scene);
            if (state.GetProperty("lines").GetArrayLength() > 0 && Line(state).TryGetProperty("words", out var words) && words.ValueKind == JsonValueKind.Array)
                break;
            await Task.Delay(100);
        }
        Assert.Equal("I am hungry, and it is only three in the…", Text(state.GetProperty("production"), "title"));
        Assert.Equal((720, "street"), (state.GetProperty("production").GetProperty("width").GetInt32(), Text(state.GetProperty("scene"), "backdrop")));
        Assert.Equal("bubb", Text(Assert.Single(state.GetProperty("members").EnumerateArray()), "character"));
        Assert.True(state.GetProperty("production").GetProperty("lettering").GetProperty("hasCaptions").GetBoolean());
        foreach (
            var bad in new object[]
            {
                new { text = " " },
                new { text = "Hi.", character = "nobody" },
                new { text = "Hi.", backdrop = "moonbase" },
                new { text = "Hi.", size = "1x1" },
                new { text = new string('a', 5000) },
                new { hash = "../../etc" },
            }
        )
        {
            await Server.PostAsync("/api/one-take", bad, expect: 400);
        }
        Assert.Equal(HttpStatusCode.OK, (await Server.Client.GetAsync("/api/one-take/picture?character=bubb&set=street&size=720x1280")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync("/api/one-take/picture?character=../x&set=street")).StatusCode);
        var job = Text(await Server.PostAsync($"/api/scenes/{scene}/renders", new { }), "job");
        Assert.Equal("done", Text(await Server.WaitAsync(production, job), "state"));
        var page = await Server.Client.GetStringAsync($"/api/jobs/{job}/page");
        // One file: nothing is fetched from anywhere.
        Assert.Contains("src=\"data:video/mp4;base64,", page);
        Assert.DoesNotContain("http", page[..600]);
    }

    [Fact]
    public async Task A_script_s_fades_are_the_scenes_and_are_seen()
    {
        const string script = "FADE IN:\n\nINT. SHOP - DAY\n\nMARO\nThe oven is hot.\n\nCUT TO:\n\nEXT. STREET - NIGHT\n\nMARO\nIt rains.\n\nFADE OUT.\n";
        var state = await StateAsync();
        await Server.PostAsync($"/api/scenes/{Scene}/script", new { revision = Revision(state), text = script });
        state = await StateAsync();
        var camera = state.GetProperty("scene").GetProperty("camera");
        Assert.Equal((1, 0), (camera.GetProperty("fadeIn").GetDouble(), camera.GetProperty("fadeOut").GetDouble()));
        var next = state.GetProperty("scenes")[1].GetProperty("id").GetString();
        camera = (await Server.GetAsync($"/api/scenes/{next}")).GetProperty("scene").GetProperty("camera");
        Assert.Equal((0, 1), (camera.GetProperty("fadeIn").GetDouble(), camera.GetProperty("fadeOut").GetDouble()));
        // A black picture is next to nothing as a PNG.
        async Task<int> SizeAsync() => (await Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/frames/0")).Length;
        var black = await SizeAsync();
        await Server.PatchAsync($"/api/scenes/{Scene}", new { revision = Revision(await StateAsync()), camera = new { fadeIn = 0 } });
        Assert.InRange(20 * black, 0, await SizeAsync());
    }

    [Fact]
    public async Task A_picture_of_one_s_own_is_a_set_and_goes_along_in_the_file()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var png = await Server.Client.GetByteArrayAsync("/api/sets/street/picture");
        var set = Text(await Server.PostAsync("/api/pictures?name=street.png", png), "set");
        Assert.StartsWith("picture:", set);
        var hash = set.Split(':')[1];
        // Nobody shows it yet, so nobody gets it.
        Assert.Equal(HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/pictures/{hash}")).StatusCode);
        await Server.PatchAsync($"/api/scenes/{Scene}", new { revision = Revision(await StateAsync()), backdrop = set });
        var state = await StateAsync();
        Assert.Equal(set, Text(state.GetProperty("scene"), "backdrop"));
        var answer = await Server.Client.GetAsync($"/api/pictures/{hash}");
        Assert.StartsWith("image/", answer.Content.Headers.ContentType!.MediaType);
        Assert.Contains(hash, await Server.Client.GetStringAsync($"/api/scenes/{Scene}/shapes"));
        // Another one that has not come in is refused, and so is what is no picture.
        await Server.ErrorAsync($"/api/scenes/{Scene}", new { backdrop = set.Replace(hash, new string('0', 64)) }, patch: true);
        await Server.PostAsync("/api/pictures?name=x.png", "flour"u8.ToArray(), expect: 400);
        var file = await Server.Client.GetByteArrayAsync($"/api/productions/{Production}/archive");
        using (var zip = new ZipArchive(new MemoryStream(file)))
            Assert.NotNull(zip.GetEntry("media/" + hash));
        var id = Text(await Server.PostAsync("/api/archives", file), "id");
        Assert.Equal(set, Text((await Server.GetAsync("/api/scenes/" + await Server.FirstSceneAsync(id))).GetProperty("scene"), "backdrop"));
    }

    [Fact]
    public async Task The_light_changes_with_its_line_and_stays_when_somebody_leaves()
    {
        var other = Text(await Server.PostAsync($"/api/productions/{Production}/members", new { roleName = "Tock", character = "tock" }), "id");
        await Server.SpeakAsync(Production, Scene, other, "The oven is hot, and it is late.");
        var order = new
        {
            member = Member,
            kind = "Light",
            name = "Night",
            start = 1.0,
        };
        var id = Text(await Server.PostAsync($"/api/scenes/{Scene}/clips", order), "id");
        async Task<JsonElement> LightAsync() => (await StateAsync()).GetProperty("clips").EnumerateArray().Single(c => Text(c, "kind") == "light");
        var light = await LightAsync();
        Assert.Equal(("Night", Text(Line(await StateAsync()), "id")), (Text(light, "name"), Text(light, "line")));
        Assert.Equal(2, light.GetProperty("end").GetDouble(), 2);
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{id}", new { name = "Lamp" });
        await Server.SendAsync(HttpMethod.Patch, $"/api/clips/{id}", new { name = "Candle" }, 400);
        await Server.DeleteAsync($"/api/members/{Member}");
        Assert.Equal(("Lamp", other), (Text(await LightAsync(), "name"), Text(await LightAsync(), "member")));
        // A frame before the change, and one after it.
        var frames = await Task.WhenAll(((int[])[5, 60]).Select(f => Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/frames/{f}?width=320")));
        Assert.NotEqual(frames[0], frames[1]);
    }

    [Fact]
    public async Task Light_and_weather_change_what_is_seen_and_nothing_else()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var before = await StateAsync();
        await Server.PatchAsync(
            $"/api/scenes/{Scene}",
            new
            {
                revision = Revision(before),
                light = new
                {
                    light = "Night",
                    weather = "Rain",
                    amount = 7.0,
                },
            }
        );
        var after = await StateAsync();
        Assert.Equal(1, after.GetProperty("scene").GetProperty("light").GetProperty("amount").GetDouble());
        Assert.NotEqual(Text(before, "shapesKey"), Text(after, "shapesKey"));
        Assert.Equal(Text(before, "sound"), Text(after, "sound"));
        await Server.ErrorAsync($"/api/scenes/{Scene}", new { light = new { light = "Disco" } }, patch: true);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(after) });
        Assert.Equal(Text(before, "shapesKey"), Text(await StateAsync(), "shapesKey"));
    }
}
