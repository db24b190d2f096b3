using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.Json;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>
/// Makes a figure of a recipe: lays the paths of its parts into the layers of one body, fits them to its proportions, and writes the drawing and
/// the rig as if a hand had drawn them.
/// </summary>
public static class Tailor
{
    private const float Middle = 300,
        NeckY = 430,
        Ground = 1062,
        Bottom = 1080;

    // Kinds whose paths lie on the head; all others lie on the body.
    private static readonly HashSet<string> OnHead =
    [
        "back-hair",
        "side-hair",
        "hair-back",
        "crown",
        "ear-left",
        "ear-right",
        "skull",
        "marks",
        "beard",
        "snout",
        "moustache",
        "nose",
        "glasses",
        "hair-top",
        "hat",
        "earring-left",
        "earring-right",
    ];

    // Groups in paint order, back to front; those of the head come last.
    private static readonly string[] Order =
    [
        "hips",
        "back-hair",
        "foot-left",
        "shin-left",
        "leg-left",
        "foot-right",
        "shin-right",
        "leg-right",
        "torso",
        "upper-left",
        "fore-left",
        .. Hands("left"),
        "cuff-left",
        "upper-right",
        "fore-right",
        .. Hands("right"),
        "tool",
        "cuff-right",
        "neck",
        "neckwear",
        "head",
        "hair-back",
        "crown",
        "ear-left",
        "ear-right",
        "skull",
        "side-hair",
        "marks",
        "cheek-left",
        "cheek-right",
        "beard",
        "snout",
        "mouth",
        "moustache",
        "eye-left",
        "eye-right",
        "nose",
        "glasses",
        "hair-top",
        "hat",
        "brow-left",
        "brow-right",
        "earring-left",
        "earring-right",
    ];

    private static IEnumerable<string> Hands(string side) => TailorHands.All.Select(h => HandLayer(h.Shape, side)).Prepend(HandLayer(HandShape.Relaxed, side));

    /// <summary>The layer of a hand.</summary>
    internal static string HandLayer(HandShape shape, string side) =>
        shape == HandShape.Relaxed ? $"hand-{side}" : $"hand-{side}-{shape.ToString().ToLowerInvariant()}";

    /// <summary>The figure of a recipe.</summary>
    /// <param name="recipe">What it is made of.</param>
    /// <param name="key">Its name in addresses and files.</param>
    /// <exception cref="ArtException">A part or a colour that the recipe names is not there.</exception>
    public static Figure Make(WardrobeRecipe recipe, string key)
    {
        var (art, rig) = Write(recipe, key);
        return DrawnFigure.Read(new MemoryStream(Encoding.UTF8.GetBytes(art)), new MemoryStream(rig), recipe.Name);
    }

    /// <summary>The drawing and the rig of a recipe, as files.</summary>
    public static (string Art, byte[] Rig) Write(WardrobeRecipe recipe, string key)
    {
        Check(recipe);
        var fit = new TailorFit(recipe);
        var layers = Layers(recipe, fit);
        fit.Lift(layers);
        var colours = new InkAndColour(recipe.Palette);
        var art = new StringBuilder();
        art.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 600 {MathF.Ceiling(fit.Body(new(0, Bottom)).Y)}\">");
        foreach (var layer in Order)
        {
            art.Append(CultureInfo.InvariantCulture, $"<g id=\"{layer}\">");
            foreach (var path in layers.GetValueOrDefault(layer) ?? [])
            {
                var d = PathPoints.Map(path.D, OnHead.Contains(layer) ? fit.Head : fit.Body);
                var (fill, stroke) = (path.Fill is { } f ? colours.Of(f) : "none", path.Stroke is { } s ? colours.Of(s) : "none");
                art.Append(CultureInfo.InvariantCulture, $"<path d=\"{d}\" fill=\"{fill}\" stroke=\"{stroke}\"");
                if (path.Width > 0)
                    art.Append(CultureInfo.InvariantCulture, $" stroke-width=\"{path.Width * recipe.Line}\" data-nib=\"{path.Nib * recipe.Line}\"");
                if (path.Opacity < 1)
                    art.Append(CultureInfo.InvariantCulture, $" opacity=\"{path.Opacity}\"");
                art.Append("/>");
            }
            art.Append("</g>");
        }
        art.Append("</svg>");
        var rig = TailorRig.Of(recipe, key, fit, layers, colours);
        return (art.ToString(), JsonSerializer.SerializeToUtf8Bytes(rig, Rig.Json));
    }

    /// <summary>Whether a recipe makes a figure, without making it.</summary>
    /// <exception cref="ArtException">A part or a colour that it names is not there, or a measure is out of bounds.</exception>
    public static void Check(WardrobeRecipe r)
    {
        // What was read of a file may lack what a type says is there.
        if (r.Name is null || r.Description is null || r.Voice is null || r.Palette is null || r.Parts is null || r.Parts.Values.Any(v => v is null))
            throw new ArtException("A recipe has a name, a sentence, a voice, parts and colours: one of them is missing.");
        if (r.Name.Length is 0 or > 40)
            throw new ArtException("A character's name has 1 to 40 characters.");
        foreach (var (kind, _) in r.Parts)
            if (!WardrobeStock.Kinds.Any(k => k.Kind == kind))
                throw new ArtException($"The Wardrobe has no kind of part \"{kind}\".");
        foreach (var (kind, _) in WardrobeStock.Kinds)
            WardrobeStock.Find(kind, r.PartOf(kind));
        foreach (var (name, color) in r.Palette.All())
            if (color != null && (color.Length != 7 || !ArtText.IsColor(color)))
                throw new ArtException($"The colour of the {name}, \"{color}\", is not written as #rrggbb.");
        Within(r.Height, 0.6f, 1.3f, "height");
        Within(r.Build, 0.75f, 1.4f, "build");
        Within(r.Head, 0.85f, 1.35f, "head");
        Within(r.Body, 0.65f, 1.15f, "body");
        Within(r.Line, 0.6f, 1.5f, "line");
    }

    private static void Within(float value, float least, float most, string what)
    {
        if (!(value >= least && value <= most))
            throw new ArtException($"The {what} of a character goes from {least} to {most}.");
    }

    private static Dictionary<string, List<StockPath>> Layers(WardrobeRecipe recipe, TailorFit fit)
    {
        var layers = new Dictionary<string, List<StockPath>>();
        void Lay(string layer, IEnumerable<StockPath> paths)
        {
            if (!layers.TryGetValue(layer, out var list))
                layers[layer] = list = [];
            list.AddRange(paths);
        }
        WardrobePart Part(string kind) => WardrobeStock.Find(kind, recipe.PartOf(kind));
        var (top, bottom, shoes) = (Part("top"), Part("bottom"), Part("shoes"));
        foreach (
            var (part, layer) in (ReadOnlySpan<(string, string)>)
                [
                    ("upper", "upper"),
                    ("fore", "fore"),
                    ("hand", "hand"),
                    ("wrist", "hand"),
                    ("cuff", "cuff"),
                    ("thigh", "leg"),
                    ("shin", "shin"),
                    ("foot", "foot"),
                ]
        )
            LayBoth(layer + "-left", layer + "-right", TailorBody.Of(part, top, bottom, shoes));
        // A hand that holds a tool keeps it.
        foreach (var (shape, paths) in TailorHands.All)
            LayBoth(
                HandLayer(shape, "left"),
                Part("tool").Key == "none" ? HandLayer(shape, "right") : null,
                [.. paths, .. TailorBody.Of("wrist", top, bottom, shoes)]
            );
        void LayBoth(string left, string? right, IReadOnlyList<StockPath> paths)
        {
            Lay(left, paths);
            if (right != null)
                Lay(right, paths.Select(p => p with { D = PathPoints.Map(p.D, v => v with { X = 2 * Middle - v.X }) }));
        }
        Lay("neck", TailorBody.Of("neck", top, bottom, shoes));
        var (hat, hair) = (Part("hat"), Part("hair"));
        var covers = hat.Key != "none" && hat.Option("keeps") == null;
        foreach (var (kind, _) in WardrobeStock.Kinds)
        foreach (var (layer, paths) in Part(kind).Layers)
            if (covers && kind == "hair" && layer == "hair-top")
            {
                // Of hair under a hat a fringe is seen, where there is enough of it.
                if (hair.Key is not ("buzz" or "mohawk" or "tufts"))
                    Lay(layer, [new StockPath(TailorBody.Fringe, "hair", "ink", 6, 3, 1)]);
            }
            else if (covers && kind == "hair" && layer is "hair-back" or "back-hair")
                Lay(layer, paths.Select(p => p with { D = PathPoints.Map(p.D, UnderHat) }));
            else
                Lay(layer, paths);
        // Cheeks turn with the face.
        Lay("cheek-left", [new StockPath(Cheek(218), "blush", null, 0, 0, 0.42f)]);
        Lay("cheek-right", [new StockPath(Cheek(382), "blush", null, 0, 0, 0.42f)]);
        return layers;
    }

    private static string Cheek(float x) => new PathText().Ellipse(x, 356, 30, 19).ToString();

    // Hair above the band is pressed to the head.
    private static Vector2 UnderHat(Vector2 p)
    {
        if (p.Y >= 226)
            return p;
        var share = Math.Clamp((226 - p.Y) / 120, 0, 1);
        return new Vector2(Middle + (p.X - Middle) * (1 - 0.25f * share), 226 - (226 - p.Y) * 0.3f);
    }

    /// <summary>All there is to choose from.</summary>
    public static IReadOnlyList<WardrobeKind> Stock() =>
        [
            .. WardrobeStock.Kinds.Select(k => new WardrobeKind(
                k.Kind,
                k.Name,
                k.Kind is not ("top" or "bottom" or "shoes" or "tool" or "neckwear"),
                [.. WardrobeStock.Of(k.Kind).Select(p => new WardrobeChoice(p.Key, p.Name))]
            )),
        ];

    /// <summary>A recipe of chance: every part and colour drawn from the seed, so that what is drawn goes together.</summary>
    /// <param name="seed">Of the choices.</param>
    public static WardrobeRecipe AtRandom(int seed) => TailorChance.Draw(seed);

    internal const float NeckLine = NeckY,
        GroundLine = Ground,
        MiddleLine = Middle;
}
