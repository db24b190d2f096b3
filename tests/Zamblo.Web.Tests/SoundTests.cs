using System.IO.Compression;
using System.Text.Json;
using Zamblo.Core.Audio;

namespace Zamblo.Web.Tests;

/// <summary>Music and effects in a scene, through the server.</summary>
public sealed class SoundTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private const int Rate = 48000;

    private async Task<float[]> SoundAsync(string r)
    {
        await using var stream = await Server.Client.GetStreamAsync($"/api/scenes/{Scene}/sound?r={r}");
        var copy = new MemoryStream();
        await stream.CopyToAsync(copy);
        copy.Position = 0;
        return WavFile.ReadMono(copy).Samples;
    }

    private async Task<string> UploadAsync(double seconds)
    {
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. Enumerable.Range(0, (int)(seconds * Rate)).Select(i => 0.4f * MathF.Sin(2 * MathF.PI * 1000 * i / Rate))],
            ],
            Rate
        );
        return (await Server.PostAsync("/api/uploads?name=hum.wav", wav.ToArray())).GetProperty("hash").GetString()!;
    }

    private static double Level(float[] samples, double from, double to) =>
        20 * Math.Log10(Math.Sqrt(samples[(int)(from * Rate)..(int)(to * Rate)].Average(x => (double)x * x)) + 1e-9);

    [Fact]
    public async Task Music_goes_down_under_speech_by_its_dial_moves_no_mouth_and_is_undone_and_measured()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.PatchAsync("/api/scenes/" + Scene, new { revision = Revision(state), leadIn = 3 });
        state = await StateAsync();
        var (plain, cues) = (await SoundAsync("1"), Line(state).GetProperty("cues").GetRawText());
        var added = await Server.PostAsync(
            $"/api/scenes/{Scene}/sounds",
            new
            {
                revision = Revision(state),
                hash = await UploadAsync(10),
                name = "hum.wav",
                start = 0,
            }
        );
        state = await StateAsync();
        var sound = state.GetProperty("sounds")[0];
        Assert.Equal(("Music", true), (sound.GetProperty("kind").GetString(), sound.GetProperty("loops").GetBoolean()));
        Assert.Equal(cues, Line(state).GetProperty("cues").GetRawText());
        // A sine of 0.4 has -11 dB; 12 dB less before the voice, 9 dB less again under it.
        var mixed = await SoundAsync("2");
        Assert.Equal(plain.Length, mixed.Length);
        var music = mixed.Zip(plain, (a, b) => a - b).ToArray();
        var start = Line(state).GetProperty("start").GetDouble() + Line(state).GetProperty("phones")[0][1].GetDouble();
        Assert.Equal(-23, Level(music, 1, 2.5), 0.2);
        Assert.Equal(-32, Level(music, start + 0.1, start + 0.4), 0.2);

        await Server.PatchAsync(
            "/api/sounds/" + Id(added),
            new
            {
                revision = Revision(state),
                duck = 0,
                gain = 0,
                length = 1.0,
                fadeOut = 0,
                start = 0.5,
            }
        );
        music = [.. (await SoundAsync("3")).Zip(plain, (a, b) => a - b)];
        Assert.Equal(0, music.Take((int)(0.49 * Rate)).Max(Math.Abs), 1e-4);
        Assert.Equal(0, music.Skip((int)(1.51 * Rate)).Max(Math.Abs), 1e-4);
        Assert.Equal(-11, Level(music, 1.1, 1.4), 0.2);
        // Louder by the music that was added.
        var loudness = await Server.GetAsync($"/api/scenes/{Scene}/loudness");
        Assert.InRange(loudness.GetProperty("lufs").GetDouble(), -30, -8);
        for (var i = 0; i < 2; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(0, (await StateAsync()).GetProperty("sounds").GetArrayLength());
        Assert.Equal(plain, await SoundAsync("4"));
        // It is copied with its production, and taken away with its scene.
        await Server.PostAsync($"/api/productions/{Production}/redo", new { revision = Revision(await StateAsync()) });
        await Server.PostAsync($"/api/productions/{Production}/duplicate", new { });
        var second = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { revision = Revision(await StateAsync()) }));
        await Server.DeleteAsync($"/api/scenes/{Scene}?revision={Revision(await Server.GetAsync("/api/scenes/" + second))}");
    }

    [Fact]
    public async Task What_is_no_sound_is_refused_and_an_effect_is_heard_once()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, and the flour is on the scale.");
        Assert.Contains(
            "uploaded",
            await Server.ErrorAsync(
                $"/api/scenes/{Scene}/sounds",
                new
                {
                    revision = Revision(state),
                    hash = new string('0', 64),
                    name = "x",
                }
            )
        );
        await Server.PostAsync(
            $"/api/scenes/{Scene}/sounds",
            new
            {
                revision = Revision(state),
                hash = await UploadAsync(0.3),
                name = "ding.wav",
                start = 0.1,
            }
        );
        var sound = (await StateAsync()).GetProperty("sounds")[0];
        Assert.Equal(("Effect", false), (sound.GetProperty("kind").GetString(), sound.GetProperty("loops").GetBoolean()));
    }

    [Fact]
    public async Task Stems_are_each_voice_and_the_music_by_themselves_and_add_up_to_what_is_heard()
    {
        var second = Id(await Server.PostAsync($"/api/productions/{Production}/members", new { roleName = "Tock", character = "tock" }));
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.SpeakAsync(Production, Scene, second, "Nine minutes.");
        var music = await Server.PostAsync(
            $"/api/scenes/{Scene}/sounds",
            new
            {
                hash = await UploadAsync(2),
                name = "hum.wav",
                kind = "Music",
                start = 0.5,
            }
        );
        // So soft that no peak has to be held.
        await Server.SendAsync(HttpMethod.Patch, $"/api/sounds/{Id(music)}", new { gain = -30 });
        var job = (await Server.PostAsync($"/api/scenes/{Scene}/renders", new { form = "stems" })).GetProperty("job").GetString()!;
        Assert.Equal("done", (await Server.WaitAsync(Production, job)).GetProperty("state").GetString());
        using var zip = new ZipArchive(new MemoryStream(await Server.Client.GetByteArrayAsync($"/api/jobs/{job}/film?download=true")));
        Assert.Equal(3, zip.Entries.Count);
        Assert.Equal(["02 Tock.wav", "03 Music.wav"], zip.Entries.Skip(1).Select(e => e.FullName));
        float[][] stems =
        [
            .. zip.Entries.Select(e =>
            {
                using var copy = new MemoryStream();
                using (var from = e.Open())
                    from.CopyTo(copy);
                copy.Position = 0;
                return WavFile.ReadMono(copy).Samples;
            }),
        ];
        var whole = await SoundAsync("stems");
        Assert.All(stems, s => Assert.Equal(stems[0].Length, s.Length));
        Assert.InRange(whole.Length, stems[0].Length - Rate, stems[0].Length + Rate);
        // Each is rounded to 16 bits once, as is the whole, and read on a scale that is a little smaller.
        for (var i = 0; i < Math.Min(whole.Length, stems[0].Length); i++)
            Assert.InRange(stems.Sum(s => s[i]) - whole[i], -4f / 32768, 4f / 32768);
        // Nobody is heard in another's.
        var lines = (await StateAsync()).GetProperty("lines");
        double At(int line) => lines[line].GetProperty("start").GetDouble();
        Assert.True(Level(stems[0], At(0), At(0) + 0.8) > -45 && Level(stems[0], At(1) + 0.3, At(1) + 0.8) < -80);
        Assert.True(Level(stems[1], At(1), At(1) + 0.8) > -45 && Level(stems[1], At(0), At(0) + 0.8) < -80);
    }
}
