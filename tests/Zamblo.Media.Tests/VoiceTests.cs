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
        var path = await FfmpegAsync("mixed.wav", "-i", Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0890.wav", "-f", "lavfi", "-i",
            "sine=f=220:d=9:r=16000,volume=0.3[a];sine=f=330:d=9:r=16000,volume=0.3[b];[a][b]amix=2", "-filter_complex", "[0]adelay=3000[v];[v][1]amix=2:normalize=0", "-ar", "16000");
        var audio = await AudioFiles.DecodeAsync(path, "mixed", 16000);
        var voiced = VoiceActivity.FromLevelsAndModel(LoudnessEnvelope.LevelsDb(audio), VoiceModel.Probabilities(audio, default));
        Assert.NotEmpty(voiced);
        Assert.InRange(voiced[0].Start, 2.8, 3.6);
        Assert.True(voiced.Sum(v => v.End - v.Start) > 3.5);
    }
}
