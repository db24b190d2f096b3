using System.Text.Json.Serialization;
using Zamblo.Core.Light;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>What lies on the lanes of the score beside voice and mouth.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ClipKind>))]
public enum ClipKind
{
    /// <summary>A feeling over a stretch of time.</summary>
    Mood,

    /// <summary>A motion of face, hands or body.</summary>
    Gesture,

    /// <summary>Where the eyes go.</summary>
    Look,

    /// <summary>A walk over the stage.</summary>
    Walk,

    /// <summary>What the camera sees.</summary>
    Shot,

    /// <summary>A prop in a hand.</summary>
    Hold,

    /// <summary>The light becomes another one.</summary>
    Light,

    /// <summary>A filmed clip is played from another moment, or at another pace.</summary>
    Footage,
}

/// <summary>Something that a cast member does. On a line it hangs on the words and moves with them; else it stands in the scene.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who does it.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
[JsonDerivedType(typeof(MoodClip), "mood")]
[JsonDerivedType(typeof(GestureClip), "gesture")]
[JsonDerivedType(typeof(LookClip), "look")]
[JsonDerivedType(typeof(WalkClip), "walk")]
[JsonDerivedType(typeof(ShotClip), "shot")]
[JsonDerivedType(typeof(HoldClip), "hold")]
[JsonDerivedType(typeof(LightClip), "light")]
[JsonDerivedType(typeof(FootageClip), "footage")]
public abstract record LaneClip(ClipId Id, MemberId Member, LineId? Line)
{
    /// <summary>Shortest that a clip can be, in seconds.</summary>
    public const double Shortest = 0.05;

    /// <summary>Its lane.</summary>
    [JsonIgnore]
    public abstract ClipKind Kind { get; }

    /// <summary>Where it lies.</summary>
    /// <param name="lineStart">Start of its line in seconds of the scene; 0 without one.</param>
    /// <param name="speech">What is said in its line; null while nobody has listened, or without a line.</param>
    /// <returns>Start and end in seconds of the scene.</returns>
    public abstract (double Start, double End) Place(double lineStart, SpeechAnalysis? speech);

    /// <summary>The same clip elsewhere.</summary>
    /// <param name="line">The line that it is to hang on, or null.</param>
    /// <param name="lineStart">Start of that line in seconds of the scene; 0 without one.</param>
    /// <param name="speech">What is said in that line, or null.</param>
    /// <param name="start">In seconds of the scene.</param>
    /// <param name="end">In seconds of the scene.</param>
    public abstract LaneClip At(LineId? line, double lineStart, SpeechAnalysis? speech, double start, double end);

    /// <summary>The moment that decides which line a clip of this length hangs on.</summary>
    public virtual double Hold(double start, double end) => (start + end) / 2;

    /// <summary>The same clip with its moments moved within the line: for lines that are joined or split.</summary>
    public abstract LaneClip Moved(Func<WordAnchor, WordAnchor> move);
}

/// <summary>A clip that lies between two moments, each hung on its word.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who does it.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Start">Where it starts.</param>
/// <param name="End">Where it ends.</param>
public abstract record SpanClip(ClipId Id, MemberId Member, LineId? Line, WordAnchor Start, WordAnchor End) : LaneClip(Id, Member, Line)
{
    /// <inheritdoc/>
    public override (double Start, double End) Place(double lineStart, SpeechAnalysis? speech)
    {
        double a = lineStart + Start.Find(speech),
            b = lineStart + End.Find(speech);
        return (a, b > a + Shortest ? b : a + Shortest);
    }

    /// <inheritdoc/>
    public override LaneClip At(LineId? line, double lineStart, SpeechAnalysis? speech, double start, double end) =>
        this with
        {
            Line = line,
            Start = WordAnchor.At(speech, start - lineStart),
            End = WordAnchor.At(speech, end - lineStart),
        };

    /// <inheritdoc/>
    public override LaneClip Moved(Func<WordAnchor, WordAnchor> move) => this with { Start = move(Start), End = move(End) };
}

/// <summary>A feeling over a stretch of time.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who feels it.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Mood">Which.</param>
/// <param name="Intensity">0 to <see cref="MoodSpan.Most"/>.</param>
/// <param name="Start">Where it starts.</param>
/// <param name="End">Where it ends.</param>
/// <param name="Ease">How long it takes to come and go, in seconds.</param>
public sealed record MoodClip(ClipId Id, MemberId Member, LineId? Line, Mood Mood, float Intensity, WordAnchor Start, WordAnchor End, double Ease = 0.5)
    : SpanClip(Id, Member, Line, Start, End)
{
    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Mood;
}

/// <summary>A motion. It hangs by its stroke.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who makes it.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Key">Of a gesture of the library.</param>
/// <param name="Strength">0 to 2.</param>
/// <param name="Stroke">Where its stroke falls.</param>
/// <param name="Length">In seconds.</param>
public sealed record GestureClip(ClipId Id, MemberId Member, LineId? Line, string Key, float Strength, WordAnchor Stroke, double Length)
    : LaneClip(Id, Member, Line)
{
    /// <summary>A motion of its own, performed or joined, in place of one of the library.</summary>
    public Gesture? Own { get; init; }

    /// <summary>Left and right exchanged.</summary>
    public bool Mirror { get; init; }

    /// <summary>How often it is made.</summary>
    public int Loops { get; init; } = 1;

    /// <summary>Share that is cut off in front.</summary>
    public double From { get; init; }

    /// <summary>Share at which it is cut off.</summary>
    public double To { get; init; } = 1;

    /// <summary>Takes the place of what the figure does by itself.</summary>
    public bool Replaces { get; init; }

    /// <summary>How long it takes to come in, in seconds.</summary>
    public double BlendIn { get; init; } = 0.12;

    /// <summary>How long it takes to leave, in seconds.</summary>
    public double BlendOut { get; init; } = 0.2;

    /// <summary>Moments of it that hang on words; none keeps its seconds.</summary>
    public IReadOnlyList<MotionBeat> Beats { get; init; } = [];

    /// <summary>Whether it becomes longer and shorter with its words.</summary>
    [JsonIgnore]
    public bool Stretches => Beats.Count > 0;

    /// <summary>The same, but stretching with its words or keeping its seconds from where it is laid next.</summary>
    public GestureClip Stretching(bool stretches) => stretches == Stretches ? this : this with { Beats = stretches ? MotionBeats.Over(null, 0, 1, null) : [] };

    /// <summary>The same, but going on evenly from where it is laid next: it is another motion now, or a part of it.</summary>
    public GestureClip Evened() => Stretching(false).Stretching(Stretches);

    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Gesture;

    /// <summary>The motion; null where the library no longer has it.</summary>
    [JsonIgnore]
    public Gesture? Gesture => Own ?? Gestures.Find(Key);

    /// <summary>Where in its span the stroke falls, 0 to 1.</summary>
    [JsonIgnore]
    public double StrokeShare => Gesture is { } g ? Math.Clamp((g.Stroke / g.Length - From) / Math.Max(0.01, To - From), 0, 1) / Loops : 0;

    /// <inheritdoc/>
    public override (double Start, double End) Place(double lineStart, SpeechAnalysis? speech)
    {
        if (MotionBeats.Find(Beats, speech) is { } beats)
            return (lineStart + beats[0].Time, lineStart + Math.Max(beats[^1].Time, beats[0].Time + Shortest));
        var start = lineStart + Stroke.Find(speech) - StrokeShare * Length;
        return (start, start + Length);
    }

    /// <summary>It as it is done; null where the library no longer has the motion.</summary>
    /// <param name="lineStart">Start of its line in seconds of the scene; 0 without one.</param>
    /// <param name="speech">What is said in its line, or null.</param>
    public GestureSpan? Span(double lineStart, SpeechAnalysis? speech)
    {
        if (Gesture is not { } gesture)
            return null;
        var (start, end) = Place(lineStart, speech);
        return new GestureSpan(gesture, start, end, Strength, Mirror, Loops, From, To, BlendIn, BlendOut, Replaces)
        {
            Pace = MotionBeats.Find(Beats, speech) is { } beats
                ? [.. beats.Select(b => new PacePoint((lineStart + b.Time - start) / (end - start), b.Share))]
                : [],
        };
    }

    /// <inheritdoc/>
    public override double Hold(double start, double end) => start + StrokeShare * (end - start);

    /// <inheritdoc/>
    public override LaneClip At(LineId? line, double lineStart, SpeechAnalysis? speech, double start, double end) =>
        this with
        {
            Line = line,
            Stroke = WordAnchor.At(speech, Hold(start, end) - lineStart),
            Length = end - start,
            Beats = !Stretches ? [] : MotionBeats.Over(speech, start - lineStart, end - lineStart, line == Line ? Span(lineStart, speech) : null),
        };

    /// <inheritdoc/>
    public override LaneClip Moved(Func<WordAnchor, WordAnchor> move) =>
        this with
        {
            Stroke = move(Stroke),
            Beats = [.. Beats.Select(b => b with { At = move(b.At) })],
        };
}

/// <summary>What a look by hand goes to: the camera, a direction, or another cast member. One of the three.</summary>
/// <param name="Direction">"left", "right", "up" or "down"; null for the other two.</param>
/// <param name="Member">Who is looked at; null for the other two.</param>
public sealed record LookAim(string? Direction, MemberId? Member)
{
    private static readonly Dictionary<string, LookTarget> Directions = new()
    {
        ["left"] = LookTarget.At(-0.8f, 0),
        ["right"] = LookTarget.At(0.8f, 0),
        ["up"] = LookTarget.At(0, -0.7f),
        ["down"] = LookTarget.At(0, 0.7f),
    };

    /// <summary>Into the camera.</summary>
    public static LookAim Camera { get; } = new(null, null);

    /// <summary>Reads "camera", a direction, or the id of a cast member.</summary>
    /// <returns>Null where it is none of them.</returns>
    public static LookAim? Read(string text) =>
        text == "camera" ? Camera
        : Directions.ContainsKey(text) ? new LookAim(text, null)
        : Guid.TryParse(text, out var id) ? new LookAim(null, new MemberId(id))
        : null;

    /// <inheritdoc/>
    public override string ToString() => Member?.Value.ToString() ?? Direction ?? "camera";

    /// <summary>As a member sees it.</summary>
    /// <param name="own">Index of who looks.</param>
    /// <param name="members">All members in their order.</param>
    /// <returns>Null where whoever is looked at has left the cast.</returns>
    public LookTarget? TargetFor(int own, IReadOnlyList<MemberId> members)
    {
        if (Direction != null)
            return Directions[Direction];
        if (Member is not { } who)
            return LookTarget.Camera;
        for (var i = 0; i < members.Count; i++)
            // Partners are the others in their order.
            if (members[i] == who)
                return i == own ? null : LookTarget.At(i < own ? i : i - 1);
        return null;
    }
}

/// <summary>A look.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who looks.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Aim">What is looked at.</param>
/// <param name="Start">Where it starts.</param>
/// <param name="End">Where it ends.</param>
public sealed record LookClip(ClipId Id, MemberId Member, LineId? Line, LookAim Aim, WordAnchor Start, WordAnchor End) : SpanClip(Id, Member, Line, Start, End)
{
    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Look;
}

/// <summary>A walk to a place on the stage.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who walks.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="To">Where to, in stage units; beyond 0 to 1280 is off stage.</param>
/// <param name="From">Where it starts: an entrance stands there from the beginning; null for wherever the figure is.</param>
/// <param name="Start">When it starts.</param>
/// <param name="End">When it ends.</param>
public sealed record WalkClip(ClipId Id, MemberId Member, LineId? Line, float To, float? From, WordAnchor Start, WordAnchor End)
    : SpanClip(Id, Member, Line, Start, End)
{
    /// <summary>How.</summary>
    public WalkManner Manner { get; init; }

    /// <summary>The mark on the floor that it leads to, wherever that is; null for a place of its own.</summary>
    public Guid? Mark { get; init; }

    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Walk;
}

/// <summary>A shot by hand: it takes the place of what the camera would do by itself.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Whom it shows.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Framing">How much it shows.</param>
/// <param name="Move">What the camera does meanwhile.</param>
/// <param name="Other">The second of two; null shows the one nearest in talk.</param>
/// <param name="Start">Where it starts.</param>
/// <param name="End">Where the camera does as it likes again.</param>
public sealed record ShotClip(ClipId Id, MemberId Member, LineId? Line, Framing Framing, CameraMove Move, MemberId? Other, WordAnchor Start, WordAnchor End)
    : SpanClip(Id, Member, Line, Start, End)
{
    /// <summary>What an insert is of; null for none.</summary>
    public PropId? Prop { get; init; }

    /// <summary>How it begins.</summary>
    public ShotChange Change { get; init; }

    /// <summary>How long the change takes, in seconds.</summary>
    public double Over { get; init; } = FrameBlend.Usual;

    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Shot;
}

/// <summary>A prop in a hand: taken at its start, put down at its end.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Who holds it.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Prop">What is held.</param>
/// <param name="Right">In the hand at the picture's right.</param>
/// <param name="Start">When it is taken.</param>
/// <param name="End">When it is put down.</param>
public sealed record HoldClip(ClipId Id, MemberId Member, LineId? Line, PropId Prop, bool Right, WordAnchor Start, WordAnchor End)
    : SpanClip(Id, Member, Line, Start, End)
{
    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Hold;
}

/// <summary>The light becomes another one, and stays until the next change.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Somebody of the cast: a clip has one; it does not matter who.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="Light">Which.</param>
/// <param name="Strength">How much of it, 0 to 1.</param>
/// <param name="Start">When it begins to come.</param>
/// <param name="End">When it is there.</param>
public sealed record LightClip(ClipId Id, MemberId Member, LineId? Line, LightKind Light, double Strength, WordAnchor Start, WordAnchor End)
    : SpanClip(Id, Member, Line, Start, End)
{
    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Light;

    /// <summary>How much there comes to be in the air, 0 to 1; null leaves it as it is.</summary>
    public double? Air { get; init; }

    /// <summary>How bright the lamps come to be beside themselves, 0 to 1; null leaves them as they are.</summary>
    public double? Lamps { get; init; }

    /// <inheritdoc/>
    public override double Hold(double start, double end) => start;
}

/// <summary>A filmed clip is played from another moment, or at another pace, and goes on from there. It counts for everybody in the same clip.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Member">Somebody in the clip.</param>
/// <param name="Line">The line that it hangs on, or null.</param>
/// <param name="From">What of the clip is shown at its start, in seconds of what is played of it; 0 or more.</param>
/// <param name="Speed">0 to <see cref="FootageRun.Fastest"/>; 1 as it was filmed, 0 for a held frame.</param>
/// <param name="Start">Where it starts.</param>
/// <param name="End">Where it ends.</param>
public sealed record FootageClip(ClipId Id, MemberId Member, LineId? Line, double From, double Speed, WordAnchor Start, WordAnchor End)
    : SpanClip(Id, Member, Line, Start, End)
{
    /// <inheritdoc/>
    public override ClipKind Kind => ClipKind.Footage;

    /// <inheritdoc/>
    public override double Hold(double start, double end) => start;
}
