using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>Draft words against the transcripts of people reading (LibriVox, in Debian's pocketsphinx-testdata), and where there are no words.</summary>
[Collection("ffmpeg")]
public class WordRecogniserTests : InFolder
{
    private static string[] Spoken(string text) => [.. ScriptText.Words(text).SelectMany(w => w.Spoken)];

    // Least edits (Levenshtein 1966).
    internal static int Edits(string[] a, string[] b)
    {
        var row = Enumerable.Range(0, b.Length + 1).ToArray();
        for (var i = 1; i <= a.Length; i++)
        {
            var corner = row[0];
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
                (corner, row[j]) = (row[j], Math.Min(Math.Min(row[j], row[j - 1]) + 1, corner + (a[i - 1] == b[j - 1] ? 0 : 1)));
        }
        return row[^1];
    }

    private static async Task<string> HeardAsync(string path)
    {
        var audio = await AudioFiles.DecodeAsync(path, Path.GetFileName(path), 16000);
        var voiced = VoiceActivity.FromLevelsAndModel(LoudnessEnvelope.LevelsDb(audio), VoiceModel.Probabilities(audio, default));
        return string.Join(' ', WordRecogniser.Recognise(audio, voiced).Select(w => w.Text));
    }

    [Fact]
    public async Task People_reading_are_written_down_with_one_word_in_twenty_wrong_at_most_also_in_noise()
    {
        int words = 0,
            wrong = 0,
            wrongInNoise = 0;
        foreach (var row in await File.ReadAllLinesAsync(Recordings + "librivox/transcription"))
        {
            var end = row.IndexOf("</s>", StringComparison.Ordinal);
            string[] said = Spoken(row[3..end]);
            var path = $"{Recordings}librivox/{row[(end + 4)..].Trim(' ', '(', ')')}.wav";
            words += said.Length;
            wrong += Edits(said, Spoken(await HeardAsync(path)));
            // Pink noise 15 dB under a reading of about -20 dB.
            var noisy = await FfmpegAsync(
                "noisy.wav",
                "-i",
                path,
                "-f",
                "lavfi",
                "-i",
                "anoisesrc=color=pink:amplitude=0.05:sample_rate=16000:seed=3",
                "-filter_complex",
                "amix=inputs=2:duration=first:normalize=0"
            );
            wrongInNoise += Edits(said, Spoken(await HeardAsync(noisy)));
        }
        Assert.True(words > 60);
        // Two of the transcript's own words are not those of the reading ("mister", "a more a amiable").
        Assert.InRange(wrong, 0, words / 20 + 1);
        Assert.InRange(wrongInNoise, 0, words / 10 + 1);
    }

    [Fact]
    public async Task Where_the_likeliest_next_word_leads_astray_other_readings_are_followed()
    {
        // Word by word the likeliest is "ragged is the dough in"; its end is so unlikely that another beginning is likelier as a whole.
        await OutsideProgram.RunAsync("flite", ["-voice", "slt", "-t", "Every measure of rye gives the dough a darker voice.", "-o", PathOf("rye.wav")]);
        var audio = await AudioFiles.DecodeAsync(PathOf("rye.wav"), "rye.wav", 16000);
        Assert.Contains("gives the dough", string.Join(' ', WordRecogniser.Recognise(audio, [(0, audio.Duration)]).Select(w => w.Text)));
    }

    [Fact]
    public async Task Sentences_have_capitals_and_full_stops()
    {
        var heard = await HeardAsync(Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0930.wav");
        Assert.Equal("He might even have been made amiable himself.", heard);
    }

    [Fact]
    public void What_is_no_speech_has_no_words_and_nothing_is_cut_out_of_order()
    {
        var random = new Random(5);
        var noise = new AudioBuffer([.. Enumerable.Range(0, 48000).Select(_ => 0.2f * (random.NextSingle() - 0.5f))], 16000);
        Assert.Empty(WordRecogniser.Recognise(noise, []));
        Assert.Empty(WordRecogniser.Recognise(new AudioBuffer([], 16000), []));
        Assert.Empty(WordRecogniser.Recognise(noise, [(1, 1.05)]));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Pieces_hold_all_that_is_said_in_order_and_none_is_too_long(int seed)
    {
        var random = new Random(seed);
        var audio = new AudioBuffer([.. Enumerable.Range(0, 120 * 16000).Select(_ => 0.1f * (random.NextSingle() - 0.5f))], 16000);
        var voiced = new List<(double Start, double End)>();
        for (var t = random.NextDouble(); t < 100; )
        {
            var end = Math.Min(119, t + 0.2 + 40 * Math.Pow(random.NextDouble(), 3));
            voiced.Add((t, end));
            t = end + 0.05 + 2 * random.NextDouble();
        }
        var pieces = WordRecogniser.Cut(audio, voiced);
        Assert.All(pieces, p => Assert.InRange(p.End - p.Start, 0.1, 15));
        Assert.All(pieces.Zip(pieces.Skip(1)), p => Assert.True(p.First.End <= p.Second.Start + 1e-9));
        Assert.All(voiced, v => Assert.Equal(v.End - v.Start, pieces.Sum(p => Math.Max(0, Math.Min(p.End, v.End) - Math.Max(p.Start, v.Start))), 6));
    }

    [Theory]
    [InlineData("1 2 3", "1 2 3")]
    [InlineData("1 2 3 2 3 2 3", "1 2 3 2 3 2 3")]
    [InlineData("1 2 3 2 3 2 3 2 3 2 3", "1 2 3")]
    [InlineData("7 7 7 7 7 7 7 7 7 7", "7")]
    [InlineData("4 7 7 7", "4 7 7 7")]
    public void What_is_said_over_and_over_is_said_once(string tokens, string kept) =>
        Assert.Equal(kept, string.Join(' ', WordRecogniser.WithoutLoop([.. tokens.Split(' ').Select(t => (int.Parse(t), 0.0))]).Select(t => t.Token)));

    [Fact]
    public void Tokens_are_pieces_of_words_and_bytes()
    {
        // "▁a", "n" and the two bytes of "é" (UTF-8: C3 A9), by the numbers of the list.
        var words = WordRecogniser.Words([(263, -0.1), (29876, -0.2), (29871, -0.5), (3 + 0xC3, 0), (3 + 0xA9, 0)]);
        Assert.Equal([("an", 0.74), ("é", 0.61)], words.Select(w => (w.Text, Math.Round(w.Likelihood, 2))));
        // Nobody says "♪" (E2 99 AA), which is how a recogniser marks a song.
        Assert.Equal(["an"], WordRecogniser.Words([(29871, 0), (3 + 0xE2, 0), (3 + 0x99, 0), (3 + 0xAA, 0), (263, 0), (29876, 0)]).Select(w => w.Text));
    }

    [Fact]
    public async Task What_was_written_down_before_somebody_broke_it_off_is_not_listened_to_again()
    {
        var path = Directory.EnumerateFiles(Recordings + "librivox", "*.wav").Order().First();
        var one = await AudioFiles.DecodeAsync(path, Path.GetFileName(path), 16000);
        // The same reading over and over, a second apart: several pieces.
        var gap = new float[16000];
        float[] all = [.. Enumerable.Range(0, 6).SelectMany(i => one.Samples.Select(s => s * (1 - 0.05f * i)).Concat(gap))];
        var audio = new AudioBuffer(all, 16000);
        var each = one.Duration + 1;
        (double, double)[] voiced = [.. Enumerable.Range(0, 6).Select(i => (i * each + 0.1, i * each + one.Duration))];
        var pieces = WordRecogniser.Cut(audio, voiced).Count;
        Assert.InRange(pieces, 2, 6);
        var shelf = new DraftShelf(PathOf("drafts"));
        using var stop = new CancellationTokenSource();
        Assert.ThrowsAny<OperationCanceledException>(() => WordRecogniser.Recognise(audio, voiced, _ => stop.Cancel(), stop.Token, shelf));
        var kept = Directory.GetFiles(PathOf("drafts"), "*.json");
        Assert.InRange(kept.Length, 1, pieces);
        // Marked, so that it is seen whence it comes.
        await File.WriteAllTextAsync(kept[0], """[{"Text":"kept","Likelihood":1}]""");
        var words = WordRecogniser.Recognise(audio, voiced, shelf: shelf);
        Assert.Single(words, w => w.Text == "kept");
        Assert.Equal(pieces, Directory.GetFiles(PathOf("drafts"), "*.json").Length);
        // What cannot be read is heard again.
        await File.WriteAllTextAsync(kept[0], "{");
        Assert.DoesNotContain(WordRecogniser.Recognise(audio, voiced, shelf: shelf), w => w.Text == "kept");
    }
}
