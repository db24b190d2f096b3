using System.Text.Json;
using Zamblo.Core.Audio;

namespace Zamblo.Web.Tests;

/// <summary>Takes, deliveries and what is done to the sound, through the server.</summary>
public sealed class BoothTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static double Duration(JsonElement state) => Line(state).GetProperty("duration").GetDouble();

    private async Task<AudioBuffer> SoundAsync(string query = "")
    {
        await using var stream = await Server.Client.GetStreamAsync($"/api/scenes/{Scene}/sound?{query}");
        var copy = new MemoryStream();
        await stream.CopyToAsync(copy);
        copy.Position = 0;
        return WavFile.ReadMono(copy);
    }

    [Fact]
    public async Task Trim_and_speed_move_the_words_with_the_sound_colour_does_not_and_undo_brings_all_back()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, and the flour is on the scale.");
        var take = Id(Line(state).GetProperty("take"));
        var (length, words, cues) = (Duration(state), Line(state).GetProperty("words").GetRawText(), Line(state).GetProperty("cues").GetRawText());
        var plain = await SoundAsync();
        await Server.PatchAsync($"/api/takes/{take}/care", new { revision = Revision(state), care = new { colour = "Telephone", level = -20 } });
        state = await StateAsync();
        Assert.Equal(cues, Line(state).GetProperty("cues").GetRawText());
        var cared = await SoundAsync("x=1");
        Assert.NotEqual(plain.Samples, cared.Samples);
        // Before and after: the same line as it came, made as loud as it is now.
        var bare = await SoundAsync("bare=" + Id(Line(state)));
        Assert.Equal(Loudness.Integrated(cared), Loudness.Integrated(bare), 0.2);
        var peak = Enumerable.Range(0, plain.Samples.Length).MaxBy(i => Math.Abs(plain.Samples[i]));
        var gain = bare.Samples[peak] / plain.Samples[peak];
        Assert.True(plain.Samples.Zip(bare.Samples).Max(p => Math.Abs(gain * p.First - p.Second)) < 0.0002f);

        await Server.PatchAsync($"/api/takes/{take}/care", new { revision = Revision(state), care = new { trimStart = 0.1, speed = 0.8 } });
        state = await StateAsync();
        Assert.Equal((length - 0.1) / 0.8, Duration(state), 2);
        var (was, now) = (JsonDocument.Parse(words).RootElement, Line(state).GetProperty("words"));
        for (var i = 2; i < now.GetArrayLength(); i++)
            Assert.Equal((was[i][1].GetDouble() - 0.1) / 0.8, now[i][1].GetDouble(), 0.002);
        // A mark made in the stretched take lies on the same sound when the speed is taken off again.
        await Server.PostAsync(
            $"/api/takes/{take}/marks",
            new
            {
                revision = Revision(state),
                start = 1.0,
                end = 1.4,
                isVoice = false,
            }
        );
        await Server.PatchAsync($"/api/takes/{take}/care", new { revision = Revision(await StateAsync()), care = new { } });
        var mark = Line(await StateAsync()).GetProperty("marks")[0];
        Assert.Equal((1.0 * 0.8 + 0.1, 1.4 * 0.8 + 0.1), (mark.GetProperty("start").GetDouble(), mark.GetProperty("end").GetDouble()));
        for (var i = 0; i < 4; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(words, Line(await StateAsync()).GetProperty("words").GetRawText());
    }

    [Fact]
    public async Task Dead_air_is_found_in_the_original_whatever_is_cut_already()
    {
        var samples = new short[4 * 16000];
        var read = File.ReadAllBytes("/usr/share/pocketsphinx/test/data/goforward.raw");
        Buffer.BlockCopy(read, 0, samples, 16000 * 2, Math.Min(read.Length, 2 * 16000 * 5 / 2));
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. samples.Select(s => s / 32768f)],
            ],
            16000
        );
        var hash = (await Server.PostAsync("/api/uploads?name=forward.wav", wav.ToArray())).GetProperty("hash").GetString();
        var job = (
            await Server.PostAsync(
                $"/api/scenes/{Scene}/lines",
                new
                {
                    member = Member,
                    kind = "file",
                    hash,
                    name = "forward.wav",
                    text = "go forward ten meters",
                }
            )
        ).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        var state = await StateAsync();
        var air = await Server.GetAsync($"/api/lines/{Id(Line(state))}/dead-air");
        // Speech starts 0.46 s into the recording, which lies a second in.
        Assert.Equal(1.34, air.GetProperty("trimStart").GetDouble(), 0.08);
        await Server.PatchAsync($"/api/takes/{Id(Line(state).GetProperty("take"))}/care", new { revision = Revision(state), care = air });
        state = await StateAsync();
        Assert.Equal(0.12, Line(state).GetProperty("phones")[0][1].GetDouble(), 0.02);
        Assert.Equal(air.GetRawText(), (await Server.GetAsync($"/api/lines/{Id(Line(state))}/dead-air")).GetRawText());
    }

    [Fact]
    public async Task A_changed_delivery_or_voice_makes_a_line_stale_until_it_is_spoken_again_and_takes_are_kept()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb.");
        bool Stale(JsonElement s) => Line(s).GetProperty("isStale").GetBoolean();
        Assert.False(Stale(state));
        var length = Duration(state);
        await Server.PatchAsync($"/api/lines/{Id(Line(state))}/delivery", new { revision = Revision(state), delivery = new { speed = 0.7 } });
        state = await StateAsync();
        Assert.True(Stale(state));
        await Server.PatchAsync($"/api/members/{Member}", new { revision = Revision(state), voice = "flite:slt" });
        Assert.Equal(1, (await Server.PostAsync($"/api/scenes/{Scene}/speak-stale", new { })).GetProperty("count").GetInt32());
        for (var i = 0; i < 200 && Stale(await StateAsync()); i++)
            await Task.Delay(100);
        state = await StateAsync();
        var takes = Line(state).GetProperty("takes");
        Assert.Equal((2, "flite:slt", true), (takes.GetArrayLength(), takes[1].GetProperty("name").GetString(), takes[1].GetProperty("isUsed").GetBoolean()));
        Assert.Equal(["Nine", "minutes", "Bubb"], Line(state).GetProperty("words").EnumerateArray().Select(w => w[0].GetString()!));

        await Server.PostAsync($"/api/lines/{Id(Line(state))}/use", new { revision = Revision(state), take = Id(takes[0]) });
        state = await StateAsync();
        Assert.Equal(length, Duration(state), 6);
        await Server.DeleteAsync($"/api/takes/{Id(takes[0])}?revision={Revision(state)}");
        state = await StateAsync();
        Assert.Equal("flite:slt", Assert.Single(Line(state).GetProperty("takes").EnumerateArray()).GetProperty("name").GetString());
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(state) });
        Assert.Equal(2, Line(await StateAsync()).GetProperty("takes").GetArrayLength());
    }

    [Fact]
    public async Task Voices_of_both_engines_can_be_heard_before_they_are_chosen()
    {
        var voices = await Server.GetAsync("/api/voices");
        Assert.Contains(voices.EnumerateArray(), v => v.GetProperty("key").GetString() == "flite:awb");
        Assert.Contains(voices.EnumerateArray(), v => v.GetProperty("key").GetString() == "espeak:de");
        foreach (var key in (string[])["flite:awb", "espeak:de", "espeak:en-gb+f2"])
            Assert.True((await Server.Client.GetByteArrayAsync("/api/voices/sample?key=" + Uri.EscapeDataString(key))).Length > 30_000);
    }

    // When every line has its voice.
    private async Task<JsonElement> SpokenAsync()
    {
        for (var i = 0; i < 300; i++)
        {
            var state = await StateAsync();
            if (state.GetProperty("lines").EnumerateArray().All(l => l.GetProperty("start").ValueKind != JsonValueKind.Null))
                return state;
            await Task.Delay(100);
        }
        throw new TimeoutException("A line was not spoken.");
    }

    [Fact]
    public async Task A_script_makes_cast_lines_deliveries_and_moods_in_one_edit()
    {
        const string script = "MARO\nThe oven is hot.\n\nMISS CRUMB\n(sadly)\nThen I am too late.\n\nTOCK\nNine minutes.\n";
        var done = await Server.PostAsync($"/api/scenes/{Scene}/script", new { revision = Revision(await StateAsync()), text = script });
        Assert.Equal((3, 2), (done.GetProperty("lines").GetInt32(), done.GetProperty("members").GetInt32()));
        var state = await SpokenAsync();
        var lines = state.GetProperty("lines").EnumerateArray().ToArray();
        Assert.Equal(["The oven is hot.", "(sadly) Then I am too late.", "Nine minutes."], lines.Select(l => l.GetProperty("text").GetString()!));
        var members = state.GetProperty("members").EnumerateArray().ToArray();
        Assert.Equal(["Maro", "Miss Crumb", "Tock"], members.Select(m => m.GetProperty("roleName").GetString()!));
        Assert.Equal(3, members.Select(m => m.GetProperty("voice").GetString()).Distinct().Count());
        Assert.Equal("tock", members[2].GetProperty("character").GetString());
        Assert.True(lines[1].GetProperty("delivery").GetProperty("speed").GetDouble() < 1);
        // And out again: the same script, and captions with who says them.
        var back = Core.Interchange.Screenplay.Read(await Server.Client.GetStringAsync($"/api/productions/{Production}/script"));
        Assert.Equal(
            [("Maro", "The oven is hot.", null), ("Miss Crumb", "Then I am too late.", "sadly"), ("Tock", "Nine minutes.", null)],
            back.Lines.Select(l => (l.Role, l.Text, l.Parenthetical))
        );
        Assert.Contains("<v Tock>Nine minutes", await Server.Client.GetStringAsync($"/api/scenes/{Scene}/captions?format=vtt"), StringComparison.Ordinal);
        // The mood lies over the whole line, as long as that came to be.
        var mood = Assert.Single(state.GetProperty("clips").EnumerateArray());
        Assert.Equal("Sadness", mood.GetProperty("name").GetString());
        var (start, length) = (lines[1].GetProperty("start").GetDouble(), lines[1].GetProperty("duration").GetDouble());
        Assert.Equal(start, mood.GetProperty("start").GetDouble(), 0.01);
        Assert.Equal(start + length, mood.GetProperty("end").GetDouble(), 0.01);
        Assert.Contains("no dialogue", await Server.ErrorAsync($"/api/scenes/{Scene}/script", new { text = "It rains." }));
        Assert.Contains(
            "Eight cast members",
            await Server.ErrorAsync(
                $"/api/scenes/{Scene}/script",
                new { text = string.Join("\n\n", Enumerable.Range(1, 9).Select(i => $"BAKER {(char)('A' + i)}\nHello.")) }
            )
        );
    }

    [Fact]
    public async Task A_script_is_looked_through_and_corrected_before_anything_is_made_of_it()
    {
        const string script = "INT. BAKERY\n\nThe oven hums.\n\nMARO (whispering): Quiet. [sighs] It sleeps.\n\nO'NEIL (V.O.)\n(to Maro) We were late.\n";
        var look = await Server.PostAsync($"/api/scenes/{Scene}/script/look", new { text = script });
        var lines = look.GetProperty("lines").EnumerateArray().ToArray();
        Assert.Equal(["Whispering", "Mischief"], [lines[0].GetProperty("delivery").GetString()!, lines[0].GetProperty("mood").GetString()!]);
        Assert.Equal("sigh", Assert.Single(lines[0].GetProperty("gestures").EnumerateArray()).GetString());
        Assert.True(lines[1].GetProperty("isOffStage").GetBoolean());
        Assert.Equal("Maro", Assert.Single(lines[1].GetProperty("looks").EnumerateArray()).GetString());
        Assert.Equal(["heading", "action"], look.GetProperty("unspoken").EnumerateArray().Select(u => u.GetProperty("kind").GetString()!));
        var roles = look.GetProperty("roles").EnumerateArray().ToArray();
        Assert.Equal(["Maro", "O'Neil"], roles.Select(r => r.GetProperty("name").GetString()!));
        Assert.Empty((await StateAsync()).GetProperty("lines").EnumerateArray());
        // The production is empty: whom the script does not know makes room. One line is left out, one is somebody else's.
        var parts = new[]
        {
            new
            {
                scene = 0,
                role = "O'NEIL",
                text = "(softly) Quiet. [sighs] [looks at the camera] It sleeps.",
                isOffStage = true,
            },
        };
        var cast = new[]
        {
            new
            {
                role = "O'NEIL",
                character = "tock",
                voice = "espeak:de",
            },
        };
        await Server.PostAsync(
            $"/api/scenes/{Scene}/script",
            new
            {
                revision = Revision(await StateAsync()),
                text = "",
                parts,
                cast,
                scenes = new[] { "Bakery" },
            }
        );
        var state = await SpokenAsync();
        var member = Assert.Single(state.GetProperty("members").EnumerateArray());
        Assert.Equal(
            ("O'Neil", "tock", "espeak:de"),
            (member.GetProperty("roleName").GetString(), member.GetProperty("character").GetString(), member.GetProperty("voice").GetString())
        );
        var line = Assert.Single(state.GetProperty("lines").EnumerateArray());
        // What is spoken has neither direction; both stand in the text, and the sigh lies on the score.
        Assert.Equal(["Quiet", "It", "sleeps"], line.GetProperty("words").EnumerateArray().Select(w => w[0].GetString()!));
        Assert.Equal(6, line.GetProperty("directions").GetArrayLength());
        Assert.Contains(state.GetProperty("clips").EnumerateArray(), c => c.GetProperty("kind").GetString() == "gesture");
        Assert.Contains(state.GetProperty("clips").EnumerateArray(), c => c.GetProperty("name").GetString() == "camera");
        // And it is found again, wherever it is said.
        var found = await Server.GetAsync($"/api/productions/{Production}/find?text=SLEEPS");
        var place = Assert.Single(found.EnumerateArray());
        Assert.Equal((2, "sleeps"), (place.GetProperty("word").GetInt32(), place.GetProperty("match").GetString()));
        Assert.Empty((await Server.GetAsync($"/api/productions/{Production}/find?text=%20")).EnumerateArray());
        Assert.Contains(
            "says nothing",
            await Server.ErrorAsync($"/api/scenes/{Scene}/script", new { text = "", parts = new[] { parts[0] with { text = "[sighs]" } } })
        );
        Assert.Contains(
            "no voice",
            await Server.ErrorAsync(
                $"/api/scenes/{Scene}/script",
                new
                {
                    text = "",
                    parts,
                    cast = new[] { cast[0] with { voice = "espeak:../x" } },
                }
            )
        );
    }

    [Fact]
    public async Task A_line_is_tried_in_other_voices_and_what_is_kept_stays_beside_the_take_in_use()
    {
        await Server.PostAsync($"/api/scenes/{Scene}/script", new { revision = Revision(await StateAsync()), text = "MARO\nFresh rolls at six." });
        var line = (await SpokenAsync()).GetProperty("lines")[0];
        var id = Id(line);
        var plain = await Server.Client.GetByteArrayAsync("/api/voices/sample?key=flite:slt&text=Fresh%20rolls%20at%20six.");
        var sad = await Server.Client.GetByteArrayAsync("/api/voices/sample?key=flite:slt&text=Fresh%20rolls%20at%20six.&delivery=sad");
        Assert.True(sad.Length > 1.1 * plain.Length);
        var order = new
        {
            kind = "synthesis",
            text = "Fresh rolls at six.",
            voice = "flite:slt",
            isBeside = true,
        };
        var job = (await Server.PostAsync($"/api/lines/{id}/takes", order)).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        line = (await StateAsync()).GetProperty("lines")[0];
        var takes = line.GetProperty("takes").EnumerateArray().ToArray();
        Assert.Equal([true, false], takes.Select(t => t.GetProperty("isUsed").GetBoolean()));
        Assert.Equal("flite:slt", takes[1].GetProperty("name").GetString());
        // In use it is not stale: its voice is its own.
        await Server.PostAsync($"/api/lines/{id}/use", new { revision = Revision(await StateAsync()), take = takes[1].GetProperty("id").GetString() });
        Assert.False((await StateAsync()).GetProperty("lines")[0].GetProperty("isStale").GetBoolean());
        var note = $"/api/takes/{takes[1].GetProperty("id").GetString()}";
        await Server.PatchAsync(note, new { revision = Revision(await StateAsync()), isStarred = true });
        await Server.PatchAsync(note, new { revision = Revision(await StateAsync()), note = " warmer " });
        var kept = (await StateAsync()).GetProperty("lines")[0].GetProperty("takes")[1];
        Assert.Equal((true, "warmer"), (kept.GetProperty("isStarred").GetBoolean(), kept.GetProperty("note").GetString()));
        Assert.Contains("no voice", await Server.ErrorAsync($"/api/lines/{id}/takes", order with { voice = "flite:none" }));
        Assert.Contains("200 characters", await Server.ErrorAsync(note, new { note = new string('x', 201) }, patch: true));
    }

    [Fact]
    public async Task A_typed_line_says_a_word_as_the_list_says_once_it_is_spoken_again()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "Nine minutes, Bubb. Good night.");
        bool Stale(JsonElement s, int line = 0) => Line(s, line).GetProperty("isStale").GetBoolean();
        string Phones(JsonElement s) => string.Join(' ', Line(s).GetProperty("phones").EnumerateArray().Select(p => p[0].GetString()));
        Task SayAsync(string word, string written) => Server.SendAsync(HttpMethod.Put, $"/api/productions/{Production}/respellings", new { word, written });
        await SayAsync("oven", "AH V AH N");
        Assert.False(Stale(await StateAsync()));
        await SayAsync("bubb", "B UW B");
        Assert.True(Stale(await StateAsync()));
        Assert.Equal(1, (await Server.PostAsync($"/api/scenes/{Scene}/speak-stale", new { })).GetProperty("count").GetInt32());
        for (var i = 0; i < 200 && Stale(await StateAsync()); i++)
            await Task.Delay(100);
        state = await StateAsync();
        Assert.False(Stale(state));
        Assert.Contains("B UW B", Phones(state));
        // Either half of it, and both together again, say what they say.
        await Server.PostAsync($"/api/lines/{Id(Line(state))}/split", new { at = 1.2 });
        state = await StateAsync();
        Assert.Equal([false, false], new[] { Stale(state), Stale(state, 1) });
        await SayAsync("bubb", "");
        state = await StateAsync();
        Assert.Equal(1, new[] { Stale(state), Stale(state, 1) }.Count(s => s));
    }

    [Fact]
    public async Task One_recording_of_two_people_becomes_lines_in_its_own_rhythm_that_are_given_split_and_changed_over()
    {
        string[] said =
        [
            "Fresh rolls at six, and not a minute later.",
            "You fed me at noon, and that was a hundred years ago.",
            "Patience, your flour is on the scale over there.",
            "That scale has been lying to us since the spring.",
            "Every measure of rye gives the dough a darker voice.",
            "Just give the yeast some sugar and keep it warm.",
        ];
        var samples = new List<float>(new float[8000]);
        var truth = new List<(double Start, double End)>();
        for (var i = 0; i < said.Length; i++)
        {
            var path = Path.Combine(Data, $"{i}.wav");
            using var flite = System.Diagnostics.Process.Start("flite", ["-voice", i % 2 == 0 ? "slt" : "rms", "-t", said[i], "-o", path]);
            await flite.WaitForExitAsync();
            await using var file = File.OpenRead(path);
            var spoken = WavFile.ReadMono(file).Samples;
            truth.Add((samples.Count / 16000.0, (samples.Count + spoken.Length) / 16000.0));
            samples.AddRange(spoken);
            samples.AddRange(new float[2000]);
        }
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. samples],
            ],
            16000
        );
        var hash = (await Server.PostAsync("/api/uploads?name=talk.wav", wav.ToArray())).GetProperty("hash").GetString();
        var job = (await Server.PostAsync($"/api/scenes/{Scene}/turns", new { hash, name = "talk.wav" })).GetProperty("job").GetString()!;
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        for (var i = 0; i < 600 && (await StateAsync()).GetProperty("lines").EnumerateArray().Any(l => l.GetProperty("listening").GetBoolean()); i++)
            await Task.Delay(200);
        var state = await StateAsync();
        var lines = state.GetProperty("lines").EnumerateArray().ToArray();
        var members = state.GetProperty("members").EnumerateArray().ToArray();
        Assert.Equal((6, 2), (lines.Length, members.Length));
        Assert.NotEqual(members[0].GetProperty("character").GetString(), members[1].GetProperty("character").GetString());
        for (var i = 0; i < 6; i++)
        {
            Assert.Equal(Id(members[i % 2]), lines[i].GetProperty("member").GetString());
            // The rhythm of the recording: everything as far apart as it was.
            var offset =
                lines[i].GetProperty("start").GetDouble()
                + lines[i].GetProperty("phones")[0][1].GetDouble()
                - lines[0].GetProperty("start").GetDouble()
                - lines[0].GetProperty("phones")[0][1].GetDouble();
            Assert.Equal(truth[i].Start - truth[0].Start, offset, 0.12);
            // A mouth moves in its own turn only: no cue outside its line, and words in each.
            Assert.All(
                lines[i].GetProperty("cues").EnumerateArray(),
                c => Assert.InRange(c[2].GetDouble(), 0, lines[i].GetProperty("duration").GetDouble() + 1e-6)
            );
            Assert.True(lines[i].GetProperty("words").GetArrayLength() > 3);
        }

        // Words that are written are aligned within their turn only.
        await Server.PatchAsync($"/api/lines/{Id(lines[2])}", new { revision = Revision(state), text = said[2] });
        for (var i = 0; i < 300 && (await StateAsync()).GetProperty("lines")[2].GetProperty("source").GetString() != "script"; i++)
            await Task.Delay(200);
        state = await StateAsync();
        var third = state.GetProperty("lines")[2];
        Assert.Equal(9, third.GetProperty("words").GetArrayLength());
        var flour = third.GetProperty("words")[2];
        await Server.PostAsync(
            $"/api/lines/{Id(third)}/split",
            new { revision = Revision(state), at = third.GetProperty("start").GetDouble() + flour[2].GetDouble() + 0.02 }
        );
        state = await StateAsync();
        Assert.Equal(
            ["Patience, your flour", "is on the scale over there."],
            state.GetProperty("lines").EnumerateArray().Skip(2).Take(2).Select(l => l.GetProperty("text").GetString()!.Trim())
        );
        var (one, two) = (state.GetProperty("lines")[2], state.GetProperty("lines")[3]);
        Assert.Equal(one.GetProperty("start").GetDouble() + one.GetProperty("duration").GetDouble(), two.GetProperty("start").GetDouble(), 3);
        Assert.Equal(third.GetProperty("duration").GetDouble(), one.GetProperty("duration").GetDouble() + two.GetProperty("duration").GetDouble(), 3);

        await Server.PostAsync(
            $"/api/scenes/{Scene}/swap",
            new
            {
                revision = Revision(state),
                first = Id(members[0]),
                second = Id(members[1]),
            }
        );
        Assert.Equal(Id(members[1]), Line(await StateAsync()).GetProperty("member").GetString());
        for (var i = 0; i < 2; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(6, (await StateAsync()).GetProperty("lines").GetArrayLength());
    }
}
