using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>What a picture shows, for a first guess where no face was found.</summary>
public enum PortraitKind
{
    /// <summary>Somebody, drawn or not.</summary>
    Person,

    /// <summary>An animal: the mouth is low, the eyes are wide apart.</summary>
    Animal,

    /// <summary>A thing that shall speak: a mouth, and no eyes of its own.</summary>
    Thing,
}

/// <summary>First guesses of where the marks of a face are.</summary>
public static class MarksGuess
{
    // Numbers of the 468 points of Face Mesh (Kartynnik et al. 2019; the lists are those that @mediapipe/face_mesh exports), in the picture's directions.
    private static readonly int[] Outline =
    [
        10,
        338,
        297,
        332,
        284,
        251,
        389,
        356,
        454,
        323,
        361,
        288,
        397,
        365,
        379,
        378,
        400,
        377,
        152,
        148,
        176,
        149,
        150,
        136,
        172,
        58,
        132,
        93,
        234,
        127,
        162,
        21,
        54,
        103,
        67,
        109,
    ];
    private static readonly int[] OuterUpper = [61, 185, 40, 39, 37, 0, 267, 269, 270, 409, 291],
        OuterLower = [61, 146, 91, 181, 84, 17, 314, 405, 321, 375, 291],
        InnerUpper = [78, 191, 80, 81, 82, 13, 312, 311, 310, 415, 308],
        InnerLower = [78, 95, 88, 178, 87, 14, 317, 402, 318, 324, 308],
        LeftUpper = [33, 246, 161, 160, 159, 158, 157, 173, 133],
        LeftLower = [33, 7, 163, 144, 145, 153, 154, 155, 133],
        RightUpper = [362, 398, 384, 385, 386, 387, 388, 466, 263],
        RightLower = [362, 382, 381, 380, 374, 373, 390, 249, 263],
        BrowLeft = [70, 63, 105, 66, 107],
        BrowLeftLow = [46, 53, 52, 65, 55],
        BrowRight = [336, 296, 334, 293, 300],
        BrowRightLow = [285, 295, 282, 283, 276],
        Nose = [6, 4, 98, 327, 2];

    // The visible iris is 11.7 mm across (Rüfer, Schröder and Erb, "White-to-white corneal diameter", 2005), the opening of the lids about 29 mm wide
    // (Farkas, "Anthropometry of the head and face", 1994, from memory).
    private const float IrisShare = 11.7f / 29 / 2;

    /// <summary>From the points of a face that was found.</summary>
    /// <param name="points">468, in pixels.</param>
    public static PortraitMarks FromFace(IReadOnlyList<Vector3> points)
    {
        Mark At(int i) => new(points[i].X, points[i].Y);
        Mark[] Line(int[] numbers) => [.. numbers.Select(At)];
        Mark[] Between(int[] a, int[] b) => [.. a.Zip(b, (p, q) => (Mark)Vector2.Lerp(At(p), At(q), 0.5f))];
        return new PortraitMarks
        {
            Outline = Line(Outline),
            Mouth = new LipMarks
            {
                OuterUpper = Line(OuterUpper),
                OuterLower = Line(OuterLower),
                InnerUpper = Line(InnerUpper),
                InnerLower = Line(InnerLower),
            },
            EyeLeft = Eye(Line(LeftUpper), Line(LeftLower)),
            EyeRight = Eye(Line(RightUpper), Line(RightLower)),
            BrowLeft = Between(BrowLeft, BrowLeftLow),
            BrowRight = Between(BrowRight, BrowRightLow),
            Nose = Line(Nose),
        };
    }

    private static EyeMarks Eye(Mark[] upper, Mark[] lower) =>
        new()
        {
            Upper = upper,
            Lower = lower,
            Iris = Vector2.Lerp(upper[upper.Length / 2], lower[lower.Length / 2], 0.5f),
            Radius = IrisShare * Vector2.Distance(upper[0], upper[^1]),
        };

    // Shares of the box, from its middle: how far the eyes are apart and up, how large; the mouth's place and width.
    private sealed record Shape(float EyeX, float EyeY, float EyeWide, float EyeHigh, float MouthY, float MouthWide);

    /// <summary>From a box that somebody has drawn around the face, forehead to chin.</summary>
    /// <param name="left">In pixels.</param>
    /// <param name="top">In pixels.</param>
    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    /// <param name="kind">What it is.</param>
    public static PortraitMarks FromBox(float left, float top, float width, float height, PortraitKind kind)
    {
        // Proportions of a face as drawing books have them (common practice).
        var shape = kind switch
        {
            PortraitKind.Animal => new Shape(0.22f, -0.12f, 0.1f, 0.08f, 0.27f, 0.3f),
            _ => new Shape(0.19f, -0.05f, 0.1f, 0.05f, 0.27f, 0.36f),
        };
        Vector2 middle = new(left + width / 2, top + height / 2),
            half = new(width / 2, height / 2);
        Vector2 At(float x, float y) => middle + new Vector2(x * width, y * height);
        Mark[] outline =
        [
            .. Enumerable.Range(0, 24).Select(i => (Mark)(middle + half * new Vector2(MathF.Sin(i * MathF.Tau / 24), -MathF.Cos(i * MathF.Tau / 24)))),
        ];
        Mark[] Bow(float x, float y, float wide, float up) =>
            [.. Enumerable.Range(0, 9).Select(i => (Mark)At(x + (i / 4f - 1) * wide / 2, y - up * MathF.Sin(i * MathF.PI / 8)))];
        var m = shape.MouthWide;
        var marks = new PortraitMarks
        {
            Outline = outline,
            Mouth = new LipMarks
            {
                OuterUpper = Bow(0, shape.MouthY, m, 0.03f),
                OuterLower = Bow(0, shape.MouthY, m, -0.045f),
                InnerUpper = Bow(0, shape.MouthY, 0.94f * m, 0),
                InnerLower = Bow(0, shape.MouthY, 0.94f * m, 0),
            },
            Nose = kind == PortraitKind.Thing ? [] : [At(0, -0.02f), At(0, 0.1f), At(-0.08f, 0.14f), At(0.08f, 0.14f), At(0, 0.16f)],
        };
        if (kind == PortraitKind.Thing)
            return marks;
        EyeMarks EyeAt(float x) => Eye(Bow(x, shape.EyeY, 2 * shape.EyeWide, shape.EyeHigh), Bow(x, shape.EyeY, 2 * shape.EyeWide, -shape.EyeHigh * 0.8f));
        return marks with
        {
            EyeLeft = EyeAt(-shape.EyeX),
            EyeRight = EyeAt(shape.EyeX),
            BrowLeft = Bow(-shape.EyeX, shape.EyeY - 0.12f, 2.2f * shape.EyeWide, 0.03f),
            BrowRight = Bow(shape.EyeX, shape.EyeY - 0.12f, 2.2f * shape.EyeWide, 0.03f),
        };
    }
}
