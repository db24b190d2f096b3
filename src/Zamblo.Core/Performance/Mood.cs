namespace Zamblo.Core.Performance;

/// <summary>A named feeling.</summary>
public enum Mood
{
    /// <summary>Nothing in particular; over another mood it takes that mood away.</summary>
    Neutral,
    Joy,
    Sadness,
    Anger,
    Fear,
    Surprise,
    Disgust,
    Doubt,
    Boredom,
    Affection,
    Pride,
    Mischief,
}

/// <summary>A mood over a stretch of a scene.</summary>
/// <param name="Mood">Which.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Intensity">0 to 1.</param>
/// <param name="Ease">How long it takes to come and to go, in seconds; half of it lies within the stretch.</param>
public readonly record struct MoodSpan(Mood Mood, double Start, double End, float Intensity = 0.7f, double Ease = 0.5)
{
    /// <summary>Weight at a time, 0 to the intensity.</summary>
    public float WeightAt(double t)
    {
        var half = Math.Max(0.02, Math.Min(Ease, End - Start)) / 2;
        return Intensity * (float)(Performance.Ease.Smooth((t - Start + half) / (2 * half)) * Performance.Ease.Smooth((End + half - t) / (2 * half)));
    }
}

/// <summary>
/// What a mood does to a figure, as offsets at full intensity. The face follows the action units that are described for the feelings
/// (Ekman and Friesen, "Facial Action Coding System", 1978, with the prototypes of "EMFACS"; from memory), softened so that speech still reads.
/// </summary>
public record struct MoodShape
{
    /// <summary>Inner and outer ends of the brows together, -1 to 1.</summary>
    public float Brows;

    /// <summary>Right brow over the left one, as in doubt.</summary>
    public float BrowSkew;

    /// <summary>Brows drawn together; less than 0 slants them outwards.</summary>
    public float Knit;

    /// <summary>Lids: less than 0 heavier, more than 0 wider.</summary>
    public float Lids;

    /// <summary>Lower lids raised.</summary>
    public float Squint;

    /// <summary>Corners of the mouth, -1 down to 1 up.</summary>
    public float Corners;

    /// <summary>Right corner over the left one.</summary>
    public float CornerSkew;

    /// <summary>Upper lip raised, where the mouth is open.</summary>
    public float UpperLip;

    /// <summary>Lips spread, where the mouth is open.</summary>
    public float Spread;

    /// <summary>Where the head rests: nod in degrees down.</summary>
    public float Nod;

    /// <summary>Where the head rests: tilt in degrees.</summary>
    public float Tilt;

    /// <summary>Body leaned, in degrees.</summary>
    public float Lean;

    /// <summary>Arms away from the body, in degrees.</summary>
    public float Arms;

    /// <summary>Gaze down.</summary>
    public float GazeDown;

    /// <summary>Stretch of the figure: more than 0 taller.</summary>
    public float Stretch;

    /// <summary>How much larger or smaller motion gets: 0 the same.</summary>
    public float Size;

    /// <summary>How much faster or slower it gets: 0 the same.</summary>
    public float Tempo;

    /// <summary>Trembling, 0 to 1.</summary>
    public float Tremble;

    internal void Add(in MoodShape s, float w)
    {
        Brows += w * s.Brows;
        BrowSkew += w * s.BrowSkew;
        Knit += w * s.Knit;
        Lids += w * s.Lids;
        Squint += w * s.Squint;
        Corners += w * s.Corners;
        CornerSkew += w * s.CornerSkew;
        UpperLip += w * s.UpperLip;
        Spread += w * s.Spread;
        Nod += w * s.Nod;
        Tilt += w * s.Tilt;
        Lean += w * s.Lean;
        Arms += w * s.Arms;
        GazeDown += w * s.GazeDown;
        Stretch += w * s.Stretch;
        Size += w * s.Size;
        Tempo += w * s.Tempo;
        Tremble += w * s.Tremble;
    }
}

/// <summary>The moods and how they mix.</summary>
public static class Moods
{
    /// <summary>All but neutral, in the order in which people are shown them.</summary>
    public static IReadOnlyList<Mood> All { get; } = [.. Enum.GetValues<Mood>().Where(m => m != Mood.Neutral)];

    private static readonly MoodShape[] Shapes = Make();

    /// <summary>Offsets at full intensity.</summary>
    public static MoodShape ShapeOf(Mood mood) => Shapes[(int)mood];

    /// <summary>The mix at a time. Moods that overlap share: their weights never add up to more than the strongest intensity among them.</summary>
    public static MoodShape MixAt(IReadOnlyList<MoodSpan> spans, double t)
    {
        var mix = new MoodShape();
        float sum = 0,
            most = 0;
        foreach (var s in spans)
        {
            var w = s.WeightAt(t);
            sum += w;
            most = Math.Max(most, w);
        }
        if (sum <= 0)
            return mix;
        foreach (var s in spans)
            if (s.WeightAt(t) is var w and > 0)
                mix.Add(ShapeOf(s.Mood), w * most / sum);
        return mix;
    }

    private static MoodShape[] Make()
    {
        var s = new MoodShape[Enum.GetValues<Mood>().Length];
        // AU 6 and 12: cheeks raise the lower lids, corners up.
        s[(int)Mood.Joy] = new()
        {
            Squint = 0.55f,
            Brows = 0.25f,
            Lids = -0.12f,
            Corners = 0.85f,
            Spread = 0.2f,
            Nod = -3,
            Arms = 5,
            Stretch = 0.012f,
            Size = 0.3f,
            Tempo = 0.15f,
        };
        // AU 1, 4 and 15: inner brows up, corners down; the head sinks.
        s[(int)Mood.Sadness] = new()
        {
            Brows = 0.1f,
            Knit = -0.9f,
            Lids = -0.32f,
            Corners = -0.75f,
            Nod = 8,
            Tilt = 3,
            Arms = -3,
            GazeDown = 0.3f,
            Stretch = -0.02f,
            Size = -0.45f,
            Tempo = -0.35f,
        };
        // AU 4, 5, 7 and 23: brows down and together, lids tight.
        s[(int)Mood.Anger] = new()
        {
            Squint = 0.35f,
            Brows = -0.75f,
            Knit = 1,
            Lids = -0.1f,
            Corners = -0.4f,
            UpperLip = 0.25f,
            Spread = 0.15f,
            Nod = 4,
            Lean = 1.5f,
            Arms = 7,
            Size = 0.4f,
            Tempo = 0.25f,
        };
        // AU 1, 2, 4, 5 and 20: brows up and together, eyes wide, lips stretched.
        s[(int)Mood.Fear] = new()
        {
            Brows = 0.75f,
            Knit = -0.7f,
            Lids = 0.27f,
            Corners = -0.4f,
            Spread = 0.45f,
            Nod = -4,
            Lean = -2.5f,
            Arms = 6,
            Stretch = -0.012f,
            Size = -0.1f,
            Tempo = 0.3f,
            Tremble = 0.6f,
        };
        // AU 1, 2 and 5: brows up, eyes wide.
        s[(int)Mood.Surprise] = new()
        {
            Brows = 1,
            Lids = 0.3f,
            Corners = 0.1f,
            Nod = -5,
            Lean = -1,
            Arms = 6,
            Stretch = 0.02f,
            Size = 0.15f,
        };
        // AU 9, 10 and 15: upper lip raised, lids narrow; the head draws back.
        s[(int)Mood.Disgust] = new()
        {
            Squint = 0.5f,
            Brows = -0.45f,
            Knit = 0.5f,
            Lids = -0.35f,
            Corners = -0.6f,
            CornerSkew = 0.15f,
            UpperLip = 0.6f,
            Nod = -3,
            Tilt = -4,
            Lean = -2,
            Size = -0.1f,
        };
        s[(int)Mood.Doubt] = new()
        {
            Squint = 0.4f,
            Brows = -0.15f,
            BrowSkew = 1.5f,
            Knit = 0.3f,
            Lids = -0.18f,
            Corners = -0.25f,
            CornerSkew = 0.42f,
            Tilt = 8,
            Size = -0.15f,
            Tempo = -0.1f,
        };
        s[(int)Mood.Boredom] = new()
        {
            Brows = -0.15f,
            Lids = -0.45f,
            Corners = -0.2f,
            Nod = 3,
            Tilt = 7,
            Arms = -3,
            GazeDown = 0.1f,
            Stretch = -0.015f,
            Size = -0.55f,
            Tempo = -0.45f,
        };
        s[(int)Mood.Affection] = new()
        {
            Squint = 0.45f,
            Brows = 0.3f,
            Knit = -0.35f,
            Lids = -0.2f,
            Corners = 0.6f,
            Nod = 1,
            Tilt = 6,
            Lean = 1,
            Size = -0.1f,
            Tempo = -0.2f,
        };
        s[(int)Mood.Pride] = new()
        {
            Squint = 0.3f,
            Brows = 0.3f,
            Lids = -0.25f,
            Corners = 0.5f,
            Nod = -7,
            Arms = 4,
            Stretch = 0.02f,
            Tempo = -0.1f,
            Lean = -1,
        };
        s[(int)Mood.Mischief] = new()
        {
            Squint = 0.5f,
            Brows = -0.1f,
            BrowSkew = 1.1f,
            Knit = 0.4f,
            Lids = -0.25f,
            Corners = 0.65f,
            CornerSkew = 0.45f,
            Nod = 3,
            Tilt = -5,
            Lean = 1.5f,
            Size = 0.15f,
            Tempo = 0.1f,
        };
        return s;
    }
}
