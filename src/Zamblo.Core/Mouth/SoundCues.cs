using Zamblo.Core.Speech;

namespace Zamblo.Core.Mouth;

/// <summary>
/// What a mouth does while a voice laughs, sobs, breathes, coughs, hums, whistles or cheers (common practice of animators, chosen by eye): it opens with each
/// call of a laugh and each cough, is a little open for breath, round for a sigh, shut for a hum, puckered for a whistle, wide for a cheer.
/// </summary>
public static class SoundCues
{
    /// <summary>Whether a cue comes of such a sound: calls come as they are heard, however few shapes speech is to have.</summary>
    public static bool Is(Cue cue) => cue.Shape != MouthShape.Rest && Arpabet.IsSilent(cue.Phone);

    /// <summary>Cues of a sound, without gaps.</summary>
    /// <param name="speech">Whose level is followed.</param>
    /// <param name="sound">Which.</param>
    /// <param name="strength">Of the mouth, 0 to 1.5.</param>
    public static IEnumerable<Cue> Of(SpeechAnalysis speech, VocalSound sound, float strength)
    {
        Cue Held(MouthShape shape, float size, double start, double end) =>
            new(shape, start, (start + end) / 2, end, Math.Clamp(size * strength, 0, 1.5f), Arpabet.Silence, sound.Confidence);
        var (start, end) = (sound.Start, sound.End);
        switch (sound.Kind)
        {
            case VocalSoundKind.Breath:
                return [Held(MouthShape.Open, 0.3f, start, end)];
            case VocalSoundKind.Sigh:
                // The mouth is shut again before all of the breath is out.
                var shut = start + 0.75 * sound.Duration;
                return [Held(MouthShape.Round, 0.5f, start, shut), Held(MouthShape.Rest, 1, shut, end)];
            case VocalSoundKind.Hum:
                return [Held(MouthShape.Closed, 0.6f, start, end)];
            case VocalSoundKind.Whistle:
                return [Held(MouthShape.Pucker, 0.85f, start, end)];
            default:
                return Calls(speech, sound).SelectMany(c => Call(c, Held));
        }

        IEnumerable<Cue> Call(SoundCall call, Func<MouthShape, float, double, double, Cue> held)
        {
            var (open, size) = sound.Kind switch
            {
                VocalSoundKind.Laugh => call.Size > 0.6f ? (MouthShape.Open, 0.45f + 0.45f * call.Size) : (MouthShape.Mid, 0.5f + 0.5f * call.Size),
                VocalSoundKind.Sob => (MouthShape.Mid, 0.45f + 0.4f * call.Size),
                VocalSoundKind.Cough => (MouthShape.Open, 0.5f + 0.3f * call.Size),
                _ => (MouthShape.Open, 0.7f + 0.35f * call.Size),
            };
            yield return held(open, size, call.Start, call.Turn);
            // Between two calls the jaw comes up, but the mouth stays open; after a cough it shuts.
            if (call.End > call.Turn + 0.01)
                yield return sound.Kind == VocalSoundKind.Cough
                    ? held(MouthShape.Rest, 1, call.Turn, call.End)
                    : held(MouthShape.Mid, 0.4f * size, call.Turn, call.End);
        }
    }

    /// <summary>The bursts of a sound: calls of a laugh, single coughs, one or more.</summary>
    /// <param name="speech">Whose level tells them apart.</param>
    /// <param name="sound">Which.</param>
    public static IReadOnlyList<SoundCall> Calls(SpeechAnalysis speech, VocalSound sound)
    {
        var levels = speech.LevelsDb;
        int first = Math.Clamp((int)(100 * sound.Start), 0, levels.Length),
            last = Math.Clamp((int)(100 * sound.End), first, levels.Length);
        if (last - first < 4)
            return [new SoundCall(sound.Start, sound.Start + 0.6 * sound.Duration, sound.End, 1)];
        var top = levels[first..last].Max();
        // Valleys between peaks: each is so far under the lower of the two.
        var peaks = new List<(int At, int Valley)>();
        int peak = first,
            valley = first,
            lowest = first;
        var rising = true;
        for (var i = first; i < last; i++)
        {
            if (rising)
            {
                if (levels[i] > levels[peak])
                    peak = i;
                else if (levels[i] < levels[peak] - Dip)
                {
                    if (levels[peak] > top - Faint)
                        peaks.Add((peak, valley));
                    (rising, lowest) = (false, i);
                }
            }
            else if (levels[i] < levels[lowest])
                lowest = i;
            else if (levels[i] > levels[lowest] + Dip)
                (rising, peak, valley) = (true, i, lowest);
        }
        if (rising && levels[peak] > top - Faint)
            peaks.Add((peak, valley));
        for (var i = peaks.Count - 1; i > 0; i--)
            if (peaks[i].At - peaks[i - 1].At < 100 * Quickest)
            {
                // Two in so short a time are one.
                var louder = levels[peaks[i].At] > levels[peaks[i - 1].At] ? peaks[i].At : peaks[i - 1].At;
                peaks[i - 1] = (louder, peaks[i - 1].Valley);
                peaks.RemoveAt(i);
            }
        var calls = new List<SoundCall>();
        for (var i = 0; i < peaks.Count; i++)
        {
            double start = i == 0 ? sound.Start : peaks[i].Valley / 100.0,
                end = i + 1 < peaks.Count ? peaks[i + 1].Valley / 100.0 : sound.End,
                at = Math.Clamp(peaks[i].At / 100.0, start, end);
            // A call is over when it has become as soft as it is between calls.
            var turn = at + 0.55 * (end - at);
            calls.Add(new SoundCall(start, Math.Max(turn, Math.Min(end, start + 0.05)), end, Math.Clamp(1 - (top - levels[peaks[i].At]) / Faint, 0, 1)));
        }
        return calls.Count > 0 ? calls : [new SoundCall(sound.Start, sound.Start + 0.6 * sound.Duration, sound.End, 1)];
    }

    // A valley lies so far under its peaks, a peak that counts at most so far under the loudest one, in dB; nobody laughs in calls that come quicker than so
    // many seconds (Bachorowski, Smoski and Owren, 2001: about 4 to 5 a second; from memory).
    private const float Dip = 3,
        Faint = 22;
    private const double Quickest = 0.12;
}

/// <summary>A burst of a sound, in seconds of the take.</summary>
/// <param name="Start">When it begins.</param>
/// <param name="Turn">When its loud part is over.</param>
/// <param name="End">When the next begins.</param>
/// <param name="Size">How loud it is beside the loudest of the sound, 0 to 1.</param>
public readonly record struct SoundCall(double Start, double Turn, double End, float Size);
