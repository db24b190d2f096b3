using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Studio.Hearings;

namespace Zamblo.Web.Tests;

/// <summary>Sound cut and joined through the server: files into lines, edges of lines, recordings into takes.</summary>
public sealed class CutTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private const string Reading = "/usr/share/pocketsphinx/test/data/goforward.raw";

    // Two readings of the same words, the second one a second and a half after the first.
    // Longer by so many samples of silence it is another sound, which nobody has heard.
    private async Task<string> TwoReadingsAsync(int longer = 0)
    {
        var read = File.ReadAllBytes(Reading);
        var one = new float[read.Length / 2];
        for (var i = 0; i < one.Length; i++)
            one[i] = BitConverter.ToInt16(read, 2 * i) / 32768f;
        return await UploadAsync([.. one, .. new float[8000], .. one, .. new float[longer]]);
    }

    private async Task<string> UploadAsync(float[] samples)
    {
        using var wav = new MemoryStream();
        WavFile.Write(wav, [samples], 16000);
        return (await Server.PostAsync("/api/uploads?name=two.wav", wav.ToArray())).GetProperty("hash").GetString()!;
    }

    private async Task<JsonElement> CutAsync(string second = "go forward ten meters")
    {
        var hash = await TwoReadingsAsync();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/parts",
            new
            {
                revision = Revision(await StateAsync()),
                hash,
                name = "two.wav",
                parts = new[]
                {
                    new
                    {
                        start = 3.2,
                        end = 5.9,
                        member = Member,
                        text = second,
                    },
                    new
                    {
                        start = 0.0,
                        end = 2.7,
                        member = Member,
                        text = "go forward ten meters",
                    },
                },
            }
        );
        return await HeardAsync();
    }

    [Fact]
    public async Task Stretches_marked_in_a_file_become_lines_in_its_order_with_their_words_and_their_sound()
    {
        var state = await CutAsync();
        var lines = state.GetProperty("lines").EnumerateArray().ToArray();
        Assert.Equal(2, lines.Length);
        // The same reading twice: the same words at the same places of both takes.
        Assert.Equal(
            lines[0].GetProperty("words").EnumerateArray().Select(w => w[1].GetDouble() + 0.086),
            lines[1].GetProperty("words").EnumerateArray().Select(w => w[1].GetDouble()),
            (a, b) => Math.Abs(a - b) < 0.03
        );
        Assert.True(lines[1].GetProperty("start").GetDouble() > lines[0].GetProperty("start").GetDouble() + 1.5);
        await Server.ErrorAsync(
            $"/api/scenes/{Scene}/parts",
            new
            {
                revision = Revision(state),
                hash = new string('0', 64),
                name = "x",
                parts = new[]
                {
                    new
                    {
                        start = 0,
                        end = 1,
                        member = Member,
                    },
                },
            }
        );
        await Server.ErrorAsync(
            $"/api/scenes/{Scene}/parts",
            new
            {
                revision = Revision(state),
                hash = await TwoReadingsAsync(),
                name = "x",
                parts = new[]
                {
                    new
                    {
                        start = 1.0,
                        end = 1.05,
                        member = Member,
                    },
                },
            }
        );
    }

    [Fact]
    public async Task The_edge_of_a_line_shows_more_or_less_of_the_sound_and_what_is_left_stays_in_its_place()
    {
        var state = await CutAsync();
        JsonElement Of(JsonElement s, int n) => s.GetProperty("lines")[n];
        var (start, word) = (Of(state, 0).GetProperty("start").GetDouble(), Of(state, 0).GetProperty("words")[1][1].GetDouble());
        var absolute = start + word;
        // The start goes to just before the second word: the first one is gone, the second is where it was.
        await Server.PatchAsync(
            $"/api/lines/{Id(Of(state, 0))}/edge",
            new
            {
                revision = Revision(state),
                edge = "start",
                at = absolute - 0.05,
            }
        );
        state = await HeardAsync();
        Assert.Equal(absolute - 0.05, Of(state, 0).GetProperty("start").GetDouble(), 0.002);
        var forward = Of(state, 0).GetProperty("words").EnumerateArray().First(w => w[0].GetString() == "forward");
        Assert.Equal(absolute, Of(state, 0).GetProperty("start").GetDouble() + forward[1].GetDouble(), 0.06);
        // Beyond the sound there is nothing: the end stays within it, and the line beside it in the sound gives way.
        var first = Of(state, 0);
        await Server.PatchAsync(
            $"/api/lines/{Id(first)}/edge",
            new
            {
                revision = Revision(state),
                edge = "end",
                at = first.GetProperty("start").GetDouble() + first.GetProperty("duration").GetDouble() + 0.9,
            }
        );
        state = await HeardAsync();
        Assert.Equal(first.GetProperty("duration").GetDouble() + 0.9, Of(state, 0).GetProperty("duration").GetDouble(), 0.002);
        Assert.Equal(2.7 - 0.4, Of(state, 1).GetProperty("duration").GetDouble(), 0.002);
        for (var i = 0; i < 2; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(2.7, Of(await StateAsync(), 0).GetProperty("duration").GetDouble(), 0.002);
    }

    private async Task<JsonElement> TurnsAsync(string hash, double at, string first, string second)
    {
        object Part(double start, double end, string text) =>
            new
            {
                start,
                end,
                member = Member,
                text,
            };
        await Server.PostAsync(
            $"/api/scenes/{Scene}/parts",
            new
            {
                revision = Revision(await StateAsync()),
                hash,
                name = "two.wav",
                parts = new[] { Part(0, at, first), Part(at, 5.9, second) },
            }
        );
        return await HeardAsync();
    }

    private async Task<JsonElement> BoundaryAsync(JsonElement state, int line, double at)
    {
        var (start, length) = (
            state.GetProperty("lines")[line].GetProperty("start").GetDouble(),
            state.GetProperty("lines")[line].GetProperty("duration").GetDouble()
        );
        var answer = await Server.PatchAsync(
            $"/api/lines/{Id(state.GetProperty("lines")[line])}/edge",
            new
            {
                revision = Revision(state),
                edge = "end",
                at = start + at,
            }
        );
        Assert.StartsWith("Boundary moved by", answer.GetProperty("said").GetString());
        Assert.NotEqual(length, at);
        return await HeardAsync();
    }

    // Words and where they begin in the recording.
    private static (string Text, double Start)[] Said(JsonElement line) =>
        [.. line.GetProperty("words").EnumerateArray().Select(w => (w[0].GetString()!, From(line) + w[1].GetDouble()))];

    private static double From(JsonElement line) => line.GetProperty("takes")[0].GetProperty("from").GetDouble();

    [Fact]
    public async Task A_boundary_between_turns_takes_its_words_along_and_what_lies_away_from_it_is_not_heard_anew()
    {
        const string Text = "go forward ten meters";
        var state = await TurnsAsync(await TwoReadingsAsync(longer: 1), 3.2, Text, Text);
        JsonElement Of(int n) => state.GetProperty("lines")[n];
        (string Text, double Start)[] was = [.. Said(Of(0)), .. Said(Of(1))];
        var meters = Of(0).GetProperty("words")[3][1].GetDouble();
        // A gesture on the word goes with it.
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                kind = "Gesture",
                name = "nod",
                member = Member,
                line = Id(Of(0)),
                start = Of(0).GetProperty("start").GetDouble() + meters + 0.1,
            }
        );
        // An effect on it does, too, and what its line has for captions.
        await Server.PostAsync(
            $"/api/scenes/{Scene}/sounds",
            new
            {
                revision = Revision(await StateAsync()),
                hash = await UploadAsync(new float[4000]),
                name = "ding.wav",
                kind = "Effect",
                start = Of(0).GetProperty("start").GetDouble() + meters + 0.1,
            }
        );
        await Server.SendAsync(
            HttpMethod.Put,
            $"/api/lines/{Id(Of(0))}/caption",
            new
            {
                revision = Revision(await StateAsync()),
                language = "",
                text = "Walk on, ten metres.",
            }
        );
        var before = await StateAsync();
        state = await BoundaryAsync(before, 0, meters - 0.04);
        Assert.Equal("go forward ten", Of(0).GetProperty("text").GetString()!.Trim());
        Assert.Equal("meters " + Text, Of(1).GetProperty("text").GetString());
        (string Text, double Start)[] now = [.. Said(Of(0)), .. Said(Of(1))];
        Assert.Equal(was.Select(w => w.Text), now.Select(w => w.Text));
        // Their places in the recording are to the last digit what they were, also of the word that was heard in the other line.
        foreach (var (a, b) in was.Zip(now))
            Assert.Equal(a.Start, b.Start, 1e-6);
        // In the scene nothing comes between them: takes begin with a frame.
        Assert.Equal(Of(0).GetProperty("start").GetDouble() + meters - 0.04, Of(1).GetProperty("start").GetDouble(), 0.021);
        Assert.Equal(before.GetProperty("clips")[0].GetProperty("start").GetDouble(), state.GetProperty("clips")[0].GetProperty("start").GetDouble(), 0.06);
        Assert.Equal(Id(Of(1)), state.GetProperty("clips")[0].GetProperty("line").GetString());
        double Ding(JsonElement s) => s.GetProperty("sounds")[0].GetProperty("start").GetDouble();
        Assert.Equal(Ding(before), Ding(state), 0.06);
        // No word of the captions is lost, and the other line has its own.
        var captions = await Server.Client.GetStringAsync($"/api/scenes/{Scene}/captions?format=srt");
        Assert.Contains("Walk on, ten", captions);
        Assert.Contains("metres.", captions);
        Assert.Contains(Text, captions.ReplaceLineEndings(" "));
        // And back.
        state = await BoundaryAsync(state, 0, 3.2);
        Assert.Equal(Ding(before), Ding(state), 0.06);
        Assert.Equal((Text, Text), (Of(0).GetProperty("text").GetString(), Of(1).GetProperty("text").GetString()));
        Assert.Equal(Id(Of(0)), state.GetProperty("clips")[0].GetProperty("line").GetString());
        // Nothing is left of a line that is pushed away.
        Assert.Contains(
            "nothing left",
            await Server.ErrorAsync(
                $"/api/lines/{Id(Of(0))}/edge",
                new
                {
                    revision = Revision(state),
                    edge = "end",
                    at = 60.0,
                },
                patch: true
            )
        );
    }

    [Fact]
    public async Task A_boundary_by_hand_keeps_its_place_while_the_turn_around_it_changes_and_where_nobody_has_heard_it_yet()
    {
        const string Text = "go forward ten meters";
        var state = await TurnsAsync(await TwoReadingsAsync(longer: 2), 3.2, Text, Text);
        JsonElement Of(int n) => state.GetProperty("lines")[n];
        // The end of "forward" in the second turn, set a little earlier.
        var pinned = Of(1).GetProperty("words")[1][2].GetDouble() - 0.05;
        await Server.PostAsync(
            $"/api/lines/{Id(Of(1))}/pins",
            new
            {
                revision = Revision(state),
                word = 1,
                phone = 999,
                time = pinned,
            }
        );
        state = await HeardAsync();
        var forward = From(Of(1)) + Of(1).GetProperty("words")[1][2].GetDouble();
        Assert.Equal(3.2 + pinned, forward, 0.011);
        var go = Said(Of(1))[0].Start;
        state = await BoundaryAsync(state, 0, Of(0).GetProperty("words")[3][1].GetDouble() - 0.04);
        Assert.Equal("meters " + Text, Of(1).GetProperty("text").GetString());
        Assert.Equal(go, Said(Of(1))[1].Start, 1e-6);
        Assert.Equal(forward, From(Of(1)) + Of(1).GetProperty("words")[2][2].GetDouble(), 0.011);
        // Nobody has heard anything of another part: its boundary by hand is there all the same.
        var hash = Of(1).GetProperty("take").GetProperty("hash").GetString()!;
        var query = new SpeechQuery(Text, "en-us") { Part = new(3.15, 5.9), Pins = [new BoundaryPin("forward", pinned, 4, pinned)] };
        var speech = await Services.GetRequiredService<VoiceStore>().ListenAsync(hash, "two.wav", query, null, null, default);
        Assert.Equal(4, speech.Words.Count);
    }

    [Fact]
    public async Task A_word_that_a_boundary_cut_in_two_is_whole_again_when_the_boundary_is_moved_off_it()
    {
        var hash = await TwoReadingsAsync();
        var whole = await TurnsAsync(hash, 3.2, "go forward ten meters", "");
        var meters = whole.GetProperty("lines")[0].GetProperty("words")[3];
        double start = meters[1].GetDouble(),
            end = meters[2].GetDouble();
        var state = await TurnsAsync(hash, (start + end) / 2, "", "");
        var last = state.GetProperty("lines").GetArrayLength() - 2;
        state = await BoundaryAsync(state, last, end + 0.15);
        static string Plain(JsonElement line) =>
            string.Concat(line.GetProperty("text").GetString()!.ToLowerInvariant().Replace("10", "ten").Where(c => char.IsLetter(c) || c == ' ')).Trim();
        // "Metres" or "meter": as the recogniser has it.
        Assert.StartsWith("go forward ten met", Plain(state.GetProperty("lines")[last]));
        Assert.Equal("go forward ten meters", Plain(state.GetProperty("lines")[last + 1]));
    }

    [Fact]
    public async Task A_script_and_a_draft_are_joined_into_one_script()
    {
        var state = await CutAsync(second: "");
        Assert.Equal("recognised", state.GetProperty("lines")[1].GetProperty("source").GetString());
        var draft = state.GetProperty("lines")[1].GetProperty("draft").GetString();
        await Server.PostAsync($"/api/lines/{Id(Line(state))}/join", new { revision = Revision(state) });
        state = await HeardAsync();
        Assert.Equal("go forward ten meters " + draft, Assert.Single(state.GetProperty("lines").EnumerateArray()).GetProperty("text").GetString());
        Assert.Equal(8, Line(state).GetProperty("words").GetArrayLength());
    }

    [Fact]
    public async Task Lines_are_joined_into_one_that_sounds_as_they_did()
    {
        var state = await CutAsync();
        await using var stream = await Server.Client.GetStreamAsync($"/api/scenes/{Scene}/sound");
        var before = await ReadAsync(stream);
        var second = state.GetProperty("lines")[1];
        // A mood on the second line moves over with it.
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = Member,
                kind = "Mood",
                name = "Joy",
                start = second.GetProperty("start").GetDouble() + 0.5,
                end = second.GetProperty("start").GetDouble() + 1.5,
            }
        );
        state = await StateAsync();
        var mood = state.GetProperty("clips")[0].GetProperty("start").GetDouble();
        await Server.PostAsync($"/api/lines/{Id(Line(state))}/join", new { revision = Revision(state) });
        state = await HeardAsync();
        var line = Assert.Single(state.GetProperty("lines").EnumerateArray());
        Assert.Equal("go forward ten meters go forward ten meters", line.GetProperty("text").GetString());
        Assert.Equal(8, line.GetProperty("words").GetArrayLength());
        Assert.Equal(mood, state.GetProperty("clips")[0].GetProperty("start").GetDouble(), 0.1);
        await using var again = await Server.Client.GetStreamAsync($"/api/scenes/{Scene}/sound?x=1");
        var after = await ReadAsync(again);
        // A line is laid by where its speech begins, and that is heard anew: all of it may lie up to 3 ms earlier or later; and each part was laid on whole
        // samples by itself, so that they may lie a sample apart: an "s" is another one by then. The second begins with its first word.
        int cut = (int)((second.GetProperty("start").GetDouble() + second.GetProperty("words")[0][1].GetDouble()) * before.SampleRate) - 480,
            end = Math.Min(before.Samples.Length, after.Samples.Length) - 200;
        var shifts = new List<int>();
        foreach (var (from, to) in new[] { (200, cut), (cut, end) })
        {
            var energy = before.Samples[from..to].Sum(s => (double)s * s);
            double Difference(int shift) => Enumerable.Range(from, to - from).Sum(i => Math.Pow(before.Samples[i] - after.Samples[i + shift], 2));
            var (difference, best) = Enumerable.Range(-144, 289).AsParallel().Select(shift => (Difference(shift), shift)).Min();
            Assert.True(difference < 0.01 * energy, $"the sound has changed by {10 * Math.Log10(difference / energy):0.0} dB");
            shifts.Add(best);
        }
        Assert.InRange(shifts[1] - shifts[0], -1, 1);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(state) });
        Assert.Equal(2, (await StateAsync()).GetProperty("lines").GetArrayLength());
    }

    [Fact]
    public async Task A_recording_is_laid_into_a_take_at_a_moment_as_a_take_of_its_own()
    {
        var state = await CutAsync();
        var line = Line(state);
        var hash = await UploadAsync([.. Enumerable.Repeat(0.25f, 8000)]);
        var job = (
            await Server.PostAsync(
                $"/api/lines/{Id(line)}/takes",
                new
                {
                    kind = "recording",
                    hash,
                    name = "recording",
                    punch = new { at = 1.0, keepsRest = true },
                }
            )
        ).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        state = await StateAsync();
        // As long as before, another take in use, and the recording from one second on for half a second.
        Assert.Equal(2.7, Line(state).GetProperty("duration").GetDouble(), 0.001);
        Assert.Equal((2, true), (Line(state).GetProperty("takes").GetArrayLength(), Line(state).GetProperty("takes")[1].GetProperty("isUsed").GetBoolean()));
        await using var stream = await Server.Client.GetStreamAsync($"/api/scenes/{Scene}/sound");
        var sound = await ReadAsync(stream);
        var at = (int)((Line(state).GetProperty("start").GetDouble() + 1.0) * sound.SampleRate);
        for (var i = at + 2000; i < at + 22000; i += 500)
            Assert.Equal(0.25, sound.Samples[i], 0.02);
        job = (
            await Server.PostAsync(
                $"/api/lines/{Id(line)}/takes",
                new
                {
                    kind = "recording",
                    hash,
                    name = "recording",
                    punch = new { at = 1.0, keepsRest = false },
                }
            )
        ).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        Assert.Equal(1.5, Line(await StateAsync()).GetProperty("duration").GetDouble(), 0.001);
    }

    private static async Task<AudioBuffer> ReadAsync(Stream stream)
    {
        var copy = new MemoryStream();
        await stream.CopyToAsync(copy);
        copy.Position = 0;
        return WavFile.ReadMono(copy);
    }
}
