using System.Numerics;
using System.Security.Cryptography;
using OpenCvSharp;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Portraits;

/// <summary>What is wanted of a portrait.</summary>
/// <param name="Name">What people read.</param>
/// <param name="Marks">The face, in pixels of the picture.</param>
public sealed record PortraitWish(string Name, PortraitMarks Marks)
{
    /// <summary>Voice that suits it.</summary>
    public string Voice { get; init; } = "espeak:en-us";

    /// <summary>Cut the figure out; left as it is where nobody is told from the ground.</summary>
    public bool IsFree { get; init; } = true;

    /// <summary>A person, whom the model knows; of all else strokes of the brush say where it is.</summary>
    public bool IsPerson { get; init; } = true;

    /// <summary>What teeth it has.</summary>
    public TeethKind Teeth { get; init; }

    /// <summary>What eyes it has.</summary>
    public EyeKind Eyes { get; init; }

    /// <summary>Parts that hang on pivots.</summary>
    public IReadOnlyList<LoosePart> Parts { get; init; } = [];
}

/// <summary>A portrait that was made, and the pictures that it names.</summary>
/// <param name="Recipe">What it is made of.</param>
/// <param name="Pictures">By their hashes.</param>
public sealed record MadePortrait(PortraitRecipe Recipe, IReadOnlyDictionary<string, byte[]> Pictures);

/// <summary>Makes characters of a picture with faces in it.</summary>
public static class PortraitMaker
{
    /// <summary>Faces of people in a picture, as first guesses of marks; the largest first.</summary>
    /// <param name="picture">As it was taken in.</param>
    /// <param name="cancel">Stops.</param>
    public static IReadOnlyList<PortraitMarks> Guess(TakenPicture picture, CancellationToken cancel = default)
    {
        using var four = Pixels.Read(picture.Bytes);
        using var three = OnPaper(four);
        using var gray = new Mat();
        Cv2.CvtColor(three, gray, ColorConversionCodes.BGR2GRAY);
        return
        [
            .. FaceFinder
                .Find(three, cancel)
                .Select(f => MarksGuess.FromFace(f.Points))
                .Select(m => m with { EyeLeft = EyePictures.WithIris(gray, m.EyeLeft!), EyeRight = EyePictures.WithIris(gray, m.EyeRight!) })
                .Where(m => m.ErrorFor(picture.Width, picture.Height) == null),
        ];
    }

    /// <summary>Makes a portrait of each face; all of one picture stand before the same ground, with none of them on it.</summary>
    /// <param name="picture">As it was taken in.</param>
    /// <param name="wishes">One for each.</param>
    /// <param name="strokes">Correct by hand what is cut out.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">A face, a stroke or a part is not as it must be.</exception>
    public static IReadOnlyList<MadePortrait> Make(
        TakenPicture picture,
        IReadOnlyList<PortraitWish> wishes,
        IReadOnlyList<CutStroke>? strokes = null,
        CancellationToken cancel = default
    )
    {
        foreach (var wish in wishes)
            if (ErrorOf(wish, picture) is { } error)
                throw new MediaException(error);
        if (strokes is { Count: > CutStroke.Most } || strokes?.Select(s => s.Error()).FirstOrDefault(e => e != null) is { Length: > 0 })
            throw new MediaException($"A picture has up to {CutStroke.Most} strokes of the brush, each a list of places.");
        using var four = Pixels.Read(picture.Bytes);
        using var three = OnPaper(four);
        var shared = new Dictionary<string, byte[]>();
        using var people = wishes.Any(w => w.IsFree) ? PeopleIn(four, three, wishes, strokes ?? []) : null;
        cancel.ThrowIfCancellationRequested();
        byte[] ground = picture.Bytes;
        if (people != null)
        {
            using var filled = Cutout.Behind(three, people);
            // Beside the figures it stays as it was to the last bit, unless that gets too large to be moved about.
            ground = Pixels.Write(filled, (long)picture.Width * picture.Height <= MostExact);
        }
        var behind = new PictureSet(Keep(shared, ground), picture.Width, picture.Height, picture.Edge) { IsWhole = true }.Key;
        var made = new List<MadePortrait>();
        for (var i = 0; i < wishes.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            made.Add(One(three, people, wishes, i, shared, behind, picture));
        }
        return made;
    }

    private static string? ErrorOf(PortraitWish wish, TakenPicture picture) =>
        wish.Marks.ErrorFor(picture.Width, picture.Height)
        ?? (wish.Parts.Count > LoosePart.Most ? $"A figure has up to {LoosePart.Most} parts that hang on pivots." : null)
        ?? wish.Parts.Select(p => p.ErrorFor(picture.Width, picture.Height)).FirstOrDefault(e => e != null);

    private const long MostExact = 6_000_000;

    private static string Keep(Dictionary<string, byte[]> pictures, byte[] bytes)
    {
        var hash = Convert.ToHexStringLower(SHA256.HashData(bytes));
        pictures[hash] = bytes;
        return hash;
    }

    private static MadePortrait One(
        Mat three,
        Mat? people,
        IReadOnlyList<PortraitWish> wishes,
        int which,
        Dictionary<string, byte[]> shared,
        string behind,
        TakenPicture picture
    )
    {
        var wish = wishes[which];
        var pictures = new Dictionary<string, byte[]>(shared);
        var marks = wish.Marks;
        string KeepMat(Mat mat) => Keep(pictures, Pixels.Write(mat));
        string own;
        string? cover = null;
        IReadOnlyList<PartPatch> parts = [];
        if (people != null)
        {
            using var alone = Alone(people, wishes, which);
            using var cut = CutOut(three, alone);
            parts = LooseParts.TakeOut(cut, wish.Parts, KeepMat);
            own = KeepMat(cut);
            cover = CoverOf(alone);
        }
        else if (wish.Parts.Count > 0)
        {
            using var whole = new Mat();
            Cv2.CvtColor(three, whole, ColorConversionCodes.BGR2BGRA);
            parts = LooseParts.TakeOut(whole, wish.Parts, KeepMat);
            own = KeepMat(whole);
        }
        else
            own = Keep(pictures, picture.Bytes);
        var mouth = MouthLooks.Of(three, marks, wish.Teeth, bytes => Keep(pictures, bytes));
        EyePatch? EyeOf(EyeMarks? eye) =>
            eye == null ? null
            : wish.Eyes == EyeKind.Own ? EyePictures.Of(three, eye, KeepMat)
            : DrawnEyes.Of(eye, wish.Eyes, MouthLooks.LightOf(three, marks), mouth.LipLine, bytes => Keep(pictures, bytes));
        var recipe = new PortraitRecipe
        {
            Name = wish.Name,
            Description = "From a picture.",
            Voice = wish.Voice,
            Picture = own,
            Width = picture.Width,
            Height = picture.Height,
            Marks = marks,
            EyeLeft = EyeOf(marks.EyeLeft),
            EyeRight = EyeOf(marks.EyeRight),
            Mouth = mouth,
            Parts = parts.Count > 0 ? parts : null,
            IsFree = people != null,
            Cover = cover,
            Behind = behind,
        };
        return new MadePortrait(recipe, pictures);
    }

    private static bool HasHoles(Mat four)
    {
        using var alpha = new Mat();
        Cv2.ExtractChannel(four, alpha, 3);
        Cv2.MinMaxLoc(alpha, out double least, out _);
        return least < 128;
    }

    // What can be seen through has a ground to be looked at on.
    private static Mat OnPaper(Mat four)
    {
        var three = Pixels.Colors(four);
        if (!HasHoles(four))
            return three;
        using Mat alpha = new(),
            none = new();
        Cv2.ExtractChannel(four, alpha, 3);
        Cv2.Threshold(alpha, none, 8, 255, ThresholdTypes.BinaryInv);
        three.SetTo(new Scalar(225, 225, 225), none);
        return three;
    }

    // Null where the faces are not told from the ground: a drawing, a thing.
    private static Mat? PeopleIn(Mat four, Mat three, IReadOnlyList<PortraitWish> wishes, IReadOnlyList<CutStroke> strokes)
    {
        if (strokes.Count == 0)
            return PeopleIn(four, three, wishes);
        var found = wishes.All(w => w.IsPerson) || HasHoles(four) ? PeopleIn(four, three, wishes) : null;
        // A drawing, an animal, a thing: what strokes keep is told from the rest by its colours.
        found ??= CutBrush.Guess(three, wishes.Select(w => w.Marks.Outline), strokes);
        CutBrush.Apply(found, strokes);
        return found;
    }

    private static Mat? PeopleIn(Mat four, Mat three, IReadOnlyList<PortraitWish> wishes)
    {
        if (HasHoles(four))
        {
            using var alpha = new Mat();
            Cv2.ExtractChannel(four, alpha, 3);
            var cut = new Mat();
            alpha.ConvertTo(cut, MatType.CV_32F, 1 / 255.0);
            return cut;
        }
        if (!FaceFinder.IsThere)
            return null;
        var mask = new Mat(three.Size(), MatType.CV_32F, new Scalar(0));
        foreach (var wish in wishes)
        {
            // The model knows one person who fills the picture: it is shown a part, some faces wide.
            var ring = wish.Marks.Outline;
            float left = ring.Min(m => m.X),
                right = ring.Max(m => m.X),
                top = ring.Min(m => m.Y),
                side = 4.2f * Math.Max(right - left, ring.Max(m => m.Y) - top);
            var above = Math.Max(0, (int)(top - side * 0.24f));
            var part = new Rect((int)((left + right - side) / 2), above, (int)side, Math.Min(three.Rows - above, (int)(1.6f * side)));
            using var one = Cutout.MaskOf(three, part);
            using var face = MouthLooks.MaskOf(three, ring);
            if (Cv2.Mean(one, face).Val0 < 0.6)
            {
                mask.Dispose();
                return null;
            }
            OneBody(one, face);
            // The face itself is there, whatever a highlight says.
            one.SetTo(new Scalar(1), face);
            Cv2.Max(mask, one, mask);
        }
        // Nobody is cut out of a picture that they fill.
        if (Cv2.Mean(mask).Val0 > 0.97)
        {
            mask.Dispose();
            return null;
        }
        return mask;
    }

    // Others who are seen near by stay in the picture.
    private static void OneBody(Mat mask, Mat face)
    {
        using Mat there = new(),
            labels = new(),
            own = new(),
            soft = new();
        Cv2.Threshold(mask, there, 0.3, 255, ThresholdTypes.Binary);
        there.ConvertTo(there, MatType.CV_8U);
        var count = Cv2.ConnectedComponents(there, labels);
        var (best, most) = (0, 0);
        for (var label = 1; label < count; label++)
        {
            Cv2.InRange(labels, new Scalar(label), new Scalar(label), own);
            Cv2.BitwiseAnd(own, face, own);
            var shared = Cv2.CountNonZero(own);
            if (shared > most)
                (best, most) = (label, shared);
        }
        if (best == 0)
            return;
        Cv2.InRange(labels, new Scalar(best), new Scalar(best), own);
        using var kernel = Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(13, 13));
        Cv2.Dilate(own, own, kernel);
        Cv2.BitwiseNot(own, own);
        mask.SetTo(new Scalar(0), own);
    }

    // What is nearest to one's own face, counted in faces.
    private static Mat Alone(Mat people, IReadOnlyList<PortraitWish> wishes, int which)
    {
        var alone = people.Clone();
        if (wishes.Count == 1)
            return alone;
        var faces = wishes.Select(w => (X: w.Marks.Outline.Average(m => m.X), Wide: w.Marks.Outline.Max(m => m.X) - w.Marks.Outline.Min(m => m.X))).ToArray();
        float[] own =
        [
            .. Enumerable
                .Range(0, people.Cols)
                .Select(x => Enumerable.Range(0, faces.Length).MinBy(f => MathF.Abs(x - faces[f].X) / faces[f].Wide) == which ? 1f : 0),
        ];
        using var row = Mat.FromPixelData(1, own.Length, MatType.CV_32F, own);
        using var all = new Mat();
        Cv2.Repeat(row, people.Rows, 1, all);
        Cv2.Multiply(alone, all, alone);
        return alone;
    }

    // Which parts of the picture have anything in them.
    private static string CoverOf(Mat mask)
    {
        const int side = PortraitRecipe.CoverSide;
        using Mat there = new(),
            cells = new();
        Cv2.Threshold(mask, there, 1 / 510.0, 1, ThresholdTypes.Binary);
        Cv2.Resize(there, cells, new Size(side, side), 0, 0, InterpolationFlags.Area);
        var bits = new byte[side * side / 8];
        for (var i = 0; i < side * side; i++)
            if (cells.At<float>(i / side, i % side) > 0)
                bits[i / 8] |= (byte)(1 << i % 8);
        return Convert.ToHexStringLower(bits);
    }

    private static Mat CutOut(Mat three, Mat mask)
    {
        using Mat alpha = new(),
            clean = Decontaminated(three, mask);
        mask.ConvertTo(alpha, MatType.CV_8U, 255);
        Cv2.Split(clean, out var channels);
        var cut = new Mat();
        Cv2.Merge([.. channels, alpha], cut);
        foreach (var channel in channels)
            channel.Dispose();
        return cut;
    }

    // Edges take their colour from within, so that no rim of the old ground goes along.
    private static Mat Decontaminated(Mat three, Mat mask)
    {
        using Mat sure = new(),
            sure3 = new(),
            colors = new(),
            weighted = new(),
            sum = new(),
            weights = new();
        Cv2.Threshold(mask, sure, 0.92, 1, ThresholdTypes.Binary);
        Cv2.Merge([sure, sure, sure], sure3);
        three.ConvertTo(colors, MatType.CV_32FC3);
        using var inside = colors.Mul(sure3);
        var reach = Math.Max(2, Math.Max(three.Cols, three.Rows) / 250.0);
        Cv2.GaussianBlur(inside, sum, new Size(0, 0), reach);
        Cv2.GaussianBlur(sure3, weights, new Size(0, 0), reach);
        Cv2.Max(weights, 1e-4, weights);
        Cv2.Divide(sum, weights, weighted);
        using var eight = new Mat();
        weighted.ConvertTo(eight, MatType.CV_8UC3);
        var clean = three.Clone();
        using Mat rim = new(),
            near = new(),
            mask8 = new();
        // Only where there is something within reach to take it from.
        Cv2.InRange(mask, new Scalar(0.001), new Scalar(0.92), rim);
        using (var w = new Mat())
        {
            Cv2.ExtractChannel(weights, w, 0);
            Cv2.InRange(w, new Scalar(0.02), new Scalar(2), near);
        }
        Cv2.BitwiseAnd(rim, near, mask8);
        eight.CopyTo(clean, mask8);
        return clean;
    }
}
