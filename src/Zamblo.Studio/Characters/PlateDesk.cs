using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Zamblo.Core;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Media.Portraits;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Characters;

/// <summary>How far the following of a face is.</summary>
/// <param name="State">"following", "done", "failed" or "cancelled".</param>
/// <param name="Share">0 to 1.</param>
/// <param name="Keys">Of the characters, one for each face, the largest first, when it is done.</param>
/// <param name="Size">Of a film as large as the clip.</param>
/// <param name="Seconds">Length of the clip, as far as it was looked at.</param>
/// <param name="Notes">Where it will not look well, and why.</param>
/// <param name="Error">What went wrong.</param>
public sealed record PlateWork(string State, double Share, IReadOnlyList<string> Keys, string? Size, double Seconds, IReadOnlyList<string> Notes, string? Error)
{
    /// <summary>Hash of the clip: its frames are found by it.</summary>
    public string? Clip { get; init; }

    /// <summary>Frames that it has.</summary>
    public int Frames { get; init; }

    /// <summary>How well each face is seen, from the first frame to the last; in the order of <see cref="Keys"/>.</summary>
    public IReadOnlyList<IReadOnlyList<PlateStretch>> Maps { get; init; } = [];

    /// <summary>The first of them.</summary>
    public string? Key => Keys.FirstOrDefault();
}

/// <summary>How a clip shall be played.</summary>
/// <param name="Keys">Of all the characters that are made of it.</param>
/// <param name="From">Where it begins, in seconds of the clip.</param>
/// <param name="To">Where it ends; 0 for the clip's own end.</param>
/// <param name="Loops">It goes round over a seam; else forth and back.</param>
/// <param name="Lids">Lids come down as it is performed.</param>
public sealed record PlateWish(string[]? Keys, double From = 0, double To = 0, bool Loops = false, bool Lids = false);

/// <summary>How a clip is played.</summary>
/// <param name="Keys">Of the characters, in the order of the wish.</param>
/// <param name="Seconds">That are played before it goes on.</param>
/// <param name="Loops">It goes round over a seam; else forth and back.</param>
/// <param name="Jump">How far the faces jump there at the most, in widths of the face.</param>
public sealed record PlayedPlate(IReadOnlyList<string> Keys, double Seconds, bool Loops, double Jump);

/// <summary>Takes clips in and follows the face in them, in the background of a page.</summary>
public sealed class PlateDesk(
    AssetStore assets,
    DataFolder folder,
    PlateStore plates,
    CharacterStore characters,
    Allowance allowance,
    IDbContextFactory<ZambloContext> contexts,
    ILogger<PlateDesk> log
)
{
    private static readonly FrameRate Rate = new(25);
    private const int MostKept = 50;

    private sealed class Running
    {
        public PlateWork Work { get; set; } = new("following", 0, [], null, 0, [], null);
        public CancellationTokenSource Cancel { get; } = new();
    }

    private readonly ConcurrentDictionary<Guid, Running> _works = new();

    // Each takes a core.
    private readonly SemaphoreSlim _one = new(1),
        _apart = new(1);

    /// <summary>Takes a clip in and begins to follow the face in it; gives the number of that work.</summary>
    /// <param name="body">The file.</param>
    /// <param name="name">As the person calls it.</param>
    /// <param name="claimed">How long it says it is, or null.</param>
    /// <param name="cancel">Stops the taking in.</param>
    /// <exception cref="RequestException">There is no room for it, or it is too large.</exception>
    public async Task<Guid> BeginAsync(Stream body, string? name, long? claimed, CancellationToken cancel)
    {
        var called = Check.FileName(name, "clip");
        folder.CheckRoom(claimed ?? 0);
        await allowance.CheckAsync(claimed);
        var (hash, length) = await assets.SaveAsync(body, UploadDesk.Largest, cancel);
        await using (var db = await contexts.CreateDbContextAsync(cancel))
            await db.KeepAssetAsync(hash, length, called);
        if (_works.Count > MostKept)
            foreach (var old in _works.Where(w => w.Value.Work.State != "following").Take(MostKept / 2).ToArray())
                _works.TryRemove(old.Key, out _);
        var id = Guid.NewGuid();
        var running = _works[id] = new Running();
        // It goes on when the page is left; the character is in Casting then.
        _ = Task.Run(() => FollowAsync(running, hash, called), CancellationToken.None);
        return id;
    }

    /// <summary>Takes a clip in as a set: its frames are there when this returns.</summary>
    /// <param name="body">The file.</param>
    /// <param name="name">As the person calls it.</param>
    /// <param name="claimed">How long it says it is, or null.</param>
    /// <param name="cancel">Stops; nothing is kept.</param>
    /// <exception cref="MediaException">It is no clip.</exception>
    /// <exception cref="RequestException">There is no room for it, or it is too large.</exception>
    public async Task<PictureSet> TakeAsSetAsync(Stream body, string? name, long? claimed, CancellationToken cancel)
    {
        var called = Check.FileName(name, "clip");
        folder.CheckRoom(claimed ?? 0);
        await allowance.CheckAsync(claimed);
        var frames = Directory.CreateDirectory(Path.Combine(folder.Temporary, $"{Guid.NewGuid():N}")).FullName;
        try
        {
            var count = 0;
            // One at a time, and beside faces that are followed: neither waits for the other, nor for whoever sends slowly.
            async Task Apart(string path)
            {
                await _apart.WaitAsync(cancel);
                try
                {
                    count = await VideoFrames.TakeApartAsync(
                        path,
                        called,
                        PictureSet.FilmRate,
                        PlateFollower.Longest,
                        PlateFollower.LongestSide,
                        frames,
                        cancel
                    );
                }
                finally
                {
                    _apart.Release();
                }
            }
            // What is no clip is not kept.
            var (hash, length) = await assets.SaveAsync(body, UploadDesk.Largest, cancel, Apart);
            // A clip that somebody speaks in, or plays in, lies there already; nobody who sees it is to be left without it.
            if (plates.CountOf(hash) is { } known)
                count = known;
            else
                plates.Take(hash, frames);
            var first = PictureFiles.Again(await File.ReadAllBytesAsync(VideoFrames.PathOf(plates.FramesOf(hash), 0), cancel));
            await using var db = await contexts.CreateDbContextAsync(cancel);
            await db.KeepAssetAsync(hash, length, called);
            var set = new PictureSet(hash, first.Width, first.Height, first.Edge) { Frames = count };
            plates.Ready(set);
            return set;
        }
        finally
        {
            if (Directory.Exists(frames))
                Directory.Delete(frames, true);
        }
    }

    /// <summary>Plays another part of a clip, or otherwise: its characters are those from now on.</summary>
    /// <param name="wish">What is played, and how.</param>
    /// <exception cref="RequestException">The part is none, or they are not of one clip.</exception>
    public async Task<PlayedPlate> PlayAsync(PlateWish wish)
    {
        if (wish.Keys is not { Length: > 0 and <= 8 } keys || keys.Any(string.IsNullOrEmpty))
            throw new RequestException("Say whose clip it is.");
        var recipes = keys.Select(k => characters.FindPlateRecipe(k) ?? throw new NotFoundException("such clip")).ToArray();
        if (recipes.Any(r => r.Clip != recipes[0].Clip))
            throw new RequestException("They are not of one clip.");
        var play = new PlatePlay
        {
            From = wish.From,
            To = wish.To,
            Loops = wish.Loops,
            Lids = wish.Lids,
        };
        if (play.Error() is { } error)
            throw new RequestException(error);
        // One way through the clip for all of its faces.
        var (course, rate, frames) = plates.CourseOf(recipes, play) ?? throw new NotFoundException("such clip");
        if (play.From >= rate.TimeOf(frames))
            throw new RequestException("The clip is over by then.");
        if (course.Seam >= 0)
            play = play with { Seam = new PlateSeam(course.Last, course.Seam) };
        var kept = new List<string>();
        foreach (var (recipe, key) in recipes.Zip(keys))
        {
            var changed = recipe with { Play = play == new PlatePlay() ? null : play };
            kept.Add(changed == recipe ? key : await characters.SaveAsync(changed, key));
        }
        return new PlayedPlate(kept, rate.TimeOf(course.Last - course.First + 1), course.Seam >= 0, Math.Round(course.Jump, 4));
    }

    /// <summary>How far a work is.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public PlateWork Find(Guid id) => _works.TryGetValue(id, out var running) ? running.Work : throw new NotFoundException("such clip");

    /// <summary>Stops a work.</summary>
    public void Cancel(Guid id)
    {
        if (_works.TryGetValue(id, out var running))
            running.Cancel.Cancel();
    }

    private async Task FollowAsync(Running running, string clip, string name)
    {
        var cancel = running.Cancel.Token;
        try
        {
            await _one.WaitAsync(cancel);
            try
            {
                var frames = Directory.CreateDirectory(plates.FramesOf(clip)).FullName;
                var plate = await PlateFollower.FollowAsync(
                    assets.PathOf(clip),
                    name,
                    Rate,
                    PlateFollower.Longest,
                    frames,
                    share => running.Work = running.Work with { Share = share },
                    cancel
                );
                plates.MarkWhole(clip);
                var named = Path.GetFileNameWithoutExtension(name) is { Length: > 0 } plain ? plain[..Math.Min(60, plain.Length)] : "Clip";
                var keys = new List<string>();
                foreach (var (face, i) in plate.Faces.Select((f, i) => (f, i)))
                {
                    var recipe = new PlateRecipe
                    {
                        Name = plate.Faces.Count == 1 ? named : $"{named} {i + 1}",
                        Clip = clip,
                        Lash = face.Lash,
                        Track = await KeepAsync(PlateStore.Write(face.Track), "track"),
                        Mouth = face.Look with { TeethUpper = await KeepAsync(face.Look.TeethUpper), TeethLower = await KeepAsync(face.Look.TeethLower) },
                    };
                    keys.Add(await characters.SaveAsync(recipe));
                }
                running.Work = new PlateWork(
                    "done",
                    1,
                    keys,
                    FrameSize.Of(plate.Track.Width, plate.Track.Height).ToString(),
                    plate.Track.Rate.TimeOf(plate.Track.Marks.Count),
                    plate.Notes(),
                    null
                )
                {
                    Clip = clip,
                    Frames = plate.Track.Marks.Count,
                    Maps = [.. plate.Faces.Select(f => f.Map)],
                };
            }
            finally
            {
                plates.DropBroken(clip);
                _one.Release();
            }
        }
        catch (OperationCanceledException)
        {
            running.Work = running.Work with { State = "cancelled" };
        }
        catch (Exception e) when (e is MediaException or RequestException or IOException or DbUpdateException)
        {
            running.Work = running.Work with { State = "failed", Error = e.Message };
        }
        catch (Exception e)
        {
            log.LogError(e, "A clip could not be followed");
            running.Work = running.Work with { State = "failed", Error = "The clip could not be followed." };
        }
    }

    private async Task<TeethPatch?> KeepAsync(TeethPatch? teeth)
    {
        if (teeth != null && PictureShelf.HeldBytes(teeth.Hash) is { } bytes)
            await KeepAsync(bytes, "teeth");
        return teeth;
    }

    private Task<string> KeepAsync(byte[] bytes, string name) => assets.KeepAsync(contexts, bytes, name, CancellationToken.None);
}
