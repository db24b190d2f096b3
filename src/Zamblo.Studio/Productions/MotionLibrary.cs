using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Data;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>A gesture to choose from.</summary>
public sealed record GestureCard(string Key, string Name, string Part, double Length, double Stroke, IReadOnlyList<string> Moods)
{
    /// <summary>Only fingers can say it.</summary>
    public bool NeedsHands { get; init; }
}

/// <summary>A mouth that was saved.</summary>
public sealed record MouthCard(Guid Id, string Name, double Duration);

/// <summary>Motions that were saved, for any production: gestures and mouths.</summary>
public sealed class MotionLibrary(IDbContextFactory<ZambloContext> contexts, SceneDesk scenes)
{
    /// <summary>What keys of saved gestures begin with.</summary>
    public const string Saved = "saved:";
    private const int LongestName = 60,
        LongestMouthName = 80;

    /// <summary>All gestures: the library's, then those that were saved.</summary>
    public async Task<IReadOnlyList<GestureCard>> GesturesAsync()
    {
        await using var db = await contexts.CreateDbContextAsync();
        var saved = await db.SavedGestures.AsNoTracking().OrderBy(g => g.Name).ToListAsync();
        return
        [
            .. Gestures.All.Select(g => new GestureCard(g.Key, g.Name, g.Part, g.Length, g.Stroke, g.Moods) { NeedsHands = g.NeedsHands }),
            .. saved
                .Select(r => (Row: r, G: Column.Read<Gesture>(r.Data)))
                .Select(x => new GestureCard(Saved + x.Row.Id, x.Row.Name, "own", x.G.Length, x.G.Stroke, x.G.Moods)),
        ];
    }

    /// <summary>A gesture by its key.</summary>
    /// <exception cref="RequestException">There is none.</exception>
    public async Task<Gesture> FindAsync(string key)
    {
        if (Gestures.Find(key) is { } known)
            return known;
        await using var db = await contexts.CreateDbContextAsync();
        var saved =
            key.StartsWith(Saved, StringComparison.Ordinal) && Guid.TryParse(key[Saved.Length..], out var id)
                ? await db.SavedGestures.AsNoTracking().FirstOrDefaultAsync(g => g.Id == id)
                : null;
        return Column.Read<Gesture>(saved?.Data ?? throw new RequestException($"There is no gesture \"{key}\"."));
    }

    /// <summary>The own motion of a clip.</summary>
    /// <exception cref="NotFoundException">There is no such clip, or it has none.</exception>
    public async Task<Gesture> OwnOfAsync(Guid clip)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var row = await db.Clips.AsNoTracking().FirstOrDefaultAsync(c => c.Id == clip) ?? throw new NotFoundException("such clip");
        return ClipRows.Read(row) is GestureClip { Own: { } own } ? own : throw new NotFoundException("motion of its own");
    }

    /// <summary>Saves the own motion of a clip; gives its key.</summary>
    public async Task<string> SaveAsync(Guid clip, string? name)
    {
        name = Check.Name(name, LongestName, "A name");
        await using var db = await contexts.CreateDbContextAsync();
        var row = await db.Clips.AsNoTracking().FirstOrDefaultAsync(c => c.Id == clip) ?? throw new NotFoundException("such clip");
        if (ClipRows.Read(row) is not GestureClip { Own: { } own })
            throw new RequestException("This gesture is in the library already.");
        var saved = new SavedGesture
        {
            Id = Guid.NewGuid(),
            Name = name,
            Data = Column.Write(own with { Name = name }),
            Created = DateTime.UtcNow,
        };
        db.SavedGestures.Add(saved);
        await db.SaveChangesAsync();
        return Saved + saved.Id;
    }

    /// <summary>Takes a saved gesture out; clips that use it keep it.</summary>
    public async Task DeleteGestureAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.SavedGestures.Where(g => g.Id == id).ExecuteDeleteAsync() == 0)
            throw new NotFoundException("such gesture");
    }

    /// <summary>Saved mouths.</summary>
    public async Task<IReadOnlyList<MouthCard>> MouthsAsync()
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.MouthMotions.AsNoTracking().OrderBy(m => m.Name).Select(m => new MouthCard(m.Id, m.Name, m.Duration)).ToListAsync();
    }

    /// <summary>Saves the mouth of a line; gives its id.</summary>
    public async Task<Guid> SaveMouthAsync(Guid line, string? name)
    {
        name = Check.Name(name, LongestMouthName, "A name");
        var work = MouthWork.Open(await scenes.LoadOfLineAsync(line), line);
        var touch = CueEdits.Copy(work.Placed.Cues, 0, work.Placed.Speech.Duration, t => t) ?? throw new RequestException("This line has no mouth to save.");
        await using var db = await contexts.CreateDbContextAsync();
        var motion = new MouthMotion
        {
            Id = Guid.NewGuid(),
            Name = name,
            Duration = work.Placed.Speech.Duration,
            Cues = JsonSerializer.Serialize(touch.Cues, JsonSerializerOptions.Web),
            Created = DateTime.UtcNow,
        };
        db.MouthMotions.Add(motion);
        await db.SaveChangesAsync();
        return motion.Id;
    }

    /// <summary>Takes a saved mouth out.</summary>
    public async Task DeleteMouthAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.MouthMotions.Where(m => m.Id == id).ExecuteDeleteAsync() == 0)
            throw new NotFoundException("such motion");
    }

    /// <summary>A motion that came over the wire, within its bounds.</summary>
    /// <exception cref="RequestException">It is out of them.</exception>
    public static Gesture Checked(Gesture own)
    {
        var tracks = own.Tracks ?? new Dictionary<string, double[][]>();
        if (tracks.Count is 0 or > 40 || tracks.Values.Any(t => t == null) || tracks.Sum(t => (long)t.Value.Length) is 0 or > 200_000)
            throw new RequestException("This motion has nothing in it, or too much.");
        if (!tracks.Keys.All(Gestures.ChannelNames.Contains))
            throw new RequestException("This motion moves something that no figure has.");
        foreach (var keys in tracks.Values)
            for (var i = 0; i < keys.Length; i++)
                if (
                    keys[i] is not { Length: 2 }
                    || !double.IsFinite(keys[i][0])
                    || !double.IsFinite(keys[i][1])
                    || Math.Abs(keys[i][1]) > 400
                    || (i > 0 && keys[i][0] <= keys[i - 1][0])
                )
                    throw new RequestException("The keys of this motion are out of order.");
        var length = Check.Range(own.Length, 0.1, 3600, "A length");
        return own with
        {
            Key = Gesture.Performed,
            Name = Named(own.Name),
            Part = own.Part is { Length: > 0 and <= 20 } part ? part : "own",
            Length = length,
            Stroke = Check.Range(own.Stroke, 0, length, "A stroke"),
        };
    }

    /// <summary>A name as it is kept.</summary>
    public static string Named(string? name) =>
        string.Concat((name ?? "").Where(c => !char.IsControl(c))).Trim() is { Length: > 0 } n
            ? n.Length > LongestName
                ? n[..LongestName]
                : n
            : "Performed";
}
