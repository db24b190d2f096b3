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

    // Chords of decaying harmonics all the time, 3 dB over the voice.
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
        var gain = 1.4f * (float)Math.Sqrt(voice.Average(x => (double)x * x) / band.Average(x => (double)x * x));
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
            var db = scope.ServiceProvider.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContext();
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

    [Fact]
    public async Task What_comes_back_in_a_song_is_written_where_it_is_sung()
    {
        string[] rows = ["Every measure of rye gives the dough a darker voice.", "Nobody can hear the timer."];
        var (first, second) = ((await SayAsync(rows[0])).Samples, (await SayAsync(rows[1])).Samples);
        var hash = await KeepAsync(Over([.. first, .. second, .. first]), "song.wav");
        var asked = await Server.PostAsync(
            $"/api/scenes/{Scene}/lines",
            new
            {
                member = Member,
                text = string.Join('\n', rows),
                hash,
                name = "song.wav",
                kind = "file",
            }
        );
        await Server.WaitAsync(Production, Text(asked, "job"));
        var line = Line(await HeardAsync());
        var at = Assert.Single(line.GetProperty("repeats").EnumerateArray()).GetDouble();
        Assert.InRange(at, (first.Length + second.Length) / 16000.0 - 0.3, (first.Length + second.Length) / 16000.0 + 0.5);
        await Server.PostAsync($"/api/lines/{Id(line)}/repeats", new { revision = Revision(await StateAsync()) });
        line = Line(await HeardAsync());
        Assert.Equal($"{rows[0]}\n{rows[1]}\n{rows[0]}", Text(line, "text"));
        Assert.Equal(JsonValueKind.Null, line.GetProperty("repeats").ValueKind);
        Assert.Equal(2, line.GetProperty("words").EnumerateArray().Count(w => w[0].GetString() == "measure"));
        await Server.SendAsync(HttpMethod.Post, $"/api/lines/{Id(line)}/repeats", new { revision = Revision(await StateAsync()) }, 400);
        // What lyric sheets write once is written out.
        await Server.PatchAsync($"/api/lines/{Id(line)}", new { text = $"[Refrain]\n{rows[0]}\n\n{rows[1]}\n\n[Refrain]" });
        Assert.Equal($"[Refrain]\n{rows[0]}\n\n{rows[1]}\n\n[Refrain]\n{rows[0]}", Text(Line(await StateAsync()), "text"));
    }

    [Fact]
    public async Task An_edge_that_is_dragged_over_a_song_still_tells_the_voice_from_its_band()
    {
        // A sentence, a pause, a sentence: only the band is heard between.
        var (one, two) = ((await SayAsync("Every measure of rye gives a darker voice.")).Samples, (await SayAsync("Nobody can hear the timer.")).Samples);
        var hash = await KeepAsync(Over([.. one, .. new float[24000], .. two]), "song.wav");
        var whole = (one.Length + 24000 + two.Length) / 16000.0;
        var between = one.Length / 16000.0 + 0.2;
        object[] parts =
        [
            new
            {
                start = 0.0,
                end = between,
                member = Member,
                text = "Every measure of rye gives a darker voice.",
            },
            new
            {
                start = between,
                end = whole,
                member = Member,
                text = "Nobody can hear the timer.",
            },
        ];
        await Server.PostAsync(
            $"/api/scenes/{Scene}/parts",
            new
            {
                revision = Revision(await StateAsync()),
                hash,
                name = "song.wav",
                parts,
            }
        );
        var state = await HeardAsync();
        var (first, second) = (Line(state), Line(state, 1));
        // Words of the second come over to the first: what lies between them is the first one's, too.
        var word = second.GetProperty("words").EnumerateArray().First(w => w[0].GetString() == "hear");
        await Server.PatchAsync(
            $"/api/lines/{Id(first)}/edge",
            new
            {
                revision = Revision(state),
                edge = "end",
                at = Number(first, "start") + between + word[1].GetDouble() - 0.03,
            }
        );
        var after = Line(await HeardAsync());
        Assert.True(first.GetProperty("hasBand").GetBoolean());
        Assert.True(after.GetProperty("hasBand").GetBoolean());
        Assert.Contains(after.GetProperty("words").EnumerateArray(), w => w[0].GetString() == "Nobody");
        // In the pause, of which one value is 20 ms, the level is far under that of the voice: the band's is not.
        byte[] levels = Convert.FromBase64String(Text(after, "levels"));
        var pause = one.Length / 320 + 20;
        var (quiet, sung) = (levels[pause..(pause + 30)].Average(l => l), levels[20..(one.Length / 320 - 20)].Average(l => l));
        Assert.True(quiet < sung - 20, $"{quiet:0} in the pause, {sung:0} sung");
    }
}
