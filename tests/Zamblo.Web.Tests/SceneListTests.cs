using System.Text.Json;
using Zamblo.Media;

namespace Zamblo.Web.Tests;

/// <summary>Several scenes in one production, and the rhythm within one, through the server.</summary>
public sealed class SceneListTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private const string Play = """
        INT. BAKERY - NIGHT

        MARO
        The oven is hot.

        BUBB
        I am hungry.

        INT. PROVING ROOM - LATER

        TOCK
        Ten minutes.

        MARO
        I heard you.
        """;

    private async Task<JsonElement> BringAsync()
    {
        await Server.PostAsync($"/api/scenes/{Scene}/script", new { revision = Revision(await StateAsync()), text = Play });
        await IdleAsync();
        return await StateAsync();
    }

    private static double[] Starts(JsonElement state) => [.. state.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("start").GetDouble())];

    private static string[] Titles(JsonElement state) => [.. state.GetProperty("scenes").EnumerateArray().Select(s => s.GetProperty("title").GetString()!)];

    [Fact]
    public async Task Scene_headings_of_a_script_become_scenes_and_the_film_has_all_of_them()
    {
        var state = await BringAsync();
        Assert.Equal(["INT. BAKERY - NIGHT", "INT. PROVING ROOM - LATER"], Titles(state));
        Assert.Equal(["The oven is hot.", "I am hungry."], state.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("text").GetString()));
        var second = state.GetProperty("scenes")[1].GetProperty("id").GetString()!;
        var later = await Server.GetAsync("/api/scenes/" + second);
        Assert.Equal(["Ten minutes.", "I heard you."], later.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("text").GetString()));
        await Server.PatchAsync($"/api/productions/{Production}", new { revision = Revision(state), size = "160x90" });
        var job = (await Server.PostAsync($"/api/productions/{Production}/renders", new { })).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        var film = Path.Combine(Data, "film.mp4");
        await File.WriteAllBytesAsync(film, await Server.Client.GetByteArrayAsync($"/api/jobs/{job}/film"));
        var card = (await Server.GetAsync($"/api/productions/{Production}/jobs")).EnumerateArray().First(j => j.GetProperty("id").GetString() == job);
        Assert.Equal(
            (Revision(await StateAsync()), new FileInfo(film).Length),
            (card.GetProperty("shows").GetProperty("revision").GetInt64(), card.GetProperty("shows").GetProperty("bytes").GetInt64())
        );
        var probe = await OutsideProgram.RunAsync(
            "ffprobe",
            ["-v", "error", "-count_frames", "-select_streams", "V", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", film]
        );
        var frames = int.Parse(System.Text.Encoding.ASCII.GetString(probe.Output).Trim().TrimEnd(','));
        Assert.Equal(state.GetProperty("frames").GetInt32() + later.GetProperty("frames").GetInt32(), frames);
        // A film that is deleted is gone from the disk, too; one that is made cannot be.
        await Server.DeleteAsync($"/api/jobs/{job}");
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await Server.Client.GetAsync($"/api/jobs/{job}/film")).StatusCode);
        // Taken out, the film is the first scene alone; undo brings it back with its lines.
        await Server.DeleteAsync($"/api/scenes/{second}?revision={Revision(await StateAsync())}");
        Assert.Single(Titles(await StateAsync()));
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(2, (await Server.GetAsync("/api/scenes/" + second)).GetProperty("lines").GetArrayLength());
    }

    [Fact]
    public async Task A_scene_is_cut_at_the_playhead_with_what_hangs_on_its_lines_and_undone_in_one_step()
    {
        var state = await BringAsync();
        var starts = Starts(state);
        var bubb = Line(state, 1);
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = bubb.GetProperty("member").GetString(),
                kind = "Mood",
                name = "Anger",
                line = Id(bubb),
                strength = 1,
                start = starts[1] + 0.1,
                end = starts[1] + 0.5,
            }
        );
        state = await StateAsync();
        Assert.Equal(1, state.GetProperty("clips").GetArrayLength());
        var cut = await Server.PostAsync($"/api/scenes/{Scene}/cut", new { revision = Revision(state), at = starts[1] });
        var second = await Server.GetAsync("/api/scenes/" + Id(cut));
        Assert.Equal((1, 1), ((await StateAsync()).GetProperty("lines").GetArrayLength(), second.GetProperty("lines").GetArrayLength()));
        Assert.Equal((0, 1), ((await StateAsync()).GetProperty("clips").GetArrayLength(), second.GetProperty("clips").GetArrayLength()));
        Assert.Equal(0.5, Starts(second)[0], 0.01);
        Assert.Equal(3, Titles(second).Length);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(starts, Starts(await StateAsync()));
        Assert.Equal(2, Titles(await StateAsync()).Length);
        // At either end there is nothing to cut.
        Assert.Contains("between two lines", await Server.ErrorAsync($"/api/scenes/{Scene}/cut", new { revision = Revision(await StateAsync()), at = 0 }));
    }

    [Fact]
    public async Task What_was_heard_travels_once_and_the_picture_that_is_looked_at_comes_along()
    {
        var whole = await BringAsync();
        JsonElement[] Lines(JsonElement state) => [.. state.GetProperty("lines").EnumerateArray()];
        long[] heard = [.. Lines(whole).Select(l => l.GetProperty("heard").GetInt64())];
        // One of two is known to the page.
        var state = await Server.PostAsync($"/api/scenes/{Scene}/state", new { heard = heard[..1], frame = 7 });
        Assert.False(Lines(state)[0].TryGetProperty("words", out _));
        Assert.Equal(Lines(whole)[1].GetRawText(), Lines(state)[1].GetRawText());
        Assert.Equal(Lines(whole)[0].GetProperty("key").GetString(), Lines(state)[0].GetProperty("key").GetString());
        Assert.Equal((await Server.GetAsync($"/api/scenes/{Scene}/frames?from=7&count=1")).GetRawText(), state.GetProperty("picture").GetRawText());
        Assert.Equal(
            whole.GetProperty("frames").GetInt32() - 1,
            (await Server.PostAsync($"/api/scenes/{Scene}/state", new { heard, frame = 1_000_000 })).GetProperty("picture").GetProperty("from").GetInt32()
        );
        // Another text is another hearing: it is told.
        await Server.PatchAsync(
            $"/api/lines/{Lines(whole)[0].GetProperty("id").GetString()}",
            new { revision = Revision(whole), text = "Quite another thing." }
        );
        for (var i = 0; i < 200; i++)
        {
            state = await Server.PostAsync($"/api/scenes/{Scene}/state", new { heard, frame = 0 });
            if (Lines(state)[0].TryGetProperty("words", out _))
                break;
            await Task.Delay(100);
        }
        Assert.Equal("another", Lines(state)[0].GetProperty("words")[1][0].GetString());
        Assert.False(Lines(state)[1].TryGetProperty("words", out _));
    }

    [Fact]
    public async Task Pauses_are_shortened_evened_out_and_a_beat_is_put_in_by_just_as_much()
    {
        var state = await BringAsync();
        var before = Starts(state);
        await Server.PostAsync(
            $"/api/scenes/{Scene}/beat",
            new
            {
                revision = Revision(state),
                at = 0.9,
                seconds = 0.5,
            }
        );
        state = await StateAsync();
        // Takes begin with a frame: half of one is as near as it gets, at 25 a second.
        const double near = 0.021;
        Assert.Equal(before[0], Starts(state)[0], 3);
        Assert.Equal(before[1] + 0.5, Starts(state)[1], near);
        // The pause was 0.2 and is now 0.7: half of it is 0.35.
        await Server.PostAsync($"/api/scenes/{Scene}/gaps", new { revision = Revision(state), factor = 0.5 });
        state = await StateAsync();
        Assert.Equal(before[1] + 0.15, Starts(state)[1], near);
        await Server.PostAsync($"/api/scenes/{Scene}/gaps", new { revision = Revision(state) });
        Assert.Equal(before, Starts(await StateAsync()));
    }
}
