using System.Text;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>
/// What a page has of a scene already: numbers of what was heard in its lines, which does not travel again, and the frame that it shows, whose
/// picture comes along.
/// </summary>
public sealed record KnownScene(long[] Heard, int Frame);

public sealed record ProductionPart(Guid Id, string Title, long Revision, int Width, int Height, string Rate)
{
    /// <summary>What the picture shows of the stage: its middle, and stage units across it.</summary>
    public float[] View { get; init; } = [];

    /// <summary>Everybody is in the picture, but small.</summary>
    public bool IsSmall { get; init; }

    /// <summary>What is written in the picture.</summary>
    public LetteringDials Lettering { get; init; } = new();
}

/// <summary>A shot: seconds of the scene; the clip that it comes from, when a hand has made it.</summary>
public sealed record ShotPart(double Start, double End, string Framing, Guid? Subject, Guid? Other, string Move, string Reason, Guid? Clip)
{
    /// <summary>A frame in its middle, for a small picture.</summary>
    public int Frame { get; init; }

    /// <summary>What an insert is of.</summary>
    public Guid? Prop { get; init; }

    /// <summary>How it begins, and how long that takes, in seconds.</summary>
    public string Change { get; init; } = "";
    public double Over { get; init; }
}

/// <summary>A set to choose.</summary>
public sealed record SetCard(string Key, string Name);

public sealed record ScenePart(string Title, string Backdrop, IReadOnlyList<SetCard> Backdrops, double Gap, double LeadIn, double LeadOut)
{
    /// <summary>What the camera does by itself.</summary>
    public CameraDials Camera { get; init; } = CameraDials.Fixed;

    /// <summary>Light and air.</summary>
    public LightDials Light { get; init; } = new();

    /// <summary>Places on the floor that have names.</summary>
    public IReadOnlyList<FloorMark> Marks { get; init; } = [];

    /// <summary>What of it could not be read as it stands.</summary>
    public IReadOnlyList<SpoiltPart> Spoilt { get; init; } = [];

    /// <summary>All lights and all airs.</summary>
    public IReadOnlyList<string> Lights { get; } = Enum.GetNames<LightKind>();
    public IReadOnlyList<string> Weathers { get; } = Enum.GetNames<WeatherKind>();

    /// <summary>Ready ones: a press sets all dials.</summary>
    public IReadOnlyList<CameraStyle> CameraStyles { get; } =
    [new("fixed", "One picture", CameraDials.Fixed), new("calm", "Calm", CameraDials.Calm), new("lively", "Lively", CameraDials.Lively)];
}

public sealed record CameraStyle(string Key, string Name, CameraDials Dials);

public sealed record MemberPart(Guid Id, string RoleName, string Character, string Voice, string Ink, MouthDials Mouth, PerformanceDials Performance)
{
    /// <summary>Where it stands, and which shapes are its own.</summary>
    public required StandingPart Stands { get; init; }

    /// <summary>Whether it can say something with its fingers.</summary>
    public bool HasHands { get; init; }

    /// <summary>How long what is played of its clip takes once, in seconds; null where it is not filmed.</summary>
    public double? Filmed { get; init; }

    /// <summary>What people call its character.</summary>
    public required string CharacterName { get; init; }

    /// <summary>Whether its character is made of parts of the Wardrobe, and can be changed there.</summary>
    public bool IsDressed { get; init; }

    /// <summary>Whether its character was made here, so that it may be another one tomorrow.</summary>
    public bool IsOwn { get; init; }

    /// <summary>What its character has been changed into since it was cast; null where it has not.</summary>
    public NewerCharacter? Newer { get; init; }
}

public sealed record RespellingPart(string Word, string Written, string Phones);

public sealed record SoundPartView(
    Guid Id,
    SoundKind Kind,
    string AssetHash,
    string Name,
    double Duration,
    double Start,
    double From,
    double? Length,
    double Gain,
    double FadeIn,
    double FadeOut,
    double Duck,
    bool Loops,
    Guid? Line
);

public sealed record TakePart(Guid Id, string Kind, string Name, string? Guide, string Hash);

public sealed record TouchPart(Guid Id, string Title, bool On, bool IsLost, double Start, double End);

public sealed record MarkPart(Guid Id, double Start, double End, bool IsVoice, string? Sound);

public sealed record TakeCard(Guid Id, string Kind, string Name, double Duration, bool IsUsed, string? Delivery, DateTime Created, bool IsStarred, string Note)
{
    /// <summary>Its sound, and which part of it, in seconds.</summary>
    public string Hash { get; init; } = "";
    public double From { get; init; }
    public double To { get; init; }
}

/// <summary>
/// A line, without what was heard in it. Written is its text, or what was heard where nobody has written one; Spans are start and length in it of
/// each word, -1 for one that is not in it.
/// </summary>
public sealed record LinePart(
    Guid Id,
    Guid Member,
    string Text,
    string Written,
    IReadOnlyList<int> Spans,
    IReadOnlyList<int> Directions,
    double? Start,
    double? Duration,
    bool Follows,
    bool IsOffStage,
    bool IsMute,
    IReadOnlyList<Guid> Also,
    double? Pause,
    bool IsTogether,
    TakePart? Take,
    bool Listening,
    string? HearingError,
    IReadOnlyList<TouchPart> Touches,
    IReadOnlyList<MarkPart>? Marks,
    IReadOnlyList<TakeCard> Takes,
    VoiceCare? Care,
    Delivery Delivery,
    bool IsStale,
    int Pins
)
{
    /// <summary>How much moves over it.</summary>
    public LineActing Acting { get; init; } = new();

    /// <summary>Tag of the language that somebody said it is in; empty for that of who says it.</summary>
    public string Language { get; init; } = "";
}

/// <summary>Everything that the studio shows of a scene.</summary>
public sealed record SceneView(
    Guid Id,
    ProductionPart Production,
    ScenePart Scene,
    IReadOnlyList<SceneCard> Scenes,
    IReadOnlyList<string> Moods,
    IReadOnlyList<ClipPart> Clips,
    IReadOnlyList<SoundPartView> Sounds,
    IReadOnlyList<ShotPart> Shots,
    int Heard,
    string Sound,
    double Fps,
    int Frames,
    double Duration,
    string? Undo,
    string? Redo,
    IReadOnlyList<string> Shapes,
    IReadOnlyList<RespellingPart> Respellings,
    IReadOnlyList<CharacterCard> Characters,
    IReadOnlyList<MemberPart> Members,
    IReadOnlyList<PropPart> Props,
    RawJson? Picture,
    string ShapesKey,
    IReadOnlyList<RawJson> Lines,
    IReadOnlyDictionary<string, RawJson> Mouths
);

/// <summary>Makes views of scenes.</summary>
public sealed class SceneViews(
    SceneDesk scenes,
    HearingDesk hearings,
    ProductionStore store,
    Attention attention,
    CastLibrary library,
    CharacterStore characters
)
{
    /// <summary>A scene as it is now.</summary>
    /// <param name="id">Which.</param>
    /// <param name="page">What the page has already; null for none.</param>
    public async Task<SceneView> OfAsync(Guid id, KnownScene? page)
    {
        var scene = await scenes.LoadAsync(id);
        attention.Look(id);
        var (undo, redo) = await store.NamesAsync(scene.Production.Id);
        var open = await hearings.OpenAsync(scene.Production.Id);
        var stage = scene.Stage;
        var mouths = new MouthGallery();
        var known = page?.Heard.ToHashSet() ?? [];
        var (p, s) = (scene.Production, scene.Scene);
        var view = StageView.For(stage.Heads, p.Width, p.Height);
        return new SceneView(
            id,
            new ProductionPart(p.Id, p.Title, p.Revision, p.Width, p.Height, p.Rate)
            {
                View = [view.X, view.Y, view.Width],
                IsSmall = StageView.IsSmall(stage.Heads, p.Width, p.Height),
                Lettering = scene.Document.Lettering,
            },
            new ScenePart(s.Title, s.Backdrop, [.. library.BackdropKeys.Select(k => new SetCard(k, CastLibrary.BackdropName(k)))], s.Gap, s.LeadIn, s.LeadOut)
            {
                Camera = scene.Document.Camera,
                Light = scene.Document.Light,
                Marks = scene.Document.Marks,
                Spoilt = SpoiltPart.Of(scene),
            },
            await scenes.ScenesAsync(p.Id),
            [.. Core.Performance.Moods.All.Select(m => m.ToString())],
            [.. ClipPart.Of(scene)],
            [.. scene.Evaluated.Sounds.Select(SoundOf)],
            [.. ShotsOf(scene)],
            scene.Heard,
            scene.Evaluated.SoundKey(),
            stage.Rate.FramesPerSecond,
            stage.FrameCount,
            stage.Duration,
            undo,
            redo,
            [.. MouthShapes.All.Select(x => x.ToString())],
            [.. scene.Hand.Respellings.Select(r => new RespellingPart(r.Word, r.Written, r.Phones))],
            characters.Cards(),
            [
                .. scene.Members.Select(
                    (m, i) =>
                        new MemberPart(m.Id.Value, m.RoleName, m.Character, m.Voice, m.Ink, m.Mouth, m.Performance)
                        {
                            Stands = StandingPart.Of(scene, i),
                            HasHands = stage.Cast[i].Figure.Rest != HandRest.None,
                            Filmed = stage.Cast[i].Figure is PlateFigure plate ? Math.Round(plate.Length, 3) : null,
                            CharacterName = library.Character(m.Character).Rig.Name,
                            IsDressed = library.RecipeOf(m.Character) != null,
                            IsOwn = characters.IsOwn(m.Character),
                            Newer = characters.NewerOf(m.Character),
                        }
                ),
            ],
            PropPart.Of(scene),
            // The picture that is looked at comes along: nothing has to wait for it.
            page == null
                ? null
                : new RawJson(Encoding.UTF8.GetString(FrameWriter.Frames(stage, Math.Clamp(page.Frame, 0, stage.FrameCount - 1), 1, p.Width, p.Height))),
            string.Join(' ', scene.Members.Select(m => m.Character).Prepend(s.Backdrop).Append(stage.TextKey).Append(stage.OrderKey)),
            LinesOf(scene, open, mouths, known),
            mouths.Pictures
        );
    }

    private static TakeCard CardOf(Take take, Line line)
    {
        var spoken = take.SpokenDelivery.Length > 0 ? Column.Read<Delivery>(take.SpokenDelivery) : null;
        var delivery =
            spoken == null || spoken == new Delivery() ? null : Delivery.Presets.FirstOrDefault(p => p.Delivery == spoken).Name ?? "with its own dials";
        return new TakeCard(take.Id, Low(take.Kind), take.Name, take.Duration, take.Id == line.TakeId, delivery, take.Created, take.IsStarred, take.Note)
        {
            Hash = take.AssetHash,
            From = take.PartStart ?? 0,
            To = take.PartEnd ?? take.Duration,
        };
    }

    private RawJson[] LinesOf(LoadedScene scene, IReadOnlyDictionary<string, HearingView> open, MouthGallery mouths, HashSet<long> known)
    {
        var takes = scene.Takes.Values.ToLookup(t => t.LineId);
        var touches = scene.Hand.Touches.ToLookup(t => t.LineId);
        var marks = scene.Hand.Marks.ToLookup(m => m.TakeId);
        var pins = scene.Hand.Pins.ToLookup(x => x.TakeId);
        return
        [
            .. scene.Lines.Select(line =>
            {
                var placed = scene.Find(line.Id);
                var spoken = scene.Spoken(line.Id);
                var member = scene.Member(line.CastMemberId);
                var take = line.TakeId is { } t ? scene.Takes.GetValueOrDefault(t) : null;
                var hearing = placed == null ? null : open.GetValueOrDefault(VoiceStore.KeyOf(placed.Line));
                var written =
                    line.Text.Length > 0 ? line.Text
                    : spoken == null ? ""
                    : spoken.Speech.Draft.Length > 0 ? spoken.Speech.Draft
                    : string.Join(' ', spoken.Speech.Words.Select(w => w.Text));
                var light = new LinePart(
                    line.Id,
                    line.CastMemberId,
                    line.Text,
                    written,
                    spoken == null ? [] : WrittenSpans.Of(written, spoken.Speech.Words),
                    [.. Directions.In(written).SelectMany(d => new[] { d.Start, d.Length })],
                    placed?.Start,
                    placed?.Duration,
                    line.Start == null,
                    line.IsOffStage,
                    line.IsMute,
                    [.. (placed?.Line.Also ?? []).Select(m => m.Value)],
                    line.Pause,
                    line.IsTogether,
                    take == null ? null : new TakePart(take.Id, Low(take.Kind), take.Name, take.GuideHash == null ? null : take.GuideName, take.AssetHash),
                    placed != null && spoken == null && hearing?.State != HearingState.Failed,
                    hearing?.State == HearingState.Failed ? hearing.Error : null,
                    [.. touches[line.Id].Select(x => TouchOf(x, spoken))],
                    take == null
                        ? null
                        :
                        [
                            .. marks[take.Id]
                                .Select(m => new MarkPart(
                                    m.Id,
                                    R(Math.Max(0, placed!.Line.Care.ToTake(m.Start))),
                                    R(placed.Line.Care.ToTake(m.End)),
                                    m.IsVoice,
                                    WordEdits.Read(m).Sound is { } sound ? VocalSounds.NameOf(sound) : null
                                )),
                        ],
                    [.. takes[line.Id].OrderBy(x => x.Created).Select(x => CardOf(x, line))],
                    placed?.Line.Care,
                    Takes.DeliveryOf(line),
                    take != null && Takes.IsStale(line, take, member.Voice, scene.Hand.Respellings),
                    take == null ? 0 : pins[take.Id].Count()
                )
                {
                    Acting = placed?.Line.Acting ?? new LineActing(),
                    Language = line.Language,
                };
                return HeardLine.Join(
                    JsonSerializer.Serialize(light, JsonSerializerOptions.Web),
                    spoken == null ? null : HeardLine.Of(spoken, member.Character, library.Character(member.Character)),
                    mouths,
                    known
                );
            }),
        ];
    }

    private static TouchPart TouchOf(LineTouch row, PlacedSpeech? spoken)
    {
        var was = HandWork.Read(row);
        var here = spoken == null ? null : PhoneMap.Find(was, PhoneMap.Sequence(spoken.Speech));
        return new TouchPart(row.Id, row.Title, row.IsOn, spoken != null && here == null, R(here?.Start ?? was.Start), R(here?.End ?? was.End));
    }

    private static IEnumerable<ShotPart> ShotsOf(LoadedScene scene)
    {
        var (stage, shots, things) = (scene.Stage, scene.Stage.Shots.Shots, scene.Document.Things);
        Guid? Who(int index) => index >= 0 && index < scene.Members.Count ? scene.Members[index].Id.Value : null;
        for (var i = 0; i < shots.Count; i++)
        {
            var (shot, end) = (shots[i], i + 1 < shots.Count ? shots[i + 1].Start : stage.Duration);
            yield return new ShotPart(
                R(shot.Start),
                R(end),
                shot.Framing.ToString(),
                Who(shot.Subject),
                Who(shot.Other),
                shot.Move.ToString(),
                shot.Reason,
                shot.Clip?.Value
            )
            {
                Change = shot.Change.ToString(),
                Over = shot.Over,
                Prop = shot.Prop >= 0 && shot.Prop < things.Count ? things[shot.Prop].Laid.Id.Value : null,
                Frame = Math.Clamp(stage.Rate.FrameAt((shot.Start + end) / 2), 0, stage.FrameCount - 1),
            };
        }
    }

    private static SoundPartView SoundOf(LaidSound s) =>
        new(s.Id.Value, s.Kind, s.SoundHash, s.Name, s.Duration, R(s.Start), s.From, s.Length, s.Gain, s.FadeIn, s.FadeOut, s.Duck, s.Loops, s.Line?.Value);

    private static string Low<T>(T value)
        where T : Enum => value.ToString().ToLowerInvariant();

    private static double R(double seconds) => Math.Round(seconds, 3);
}
