using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class PhoneEvidenceTests
{
    // Silence and the 39 phones of the dictionary.
    private const int Phones = 40;

    private static int PlaceOf(string phone) => 1 + Arpabet.Phones.ToList().IndexOf(phone);

    private static AudioBuffer Tone(double hz, double seconds) =>
        new([.. Enumerable.Range(0, (int)(16000 * seconds)).Select(i => 0.2f * MathF.Sin((float)(2 * Math.PI * hz * i / 16000)))], 16000);

    // A network that is as sure as it is told to be of one phone before a frame of the sound, and of another from there on.
    internal static PhoneModel Turns(string before, string after, int at, float sure)
    {
        var first = 0;
        return (logs, frames) =>
        {
            var start = first;
            // What it sees to both sides comes again with the next piece.
            first += frames - (first == 0 ? 64 : 128);
            return
            [
                .. Enumerable
                    .Range(0, Phones * frames)
                    .Select(i => i / frames == PlaceOf((start == 0 ? 0 : start - 64) + i % frames < at ? before : after) ? sure : -sure),
            ];
        };
    }

    [Fact]
    public void Speech_is_told_in_pieces_with_what_the_network_sees_to_both_sides()
    {
        var asked = new List<int>();
        var sound = Tone(300, 9);
        var evidence = PhoneEvidence.OfSpeech(
            sound,
            (logs, frames) =>
            {
                Assert.Equal(PhoneEvidence.SpokenInputs * frames, logs.Length);
                asked.Add(frames);
                return [.. Enumerable.Range(0, Phones * frames).Select(i => i / frames == PlaceOf("B") ? 3f : -90f)];
            }
        );
        Assert.Equal([576, 453], asked);
        var places = PhoneEvidence.PlacesOf(TestData.Model);
        float[] At(double time)
        {
            var values = new float[places.Length];
            evidence.At(time, places, values);
            return values;
        }
        Assert.Equal("B", TestData.Model.PhoneNames[Array.IndexOf(At(4.5), 3f)]);
        // Nothing is ruled out by it, and a time outside is the nearest inside.
        Assert.Equal(-6, At(4.5).Min());
        Assert.Equal(At(0), At(-1));
        Assert.Equal(At(9), At(1000));
    }

    [Fact]
    public void Between_two_frames_part_of_both_is_told()
    {
        var evidence = PhoneEvidence.OfSpeech(Tone(300, 1), Turns("AA", "IY", 50, 2));
        int one = PlaceOf("AA"),
            other = PlaceOf("IY");
        Assert.Equal(4, evidence.Between(0.2, one, other), 1e-3);
        Assert.Equal(4, evidence.Between(0.49, one, other), 1e-3);
        Assert.Equal(0, evidence.Between(0.495, one, other), 1e-3);
        Assert.Equal(-2, evidence.Between(0.4975, one, other), 1e-3);
        Assert.Equal(-4, evidence.Between(0.5, one, other), 1e-3);
        Assert.Equal(-4, evidence.Between(3, one, other), 1e-3);
    }

    [Theory]
    [InlineData(0.488)]
    [InlineData(0.512)]
    public void A_boundary_goes_to_where_the_network_hears_it_when_the_sound_says_nothing(double decoded)
    {
        var sound = Tone(300, 1);
        IReadOnlyList<PhoneSegment> phones = [new("AA", 0.3, decoded), new("IY", decoded, 0.7)];
        var told = BoundaryRefiner.Refine(phones, sound, evidence: PhoneEvidence.OfSpeech(sound, Turns("AA", "IY", 50, 3)));
        Assert.Equal(0.495, told[1].Start, 0.006);
        // Two that sound alike to it are told apart as before.
        var alike = BoundaryRefiner.Refine(phones, sound, evidence: PhoneEvidence.OfSpeech(sound, Turns("B", "B", 50, 3)));
        Assert.Equal(BoundaryRefiner.Refine(phones, sound)[1].Start, alike[1].Start, 1e-6);
    }

    [Fact]
    public void What_is_said_is_heard_by_both_models()
    {
        PhoneModel sure = (_, frames) => [.. Enumerable.Range(0, Phones * frames).Select(i => i / frames == PlaceOf("B") ? 4f : -6f)];
        var speech = TestData.Raw("goforward.raw");
        double Share(SpeechAnalyzer of) => of.Analyze(speech).Phones.Where(p => p.Phone == "B").Sum(p => p.Duration);
        var plain = Share(TestData.Analyzer);
        Assert.True(Share(new SpeechAnalyzer(TestData.Model, TestData.Dictionary, spoken: sure)) > plain + 0.1);
        // A network of songs is not asked where nobody sings.
        Assert.Equal(plain, Share(new SpeechAnalyzer(TestData.Model, TestData.Dictionary, sung: sure)));
    }
}
