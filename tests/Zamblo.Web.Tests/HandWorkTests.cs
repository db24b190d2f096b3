using System.Text;
using System.Text.Json;

namespace Zamblo.Web.Tests;

public sealed class HandWorkTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static string Cues(JsonElement line) => line.GetProperty("cues").GetRawText();

    private static string Take(JsonElement line) => line.GetProperty("take").GetProperty("id").GetString()!;

    /// <summary>The cue over the middle of a word's stretch, as it stands in the state.</summary>
    private static JsonElement[] CuesOf(JsonElement line, string word, int occurrence = 0)
    {
        var w = line.GetProperty("words").EnumerateArray().Where(x => x[0].GetString() == word).ElementAt(occurrence);
        double start = w[1].GetDouble(),
            end = w[2].GetDouble();
        return [.. line.GetProperty("cues").EnumerateArray().Where(c => (c[1].GetDouble() + c[2].GetDouble()) / 2 is var m && m >= start && m < end)];
    }

    private static int WordIndex(JsonElement line, string word) => line.GetProperty("words").EnumerateArray().ToList().FindIndex(w => w[0].GetString() == word);

    private async Task SettleAsync()
    {
        for (var i = 0; i < 300; i++)
        {
            var jobs = await Server.GetAsync($"/api/productions/{Production}/jobs");
            if (jobs.EnumerateArray().All(j => j.GetProperty("state").GetString() is not ("queued" or "running")))
                return;
            await Task.Delay(100);
        }
        throw new TimeoutException("The jobs did not end.");
    }

    [Fact]
    public async Task Any_edits_of_a_mouth_undone_give_the_start_also_after_a_restart()
    {
        var data = Directory.CreateTempSubdirectory("zamblo-web-").FullName;
        var server = await ServerProcess.StartAsync(data);
        var (production, scene, member) = await server.NewProductionAsync();
        Task<JsonElement> StateAsync() => server.GetAsync("/api/scenes/" + scene);
        var state = await server.SpeakAsync(production, scene, member, "The oven is hot, and the flour is on the scale.");
        var (line, start) = (Id(Line(state)), Cues(Line(state)));
        var random = new Random(7);
        var seen = new List<string> { start };
        for (var i = 0; i < 14; i++)
        {
            state = await StateAsync();
            var cues = Line(state).GetProperty("cues").EnumerateArray().ToArray();
            var n = cues[random.Next(cues.Length)][5].GetInt32();
            var (operation, by) = (i % 5) switch
            {
                0 => ("Shape", 0),
                1 => ("Strength", 1.4),
                2 => ("Move", 0.04),
                3 => ("End", -0.02),
                _ => ("Remove", 0.0),
            };
            await server.PostAsync(
                $"/api/lines/{line}/cues",
                new
                {
                    revision = Revision(state),
                    operation,
                    cues = new[] { n },
                    shape = "Round",
                    by,
                }
            );
            seen.Add(Cues(Line(await StateAsync())));
        }
        Assert.True(seen.Distinct().Count() > 10);
        await server.DisposeAsync();
        server = await ServerProcess.StartAsync(data);
        for (var i = seen.Count - 2; i >= 0; i--)
        {
            Assert.StartsWith(
                "Mouth",
                (await StateAsync()).GetProperty("undo").GetString()!.Replace("Strength of a m", "M").Replace("Take out a m", "M").Replace("Time of a m", "M")
            );
            await server.PostAsync($"/api/productions/{production}/undo", new { revision = Revision(await StateAsync()) });
            Assert.Equal(seen[i], Cues(Line(await StateAsync())));
        }
        for (var i = 1; i < seen.Count; i++)
            await server.PostAsync($"/api/productions/{production}/redo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(seen[^1], Cues(Line(await StateAsync())));
        await server.DisposeAsync();
        Directory.Delete(data, true);
    }

    [Fact]
    public async Task A_fix_is_applied_wherever_the_word_is_said_and_found_again_in_another_take()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "My oven, your oven, the oven.");
        var (first, second) = (Line(state), Line(state, 1));
        var cue = CuesOf(first, "oven").First(c => c[4].GetString() == "Open")[5].GetInt32();
        var stale = Revision(state);
        await Server.PostAsync(
            $"/api/lines/{Id(first)}/cues",
            new
            {
                revision = stale,
                operation = "Shape",
                cues = new[] { cue },
                shape = "Pucker",
            }
        );
        // Another tab that still shows the state before is told so, and nothing of it is done.
        await Server.PostAsync(
            $"/api/lines/{Id(first)}/cues",
            new
            {
                revision = stale,
                operation = "Remove",
                cues = new[] { cue },
            },
            expect: 409
        );
        var word = WordIndex(first, "oven");
        var places = (await Server.GetAsync($"/api/lines/{Id(first)}/words/{word}/elsewhere")).GetProperty("places").EnumerateArray().ToArray();
        Assert.Equal(3, places.Length);
        Assert.All(places, p => Assert.Contains(p.GetProperty("after").EnumerateArray(), c => c.GetProperty("name").GetString() == "Pucker"));
        await Server.PostAsync(
            $"/api/lines/{Id(first)}/words/{word}/apply",
            new
            {
                revision = Revision(await StateAsync()),
                places = places.Select(p => new { line = p.GetProperty("line").GetString(), word = p.GetProperty("word").GetInt32() }),
            }
        );
        state = await StateAsync();
        for (var i = 0; i < 3; i++)
            Assert.Contains(CuesOf(Line(state, 1), "oven", i), c => c[4].GetString() == "Pucker");
        Assert.Equal("Apply the mouth of \"oven\" in 3 places", state.GetProperty("undo").GetString());

        // Another take, by another voice, faster or slower: the touch-up goes along.
        await Server.SendAsync(HttpMethod.Patch, "/api/members/" + Member, new { revision = Revision(state), voice = "espeak:en-us+f4" });
        var job = (await Server.PostAsync($"/api/lines/{Id(first)}/takes", new { kind = "synthesis", text = "Well now, the oven is hot." }))
            .GetProperty("job")
            .GetString()!;
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        state = await StateAsync();
        Assert.Contains(CuesOf(Line(state), "oven"), c => c[4].GetString() == "Pucker");
        Assert.False(Line(state).GetProperty("touches")[0].GetProperty("isLost").GetBoolean());

        // The word is gone: the touch-up is listed with its old place, and comes back with the word.
        job = (await Server.PostAsync($"/api/lines/{Id(first)}/takes", new { kind = "synthesis", text = "Nobody came." })).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        state = await StateAsync();
        Assert.True(Line(state).GetProperty("touches")[0].GetProperty("isLost").GetBoolean());
        Assert.True(Line(state).GetProperty("touches")[0].GetProperty("start").GetDouble() > 0);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(state) });
        Assert.Contains(CuesOf(Line(await StateAsync()), "oven"), c => c[4].GetString() == "Pucker");
    }

    [Fact]
    public async Task Touch_ups_are_switched_off_to_compare_copied_and_lifted_off()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, the flour is not.");
        var line = Id(Line(state));
        var automatic = Cues(Line(state));
        await Server.PostAsync(
            $"/api/lines/{line}/shape",
            new
            {
                revision = Revision(state),
                shape = "Rest",
                start = 0.3,
                end = 0.6,
            }
        );
        state = await StateAsync();
        var touch = Line(state).GetProperty("touches")[0].GetProperty("id").GetString();
        Assert.Contains(Line(state).GetProperty("cues").EnumerateArray(), c => c[4].GetString() == "Rest" && c[6].GetString() == touch);
        await Server.PostAsync(
            $"/api/scenes/{Scene}/touches/switch",
            new
            {
                revision = Revision(state),
                ids = new[] { touch },
                on = false,
            }
        );
        Assert.Equal(automatic, Cues(Line(await StateAsync())));
        await Server.PostAsync(
            $"/api/scenes/{Scene}/touches/switch",
            new
            {
                revision = Revision(await StateAsync()),
                ids = new[] { touch },
                on = true,
            }
        );
        Assert.NotEqual(automatic, Cues(Line(await StateAsync())));
        await Server.PostAsync(
            $"/api/lines/{line}/paste",
            new
            {
                revision = Revision(await StateAsync()),
                source = line,
                start = 0.3,
                end = 0.6,
                at = 1.0,
            }
        );
        Assert.Equal(2, Line(await StateAsync()).GetProperty("touches").GetArrayLength());
        var ids = Line(await StateAsync()).GetProperty("touches").EnumerateArray().Select(t => t.GetProperty("id").GetString());
        await Server.PostAsync($"/api/scenes/{Scene}/touches/reset", new { revision = Revision(await StateAsync()), ids });
        Assert.Equal(automatic, Cues(Line(await StateAsync())));
    }

    [Fact]
    public async Task Times_from_elsewhere_replace_the_automatic_ones_and_saved_mouths_go_on_any_line()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.SendAsync(HttpMethod.Post, $"/api/productions/{Production}/members", new { character = "bubb" });
        var bubb = (await StateAsync()).GetProperty("members")[1].GetProperty("id").GetString()!;
        var state = await Server.SpeakAsync(Production, Scene, bubb, "Feed me at noon, feed me at night.");
        var line = Id(Line(state));
        using var grid = await Server.Client.GetAsync($"/api/lines/{line}/times?format=textgrid");
        Assert.EndsWith("-1.TextGrid", grid.Content.Headers.ContentDisposition!.FileName!.Trim('"'));
        var text = await grid.Content.ReadAsStringAsync();
        // Everything a tenth of a second later would run past the end: refused, with a reason; nothing is changed.
        var error = await Server.SendAsync(
            HttpMethod.Post,
            $"/api/lines/{line}/times?revision={Revision(state)}",
            Encoding.UTF8.GetBytes("start,end,phone\n0.1,99,AA\n"),
            expect: 400
        );
        Assert.Contains("another recording", error.GetProperty("error").GetString());
        error = await Server.SendAsync(HttpMethod.Post, $"/api/lines/{line}/times?revision={Revision(state)}", Encoding.UTF8.GetBytes("hello"), expect: 400);
        Assert.Contains("neither", error.GetProperty("error").GetString());
        await Server.SendAsync(HttpMethod.Post, $"/api/lines/{line}/times?revision={Revision(state)}", Encoding.UTF8.GetBytes(text));
        Assert.Equal(Line(state).GetProperty("phones").GetRawText(), Line(await StateAsync()).GetProperty("phones").GetRawText());
        await Server.SendAsync(
            HttpMethod.Post,
            $"/api/lines/{line}/times?revision={Revision(await StateAsync())}",
            Encoding.UTF8.GetBytes("start,end,phone,word\n0.10,0.30,m,moo\n0.30,0.60,uː,moo\n")
        );
        var heard = Line(await StateAsync());
        Assert.Equal(["M", "UW"], heard.GetProperty("phones").EnumerateArray().Select(p => p[0].GetString()!));
        Assert.Equal("moo", heard.GetProperty("words")[0][0].GetString());
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });

        using var csv = await Server.Client.GetAsync($"/api/lines/{line}/times?format=csv");
        Assert.StartsWith("start,peak,end,shape,strength,phone,word,by_hand\n", await csv.Content.ReadAsStringAsync());

        var motion = (await Server.PostAsync("/api/motions", new { line, name = "Hot" })).GetProperty("id").GetString();
        state = await StateAsync();
        await Server.PostAsync($"/api/lines/{Id(Line(state, 1))}/lay", new { revision = Revision(state), motion });
        state = await StateAsync();
        IEnumerable<string?> Shapes(JsonElement l) => l.GetProperty("cues").EnumerateArray().Select(c => c[4].GetString()).Where(s => s != "Rest");
        Assert.Equal(Shapes(Line(state)), Shapes(Line(state, 1)));
        Assert.Contains("bubb-", Cues(Line(state, 1)));
    }

    [Fact]
    public async Task Marks_boundaries_and_pronunciations_of_a_recording_are_kept_and_heard()
    {
        var wav = await File.ReadAllBytesAsync("/usr/share/pocketsphinx/test/data/librivox/sense_and_sensibility_01_austen_64kb-0930.wav");
        var hash = (await Server.SendAsync(HttpMethod.Post, "/api/uploads?name=reading.wav", wav)).GetProperty("hash").GetString();
        var job = (
            await Server.PostAsync(
                $"/api/scenes/{Scene}/lines",
                new
                {
                    member = Member,
                    kind = "file",
                    hash,
                    name = "reading.wav",
                    text = "he might even have been made amiable himself",
                }
            )
        ).GetProperty("job").GetString()!;
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        var state = await StateAsync();
        var before = Line(state).GetProperty("words").EnumerateArray().ToArray();
        var made = WordIndex(Line(state), "made");

        // A boundary: at once, and still so after the neighbourhood has been aligned again.
        var time = before[made][1].GetDouble() + 0.03;
        await Server.PostAsync(
            $"/api/lines/{Id(Line(state))}/pins",
            new
            {
                revision = Revision(state),
                word = made,
                phone = 0,
                time,
            }
        );
        Assert.Equal(time, Line(await StateAsync()).GetProperty("words")[made][1].GetDouble(), 0.001);
        await SettleAsync();
        var after = Line(await StateAsync()).GetProperty("words").EnumerateArray().ToArray();
        Assert.Equal(time, after[made][1].GetDouble(), 0.001);
        Assert.Equal(before[0].GetRawText(), after[0].GetRawText());

        // A corrected word: only it and its neighbours are heard again.
        state = await StateAsync();
        await Server.PostAsync(
            $"/api/lines/{Id(Line(state))}/pins/lift",
            new
            {
                revision = Revision(state),
                ids = Array.Empty<string>(),
                on = false,
            }
        );
        await Server.SendAsync(
            HttpMethod.Patch,
            "/api/lines/" + Id(Line(state)),
            new { revision = Revision(await StateAsync()), text = "he might even have been made amicable himself" }
        );
        await SettleAsync();
        after = [.. Line(await StateAsync()).GetProperty("words").EnumerateArray()];
        Assert.Equal("amicable", after[^2][0].GetString());
        for (var i = 0; i < 4; i++)
            Assert.Equal(before[i].GetRawText(), after[i].GetRawText());

        // A pronunciation, and what it is refused for.
        state = await StateAsync();
        await Server.SendAsync(
            HttpMethod.Put,
            $"/api/productions/{Production}/respellings",
            new
            {
                revision = Revision(state),
                word = "amicable",
                written = "EY M IY AH B AH L",
            }
        );
        await SettleAsync();
        var phones = string.Join(' ', Line(await StateAsync()).GetProperty("phones").EnumerateArray().Select(p => p[0].GetString()));
        Assert.Contains("EY M IY AH B AH L", phones);
        var refused = await Server.SendAsync(
            HttpMethod.Put,
            $"/api/productions/{Production}/respellings",
            new
            {
                revision = Revision(await StateAsync()),
                word = "amicable",
                written = "?!",
            },
            expect: 400
        );
        Assert.Contains("neither ARPAbet, nor IPA", refused.GetProperty("error").GetString());
        var said = await Server.PostAsync(
            "/api/hear",
            new
            {
                voice = "espeak:en-us",
                word = "oven",
                written = "OW V AH N",
            }
        );
        Assert.Equal("OW V AH N", said.GetProperty("phones").GetString());
        Assert.StartsWith("RIFF", Encoding.ASCII.GetString(Convert.FromBase64String(said.GetProperty("sound").GetString()!)[..4]));

        // Not voice: silent at once, and after listening.
        state = await StateAsync();
        await Server.PostAsync(
            $"/api/takes/{Take(Line(state))}/marks",
            new
            {
                revision = Revision(state),
                start = 0.0,
                end = before[1][2].GetDouble(),
                isVoice = false,
            }
        );
        Assert.DoesNotContain(Line(await StateAsync()).GetProperty("phones").EnumerateArray(), p => p[1].GetDouble() < before[1][1].GetDouble());
        await SettleAsync();
        state = await StateAsync();
        Assert.DoesNotContain(Line(state).GetProperty("phones").EnumerateArray(), p => p[2].GetDouble() < before[1][2].GetDouble() - 0.05);
        Assert.Single(Line(state).GetProperty("marks").EnumerateArray());
    }

    [Fact]
    public async Task Parts_that_are_off_over_a_line_stay_off_in_both_its_halves_and_come_back()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "The bread is cold, and the clock is late.");
        var id = Id(Line(state, 1));
        Task Act(object acting) => Server.SendAsync(HttpMethod.Patch, $"/api/lines/{id}", new { acting });
        async Task<double> ShareAsync(int line, string part) => Line(await StateAsync(), line).GetProperty("acting").GetProperty(part).GetDouble();
        await Act(new { head = 0 });
        await Act(new { mouth = 0.4, body = 7 });
        Assert.Equal((1, 0), (await ShareAsync(0, "head"), await ShareAsync(1, "head")));
        Assert.Equal((0.4, 1.5), (Math.Round(await ShareAsync(1, "mouth"), 4), await ShareAsync(1, "body")));
        await Server.PostAsync($"/api/lines/{id}/split", new { at = Line(state, 1).GetProperty("start").GetDouble() + 1.2 });
        Assert.Equal((0, 0), (await ShareAsync(1, "head"), await ShareAsync(2, "head")));
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal((0, 1), (await ShareAsync(1, "head"), await ShareAsync(1, "mouth")));
        await Server.SendAsync(HttpMethod.Patch, $"/api/lines/{id}", new { acting = new { head = "none" } }, 400);
    }
}
