using System.Globalization;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>Songs: a voice of festival's singing mode, which tells its own times, over a band of plain tones and noise that no model has learned.</summary>
[Collection("ffmpeg")]
public class SungVoiceTests : InFolder
{
    private const string Lyrics = "Maro bakes the bread by moonlight. Bub and bubble all the night.";
    private static readonly (string Word, string Notes, string Beats)[] Song =
    [
        ("maro", "G3,A3", "0.5,0.5"),
        ("bakes", "B3", "0.5"),
        ("the", "A3", "0.5"),
        ("bread", "G3", "1.5"),
        ("by", "B3", "0.5"),
        ("moonlight", "D4,B3", "0.5,1.5"),
        ("bub", "C4", "0.5"),
        ("and", "A3", "0.5"),
        ("bubble", "C4,A3", "0.5,0.5"),
        ("all", "B3", "0.5"),
        ("the", "A3", "0.5"),
        ("night", "G3", "1.5"),
    ];

    private const double Before = 3;

    // The voice, from its third second on, and its phones.
    private async Task<(AudioBuffer Voice, List<PhoneSegment> Truth)> SingAsync(IEnumerable<(string Word, string Notes, string Beats)>? song = null)
    {
        var notes = (song ?? Song).Select(n => $"<PITCH NOTE=\"{n.Notes}\"><DURATION BEATS=\"{n.Beats}\">{n.Word}</DURATION></PITCH>");
        await File.WriteAllTextAsync(
            PathOf("song.xml"),
            "<?xml version=\"1.0\"?>\n<!DOCTYPE SINGING PUBLIC \"-//SINGING//DTD SINGING mark up//EN\" \"Singing.v0_1.dtd\" []>\n"
                + $"<SINGING BPM=\"96\">\n{string.Join('\n', notes)}\n</SINGING>\n"
        );
        await OutsideProgram.RunAsync(
            "festival",
            [
                "-b",
                "(voice_kal_diphone)",
                $"(define (keep u) (utt.save.wave u \"{PathOf("song.wav")}\") (utt.save.segs u \"{PathOf("song.segs")}\") u)",
                "(set! tts_hooks (list utt.synth keep))",
                $"(tts_file \"{PathOf("song.xml")}\" 'singing)",
            ]
        );
        var sung = await AudioFiles.DecodeAsync(PathOf("song.wav"), "song.wav", 16000);
        var (truth, at) = (new List<PhoneSegment>(), Before);
        foreach (var row in (await File.ReadAllLinesAsync(PathOf("song.segs"))).SkipWhile(l => l != "#").Skip(1))
        {
            var parts = row.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            var end = Before + double.Parse(parts[0], CultureInfo.InvariantCulture);
            if (end > at)
                truth.Add(new PhoneSegment(Flite.PhoneOf(parts[2]), at, end));
            at = Math.Max(at, end);
        }
        var samples = new float[sung.Samples.Length + (int)(2 * Before * 16000)];
        sung.Samples.CopyTo(samples, (int)(Before * 16000));
        return (new AudioBuffer(samples, 16000), truth);
    }

    // Chords of decaying tones with eight harmonics, a bass, and a hiss on every beat: 0 dB is as loud as the voice is where somebody sings.
    private static AudioBuffer Over(AudioBuffer voice, double db)
    {
        var random = new Random(5);
        var band = new float[voice.Samples.Length];
        int[][] chords =
        [
            [55, 59, 62],
            [52, 55, 59],
            [48, 52, 55],
            [50, 54, 57],
        ];
        var beat = 10000;
        for (var b = 0; b * beat < band.Length; b++)
        {
            var chord = chords[b / 4 % 4];
            foreach (var key in (int[])[.. chord, chord[0] - 12])
            {
                var hz = 440 * Math.Pow(2, (key - 69) / 12.0);
                for (var i = 0; i < 2 * beat && b * beat + i < band.Length; i++)
                for (var h = 1; h <= 8; h++)
                    band[b * beat + i] += (float)(Math.Sin(2 * Math.PI * hz * h * i / 16000) * Math.Exp(-i / 6000.0) / (h * h));
            }
            for (var i = 0; i < 1500 && b * beat + i < band.Length; i++)
                band[b * beat + i] += (random.NextSingle() - 0.5f) * MathF.Exp(-i / 400f) * 3;
        }
        int first = (int)(Before * 16000),
            last = voice.Samples.Length - first;
        double Power(float[] x) => x[first..last].Average(s => (double)s * s);
        var gain = (float)Math.Sqrt(Power(voice.Samples) / Power(band) / Math.Pow(10, db / 10));
        return new AudioBuffer([.. voice.Samples.Zip(band, (v, m) => v + gain * m)], 16000);
    }

    private static double DistortionDb(AudioBuffer voice, AudioBuffer other)
    {
        double own = 0,
            error = 0;
        for (var i = 0; i < voice.Samples.Length; i++)
        {
            own += voice.Samples[i] * (double)voice.Samples[i];
            error += Math.Pow(voice.Samples[i] - other.Samples[i], 2);
        }
        return 10 * Math.Log10(own / error);
    }

    [Fact]
    public async Task A_voice_is_taken_out_of_its_song_and_its_words_are_found()
    {
        var (voice, truth) = await SingAsync();
        var mix = Over(voice, 0);
        var found = VoiceOfSong.TakenOut(mix, SongVoiceModel.Tell);
        double before = DistortionDb(voice, mix),
            after = DistortionDb(voice, found.Alone);
        Assert.True(after > before + 4, $"{before:0.0} dB in the mix, {after:0.0} dB alone");
        var plain = new SpeechAnalyzer(SpeechModels.Analyzer.Model, SpeechModels.Analyzer.Dictionary, voice: VoiceModel.Probabilities);
        var (heard, mixed) = (SpeechModels.Analyzer.Analyze(mix, Lyrics), plain.Analyze(mix, Lyrics));
        Assert.True(heard.HasBand);
        // Frames in which the mouth is a vowel's where a vowel is sung.
        double Vowels(SpeechAnalysis speech) =>
            truth
                .Where(p => Arpabet.Vowels.Contains(p.Phone))
                .SelectMany(p => Enumerable.Range(0, (int)(p.Duration * 100)).Select(i => p.Start + i / 100.0))
                .Average(t => speech.Phones.Any(h => t >= h.Start && t < h.End && Arpabet.Vowels.Contains(h.Phone)) ? 100.0 : 0);
        Assert.True(Vowels(heard) > 75, $"{Vowels(heard):0} % with the band taken away, {Vowels(mixed):0} % with it");
        // The band has the first and the last seconds to itself: nobody's mouth moves.
        Assert.All(heard.Phones, p => Assert.True(p.Phone == Arpabet.Silence || (p.Start > Before - 0.3 && p.End < truth[^1].End + 0.3), $"{p}"));
    }

    [Fact]
    public async Task Which_phone_is_sung_is_told_in_a_high_voice_too()
    {
        var (voice, truth) = await SingAsync();
        await using (var file = File.Create(PathOf("low.wav")))
            WavFile.Write(file, [voice.Samples], 16000);
        await OutsideProgram.RunAsync(
            "ffmpeg",
            ["-v", "error", "-y", "-i", PathOf("low.wav"), "-af", "rubberband=pitch=1.7:formant=preserved", "-ar", "16000", PathOf("high.wav")]
        );
        foreach (var own in (AudioBuffer[])[voice, await AudioFiles.DecodeAsync(PathOf("high.wav"), "high.wav", 16000)])
        {
            var mix = Over(new AudioBuffer([.. own.Samples, .. new float[Math.Max(0, voice.Samples.Length - own.Samples.Length)]], 16000), 3);
            var told = PhoneEvidence.OfSong(mix, VoiceOfSong.TakenOut(mix, SongVoiceModel.Tell).Alone, PhoneNets.Sung);
            var model = SpeechModels.Analyzer.Model;
            var places = PhoneEvidence.PlacesOf(model);
            var values = new float[places.Length];
            var (right, all) = (0, 0);
            foreach (var p in truth.Where(p => p.Phone != Arpabet.Silence))
                for (var t = p.Start; t < p.End; t += 0.01, all++)
                {
                    told.At(t, places, values);
                    right += model.PhoneNames[Array.IndexOf(values, values.Max())] == p.Phone ? 1 : 0;
                }
            // Of forty phones one in forty would be right by chance.
            Assert.True(right > 0.2 * all, $"{100.0 * right / all:0} % of the frames");
        }
    }

    [Fact]
    public async Task Who_sings_alone_is_heard_as_a_singer()
    {
        var (voice, truth) = await SingAsync([.. Song, .. Song, .. Song]);
        var own = SpeechModels.Analyzer;
        var plain = new SpeechAnalyzer(own.Model, own.Dictionary, voice: VoiceModel.Probabilities);
        var lyrics = string.Join('\n', Enumerable.Repeat(Lyrics, 3));
        var (heard, before) = (own.Analyze(voice, lyrics), plain.Analyze(voice, lyrics));
        Assert.True(heard.SingsAlone);
        Assert.False(heard.HasBand);
        double Right(SpeechAnalysis speech) =>
            truth
                .Where(p => p.Phone != Arpabet.Silence)
                .SelectMany(p => Enumerable.Range(0, (int)(p.Duration * 100)).Select(i => (p.Phone, Time: p.Start + i / 100.0)))
                .Average(t => speech.Phones.Any(h => h.Phone == t.Phone && t.Time >= h.Start && t.Time < h.End) ? 100.0 : 0);
        Assert.True(Right(heard) > Right(before) + 3, $"{Right(heard):0} % of the frames are right, {Right(before):0} % without the network of songs");
        static bool IsShut(PhoneSegment p) => p.Phone is "B" or "M" or "P";
        Assert.All(truth.Where(IsShut), p => Assert.Contains(heard.Phones, h => IsShut(h) && h.Start < p.End + 0.04 && h.End > p.Start - 0.04));
        // A changed word is listened to in the same way.
        var again = own.Realign(voice, heard, own.Request(lyrics.Replace("bakes", "makes")));
        Assert.True(again.SingsAlone);
        Assert.InRange(again.Words.First(w => w.Text == "makes").Start - heard.Words.First(w => w.Text == "bakes").Start, -0.06, 0.06);
        // Somebody who reads does not sing, and neither does one short note.
        Assert.False(
            own.Analyze(await AudioFiles.DecodeAsync(Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0870.wav", "a.wav", 16000)).SingsAlone
        );
        Assert.False(own.Analyze(voice.Slice(0, Before + 1)).SingsAlone);
    }

    [Fact]
    public async Task Rows_that_are_sung_again_are_found_though_they_are_written_once()
    {
        const string rows = "Maro bakes the bread by moonlight.\nBub and bubble all the night.";
        var (voice, truth) = await SingAsync([.. Song, .. Song.Take(6)]);
        var mix = Over(voice, 3);
        var (heard, said) = await new Said(rows).HearAsync(mix, []);
        Assert.Equal(rows + "\nMaro bakes the bread by moonlight.", said.Script);
        Assert.Equal(["Maro", "Bub", "Maro"], heard.Words.Select(w => w.Text).Where(w => w is "Maro" or "Bub"));
        var again = truth.Where(p => p.Phone == "M").Last(p => p.Start < truth.Last(q => q.Phone == "B").Start).Start;
        Assert.InRange(heard.Words.Last(w => w.Text == "Maro").Start, again - 0.15, again + 0.15);
        // Until they are written the mouth sings them all the same.
        var known = await SpeechModels.AnalyzeAsync(mix, new Said(rows).Query);
        var repeat = Assert.Single(known.Repeats!);
        Assert.Equal((0, 0, 1), (repeat.First, repeat.Last, repeat.After));
        Assert.Single(known.Words, w => w.Text == "Maro");
        Assert.Contains(known.Phones, p => p.Phone == "M" && Math.Abs(p.Start - again) < 0.15);
        // What is written is sung once.
        Assert.Null((await SpeechModels.AnalyzeAsync(mix, said.Query)).Repeats);
    }

    [Fact]
    public async Task Words_of_a_row_with_a_time_lie_in_it()
    {
        var (voice, truth) = await SingAsync();
        var second = truth.Where(p => p.Phone == "B").Skip(2).First().Start;
        var mix = Over(voice, -3);
        var timed = FormattableString.Invariant($"[00:{Before:00.00}] Maro bakes the bread by moonlight.\n[00:{second:00.00}] Bub and bubble all the night.");
        var heard = await SpeechModels.AnalyzeAsync(mix, SpeechQuery.Of(timed, "en"));
        Assert.True(heard.HasBand);
        Assert.All(heard.Words.Where(w => w.Text is "Maro" or "bakes" or "bread" or "moonlight"), w => Assert.InRange(w.Start, Before - 0.8, second + 0.8));
        Assert.All(heard.Words.Where(w => w.Text is "Bub" or "bubble" or "night"), w => Assert.InRange(w.Start, second - 0.8, voice.Duration));
        Assert.Contains(heard.Words, w => w.Text == "bubble");
    }

    [Fact]
    public async Task Speech_is_no_song_not_in_noise_and_not_in_a_talk()
    {
        var one = await AudioFiles.DecodeAsync(Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0870.wav", "a.wav", 16000);
        var two = await AudioFiles.DecodeAsync(Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0930.wav", "b.wav", 16000);
        var random = new Random(2);
        var n = Math.Min(one.Samples.Length, two.Samples.Length);
        AudioBuffer Made(Func<int, float> of) => new([.. Enumerable.Range(0, n).Select(of)], 16000);
        static bool IsSong(AudioBuffer audio) => VoiceOfSong.IsSong(audio, LoudnessEnvelope.LevelsDb(audio), SongVoiceModel.Tell);
        Assert.False(IsSong(one));
        Assert.False(IsSong(Made(i => one.Samples[i] + two.Samples[i])));
        Assert.False(IsSong(Made(i => one.Samples[i] + 0.05f * (random.NextSingle() - 0.5f))));
        Assert.False(IsSong(Made(_ => 0.1f * (random.NextSingle() - 0.5f))));
    }
}
