using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Laughter and the like: found by what a model names, kept from words, seen in mouth, head and body.</summary>
public class VocalSoundTests
{
    private static readonly FrameRate Rate = new(25);

    // 2 s of "one two" and then a pause of 3 s with sounds.
    private static SpeechAnalysis Speech(params VocalSound[] sounds)
    {
        var levels = new float[500];
        Array.Fill(levels, -60f);
        for (var i = 20; i < 180; i++)
            levels[i] = -22;
        // Calls: 5 a second, each softer than the one before.
        foreach (var s in sounds)
            for (var t = s.Start; t < s.End - 0.01; t += 0.2)
            for (var i = 0; i < 20 && t + i / 100.0 < s.End; i++)
                levels[(int)(100 * t) + i] = -20 - 4 * (float)(t - s.Start) - (i is > 4 and < 12 ? 0 : 14);
        return new SpeechAnalysis(
            5,
            [new("SIL", 0, 0.2), new("W", 0.2, 0.4), new("AH", 0.4, 0.9), new("T", 0.9, 1.1), new("UW", 1.1, 1.8), new("SIL", 1.8, 5)],
            [new WordSegment("one", 0.2, 0.9), new WordSegment("two", 0.9, 1.8)],
            levels,
            SpeechSource.Script
        )
        {
            Sounds = sounds.Length == 0 ? null : sounds,
        };
    }

    private static VocalSound Laugh(double start = 2.4, double end = 3.8) => new(VocalSoundKind.Laugh, start, end);

    // Names frames by their loudest band: the 20th is speech, the 40th laughter, all others nothing.
    private static float[] ByBand(float[] logs, int frames)
    {
        var told = new float[10 * frames];
        for (var f = 0; f < frames; f++)
        {
            var band = Enumerable.Range(0, VocalSounds.Bands).MaxBy(b => logs[b * frames + f]);
            var row =
                logs[band * frames + f] < 0 ? 0
                : band is >= 20 and < 40 ? 1
                : band >= 40 ? 2
                : 0;
            told[row * frames + f] = 1;
        }
        return told;
    }

    private static AudioBuffer Tones(double seconds, params (double Hz, double Start, double End)[] tones) =>
        new(
            [
                .. Enumerable
                    .Range(0, (int)(16000 * seconds))
                    .Select(i => (float)tones.Where(t => i >= 16000 * t.Start && i < 16000 * t.End).Sum(t => 0.2 * Math.Sin(2 * Math.PI * t.Hz * i / 16000))),
            ],
            16000
        );

    [Fact]
    public void What_a_model_names_for_long_enough_is_a_sound()
    {
        // Calls with gaps of a fifth of a second are one laugh; a click is none; what lies in the second piece of a long take is found where it is.
        var audio = Tones(40, (400, 1, 2), (2500, 3, 3.3), (2500, 3.5, 3.9), (2500, 6, 6.1), (2500, 33, 34));
        var found = VocalSounds.Find(audio, ByBand);
        Assert.Equal(2, found.Count);
        Assert.All(found, s => Assert.Equal(VocalSoundKind.Laugh, s.Kind));
        Assert.Equal(3, found[0].Start, 0.06);
        Assert.Equal(3.9, found[0].End, 0.06);
        Assert.Equal(33, found[1].Start, 0.06);
        Assert.InRange(found[1].Confidence, 0.6f, 1);
        Assert.Empty(VocalSounds.Find(new AudioBuffer([], 16000), ByBand));
        Assert.Empty(VocalSounds.Find(new AudioBuffer(new float[32000], 16000), (_, _) => throw new InvalidOperationException("Silence needs no model.")));
    }

    [Fact]
    public void Bands_are_about_a_mel_apart_and_even_over_white_noise()
    {
        // The centre of band k of n lies at k + 1 parts of n + 1 from 60 to 7600 Hz on the mel scale (O'Shaughnessy, 1987).
        foreach (var band in (int[])[5, 30, 60, 79])
        {
            var low = MelFilterBank.Mel(60);
            var hz = MelFilterBank.Hz(low + (band + 1) * (MelFilterBank.Mel(7600) - low) / 81);
            var loudest = -1;
            VocalSounds.Find(
                Tones(1, (hz, 0, 1)),
                (logs, frames) =>
                {
                    loudest = Enumerable.Range(0, VocalSounds.Bands).MaxBy(b => logs[b * frames + frames / 2]);
                    return new float[10 * frames];
                }
            );
            Assert.InRange(loudest, band - 1, band + 1);
        }
    }

    [Fact]
    public void Words_take_their_part_out_of_a_sound()
    {
        VocalSound[] sounds = [Laugh(1, 3), new(VocalSoundKind.Cough, 4, 4.3)];
        Assert.Equal([Laugh(1, 2), Laugh(2.5, 3), sounds[1]], VocalSounds.Without(sounds, [(2, 2.5)]));
        // What is too short to be told goes.
        Assert.Equal([Laugh(1.9, 3)], VocalSounds.Without(sounds, [(1.2, 1.9), (3.9, 4.28)]));
        Assert.Equal([(0.0, 1.0), (3.0, 4.0), (4.3, 6.0)], VocalSounds.Without([(0, 4), (4.1, 6)], sounds));
    }

    [Theory]
    [InlineData("Ha ha ha, he said.", VocalSoundKind.Laugh, true)]
    [InlineData("Hahaha!", VocalSoundKind.Laugh, true)]
    [InlineData("I have a hat.", VocalSoundKind.Laugh, false)]
    [InlineData("He said hi to her.", VocalSoundKind.Laugh, false)]
    [InlineData("Heh.", VocalSoundKind.Laugh, true)]
    [InlineData("Ahem. Order.", VocalSoundKind.Cough, true)]
    [InlineData("Hmm, hmm.", VocalSoundKind.Hum, true)]
    [InlineData("Woohoo, we won!", VocalSoundKind.Cheer, true)]
    [InlineData("Boo-hoo!", VocalSoundKind.Sob, true)]
    [InlineData("Who would hum here?", VocalSoundKind.Hum, false)]
    public void What_is_written_may_be_words(string text, VocalSoundKind kind, bool written)
    {
        var against = VocalSounds.Unwritten([new VocalSound(kind, 1, 2)], ScriptText.Words(text));
        Assert.Equal(written ? 0 : 1, against.Count);
    }

    [Fact]
    public void Marks_by_hand_make_sounds_and_take_them_away()
    {
        var speech = Speech(Laugh());
        Assert.Null(VoiceMarks.Silence(speech, [new VoiceMark(2, 4, false)]).Sounds);
        // Speech after all.
        Assert.Null(VoiceMarks.Silence(speech, [new VoiceMark(2, 4, true)]).Sounds);
        var sobs = VoiceMarks.Silence(speech, [new VoiceMark(2.4, 3.8, false, VocalSoundKind.Sob)]).Sounds;
        Assert.Equal([new VocalSound(VocalSoundKind.Sob, 2.4, 3.8)], sobs);
        // Over words they are silent.
        var over = VoiceMarks.Silence(speech, [new VoiceMark(0.85, 1.9, false, VocalSoundKind.Cough)]);
        Assert.Equal("one", Assert.Single(over.Words).Text);
        Assert.Equal(2, over.Sounds!.Count);
    }

    [Fact]
    public void A_mouth_opens_with_every_call_and_rests_in_the_pauses_around()
    {
        var speech = Speech(Laugh());
        var calls = SoundCues.Calls(speech, Laugh());
        Assert.Equal(7, calls.Count);
        Assert.True(calls[0].Size > calls[^1].Size);
        Assert.Equal(2.4, calls[0].Start, 0.001);
        Assert.Equal(3.8, calls[^1].End, 0.001);
        var track = MouthPass.Evaluate(speech, new MouthDials(), Rate, 0, 125).Frames;
        float Open(double t) => track[Rate.FrameAt(t)].Openness;
        Assert.All(calls.Take(4), c => Assert.True(Open((c.Start + c.Turn) / 2) > 0.3f));
        Assert.True(Open(2.15) < 0.1f && Open(4.3) < 0.02f);
        // Within the laugh the mouth never shuts.
        Assert.True(Enumerable.Range(0, 25).Min(i => Open(2.5 + 0.04 * i)) > 0.1f);
    }

    [Theory]
    [InlineData(VocalSoundKind.Hum, 0, 0.02)]
    [InlineData(VocalSoundKind.Breath, 0.1, 0.4)]
    [InlineData(VocalSoundKind.Sigh, 0.1, 0.5)]
    [InlineData(VocalSoundKind.Whistle, 0.05, 0.4)]
    [InlineData(VocalSoundKind.Cheer, 0.4, 1)]
    public void A_mouth_looks_like_what_it_does(VocalSoundKind kind, double least, double most)
    {
        var track = MouthPass.Evaluate(Speech(new VocalSound(kind, 2.4, 3.8)), new MouthDials(), Rate, 0, 125).Frames;
        var mouth = track[Rate.FrameAt(2.9)];
        Assert.InRange(mouth.Openness, least, most);
        Assert.Equal(kind == VocalSoundKind.Hum, mouth[MouthChannel.Press] > 0.3f);
        Assert.Equal(kind == VocalSoundKind.Whistle, mouth[MouthChannel.Spread] < -0.5f);
        Assert.True(track[Rate.FrameAt(4.5)].Openness < 0.02f);
    }

    private static Pose[] Poses(SpeechAnalysis speech, PerformanceDials? dials = null) =>
        new Performer(new Part { Lines = [new PlacedSpeech(speech, 0, new MouthDials())], Dials = dials ?? new PerformanceDials() }, 5).Evaluate(Rate, 0, 125);

    [Fact]
    public void Who_laughs_shakes_smiles_and_throws_the_head_back()
    {
        Pose[] laughs = Poses(Speech(Laugh())),
            still = Poses(Speech());
        var at = Rate.FrameAt(2.8);
        Assert.True(laughs[at].HeadNod < still[at].HeadNod - 2);
        Assert.True(laughs[at].Squint > 0.2f && laughs[at].Mouth[MouthChannel.CornerLeft] > 0.3f);
        // As often as there are calls the body goes up and down.
        int Turns(Pose[] poses) =>
            Enumerable.Range(Rate.FrameAt(2.5), 30).Count(i => (poses[i].Stretch - poses[i - 1].Stretch) * (poses[i + 1].Stretch - poses[i].Stretch) < -1e-9f);
        Assert.True(Turns(laughs) >= 8);
        Assert.True(Turns(still) <= 2);
        // Before and after all is as it was.
        foreach (var t in (double[])[1, 4.8])
            Assert.Equal(still[Rate.FrameAt(t)].HeadNod, laughs[Rate.FrameAt(t)].HeadNod, 0.01f);
        // Who does not move does not shake.
        var calm = Poses(Speech(Laugh()), new PerformanceDials { Expressiveness = 0, Body = 0 });
        Assert.Equal(Poses(Speech(), new PerformanceDials { Expressiveness = 0, Body = 0 })[at].Stretch, calm[at].Stretch, 0.03f);
    }

    [Fact]
    public void Each_kind_has_its_own_motion()
    {
        var still = Poses(Speech());
        Pose[] Of(VocalSoundKind kind) => Poses(Speech(new VocalSound(kind, 2.4, 3.8)));
        int middle = Rate.FrameAt(3.1),
            late = Rate.FrameAt(3.6);
        Assert.True(Of(VocalSoundKind.Sob)[middle].HeadNod > still[middle].HeadNod + 3);
        Assert.True(Of(VocalSoundKind.Sob)[middle].Mouth[MouthChannel.CornerLeft] < -0.2f);
        Assert.True(Enumerable.Range(60, 36).Max(f => Of(VocalSoundKind.Cough)[f].HeadNod - still[f].HeadNod) > 6);
        Assert.True(Enumerable.Range(60, 36).Min(f => Of(VocalSoundKind.Cough)[f].LidLeft) < 0.2f);
        Assert.True(Of(VocalSoundKind.Sigh)[late].Breath < 0.3f && Of(VocalSoundKind.Breath)[late].Breath > 0.7f);
        Assert.True(Of(VocalSoundKind.Sigh)[late].Stretch < still[late].Stretch - 0.005f);
        // Weary: lids and corners of the mouth come down.
        Assert.True(Of(VocalSoundKind.Sigh)[middle].LidLeft < still[middle].LidLeft - 0.1f);
        Assert.True(Of(VocalSoundKind.Sigh)[middle].Mouth[MouthChannel.CornerLeft] < still[middle].Mouth[MouthChannel.CornerLeft] - 0.05f);
        Assert.True(Enumerable.Range(60, 36).Max(f => Math.Abs(Of(VocalSoundKind.Hum)[f].HeadTilt - still[f].HeadTilt)) > 2);
        Assert.True(Of(VocalSoundKind.Cheer)[middle].ArmRight > still[middle].ArmRight + 30);
    }

    [Fact]
    public void Who_hears_a_laugh_smiles_and_looks_there()
    {
        Pose[] Listener(SpeechAnalysis speech)
        {
            var other = new Partner(0.6f, [new PlacedSpeech(speech, 0, new MouthDials())]);
            return new Performer(
                new Part
                {
                    Partners = [other],
                    Dials = new PerformanceDials { Listening = 1 },
                },
                5
            ).Evaluate(Rate, 0, 125);
        }
        float Corner(Pose[] poses, double t) => poses[Rate.FrameAt(t)].Mouth[MouthChannel.CornerLeft];
        Assert.True(Corner(Listener(Speech(Laugh())), 3.9) > Corner(Listener(Speech()), 3.9) + 0.15f);
        // A line that is nothing but a laugh is a turn, too.
        var only = Speech(Laugh()) with
        {
            Words = [],
            Phones = [new PhoneSegment("SIL", 0, 5)],
        };
        var one = new Performer(new Part { Partners = [new Partner(0.6f, [new PlacedSpeech(only, 0, new MouthDials())])] }, 5);
        Assert.Contains(Enumerable.Range(0, 20), i => one.LooksAt(2.6 + 0.05 * i) == 0);
    }

    [Fact]
    public void Captions_tell_what_was_heard_where_nothing_is_written()
    {
        WordSegment[] words = [new("You", 1, 1.4), new("came.", 3, 3.4)];
        VocalSound[] heard = [Laugh(1.6, 2.6), new(VocalSoundKind.Breath, 2.7, 3), new(VocalSoundKind.Cough, 3.6, 4)];
        Assert.Equal("You [laughs] came. [coughs]", string.Join(' ', SoundWords.Between(words, "You came.", 4, heard).Select(w => w.Text)));
        // A hand knows better.
        Assert.Equal("You [chuckles] came.", string.Join(' ', SoundWords.Between(words, "You (chuckles) came.", 4, heard).Select(w => w.Text)));
    }

    [Fact]
    public void Files_out_tell_them()
    {
        using var stream = new MemoryStream();
        SpeechExports.WriteJson(stream, Speech(Laugh()), new MouthDials());
        using var json = System.Text.Json.JsonDocument.Parse(stream.ToArray());
        var told = Assert.Single(json.RootElement.GetProperty("sounds").EnumerateArray());
        Assert.Equal(("laugh", 2.4, 3.8), (told.GetProperty("sound").GetString(), told.GetProperty("start").GetDouble(), told.GetProperty("end").GetDouble()));
    }

    [Fact]
    public void Sounds_go_along_when_a_take_is_trimmed_or_cut_from_its_recording()
    {
        var speech = Speech(Laugh());
        var cared = CaredSpeech.Map(speech, new VoiceCare { TrimStart = 1, TrimEnd = 1.6 });
        Assert.Equal([Laugh(1.4, 2.4)], cared.Sounds!.Select(s => s with { Start = Math.Round(s.Start, 3), End = Math.Round(s.End, 3) }));
        var later = CaredSpeech.Elsewhere([(speech, 10)], 11, new AudioBuffer(new float[16000 * 4], 16000));
        Assert.Equal(1.4, Assert.Single(later.Sounds!).Start, 0.001);
        // Laughter is no dead air, a breath is.
        Assert.Equal(1, CaredSpeech.DeadAir(speech).End, 0.001);
        Assert.Equal(5 - 2, CaredSpeech.DeadAir(Speech(new VocalSound(VocalSoundKind.Breath, 2.4, 3.8))).End, 0.001);
    }
}
