using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Web.Services;

/// <summary>A scene frozen at one moment: everything that preview and film need, sound by hash, no database.</summary>
/// <param name="Backdrop">Key of the backdrop.</param>
/// <param name="Rate">Frame rate as people write it.</param>
/// <param name="Width">Of the picture in pixels.</param>
/// <param name="Height">Of the picture in pixels.</param>
/// <param name="Duration">In seconds.</param>
/// <param name="Members">Left to right.</param>
/// <param name="Lines">In order of the script.</param>
public sealed record SceneTicket(string Backdrop, string Rate, int Width, int Height, double Duration, IReadOnlyList<TicketMember> Members, IReadOnlyList<TicketLine> Lines)
{
    /// <summary>Moods and gestures.</summary>
    public IReadOnlyList<TicketClip> Clips { get; init; } = [];
    /// <summary>Music, room tone and effects.</summary>
    public IReadOnlyList<SceneSound> Sounds { get; init; } = [];

    /// <summary>Puts it on the stage.</summary>
    /// <param name="speechOf">What was heard in a line; null counts as silence.</param>
    public StageScene ToScene(Func<TicketLine, SpeechAnalysis?> speechOf)
    {
        var members = Members.Select((m, i) =>
        {
            var stage = Cast.Character(m.Character).Rig.Stage;
            var lines = Lines.Where(l => !l.IsOffStage && (l.Member == m.Id || l.Also.Contains(m.Id))).OrderBy(l => l.Start)
                .Select(l => speechOf(l) is { } s ? l.Place(s, m.Mouth) : null).OfType<PlacedSpeech>().ToArray();
            var own = Clips.Where(c => c.Member == m.Id).Select(c => (Clip: c, Place: c.Place(Lines, speechOf))).ToArray();
            return new StageMember(m.Character, StageScene.SpreadX(i, Members.Count), stage.Y, stage.Scale, stage.BeforeFront, lines, m.Performance)
            {
                Moods = [.. own.Select(x => x.Clip.AsMood(x.Place)).OfType<MoodSpan>()],
                Gestures = [.. own.Select(x => x.Clip.AsGesture(x.Place)).OfType<GestureSpan>()],
            };
        }).ToArray();
        return new StageScene(Backdrop, members, FrameRate.Parse(Rate), Duration);
    }

    /// <summary>The sound of the whole scene at 48 kHz, exactly as long as its frames.</summary>
    /// <param name="voices">Where sound is kept.</param>
    /// <param name="duration">In seconds.</param>
    /// <param name="bare">A line that is heard without cleaning, colour and level, to compare; or none.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task<AudioBuffer> MixAsync(VoiceStore voices, double duration, Guid? bare, CancellationToken cancel)
    {
        var placed = new List<Mixer.Placed>();
        foreach (var line in Lines.Where(l => !l.IsMute)) placed.Add(new Mixer.Placed(await voices.CaredAsync(line.AssetHash, line.TakeName, line.Query.Part, line.Id == bare ? line.Care.Bare : line.Care, cancel), line.Start));
        var speech = Lines.Where(l => !l.IsMute).SelectMany(l => voices.AtHand(l).Speech is { } s
            ? s.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).Select(p => (Start: p.Start + l.Start, End: p.End + l.Start)) : [(l.Start, l.Start + l.Duration)]).ToArray();
        foreach (var sound in Sounds)
            if (Heard(sound, await voices.MasterAsync(sound.AssetHash, sound.Name, cancel), duration, speech) is { } audio) placed.Add(new Mixer.Placed(audio, sound.Start));
        return Mixer.Mix(placed, duration, AudioFiles.MasterRate);
    }

    // A sound as it lies under the scene: cut, looped, faded, and down while somebody speaks. Null where nothing of it is heard.
    private static AudioBuffer? Heard(SceneSound sound, AudioBuffer file, double duration, IReadOnlyList<(double Start, double End)> speech)
    {
        int rate = file.SampleRate, from = (int)(sound.From * rate), there = file.Samples.Length - from;
        var seconds = Math.Min(duration - sound.Start, sound.Length ?? (sound.Loops ? double.PositiveInfinity : (double)there / rate));
        var count = (int)(seconds * rate);
        if (there <= 0 || count <= 0) return null;
        if (!sound.Loops) count = Math.Min(count, there);
        var samples = new float[count];
        double gain = Math.Pow(10, sound.Gain / 20), rise = Math.Max(1, sound.FadeIn * rate), fall = Math.Max(1, sound.FadeOut * rate);
        for (var i = 0; i < count; i++) samples[i] = (float)(file.Samples[from + i % there] * gain * Math.Min(1, (i + 1) / rise) * Math.Min(1, (count - i) / fall));
        Ducking.Apply(samples, rate, speech.Select(s => (s.Start - sound.Start, s.End - sound.Start)), sound.Duck);
        return new AudioBuffer(samples, rate);
    }
}

/// <summary>Someone on stage.</summary>
public sealed record TicketMember(Guid Id, string RoleName, string Character, string Voice, string Ink, MouthDials Mouth, PerformanceDials Performance);

/// <summary>A line that has a take.</summary>
/// <param name="Id">Of the line.</param>
/// <param name="Member">Who says it.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="Duration">In seconds.</param>
/// <param name="AssetHash">The sound.</param>
/// <param name="TakeName">For messages.</param>
/// <param name="Query">What is known about the sound.</param>
/// <param name="EngineHash">Words and phones that came with the sound, as an asset; null where it is listened to.</param>
/// <param name="Touches">Changes of the mouth by hand that are switched on, in order, as they were made.</param>
public sealed record TicketLine(Guid Id, Guid Member, double Start, double Duration, string AssetHash, string TakeName, SpeechQuery Query, string? EngineHash, IReadOnlyList<TouchUp> Touches)
{
    /// <summary>Sound that is listened to in place of the one that is heard, or null.</summary>
    public string? GuideHash { get; init; }

    /// <summary>Heard, but nobody's mouth moves.</summary>
    public bool IsOffStage { get; init; }
    /// <summary>Seen, but not heard.</summary>
    public bool IsMute { get; init; }
    /// <summary>Who else says it, in unison.</summary>
    public IReadOnlyList<Guid> Also { get; init; } = [];
    /// <summary>What is done to the sound.</summary>
    public VoiceCare Care { get; init; } = new();

    /// <summary>The sound that drives the mouth.</summary>
    public string DrivingHash => GuideHash ?? AssetHash;

    /// <summary>The line on the stage, its touch-ups found again in what was heard; those without a home are left out.</summary>
    public PlacedSpeech Place(SpeechAnalysis speech, MouthDials dials)
    {
        if (Touches.Count == 0) return new PlacedSpeech(speech, Start, dials);
        var sequence = PhoneMap.Sequence(speech);
        return new PlacedSpeech(speech, Start, dials, [.. Touches.Select(t => PhoneMap.Find(t, sequence)).OfType<TouchUp>()]);
    }
}

/// <summary>Place and manner of a mood or a gesture.</summary>
/// <param name="Start">Where a mood starts; where the stroke of a gesture falls.</param>
/// <param name="End">Where a mood ends; null for a gesture.</param>
/// <param name="Length">Of a gesture, in seconds.</param>
public sealed record ClipData(WordAnchor Start, WordAnchor? End, double Length)
{
    /// <summary>How long a mood takes to come and go, in seconds.</summary>
    public double Ease { get; init; } = 0.5;
    public bool Mirror { get; init; }
    public int Loops { get; init; } = 1;
    /// <summary>Share of a gesture that is cut off in front.</summary>
    public double From { get; init; }
    /// <summary>Share at which a gesture is cut off.</summary>
    public double To { get; init; } = 1;
}

/// <summary>A mood or a gesture of somebody on stage.</summary>
public sealed record TicketClip(Guid Id, Guid Member, Guid? Line, ClipKind Kind, string Name, float Strength, ClipData Data)
{
    /// <summary>Where it lies, in seconds of the scene.</summary>
    public (double Start, double End) Place(IReadOnlyList<TicketLine> lines, Func<TicketLine, SpeechAnalysis?> speechOf)
    {
        var line = lines.FirstOrDefault(l => l.Id == Line);
        var speech = line == null ? null : speechOf(line);
        double At(WordAnchor anchor) => (line?.Start ?? 0) + anchor.Find(speech);
        if (Data.End is { } end) return At(Data.Start) is var a && At(end) is var b && b > a + 0.05 ? (a, b) : (a, a + 0.05);
        var start = At(Data.Start) - StrokeShare * Data.Length;
        return (start, start + Data.Length);
    }

    /// <summary>Where in the span of a gesture its stroke falls, 0 to 1.</summary>
    public double StrokeShare => Gestures.Find(Name) is { } g ? Math.Clamp((g.Stroke / g.Length - Data.From) / Math.Max(0.01, Data.To - Data.From), 0, 1) / Data.Loops : 0;

    public MoodSpan? AsMood((double Start, double End) place) =>
        Kind == ClipKind.Mood && Enum.TryParse<Mood>(Name, true, out var mood) ? new MoodSpan(mood, place.Start, place.End, Math.Clamp(Strength, 0, 1), Data.Ease) : null;

    public GestureSpan? AsGesture((double Start, double End) place) =>
        Kind == ClipKind.Gesture && Gestures.Find(Name) is { } g ? new GestureSpan(g, place.Start, place.End, Strength, Data.Mirror, Data.Loops, Data.From, Data.To) : null;
}
