using System.Text.Json;
using Zamblo.Core.Audio;

namespace Zamblo.Web.Tests;

/// <summary>A recording in which somebody begins before the other has ended.</summary>
public sealed class OverlapWebTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static readonly (string Voice, string Text, double Gap)[] Said =
    [
        ("slt", "Fresh rolls at six, and not a minute later.", 0.5),
        ("rms", "You fed me at noon, and that was a hundred years ago.", 0.3),
        ("slt", "Every measure of rye gives the dough a darker voice.", 0.3),
        ("rms", "That scale has been lying to us since the spring.", -1.2),
    ];

    [Theory]
    [InlineData(2)]
    [InlineData(1)]
    public async Task Where_two_speak_at_once_both_have_a_line_and_both_mouths_move(int channels)
    {
        var (left, right) = (new float[16000 * 20], new float[16000 * 20]);
        var at = 0.0;
        var times = new List<(double Start, double End)>();
        foreach (var (voice, text, gap) in Said)
        {
            var path = Path.Combine(Data, $"{Guid.NewGuid():N}.wav");
            using var flite = System.Diagnostics.Process.Start("flite", ["-voice", voice, "-t", text, "-o", path]);
            await flite.WaitForExitAsync();
            AudioBuffer spoken;
            await using (var file = File.OpenRead(path))
                spoken = WavFile.ReadMono(file);
            File.Delete(path);
            at += gap;
            times.Add((at, at + spoken.Duration));
            for (var i = 0; i < spoken.Samples.Length; i++)
            {
                // A little of each is heard on the other side.
                left[i + (int)(16000 * at)] += spoken.Samples[i] * (voice == "slt" ? 1 : 0.1f);
                right[i + (int)(16000 * at)] += spoken.Samples[i] * (voice == "rms" ? 1 : 0.1f);
            }
            at += spoken.Duration;
        }
        var length = (int)(16000 * (at + 0.5));
        using var wav = new MemoryStream();
        float[] mix = [.. left.Zip(right, (l, r) => (l + r) / 2)];
        WavFile.Write(wav, channels == 2 ? [left[..length], right[..length]] : [mix[..length]], 16000);
        var hash = Text(await Server.PostAsync("/api/uploads?name=talk.wav", wav.ToArray()), "hash");
        var job = Text(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/turns",
                new
                {
                    hash,
                    name = "talk.wav",
                    speakers = 2,
                }
            ),
            "job"
        );
        Assert.Equal("done", Text(await Server.WaitAsync(Production, job), "state"));
        var state = await HeardAsync();
        JsonElement[] lines = [.. state.GetProperty("lines").EnumerateArray()];
        Assert.Equal(4, lines.Length);
        double StartOf(int i) => Number(lines[i], "start");
        var shift = times[0].Start - StartOf(0);
        for (var i = 0; i < 4; i++)
            Assert.Equal(times[i].Start, StartOf(i) + shift, 0.35);
        // The last two overlap, each has a sound of its own, and the others are parts of the recording.
        Assert.InRange(StartOf(2) + Number(lines[2], "duration") - StartOf(3), 1, 2);
        string HashOf(int i) => Text(lines[i].GetProperty("take"), "hash");
        Assert.Equal([hash, hash], new[] { HashOf(0), HashOf(1) });
        Assert.Equal(3, new[] { hash, HashOf(2), HashOf(3) }.Distinct().Count());
        bool Speaks(int i, double t) =>
            lines[i]
                .GetProperty("phones")
                .EnumerateArray()
                .Any(p => p[0].GetString() != "SIL" && t - StartOf(i) >= p[1].GetDouble() && t - StartOf(i) < p[2].GetDouble());
        int both = 0,
            all = 0;
        for (var t = times[3].Start + 0.15 - shift; t < times[2].End - 0.25 - shift; t += 0.01, all++)
            both += Speaks(2, t) && Speaks(3, t) ? 1 : 0;
        Assert.True(both > (channels == 2 ? 0.75 : 0.6) * all, $"{both} of {all}");
        // What is cut out of it can be cut on, and taken back.
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(state) });
        Assert.Equal(0, (await StateAsync()).GetProperty("lines").GetArrayLength());
    }
}
