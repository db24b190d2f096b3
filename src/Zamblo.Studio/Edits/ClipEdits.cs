using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Light;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

internal sealed class ClipEdits(MotionLibrary motions)
    : IEditHandler<AddClip>,
        IEditHandler<ChangeClip>,
        IEditHandler<SplitClip>,
        IEditHandler<SuggestMoods>,
        IEditHandler<DeleteClips>,
        IEditHandler<JoinClips>,
        IEditHandler<LineUpClips>
{
    // In stage units a second: about a quarter of the stage.
    private const double WalkingPace = 330;
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    // A gesture of the library, a saved one, or one that comes along.
    private async Task<(string Key, Gesture? Own)> GestureAsync(string name, Gesture? own) =>
        own != null ? (Gesture.Performed, MotionLibrary.Checked(own))
        : Gestures.Find(name) is { } known ? (known.Key, null)
        : (name, await motions.FindAsync(name));

    public async Task ApplyAsync(AddClip edit, EditScope scope)
    {
        var scene = await scope.SceneAsync(edit.Scene);
        var index = scene.IndexOf(edit.Member);
        var member = scene.Members[index];
        var id = new ClipId(Guid.NewGuid());
        var name = edit.Name ?? "";
        if (!double.IsFinite(edit.Start) || edit.End is { } given && !double.IsFinite(given))
            throw new RequestException("A place has a start and an end.");
        double start = edit.Start,
            end = edit.End ?? start + 2;
        LaneClip clip;
        switch (edit.Kind)
        {
            case ClipKind.Mood:
                clip = new MoodClip(
                    id,
                    member.Id,
                    null,
                    MoodOf(name),
                    (float)Strength(edit.Strength ?? 0.7, 1),
                    Nowhere,
                    Nowhere,
                    Check.Range(edit.Ease ?? 0.5, 0, 5, "An ease")
                );
                break;
            case ClipKind.Look:
                clip = new LookClip(id, member.Id, null, AimOf(name, scene), Nowhere, Nowhere);
                break;
            case ClipKind.Walk:
                var to = MarkOf(scene, edit.Mark)?.X ?? OnStage(edit.WalkTo ?? scene.Stage.Cast[index].X);
                var from = edit.WalkFrom is { } wing ? OnStage(wing) : (float?)null;
                var manner = edit.Name == null ? WalkManner.Walk : MannerOf(name);
                clip = new WalkClip(id, member.Id, null, to, from, Nowhere, Nowhere) { Manner = manner, Mark = edit.Mark };
                var pace = WalkingPace * StagePath.PaceOf(manner);
                end = edit.End ?? start + Math.Max(0.6, Math.Abs(to - (from ?? scene.Stage.PlaceOf(index, start))) / pace);
                break;
            case ClipKind.Shot:
                clip = new ShotClip(id, member.Id, null, FramingOf(name), edit.Move ?? CameraMove.Still, OtherOf(scene, edit.Other), Nowhere, Nowhere)
                {
                    Prop = ThingOf(scene, FramingOf(name), edit.Prop),
                    Change = Check.Known(edit.Change ?? ShotChange.Cut, "way to begin a shot"),
                    Over = OverOf(edit.Over ?? FrameBlend.Usual),
                };
                break;
            case ClipKind.Light:
                clip = new LightClip(id, member.Id, null, LightOf(name), Strength(edit.Strength ?? 1, 1), Nowhere, Nowhere)
                {
                    Air = AmountOf(edit.Air),
                    Lamps = AmountOf(edit.Lamps),
                };
                end = edit.End ?? start + 1;
                break;
            case ClipKind.Hold:
                clip = HoldOf(id, scene, index, edit.Prop, edit.Right);
                break;
            case ClipKind.Footage:
                var plate = FilmedOf(scene, index);
                var shown = plate.Folded(scene.Stage.Cast[index].Footage.At(Math.Max(0, start)));
                clip = new FootageClip(id, member.Id, null, FromOf(plate, edit.From ?? shown), SpeedOf(edit.Speed ?? 1), Nowhere, Nowhere);
                break;
            case ClipKind.Gesture:
                var (key, own) = await GestureAsync(name, edit.Own);
                var gesture = new GestureClip(id, member.Id, null, key, (float)Strength(edit.Strength ?? 1, 2), Nowhere, 0)
                {
                    Own = own,
                    Mirror = edit.Mirror ?? false,
                    Loops = Math.Clamp(edit.Loops ?? 1, 1, 50),
                    From = Check.Range(edit.From ?? 0, 0, 0.95, "A cut"),
                    To = Check.Range(edit.To ?? 1, 0.05, 1, "A cut"),
                    Replaces = edit.Replaces ?? false,
                };
                if (gesture.To - gesture.From < 0.05)
                    throw new RequestException("Nothing of the gesture would be left.");
                var length = edit.End is { } e ? e - edit.Start : gesture.Gesture!.Length * gesture.Loops * (gesture.To - gesture.From);
                // Dropped on a moment, the stroke falls there.
                if (edit.At is { } at)
                    start = Check.Range(at, 0, 7200, "A moment") - gesture.StrokeShare * length;
                (clip, end) = (gesture.Stretching(edit.Stretches ?? false), start + length);
                break;
            default:
                throw new RequestException("There is no such lane.");
        }
        clip = scene.Evaluated.Lay(clip, start, end);
        scope.Name = $"{scene.TitleOf(clip)} for {member.RoleName}";
        scope.Db.Clips.Add(ClipRows.New(clip, edit.Scene));
        scope.Answer = new EditAnswer { Id = id.Value };
    }

    private static LightKind LightOf(string name) => ClipRows.LightOf(name) ?? throw new RequestException("There is no such light.");

    private static FloorMark? MarkOf(LoadedScene scene, Guid? id) =>
        id == null ? null : scene.Document.Marks.FirstOrDefault(m => m.Id == id) ?? throw new NotFoundException("such mark");

    private static double? AmountOf(double? much) => much is null or < 0 ? null : Check.Range(much.Value, 0, 1, "An amount");

    private static MemberId? OtherOf(LoadedScene scene, Guid? other) => other is { } who ? scene.Member(who).Id : null;

    private static double OverOf(double seconds) => Check.Range(seconds, FrameBlend.Shortest, FrameBlend.Longest, "A change of shots");

    // What an insert is of: the one that is asked for, else the one in front.
    private static PropId? ThingOf(LoadedScene scene, Framing framing, Guid? prop)
    {
        if (framing != Framing.Insert)
            return null;
        var all = scene.Document.Props;
        if (all.Count == 0)
            throw new RequestException("There is nothing to be looked at from near: bring a prop in first (Set).");
        return all.FirstOrDefault(p => p.Id.Value == prop)?.Id ?? all.MaxBy(p => p.Place.Order)!.Id;
    }

    // In the hand that is asked for, else in the one that is there: the one at the picture's right first.
    private static HoldClip HoldOf(ClipId id, LoadedScene scene, int member, Guid? prop, bool? right)
    {
        if (scene.Document.Props.All(p => p.Id.Value != prop))
            throw new NotFoundException("such prop");
        var (figure, who) = (scene.Stage.Cast[member].Figure, scene.Members[member]);
        if (!figure.HasArm(true) && !figure.HasArm(false))
            throw new RequestException($"{who.RoleName} has no hand to hold it with.");
        var hand = right ?? figure.HasArm(true);
        return new HoldClip(id, who.Id, null, new PropId(prop!.Value), figure.HasArm(hand) ? hand : !hand, Nowhere, Nowhere);
    }

    private static PlateFigure FilmedOf(LoadedScene scene, int member) =>
        scene.Stage.Cast[member].Figure as PlateFigure ?? throw new RequestException($"{scene.Members[member].RoleName} is not somebody in a clip.");

    private static double FromOf(PlateFigure plate, double from) => plate.Folded(Check.Range(from, 0, 2 * plate.Length, "A moment of the clip"));

    private static double SpeedOf(double speed) => Check.Range(speed, 0, FootageRun.Fastest, "A pace");

    private static async Task<(LoadedScene Scene, ScoreClip Row, LaneClip Clip)> OpenAsync(EditScope scope, Guid id)
    {
        var row = await scope.Db.Clips.FirstOrDefaultAsync(c => c.Id == id) ?? throw new NotFoundException("such clip");
        var scene = await scope.SceneAsync(row.SceneId);
        return (scene, row, scene.Clip(id));
    }

    public async Task ApplyAsync(ChangeClip edit, EditScope scope)
    {
        var (scene, row, clip) = await OpenAsync(scope, edit.Clip);
        scope.Name = edit.Start != null || edit.End != null || edit.By != null ? $"Move {scene.TitleOf(clip)}" : $"Change {scene.TitleOf(clip)}";
        var (start, end) = scene.Evaluated.SpanOf(clip);
        switch (clip)
        {
            case MoodClip mood:
                clip = mood with
                {
                    Mood = edit.Name == null ? mood.Mood : MoodOf(edit.Name),
                    Intensity = edit.Strength is { } s ? (float)Strength(s, MoodSpan.Most) : mood.Intensity,
                    Ease = Check.Range(edit.Ease ?? mood.Ease, 0, 5, "An ease"),
                };
                break;
            case LookClip look:
                clip = look with { Aim = edit.Name == null ? look.Aim : AimOf(edit.Name, scene) };
                break;
            case WalkClip walk:
                var manner = edit.Name == null ? walk.Manner : MannerOf(edit.Name);
                // A place of its own, another mark, or as it was.
                clip = walk with
                {
                    To = MarkOf(scene, edit.WalkTo == null ? edit.Mark : null)?.X ?? OnStage(edit.WalkTo ?? walk.To),
                    Mark = edit.WalkTo == null ? edit.Mark ?? walk.Mark : null,
                    Manner = manner,
                };
                // Who runs is there sooner.
                if (manner != walk.Manner)
                    end = start + Math.Max(0.6, (end - start) * StagePath.PaceOf(walk.Manner) / StagePath.PaceOf(manner));
                break;
            case ShotClip shot:
                clip = shot with
                {
                    Framing = edit.Name == null ? shot.Framing : FramingOf(edit.Name),
                    Move = edit.Move ?? shot.Move,
                    Change = Check.Known(edit.Change ?? shot.Change, "way to begin a shot"),
                    Over = OverOf(edit.Over ?? shot.Over),
                    Prop = ThingOf(scene, edit.Name == null ? shot.Framing : FramingOf(edit.Name), edit.Prop ?? shot.Prop?.Value),
                    Member = edit.Member is { } subject ? scene.Member(subject).Id : shot.Member,
                    Other = edit.Other == null ? shot.Other : OtherOf(scene, edit.Other),
                };
                break;
            case LightClip light:
                clip = light with
                {
                    Light = edit.Name == null ? light.Light : LightOf(edit.Name),
                    Strength = edit.Strength is { } much ? Strength(much, 1) : light.Strength,
                    Air = edit.Air == null ? light.Air : AmountOf(edit.Air),
                    Lamps = edit.Lamps == null ? light.Lamps : AmountOf(edit.Lamps),
                };
                break;
            case HoldClip hold:
                clip = HoldOf(hold.Id, scene, scene.IndexOf(hold.Member.Value), hold.Prop.Value, edit.Right ?? hold.Right) with
                {
                    Line = hold.Line,
                    Start = hold.Start,
                    End = hold.End,
                };
                break;
            case FootageClip footage:
                var plate = FilmedOf(scene, scene.IndexOf(footage.Member.Value));
                var trimmed = edit is { Start: { } cut, End: { } same, From: null } && Math.Abs(same - end) < 0.002 ? (cut - start) * footage.Speed : 0;
                clip = footage with { From = FromOf(plate, Math.Max(0, (edit.From ?? footage.From) + trimmed)), Speed = SpeedOf(edit.Speed ?? footage.Speed) };
                break;
            case GestureClip gesture:
                var loops = Math.Clamp(edit.Loops ?? gesture.Loops, 1, 50);
                // More loops at the same speed take longer.
                if (edit.Loops != null && edit.End == null)
                    end = start + (end - start) * loops / gesture.Loops;
                var (key, own) = edit.Name == null || gesture.Own != null ? (gesture.Key, gesture.Own) : await GestureAsync(edit.Name, null);
                if (edit.Name != null && gesture.Own is { } renamed)
                    own = renamed with { Name = MotionLibrary.Named(edit.Name) };
                clip = gesture = gesture with
                {
                    Key = key,
                    Own = own,
                    Loops = loops,
                    Strength = edit.Strength is { } strength ? (float)Strength(strength, 2) : gesture.Strength,
                    Mirror = edit.Mirror ?? gesture.Mirror,
                    From = Check.Range(edit.From ?? gesture.From, 0, 0.95, "A cut"),
                    To = Check.Range(edit.To ?? gesture.To, 0.05, 1, "A cut"),
                    Replaces = edit.Replaces ?? gesture.Replaces,
                    BlendIn = Check.Range(edit.BlendIn ?? gesture.BlendIn, 0, 5, "A blend"),
                    BlendOut = Check.Range(edit.BlendOut ?? gesture.BlendOut, 0, 5, "A blend"),
                };
                clip = gesture = gesture.Stretching(edit.Stretches ?? gesture.Stretches);
                if (gesture.To - gesture.From < 0.05)
                    throw new RequestException("Nothing of the gesture would be left.");
                break;
        }
        var from = edit.By is { } by ? start + Check.Range(by, -7200, 7200, "A step") : edit.Start ?? start;
        var until = edit.By != null ? from + end - start : edit.End ?? (edit.Start is { } moved ? moved + end - start : end);
        if (!double.IsFinite(from) || !double.IsFinite(until))
            throw new RequestException("A place has a start and an end.");
        ClipRows.Write(scene.Evaluated.Lay(clip, from, until), row);
    }

    public async Task ApplyAsync(SplitClip edit, EditScope scope)
    {
        var (scene, row, clip) = await OpenAsync(scope, edit.Clip);
        scope.Name = $"Split {scene.TitleOf(clip)}";
        var (start, end) = scene.Evaluated.SpanOf(clip);
        if (!(edit.At >= start + 0.05 && edit.At <= end - 0.05))
            throw new RequestException("Put the playhead inside it to split it.");
        if (clip is GestureClip { Loops: > 1 })
            throw new RequestException("A looped gesture cannot be split; set its loops to one first.");
        var (first, second) = (clip, clip with { Id = new ClipId(Guid.NewGuid()) });
        if (clip is GestureClip g)
        {
            var share = g.From + (g.To - g.From) * (scene.Evaluated.GestureOf(g)?.ShareAt((edit.At - start) / (end - start)) ?? 0.5);
            var even = g.Evened();
            (first, second) = (even with { To = share }, even with { Id = second.Id, From = share });
        }
        if (clip is FootageClip f)
        {
            var plate = FilmedOf(scene, scene.IndexOf(f.Member.Value));
            second = f with { Id = second.Id, From = plate.Folded(f.From + (edit.At - start) * f.Speed) };
        }
        ClipRows.Write(scene.Evaluated.Lay(first, start, edit.At), row);
        scope.Db.Clips.Add(ClipRows.New(scene.Evaluated.Lay(second, edit.At, end), row.SceneId));
        scope.Answer = new EditAnswer { Id = second.Id.Value };
    }

    public async Task ApplyAsync(SuggestMoods edit, EditScope scope)
    {
        scope.Name = "Suggest moods";
        var scene = await scope.SceneAsync(edit.Scene);
        var count = 0;
        foreach (var line in scene.Evaluated.Lines)
        {
            // Where a mood is already, somebody has decided.
            if (scene.Document.Clips.Any(c => c is MoodClip && c.Line == line.Id) || line.Speech is not { } speech)
                continue;
            SpeechAnalysis[] others =
            [
                .. scene.Evaluated.Lines.Where(l => l.Line.Member == line.Line.Member && l.Id != line.Id).Select(l => l.Speech).OfType<SpeechAnalysis>(),
            ];
            if (MoodSuggestions.For(scene.WrittenOf(scene.Lines.First(l => l.Id == line.Id.Value)), speech, others) is not { } s)
                continue;
            var clip = new MoodClip(new ClipId(Guid.NewGuid()), line.Line.Member, line.Id, s.Mood, MathF.Round(s.Intensity, 2), Nowhere, Nowhere);
            scope.Db.Clips.Add(ClipRows.New(scene.Evaluated.Lay(clip, line.Start + s.Start, line.Start + s.End), edit.Scene));
            count++;
        }
        scope.Answer = new EditAnswer { Count = count };
    }

    public async Task ApplyAsync(DeleteClips edit, EditScope scope)
    {
        var ids = edit.Ids ?? [];
        var rows = await scope.Db.Clips.Where(c => c.SceneId == edit.Scene && ids.Contains(c.Id)).ToListAsync();
        if (rows.Count == 0)
            throw new NotFoundException("such clip");
        scope.Name = rows.Count == 1 ? "Delete a clip" : $"Delete {rows.Count} clips";
        scope.Db.Clips.RemoveRange(rows);
    }

    private static async Task<(LoadedScene Scene, (LaneClip Clip, double Start, double End)[] Clips)> PickAsync(EditScope scope, Guid id, Guid[]? ids)
    {
        var scene = await scope.SceneAsync(id);
        var clips = scene
            .Document.Clips.Where(c => ids?.Contains(c.Id.Value) == true)
            .Select(c => (Clip: c, Span: scene.Evaluated.SpanOf(c)))
            .Select(x => (x.Clip, x.Span.Start, x.Span.End))
            .OrderBy(c => c.Start)
            .ToArray();
        return clips.Length < 2 ? throw new RequestException("Pick two clips or more.") : (scene, clips);
    }

    public async Task ApplyAsync(JoinClips edit, EditScope scope)
    {
        var (scene, clips) = await PickAsync(scope, edit.Scene, edit.Ids);
        var first = clips[0].Clip;
        if (clips.Any(c => c.Clip.Kind != first.Kind || c.Clip.Member != first.Member))
            throw new RequestException("Pick clips of one sort and of one member to join them.");
        var isSame = first is not MoodClip mood || clips.All(c => ((MoodClip)c.Clip).Mood == mood.Mood);
        if (first is not (GestureClip or MoodClip) || !isSame)
            throw new RequestException("Gestures can be joined, and moods of the same name.");
        scope.Name = $"Join {clips.Length} clips";
        double start = clips.Min(c => c.Start),
            end = clips.Max(c => c.End);
        if (first is GestureClip gesture)
        {
            GestureSpan[] spans = [.. clips.Select(c => scene.Evaluated.GestureOf((GestureClip)c.Clip)).OfType<GestureSpan>()];
            first = gesture.Evened() with
            {
                Key = Gesture.Performed,
                Own = Gestures.Join(spans, string.Join(", ", spans.Select(s => s.Gesture.Name).Distinct().Take(3))),
                Strength = 1,
                From = 0,
                To = 1,
                Loops = 1,
                Mirror = false,
                Replaces = spans.Any(s => s.Replaces),
                BlendIn = 0,
                BlendOut = 0,
            };
        }
        var rows = await RowsAsync(scope, edit.Scene, clips);
        ClipRows.Write(scene.Evaluated.Lay(first, start, end), rows[first.Id.Value]);
        scope.Db.Clips.RemoveRange(rows.Values.Where(r => r.Id != first.Id.Value));
        scope.Answer = new EditAnswer { Id = first.Id.Value };
    }

    public async Task ApplyAsync(LineUpClips edit, EditScope scope)
    {
        var (scene, clips) = await PickAsync(scope, edit.Scene, edit.Ids);
        scope.Name = $"Line up {clips.Length} clips";
        var gap = Math.Clamp(edit.GapFrames ?? 0, -500, 5000) / scene.Stage.Rate.FramesPerSecond;
        var rows = await RowsAsync(scope, edit.Scene, clips);
        var at = clips[0].End;
        foreach (var (clip, start, end) in clips.Skip(1))
        {
            var place = Math.Max(0, at + gap);
            ClipRows.Write(scene.Evaluated.Lay(clip, place, place + end - start), rows[clip.Id.Value]);
            at = place + end - start;
        }
    }

    private static Task<Dictionary<Guid, ScoreClip>> RowsAsync(EditScope scope, Guid scene, (LaneClip Clip, double Start, double End)[] clips)
    {
        Guid[] ids = [.. clips.Select(c => c.Clip.Id.Value)];
        return scope.Db.Clips.Where(c => c.SceneId == scene && ids.Contains(c.Id)).ToDictionaryAsync(c => c.Id);
    }

    private static Mood MoodOf(string name) => ClipRows.MoodOf(name) ?? throw new RequestException($"There is no mood \"{name}\".");

    private static WalkManner MannerOf(string name) =>
        ClipRows.MannerOf(name) ?? throw new RequestException($"Nobody knows how to \"{name}\": walk, stroll, tiptoe, run or hop.");

    private static Framing FramingOf(string name) => ClipRows.FramingOf(name) ?? throw new RequestException($"There is no framing \"{name}\".");

    private static LookAim AimOf(string name, LoadedScene scene) =>
        LookAim.Read(name) is { } aim && (aim.Member is not { } who || scene.Members.Any(m => m.Id == who))
            ? aim
            : throw new RequestException("There is nobody and nothing of that name to look at.");

    private static double Strength(double strength, double most) => Check.Range(strength, 0, most, "A strength");

    // The wings lie a figure's width off stage.
    private static float OnStage(float x) => (float)Check.Range(x, -400, StageScene.Width + 400, "A place");
}
