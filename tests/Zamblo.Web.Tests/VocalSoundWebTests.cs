using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Media;

namespace Zamblo.Web.Tests;

/// <summary>Laughter and the like in the studio: found, named by hand, made nothing of, told in captions.</summary>
public sealed class VocalSoundWebTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<float[]> SaidAsync(string program, params string[] arguments)
    {
        var path = Path.Combine(Data, $"{Guid.NewGuid():N}.wav");
        using var said = System.Diagnostics.Process.Start(program, [.. arguments, path]);
        await said.WaitForExitAsync();
        return (await AudioFiles.DecodeAsync(path, "said.wav", 16000)).Samples;
    }

    // "The oven is hot.", a hum of a second, "The bread is late." - with their times.
    private async Task<(string Line, string Take)> LineAsync(string text)
    {
        float[] first = await SaidAsync("flite", "-voice", "rms", "-t", "The oven is hot.", "-o"),
            hum = await SaidAsync("espeak-ng", "-v", "en-us+m2", "-s", "100", "[[m:m:m:m:m:m:]]", "-w"),
            second = await SaidAsync("flite", "-voice", "rms", "-t", "The bread is late.", "-o");
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. first, .. new float[6400], .. hum, .. new float[6400], .. second],
            ],
            16000
        );
        var hash = Text(await Server.PostAsync("/api/uploads?name=hum.wav", wav.ToArray()), "hash");
        var asked = await Server.PostAsync(
            $"/api/scenes/{Scene}/lines",
            new
            {
                member = Member,
                text,
                hash,
                name = "hum.wav",
                kind = "file",
            }
        );
        await Server.WaitAsync(Production, Text(asked, "job"));
        var line = Line(await HeardAsync());
        return (Id(line), Id(line.GetProperty("take")));
    }

    private static JsonElement[] Sounds(JsonElement line) =>
        line.GetProperty("sounds").ValueKind == JsonValueKind.Null ? [] : [.. line.GetProperty("sounds").EnumerateArray()];

    [Fact]
    public async Task A_hum_between_two_sentences_is_found_named_otherwise_and_made_nothing_of()
    {
        var (_, take) = await LineAsync("The oven is hot. The bread is late.");
        var state = await StateAsync();
        var line = Line(state);
        var hum = Assert.Single(Sounds(line));
        Assert.Equal(("hums", "Hum"), (hum[0].GetString(), hum[4].GetString()));
        var words = line.GetProperty("words").EnumerateArray().ToArray();
        Assert.Equal(8, words.Length);
        double start = hum[1].GetDouble(),
            end = hum[2].GetDouble();
        Assert.True(words[3][2].GetDouble() < start + 0.1 && words[4][1].GetDouble() > end - 0.1);
        // The mouth is shut for it: a cue of its own, where there was none.
        bool HasCue(JsonElement of, string shape) =>
            of.GetProperty("cues").EnumerateArray().Any(c => c[4].GetString() == shape && c[1].GetDouble() < end - 0.1 && c[2].GetDouble() > start + 0.1);
        Assert.True(HasCue(line, "Closed"));

        async Task<JsonElement> MarkAsync(object mark, int expect = 200)
        {
            await Server.PostAsync($"/api/takes/{take}/marks", mark, expect);
            return Line(await StateAsync());
        }
        var revision = Revision(state);
        line = await MarkAsync(
            new
            {
                revision,
                start,
                end,
                isVoice = false,
                sound = "Laugh",
            }
        );
        Assert.Equal("laughs", Assert.Single(Sounds(line))[0].GetString());
        Assert.Equal("laughs", Text(Assert.Single(line.GetProperty("marks").EnumerateArray()), "sound"));
        Assert.True(HasCue(line, "Open") || HasCue(line, "Mid"));
        await IdleAsync();
        Assert.Equal("Laugh", Assert.Single(Sounds(Line(await StateAsync())))[4].GetString());
        await Server.SendAsync(HttpMethod.Patch, $"/api/productions/{Production}", new { lettering = new { hasSounds = true } });
        Assert.Contains("[laughs]", await Server.Client.GetStringAsync($"/api/scenes/{Scene}/captions?format=srt"), StringComparison.Ordinal);

        // Nothing is made of it: no sound, a mouth that rests.
        revision = Revision(await StateAsync());
        line = await MarkAsync(
            new
            {
                revision,
                start,
                end,
                isVoice = false,
            }
        );
        Assert.Empty(Sounds(line));
        Assert.False(HasCue(line, "Open") || HasCue(line, "Mid") || HasCue(line, "Closed"));
        // Undone it laughs again, and once more it hums.
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal("laughs", Assert.Single(Sounds(Line(await StateAsync())))[0].GetString());
        await MarkAsync(
            new
            {
                revision = Revision(await StateAsync()),
                start,
                end,
                isVoice = false,
                sound = "Yodel",
            },
            400
        );
    }

    [Fact]
    public async Task Without_words_no_word_is_laid_on_a_hum()
    {
        await LineAsync("");
        var line = Line(await StateAsync());
        var hum = Assert.Single(Sounds(line));
        Assert.DoesNotContain(
            line.GetProperty("words").EnumerateArray(),
            w => w[1].GetDouble() < hum[2].GetDouble() - 0.15 && w[2].GetDouble() > hum[1].GetDouble() + 0.15
        );
        Assert.NotEmpty(line.GetProperty("words").EnumerateArray());
    }
}
