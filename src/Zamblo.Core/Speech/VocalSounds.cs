using System.Text.Json.Serialization;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>What a voice does that is no speech.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<VocalSoundKind>))]
public enum VocalSoundKind
{
    /// <summary>Laughter, a chuckle.</summary>
    Laugh,

    /// <summary>Crying.</summary>
    Sob,

    /// <summary>A breath out that is heard.</summary>
    Sigh,

    /// <summary>A breath in that is heard.</summary>
    Breath,

    /// <summary>Coughs, and a throat that is cleared.</summary>
    Cough,

    /// <summary>Humming with the lips shut.</summary>
    Hum,

    /// <summary>Whistling with the lips.</summary>
    Whistle,

    /// <summary>"Woo": a shout of joy without words.</summary>
    Cheer,
}

/// <summary>One of them in time.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Start">In seconds of the take.</param>
/// <param name="End">In seconds; greater than <paramref name="Start"/>.</param>
/// <param name="Confidence">0 to 1; 1 where somebody said so.</param>
public readonly record struct VocalSound(VocalSoundKind Kind, double Start, double End, float Confidence = 1)
{
    /// <summary>Length in seconds.</summary>
    [JsonIgnore]
    public double Duration => End - Start;
}

/// <summary>
/// How likely each frame is nothing, speech, or a kind in the order of <see cref="VocalSoundKind"/>. Shape of the answer: 10 x frames, row by row.
/// </summary>
/// <param name="logs">Shape: <see cref="VocalSounds.Bands"/> x frames, row by row.</param>
/// <param name="frames">How many.</param>
public delegate float[] VocalSoundModel(float[] logs, int frames);

/// <summary>Finds laughter, sobs, breaths and the like in a take: a model names each frame, what lasts is a sound.</summary>
public static partial class VocalSounds
{
    /// <summary>Mel bands of a frame.</summary>
    public const int Bands = MelLogs.Bands;

    // Frames that are told at once, and as many to both sides as the model sees (132 in its layers together, rounded up).
    private const int Piece = 3000,
        Around = 140;

    private static readonly VocalSoundKind[] Kinds = Enum.GetValues<VocalSoundKind>();

    // Before the kinds the model has "nothing" and "speech".
    private const int Others = 2;

    // Frames of a moment over which answers are evened.
    private const int Even = 4;

    // A sound begins where a kind is so likely, goes on while it is so likely, and over gaps of so many seconds, as between the calls of a laugh. (Chosen on
    // the bench's sounds.)
    private const float On = 0.5f,
        Off = 0.3f;

    private static double GapOf(VocalSoundKind kind) => kind is VocalSoundKind.Breath or VocalSoundKind.Sigh ? 0.05 : 0.35;

    // A sound shorter than this is not told, in seconds.
    private static double LeastOf(VocalSoundKind kind) =>
        kind switch
        {
            VocalSoundKind.Laugh or VocalSoundKind.Sob or VocalSoundKind.Sigh or VocalSoundKind.Cheer => 0.3,
            VocalSoundKind.Cough => 0.1,
            _ => 0.2,
        };

    /// <summary>What somebody does who is heard so, as captions have it.</summary>
    public static string NameOf(VocalSoundKind kind) =>
        kind switch
        {
            VocalSoundKind.Laugh => "laughs",
            VocalSoundKind.Sob => "sobs",
            VocalSoundKind.Sigh => "sighs",
            VocalSoundKind.Breath => "breathes in",
            VocalSoundKind.Cough => "coughs",
            VocalSoundKind.Hum => "hums",
            VocalSoundKind.Whistle => "whistles",
            _ => "cheers",
        };

    /// <summary>Finds them.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="model">Names frames.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>In order, apart.</returns>
    public static IReadOnlyList<VocalSound> Find(AudioBuffer audio, VocalSoundModel model, CancellationToken cancel = default)
    {
        var frames = audio.Samples.Length / ShortTimeSpectrum.Shift;
        var likely = new float[Kinds.Length][];
        for (var k = 0; k < Kinds.Length; k++)
            likely[k] = new float[frames];
        var tones = new SoundShapes.Tone[frames];
        var spectrum = new ShortTimeSpectrum(audio.Samples);
        for (var at = 0; at < frames; at += Piece)
        {
            cancel.ThrowIfCancellationRequested();
            int first = Math.Max(0, at - Around),
                end = Math.Min(frames, at + Piece + Around);
            if (MelLogs.Of(spectrum, first, end, (f, power) => tones[f] = SoundShapes.ToneOf(power)) is not { } logs)
                continue;
            var told = model(logs, end - first);
            for (var k = 0; k < Kinds.Length; k++)
                told.AsSpan((k + Others) * (end - first) + at - first, Math.Min(Piece, frames - at)).CopyTo(likely[k].AsSpan(at));
        }
        var found = new List<VocalSound>();
        for (var k = 0; k < Kinds.Length; k++)
            if (Kinds[k] != VocalSoundKind.Whistle)
                found.AddRange(Stretches(Kinds[k], Evened(likely[k])));
        return Apart([.. SoundShapes.WithSighs(audio, found, tones), .. SoundShapes.Whistles(tones)]);
    }

    /// <summary>Sounds without what of them lies within given stretches, and without what is then too short to tell.</summary>
    /// <param name="sounds">In order.</param>
    /// <param name="taken">Stretches in seconds, in any order.</param>
    public static IReadOnlyList<VocalSound> Without(IReadOnlyList<VocalSound> sounds, IEnumerable<(double Start, double End)> taken)
    {
        var left = sounds.ToList();
        foreach (var (start, end) in taken)
            for (var i = left.Count - 1; i >= 0; i--)
            {
                var sound = left[i];
                if (sound.Start >= end || sound.End <= start)
                    continue;
                left.RemoveAt(i);
                foreach (var rest in (VocalSound[])[sound with { Start = Math.Max(sound.Start, end) }, sound with { End = Math.Min(sound.End, start) }])
                    if (rest.Duration >= LeastOf(rest.Kind))
                        left.Insert(i, rest);
            }
        return left;
    }

    /// <summary>Those against which no script speaks: where "ha ha" is written, laughter may be words.</summary>
    /// <param name="sounds">Null for none.</param>
    /// <param name="words">What is said.</param>
    public static IReadOnlyList<VocalSound> Unwritten(IReadOnlyList<VocalSound>? sounds, IReadOnlyList<ScriptWord> words)
    {
        if (sounds == null)
            return [];
        var written = words.SelectMany(w => w.Spoken).SelectMany(KindsOf).ToHashSet();
        return [.. sounds.Where(s => !written.Contains(s.Kind))];
    }

    // What words that imitate a sound may be heard as: "haha", "hmm", "ah", "ahem", "woo", "boo-hoo".
    private static IEnumerable<VocalSoundKind> KindsOf(string word)
    {
        if (word.Length <= 12 && Imitation().Match(word) is { Success: true } match)
            for (var k = 0; k < Kinds.Length; k++)
                if (match.Groups[Kinds[k].ToString()].Success)
                    yield return Kinds[k];
        if (word is "ah" or "aah" or "oh" or "ooh" or "phew" or "ugh")
            yield return VocalSoundKind.Sigh;
    }

    [GeneratedRegex(
        "^(?:(?<Laugh>a?ha+h?|he+h|hee+|(?:a?h[aeio]+h?-?){2,})|(?<Sob>boo+-?(?:hoo+)*|hoo+|waa+h?)|(?<Sigh>a+h+|haa+h?)|(?<Cough>ahem|k?hem)"
            + "|(?<Hum>h?m+|(?:h?m+-?)+|u+h-?hu+h|(?:la|na)+)"
            + "|(?<Whistle>whew)|(?<Cheer>w+o+(?:-?hoo+)?|woohoo|ya+y|whee+|hurra[hy]|hooray|yippee|yahoo))$"
    )]
    private static partial Regex Imitation();

    /// <summary>Voiced stretches without the sounds in them.</summary>
    public static IReadOnlyList<(double Start, double End)> Without(IReadOnlyList<(double Start, double End)> voiced, IReadOnlyList<VocalSound> sounds)
    {
        var left = new List<(double Start, double End)>();
        foreach (var (start, end) in voiced)
        {
            var at = start;
            foreach (var sound in sounds)
            {
                if (sound.End <= at || sound.Start >= end)
                    continue;
                if (sound.Start - at > 0.05)
                    left.Add((at, sound.Start));
                at = Math.Max(at, sound.End);
            }
            if (end - at > 0.05)
                left.Add((at, end));
        }
        return left;
    }

    private static float[] Evened(float[] values)
    {
        var evened = new float[values.Length];
        for (var i = 0; i < values.Length; i++)
        {
            int from = Math.Max(0, i - Even),
                to = Math.Min(values.Length - 1, i + Even);
            float sum = 0;
            for (var k = from; k <= to; k++)
                sum += values[k];
            evened[i] = sum / (to - from + 1);
        }
        return evened;
    }

    private static List<VocalSound> Stretches(VocalSoundKind kind, float[] likely)
    {
        var found = new List<(int From, int To)>();
        for (var i = 0; i < likely.Length; i++)
        {
            if (likely[i] < On)
                continue;
            int from = i,
                to = i;
            while (from > 0 && likely[from - 1] >= Off)
                from--;
            while (to + 1 < likely.Length && likely[to + 1] >= Off)
                to++;
            if (found.Count > 0 && from - found[^1].To <= 100 * GapOf(kind))
                found[^1] = (found[^1].From, to + 1);
            else
                found.Add((from, to + 1));
            i = to;
        }
        var sounds = new List<VocalSound>();
        foreach (var (from, to) in found)
            if (to - from >= 100 * LeastOf(kind))
                sounds.Add(new VocalSound(kind, from / 100.0, to / 100.0, likely.AsSpan(from, to - from) is var own ? Mean(own) : 0));
        return sounds;
    }

    private static float Mean(ReadOnlySpan<float> values)
    {
        float sum = 0;
        foreach (var v in values)
            sum += v;
        return MathF.Round(sum / values.Length, 3);
    }

    // Of two at one time the surer one stands.
    private static List<VocalSound> Apart(List<VocalSound> found)
    {
        IReadOnlyList<VocalSound> kept = [];
        foreach (var sound in found.OrderByDescending(s => s.Confidence * Math.Min(1, s.Duration)))
            kept = [.. kept, .. Without([sound], kept.Select(k => (k.Start, k.End)))];
        return [.. kept.OrderBy(k => k.Start)];
    }

    // 80 triangles on the mel scale, each of a sum of 1; one that is narrower than a bin takes the nearest. As the model learned them.
}
