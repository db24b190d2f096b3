using System.Globalization;
using System.Text;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>A song whose phone times are known.</summary>
/// <param name="Name">Voice, band and number.</param>
/// <param name="Lyrics">What is sung, a row a phrase.</param>
/// <param name="Mix">Voice and band at 16 kHz, both sides of it together; as loud as each other where somebody sings.</param>
/// <param name="Voice">The voice alone, at 16 kHz.</param>
/// <param name="Times">When each row of the lyrics begins.</param>
/// <param name="Truth">The engine's phones, silences included.</param>
/// <param name="IsHeldOut">Not looked at while anything was chosen.</param>
internal sealed record Song(
    string Name,
    string Lyrics,
    AudioBuffer Mix,
    AudioBuffer Voice,
    IReadOnlyList<LyricTime> Times,
    IReadOnlyList<PhoneSegment> Truth,
    bool IsHeldOut
);

/// <summary>
/// Songs that the benchmark makes by itself: sung by festival's singing mode, accompanied by fluidsynth with the General MIDI sounds of TimGM6mb (all
/// Debian packages), words and tunes of our own.
/// </summary>
internal static class SongSets
{
    // A row is a phrase; hyphens part syllables, a tilde holds one twice as long. "Refrain" comes back word for word.
    private static readonly string[][] Texts =
    [
        [
            "ma-ro bakes the bread~ by moon-light~",
            "bub the o-ven hums~ a tune~",
            "rise and bub-ble big~ brown bar-ley~",
            "we will open soon~",
            "*",
            "keep the em-ber burn-ing~",
            "till the mor-ning comes~",
            "rise and bub-ble big~ brown bar-ley~",
            "we will open soon~",
        ],
        [
            "when the mill is sleep-ing~",
            "and the ri-ver moves~ so slow~",
            "i can hear the vil-lage dream-ing~",
            "of the bread~ i know~",
            "*",
            "bring me but-ter bring me hon-ey~",
            "bring me morn-ing light~",
            "bring me but-ter bring me hon-ey~",
            "all the way home~ to-night~",
        ],
    ];

    // Chords as notes over C3, a bar each; the song goes through them again and again.
    private static readonly int[][][] Chords =
    [
        [
            [7, 11, 14],
            [4, 7, 11],
            [0, 4, 7],
            [2, 6, 9],
        ],
        [
            [0, 4, 7],
            [9, 12, 16],
            [5, 9, 12],
            [7, 11, 14],
        ],
    ];

    // Programs of General MIDI 1 (from memory), from 0: what plays chords, how, the bass, and whether there are drums.
    private static readonly (string Name, int Chord, bool IsBroken, int Bass, bool HasDrums)[] Bands =
    [
        ("piano", 0, false, 33, true),
        ("strings", 48, false, 32, false),
        ("guitar", 25, true, 33, true),
        ("organ", 19, false, 38, true),
    ];

    private static readonly (string Name, string Voice, double Higher)[] Singers =
    [
        ("kal", "voice_kal_diphone", 1),
        ("kal-high", "voice_kal_diphone", 1.7),
        ("ked", "voice_ked_diphone", 1),
        ("ked-high", "voice_ked_diphone", 1.6),
    ];

    /// <summary>What General MIDI sounds like here.</summary>
    public const string SoundFont = "/usr/share/sounds/sf2/TimGM6mb.sf2";

    /// <summary>Each singer with each band, with one of the songs; ked and half of the bands are held out.</summary>
    public static async Task<List<Song>> MakeAsync(string folder, double voiceOverBandDb = 0)
    {
        var songs = new List<Song>();
        for (var s = 0; s < Singers.Length; s++)
        for (var b = 0; b < Bands.Length; b++)
        {
            var isHeldOut = Singers[s].Name.StartsWith("ked", StringComparison.Ordinal);
            // What is tuned on has two bands, what is held out has the two others and one of those.
            if (!isHeldOut && b >= 2 || isHeldOut && b == 0)
                continue;
            songs.Add(await SongAsync(folder, (s + b) % 2, s, b, isHeldOut, voiceOverBandDb));
        }
        return songs;
    }

    private static async Task<Song> SongAsync(string folder, int text, int singer, int group, bool isHeldOut, double voiceOverBandDb)
    {
        var name = $"{Singers[singer].Name}-{Bands[group].Name}-{text}";
        var bpm = text == 0 ? 96 : 112;
        var beat = 60.0 / bpm;
        var path = Path.Combine(folder, "song-" + name);
        int[] scale = [0, 2, 4, 7, 9, 12, 9, 7, 4, 7];
        // Phrases begin on bars: two of the band alone, two in the middle, two at the end.
        var bar = 4 * beat;
        var at = 2 * bar;
        var truth = new List<PhoneSegment>();
        var voice = new List<float>();
        var (times, letters) = (new List<LyricTime>(), 0);
        foreach (var (row, r) in Texts[text].Select((row, r) => (row, r)))
        {
            if (row == "*")
            {
                at += 2 * bar;
                continue;
            }
            var xml = new StringBuilder("<?xml version=\"1.0\"?>\n<!DOCTYPE SINGING PUBLIC \"-//SINGING//DTD SINGING mark up//EN\" \"Singing.v0_1.dtd\" []>\n");
            xml.Append(CultureInfo.InvariantCulture, $"<SINGING BPM=\"{bpm}\">\n");
            var note = r;
            foreach (var word in row.Split(' '))
            {
                var isHeld = word.EndsWith('~');
                var syllables = word.TrimEnd('~').Split('-');
                var notes = syllables.Select(_ => NoteName((text == 0 ? 7 : 0) + scale[note++ % scale.Length])).ToArray();
                var beats = syllables.Select((_, i) => isHeld && i == syllables.Length - 1 ? "1.5" : "0.5").ToArray();
                xml.Append(
                    CultureInfo.InvariantCulture,
                    $"<PITCH NOTE=\"{string.Join(',', notes)}\"><DURATION BEATS=\"{string.Join(',', beats)}\">{string.Concat(syllables)}</DURATION></PITCH>\n"
                );
            }
            xml.Append("</SINGING>\n");
            var (sound, phones) = await SingAsync($"{path}-{r}", xml.ToString(), Singers[singer]);
            var first = (int)(at * 16000);
            while (voice.Count < first)
                voice.Add(0);
            at = first / 16000.0;
            times.Add(new LyricTime(letters, at));
            letters += Written(row).Length + 1;
            if (truth.Count == 0 || truth[^1].End < at)
                truth.Add(new PhoneSegment(Arpabet.Silence, truth.Count == 0 ? 0 : truth[^1].End, at));
            truth.AddRange(phones.Select(p => p with { Start = p.Start + at, End = p.End + at }));
            voice.AddRange(sound);
            at += Math.Ceiling((sound.Length / 16000.0 + 0.15) / bar) * bar;
        }
        at += 2 * bar;
        while (voice.Count < (int)(at * 16000))
            voice.Add(0);
        truth.Add(new PhoneSegment(Arpabet.Silence, truth[^1].End, at));
        var midi = path + ".mid";
        await File.WriteAllBytesAsync(midi, Midi(text, group, bpm, (int)Math.Round(at / bar)));
        await OutsideProgram.RunAsync("fluidsynth", ["-ni", "-g", "0.5", "-r", "44100", "-F", path + ".wav", SoundFont, midi]);
        var band = (await AudioFiles.DecodeAsync(path + ".wav", path, 16000)).Samples;
        var own = voice.ToArray();
        bool[] sung = [.. own.Select((_, i) => truth.Any(p => p.Phone != Arpabet.Silence && i >= p.Start * 16000 && i < p.End * 16000))];
        double Power(Func<int, double> of) => Enumerable.Range(0, Math.Min(own.Length, band.Length)).Where(i => sung[i]).Average(i => of(i) * of(i));
        var gain = (float)Math.Sqrt(Power(i => band[i]) / Power(i => own[i]) * Math.Pow(10, voiceOverBandDb / 10));
        for (var i = 0; i < own.Length; i++)
            own[i] *= gain;
        float[] mix = [.. own.Select((v, i) => v + (i < band.Length ? band[i] : 0))];
        var under = 0.7f / mix.Max(Math.Abs);
        AudioBuffer Scaled(float[] x) => new([.. x.Select(v => v * under)], 16000);
        var lyrics = string.Join('\n', Texts[text].Where(t => t != "*").Select(Written));
        return new Song(name, lyrics, Scaled(mix), Scaled(own), times, truth, isHeldOut);
    }

    private static string Written(string row) => row.Replace("-", "").Replace("~", "");

    private static string NoteName(int overC3) => new[] { "C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B" }[overC3 % 12] + (3 + overC3 / 12);

    private static async Task<(float[] Sound, List<PhoneSegment> Phones)> SingAsync(string path, string xml, (string Name, string Voice, double Higher) singer)
    {
        await File.WriteAllTextAsync(path + ".xml", xml);
        await OutsideProgram.RunAsync(
            "festival",
            [
                "-b",
                $"({singer.Voice})",
                $"(define (keep u) (utt.save.wave u \"{path}.wav\") (utt.save.segs u \"{path}.segs\") u)",
                "(set! tts_hooks (list utt.synth keep))",
                $"(tts_file \"{path}.xml\" 'singing)",
            ]
        );
        // A singer's tone is never still (common practice: five to six times a second); a higher one has the same throat.
        var sung = path + "-sung.wav";
        var higher = singer.Higher == 1 ? "" : FormattableString.Invariant($"rubberband=pitch={singer.Higher}:formant=preserved,");
        // The first milliseconds that ffmpeg's vibrato gives are whatever was in memory, clicks now and then: they are of silence, and cut off.
        const string trembles = "adelay=10:all=1,vibrato=f=5.5:d=0.15,atrim=start=0.01,asetpts=PTS-STARTPTS";
        await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-y", "-i", path + ".wav", "-af", higher + trembles, "-ar", "16000", sung]);
        return ((await AudioFiles.DecodeAsync(sung, sung, 16000)).Samples, SpeechSets.Segments(path + ".segs"));
    }

    // The band, in ticks of a 96th of a beat.
    private static byte[] Midi(int text, int band, int bpm, int bars)
    {
        var events = new List<(int Tick, byte[] Bytes)>();
        void Note(int channel, int key, int start, int length, int velocity)
        {
            events.Add((start, [(byte)(0x90 | channel), (byte)key, (byte)velocity]));
            events.Add((start + length - 1, [(byte)(0x80 | channel), (byte)key, 0]));
        }
        var own = Bands[band];
        events.Add((0, [0xC0, (byte)own.Chord]));
        events.Add((0, [0xC1, (byte)own.Bass]));
        // Chords to the left, bass in the middle, drums a little to the right.
        events.Add((0, [0xB0, 10, 34]));
        events.Add((0, [0xB9, 10, 78]));
        for (var b = 0; b < bars; b++)
        {
            var at = b * 384;
            var chord = Chords[text][b % Chords[text].Length];
            if (own.IsBroken)
                for (var i = 0; i < 8; i++)
                    Note(0, 48 + chord[i % 3] + (i % 4 == 3 ? 12 : 0), at + 48 * i, 90, 84 - i % 2 * 12);
            else
                foreach (var key in chord)
                    for (var half = 0; half < 2; half++)
                        Note(0, 48 + key, at + 192 * half, 188, 72);
            for (var i = 0; i < 4; i++)
                Note(1, 36 + chord[0] % 12, at + 96 * i, 90, 80);
            if (!own.HasDrums)
                continue;
            for (var i = 0; i < 8; i++)
                Note(
                    9,
                    i % 4 == 0 ? 36
                        : i % 4 == 2 ? 38
                        : 42,
                    at + 48 * i,
                    24,
                    i % 2 == 0 ? 80 : 50
                );
        }
        return MidiFile.Of(events, bpm);
    }
}
