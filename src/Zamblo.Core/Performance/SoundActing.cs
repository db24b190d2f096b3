using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>
/// What body and face do while a voice laughs, sobs, breathes, coughs, hums, whistles or cheers: shoulders shake with each call of a laugh and the head goes
/// back, it sinks in sobs, is thrown forward by coughs, sways to a hum; breath fills and empties the chest (common practice of animators, chosen by eye).
/// The mouth has its own (<see cref="SoundCues"/>).
/// </summary>
internal sealed class SoundActing
{
    private readonly record struct Act(VocalSoundKind Kind, double Start, double End, float Big);

    private readonly Act[] _acts;
    private readonly double _longest;
    private readonly PulseTrack _shakes,
        _coughs;

    public SoundActing(IReadOnlyList<PlacedSpeech> lines)
    {
        var acts = new List<Act>();
        var feelings = new List<MoodSpan>();
        List<Pulse> shakes = [],
            coughs = [];
        foreach (var line in lines)
        foreach (var sound in line.Speech.Sounds ?? [])
        {
            double start = line.Start + sound.Start,
                end = line.Start + sound.End;
            // A chuckle of two calls is no fit of laughter.
            var big = (float)Math.Clamp(0.45 + 0.35 * sound.Duration, 0, 1);
            acts.Add(new Act(sound.Kind, start, end, big));
            if (FeelingOf(sound.Kind) is { } mood)
                feelings.Add(new MoodSpan(mood, start - 0.15, end + 0.5, big, 0.3));
            // Whoever sighs is weary; those who hear it need not be.
            if (sound.Kind == VocalSoundKind.Sigh)
                feelings.Add(new MoodSpan(Mood.Boredom, start - 0.15, end + 0.5, 0.7f * big, 0.3));
            if (sound.Kind is VocalSoundKind.Laugh or VocalSoundKind.Sob or VocalSoundKind.Cough)
                foreach (var call in SoundCues.Calls(line.Speech, sound))
                {
                    var at = line.Start + call.Start;
                    var length = Math.Min(call.End - call.Start, sound.Kind == VocalSoundKind.Cough ? 0.35 : 0.5);
                    (sound.Kind == VocalSoundKind.Cough ? coughs : shakes).Add(
                        new Pulse(at - 0.02, at + 0.3 * length, at + length + 0.04, big * (0.4f + 0.6f * call.Size))
                    );
                }
        }
        _acts = [.. acts.OrderBy(a => a.Start)];
        _longest = _acts.Length == 0 ? 0 : _acts.Max(a => a.End - a.Start);
        (_shakes, _coughs) = (new PulseTrack(shakes), new PulseTrack(coughs));
        Feelings = feelings;
    }

    /// <summary>How one feels who does it, in seconds of the scene.</summary>
    public IReadOnlyList<MoodSpan> Feelings { get; }

    /// <summary>The mood that a sound tells; null where it tells none.</summary>
    public static Mood? FeelingOf(VocalSoundKind kind) =>
        kind switch
        {
            VocalSoundKind.Laugh or VocalSoundKind.Cheer => Mood.Joy,
            VocalSoundKind.Sob => Mood.Sadness,
            _ => null,
        };

    /// <summary>Changes a pose by what is heard at a moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="head">Factor of turns, nods and tilts.</param>
    /// <param name="body">Factor of body and arms.</param>
    /// <param name="pose">Changed.</param>
    public void Apply(double t, float head, float body, ref Pose pose)
    {
        if (_acts.Length == 0)
            return;
        for (var i = Sorted.Below(_acts, t - _longest - Fade, static a => a.Start); i < _acts.Length && _acts[i].Start < t + Fade; i++)
        {
            var act = _acts[i];
            var on = act.Big * (float)Ease.Window(t, act.Start + 0.05, act.End - 0.05, Fade, Fade);
            if (on <= 0)
                continue;
            var share = Math.Clamp((t - act.Start) / (act.End - act.Start), 0, 1);
            float shake = _shakes.At(t),
                sway = (float)Math.Sin(2 * Math.PI * 0.45 * (t - act.Start));
            switch (act.Kind)
            {
                case VocalSoundKind.Laugh:
                    // Back at first, forward when breath runs out.
                    pose.HeadNod += head * on * ((float)(-5.5 + 8 * share) - 2.5f * shake);
                    pose.HeadTilt += head * on * 2.5f * sway;
                    pose.Stretch += body * on * (0.022f * shake - 0.008f);
                    pose.Lean += body * on * 0.8f * sway;
                    pose.Breath = Math.Max(0, 0.9f - 0.9f * (float)share) * (1 - on) + on * (float)(0.8 - 0.7 * share);
                    break;
                case VocalSoundKind.Sob:
                    pose.HeadNod += head * on * (8 - 3f * shake);
                    pose.HeadTilt += head * on * 2 * sway;
                    pose.Stretch += body * on * (0.016f * shake - 0.018f);
                    (pose.LidLeft, pose.LidRight) = (pose.LidLeft * (1 - 0.5f * on), pose.LidRight * (1 - 0.5f * on));
                    break;
                case VocalSoundKind.Cough:
                    var jerk = Math.Min(1, _coughs.At(t));
                    pose.HeadNod += head * (3 * on + 9 * jerk);
                    pose.Stretch -= body * 0.02f * jerk;
                    var shut = Math.Clamp(1 - 1.3f * jerk, 0, 1);
                    (pose.LidLeft, pose.LidRight) = (pose.LidLeft * shut, pose.LidRight * shut);
                    pose.BrowKnit = Math.Clamp(pose.BrowKnit + 0.5f * on, -1, 1);
                    break;
                case VocalSoundKind.Sigh:
                    pose.HeadNod += head * on * (float)(-4 + 9 * Ease.Smooth(share));
                    pose.Stretch += body * on * (float)(0.012 - 0.03 * Ease.Smooth(share));
                    pose.Breath = Between(pose.Breath, 1 - (float)Ease.Smooth(share), on);
                    (pose.LidLeft, pose.LidRight) = (pose.LidLeft * (1 - 0.3f * on), pose.LidRight * (1 - 0.3f * on));
                    break;
                case VocalSoundKind.Breath:
                    pose.HeadNod -= head * on * 3 * (float)Ease.Smooth(share);
                    pose.Stretch += body * on * 0.014f * (float)Ease.Smooth(share);
                    pose.Breath = Between(pose.Breath, (float)Ease.Smooth(share), on);
                    break;
                case VocalSoundKind.Hum or VocalSoundKind.Whistle:
                    pose.HeadTilt += head * on * 4.5f * sway;
                    pose.Lean += body * on * 1.2f * sway;
                    if (act.Kind == VocalSoundKind.Whistle)
                        (pose.BrowLeft, pose.BrowRight) = (Math.Min(1.2f, pose.BrowLeft + 0.3f * on), Math.Min(1.2f, pose.BrowRight + 0.3f * on));
                    break;
                case VocalSoundKind.Cheer:
                    pose.HeadNod -= head * on * 7;
                    pose.Stretch += body * on * 0.03f;
                    (pose.BrowLeft, pose.BrowRight) = (Math.Min(1.2f, pose.BrowLeft + 0.5f * on), Math.Min(1.2f, pose.BrowRight + 0.5f * on));
                    (pose.ArmLeft, pose.ArmRight) = (pose.ArmLeft + body * 55 * on, pose.ArmRight + body * 55 * on);
                    (pose.ElbowLeft, pose.ElbowRight) = (pose.ElbowLeft + body * 45 * on, pose.ElbowRight + body * 45 * on);
                    break;
            }
        }
    }

    private static float Between(float from, float to, float share) => from + (to - from) * Math.Clamp(share, 0, 1);

    // How long it takes to come and go, in seconds.
    private const double Fade = 0.18;
}
