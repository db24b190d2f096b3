using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Singing: held notes, lyrics with times, and the voice without its band.</summary>
public class SongTests
{
    private static AudioBuffer Tone(double hz, double seconds, float amplitude = 0.2f) =>
        new([.. Enumerable.Range(0, (int)(seconds * 16000)).Select(i => amplitude * (float)Math.Sin(2 * Math.PI * hz * i / 16000))], 16000);

    private static AudioBuffer Sum(AudioBuffer a, AudioBuffer b) => new([.. a.Samples.Select((x, i) => x + (i < b.Samples.Length ? b.Samples[i] : 0))], 16000);

    // Everything under 1 kHz is the voice's.
    private static SongModel Low(float music = 1) =>
        (logs, frames) =>
            new SongParts(
                [.. Enumerable.Range(0, VoiceOfSong.Bins * frames).Select(i => i / frames * 16000 / 1024 < 1000 ? 1f : 0f)],
                [.. Enumerable.Repeat(1f, frames)],
                [.. Enumerable.Repeat(music, frames)]
            );

    private static double Level(AudioBuffer audio, double hz)
    {
        double re = 0,
            im = 0;
        for (var i = 0; i < audio.Samples.Length; i++)
        {
            re += audio.Samples[i] * Math.Cos(2 * Math.PI * hz * i / 16000);
            im += audio.Samples[i] * Math.Sin(2 * Math.PI * hz * i / 16000);
        }
        return 2 * Math.Sqrt(re * re + im * im) / audio.Samples.Length;
    }

    [Theory]
    [InlineData(2)]
    [InlineData(45)]
    public void What_is_not_the_voices_is_taken_out_and_the_rest_stays_as_it_was(double seconds)
    {
        // 45 s are told in two pieces.
        var voice = VoiceOfSong.TakenOut(Sum(Tone(440, seconds), Tone(2500, seconds)), Low());
        Assert.Equal((int)(seconds * 16000), voice.Alone.Samples.Length);
        Assert.Equal(0.2, Level(voice.Alone, 440), 0.01);
        Assert.InRange(Level(voice.Alone, 2500), 0, 0.01);
        Assert.InRange(Level(voice.Nearly, 2500), 0.03, 0.06);
        Assert.Equal((int)(seconds * 100) + 1, voice.Sings.Length);
        var whole = VoiceOfSong.TakenOut(Tone(440, seconds), Low()).Alone;
        // At the very ends a window is missing.
        for (var i = 640; i < whole.Samples.Length - 640; i += 7)
            Assert.Equal(0.2 * Math.Sin(2 * Math.PI * 440 * i / 16000), whole.Samples[i], 0.01);
    }

    [Fact]
    public void Without_a_band_and_with_pauses_it_is_no_song()
    {
        static bool IsSong(AudioBuffer audio, SongModel model) => VoiceOfSong.IsSong(audio, LoudnessEnvelope.LevelsDb(audio), model);
        Assert.True(IsSong(Tone(440, 3), Low()));
        Assert.False(IsSong(Tone(440, 3), Low(music: 0.2f)));
        SongModel never = (_, _) => throw new InvalidOperationException("A recording with pauses needs no model.");
        var spoken = Tone(440, 3);
        for (var i = 0; i < spoken.Samples.Length; i++)
            if (i % 16000 > 12000)
                spoken.Samples[i] = 0;
        Assert.False(IsSong(spoken, never));
        Assert.False(IsSong(new AudioBuffer([], 16000), never));
        Assert.False(IsSong(new AudioBuffer(new float[16000], 16000), never));
        // The shortest sounds are songs, too.
        Assert.Equal(100, VoiceOfSong.TakenOut(new AudioBuffer(new float[100], 16000), Low()).Alone.Samples.Length);
    }

    [Fact]
    public void An_analysis_of_a_song_is_about_its_voice()
    {
        // The model knows the very recording: all of its bins are the voice's but those of a tone that plays all the time.
        var spoken = TestData.Raw("goforward.raw");
        var mixed = Sum(spoken, Tone(3000, spoken.Duration, 0.1f));
        SongModel model = (logs, frames) =>
            new SongParts(
                [.. Enumerable.Range(0, VoiceOfSong.Bins * frames).Select(i => Math.Abs(i / frames - 192) < 4 ? 0f : 1f)],
                [.. Enumerable.Repeat(1f, frames)],
                [.. Enumerable.Repeat(1f, frames)]
            );
        var analyzer = new SpeechAnalyzer(TestData.Model, TestData.Dictionary, song: model);
        var (clean, song) = (TestData.Analyzer.Analyze(spoken, "go forward ten meters"), analyzer.Analyze(mixed, "go forward ten meters"));
        Assert.False(clean.HasBand);
        Assert.True(song.HasBand);
        Assert.Equal(clean.Words.Select(w => w.Text), song.Words.Select(w => w.Text));
        Assert.All(clean.Words.Zip(song.Words), p => Assert.InRange(Math.Abs(p.First.Start - p.Second.Start), 0, 0.04));
        // In front of the first word only the tone is heard: the level that opens the mouth is the voice's.
        Assert.InRange(song.LevelsDb[5], -200, LoudnessEnvelope.LevelsDb(mixed)[5] - 15);
        // A changed word is listened to in the same way.
        var again = analyzer.Realign(mixed, song, analyzer.Request("go forward two meters"));
        Assert.True(again.HasBand);
        Assert.Contains(again.Words, w => w.Text == "two");
    }

    [Fact]
    public void What_is_sung_is_heard_by_both_models()
    {
        // A network that is sure of one phone all the time: it is heard where the acoustic model is not sure of another one.
        const int phones = 40;
        var b = 1 + Arpabet.Phones.ToList().IndexOf("B");
        var asked = new List<int>();
        PhoneModel sure = (logs, frames) =>
        {
            Assert.Equal(PhoneEvidence.SungInputs * frames, logs.Length);
            asked.Add(frames);
            return [.. Enumerable.Range(0, phones * frames).Select(i => i / frames == b ? 3f : -90f)];
        };
        var sound = Tone(440, 9);
        var told = PhoneEvidence.OfSong(sound, sound, sure);
        // Pieces with what the network sees to both sides.
        Assert.Equal([320, 384, 384, 197], asked);
        float[] At(double time)
        {
            var values = new float[TestData.Model.PhoneNames.Length];
            told.At(time, PhoneEvidence.PlacesOf(TestData.Model), values);
            return values;
        }
        var values = At(4.5);
        var best = Array.IndexOf(values, values.Max());
        Assert.Equal("B", TestData.Model.PhoneNames[best]);
        // Nothing is ruled out by it.
        Assert.InRange(values.Min(), -10, 0);
        Assert.Equal([.. values, .. values], [.. At(-1), .. At(1000)]);
        SongModel model = (_, frames) =>
            new SongParts([.. Enumerable.Repeat(1f, VoiceOfSong.Bins * frames)], [.. Enumerable.Repeat(1f, frames)], [.. Enumerable.Repeat(1f, frames)]);
        var analyzer = new SpeechAnalyzer(TestData.Model, TestData.Dictionary, song: model, sung: sure);
        var song = Sum(TestData.Raw("goforward.raw"), Tone(3000, 2.8, 0.02f));
        double Share(SpeechAnalyzer of) => of.Analyze(song).Phones.Where(p => p.Phone == "B").Sum(p => p.Duration);
        Assert.True(Share(analyzer) > Share(new SpeechAnalyzer(TestData.Model, TestData.Dictionary, song: model)) + 0.1);
    }

    [Theory]
    [InlineData("no", "N", 0.25, 0.45)]
    [InlineData("toe", "T", 0.15, 0.35)]
    public void No_consonant_is_sung_for_longer_than_anybody_sings_one(string word, string consonant, double least, double most)
    {
        // A network that always says the consonant, a little more than it costs to hold one, in a sound that is neither.
        var place = PhoneEvidence.PlaceOf(consonant);
        PhoneModel says = (logs, frames) => [.. Enumerable.Range(0, 40 * frames).Select(i => i / frames == place ? 5f : 0)];
        var (model, audio) = (TestData.Model, Tone(220, 3));
        var sound = new HeardSound(model, new CepstralFrontEnd(model.FrontEnd), audio, 0, default) { Evidence = PhoneEvidence.OfSong(audio, audio, says) };
        // Of nothing but what the network says.
        Array.Fill(sound.Weights, 0);
        var words = ScriptAligner.Pronounced(model, ScriptText.Words(word), TestData.Analyzer.Request(null)).Pronunciations;
        var search = new PathSearch(model, new Lazy<PhoneGraph>(() => throw new InvalidOperationException("No sounds without words.")));
        var steps = search.Search(ScriptGraph.Build(model, words, new ScriptGraph.Weights()), sound, 0, sound.Frames, null, default);
        var held = steps.Single(s => model.PhoneNames[s.Phone] == consonant);
        Assert.InRange((held.End - held.Start) / 100.0, least, most);
    }

    [Theory]
    [InlineData(0.5, 15, 35)]
    [InlineData(6, 36, 60)]
    public void A_row_that_is_torn_apart_is_less_likely_and_a_long_rest_in_it_has_its_price(double pause, double least, double most)
    {
        var spoken = TestData.Raw("goforward.raw");
        var at = (int)(16000 * TestData.Analyzer.Analyze(spoken, "go forward ten meters").Words[2].Start);
        // Of the room before anything is said.
        var silence = Enumerable.Range(0, (int)(16000 * pause)).Select(i => spoken.Samples[i % 4000]);
        var audio = new AudioBuffer([.. spoken.Samples[..at], .. silence, .. spoken.Samples[at..]], 16000);
        var model = TestData.Model;
        var sound = new HeardSound(model, new CepstralFrontEnd(model.FrontEnd), audio, 0, default);
        var words = ScriptAligner.Pronounced(model, ScriptText.Words("go forward ten meters"), TestData.Analyzer.Request(null)).Pronunciations;
        double Score(params int[]? rows)
        {
            var search = new PathSearch(model, new Lazy<PhoneGraph>(() => throw new InvalidOperationException("No sounds without words.")));
            search.Compare(ScriptGraph.Build(model, words, new ScriptGraph.Weights(), rows), sound, null, out var score, default);
            return score;
        }
        var free = Score(null);
        Assert.InRange(free - Score(0), least, most);
        // Between two rows a band may play for as long as it likes.
        Assert.Equal(free, Score(0, 2), 1.0);
    }

    [Fact]
    public void Rows_begin_where_they_are_written_and_again_where_they_are_sung_twice()
    {
        const string text = "bring me butter\nall the way";
        var words = ScriptWord.InRows(ScriptText.Words(text), text);
        static int[]? Rows(IReadOnlyList<ScriptWord> words) => ScriptAligner.Rows(words, [.. Enumerable.Range(0, words.Count)]);
        Assert.Equal([0, 3], Rows(words)!);
        Assert.Equal([0, 3, 6], Rows(SungRepeats.Sung(words, [new SungRepeat(1, 1, 1, 9)]))!);
        // One row is as long as it likes.
        Assert.Null(Rows([.. words.Take(3)]));
        Assert.Null(Rows([]));
    }

    [Fact]
    public void Words_that_a_band_hides_are_told()
    {
        WordSegment[] words = [new("a", 0, 1, 0.2f), new("b", 1, 2, 0.9f), new("c", 2, 3, 0.1f)];
        var speech = new SpeechAnalysis(3, [], words, [], SpeechSource.Script) { HasBand = true };
        Assert.True(speech.IsHidden);
        Assert.False((speech with { HasBand = false }).IsHidden);
        Assert.False((speech with { Words = words[1..2] }).IsHidden);
        Assert.False((speech with { Words = [] }).IsHidden);
    }

    [Fact]
    public void Held_frames_count_for_less_only_where_somebody_sings()
    {
        // A sound that stays, then one that changes from frame to frame.
        var random = new Random(3);
        var cepstra = new float[13 * 200];
        for (var f = 0; f < 200; f++)
        for (var k = 0; k < 13; k++)
            cepstra[f * 13 + k] = f < 100 ? k : 60 * random.NextSingle() * (k % 3 == f / 5 % 3 ? 1 : -1);
        var weights = HeldSounds.Weights(cepstra, 13);
        Assert.All(weights[..10], w => Assert.Equal(1, w));
        Assert.All(weights[12..90], w => Assert.InRange(w, 0.01f, 0.5f));
        Assert.All(weights[110..], w => Assert.Equal(1, w));
        float[] loud = [.. Enumerable.Repeat(-4f, 200)];
        Assert.Equal(weights, HeldSounds.InSong(weights, loud, isNoisy: false));
        // In noise, in pauses, and where hardly anything is held, every frame counts.
        Assert.All(HeldSounds.InSong(weights, loud, isNoisy: true), w => Assert.Equal(1, w));
        Assert.All(HeldSounds.InSong(weights, [.. Enumerable.Repeat(4f, 200)], isNoisy: false), w => Assert.Equal(1, w));
        Assert.All(HeldSounds.InSong([.. Enumerable.Repeat(1f, 195), .. weights[50..55]], loud, isNoisy: false), w => Assert.Equal(1, w));
    }

    [Fact]
    public void Where_nobody_sings_more_speaks_against_words_than_anything_for_them()
    {
        var audio = TestData.Wav("librivox/sense_and_sensibility_01_austen_64kb-0870.wav");
        var sound = new HeardSound(TestData.Model, new CepstralFrontEnd(TestData.Model.FrontEnd), audio, 0, default);
        float[] sings = [.. Enumerable.Range(0, sound.Frames + 10).Select(i => i < 200 ? 0.1f : 0.9f)];
        sound.Doubt(LoudnessEnvelope.LevelsDb(audio), null, sings);
        Assert.All(sound.Quiet[..190], q => Assert.InRange(q, 10, 20));
        Assert.Contains(sound.Quiet[210..], q => q < -1);
    }

    [Theory]
    [InlineData("librivox/sense_and_sensibility_01_austen_64kb-0870.wav")]
    [InlineData("librivox/sense_and_sensibility_01_austen_64kb-0890.wav")]
    public void What_a_person_reads_has_no_held_notes(string file)
    {
        var audio = TestData.Wav(file);
        var sound = new HeardSound(TestData.Model, new CepstralFrontEnd(TestData.Model.FrontEnd), audio, 0, default);
        sound.Doubt(LoudnessEnvelope.LevelsDb(audio), null);
        Assert.All(sound.Weights, w => Assert.Equal(1, w));
    }

    [Theory]
    [InlineData("[00:12.50] Rise and bubble", 12.5)]
    [InlineData("[1:02] Rise", 62)]
    [InlineData("[01:02:50] Rise", 62.5)]
    [InlineData("[100:00.125]Rise", 6000.125)]
    [InlineData("<00:01.2>Rise", 1.2)]
    public void Times_within_lyrics_are_read_and_never_spoken(string text, double time)
    {
        var found = Assert.Single(LyricTimes.In(text));
        Assert.Equal(time, found.Time, 1e-9);
        Assert.Equal(text[(text.IndexOfAny(']', '>') is var end ? end + 1 : 0)..].Trim(), Directions.Spoken(text).Trim());
    }

    [Theory]
    [InlineData("At [10:30] sharp she came", 1)]
    [InlineData("the score was 3:2", 0)]
    [InlineData("[laughs] 00:12", 0)]
    [InlineData("[00:1] [0012.5] <00:12", 0)]
    public void What_only_looks_like_a_time_stays(string text, int times) => Assert.Equal(times, LyricTimes.In(text).Count);

    [Fact]
    public void Lyrics_say_in_which_part_of_a_recording_their_words_are_looked_for()
    {
        var query = SpeechQuery.Of("[ti:Bread]\n[00:10.00] Rise and bubble\n[00:14.00] big brown barley", "en");
        Assert.Equal(["Rise", "and", "bubble", "big", "brown", "barley"], ScriptText.Words(query.Script!).Select(w => w.Text));
        var words = LyricTimes.Apply(ScriptText.Words(query.Script!), query.Times!, 8);
        Assert.All(words.Take(3), w => Assert.Equal((1.3, 6.7), (Math.Round(w.Earliest!.Value, 6), Math.Round(w.Latest!.Value, 6))));
        Assert.All(words.Skip(3), w => Assert.Equal((5.3, null), (Math.Round(w.Earliest!.Value, 6), w.Latest)));
        // Times that go backwards are no times.
        Assert.All(LyricTimes.Apply(ScriptText.Words("a b"), [new(0, 5), new(2, 3)], 0), w => Assert.Null(w.Earliest));
        Assert.Null(SpeechQuery.Of("Rise and bubble", "en").Times);
        Assert.Null(SpeechQuery.Of("[laughs]", "en").Script);
    }

    [Fact]
    public void Words_with_a_time_lie_near_it()
    {
        // The same words twice, and half a second between: without a time they are the first ones, with one the second.
        var once = TestData.Raw("goforward.raw");
        var gap = (int)(once.Samples.Length + 8000);
        var twice = new float[gap + once.Samples.Length];
        once.Samples.CopyTo(twice, 0);
        once.Samples.CopyTo(twice, gap);
        var audio = new AudioBuffer(twice, 16000);
        var analyzer = TestData.Analyzer;
        var request = analyzer.Request("go forward ten meters");
        var late = gap / 16000.0;
        var timed = analyzer.Analyze(audio, request with { Words = LyricTimes.Apply(request.Words, [new(0, late)], 0) });
        Assert.Equal(["go", "forward", "ten", "meters"], timed.Words.Select(w => w.Text));
        Assert.All(timed.Words, w => Assert.InRange(w.Start, late - 0.7, audio.Duration));
        var first = analyzer.Analyze(audio, request with { Words = [.. request.Words.Select(w => w with { Latest = late - 1 })] });
        Assert.All(first.Words, w => Assert.InRange(w.Start, 0, late));
    }
}
