using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Review;
using Zamblo.Core.Scenes;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>A flag as a page shows it.</summary>
/// <param name="Scene">The scene that it is in.</param>
/// <param name="SceneTitle">Of that.</param>
/// <param name="Key">Names it, also later.</param>
/// <param name="Kind">What it is.</param>
/// <param name="IsSerious">The audience will see or hear it.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">A sentence.</param>
/// <param name="Measure">What was measured.</param>
/// <param name="Fix">What one click does about it; null where nothing does.</param>
/// <param name="Frame">To look at.</param>
/// <param name="IsFine">Somebody has said so.</param>
public sealed record FlagCard(
    Guid Scene,
    string SceneTitle,
    string Key,
    string Kind,
    bool IsSerious,
    double Start,
    double End,
    string Text,
    string Measure,
    string? Fix,
    int Frame,
    bool IsFine
);

/// <summary>Looks productions through.</summary>
public sealed class ReviewDesk(IDbContextFactory<ZambloContext> contexts, SceneDesk scenes, VoiceStore voices)
{
    // Of a scene as it was at a revision; a few are kept.
    private readonly ConcurrentDictionary<Guid, (long Revision, int Heard, IReadOnlyList<ReviewFlag> Flags)> _kept = new();

    /// <summary>All flags of a production, scene by scene in order of time.</summary>
    /// <exception cref="NotFoundException">There is no such production.</exception>
    public async Task<IReadOnlyList<FlagCard>> OfAsync(Guid production, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var written = await db.Productions.Where(p => p.Id == production).Select(p => p.Fine).FirstOrDefaultAsync(cancel);
        if (written == null)
            throw new NotFoundException("such production");
        var fine = FineKeys.Read(written);
        var cards = new List<FlagCard>();
        var loaded = new List<LoadedScene>();
        foreach (var card in await scenes.ScenesAsync(production))
        {
            var scene = await scenes.LoadAsync(card.Id);
            if (loaded.Count > 0)
                cards.AddRange(ReviewPass.Across(loaded[^1].Evaluated, scene.Evaluated).Select(f => CardOf(scene, f, fine)));
            loaded.Add(scene);
            foreach (var flag in await FlagsAsync(scene, cancel))
                cards.Add(CardOf(scene, flag, fine));
        }
        cards.AddRange(ReviewPass.Silent([.. loaded.Select(s => s.Evaluated)]).Select(f => CardOf(loaded[0], f, fine)));
        if (loaded.Count > 0 && await OutOfSyncAsync(db, production, cancel) is { } apart)
            cards.Add(CardOf(loaded[0], apart, fine));
        return cards;
    }

    // Of the newest film: it was measured when it was finished.
    private static async Task<ReviewFlag?> OutOfSyncAsync(ZambloContext db, Guid production, CancellationToken cancel)
    {
        var job = await db
            .Jobs.AsNoTracking()
            .Where(j => j.ProductionId == production && j.Kind == FilmTicket.Kind && j.State == JobState.Done)
            .OrderByDescending(j => j.Created)
            .FirstOrDefaultAsync(cancel);
        if (job == null || FilmShows.Of(job) is not { Offset: { } offset } || offset is >= FilmSync.Earliest and <= FilmSync.Latest)
            return null;
        return new ReviewFlag(
            ReviewKind.OutOfSync,
            true,
            0,
            0,
            $"In the newest film \"{job.Title}\" the sound comes too {(offset < 0 ? "early" : "late")}.",
            FormattableString.Invariant($"{1000 * offset:0} ms ({1000 * FilmSync.Earliest:0} to {1000 * FilmSync.Latest:0})")
        );
    }

    // What the scene itself does not know: takes that are not in use.
    private static IEnumerable<ReviewFlag> Unused(LoadedScene scene) =>
        from line in scene.Lines
        let used = line.TakeId is { } id ? scene.Takes.GetValueOrDefault(id) : null
        where used is { IsStarred: false } && scene.Takes.Values.Any(t => t.LineId == line.Id && t.IsStarred)
        let placed = scene.Find(line.Id)
        select new ReviewFlag(
            ReviewKind.UnusedTake,
            false,
            placed?.Start ?? 0,
            placed?.End ?? 0,
            $"{scene.Member(line.CastMemberId).RoleName} has a starred take here that is not the one in use.",
            $"{scene.Takes.Values.Count(t => t.LineId == line.Id)} takes"
        )
        {
            Member = new Core.MemberId(line.CastMemberId),
            Line = new Core.LineId(line.Id),
        };

    /// <summary>Flags of one scene as it is now.</summary>
    public async Task<IReadOnlyList<ReviewFlag>> FlagsAsync(LoadedScene scene, CancellationToken cancel = default)
    {
        if (_kept.TryGetValue(scene.Scene.Id, out var kept) && kept.Revision == scene.Production.Revision && kept.Heard == scene.Heard)
            return kept.Flags;
        var flags = await Task.Run(
            () =>
                ReviewPass.Of(
                    new ReviewedScene(scene.Evaluated, SoundOf)
                    {
                        Unvoiced =
                        [
                            .. scene
                                .Lines.Where(l => l.TakeId == null && l.Text.Trim().Length > 0)
                                .Select(l => (new Core.LineId(l.Id), new Core.MemberId(l.CastMemberId), l.Text.Trim())),
                        ],
                    },
                    cancel
                ),
            cancel
        );
        flags = [.. flags.Concat(Unused(scene)).OrderBy(f => f.Start).ThenBy(f => f.Kind)];
        if (_kept.Count > 64)
            _kept.Clear();
        _kept[scene.Scene.Id] = (scene.Production.Revision, scene.Heard, flags);
        return flags;

        // One line's sound at a time: an hour of it is never in memory at once.
        AudioBuffer? SoundOf(PlacedLine line)
        {
            try
            {
                return voices.CaredAsync(line.Line.SoundHash, line.Line.SoundName, line.Line.Query.Part, line.Line.Care, cancel).GetAwaiter().GetResult();
            }
            catch (Exception e) when (e is MediaException or IOException)
            {
                return null;
            }
        }
    }

    private static FlagCard CardOf(LoadedScene scene, ReviewFlag flag, HashSet<string> fine)
    {
        var stage = scene.Stage;
        return new FlagCard(
            scene.Scene.Id,
            scene.Scene.Title,
            flag.Key,
            flag.Kind.ToString(),
            flag.IsSerious,
            Math.Round(flag.Start, 3),
            Math.Round(flag.End, 3),
            flag.Text,
            flag.Measure,
            ReviewFixes.NameOf(flag, scene),
            Math.Clamp(stage.Rate.FrameAt((flag.Start + Math.Min(flag.End, flag.Start + 1)) / 2), 0, stage.FrameCount - 1),
            fine.Contains(flag.Key)
        );
    }
}
