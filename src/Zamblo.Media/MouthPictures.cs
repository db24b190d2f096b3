using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using SkiaSharp;
using Zamblo.Core.Mouth;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Mouths that somebody has drawn as transparent pictures, one for a shape: they take the place of the mouth that a character's rig draws. Pictures in the
/// proportions of the whole drawing lie where they are in it (layers that were exported one by one); others lie with their middle on the mouth's, the
/// widest as wide as the rig's mouth when it is spread.
/// </summary>
public static class MouthPictures
{
    /// <summary>How much wider spread lips are than the mouth at rest: what a set of single pictures is scaled to.</summary>
    private const float Spread = 1.18f;

    // By how much the proportions of a layer may differ from those of the drawing.
    private const float Same = 0.01f;

    // Letters and sounds by which sheets of mouths name them (common practice), beside the shapes' own names.
    private static readonly Dictionary<MouthShape, string[]> Called = new()
    {
        [MouthShape.Rest] = ["x", "neutral", "silence", "sil", "idle", "none"],
        [MouthShape.Closed] = ["mbp", "bmp", "pbm", "m", "b", "p"],
        [MouthShape.Tuck] = ["fv", "f", "v"],
        [MouthShape.Tongue] = ["th", "dh"],
        [MouthShape.Tip] = ["l", "t", "d", "n", "tdn", "ln", "dntl", "tdnl", "consonants", "etc"],
        [MouthShape.Back] = ["k", "g", "kg", "ng", "h"],
        [MouthShape.Push] = ["sh", "ch", "j", "zh", "chjsh", "chsh"],
        [MouthShape.Teeth] = ["s", "z", "sz"],
        [MouthShape.Curl] = ["r", "er"],
        [MouthShape.Open] = ["a", "ai", "ah", "aa"],
        [MouthShape.Mid] = ["e", "eh", "ae"],
        [MouthShape.Wide] = ["ee", "i", "iy", "ih", "y"],
        [MouthShape.Round] = ["o", "oh", "ow", "ao"],
        [MouthShape.Pucker] = ["u", "oo", "w", "wq", "uw", "q"],
    };

    /// <summary>The shape that a picture is of, by its file's name; null where it names none.</summary>
    public static MouthShape? ShapeOf(string file)
    {
        var words = Path.GetFileNameWithoutExtension(file).ToLowerInvariant().Split([' ', '-', '_', '.'], StringSplitOptions.RemoveEmptyEntries);
        var name = string.Concat(words.Where(w => w is not ("mouth" or "mouths" or "lips" or "viseme")).Select(w => w.Trim("0123456789".ToCharArray())));
        foreach (var shape in MouthShapes.All)
            if (name == NameOf(shape) || Called[shape].Contains(name))
                return shape;
        return null;
    }

    internal static string HashOf(byte[] bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    /// <summary>Lays pictures into a character.</summary>
    /// <param name="drawing">Whose mouth they become.</param>
    /// <param name="files">Names and bytes.</param>
    /// <exception cref="MediaException">A name says no shape, or a picture cannot be used; which and why.</exception>
    public static BroughtDrawing Lay(DrawnRecipe drawing, IReadOnlyList<(string Name, byte[] Bytes)> files)
    {
        var figure = drawing.Make("this character");
        var cut = new Dictionary<MouthShape, CutPicture>();
        foreach (var (name, bytes) in files)
        {
            var shape =
                ShapeOf(name)
                ?? throw new MediaException(
                    $"\"{name}\" names no mouth: call it {string.Join(", ", MouthShapes.All.Select(NameOf))}, or by its sounds (mbp, fv, ai, o...)."
                );
            if (!cut.TryAdd(shape, Cut(bytes, name)))
                throw new MediaException($"\"{name}\" is a second mouth for {NameOf(shape)}.");
        }
        if (!cut.ContainsKey(MouthShape.Rest) && !cut.ContainsKey(MouthShape.Closed))
            throw new MediaException("There is no closed mouth among the pictures: one is called rest or closed (mbp).");
        if (cut.Count < 2)
            throw new MediaException("One mouth cannot speak: bring a closed one and an open one at least.");
        var proportion = figure.Size.X / figure.Size.Y;
        // Layers of the whole drawing, all of them.
        var isLayered = cut.Values.All(c => Math.Abs((float)c.Width / c.Height / proportion - 1) < Same);
        var widest = cut.Values.Max(c => c.Box.Width);
        var mouth = figure.Rig.Mouth;
        var pivot = figure.Rig.Parts.FirstOrDefault(p => p.Id == mouth.Part)?.Pivot ?? [0, 0];
        var drawn = new JsonObject();
        foreach (var (shape, c) in cut)
        {
            var unit = isLayered ? figure.Size.X / c.Width : mouth.Width * Spread / widest;
            var (middleX, middleY) = isLayered ? (pivot[0] / unit, pivot[1] / unit) : (c.Width / 2f, c.Height / 2f);
            float left = (c.Box.Left - middleX) * unit,
                top = (c.Box.Top - middleY) * unit,
                right = (c.Box.Right - middleX) * unit,
                bottom = (c.Box.Bottom - middleY) * unit;
            var path = string.Create(
                CultureInfo.InvariantCulture,
                $"M{left:0.##} {top:0.##}L{right:0.##} {top:0.##}L{right:0.##} {bottom:0.##}L{left:0.##} {bottom:0.##}Z"
            );
            drawn[NameOf(shape)] = new JsonArray(new JsonObject { ["d"] = path, ["picture"] = c.Hash });
        }
        var rig = Open(drawing);
        var node = rig["mouth"]!.AsObject();
        (node["style"], node["drawn"]) = ("drawn", drawn);
        node["serves"] = ServesOf([.. cut.Keys]);
        return new BroughtDrawing(DrawingFiles.Read(drawing.Art, rig.ToJsonString()), cut.Values.DistinctBy(c => c.Hash).ToDictionary(c => c.Hash, c => c.Png));
    }

    /// <summary>Another drawn mouth serves a shape.</summary>
    /// <exception cref="MediaException">The character has no drawn mouths, or none of that name.</exception>
    public static DrawnRecipe Serve(DrawnRecipe drawing, MouthShape shape, MouthShape by)
    {
        var mouth = drawing.Make("this character").Rig.Mouth;
        if (mouth.Style != MouthStyle.Drawn || !mouth.Drawn.ContainsKey(NameOf(by)))
            throw new MediaException($"This character has no drawn mouth \"{NameOf(by)}\".");
        var rig = Open(drawing);
        var node = rig["mouth"]!.AsObject();
        if (node["serves"] is not JsonObject serves)
            node["serves"] = serves = [];
        serves[NameOf(shape)] = NameOf(by);
        return DrawingFiles.Read(drawing.Art, rig.ToJsonString());
    }

    // A contact stays a contact: lips that close, or a lip at the teeth, are served by closed lips; the rest by the nearest that is open.
    private static JsonObject ServesOf(IReadOnlyCollection<MouthShape> there)
    {
        var serves = new JsonObject();
        MouthShape[] shut = [MouthShape.Closed, MouthShape.Rest];
        foreach (var shape in MouthShapes.All.Where(s => !there.Contains(s)))
        {
            var by = shape is MouthShape.Rest or MouthShape.Closed or MouthShape.Tuck
                ? shut.First(there.Contains)
                : there.Except(shut).DefaultIfEmpty(shut.First(there.Contains)).MinBy(t => Apart(t, shape));
            serves[NameOf(shape)] = NameOf(by);
        }
        return serves;
    }

    private static float Apart(MouthShape a, MouthShape b)
    {
        var (one, other) = (MouthShapes.TargetOf(a), MouthShapes.TargetOf(b));
        return Enumerable.Range(0, (int)MouthChannel.CornerLeft).Sum(c => (one[c] - other[c]) * (one[c] - other[c]));
    }

    private static string NameOf(MouthShape shape) => shape.ToString().ToLowerInvariant();

    internal static JsonObject Open(DrawnRecipe drawing) =>
        JsonNode
            .Parse(
                drawing.Rig,
                new JsonNodeOptions { PropertyNameCaseInsensitive = true },
                new JsonDocumentOptions { CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true }
            )!
            .AsObject();

    // What is drawn on it, cut out, and where it was.
    private sealed record CutPicture(byte[] Png, string Hash, int Width, int Height, SKRectI Box);

    private static CutPicture Cut(byte[] bytes, string name)
    {
        var taken = PictureFiles.Take(bytes, name);
        using var whole = new SKBitmap(new SKImageInfo(taken.Width, taken.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using (var data = SKData.CreateCopy(taken.Bytes))
        using (var codec = SKCodec.Create(data))
            codec.GetPixels(whole.Info, whole.GetPixels());
        int left = whole.Width,
            top = whole.Height,
            right = -1,
            bottom = -1;
        var isWhole = true;
        var pixels = whole.GetPixelSpan();
        for (var y = 0; y < whole.Height; y++)
        for (var x = 0; x < whole.Width; x++)
            if (pixels[y * whole.RowBytes + 4 * x + 3] is var alpha and > 0)
            {
                (left, top, right, bottom) = (Math.Min(left, x), Math.Min(top, y), Math.Max(right, x), Math.Max(bottom, y));
                isWhole &= alpha == 255;
            }
            else
                isWhole = false;
        if (right < 0)
            throw new MediaException($"\"{name}\" is empty: nothing is drawn on it.");
        if (isWhole)
            throw new MediaException($"\"{name}\" has no transparent ground: a mouth is drawn on nothing.");
        var box = new SKRectI(left, top, right + 1, bottom + 1);
        using var part = new SKBitmap(box.Width, box.Height, SKColorType.Rgba8888, SKAlphaType.Premul);
        using (var canvas = new SKCanvas(part))
        {
            canvas.Clear(SKColors.Transparent);
            using var image = SKImage.FromBitmap(whole);
            canvas.DrawImage(image, -box.Left, -box.Top, new SKSamplingOptions(SKFilterMode.Nearest));
        }
        using var encoded = part.Encode(SKEncodedImageFormat.Png, 100);
        var png = encoded.ToArray();
        return new CutPicture(png, HashOf(png), whole.Width, whole.Height, box);
    }
}
