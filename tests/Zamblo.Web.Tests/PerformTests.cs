using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Performed motion, walks, looks and several clips, through the server.</summary>
public sealed class PerformTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static object[] Wave(double from, double to) =>
        [.. Enumerable.Range(0, 60).Select(i => new[] { from + (to - from) * i / 59, 12 * Math.Sin(i / 6.0) })];

    private async Task<JsonElement> PerformAsync(object samples, double start, double end, int expect = 0) =>
        await Server.PostAsync(
            $"/api/scenes/{Scene}/performances",
            new
            {
                revision = Revision(await StateAsync()),
                member = Member,
                part = "head",
                start,
                end,
                samples,
                replaces = true,
                smooth = 0.02,
            },
            expect
        );

    private async Task<string> FrameAsync(int frame) => await Server.Client.GetStringAsync($"/api/scenes/{Scene}/frames?from={frame}&count=1");

    [Fact]
    public async Task A_performance_is_in_the_film_for_its_time_only_and_undo_takes_it_back()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb, and not a second more.");
        var (before, outside) = (await FrameAsync(40), await FrameAsync(5));
        var done = await PerformAsync(new { headTurn = Wave(1, 2) }, 1, 2);
        Assert.InRange(done.GetProperty("keys").GetInt32(), 3, 30);
        Assert.NotEqual(before, await FrameAsync(40));
        Assert.Equal(outside, await FrameAsync(5));
        // What is tried without being kept changes nothing.
        var tried = await Server.PostAsync(
            $"/api/scenes/{Scene}/perform",
            new
            {
                member = Member,
                frame = 40,
                values = new { headTurn = 20 },
                replaces = true,
            }
        );
        Assert.True(tried.GetArrayLength() > 10);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(before, await FrameAsync(40));
    }

    [Fact]
    public async Task A_performance_stretches_with_its_words_until_it_is_told_to_keep_its_seconds()
    {
        double At(JsonElement state, string word, bool end) =>
            state.GetProperty("lines")[0].GetProperty("words").EnumerateArray().First(w => w[0].GetString() == word) is var w
                ? Number(state.GetProperty("lines")[0], "start") + w[end ? 2 : 1].GetDouble()
                : 0;
        var state = await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb, and not a second more.");
        var (from, to) = (At(state, "Nine", false), At(state, "second", true));
        await PerformAsync(new { headTurn = Wave(from, to) }, from, to);
        var clip = Assert.Single(Clips(await StateAsync()));
        Assert.True(clip.GetProperty("stretches").GetBoolean());
        async Task<JsonElement> OtherTakeAsync(string text)
        {
            var line = state.GetProperty("lines")[0].GetProperty("id").GetString();
            await Server.PostAsync($"/api/lines/{line}/takes", new { kind = "synthesis", text });
            for (var i = 0; i < 200; i++, await Task.Delay(100))
                if ((await StateAsync()) is var now && now.GetProperty("lines")[0].GetProperty("text").GetString() == text)
                    if (now.GetProperty("lines")[0].TryGetProperty("words", out var words) && words.GetArrayLength() == text.Split(' ').Length)
                        return now;
            throw new TimeoutException("No other take.");
        }
        state = await OtherTakeAsync("Nine long and weary minutes, Bubb, and not a second more.");
        clip = Assert.Single(Clips(state));
        Assert.Equal(At(state, "Nine", false), Number(clip, "start"), 0.01);
        Assert.Equal(At(state, "second", true), Number(clip, "end"), 0.01);
        var length = Number(clip, "end") - Number(clip, "start");
        Assert.True(length > to - from + 0.4);
        await Server.PatchAsync($"/api/clips/{Id(clip)}", new { revision = Revision(state), stretches = false });
        state = await OtherTakeAsync("Nine minutes, Bubb, and not a second more.");
        clip = Assert.Single(Clips(state));
        Assert.False(clip.GetProperty("stretches").GetBoolean());
        Assert.Equal(length, Number(clip, "end") - Number(clip, "start"), 0.02);
    }

    [Fact]
    public async Task What_cannot_be_is_refused_in_a_sentence()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb.");
        await PerformAsync(new { headTurn = Wave(1, 1.05) }, 1, 1.05, 400);
        await PerformAsync(new { wings = Wave(1, 2) }, 1, 2, 400);
        await PerformAsync(new { }, 1, 2, 400);
        // A sample that is no pair of numbers is left out; one that is far out of reach is refused.
        await PerformAsync(new { headTurn = new object[] { new[] { 1.0, 1e9 }, new[] { 2.0, 0.0 } } }, 1, 2, 400);
        var state = await StateAsync();
        Assert.Contains(
            "look at",
            await Server.ErrorAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    revision = Revision(state),
                    member = Member,
                    kind = "Look",
                    name = "nobody",
                    start = 1,
                    end = 2,
                }
            ),
            StringComparison.Ordinal
        );
        var mood = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    revision = Revision(await StateAsync()),
                    member = Member,
                    kind = "Mood",
                    name = "Joy",
                    start = 0.5,
                    end = 1,
                }
            )
        );
        var look = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    revision = Revision(await StateAsync()),
                    member = Member,
                    kind = "Look",
                    name = "left",
                    start = 0.5,
                    end = 1,
                }
            )
        );
        Assert.Contains(
            "one sort",
            await Server.ErrorAsync($"/api/scenes/{Scene}/clips/join", new { revision = Revision(await StateAsync()), ids = new[] { mood, look } }),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "two clips",
            await Server.ErrorAsync($"/api/scenes/{Scene}/clips/line-up", new { revision = Revision(await StateAsync()), ids = new[] { mood } }),
            StringComparison.Ordinal
        );
        await Server.ErrorAsync($"/api/clips/{mood}/save", new { name = "Joy" });
    }

    [Fact]
    public async Task A_saved_motion_is_used_in_another_production_and_leaves_the_library_without_leaving_the_clip()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb.");
        var clip = Id(await PerformAsync(new { headNod = Wave(0.5, 1.5) }, 0.5, 1.5));
        var key = (await Server.PostAsync($"/api/clips/{clip}/save", new { name = "Nodding off" })).GetProperty("key").GetString()!;
        Assert.Contains((await Server.GetAsync("/api/gestures")).EnumerateArray(), g => g.GetProperty("key").GetString() == key);
        Assert.True((await Server.GetAsync($"/api/characters/tock/gestures/{key}")).GetProperty("frames").GetArrayLength() > 20);
        var (other, scene, member) = await Server.NewProductionAsync();
        var there = await Server.SpeakAsync(other, scene, member, "Nine minutes, Maro.");
        await Server.PostAsync(
            $"/api/scenes/{scene}/clips",
            new
            {
                revision = Revision(there),
                member,
                kind = "Gesture",
                name = key,
                start = 1.0,
                at = 1.0,
            }
        );
        await Server.DeleteAsync($"/api/gestures/{key["saved:".Length..]}");
        var left = (await Server.GetAsync("/api/scenes/" + scene)).GetProperty("clips")[0];
        Assert.Equal(("Nodding off", true), (left.GetProperty("title").GetString(), left.GetProperty("isOwn").GetBoolean()));
        Assert.Equal(1, left.GetProperty("end").GetDouble() - left.GetProperty("start").GetDouble(), 0.01);
    }

    [Fact]
    public async Task The_sound_of_a_part_is_the_sound_of_the_whole_there()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb, and not a second more.");
        async Task<float[]> Sound(string query)
        {
            using var stream = new MemoryStream(await Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/sound?{query}"));
            return Core.Audio.WavFile.ReadMono(stream).Samples;
        }
        var whole = await Sound("");
        Assert.Equal(whole[48000..72000], await Sound("from=1&to=1.5"));
        Assert.Equal(whole[24000..], await Sound("from=0.5&to=999"));
    }
}
