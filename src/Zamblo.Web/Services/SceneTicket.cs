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
                Looks = [.. own.Select(x => x.Clip.AsLook(x.Place, i, Members)).OfType<LookSpan>()],
                Walks = [.. own.Where(x => x.Clip.Kind == ClipKind.Walk).Select(x => (x.Place.Start, x.Place.End, x.Clip.Data.WalkTo, x.Clip.Data.WalkFrom))],
            };
        }).ToArray();
        return new StageScene(Backdrop, members, FrameRate.Parse(Rate), Duration);
    }

    /// <summary>The sound of a part of the scene at 48 kHz, to the last bit what the whole has there: only what sounds there is read.</summary>
    /// <param name="voices">Where sound is kept.</param>
    /// <param name="from">In seconds.</param>
    /// <param name="to">In seconds.</param>
    /// <param name="bare">A line that is heard without cleaning, colour and level, to compare; or none.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task<AudioBuffer> MixAsync(VoiceStore voices, double from, double to, Guid? bare, CancellationToken cancel)
    {
        double first = from - Mixer.Margin, last = to + Mixer.Margin;
        var placed = new List<Mixer.Placed>();
        foreach (var line in Lines.Where(l => !l.IsMute && l.Start < last && l.Start + l.Duration + 1 > first))
            placed.Add(new Mixer.Placed(await voices.CaredAsync(line.AssetHash, line.TakeName, line.Query.Part, line.Id == bare ? line.Care.Bare : line.Care, cancel), line.Start));
        foreach (var sound in Sounds)
        {
            var length = sound.Length ?? (sound.Loops ? double.PositiveInfinity : sound.Duration - sound.From);
            if (sound.Start > last || sound.Start + length < first) continue;
            var speech = sound.Duck <= 0 ? [] : Lines.Where(l => !l.IsMute).SelectMany(l => voices.AtHand(l).Speech is { } s
                ? s.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).Select(p => (Start: p.Start + l.Start, End: p.End + l.Start)) : [(l.Start, l.Start + l.Duration)]);
            if (Heard(sound, await voices.MasterAsync(sound.AssetHash, sound.Name, cancel), first, last, speech) is { } audio) placed.Add(audio);
        }
        return Mixer.MixPart(placed, from, to, AudioFiles.MasterRate);
    }

    // A whole number of frames.
    private double End => FrameRate.Parse(Rate) is var rate ? rate.TimeOf(rate.FramesFor(Duration)) : Duration;

    /// <summary>Changes with whatever is heard of the scene, and with nothing else.</summary>
    public string SoundKey => Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(new
    {
        Duration,
        lines = Lines.Where(l => !l.IsMute).Select(l => new { l.Start, l.AssetHash, l.Query.Part, l.Care }),
        Sounds,
        speech = Sounds.Any(s => s.Duck > 0) ? Lines.Select(l => l.HeardKey) : null,
    })))[..16];

    // A sound as it lies under a part of the scene: cut, looped, faded, and down while somebody speaks. Null where nothing of it is heard.
    private Mixer.Placed? Heard(SceneSound sound, AudioBuffer file, double from, double to, IEnumerable<(double Start, double End)> speech)
    {
        int rate = file.SampleRate, skip = (int)(sound.From * rate), there = file.Samples.Length - skip;
        var seconds = Math.Min(End - sound.Start, sound.Length ?? (sound.Loops ? double.PositiveInfinity : (double)there / rate));
        var count = (int)(seconds * rate);
        if (there <= 0 || count <= 0) return null;
        if (!sound.Loops) count = Math.Min(count, there);
        // In samples of the sound: the part that is asked for.
        int first = Math.Clamp((int)((from - sound.Start) * rate), 0, count), last = Math.Clamp((int)((to - sound.Start) * rate) + 1, first, count);
        var samples = new float[last - first];
        double gain = Math.Pow(10, sound.Gain / 20), rise = Math.Max(1, sound.FadeIn * rate), fall = Math.Max(1, sound.FadeOut * rate);
        for (var i = first; i < last; i++) samples[i - first] = (float)(file.Samples[skip + i % there] * gain * Math.Min(1, (i + 1) / rise) * Math.Min(1, (count - i) / fall));
        Ducking.Apply(samples, rate, speech.Select(s => (s.Start - sound.Start, s.End - sound.Start)), sound.Duck, first);
        // Placed by whole samples, so that every part falls on the same ones.
        return new Mixer.Placed(new AudioBuffer(samples, rate), (Math.Round(sound.Start * rate) + first) / rate);
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

    private string? _key;

    /// <summary>Key of what is heard in it; worked out once.</summary>
    internal string HeardKey => _key ??= VoiceStore.KeyOf(EngineHash ?? DrivingHash, Query);

    /// <summary>The line on the stage, its touch-ups found again in what was heard; those without a home are left out.</summary>
    public PlacedSpeech Place(SpeechAnalysis speech, MouthDials dials)
    {
        // What was made of the same speech before is used again, wherever the line stands now.
        var known = Made.GetValue(speech, _ => new());
        if (known.Count > 16) known.Clear();
        return known.GetOrAdd(System.Text.Json.JsonSerializer.Serialize(new { dials, Touches }), _ =>
        {
            if (Touches.Count == 0) return new PlacedSpeech(speech, Start, dials);
            var sequence = PhoneMap.Sequence(speech);
            return new PlacedSpeech(speech, Start, dials, [.. Touches.Select(t => PhoneMap.Find(t, sequence)).OfType<TouchUp>()]);
        }).At(Start);
    }

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<SpeechAnalysis, System.Collections.Concurrent.ConcurrentDictionary<string, PlacedSpeech>> Made = [];
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
    /// <summary>A motion of its own, performed or joined, in place of one of the library.</summary>
    public Gesture? Own { get; init; }
    /// <summary>Takes the place of what the figure does by itself.</summary>
    public bool Replaces { get; init; }
    /// <summary>How long a gesture takes to come in, in seconds.</summary>
    public double BlendIn { get; init; } = 0.12;
    /// <summary>How long it takes to leave, in seconds.</summary>
    public double BlendOut { get; init; } = 0.2;
    /// <summary>Where a walk leads, in stage units; beyond 0 to 1280 is off stage.</summary>
    public float WalkTo { get; init; }
    /// <summary>Where it starts: an entrance stands there from the beginning; null for wherever the figure is.</summary>
    public float? WalkFrom { get; init; }
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
    public double StrokeShare => Gesture is { } g ? Math.Clamp((g.Stroke / g.Length - Data.From) / Math.Max(0.01, Data.To - Data.From), 0, 1) / Data.Loops : 0;

    public MoodSpan? AsMood((double Start, double End) place) =>
        Kind == ClipKind.Mood && Enum.TryParse<Mood>(Name, true, out var mood) ? new MoodSpan(mood, place.Start, place.End, Math.Clamp(Strength, 0, 1), Data.Ease) : null;

    public GestureSpan? AsGesture((double Start, double End) place) =>
        Gesture is { } g ? new GestureSpan(g, place.Start, place.End, Strength, Data.Mirror, Data.Loops, Data.From, Data.To, Data.BlendIn, Data.BlendOut, Data.Replaces) : null;

    /// <summary>The motion of a gesture; null for other clips.</summary>
    public Gesture? Gesture => Kind == ClipKind.Gesture ? Data.Own ?? Gestures.Find(Name) : null;

    /// <summary>A look, as the member with an index sees the stage.</summary>
    public LookSpan? AsLook((double Start, double End) place, int index, IReadOnlyList<TicketMember> members)
    {
        if (Kind != ClipKind.Look) return null;
        var (x, y, partner) = Name switch
        {
            "camera" => (0, 0, -1),
            "left" => (-0.8f, 0, -2),
            "right" => (0.8f, 0, -2),
            "up" => (0, -0.7f, -2),
            "down" => (0, 0.7f, -2),
            _ => (0f, 0f, -3),
        };
        if (partner == -3)
        {
            var other = members.ToList().FindIndex(m => m.Id.ToString() == Name);
            // Who has left the cast is not looked at any more.
            if (other < 0 || other == index) return null;
            // Partners are the others in their order.
            partner = other < index ? other : other - 1;
        }
        return new LookSpan(place.Start, place.End, x, y, partner);
    }
}
