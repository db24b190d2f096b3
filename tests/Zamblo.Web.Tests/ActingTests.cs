using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Moods, gestures and the timing of lines, through the server.</summary>
public sealed class ActingTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static double[] Starts(JsonElement state) => [.. state.GetProperty("lines").EnumerateArray().Select(l => Number(l, "start"))];

    private static (double Start, double End) Word(JsonElement state, int line, string text)
    {
        var l = state.GetProperty("lines")[line];
        var w = l.GetProperty("words").EnumerateArray().First(x => x[0].GetString() == text);
        return (Number(l, "start") + w[1].GetDouble(), Number(l, "start") + w[2].GetDouble());
    }

    [Fact]
    public async Task A_mood_and_a_gesture_hang_on_words_through_other_takes_and_moves_and_can_be_undone()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, Bubb.");
        var oven = Word(state, 0, "oven");
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = Member,
                kind = "Mood",
                name = "Joy",
                start = oven.Start,
                end = oven.End,
            }
        );
        state = await StateAsync();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = Member,
                kind = "Gesture",
                name = "beat",
                start = 0,
                at = (oven.Start + oven.End) / 2,
            }
        );
        state = await StateAsync();
        Assert.Equal(2, Clips(state).Length);
        var gesture = Clips(state).First(c => c.GetProperty("kind").GetString() == "gesture");
        // The stroke of a beat lies 0.3 s after its start (gestures.json).
        Assert.Equal((oven.Start + oven.End) / 2 - 0.3, Number(gesture, "start"), 0.01);

        // Another take with other words before it: both are found on the same word.
        var line = state.GetProperty("lines")[0].GetProperty("id").GetString();
        await Server.PostAsync($"/api/lines/{line}/takes", new { kind = "synthesis", text = "Well now, my friend, the oven is hot, Bubb." });
        for (
            var i = 0;
            i < 200 && !(await StateAsync()).GetProperty("lines")[0].GetProperty("text").GetString()!.StartsWith("Well", StringComparison.Ordinal);
            i++
        )
            await Task.Delay(100);
        state = await StateAsync();
        var later = Word(state, 0, "oven");
        Assert.True(later.Start > oven.Start + 0.3);
        Assert.Equal(later.Start, Number(Clips(state).First(c => c.GetProperty("kind").GetString() == "mood"), "start"), 0.01);
        Assert.Equal((later.Start + later.End) / 2 - 0.3, Number(Clips(state).First(c => c.GetProperty("kind").GetString() == "gesture"), "start"), 0.01);

        // The line is moved: they go along.
        await Server.PatchAsync($"/api/lines/{line}", new { revision = Revision(state), at = 3.0 });
        state = await StateAsync();
        Assert.Equal(Word(state, 0, "oven").Start, Number(Clips(state).First(c => c.GetProperty("kind").GetString() == "mood"), "start"), 0.01);

        // Deleted with the line, and brought back by undo.
        await Server.DeleteAsync($"/api/lines/{line}?revision={Revision(state)}");
        Assert.Empty(Clips(await StateAsync()));
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(2, Clips(await StateAsync()).Length);
    }

    [Fact]
    public async Task A_clip_is_changed_split_and_deleted_and_what_is_wrong_is_said()
    {
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Gesture",
                name = "wave",
                start = 0.2,
            }
        );
        var state = await StateAsync();
        var clip = Assert.Single(Clips(state));
        Assert.Equal(0.2, Number(clip, "start"), 3);
        Assert.Equal(1.9, Number(clip, "end") - 0.2, 3);
        var id = clip.GetProperty("id").GetString();
        await Server.PatchAsync(
            $"/api/clips/{id}",
            new
            {
                revision = Revision(state),
                start = 0.5,
                end = 4.3,
                strength = 1.5,
                mirror = true,
            }
        );
        clip = Assert.Single(Clips(await StateAsync()));
        Assert.Equal((0.5, 4.3, 1.5, 0.5), (Number(clip, "start"), Number(clip, "end"), Number(clip, "strength"), Number(clip, "speed")));
        await Server.PostAsync($"/api/clips/{id}/split", new { revision = Revision(await StateAsync()), at = 2.4 });
        var parts = Clips(await StateAsync()).OrderBy(c => Number(c, "start")).ToArray();
        Assert.Equal((0.5, 2.4, 2.4, 4.3), (Number(parts[0], "start"), Number(parts[0], "end"), Number(parts[1], "start"), Number(parts[1], "end")));
        Assert.Equal(Number(parts[0], "to"), Number(parts[1], "from"), 6);
        foreach (var part in parts)
            Assert.Equal(0.5, Number(part, "speed"), 2);
        await Server.PostAsync($"/api/scenes/{Scene}/clips/delete", new { revision = Revision(await StateAsync()), ids = new[] { id } });
        Assert.Single(Clips(await StateAsync()));
        Assert.Contains(
            "no gesture",
            await Server.ErrorAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    member = Member,
                    kind = "Gesture",
                    name = "levitate",
                    start = 0,
                }
            )
        );
        Assert.Contains(
            "no mood",
            await Server.ErrorAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    member = Member,
                    kind = "Mood",
                    name = "Hunger",
                    start = 0,
                }
            )
        );
    }

    // Takes begin with a frame, at 25 a second.
    private const double HalfFrame = 0.0205;

    [Fact]
    public async Task Lines_are_moved_with_what_follows_or_alone_changed_over_and_spread()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Nine minutes.");
        await Server.SpeakAsync(Production, Scene, Member, "Ten minutes.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "Eleven minutes.");
        string Id(int i) => state.GetProperty("lines")[i].GetProperty("id").GetString()!;
        var start = Starts(state);
        // From sound to sound there are 200 ms, whatever silence the takes have at their ends.
        var first = state.GetProperty("lines")[0];
        var sound = start[0] + first.GetProperty("phones").EnumerateArray().Last()[2].GetDouble();
        var next = start[1] + state.GetProperty("lines")[1].GetProperty("phones")[0][1].GetDouble();
        Assert.Equal(0.2, next - sound, HalfFrame);

        await Server.PatchAsync($"/api/lines/{Id(1)}", new { revision = Revision(state), at = start[1] + 1 });
        var moved = Starts(state = await StateAsync());
        Assert.Equal([0, 1, 1], moved.Zip(start, (a, b) => Math.Round(a - b, 2)));
        await Server.PatchAsync(
            $"/api/lines/{Id(1)}",
            new
            {
                revision = Revision(state),
                at = start[1] - 0.3,
                alone = true,
            }
        );
        var alone = Starts(state = await StateAsync());
        Assert.All(alone.Zip(start).Zip((double[])[0, -0.3, 1]), p => Assert.Equal(p.Second, p.First.First - p.First.Second, 2 * HalfFrame));
        foreach (var _ in (int[])[0, 1])
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(start, Starts(state = await StateAsync()));

        await Server.PatchAsync($"/api/scenes/{Scene}", new { revision = Revision(state), gap = 0.7 });
        Assert.All(
            Starts(state = await StateAsync()).Zip(start).Zip((double[])[0, 0.5, 1]),
            p => Assert.Equal(p.Second, p.First.First - p.First.Second, 2 * HalfFrame)
        );
        await Server.PatchAsync($"/api/lines/{Id(2)}", new { revision = Revision(state), move = -2 });
        state = await StateAsync();
        Assert.Equal("Eleven minutes.", state.GetProperty("lines")[0].GetProperty("text").GetString());
        Assert.Equal(start[0], Starts(state)[0], 0.02);
    }

    [Fact]
    public async Task What_stands_at_a_moment_of_its_own_goes_along_too()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "Fresh rolls at six, and not a minute later.");
        var rolls = Word(state, 0, "rolls");
        await Server.PostAsync($"/api/lines/{Id(Line(state))}/split", new { revision = Revision(state), at = rolls.End + 0.01 });
        state = await Server.SpeakAsync(Production, Scene, Member, "Nine minutes.");
        var start = Starts(state);
        Assert.Equal(3, start.Length);
        await Server.PatchAsync($"/api/lines/{Id(Line(state))}", new { revision = Revision(state), at = start[0] + 0.6 });
        Assert.Equal([0.6, 0.6, 0.6], Starts(state = await StateAsync()).Zip(start, (a, b) => Math.Round(a - b, 2)));
        // A pause in the middle is a beat for everything after it.
        await Server.PatchAsync($"/api/lines/{Id(Line(state, 1))}", new { revision = Revision(state), pause = 0.5 });
        var later = Starts(await StateAsync());
        Assert.Equal(start[0] + 0.6, later[0], 0.01);
        Assert.Equal(later[1] - start[1], later[2] - start[2], 2 * HalfFrame);
        Assert.True(later[1] > start[1] + 0.7);
    }

    [Fact]
    public async Task Two_lines_are_said_at_once_until_one_is_moved_and_stay_so_whatever_becomes_longer()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "Now!");
        state = await Server.SpeakAsync(Production, Scene, Member, "Fresh rolls at six, and not a minute later.");
        state = await Server.SpeakAsync(Production, Scene, Member, "Nine minutes.");
        string Of(int i) => Id(Line(state, i));
        var apart = Starts(state);
        await Server.SendAsync(HttpMethod.Patch, $"/api/lines/{Of(0)}", new { revision = Revision(state), together = true }, expect: 400);
        await Server.PatchAsync($"/api/lines/{Of(1)}", new { revision = Revision(state), together = true });
        state = await StateAsync();
        Assert.True(Line(state, 1).GetProperty("isTogether").GetBoolean());
        double FirstSound(int i) => Starts(state)[i] + Line(state, i).GetProperty("words")[0][1].GetDouble();
        Assert.Equal(FirstSound(0), FirstSound(1), 0.05);
        var together = Starts(state);
        Assert.True(together[2] < apart[2] - 0.3, $"{apart[2]} {together[2]}");
        // Out as a script, with its caret.
        Assert.Contains(" ^\n", await Server.Client.GetStringAsync($"/api/productions/{Production}/script"));
        // Moved, it has a place of its own; taken back, it is said at once again.
        await Server.PatchAsync($"/api/lines/{Of(1)}", new { revision = Revision(state), by = 0.7 });
        state = await StateAsync();
        Assert.False(Line(state, 1).GetProperty("isTogether").GetBoolean());
        Assert.Equal(together[1] + 0.7, Starts(state)[1], HalfFrame);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(state) });
        state = await StateAsync();
        Assert.Equal(together, Starts(state));
        // The line that it begins with is split: it stays where it is, and does not begin with the second half.
        await Server.PostAsync($"/api/lines/{Of(0)}/split", new { revision = Revision(state), at = Starts(state)[0] + 0.2 });
        state = await StateAsync();
        Assert.Equal(together[1], Starts(state)[2], HalfFrame);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(state) });
        state = await StateAsync();
        Assert.True(Line(state, 1).GetProperty("isTogether").GetBoolean());
        // Its first line gone, it follows again.
        await Server.DeleteAsync($"/api/lines/{Of(0)}?revision={Revision(state)}");
        state = await StateAsync();
        Assert.False(Line(state, 0).GetProperty("isTogether").GetBoolean());
    }

    [Fact]
    public async Task Moods_are_suggested_where_none_is_yet()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Ugh, that smells rotten!");
        var state = await Server.SpeakAsync(Production, Scene, Member, "The flour is on the scale.");
        Assert.Equal(1, (await Server.PostAsync($"/api/scenes/{Scene}/moods/suggest", new { revision = Revision(state) })).GetProperty("count").GetInt32());
        var clip = Assert.Single(Clips(await StateAsync()));
        Assert.Equal("Disgust", clip.GetProperty("name").GetString());
        Assert.Equal(
            0,
            (await Server.PostAsync($"/api/scenes/{Scene}/moods/suggest", new { revision = Revision(await StateAsync()) })).GetProperty("count").GetInt32()
        );
    }

    [Fact]
    public async Task A_voice_may_be_off_stage_a_line_a_pantomime_and_two_may_speak_in_unison()
    {
        await Server.PostAsync($"/api/productions/{Production}/members", new { character = "bubb" });
        var state = await Server.SpeakAsync(Production, Scene, Member, "Forty loaves by sunrise.");
        var line = state.GetProperty("lines")[0].GetProperty("id").GetString();
        var other = state.GetProperty("members")[1].GetProperty("id").GetString();
        // Items of a frame that change while the line is said: mouths among them.
        async Task<string> FrameAsync() => (await Server.GetAsync($"/api/scenes/{Scene}/frames?from=0&count=60")).GetRawText();
        async Task<byte[]> SoundAsync() => await Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/sound");
        var (frames, sound) = (await FrameAsync(), await SoundAsync());
        async Task ChangeAsync(object change)
        {
            await Server.PatchAsync($"/api/lines/{line}", change);
            state = await StateAsync();
        }
        await ChangeAsync(new { offStage = true });
        Assert.NotEqual(frames, await FrameAsync());
        Assert.Equal(sound, await SoundAsync());
        await ChangeAsync(new { offStage = false, mute = true });
        Assert.Equal(frames, await FrameAsync());
        var silent = WavOf(await SoundAsync());
        Assert.All(silent, x => Assert.Equal(0, x));
        await ChangeAsync(new { mute = false, also = new[] { other } });
        Assert.NotEqual(frames, await FrameAsync());
        Assert.Equal(other, state.GetProperty("lines")[0].GetProperty("also")[0].GetString());
        for (var i = 0; i < 3; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(frames, await FrameAsync());
        Assert.Equal(sound, await SoundAsync());
    }

    private static float[] WavOf(byte[] bytes) => Zamblo.Core.Audio.WavFile.ReadMono(new MemoryStream(bytes)).Samples;
}
