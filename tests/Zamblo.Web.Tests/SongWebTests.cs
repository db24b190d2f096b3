using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Audio;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>A voice with a band under it: told on the page, with lyrics that have times, and with the voice alone beside it.</summary>
public sealed class SongWebTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<AudioBuffer> SayAsync(string text)
    {
        var path = Path.Combine(Data, $"{Guid.NewGuid():N}.wav");
        using var flite = System.Diagnostics.Process.Start("flite", ["-voice", "slt", "-t", text, "-o", path]);
        await flite.WaitForExitAsync();
        await using var file = File.OpenRead(path);
        return WavFile.ReadMono(file);
    }

    // Chords of decaying harmonics all the time, as loud as the voice.
    private static float[] Over(float[] voice)
    {
        var band = new float[voice.Length];
        int[][] chords =
        [
            [55, 59, 62],
            [52, 55, 59],
            [48, 52, 55],
            [50, 54, 57],
        ];
        for (var b = 0; b * 8000 < band.Length; b++)
            foreach (var key in (int[])[.. chords[b / 4 % 4], chords[b / 4 % 4][0] - 12])
                for (var i = 0; i < 16000 && b * 8000 + i < band.Length; i++)
                for (var h = 1; h <= 6; h++)
                    band[b * 8000 + i] += MathF.Sin(2 * MathF.PI * 440 * MathF.Pow(2, (key - 69) / 12f) * h * i / 16000) * MathF.Exp(-i / 5000f) / (h * h);
        var gain = (float)Math.Sqrt(voice.Average(x => (double)x * x) / band.Average(x => (double)x * x));
        return [.. voice.Zip(band, (v, m) => v + gain * m)];
    }

    private async Task<string> KeepAsync(float[] samples, string name)
    {
        using var wav = new MemoryStream();
        WavFile.Write(wav, [samples], 16000);
        return Text(await Server.PostAsync("/api/uploads?name=" + name, wav.ToArray()), "hash");
    }

    [Fact]
    public async Task A_song_says_that_it_is_one_and_takes_lyrics_with_times_and_a_clean_vocal()
    {
        var voice = (await SayAsync("Every measure of rye gives the dough a darker voice, and nobody can hear the timer.")).Samples;
        var hash = await KeepAsync(Over(voice), "song.wav");
        var asked = await Server.PostAsync(
            $"/api/scenes/{Scene}/lines",
            new
            {
                member = Member,
                text = "[00:00.00] Every measure of rye gives the dough a darker voice,\n[00:03.00] and nobody can hear the timer.",
                hash,
                name = "song.wav",
                kind = "file",
            }
        );
        await Server.WaitAsync(Production, Text(asked, "job"));
        var line = Line(await HeardAsync());
        Assert.True(line.GetProperty("hasBand").GetBoolean());
        // Times are no words: neither spoken nor shown among them.
        var words = line.GetProperty("words").EnumerateArray().Select(w => w[0].GetString()!).ToArray();
        Assert.Contains("measure", words);
        Assert.DoesNotContain(words, w => w.Any(char.IsDigit));
        using (var scope = Services.CreateScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<ZambloContext>();
            var id = Guid.Parse(Id(line));
            Assert.Contains("\"times\"", (await db.Hearings.Where(h => h.LineId == id).OrderBy(h => h.Asked).LastAsync()).Query);
        }
        // The voice alone drives the mouth from now on: no band plays in it.
        var vocal = await KeepAsync(voice, "vocal.wav");
        var take = Id(line.GetProperty("take"));
        await Server.PostAsync(
            $"/api/takes/{take}/guide",
            new
            {
                revision = Revision(await StateAsync()),
                hash = vocal,
                name = "vocal.wav",
            }
        );
        await IdleAsync();
        line = Line(await HeardAsync());
        Assert.False(line.GetProperty("hasBand").GetBoolean());
        Assert.Equal("vocal.wav", Text(line.GetProperty("take"), "guide"));
        Assert.Equal(16, line.GetProperty("words").GetArrayLength());
    }
}
