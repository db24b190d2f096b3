using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Interchange;

namespace Zamblo.Media.Tests;

/// <summary>
/// Turns, scored as NIST does (diarization error rate of md-eval: missed, false and wrong speaker time over speaker time, best mapping, collar).
/// </summary>
[Collection("ffmpeg")]
public class TurnTests : InFolder
{
    private static readonly string[] Lines =
    [
        "The oven is hot, Bubb, and the bread will not wait for anybody.",
        "You fed me at noon, and that was a hundred years ago.",
        "Patience. Your flour is on the scale.",
        "That scale has been lying to us since the spring.",
        "Three minutes, and not a second more.",
        "Could you please move the jar away from the window?",
        "Every measure of rye gives the dough a darker voice, and you know it.",
        "Just give the yeast some sugar and keep it warm overnight.",
        "Fine.",
        "The judge from the village thinks that fresh rolls should be free for everyone.",
        "My thumb is stuck in the pudding, which is thoroughly unusual.",
        "Then pull it out before the church bell rings.",
    ];

    private sealed record Talk(AudioBuffer Audio, List<SpeakerTurn> Truth);

    // Lines one after another with gaps of a few hundred milliseconds, by turns.
    private static async Task<Talk> ConversationAsync(string[] voices, int lines, int seed = 1)
    {
        var random = new Random(seed);
        var samples = new List<float>(new float[8000]);
        var truth = new List<SpeakerTurn>();
        for (var i = 0; i < lines; i++)
        {
            var who = i < voices.Length ? i : random.Next(voices.Length);
            var spoken = await Synthesis.SpeakAsync(voices[who], Lines[i % Lines.Length], new Delivery());
            var audio = await AudioFiles.ResampleAsync(spoken.Audio, 16000);
            var first = spoken.Speech.Phones.First(p => p.Phone != "SIL").Start;
            var last = spoken.Speech.Phones.Last(p => p.Phone != "SIL").End;
            truth.Add(new SpeakerTurn(samples.Count / 16000.0, samples.Count / 16000.0 + last - first, who));
            // All as loud: loudness must not tell them apart.
            var part = audio.Slice(first, last).Samples;
            var gain = 0.1 / Math.Sqrt(part.Average(x => (double)x * x));
            samples.AddRange(part.Select(x => (float)(x * gain)));
            samples.AddRange(new float[(int)(16000 * (0.15 + 0.3 * random.NextDouble()))]);
        }
        return new Talk(new AudioBuffer([.. samples], 16000), truth);
    }

    private async Task<IReadOnlyList<SpeakerTurn>> FindAsync(AudioBuffer audio, int? speakers)
    {
        var path = PathOf(Guid.NewGuid().ToString("N") + ".wav");
        await using (var file = File.Create(path))
            WavFile.Write(file, [audio.Samples], audio.SampleRate);
        return (await TurnFinder.FindAsync(path, "talk.wav", speakers)).Turns;
    }

    internal static double ErrorRate(IReadOnlyList<SpeakerTurn> truth, IReadOnlyList<SpeakerTurn> found, double collar)
    {
        var end = Math.Max(truth[^1].End, found.Count == 0 ? 0 : found.Max(t => t.End)) + 0.5;
        int count = (int)(100 * end),
            those = truth.Max(t => t.Speaker) + 1,
            ours = found.Count == 0 ? 1 : found.Max(t => t.Speaker) + 1;
        var together = new int[those, ours];
        int speech = 0,
            missed = 0,
            falseAlarm = 0,
            both = 0;
        for (var i = 0; i < count; i++)
        {
            var t = (i + 0.5) / 100;
            if (truth.Any(x => Math.Abs(x.Start - t) < collar || Math.Abs(x.End - t) < collar))
                continue;
            int a = truth.Where(x => t >= x.Start && t < x.End).Select(x => x.Speaker).DefaultIfEmpty(-1).First(),
                b = found.Where(x => t >= x.Start && t < x.End).Select(x => x.Speaker).DefaultIfEmpty(-1).First();
            if (a >= 0)
                speech++;
            if (a >= 0 && b < 0)
                missed++;
            if (a < 0 && b >= 0)
                falseAlarm++;
            if (a >= 0 && b >= 0)
            {
                both++;
                together[a, b]++;
            }
        }
        int Best(int row, int used) =>
            row == those
                ? 0
                : Math.Max(
                    Best(row + 1, used),
                    Enumerable
                        .Range(0, ours)
                        .Where(c => (used >> c & 1) == 0)
                        .Select(c => together[row, c] + Best(row + 1, used | 1 << c))
                        .DefaultIfEmpty(0)
                        .Max()
                );
        return (missed + falseAlarm + both - Best(0, 0)) / (double)speech;
    }

    [Theory]
    [InlineData("flite:slt", "flite:rms")]
    [InlineData("flite:rms", "flite:awb")]
    [InlineData("flite:slt", "espeak:en-gb+f3")]
    [InlineData("espeak:en-us+m3", "espeak:en-gb+f4")]
    [InlineData("espeak:en-gb+m3", "espeak:en-us+klatt4")]
    public async Task Two_speakers_are_told_apart(params string[] voices)
    {
        var talk = await ConversationAsync(voices, 12);
        var error = ErrorRate(talk.Truth, await FindAsync(talk.Audio, 2), 0.25);
        Assert.True(error < 0.08, $"given two: {error:0.000}");
        var found = await FindAsync(talk.Audio, null);
        Assert.True(ErrorRate(talk.Truth, found, 0.25) < 0.08, $"found: {ErrorRate(talk.Truth, found, 0.25):0.000} with {found.Max(t => t.Speaker) + 1}");
        Assert.True(ErrorRate(talk.Truth, found, 0) < 0.2, $"without a collar: {ErrorRate(talk.Truth, found, 0):0.000}");
    }

    [Fact]
    public async Task Three_speakers_are_found()
    {
        var talk = await ConversationAsync(["flite:slt", "flite:rms", "espeak:en-gb+m7"], 16, 5);
        var found = await FindAsync(talk.Audio, null);
        Assert.Equal(3, found.Max(t => t.Speaker) + 1);
        Assert.True(ErrorRate(talk.Truth, found, 0.25) < 0.1, $"{ErrorRate(talk.Truth, found, 0.25):0.000}");
    }

    [Fact]
    public async Task A_person_and_a_voice_are_told_apart_also_in_noise()
    {
        // A person reading (Debian's pocketsphinx-testdata) and a synthesis voice.
        var samples = new List<float>(new float[8000]);
        var truth = new List<SpeakerTurn>();
        var readings = Directory.GetFiles(Recordings + "librivox", "*.wav").Order().ToArray();
        for (var i = 0; i < 8; i++)
        {
            AudioBuffer part;
            if (i % 2 == 0)
                part = await AudioFiles.DecodeAsync(readings[i / 2 % readings.Length], "reading", 16000);
            else
            {
                var spoken = await Synthesis.SpeakAsync("flite:slt", Lines[i], new Delivery());
                part = (await AudioFiles.ResampleAsync(spoken.Audio, 16000)).Slice(0.15, spoken.Audio.Duration - 0.15);
            }
            truth.Add(new SpeakerTurn(samples.Count / 16000.0, samples.Count / 16000.0 + part.Duration, i % 2));
            samples.AddRange(part.Samples);
            samples.AddRange(new float[4800]);
        }
        var random = new Random(2);
        var noisy = samples.Select(x => x + 0.004f * (float)(random.NextDouble() - 0.5)).ToArray();
        foreach (
            var sound in (float[][])
                [
                    [.. samples],
                    noisy,
                ]
        )
        {
            var error = ErrorRate(truth, await FindAsync(new AudioBuffer(sound, 16000), 2), 0.25);
            Assert.True(error < 0.12, $"{error:0.000}");
        }
    }

    [Fact]
    public async Task A_channel_each_is_used_and_one_voice_stays_one()
    {
        var talk = await ConversationAsync(["flite:awb", "espeak:en-us+f2"], 8);
        float[] left = new float[talk.Audio.Samples.Length],
            right = new float[left.Length];
        foreach (var t in talk.Truth)
            for (var i = (int)(t.Start * 16000); i < (int)(t.End * 16000); i++)
            {
                // A little of each is heard on the other side.
                left[i] = talk.Audio.Samples[i] * (t.Speaker == 0 ? 1 : 0.1f);
                right[i] = talk.Audio.Samples[i] * (t.Speaker == 1 ? 1 : 0.1f);
            }
        await using (var file = File.Create(PathOf("stereo.wav")))
            WavFile.Write(file, [left, right], 16000);
        Assert.InRange(ErrorRate(talk.Truth, (await TurnFinder.FindAsync(PathOf("stereo.wav"), "stereo.wav", null)).Turns, 0.25), 0, 0.04);
        var alone = await ConversationAsync(["flite:rms"], 6);
        Assert.All(await FindAsync(alone.Audio, null), t => Assert.Equal(0, t.Speaker));
        Assert.True((await FindAsync(alone.Audio, 2)).Count > 0);
        Assert.Empty(await FindAsync(new AudioBuffer(new float[32000], 16000), 2));
    }

    [Fact]
    public void Turns_are_written_as_RTTM()
    {
        // NIST, RTTM: type, file, channel, start, duration, orthography, subtype, speaker, confidence, lookahead.
        var writer = new StringWriter();
        Rttm.Write(writer, "night shift", [new SpeakerTurn(0.5, 2.25, 0), new SpeakerTurn(2.4, 3, 1)]);
        Assert.Equal(
            "SPEAKER night_shift 1 0.500 1.750 <NA> <NA> speaker1 <NA> <NA>\nSPEAKER night_shift 1 2.400 0.600 <NA> <NA> speaker2 <NA> <NA>\n",
            writer.ToString()
        );
    }

    [Fact]
    public async Task The_command_writes_the_same_turns_as_RTTM_and_as_JSON()
    {
        var talk = await ConversationAsync(["espeak:en-us", "flite:slt"], 6);
        var path = PathOf("talk.wav");
        await using (var file = File.Create(path))
            WavFile.Write(file, [talk.Audio.Samples], talk.Audio.SampleRate);
        async Task<string> RunAsync(string format)
        {
            var result = await OutsideProgram.RunAsync(
                "dotnet",
                [Path.Combine(AppContext.BaseDirectory, "Zamblo.Cli.dll"), "turns", path, "--speakers", "2", "--format", format],
                limit: TimeSpan.FromMinutes(3)
            );
            Assert.True(result.ExitCode == 0, result.Error);
            return System.Text.Encoding.UTF8.GetString(result.Output);
        }
        // NIST, "The 2009 (RT-09) rich transcription meeting recognition evaluation plan", appendix A: ten fields a line.
        var lines = (await RunAsync("rttm")).Trim().Split('\n').Select(l => l.Split(' ')).ToArray();
        Assert.All(lines, l => Assert.Equal(("SPEAKER", "1", 10), (l[0], l[2], l.Length)));
        Assert.Equal(2, lines.Select(l => l[7]).Distinct().Count());
        var json = System.Text.Json.JsonDocument.Parse(await RunAsync("json")).RootElement.EnumerateArray().ToArray();
        Assert.Equal(lines.Length, json.Length);
        foreach (var (line, turn) in lines.Zip(json))
        {
            Assert.Equal(double.Parse(line[3], System.Globalization.CultureInfo.InvariantCulture), turn.GetProperty("start").GetDouble(), 2);
            Assert.EndsWith(turn.GetProperty("speaker").GetInt32().ToString(), line[7]);
        }
    }
}
