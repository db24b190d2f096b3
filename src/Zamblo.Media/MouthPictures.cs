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

    /// <summary>The shape that a picture is of, by its file's name; null where it names none.</summary>
    public static MouthShape? ShapeOf(string file) => MouthNames.ShapeOf(Path.GetFileNameWithoutExtension(file));

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
        if (mouth.Style != MouthStyle.Drawn)
            node["otherwise"] = JsonNamingPolicy.CamelCase.ConvertName(mouth.Style.ToString());
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

    /// <summary>Drawn mouths are taken off again: the rig draws the mouth as it did before.</summary>
    /// <exception cref="MediaException">The character has none.</exception>
    public static DrawnRecipe Off(DrawnRecipe drawing)
    {
        var mouth = drawing.Make("this character").Rig.Mouth;
        if (mouth.Style is not (MouthStyle.Drawn or MouthStyle.Stretched))
            throw new MediaException("This character has no drawn mouths.");
        var rig = Open(drawing);
        var node = rig["mouth"]!.AsObject();
        node["style"] = JsonNamingPolicy.CamelCase.ConvertName((mouth.Otherwise ?? MouthStyle.Lips).ToString());
        foreach (var gone in (string[])["drawn", "serves", "otherwise"])
            node.Remove(gone);
        return DrawingFiles.Read(drawing.Art, rig.ToJsonString());
    }

    private static JsonObject ServesOf(IReadOnlyCollection<MouthShape> there) =>
        new(MouthNames.Serving(there).Select(s => KeyValuePair.Create(NameOf(s.Key), (JsonNode?)NameOf(s.Value))));

    private static string NameOf(MouthShape shape) => MouthNames.Of(shape);

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
