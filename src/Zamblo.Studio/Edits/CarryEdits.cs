using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Light;
using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A scene begins as the one before it ended.</summary>
public sealed record CarryOn : SceneEdit;

internal sealed class CarryEdits : IEditHandler<CarryOn>
{
    public async Task ApplyAsync(CarryOn edit, EditScope scope)
    {
        scope.Name = "Carry on from the scene before";
        var scene = await scope.Db.Scenes.FirstAsync(s => s.Id == edit.Scene);
        var before =
            await scope
                .Db.Scenes.Where(s => s.ProductionId == scene.ProductionId && s.Order < scene.Order)
                .OrderByDescending(s => s.Order)
                .FirstOrDefaultAsync()
            ?? throw new RequestException("This is the first scene: there is nothing to carry on.");
        var loaded = await scope.SceneAsync(before.Id);
        var here = await scope.SceneAsync(scene.Id);
        // What was carried here before, and nothing else, begins before the scene does.
        var carried = here.Document.Clips.Where(c => c.Line == null && here.Evaluated.SpanOf(c).Start < 0).Select(c => c.Id.Value).ToHashSet();
        scope.Db.Clips.RemoveRange(await scope.Db.Clips.Where(c => c.SceneId == scene.Id && carried.Contains(c.Id)).ToListAsync());
        var carry = new Carry(scope.Db, loaded, loaded.Evaluated.Duration, scene, here.Document.Lines.Count == 0 ? 0 : here.Evaluated.Duration);
        await carry.ApplyAsync(new HashSet<Guid>());
        scope.Answer = new EditAnswer { Count = carry.Count, Said = carry.Said };
    }
}

/// <summary>
/// Takes over into a scene what goes on at a moment of the one before: where everybody stands, walks and motion under way, moods and looks, what is held,
/// things that stand about, the light. What is under way begins before the scene does, so that its first frame goes on where the last one of the other ended.
/// </summary>
/// <param name="db">Rows that are changed here are recorded.</param>
/// <param name="before">The scene before, as it stands.</param>
/// <param name="at">The moment, in seconds of that scene.</param>
/// <param name="scene">The row of the scene that begins.</param>
/// <param name="duration">Of that scene, in seconds; 0 while nothing is said in it.</param>
internal sealed class Carry(ZambloContext db, LoadedScene before, double at, Scene scene, double duration)
{
    // A feeling or a look that has ended so shortly before, in seconds, has not ended with the cut; it goes within this time. Chosen by eye.
    private const double Lately = 1.2,
        Goes = 1.2;

    // Of a scene in which nothing is said yet, in seconds: what is held is held so long.
    private const double Unknown = 30;

    // By day or by night.
    private bool IsSameSet => FloorMark.FloorOf(scene.Backdrop) == FloorMark.FloorOf(before.Scene.Backdrop);

    /// <summary>How much was taken over.</summary>
    public int Count { get; private set; }

    /// <summary>The same in a sentence.</summary>
    public string Said =>
        Count == 0 ? "Nothing is under way when the scene before ends: everybody stands where they stood." : $"Carried on: {Count} of what was under way.";

    /// <summary>Takes it over.</summary>
    /// <param name="lines">Those that go along: what hangs on them goes with them.</param>
    /// <returns>Which thing of the scene before is which of this one.</returns>
    public async Task<IReadOnlyDictionary<PropId, PropId>> ApplyAsync(IReadOnlySet<Guid> lines)
    {
        var props = await PropsAsync();
        await PlacesAsync();
        foreach (var clip in before.Document.Clips)
            if (!(clip.Line is { } line && lines.Contains(line.Value)) && Later(clip, props) is { } later)
            {
                db.Clips.Add(ClipRows.New(later, scene.Id));
                Count++;
            }
        Footage();
        LightClip[] lights =
        [
            .. before
                .Document.Clips.OfType<LightClip>()
                .Select(c => (Clip: c, before.Evaluated.SpanOf(c).Start))
                .Where(c => c.Start < at)
                .OrderBy(c => c.Start)
                .Select(c => c.Clip),
        ];
        if (scene.Backdrop == before.Scene.Backdrop && lights is [.., var last])
        {
            var dials = before.Document.Light with { Light = last.Light, Strength = last.Strength };
            // Lamps that were dimmed are less bright lamps there.
            var dimmed = (float)(lights.LastOrDefault(l => l.Lamps != null)?.Lamps ?? 1);
            scene.Light = Column.Write(
                dials with
                {
                    Amount = lights.LastOrDefault(l => l.Air != null)?.Air ?? dials.Amount,
                    Lamps = [.. dials.Lamps.Select(l => l with { Strength = l.Strength * dimmed })],
                }
            );
        }
        return props;
    }

    // The same clip in the scene that begins; null where it is over by then, or not yet there.
    private LaneClip? Later(LaneClip clip, IReadOnlyDictionary<PropId, PropId> props)
    {
        var (start, end) = before.Evaluated.SpanOf(clip);
        var lasts = clip is MoodClip or LookClip;
        if (start >= at - 1e-6 || end <= at - (lasts ? Lately : 0) + 1e-6)
            return null;
        var until = end - at;
        if (lasts)
            until = Math.Max(until, Goes);
        LaneClip? own = clip switch
        {
            WalkClip walk => walk with { From = before.Stage.PlaceOf(before.IndexOf(clip.Member.Value), start) },
            HoldClip hold => props.TryGetValue(hold.Prop, out var held) ? hold with { Prop = held } : null,
            MoodClip or LookClip or GestureClip => clip,
            _ => null,
        };
        if (clip is HoldClip)
            until = Math.Max(until, duration > 0 ? duration : Unknown);
        return own == null ? null : (own with { Id = new ClipId(Guid.NewGuid()) }).At(null, 0, null, start - at, until);
    }

    // A filmed clip goes on from the frame at which the scene before ended.
    private void Footage()
    {
        var done = new List<PlateFigure>();
        for (var i = 0; i < before.Stage.Cast.Count; i++)
        {
            if (before.Stage.Cast[i] is not { Figure: PlateFigure plate, Footage: var clock } || done.Exists(plate.IsOfOneClip))
                continue;
            done.Add(plate);
            var run = clock.Runs.LastOrDefault(r => r.Start < at - 1e-6 && r.End > at);
            var (speed, until) = run.End > run.Start ? (run.Speed, run.End - at) : (1, LaneClip.Shortest);
            var shown = plate.Folded(clock.At(at));
            // It begins before the scene does, as all that is carried on: so much as there is of the clip.
            var lead = speed > 0 ? Math.Min(Lead, shown / speed) : Lead;
            if (lead <= 0)
                continue;
            var member = before.Members[i].Id;
            var clip = new FootageClip(new ClipId(Guid.NewGuid()), member, null, shown - lead * speed, speed, Nowhere, Nowhere);
            db.Clips.Add(ClipRows.New(clip.At(null, 0, null, -lead, until), scene.Id));
            Count++;
        }
    }

    // In seconds.
    private const double Lead = 0.1;
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    private async Task PlacesAsync()
    {
        var old = await db.Standings.AsNoTracking().Where(s => s.SceneId == before.Scene.Id).ToDictionaryAsync(s => s.CastMemberId);
        for (var i = 0; i < before.Members.Count; i++)
        {
            var who = before.Members[i].Id.Value;
            var was = old.GetValueOrDefault(who);
            // Whoever is on the way comes to where the walk leads.
            var leads = before
                .Document.Clips.OfType<WalkClip>()
                .Where(w => w.Member.Value == who)
                .Select(w => (Walk: w, before.Evaluated.SpanOf(w).Start))
                .Where(w => w.Start < at)
                .OrderBy(w => w.Start)
                .LastOrDefault();
            if (was == null && leads.Walk == null)
                continue;
            var place = was == null ? new MemberPlace() : SceneReader.PlaceOf(was);
            SceneReader.Write((place with { X = leads.Walk?.To ?? place.X }).Clamped(), await PlaceEdits.RowAsync(db, scene.Id, who));
            if (leads.Walk != null)
                Count++;
        }
    }

    // Things that are held come along, and in the same set all that stand about; those that are there already are the same ones.
    private async Task<IReadOnlyDictionary<PropId, PropId>> PropsAsync()
    {
        var held = before
            .Document.Clips.OfType<HoldClip>()
            .Where(c => before.Evaluated.SpanOf(c) is var (start, end) && start < at && end > at)
            .Select(c => c.Prop.Value)
            .ToHashSet();
        var there = (await db.Props.Where(p => p.SceneId == scene.Id).ToListAsync())
            .Concat(db.Props.Local.Where(p => p.SceneId == scene.Id))
            .DistinctBy(p => p.Id)
            .ToList();
        var same = new Dictionary<PropId, PropId>();
        foreach (var prop in await db.Props.AsNoTracking().Where(p => p.SceneId == before.Scene.Id).OrderBy(p => p.Id).ToListAsync())
        {
            var twin = there.Find(p => p.Art == prop.Art);
            if (twin != null)
                there.Remove(twin);
            else if (!IsSameSet && !held.Contains(prop.Id))
                continue;
            else
            {
                twin = new SceneProp
                {
                    Id = Guid.NewGuid(),
                    SceneId = scene.Id,
                    Art = prop.Art,
                    PictureHash = prop.PictureHash,
                    Place = prop.Place,
                };
                db.Props.Add(twin);
                Count++;
            }
            same[new PropId(prop.Id)] = new PropId(twin.Id);
        }
        return same;
    }
}
