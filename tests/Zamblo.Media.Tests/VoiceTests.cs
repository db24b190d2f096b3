using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

[Collection("ffmpeg")]
public class VoiceTests : InFolder
{
    [Theory]
    [InlineData("music", "sine=f=220:d=4,tremolo=f=3[a];sine=f=277:d=4,tremolo=f=2[b];sine=f=330:d=4,vibrato=f=5[c];[a][b][c]amix=3:normalize=0")]
    [InlineData("keyboard", "aevalsrc='if(lt(mod(t,0.23),0.004),0.6*random(0),0)':d=4:s=16000")]
    [InlineData("breath", "anoisesrc=d=4:c=pink:a=0.3,tremolo=f=0.5:d=0.9")]
    [InlineData("hum", "sine=f=50:d=4")]
    public async Task What_is_no_voice_never_opens_a_mouth(string name, string graph)
    {
        var path = await FfmpegAsync(name + ".wav", "-f", "lavfi", "-i", graph, "-ar", "16000");
        var audio = await AudioFiles.DecodeAsync(path, name, 16000);
        var speech = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en"));
        Assert.Equal(0, speech.Phones.Where(p => p.Phone != Arpabet.Silence).Sum(p => p.Duration));
        Assert.Empty(speech.Words);
    }

    [Fact]
    public async Task A_voice_is_found_in_noise_and_music_and_nothing_beside_it()
    {
        // A person reading (Debian's pocketsphinx-testdata) with chords under it, and three seconds of the chords alone before it.
        var path = await FfmpegAsync(
            "mixed.wav",
            "-i",
            Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0890.wav",
            "-f",
            "lavfi",
            "-i",
            "sine=f=220:d=9:r=16000,volume=0.3[a];sine=f=330:d=9:r=16000,volume=0.3[b];[a][b]amix=2",
            "-filter_complex",
            "[0]adelay=3000[v];[v][1]amix=2:normalize=0",
            "-ar",
            "16000"
        );
        var audio = await AudioFiles.DecodeAsync(path, "mixed", 16000);
        var voiced = VoiceActivity.FromLevelsAndModel(LoudnessEnvelope.LevelsDb(audio), VoiceModel.Probabilities(audio, default));
        Assert.NotEmpty(voiced);
        Assert.InRange(voiced[0].Start, 2.8, 3.6);
        Assert.True(voiced.Sum(v => v.End - v.Start) > 3.5);
    }

    [Fact]
    public async Task A_long_recording_is_heard_in_stretches_side_by_side_as_each_is_alone()
    {
        // Three minutes of readings with pauses: three stretches of 64 s, each run up from 3 s before it.
        var readings = Directory.GetFiles(Recordings + "librivox", "*.wav").Order().ToArray();
        var samples = new List<float>();
        for (var i = 0; samples.Count < 180 * 16000; i++)
        {
            samples.AddRange((await AudioFiles.DecodeAsync(readings[i % readings.Length], "reading", 16000)).Samples);
            samples.AddRange(new float[8000]);
        }
        var audio = new AudioBuffer([.. samples], 16000);
        var together = VoiceModel.Probabilities(audio, default);
        Assert.Equal((samples.Count + 511) / 512, together.Length);
        // The second stretch by itself, from well before it: after the run-up the model says nearly the same.
        const int from = 1800;
        var alone = VoiceModel.Probabilities(new AudioBuffer([.. samples[(from * 512)..(3700 * 512)]], 16000), default);
        var apart = Enumerable.Range(2000, 1700).Select(i => Math.Abs(alone[i - from] - together[i])).ToArray();
        Assert.InRange(apart.Average(), 0, 0.005);
        Assert.InRange(Enumerable.Range(2000, 1700).Count(i => alone[i - from] > 0.5 != together[i] > 0.5), 0, 8);
    }
}
