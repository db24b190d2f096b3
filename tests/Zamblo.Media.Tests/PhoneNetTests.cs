using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>
/// The network of speech, in a voice of flite that it did not learn from, which tells its own times, and in people who read (LibriVox, public domain).
/// </summary>
[Collection("ffmpeg")]
public partial class PhoneNetTests : InFolder
{
    private const string Sentence = "Put the rolls on the shelf before the big brown bags of barley fall.";

    private async Task<(AudioBuffer Speech, List<PhoneSegment> Truth)> SayAsync()
    {
        var told = await OutsideProgram.RunAsync("flite", ["-voice", "awb", "-t", Sentence, "-o", PathOf("awb.wav"), "-psdur"]);
        var (truth, at) = (new List<PhoneSegment>(), 0.0);
        foreach (Match m in Told().Matches(Encoding.ASCII.GetString(told.Output)))
        {
            var end = double.Parse(m.Groups[2].Value, CultureInfo.InvariantCulture);
            truth.Add(new PhoneSegment(Flite.PhoneOf(m.Groups[1].Value), at, end));
            at = end;
        }
        return (await AudioFiles.DecodeAsync(PathOf("awb.wav"), "awb.wav", 16000), truth);
    }

    [GeneratedRegex(@"([a-z]+):([\d.]+)")]
    private static partial Regex Told();

    // Of the frames of speech how many are the phone that most speaks for.
    private static double Right(PhoneEvidence evidence, IReadOnlyList<PhoneSegment> truth)
    {
        var model = SpeechModels.Analyzer.Model;
        var places = PhoneEvidence.PlacesOf(model);
        var values = new float[places.Length];
        var (right, all) = (0, 0);
        foreach (var p in truth.Where(p => !Arpabet.IsSilent(p.Phone)))
            for (var t = p.Start; t < p.End; t += 0.01, all++)
            {
                evidence.At(t, places, values);
                right += model.PhoneNames[Array.IndexOf(values, values.Max())] == p.Phone ? 1 : 0;
            }
        return (double)right / all;
    }

    [Theory]
    [InlineData(0, 0.55)]
    [InlineData(0.02f, 0.4)]
    public async Task What_a_voice_says_that_it_never_heard_is_told_in_quiet_and_in_noise(float hiss, double least)
    {
        var (speech, truth) = await SayAsync();
        var random = new Random(1);
        var heard = new AudioBuffer([.. speech.Samples.Select(x => x + hiss * (2 * random.NextSingle() - 1))], 16000);
        var right = Right(PhoneEvidence.OfSpeech(heard, PhoneNets.Spoken), truth);
        // By chance it would be one in forty.
        Assert.True(right > least, $"{100 * right:0} % of the frames");
    }

    [Fact]
    public async Task What_people_read_is_told_as_the_acoustic_model_has_it()
    {
        const string folder = "/usr/share/pocketsphinx/test/data/librivox/";
        var own = SpeechModels.Analyzer;
        var plain = new SpeechAnalyzer(own.Model, own.Dictionary, voice: VoiceModel.Probabilities);
        foreach (var row in (await File.ReadAllLinesAsync(folder + "transcription")).Take(3))
        {
            var at = row.LastIndexOf('(');
            var (name, text) = (row[(at + 1)..^1], row[..at].Replace("<s>", "").Replace("</s>", "").Trim());
            var speech = await AudioFiles.DecodeAsync(folder + name + ".wav", name, 16000);
            var right = Right(PhoneEvidence.OfSpeech(speech, PhoneNets.Spoken), plain.Analyze(speech, text).Phones);
            Assert.True(right > 0.4, $"{name}: {100 * right:0} % of the frames");
        }
    }

    [Fact]
    public async Task A_word_that_nobody_wrote_down_is_heard_better_with_it()
    {
        var (speech, truth) = await SayAsync();
        var own = SpeechModels.Analyzer;
        double Share(PhoneModel? spoken)
        {
            var heard = new SpeechAnalyzer(own.Model, own.Dictionary, voice: VoiceModel.Probabilities, spoken: spoken).Analyze(speech).Phones;
            var times = truth
                .Where(p => !Arpabet.IsSilent(p.Phone))
                .SelectMany(p => Enumerable.Range(0, (int)(100 * p.Duration)).Select(k => (p.Phone, At: p.Start + k / 100.0)));
            return times.Average(x => heard.Any(h => h.Phone == x.Phone && h.Start <= x.At && x.At < h.End) ? 1 : 0);
        }
        var (with, without) = (Share(PhoneNets.Spoken), Share(null));
        Assert.True(with > without + 0.03, $"{100 * with:0} % of the frames in place of {100 * without:0}");
    }
}
