using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Media;

namespace Zamblo.Web.Tests;

/// <summary>A whole scene read anew in one recording.</summary>
public class ReadingTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static readonly string[] Lines = ["The oven is finally hot.", "I heard steps on the roof.", "Then bolt the door, and be quick about it."];

    // Somebody else reads them, in a rhythm of their own.
    private async Task<string> RecordAsync(params (string Text, double At)[] said)
    {
        var parts = new List<Mixer.Placed>();
        foreach (var (text, at) in said)
            parts.Add(new((await Synthesis.SpeakAsync("flite:rms", text, new Delivery())).Audio, at));
        var rate = parts[0].Audio.SampleRate;
        using var wav = new MemoryStream();
        WavFile.Write(wav, [Mixer.Mix(parts, parts.Max(p => p.Start + p.Audio.Duration) + 1, rate).Samples], rate);
        return (await Server.PostAsync("/api/uploads?name=reading.wav", wav.ToArray())).GetProperty("hash").GetString()!;
    }

    private async Task<JsonElement> ReadAsync(string hash)
    {
        var job = (await Server.PostAsync($"/api/scenes/{Scene}/reading", new { hash, name = "reading.wav" })).GetProperty("job").GetString()!;
        return await Server.WaitAsync(Production, job);
    }

    private static string Heard(JsonElement line) =>
        string.Join(' ', line.GetProperty("words").EnumerateArray().Select(w => w[0].GetString()!.ToLowerInvariant()));

    [Fact]
    public async Task Each_line_gets_its_take_with_the_rhythm_of_the_reading()
    {
        await Server.PostAsync($"/api/scenes/{Scene}/reading", new { hash = new string('0', 64), name = "x.wav" }, 400);
        foreach (var text in Lines)
            await Server.SpeakAsync(Production, Scene, Member, text);
        var before = await StateAsync();
        var done = await ReadAsync(await RecordAsync((Lines[0], 0.7), (Lines[1], 4.5), (Lines[2], 7.2)));
        Assert.Equal("done", done.GetProperty("state").GetString());
        Assert.Equal("All 3 lines have a new take.", done.GetProperty("news").GetString());
        await HeardAsync();
        var state = await StateAsync();
        Assert.Equal(before.GetProperty("lines").EnumerateArray().Select(Id), state.GetProperty("lines").EnumerateArray().Select(Id));
        for (var i = 0; i < Lines.Length; i++)
        {
            Assert.Equal(Lines[i], Line(state, i).GetProperty("text").GetString());
            Assert.Equal("file", Line(state, i).GetProperty("take").GetProperty("kind").GetString());
            Assert.Equal(2, Line(state, i).GetProperty("takes").GetArrayLength());
            Assert.Equal(Plain(Lines[i]), Heard(Line(state, i)));
        }
        // From word to word it is as far as it was read.
        double First(int i) => Line(state, i).GetProperty("start").GetDouble() + Line(state, i).GetProperty("words")[0][1].GetDouble();
        Assert.InRange(First(1) - First(0), 3.6, 4.0);
        Assert.InRange(First(2) - First(1), 2.5, 2.9);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal("synthesis", Line(await StateAsync()).GetProperty("take").GetProperty("kind").GetString());
        static string Plain(string text) => string.Join(' ', text.ToLowerInvariant().Split(' ').Select(w => w.Trim('.', ',')));
    }

    [Fact]
    public async Task What_was_left_out_keeps_its_take_and_is_named()
    {
        foreach (var text in Lines)
            await Server.SpeakAsync(Production, Scene, Member, text);
        var done = await ReadAsync(await RecordAsync((Lines[0], 0.5), (Lines[2], 4)));
        Assert.StartsWith(
            "2 of 3 lines have a new take; not in the recording: Maro, \"I heard steps on",
            done.GetProperty("news").GetString(),
            StringComparison.Ordinal
        );
        var state = await StateAsync();
        Assert.Equal(
            ["file", "synthesis", "file"],
            state.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("take").GetProperty("kind").GetString())
        );
    }
}
