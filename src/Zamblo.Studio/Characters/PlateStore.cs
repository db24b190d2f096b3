using System.Collections.Concurrent;
using System.IO.Compression;
using System.Text.Json;
using Zamblo.Core;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Media.Portraits;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Characters;

/// <summary>Clips in which somebody speaks: their frames lie in the cache and are made again when they are gone.</summary>
public sealed class PlateStore(AssetStore assets, DataFolder folder)
{
    // Written when all frames of a clip are there.
    private const string Whole = "whole";
    private const int MostTrackBytes = 200 << 20;

    // What could not be made is tried again after a while: a full disk has room again.
    private static readonly TimeSpan Again = TimeSpan.FromSeconds(30);
    private readonly ConcurrentDictionary<string, (PlateFigure? Figure, DateTime At)> _figures = new();
    private readonly Lock _gate = new();

    /// <summary>Where the frames of a clip lie.</summary>
    public string FramesOf(string clip) => Path.Combine(folder.Cache, "plates", clip);

    /// <summary>The figure of a recipe; null where its files are gone or damaged.</summary>
    public PlateFigure? FigureOf(PlateRecipe recipe, string key)
    {
        if (_figures.TryGetValue(key, out var known) && (known.Figure != null || DateTime.UtcNow - known.At < Again))
            return known.Figure;
        lock (_gate)
        {
            // Whoever waited finds what the other one has made.
            if (!_figures.TryGetValue(key, out known) || known.Figure == null)
                _figures[key] = known = (Make(recipe, key), DateTime.UtcNow);
            return known.Figure;
        }
    }

    private PlateFigure? Make(PlateRecipe recipe, string key)
    {
        try
        {
            if (Read(recipe.Track) is not { } track)
                return null;
            EnsureFrames(recipe.Clip, track.Rate, track.Marks.Count);
            foreach (var teeth in new[] { recipe.Mouth.TeethUpper, recipe.Mouth.TeethLower }.OfType<TeethPatch>())
                PictureShelf.Know(teeth.Hash, assets.PathOf(teeth.Hash));
            return new PlateFigure(track, recipe.Clip, recipe.Mouth, recipe.Name, key, recipe.Voice, recipe.Play, recipe.Lash);
        }
        catch (Exception e) when (e is ArtException or JsonException or IOException or InvalidDataException or MediaException or RequestException)
        {
            return null;
        }
    }

    /// <summary>The way through a clip for all of its faces; null where their files are gone.</summary>
    /// <param name="recipes">Of one clip.</param>
    /// <param name="play">What is played.</param>
    public (PlateCourse Course, FrameRate Rate, int Frames)? CourseOf(IReadOnlyList<PlateRecipe> recipes, PlatePlay play)
    {
        try
        {
            var tracks = recipes.Select(r => Read(r.Track)).OfType<PlateTrack>().ToArray();
            return tracks.Length == recipes.Count && tracks.All(t => t.Marks.Count == tracks[0].Marks.Count)
                ? (PlateCourse.Of(tracks, play), tracks[0].Rate, tracks[0].Marks.Count)
                : null;
        }
        catch (Exception e) when (e is JsonException or IOException or InvalidDataException)
        {
            return null;
        }
    }

    /// <summary>A track as a file.</summary>
    public static byte[] Write(PlateTrack track)
    {
        using var bytes = new MemoryStream();
        using (var zip = new GZipStream(bytes, CompressionLevel.Fastest))
            JsonSerializer.Serialize(zip, track, JsonSerializerOptions.Web);
        return bytes.ToArray();
    }

    private PlateTrack? Read(string hash)
    {
        if (!File.Exists(assets.PathOf(hash)))
            return null;
        using var file = File.OpenRead(assets.PathOf(hash));
        using var zip = new GZipStream(file, CompressionMode.Decompress);
        using var bytes = new MemoryStream();
        var buffer = new byte[1 << 16];
        int n;
        // What is packed small may be large.
        while ((n = zip.Read(buffer)) > 0)
        {
            if (bytes.Length + n > MostTrackBytes)
                return null;
            bytes.Write(buffer, 0, n);
        }
        var track = JsonSerializer.Deserialize<PlateTrack>(bytes.ToArray(), JsonSerializerOptions.Web);
        return
            track is { Marks: { Count: > 0 and <= 40_000 } marks, Width: > 0 and <= 8192, Height: > 0 and <= 8192, Rate.Numerator: > 0, Rate.Denominator: > 0 }
            && marks.All(m => m == null || m.ErrorFor(track.Width, track.Height) == null)
            && (
                track.Light is not { } light
                || light.Count == marks.Count && light.All(l => l.R is >= 0 and <= 1 && l.G is >= 0 and <= 1 && l.B is >= 0 and <= 1)
            )
            ? track
            : null;
    }

    /// <summary>Makes ready what a scene plays in, where that is a clip; what cannot be made is not seen.</summary>
    /// <param name="film">The clip; null for none.</param>
    public void Ready(PictureSet? film)
    {
        if (film == null)
            return;
        try
        {
            EnsureFrames(film.Hash, PictureSet.FilmRate, film.Frames);
        }
        catch (Exception e) when (e is IOException or MediaException or RequestException) { }
    }

    private void EnsureFrames(string clip, FrameRate rate, int count)
    {
        var frames = FramesOf(clip);
        PictureShelf.KnowFrames(clip, frame => VideoFrames.PathOf(frames, frame));
        lock (_gate)
        {
            if (File.Exists(Path.Combine(frames, Whole)))
                return;
            folder.CheckRoom(0);
            Directory.CreateDirectory(frames);
            VideoFrames
                .TakeApartAsync(assets.PathOf(clip), "the clip", rate, rate.TimeOf(count), PlateFollower.LongestSide, frames, CancellationToken.None)
                .GetAwaiter()
                .GetResult();
            MarkWhole(clip);
        }
    }

    /// <summary>Takes away what is there of a clip whose frames are not all there.</summary>
    public void DropBroken(string clip)
    {
        lock (_gate)
            if (Directory.Exists(FramesOf(clip)) && !File.Exists(Path.Combine(FramesOf(clip), Whole)))
                Directory.Delete(FramesOf(clip), true);
    }

    /// <summary>How many frames of a clip there are, all of them; null where they are not, or not all.</summary>
    public int? CountOf(string clip)
    {
        var frames = FramesOf(clip);
        return File.Exists(Path.Combine(frames, Whole)) ? Directory.EnumerateFiles(frames, "*.jpg").Count() : null;
    }

    /// <summary>Frames of a clip come to where they belong, all of them.</summary>
    /// <param name="clip">Its hash.</param>
    /// <param name="frames">The folder that they are in, which goes.</param>
    public void Take(string clip, string frames)
    {
        lock (_gate)
        {
            DropBroken(clip);
            if (Directory.Exists(FramesOf(clip)))
                return;
            Directory.CreateDirectory(Path.GetDirectoryName(FramesOf(clip))!);
            Directory.Move(frames, FramesOf(clip));
            MarkWhole(clip);
        }
    }

    /// <summary>All frames of a clip are there.</summary>
    public void MarkWhole(string clip) => File.WriteAllText(Path.Combine(FramesOf(clip), Whole), "");
}
