using System.Globalization;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>A take in which somebody speaks, does something else, and speaks again.</summary>
/// <param name="Name">Where the sound comes from.</param>
/// <param name="Text">What is said before and after.</param>
/// <param name="Audio">At 16 kHz.</param>
/// <param name="Truth">The sound.</param>
internal sealed record VocalTake(string Name, string Text, AudioBuffer Audio, VocalSound Truth);

/// <summary>
/// Laughs and the like between sentences, made by programs that nothing was learned from in this form: laughs and cheers spoken by flite and espeak-ng, hums
/// and sighs written for espeak-ng in its phonemes, whistles as tones in breath; and, where Debian's package hedgewars-data is installed, people of
/// its voice packs who laugh and cough (recordings of the package's own volunteers). All of it is held out.
/// </summary>
internal static class VocalSets
{
    private const string Recorded = "/usr/share/games/hedgewars/Data/Sounds/voices";

    // Level of what is heard beside the sentences' own, in dB, by kind.
    private static double LevelOf(VocalSoundKind kind) => kind is VocalSoundKind.Sigh ? -14 : -3;

    /// <summary>All takes; each sound comes between two halves of a sentence.</summary>
    /// <param name="folder">For files.</param>
    /// <param name="set">Sentences, spoken.</param>
    public static async Task<List<VocalTake>> MakeAsync(string folder, IReadOnlyList<Utterance> set)
    {
        var sounds = new List<(string Name, VocalSoundKind Kind, AudioBuffer Audio)>();
        async Task Spoken(string name, VocalSoundKind kind, string program, params string[] arguments)
        {
            var wav = Path.Combine(folder, $"vocal-{name}.wav");
            await OutsideProgram.RunAsync(program, [.. arguments.Select(a => a == "*" ? wav : a)]);
            sounds.Add((name, kind, Trimmed(await AudioFiles.DecodeAsync(wav, wav, 16000))));
        }
        foreach (var (voice, tone) in new[] { ("awb", 150), ("awb", 190), ("awb", 240), ("awb", 300) })
        foreach (var (text, n) in new[] { ("ha ha ha ha ha", 0), ("heh heh heh", 1) })
            await Spoken(
                $"flite-{voice}-{tone}-{n}",
                VocalSoundKind.Laugh,
                "flite",
                ["-voice", voice, "--setf", $"int_f0_target_mean={tone}", "--setf", "duration_stretch=0.7", "-t", text, "-o", "*"]
            );
        foreach (var voice in (string[])["en-us+m2", "en-gb+f1", "en-us+f5", "de+m4", "fr+m6"])
        {
            var name = voice.Replace('+', '-');
            await Spoken($"laugh-{name}", VocalSoundKind.Laugh, "espeak-ng", ["-v", voice, "-s", "190", "-p", "75", "-w", "*", "[[ha#_ha#_ha#_ha#_ha#]]"]);
            await Spoken($"hum-{name}", VocalSoundKind.Hum, "espeak-ng", ["-v", voice, "-s", "100", "-w", "*", "[[m:m:m:m:m:m:m:]]"]);
            await Spoken($"cheer-{name}", VocalSoundKind.Cheer, "espeak-ng", ["-v", voice, "-s", "80", "-p", "90", "-w", "*", "[[wu:u:u:hu:u:u:u:]]"]);
            await Spoken($"sigh-{name}", VocalSoundKind.Sigh, "espeak-ng", ["-v", voice.Split('+')[0] + "+whisper", "-s", "80", "-w", "*", "[[ha:a:a:a:]]"]);
        }
        foreach (var (notes, n) in new[] { (new[] { 1175, 1568, 1760, 1397, 1175 }, 0), (new[] { 2093, 1760, 1568 }, 1), (new[] { 1319, 2637 }, 2) })
            sounds.Add(($"whistle-{n}", VocalSoundKind.Whistle, Whistled(notes, n)));
        var known = new HashSet<string>();
        foreach (var (file, kind) in new[] { ("Laugh.ogg", VocalSoundKind.Laugh), ("PoisonCough.ogg", VocalSoundKind.Cough) })
        foreach (var path in Recordings(file))
            if (known.Add(Convert.ToHexString(System.Security.Cryptography.SHA256.HashData(await File.ReadAllBytesAsync(path)))))
                sounds.Add(($"recorded-{Path.GetFileName(Path.GetDirectoryName(path))}", kind, Trimmed(await AudioFiles.DecodeAsync(path, path, 16000))));
        return [.. sounds.Select((s, i) => Between(set[5 * i % set.Count], s.Name, s.Kind, s.Audio, i))];
    }

    /// <summary>People who exclaim, taunt and shout single words: nothing that they do is laughter. Seconds, and what is found in them.</summary>
    public static async IAsyncEnumerable<(string Name, AudioBuffer Audio)> ExclamationsAsync()
    {
        string[] unsure = ["Laugh", "PoisonCough", "PoisonMoan", "Hmm", "Ooff", "Ow", "Ouch", "Jump", "Nooo", "Uh-oh"];
        var known = new HashSet<string>();
        foreach (var path in Recordings("*.ogg"))
        {
            if (unsure.Any(u => Path.GetFileName(path).StartsWith(u, StringComparison.Ordinal)))
                continue;
            if (known.Add(Convert.ToHexString(System.Security.Cryptography.SHA256.HashData(await File.ReadAllBytesAsync(path)))))
                yield return (path[Recorded.Length..], await AudioFiles.DecodeAsync(path, path, 16000));
        }
    }

    private static string[] Recordings(string pattern) =>
        Directory.Exists(Recorded) ? [.. Directory.GetFiles(Recorded, pattern, SearchOption.AllDirectories).Order()] : [];

    // At the pause in the middle of a sentence, or after its first words; faint noise under all of it, so that nothing is digital silence.
    private static VocalTake Between(Utterance u, string name, VocalSoundKind kind, AudioBuffer sound, int seed)
    {
        var inside = u.Truth.Where(p => p.Start > 0.25 && p.End < u.Audio.Duration - 0.25).ToArray();
        var pause = inside.Where(p => p.Phone == Arpabet.Silence).DefaultIfEmpty(u.Truth[^1]).MaxBy(p => p.Duration);
        var cut = Math.Min(u.Audio.Samples.Length, (int)(16000 * (pause.Start + pause.End) / 2));
        double Power(float[] x) => x.Select(v => (double)v * v).OrderDescending().Take(Math.Max(1, x.Length / 2)).Average();
        var gain = (float)(Math.Sqrt(Power(u.Audio.Samples) / Power(sound.Samples)) * Math.Pow(10, LevelOf(kind) / 20));
        var gap = new float[5600];
        float[] all = [.. u.Audio.Samples[..cut], .. gap, .. sound.Samples.Select(v => v * gain), .. gap, .. u.Audio.Samples[cut..]];
        var noise = SpeechSets.Pink(all.Length, seed);
        var floor = (float)(Math.Sqrt(Power(u.Audio.Samples)) * Math.Pow(10, -45 / 20.0) / Math.Sqrt(noise.Average(v => (double)v * v)));
        for (var i = 0; i < all.Length; i++)
            all[i] += noise[i] * floor;
        var start = (cut + gap.Length) / 16000.0;
        return new VocalTake(name, u.Text, new AudioBuffer(all, 16000), new VocalSound(kind, start, start + sound.Duration));
    }

    // One tone with a little of its octave, that glides from note to note and trembles, in the breath that makes it.
    private static AudioBuffer Whistled(int[] notes, int seed)
    {
        const int note = 6400;
        var sound = SpeechSets.Pink(notes.Length * note, 100 + seed);
        var breath = 0.05f / (float)Math.Sqrt(sound.Average(v => (double)v * v));
        double phase = 0,
            hz = notes[0];
        for (var i = 0; i < sound.Length; i++)
        {
            hz += (notes[i / note] - hz) / 500;
            phase += 2 * Math.PI * hz * (1 + 0.006 * Math.Sin(2 * Math.PI * 5.5 * i / 16000)) / 16000;
            var edge = Math.Min(1, Math.Min(i, sound.Length - 1 - i) / 800.0);
            sound[i] = (float)(edge * (Math.Sin(phase) + 0.03 * Math.Sin(2 * phase) + breath * sound[i]));
        }
        return new AudioBuffer(sound, 16000);
    }

    private static AudioBuffer Trimmed(AudioBuffer audio)
    {
        var least = 0.03f * audio.Samples.Max(Math.Abs);
        int first = Math.Max(0, Array.FindIndex(audio.Samples, x => Math.Abs(x) > least)),
            last = Array.FindLastIndex(audio.Samples, x => Math.Abs(x) > least);
        return new AudioBuffer(audio.Samples[first..(last + 1)], audio.SampleRate);
    }
}
