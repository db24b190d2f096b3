using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Scenes;

/// <summary>A line in its place.</summary>
/// <param name="Line">As it was written down.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="Time">When its speech starts and ends, and how it was laid.</param>
/// <param name="Speech">What was heard in it; null while nobody has listened.</param>
public sealed record PlacedLine(SceneLine Line, double Start, LineTime Time, SpeechAnalysis? Speech)
{
    /// <summary>Of the line.</summary>
    public LineId Id => Line.Id;

    /// <summary>Length, in seconds.</summary>
    public double Duration => Line.Duration;

    /// <summary>In seconds of the scene.</summary>
    public double End => Start + Duration;
}

/// <summary>From a document to a stage: the one way, for the studio, the film and the command line alike.</summary>
public static class SceneEvaluator
{
    /// <summary>Lays the lines and sets the stage.</summary>
    /// <param name="document">What is decided.</param>
    /// <param name="hearings">What was heard in a line; null counts as silence.</param>
    /// <param name="library">Characters and backdrops.</param>
    /// <param name="letters">Makes outlines of words; needed where something is written in the picture.</param>
    /// <exception cref="KeyNotFoundException">The library lacks a character or a backdrop (thrown when the stage is asked for).</exception>
    public static EvaluatedScene Evaluate(SceneDocument document, Func<SceneLine, SpeechAnalysis?> hearings, CastLibrary library, ITypesetter? letters = null)
    {
        SpeechAnalysis?[] heard = [.. document.Lines.Select(hearings)];
        LineTime[] times =
        [
            .. document.Lines.Zip(
                heard,
                (l, speech) => LineTime.Of(l.Duration, speech, l.Start, l.Pause) with { Recording = l.SoundHash, IsTogether = l.IsTogether }
            ),
        ];
        var starts = Timing.Lay(times, document.LeadIn, document.Gap, document.Rate);
        return new EvaluatedScene(document, [.. document.Lines.Select((l, i) => new PlacedLine(l, starts[i], times[i], heard[i]))], library, letters);
    }
}

/// <summary>A scene with its lines in their places; the stage is set when it is asked for. Immutable.</summary>
public sealed class EvaluatedScene
{
    // What was made of the same speech before is used again, wherever its line stands now.
    private static readonly ConditionalWeakTable<SpeechAnalysis, ConcurrentDictionary<string, PlacedSpeech>> Made = [];

    private readonly CastLibrary _library;
    private readonly ITypesetter? _letters;
    private readonly Dictionary<LineId, PlacedLine> _byId;
    private readonly ConcurrentDictionary<LineId, PlacedSpeech?> _spoken = new();
    private readonly Lazy<StageScene> _stage;

    internal EvaluatedScene(SceneDocument document, IReadOnlyList<PlacedLine> lines, CastLibrary library, ITypesetter? letters)
    {
        (Document, Lines, _library, _letters) = (document, lines, library, letters);
        _byId = lines.ToDictionary(l => l.Id);
        Duration = (lines.Count == 0 ? document.LeadIn + EmptySeconds : lines.Max(l => l.End)) + document.LeadOut;
        Sounds =
        [
            .. document.Sounds.Select(s =>
                s.Line is { } id && s.Anchor is { } anchor && Find(id) is { } line ? s with { Start = Math.Max(0, line.Start + anchor.Find(line.Speech)) } : s
            ),
        ];
        _stage = new Lazy<StageScene>(SetStage);
    }

    // A scene in which nobody speaks yet is shown for so long.
    private const double EmptySeconds = 2;

    /// <summary>What it was made of.</summary>
    public SceneDocument Document { get; }

    /// <summary>In order of the script.</summary>
    public IReadOnlyList<PlacedLine> Lines { get; }

    /// <summary>Music, room tone and effects; those that hang on a word are at their word.</summary>
    public IReadOnlyList<LaidSound> Sounds { get; }

    /// <summary>Length in seconds; the stage's is a whole number of frames.</summary>
    public double Duration { get; }

    /// <summary>What is seen.</summary>
    public StageScene Stage => _stage.Value;

    /// <summary>A line in its place, or null while it has no voice.</summary>
    public PlacedLine? Find(LineId id) => _byId.GetValueOrDefault(id);

    /// <summary>A line with its cues, or null while it has no voice or nobody has listened.</summary>
    public PlacedSpeech? Spoken(LineId id) =>
        _spoken.GetOrAdd(id, key => Find(key) is { Speech: { } speech } l ? Place(l, speech, Document.Members.First(m => m.Id == l.Line.Member).Mouth) : null);

    /// <summary>Where a clip lies, in seconds of the scene.</summary>
    public (double Start, double End) SpanOf(LaneClip clip) =>
        clip.Line is { } id && Find(id) is { } line ? clip.Place(line.Start, line.Speech) : clip.Place(0, null);

    /// <summary>A gesture as it is done in its place; null where the library no longer has it.</summary>
    public GestureSpan? GestureOf(GestureClip clip) => clip.Line is { } id && Find(id) is { } line ? clip.Span(line.Start, line.Speech) : clip.Span(0, null);

    // So near to a line of its member, in seconds, a walk belongs to it: who has spoken leaves, who comes in speaks. Chosen by eye.
    private const double WalkReach = 3;

    /// <summary>A clip laid elsewhere: on the line of its member that lies there, else on the scene. A walk hangs on a line that is near, too.</summary>
    /// <param name="clip">Which.</param>
    /// <param name="start">In seconds of the scene.</param>
    /// <param name="end">In seconds of the scene; a tenth of a second after the start at least.</param>
    public LaneClip Lay(LaneClip clip, double start, double end)
    {
        end = Math.Max(end, start + 0.1);
        var hold = clip.Hold(start, end);
        // What is seen hangs on whatever is said meanwhile, whoever says it.
        var own = Lines.Where(l => clip.Kind is ClipKind.Shot or ClipKind.Light || l.Line.Member == clip.Member).ToArray();
        var line = Array.Find(own, l => hold >= l.Start && hold <= l.End);
        if (line == null && clip.Kind == ClipKind.Walk)
            line = own.Select(l => (Line: l, Away: Math.Max(start - l.End, l.Start - end)))
                .Where(x => x.Away < WalkReach)
                .OrderBy(x => x.Away)
                .FirstOrDefault()
                .Line;
        return clip.At(line?.Id, line?.Start ?? 0, line?.Speech, start, end);
    }

    /// <summary>A sound laid elsewhere. An effect hangs on the line that lies there; music and room tone stand in the scene.</summary>
    /// <param name="sound">Which.</param>
    /// <param name="start">In seconds of the scene.</param>
    public LaidSound Lay(LaidSound sound, double start)
    {
        var line = sound.Kind == SoundKind.Effect ? Lines.FirstOrDefault(l => start >= l.Start && start <= l.End) : null;
        return sound with { Start = start, Line = line?.Id, Anchor = line == null ? null : WordAnchor.At(line.Speech, start - line.Start) };
    }

    private static PlacedSpeech Place(PlacedLine line, SpeechAnalysis speech, MouthDials own)
    {
        var (touches, dials) = (line.Line.Touches, line.Line.Acting.Over(own));
        var known = Made.GetValue(speech, _ => new());
        if (known.Count > 16)
            known.Clear();
        return known
            .GetOrAdd(
                JsonSerializer.Serialize(new { dials, touches }),
                _ =>
                {
                    if (touches.Count == 0)
                        return new PlacedSpeech(speech, line.Start, dials);
                    // Touch-ups are found again in what was heard; those without a home are left out.
                    var sequence = PhoneMap.Sequence(speech);
                    return new PlacedSpeech(speech, line.Start, dials, [.. touches.Select(t => PhoneMap.Find(t, sequence)).OfType<TouchUp>()]);
                }
            )
            .At(line.Start)
            .With(line.Line.Acting);
    }

    private FootageClock FootageOf(PlateFigure plate, StageMember[] members) =>
        new(
            Document
                .Clips.OfType<FootageClip>()
                .Where(c =>
                    Document.Members.Index().Any(m => m.Item.Id == c.Member && members[m.Index].Figure is PlateFigure other && plate.IsOfOneClip(other))
                )
                .Select(c => (Clip: c, Span: SpanOf(c)))
                .Select(c => new FootageRun(c.Span.Start, c.Span.End, c.Clip.From, c.Clip.Speed))
        );

    private LightStep StepOf(LightClip clip)
    {
        var (start, end) = SpanOf(clip);
        return new LightStep(LightPlot.Of(Document.Light with { Light = clip.Light, Strength = clip.Strength }), start, end);
    }

    private AmountStep[] StepsOf(Func<LightClip, double?> amount) =>
        [
            .. Document
                .Clips.OfType<LightClip>()
                .Where(c => amount(c) != null)
                .Select(c => (Much: amount(c)!.Value, Span: SpanOf(c)))
                .Select(c => new AmountStep(c.Much, c.Span.Start, c.Span.End))
                .OrderBy(s => s.Start),
        ];

    private IReadOnlyList<PropHold> HoldsOf(PropId prop, MemberId[] ids) =>
        [
            .. Document
                .Clips.OfType<HoldClip>()
                .Where(c => c.Prop == prop)
                .Select(c => (Clip: c, Who: Array.IndexOf(ids, c.Member), Span: SpanOf(c)))
                .Where(c => c.Who >= 0)
                .Select(c => new PropHold(c.Who, c.Clip.Right, c.Span.Start, c.Span.End))
                .OrderBy(h => h.Start),
        ];

    // What stands lower than this stands on a counter; and where it stands where there is none. In stage units.
    private const float Counter = 560,
        Plain = 702;

    private StageScene SetStage()
    {
        MemberId[] ids = [.. Document.Members.Select(m => m.Id)];
        var backdrop = _library.Backdrop(Document.Backdrop);
        var members = Document
            .Members.Select(
                (m, i) =>
                {
                    var figure = _library.Character(m.Character);
                    var stage = figure.Rig.Stage;
                    PlacedSpeech[] lines =
                    [
                        .. Lines
                            .Where(l => !l.Line.IsOffStage && l.Speech != null && (l.Line.Member == m.Id || l.Line.Also.Contains(m.Id)))
                            .OrderBy(l => l.Start)
                            .Select(l => Place(l, l.Speech!, m.Mouth)),
                    ];
                    var moods = new List<MoodSpan>();
                    var gestures = new List<GestureSpan>();
                    var looks = new List<LookSpan>();
                    var walks = new List<WalkSpan>();
                    foreach (var clip in Document.Clips.Where(c => c.Member == m.Id))
                    {
                        var (start, end) = SpanOf(clip);
                        switch (clip)
                        {
                            case MoodClip mood:
                                moods.Add(new MoodSpan(mood.Mood, start, end, Math.Clamp(mood.Intensity, 0, MoodSpan.Most), mood.Ease));
                                break;
                            case GestureClip gesture when GestureOf(gesture) is { } span:
                                gestures.Add(span);
                                break;
                            case LookClip look when look.Aim.TargetFor(i, ids) is { } target:
                                looks.Add(new LookSpan(start, end, target));
                                break;
                            case WalkClip walk:
                                walks.Add(new WalkSpan(start, end, walk.To, walk.From, walk.Manner));
                                break;
                        }
                    }
                    // Where there is nothing to stand on, what stands on counters stands on the ground of the picture.
                    var y = stage.BeforeFront && stage.Y > Counter && backdrop.Front.Count == 0 ? Plain : stage.Y;
                    var (x, scale) = (StageScene.SpreadX(i, ids.Length), stage.Scale);
                    // A clip fills the stage.
                    if (figure is PlateFigure plate)
                        (x, y, scale) = plate.InPlace();
                    // Before what was behind it in its picture, a portrait stays where it is.
                    if (figure is PortraitFigure portrait && portrait.IsAtHome(Document.Backdrop))
                        (x, y, scale) = portrait.InPlace(Document.Backdrop);
                    if (m.Place is { } place && figure is not PlateFigure)
                        (x, y, scale) = (place.X ?? x, y - place.Lift, scale * place.Size);
                    return new StageMember(figure, x, y, scale, stage.BeforeFront, lines, m.Performance)
                    {
                        Depth = m.Place?.Depth ?? 0,
                        Facing = m.Place?.Facing ?? 0,
                        Moods = moods,
                        Gestures = gestures,
                        Looks = looks,
                        Walks = walks,
                        RestCorners = m.Mouth.Corners,
                    };
                }
            )
            .ToArray();
        // A clip is one clip, whoever of it is in the cast.
        for (var i = 0; i < members.Length; i++)
            if (members[i].Figure is PlateFigure plate)
                members[i] = members[i] with { Footage = FootageOf(plate, members) };
        StageProp[] props = [.. Document.Things.Select(t => new StageProp(t.Art, t.Laid.Place, HoldsOf(t.Laid.Id, ids)))];
        // Where nothing is behind, there is nothing to be dark.
        var changes = backdrop.Back.Count == 0 ? [] : Document.Clips.OfType<LightClip>().Select(StepOf);
        var light = new LightCourse(LightPlot.Of(Document.Light), changes);
        var air = StepsOf(c => c.Air);
        var lamps = backdrop.Back.Count == 0 ? null : new LampCourse(Document.Light.Lamps, StepsOf(c => c.Lamps));
        var weather = Document.Height > 0 ? Weather.Of(Document.Light, PictureText.Height * Document.Width / Document.Height, air) : null;
        var fade = (Document.Camera.FadeIn, Document.Camera.FadeOut);
        var bare = new StageScene(backdrop, members, Document.Rate, Duration, null, light, weather, fade, props, lamps) { Shots = SceneShots.Of(this) };
        if (Document.Lettering.IsEmpty)
            return bare;
        var text = SceneText.Of(this, bare, _letters ?? throw new InvalidOperationException("Nobody sets the words of the picture."));
        _written = text.Unseen;
        return new StageScene(backdrop, members, Document.Rate, Duration, text, light, weather, fade, props, lamps) { Shots = bare.Shots };
    }

    private IReadOnlyList<UnseenText> _written = [];

    /// <summary>What is written and has no room in the picture.</summary>
    public IReadOnlyList<UnseenText> Written
    {
        get
        {
            // It is laid out with the stage.
            _ = Stage;
            return _written;
        }
    }
}
