using System.Collections.Concurrent;
using SkiaSharp;

namespace Zamblo.Media;

/// <summary>
/// Pictures of one's own by the hash of their contents, for whoever draws: where each lies is told once, it is read when it is needed, and the last few stay
/// at hand. A hash always means the same picture, so this is the same for everybody.
/// </summary>
public static class PictureShelf
{
    // A figure from a picture has half a dozen, most of them small: pixels count, not pictures.
    private const long KeptPixels = 80_000_000;
    private const int Kept = 96;
    private static readonly ConcurrentDictionary<string, string> Paths = new();
    private static readonly Lock Gate = new();
    private static readonly List<(string Hash, SKImage Image)> Open = [];

    private static readonly ConcurrentDictionary<string, byte[]> Held = new();

    /// <summary>Keeps a picture in memory, for as long as the program runs: for a film that is made in one go.</summary>
    public static void Hold(string hash, byte[] bytes) => Held[hash] = bytes;

    /// <summary>The bytes of a picture that is held, or null.</summary>
    public static byte[]? HeldBytes(string hash) => Held.GetValueOrDefault(hash);

    /// <summary>Tells where a picture lies.</summary>
    public static void Know(string hash, string path) => Paths[hash] = path;

    /// <summary>Tells where the frames of a clip lie.</summary>
    /// <param name="hash">Of the clip.</param>
    /// <param name="pathOf">Path of the picture of each of its frames.</param>
    public static void KnowFrames(string hash, Func<int, string> pathOf) => Frames[hash] = pathOf;

    private static readonly ConcurrentDictionary<string, Func<int, string>> Frames = new();

    /// <summary>A frame of a clip; null where nobody knows it.</summary>
    internal static SKImage? Find(string hash, int frame)
    {
        if (!Frames.TryGetValue(hash, out var pathOf))
            return null;
        var key = $"{hash}/{frame}";
        Paths.TryAdd(key, pathOf(frame));
        return Find(key);
    }

    /// <summary>A picture; null where nobody knows it, or it cannot be read.</summary>
    internal static SKImage? Find(string hash)
    {
        lock (Gate)
        {
            var at = Open.FindIndex(o => o.Hash == hash);
            if (at >= 0)
            {
                var known = Open[at];
                Open.RemoveAt(at);
                Open.Add(known);
                return known.Image;
            }
            var held = Held.GetValueOrDefault(hash);
            if (held == null && (!Paths.TryGetValue(hash, out var path) || !File.Exists(path)))
                return null;
            using var data = held != null ? SKData.CreateCopy(held) : SKData.Create(Paths[hash]);
            using var lazy = data == null ? null : SKImage.FromEncodedData(data);
            if (lazy == null)
                return null;
            // Decoded now, not with every drawing.
            var image = lazy.ToRasterImage(true);
            Open.Add((hash, image));
            // Whoever still draws the oldest holds it; it goes when nobody does.
            while (Open.Count > 1 && (Open.Count > Kept || Open.Sum(o => (long)o.Image.Width * o.Image.Height) > KeptPixels))
                Open.RemoveAt(0);
            return image;
        }
    }
}
