using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;

namespace Zamblo.Studio.Scenes;

/// <summary>Values that lie in columns as JSON.</summary>
internal static class Column
{
    private const string Nothing = "{}";

    /// <summary>Reads one; an empty text, and one that cannot be read, is the default.</summary>
    public static T Read<T>(string json)
    {
        try
        {
            return JsonSerializer.Deserialize<T>(json.Length == 0 ? Nothing : json, JsonSerializerOptions.Web)
                ?? JsonSerializer.Deserialize<T>(Nothing, JsonSerializerOptions.Web)!;
        }
        catch (JsonException)
        {
            return JsonSerializer.Deserialize<T>(Nothing, JsonSerializerOptions.Web)!;
        }
    }

    /// <summary>
    /// A column as it is where it can be read, with its numbers brought into range where one is outside, and empty where it is no such value.
    /// </summary>
    public static string Mended<T>(string json, Func<T, T>? clamped = null)
    {
        if (json.Length == 0)
            return json;
        T? value;
        try
        {
            value = JsonSerializer.Deserialize<T>(json, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return "";
        }
        if (value is null)
            return "";
        if (clamped == null)
            return json;
        var mended = Write(clamped(value));
        try
        {
            return Write(value) == mended ? json : mended;
        }
        // A number without end can be read and not be written.
        catch (ArgumentException)
        {
            return mended;
        }
    }

    /// <summary>Writes one.</summary>
    public static string Write<T>(T value) => JsonSerializer.Serialize(value, JsonSerializerOptions.Web);

    /// <summary>Writes what is done to a sound; nothing for nothing.</summary>
    public static string Write(VoiceCare care) => care == new VoiceCare() ? "" : Write<VoiceCare>(care);
}

/// <summary>What was changed by hand: rows as they are in the database.</summary>
public sealed record HandWork(
    IReadOnlyList<LineTouch> Touches,
    IReadOnlyList<TakeMark> Marks,
    IReadOnlyList<TakePin> Pins,
    IReadOnlyList<Respelling> Respellings
)
{
    /// <summary>Rows that are not as they ought to be.</summary>
    public IReadOnlyList<SpoiltRow> Spoilt { get; private init; } = [];

    /// <summary>Of some lines and takes, as queries: a long scene has hundreds, and they are not to travel.</summary>
    public static async Task<HandWork> LoadAsync(ZambloContext db, Guid production, IQueryable<Guid> lines, IQueryable<Guid> takes)
    {
        var marks = await db.Marks.AsNoTracking().Where(m => takes.Contains(m.TakeId)).OrderBy(m => m.Start).ThenBy(m => m.Id).ToListAsync();
        var pins = await db.Pins.AsNoTracking().Where(p => takes.Contains(p.TakeId)).OrderBy(p => p.Time).ThenBy(p => p.Id).ToListAsync();
        var touches = await db.Touches.AsNoTracking().Where(t => lines.Contains(t.LineId)).OrderBy(t => t.Order).ToListAsync();
        var mender = new RowMender(null);
        mender.Mend([.. marks, .. pins, .. touches]);
        return new(touches, marks, pins, await db.Respellings.AsNoTracking().Where(r => r.ProductionId == production).OrderBy(r => r.Word).ToListAsync())
        {
            Spoilt = mender.Found,
        };
    }

    /// <summary>A touch-up as it was made.</summary>
    public static TouchUp Read(LineTouch row) => Column.Read<TouchUp>(row.Data) with { Id = row.Id };

    /// <summary>What is known about the sound of a line.</summary>
    /// <param name="text">Of the line.</param>
    /// <param name="take">Whose sound.</param>
    /// <param name="voice">Of who says it: tells the language where nobody did.</param>
    /// <param name="part">Of the sound that the take is, or null.</param>
    /// <param name="told">The language that somebody said it is; null or empty for none.</param>
    public SpeechQuery QueryOf(string text, Guid take, string voice, SoundPart? part, string? told = null)
    {
        var isTold = !string.IsNullOrEmpty(told);
        var query = SpeechQuery.Of(text, isTold ? told! : Synthesis.LanguageOf(voice)) with { IsTold = isTold };
        var script = query.Script;
        var words = script == null || Respellings.Count == 0 ? [] : ScriptText.PlainWords(script).Select(w => w.Text.ToLowerInvariant()).ToHashSet();
        return query with
        {
            Part = part,
            Marks = [.. Marks.Where(m => m.TakeId == take).Select(WordEdits.Read)],
            Pins = [.. Pins.Where(p => p.TakeId == take).Select(p => new BoundaryPin(p.Word, p.Near, p.Phone, p.Time))],
            Pronunciations = Respellings.Where(r => words.Contains(r.Word)).ToDictionary(r => r.Word, r => r.Phones.Split(' ')),
        };
    }
}

/// <summary>The rows of a scene.</summary>
/// <param name="Production">Whose scene.</param>
/// <param name="Scene">The scene.</param>
/// <param name="Members">In their order.</param>
/// <param name="Lines">In order, also those without a voice.</param>
/// <param name="Takes">All takes of all lines, also those that are not in use.</param>
/// <param name="Hand">What was changed by hand.</param>
/// <param name="Clips">Clips as they lie in the database.</param>
public sealed record SceneRows(
    Production Production,
    Scene Scene,
    IReadOnlyList<CastMember> Members,
    IReadOnlyList<Line> Lines,
    IReadOnlyDictionary<Guid, Take> Takes,
    HandWork Hand,
    IReadOnlyList<ScoreClip> Clips
)
{
    /// <summary>Rows that are not as they ought to be.</summary>
    public IReadOnlyList<SpoiltRow> Spoilt { get; init; } = [];
}

/// <summary>From rows to a document.</summary>
internal static class SceneReader
{
    /// <summary>Reads a scene as it is now.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public static async Task<(SceneRows Rows, SceneDocument Document)> ReadAsync(ZambloContext db, Guid sceneId, CastLibrary library)
    {
        var scene = await db.Scenes.AsNoTracking().FirstOrDefaultAsync(s => s.Id == sceneId) ?? throw new NotFoundException("such scene");
        var production = await db.Productions.AsNoTracking().FirstAsync(p => p.Id == scene.ProductionId);
        var members = await db.CastMembers.AsNoTracking().Where(m => m.ProductionId == production.Id).OrderBy(m => m.Order).ToListAsync();
        var places = await db.Standings.AsNoTracking().Where(s => s.SceneId == sceneId).ToDictionaryAsync(s => s.CastMemberId, PlaceOf);
        var lines = await db.Lines.AsNoTracking().Where(l => l.SceneId == sceneId).OrderBy(l => l.Order).ToListAsync();
        var lineIds = db.Lines.Where(l => l.SceneId == sceneId).Select(l => l.Id);
        var orders = members.Select((m, i) => (m.Id, i)).ToDictionary(m => m.Id, m => m.i);
        var voices = (await db.LineVoices.AsNoTracking().Where(v => lineIds.Contains(v.LineId)).ToListAsync())
            .OrderBy(v => orders.GetValueOrDefault(v.CastMemberId))
            .ToLookup(v => v.LineId, v => new MemberId(v.CastMemberId));
        var takes = await db.Takes.AsNoTracking().Where(t => lineIds.Contains(t.LineId)).ToDictionaryAsync(t => t.Id);
        var hand = await HandWork.LoadAsync(
            db,
            production.Id,
            lineIds,
            db.Lines.Where(l => l.SceneId == sceneId && l.TakeId != null).Select(l => l.TakeId!.Value)
        );
        var clips = await db.Clips.AsNoTracking().Where(c => c.SceneId == sceneId).OrderBy(c => c.Order).ThenBy(c => c.Id).ToListAsync();
        var props = await db.Props.AsNoTracking().Where(p => p.SceneId == sceneId).OrderBy(p => p.Id).ToListAsync();
        var sounds = await db.Sounds.AsNoTracking().Where(s => s.SceneId == sceneId).OrderBy(s => s.Start).ThenBy(s => s.Id).ToListAsync();
        var mender = new RowMender(library);
        mender.Mend([production, scene, .. members, .. lines, .. takes.Values, .. sounds, .. clips, .. props]);
        var floor = FloorMark.FloorOf(scene.Backdrop);
        FloorMark[] marks = [.. Column.Read<FloorMarks>(production.Marks).Clamped().All.Where(m => m.Floor == floor)];
        var laid = new List<LaneClip>();
        foreach (var clip in clips)
            if (ClipRows.Read(clip) is { } read)
                // A walk to a mark leads to where that is now; to one that is gone, or of another set, to where it was.
                laid.Add(read is WalkClip walk && Array.Find(marks, m => m.Id == walk.Mark) is { } mark ? walk with { To = mark.X } : read);
            else
                mender.GiveUp(clip);
        var voiceOf = members.ToDictionary(m => m.Id, m => m.Voice);
        var touches = hand.Touches.Where(t => t.IsOn).ToLookup(t => t.LineId);
        var spoken = new List<SceneLine>();
        foreach (var line in lines)
        {
            if (line.TakeId is not { } id || !takes.TryGetValue(id, out var take))
                continue;
            spoken.Add(
                LineOf(line, take, hand.QueryOf(line.Text, take.Id, voiceOf[line.CastMemberId], PartOf(take), line.Language)) with
                {
                    Also = [.. voices[line.Id]],
                    Touches = [.. touches[line.Id].Select(HandWork.Read)],
                }
            );
        }
        var document = new SceneDocument(scene.Backdrop, FrameRate.Parse(production.Rate), production.Width, production.Height)
        {
            LeadIn = scene.LeadIn,
            LeadOut = scene.LeadOut,
            Gap = scene.Gap,
            Camera = Column.Read<CameraDials>(scene.Camera).Clamped(),
            Light = Column.Read<LightDials>(scene.Light).Clamped(),
            Lettering = Column.Read<LetteringDials>(production.Lettering),
            Members =
            [
                .. members.Select(m => new SceneMember(
                    new MemberId(m.Id),
                    m.RoleName,
                    m.Character,
                    m.Voice,
                    m.Ink,
                    Column.Read<MouthDials>(m.MouthDials).Clamped(),
                    Column.Read<PerformanceDials>(m.PerformanceDials).Clamped()
                )
                {
                    Place = places.GetValueOrDefault(m.Id),
                }),
            ],
            Lines = spoken,
            Clips = laid,
            Marks = marks,
            Props = [.. props.Select(p => new LaidProp(new PropId(p.Id), p.Art, PlaceOf(p)))],
            Sounds = [.. sounds.Select(SoundOf)],
        };
        return (new SceneRows(production, scene, members, lines, takes, hand, clips) { Spoilt = [.. mender.Found, .. hand.Spoilt] }, document);
    }

    /// <summary>Where a hand has put somebody.</summary>
    public static MemberPlace PlaceOf(Standing s) => new MemberPlace((float?)s.X, (float)s.Lift, (float)s.Size, s.Depth, (float)s.Facing).Clamped();

    /// <summary>Writes down where a hand has put somebody.</summary>
    public static void Write(MemberPlace place, Standing row) =>
        (row.X, row.Lift, row.Size, row.Depth, row.Facing) = (place.X, place.Lift, place.Size, place.Depth, place.Facing);

    /// <summary>Where a prop stands.</summary>
    public static PropPlace PlaceOf(SceneProp p) => Column.Read<PropPlace>(p.Place).Clamped();

    /// <summary>The part of its sound that a take is.</summary>
    public static SoundPart? PartOf(Take take) => take is { PartStart: { } start, PartEnd: { } end } ? new SoundPart(start, end) : null;

    /// <summary>A sound as it lies in the scene.</summary>
    public static LaidSound SoundOf(SceneSound s) =>
        new(new SoundId(s.Id), s.Kind, s.AssetHash, s.Name, s.Duration, s.Start, s.From, s.Length, s.Gain, s.FadeIn, s.FadeOut, s.Duck, s.Loops)
        {
            Line = s.LineId is { } line ? new LineId(line) : null,
            Anchor = AnchorOf(s.Anchor),
        };

    private static WordAnchor? AnchorOf(string json)
    {
        try
        {
            return json.Length == 0 ? null : JsonSerializer.Deserialize<WordAnchor>(json, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>A line with its take, without what hangs on it.</summary>
    public static SceneLine LineOf(Line line, Take take, SpeechQuery query) =>
        new(new LineId(line.Id), new MemberId(line.CastMemberId), new TakeId(take.Id), take.Duration, take.AssetHash, take.Name, query)
        {
            EngineHash = take.GuideHash == null ? take.SpeechHash : null,
            GuideHash = take.GuideHash,
            Care = Column.Read<VoiceCare>(take.Care),
            IsOffStage = line.IsOffStage,
            Acting = Column.Read<LineActing>(line.Acting).Clamped(),
            IsMute = line.IsMute,
            Captions = Edits.CaptionEdits.Read(line),
            Written = line.Text,
            Start = line.Start,
            Pause = line.Pause,
            IsTogether = line.IsTogether,
        };

    /// <summary>The lines of a production that are listened to: with a voice, as they are now, in the order of the film.</summary>
    /// <param name="db">The database.</param>
    /// <param name="production">Whose.</param>
    /// <param name="only">Those that are asked for; null for all.</param>
    /// <param name="isHeard">Only those whose times come from listening, not from the engine that spoke them.</param>
    public static async Task<IReadOnlyList<SceneLine>> LinesAsync(ZambloContext db, Guid production, IReadOnlySet<Guid>? only = null, bool isHeard = false)
    {
        var voices = await db.CastMembers.AsNoTracking().Where(m => m.ProductionId == production).ToDictionaryAsync(m => m.Id, m => m.Voice);
        var ids = only?.ToArray();
        var scenes = db.Scenes.Where(s => s.ProductionId == production).Select(s => s.Id);
        var query = db.Lines.Where(l => scenes.Contains(l.SceneId) && l.TakeId != null);
        if (ids != null)
            query = query.Where(l => ids.Contains(l.Id));
        if (isHeard)
            query = query.Where(l => db.Takes.Any(t => t.Id == l.TakeId && (t.SpeechHash == null || t.GuideHash != null)));
        var lines = await query
            .AsNoTracking()
            .OrderBy(l => db.Scenes.Where(s => s.Id == l.SceneId).Select(s => s.Order).FirstOrDefault())
            .ThenBy(l => l.Order)
            .ToListAsync();
        var takeIds = query.Select(l => l.TakeId!.Value);
        var takes = await db.Takes.AsNoTracking().Where(t => takeIds.Contains(t.Id)).ToDictionaryAsync(t => t.Id);
        new RowMender(null).Mend([.. lines, .. takes.Values]);
        var hand = await HandWork.LoadAsync(db, production, query.Where(l => false).Select(l => l.Id), takeIds);
        return
        [
            .. lines
                .Where(l => takes.ContainsKey(l.TakeId!.Value))
                .Select(l => (Line: l, Take: takes[l.TakeId!.Value]))
                .Select(x => LineOf(x.Line, x.Take, hand.QueryOf(x.Line.Text, x.Take.Id, voices[x.Line.CastMemberId], PartOf(x.Take), x.Line.Language))),
        ];
    }
}
