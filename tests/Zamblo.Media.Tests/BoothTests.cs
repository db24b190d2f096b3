using System.Globalization;
using System.Text;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>What is done to the sound of a take, against arithmetic on known signals, Praat and our own measures.</summary>
[Collection("ffmpeg")]
public class BoothTests : InFolder
{
    private const int Rate = 48000;

    private static AudioBuffer Tone(double seconds, double hz, double amplitude = 0.2) =>
        new([.. Enumerable.Range(0, (int)(seconds * Rate)).Select(i => (float)(amplitude * Math.Sin(2 * Math.PI * hz * i / Rate)))], Rate);

    private static double Rms(AudioBuffer audio, double start, double end) => Math.Sqrt(audio.Slice(start, end).Samples.Average(x => (double)x * x));

    [Fact]
    public async Task Trim_gain_and_fades_are_arithmetic()
    {
        var ramp = new AudioBuffer([.. Enumerable.Range(0, Rate).Select(i => i / (float)Rate * 0.5f)], Rate);
        var cut = await VoiceBooth.ApplyAsync(ramp, new VoiceCare { TrimStart = 0.25, TrimEnd = 0.25 });
        Assert.Equal(Rate / 2, cut.Samples.Length);
        Assert.Equal(ramp.Samples[Rate / 4], cut.Samples[0]);
        var louder = await VoiceBooth.ApplyAsync(Tone(1, 500, 0.1), new VoiceCare { Gain = 6 });
        Assert.Equal(0.1 / Math.Sqrt(2) * Math.Pow(10, 6 / 20.0), Rms(louder, 0.1, 0.9), 0.001);
        var faded = await VoiceBooth.ApplyAsync(Tone(1, 500), new VoiceCare { FadeIn = 0.4, FadeOut = 0.4 });
        Assert.True(Rms(faded, 0, 0.05) < 0.01 && Rms(faded, 0.95, 1) < 0.01);
        Assert.Equal(0.2 / Math.Sqrt(2), Rms(faded, 0.42, 0.58), 0.002);
        // Never over the ceiling, however much is asked for.
        Assert.True(Loudness.TruePeakDb((await VoiceBooth.ApplyAsync(Tone(1, 500), new VoiceCare { Gain = 24 })).Samples) < VoiceBooth.Ceiling + 0.1);
    }

    [Theory]
    [InlineData(-23)]
    [InlineData(-16)]
    public async Task Levelling_meets_its_target(double lufs)
    {
        var levelled = await VoiceBooth.ApplyAsync(Tone(4, 1000, 0.05), new VoiceCare { Level = lufs });
        Assert.Equal(lufs, Loudness.Integrated(levelled), 0.1);
    }

    [Theory]
    [InlineData(0.5)]
    [InlineData(1.5)]
    public async Task Another_speed_keeps_the_pitch_and_has_the_length_that_is_said(double speed)
    {
        var care = new VoiceCare { Speed = speed, TrimStart = 0.5 };
        var stretched = await VoiceBooth.ApplyAsync(Tone(3.5, 220), care);
        Assert.Equal(care.DurationOf(3.5), stretched.Duration, 3);
        var pitch = PitchTracker.Track(stretched);
        Assert.Equal(220, pitch[pitch.Length / 2], 3.0f);
        Assert.True(Rms(stretched, stretched.Duration - 0.3, stretched.Duration - 0.1) > 0.05);
    }

    private static string Recording => Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0890.wav";

    [Theory]
    [InlineData(5, 0, 5)]
    [InlineData(-4, 0, -4)]
    [InlineData(0, -5, 0)]
    public async Task Pitch_and_resonance_change_apart_as_Praat_measures_them(double pitch, double resonance, double expected)
    {
        var spoken = await Synthesis.SpeakAsync("flite:slt", "Maro put forty loaves in a row before the moon went down, and nobody saw it.", new Delivery());
        var original = await AudioFiles.ResampleAsync(spoken.Audio, Rate);
        var changed = await VoiceBooth.ApplyAsync(original, new VoiceCare { Pitch = pitch, Resonance = resonance });
        Assert.Equal(original.Samples.Length, changed.Samples.Length);
        var (before, after) = (await PraatAsync(original), await PraatAsync(changed));
        Assert.Equal(expected, 12 * Math.Log2(after.Pitch / before.Pitch), 0.7);
        // A longer throat has lower formants; with only the pitch changed they stay about where they were.
        if (resonance < 0)
            Assert.InRange(after.Formant / before.Formant, 0.6, 0.9);
        else
            Assert.InRange(after.Formant / before.Formant, 0.84, 1.16);
    }

    // Median pitch and median first formant (Burg), in Hz.
    private async Task<(double Pitch, double Formant)> PraatAsync(AudioBuffer audio)
    {
        var path = PathOf(Guid.NewGuid().ToString("N") + ".wav");
        await using (var file = File.Create(path))
            WavFile.Write(file, [audio.Samples], audio.SampleRate);
        await File.WriteAllTextAsync(
            PathOf("voice.praat"),
            """
            form Measure
                sentence file
            endform
            sound = Read from file: file$
            pitch = To Pitch (ac): 0.01, 60, 15, "no", 0.03, 0.45, 0.01, 0.35, 0.14, 500
            f = Get quantile: 0, 0, 0.5, "Hertz"
            selectObject: sound
            formant = To Formant (burg): 0.01, 5, 5500, 0.025, 50
            g = Get quantile: 1, 0, 0, "hertz", 0.5
            writeInfoLine: f, " ", g
            """
        );
        var told = await OutsideProgram.RunAsync("praat", ["--run", PathOf("voice.praat"), path]);
        var parts = Encoding.UTF8.GetString(told.Output).Trim().Split(' ');
        return (double.Parse(parts[0], CultureInfo.InvariantCulture), double.Parse(parts[1], CultureInfo.InvariantCulture));
    }

    [Fact]
    public async Task Hum_and_rumble_go_and_the_voice_stays()
    {
        var hum = new AudioBuffer([.. Tone(3, 50, 0.1).Samples.Zip(Tone(3, 100, 0.05).Samples, (a, b) => a + b)], Rate);
        Assert.InRange(Rms(await VoiceBooth.ApplyAsync(hum, new VoiceCare { Hum = 50 }), 1, 2.5) / Rms(hum, 1, 2.5), 0, 0.15);
        Assert.InRange(Rms(await VoiceBooth.ApplyAsync(Tone(2, 25), new VoiceCare { Rumble = true }), 0.5, 1.5) / Rms(Tone(2, 25), 0.5, 1.5), 0, 0.2);
        var voice = Tone(2, 700);
        Assert.InRange(Rms(await VoiceBooth.ApplyAsync(voice, new VoiceCare { Hum = 50, Rumble = true }), 0.5, 1.5) / Rms(voice, 0.5, 1.5), 0.95, 1.05);
    }

    // Two readings with a pause of two seconds between them, and pink noise 10 dB under the voice (ffmpeg's, with a seed).
    private async Task<(AudioBuffer Clean, AudioBuffer Noisy, double PauseStart, double PauseEnd)> NoisyAsync()
    {
        var first = await AudioFiles.DecodeAsync(Recording, "reading", Rate);
        var second = await AudioFiles.DecodeAsync(Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0870.wav", "reading", Rate);
        var gap = new float[2 * Rate];
        var clean = new AudioBuffer([.. first.Samples, .. gap, .. second.Samples], Rate);
        var path = await FfmpegAsync("pink.wav", "-f", "lavfi", "-i", "anoisesrc=c=pink:s=7:r=48000:d=60:a=0.5", "-c:a", "pcm_f32le");
        var pink = (await AudioFiles.DecodeAsync(path, "pink", Rate)).Slice(0, clean.Duration);
        var gain = (float)(Rms(first, 0, first.Duration) / Rms(pink, 0, pink.Duration) * Math.Pow(10, -10 / 20.0));
        var noisy = new AudioBuffer([.. clean.Samples.Zip(pink.Samples, (a, b) => a + gain * b)], Rate);
        return (clean, noisy, first.Duration, first.Duration + 2);
    }

    private static double Db(double ratio) => 20 * Math.Log10(ratio);

    [Fact]
    public async Task Noise_falls_by_35_dB_in_the_pauses_and_the_voice_keeps_its_level_and_its_place()
    {
        var (clean, noisy, start, end) = await NoisyAsync();
        var quiet = await VoiceBooth.ApplyAsync(noisy, new VoiceCare { Hiss = 40 });
        var pause = Db(Rms(quiet, start + 0.6, end - 0.3) / Rms(noisy, start + 0.6, end - 0.3));
        var loss = Db(Rms(quiet, 0, start) / Rms(clean, 0, start));
        // Where the voice is: the lag at which what is left fits the clean voice best, within 20 ms.
        var lag = Enumerable
            .Range(-960, 1921)
            .Where(k => k % 4 == 0)
            .MaxBy(k =>
            {
                var sum = 0.0;
                for (var i = Rate; i < 3 * Rate; i += 3)
                    sum += clean.Samples[i] * quiet.Samples[i + k];
                return sum;
            });
        Assert.True(pause < -35, $"pause {pause:0.0} dB, voice {loss:0.0} dB, lag {lag} samples");
        Assert.InRange(loss, -1.6, 0.5);
        Assert.InRange(lag, -8, 8);
        // Half as much is half as much; none is none.
        var less = await VoiceBooth.ApplyAsync(noisy, new VoiceCare { Hiss = 12 });
        Assert.InRange(Db(Rms(less, start + 0.6, end - 0.3) / Rms(noisy, start + 0.6, end - 0.3)), -16, -9);
        Assert.Equal(quiet.Samples.Length, noisy.Samples.Length);
    }

    [Fact]
    public async Task What_is_heard_in_noise_is_heard_better_after_it_is_taken_out()
    {
        var (clean, noisy, start, _) = await NoisyAsync();
        var quiet = LearnedSuppressor.Clean(noisy, 40);
        const string said = "unless to be rather cold hearted and rather selfish is to be ill disposed";
        async Task<double[]> StartsAsync(AudioBuffer audio)
        {
            var sound = await AudioFiles.ResampleAsync(audio.Slice(0, start), CepstralFrontEnd.SampleRate);
            var speech = await SpeechModels.AnalyzeAsync(sound, new SpeechQuery(said, "en"), null, null, default);
            return [.. speech.Words.SelectMany(w => new[] { w.Start, w.End })];
        }
        var truth = await StartsAsync(clean);
        double Off(double[] times) => truth.Zip(times, (a, b) => Math.Abs(a - b)).Average();
        var (with, without) = (Off(await StartsAsync(noisy)), Off(await StartsAsync(quiet)));
        Assert.True(without <= with + 0.002, $"boundaries are {1000 * with:0.0} ms off in noise, {1000 * without:0.0} ms after");
        Assert.True(without < 0.03, $"{1000 * with:0.0} {1000 * without:0.0}");
    }

    [Fact]
    public async Task Every_colour_keeps_the_length_and_is_another_sound()
    {
        var original = (await AudioFiles.DecodeAsync(Recording, "reading", Rate)).Slice(0, 2);
        foreach (var colour in Enum.GetValues<VoiceColour>().Where(c => c != VoiceColour.Plain))
        {
            var coloured = await VoiceBooth.ApplyAsync(original, new VoiceCare { Colour = colour });
            Assert.Equal(original.Samples.Length, coloured.Samples.Length);
            Assert.True(coloured.Samples.Zip(original.Samples, (a, b) => Math.Abs(a - b)).Average() > 0.002, colour.ToString());
            Assert.True(Rms(coloured, 0.2, 1.8) > 0.2 * Rms(original, 0.2, 1.8), $"{colour}: {Rms(coloured, 0.2, 1.8)} {Rms(original, 0.2, 1.8)}");
        }
    }

    [Fact]
    public async Task No_colour_moves_a_word_and_less_of_it_is_nearer_to_the_voice()
    {
        var original = await AudioFiles.DecodeAsync(Recording, "reading", Rate);
        // The levels of 10 ms: the lag at which those of the coloured voice fit them best.
        static double[] Levels(AudioBuffer audio) => [.. Enumerable.Range(0, (int)(audio.Duration * 100)).Select(i => Rms(audio, i / 100.0, (i + 1) / 100.0))];
        static double Fit(double[] a, double[] b, int lag)
        {
            var pairs = Enumerable.Range(20, a.Length - 40).Select(i => (A: a[i], B: b[i + lag])).ToArray();
            double ma = pairs.Average(p => p.A),
                mb = pairs.Average(p => p.B);
            return pairs.Sum(p => (p.A - ma) * (p.B - mb)) / Math.Sqrt(pairs.Sum(p => (p.A - ma) * (p.A - ma)) * pairs.Sum(p => (p.B - mb) * (p.B - mb)));
        }
        var truth = Levels(original);
        foreach (var colour in Enum.GetValues<VoiceColour>().Where(c => c != VoiceColour.Plain))
        {
            var whole = await VoiceBooth.ApplyAsync(original, new VoiceCare { Colour = colour });
            var lag = Enumerable.Range(-10, 21).MaxBy(k => Fit(truth, Levels(whole), k));
            // A crowd's voices come after the first one; its own comes when it came.
            Assert.True(Math.Abs(lag) <= (colour == VoiceColour.Crowd ? 3 : 1), $"{colour}: {10 * lag} ms");
            var half = await VoiceBooth.ApplyAsync(original, new VoiceCare { Colour = colour, ColourAmount = 0.4 });
            double Off(AudioBuffer audio) => audio.Samples.Zip(original.Samples, (a, b) => Math.Abs(a - b)).Average();
            Assert.Equal(original.Samples.Length, half.Samples.Length);
            if (colour is VoiceColour.Small or VoiceColour.Giant)
                Assert.True(Off(half) > 0.001, $"{colour}");
            else
                Assert.InRange(Off(half) / Off(whole), 0.38, 0.42);
        }
    }

    [Fact]
    public async Task A_whisper_has_no_tone()
    {
        var original = await AudioFiles.DecodeAsync(Recording, "reading", Rate);
        var whispered = await VoiceBooth.ApplyAsync(original, new VoiceCare { Colour = VoiceColour.Whisper });
        static double Voiced(AudioBuffer audio) => PitchTracker.Track(audio).Average(hz => hz > 0 ? 1.0 : 0);
        Assert.True(Voiced(whispered) < 0.15 * Voiced(original), $"{Voiced(whispered):0.00} of {Voiced(original):0.00}");
    }

    [Fact]
    public async Task What_was_heard_lies_where_the_trimmed_and_stretched_sound_is()
    {
        var original = await AudioFiles.DecodeAsync(Recording, "reading", 16000);
        var speech = SpeechModels.Analyzer.Analyze(original);
        var care = new VoiceCare
        {
            TrimStart = 0.4,
            TrimEnd = 0.3,
            Speed = 1.25,
        };
        var mapped = CaredSpeech.Map(speech, care);
        Assert.Equal(care.DurationOf(original.Duration), mapped.Duration, 6);
        Assert.Equal((int)Math.Ceiling(100 * mapped.Duration), mapped.LevelsDb.Length);
        double at = 0;
        foreach (var p in mapped.Phones)
        {
            Assert.Equal(at, p.Start, 6);
            at = p.End;
        }
        Assert.Equal(mapped.Duration, at, 6);
        // A phone in the middle: at the mapped place the levels are those of the original.
        var phone = speech.Phones.First(p => p.Start > 1.5 && p.Duration > 0.06);
        Assert.Contains(mapped.Phones, p => p.Phone == phone.Phone && Math.Abs(p.Start - care.ToTake(phone.Start)) < 1e-6);
        Assert.Equal(1.234, care.ToOriginal(care.ToTake(1.234)), 9);
    }

    [Theory]
    [InlineData("flite:slt")]
    [InlineData("flite:awb")]
    public async Task The_second_engines_times_agree_with_its_sound(string voice)
    {
        var spoken = await Synthesis.SpeakAsync(voice, "Stop. The oven is hot, Bubb. Forty-two rolls, please!", new Delivery());
        Assert.Equal(["Stop", "The", "oven", "is", "hot", "Bubb", "Forty", "two", "rolls", "please"], spoken.Speech.Words.Select(w => w.Text));
        Assert.Equal(spoken.Audio.Duration, spoken.Speech.Phones[^1].End, 6);
        foreach (var p in spoken.Speech.Phones.Where(p => p.Phone == Arpabet.Silence && p.Duration > 0.15))
            Assert.InRange(Rms(spoken.Audio, p.Start + 0.04, p.End - 0.04), 0, 0.02);
        foreach (var p in spoken.Speech.Phones.Where(p => Arpabet.Vowels.Contains(p.Phone) && p.Duration > 0.06))
            Assert.InRange(Rms(spoken.Audio, p.Start, p.End), 0.01, 1);
    }

    [Theory]
    [InlineData("espeak:en-us")]
    [InlineData("flite:rms")]
    public async Task Speed_and_pitch_of_a_delivery_are_heard(string voice)
    {
        const string text = "The flour is on the scale, and the rye is in the bowl.";
        var plain = await Synthesis.SpeakAsync(voice, text, new Delivery());
        var slow = await Synthesis.SpeakAsync(voice, text, new Delivery(Speed: 0.7));
        Assert.InRange(slow.Audio.Duration / plain.Audio.Duration, 1.2, 1.7);
        var high = await Synthesis.SpeakAsync(voice, text, new Delivery(Pitch: 0.8));
        double Median(float[] hz) => hz.Where(h => h > 0).Order().ElementAt(hz.Count(h => h > 0) / 2);
        Assert.True(Median(high.Speech.PitchHz) > 1.1 * Median(plain.Speech.PitchHz));
        var loud = await Synthesis.SpeakAsync(voice, text, new Delivery(Volume: 0.5));
        Assert.InRange(Rms(loud.Audio, 0, loud.Audio.Duration) / Rms(plain.Audio, 0, plain.Audio.Duration), 0.3, 0.75);
    }

    [Fact]
    public async Task Capitals_and_signs_change_the_pitch_and_leave_the_words_as_written()
    {
        var plain = await Synthesis.SpeakAsync("espeak:en-us", "The oven is burning, Bubb & Maro.", new Delivery());
        var loud = await Synthesis.SpeakAsync("espeak:en-us", "The oven is BURNING, Bubb & Maro.", new Delivery());
        Assert.Equal(["The", "oven", "is", "BURNING", "Bubb", "&", "Maro"], loud.Speech.Words.Select(w => w.Text));
        double Pitch(SpokenText s, string word)
        {
            var w = s.Speech.Words.First(x => x.Text.Equals(word, StringComparison.OrdinalIgnoreCase));
            var own = s.Speech.PitchHz[(int)(100 * w.Start)..(int)(100 * w.End)].Where(h => h > 0).Order().ToArray();
            return own[own.Length / 2];
        }
        Assert.True(Pitch(loud, "burning") > 1.1 * Pitch(plain, "burning"));
        // A question ends higher than a statement.
        double End(SpokenText s) => s.Speech.PitchHz.Where(h => h > 0).TakeLast(8).Average();
        Assert.True(
            End(await Synthesis.SpeakAsync("espeak:en-us", "You fed the starter?", new Delivery()))
                > 1.15 * End(await Synthesis.SpeakAsync("espeak:en-us", "You fed the starter.", new Delivery()))
        );
    }

    [Theory]
    [InlineData("flite:slt", "", "no text")]
    [InlineData("flite:slt", "日本のパン", "cannot speak")]
    [InlineData("flite:nobody", "Hello.", "no voice")]
    public async Task What_the_second_engine_cannot_speak_is_said_in_a_sentence(string voice, string text, string part)
    {
        var e = await Assert.ThrowsAsync<MediaException>(() => Synthesis.SpeakAsync(voice, text, new Delivery()));
        Assert.Contains(part, e.Message);
    }

    [Fact]
    public async Task A_long_text_is_spoken_in_pieces_with_times_that_run_on()
    {
        var text = string.Join(' ', Enumerable.Repeat("Every measure of rye gives the dough a darker voice, and nobody complains.", 12));
        var spoken = await Synthesis.SpeakAsync("flite:slt", text, new Delivery());
        Assert.Equal(12 * 13, spoken.Speech.Words.Count);
        Assert.Equal(spoken.Speech.Words.Select(w => w.Start).Order(), spoken.Speech.Words.Select(w => w.Start));
        Assert.Equal(spoken.Audio.Duration, spoken.Speech.Duration, 6);
    }
}
