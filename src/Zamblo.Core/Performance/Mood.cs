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
/// <param name="Intensity">0 to <see cref="Most"/>; 1 is all of it, more is for the back row.</param>
/// <param name="Ease">How long it takes to come and to go, in seconds; half of it lies within the stretch.</param>
public readonly record struct MoodSpan(Mood Mood, double Start, double End, float Intensity = 0.7f, double Ease = 0.5)
{
    /// <summary>The greatest intensity.</summary>
    public const float Most = 1.5f;

    /// <summary>How far beyond its ends it may be felt, in seconds.</summary>
    public double Reach => Math.Max(0.02, Ease);

    /// <summary>Weight at a time, 0 to the intensity. Some moods come quicker than they go: surprise at once, sadness slowly (common practice).</summary>
    public float WeightAt(double t)
    {
        var half = Math.Max(0.02, Math.Min(Ease, End - Start)) / 2;
        var (comes, goes) = Pace(Mood);
        return Intensity
            * (float)(
                Performance.Ease.Smooth((t - Start + half * comes) / (2 * half * comes)) * Performance.Ease.Smooth((End + half * goes - t) / (2 * half * goes))
            );
    }

    // How long it takes to come and to go, as shares of the ease.
    private static (double Comes, double Goes) Pace(Mood mood) =>
        mood switch
        {
            Mood.Surprise => (0.35, 1.4),
            Mood.Fear => (0.5, 1.3),
            Mood.Anger or Mood.Disgust => (0.65, 1.2),
            Mood.Sadness or Mood.Boredom or Mood.Affection => (1.3, 1.3),
            _ => (1, 1),
        };
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

    /// <summary>Jaw of a mouth that is at rest: a gasp, a grin. While somebody speaks the words have the mouth.</summary>
    public float RestJaw;

    /// <summary>Gap between the lips of a mouth that is at rest.</summary>
    public float RestPart;

    /// <summary>Corners of a mouth at rest: less than 0 puckered, more than 0 spread.</summary>
    public float RestSpread;

    /// <summary>Lips pressed on each other at rest.</summary>
    public float RestPress;

    /// <summary>Where the head rests: nod in degrees down.</summary>
    public float Nod;

    /// <summary>Where the head rests: turn in degrees, to the picture's right.</summary>
    public float Turn;

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
        RestJaw += w * s.RestJaw;
        RestPart += w * s.RestPart;
        RestSpread += w * s.RestSpread;
        RestPress += w * s.RestPress;
        Spread += w * s.Spread;
        Nod += w * s.Nod;
        Turn += w * s.Turn;
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

    /// <summary>The mood that is felt most at a time, and how much, 0 to its intensity; null where none is felt.</summary>
    public static (Mood? Mood, float Weight) Strongest(IReadOnlyList<MoodSpan> spans, double t)
    {
        (Mood? Mood, float Weight) strongest = (null, 0);
        foreach (var s in spans)
            if (s.WeightAt(t) is var w && w > strongest.Weight)
                strongest = (s.Mood, w);
        return strongest;
    }

    private static MoodShape[] Make()
    {
        var s = new MoodShape[Enum.GetValues<Mood>().Length];
        // AU 6, 12 and 25: cheeks raise the lower lids, corners up, teeth show.
        s[(int)Mood.Joy] = new()
        {
            Squint = 0.6f,
            Brows = 0.3f,
            Lids = -0.05f,
            Corners = 0.9f,
            Spread = 0.2f,
            RestJaw = 0.2f,
            RestPart = 0.34f,
            RestSpread = 0.35f,
            Nod = -4,
            Arms = 8,
            Stretch = 0.018f,
            Size = 0.35f,
            Tempo = 0.18f,
        };
        // AU 1, 4 and 15: inner brows up, corners down; the head sinks, shoulders with it.
        s[(int)Mood.Sadness] = new()
        {
            Brows = 0.15f,
            Knit = -1.0f,
            Lids = -0.36f,
            Corners = -0.9f,
            RestSpread = -0.12f,
            RestPress = 0.2f,
            Nod = 10,
            Tilt = 4,
            Arms = -4,
            GazeDown = 0.4f,
            Stretch = -0.03f,
            Size = -0.5f,
            Tempo = -0.38f,
        };
        // AU 4, 5, 7 and 23: brows down and together, lids tight, teeth bared or lips pressed.
        s[(int)Mood.Anger] = new()
        {
            Squint = 0.45f,
            Brows = -0.9f,
            Knit = 1.15f,
            Lids = 0.02f,
            Corners = -0.55f,
            UpperLip = 0.3f,
            Spread = 0.18f,
            RestSpread = 0.28f,
            RestPress = 0.7f,
            Nod = 6,
            Lean = 2.5f,
            Arms = 11,
            Size = 0.45f,
            Tempo = 0.28f,
        };
        // AU 1, 2, 4, 5, 20 and 26: brows up and together, eyes wide, lips stretched.
        s[(int)Mood.Fear] = new()
        {
            Brows = 0.8f,
            Knit = -0.95f,
            Lids = 0.36f,
            Corners = -0.5f,
            Spread = 0.5f,
            RestJaw = 0.14f,
            RestPart = 0.26f,
            RestSpread = 0.6f,
            Nod = -5,
            Lean = -4.0f,
            Arms = 9,
            Stretch = -0.02f,
            Size = -0.1f,
            Tempo = 0.34f,
            Tremble = 0.7f,
        };
        // AU 1, 2, 5 and 27: brows up, eyes wide, the jaw drops.
        s[(int)Mood.Surprise] = new()
        {
            Brows = 1,
            Lids = 0.4f,
            RestJaw = 0.55f,
            RestPart = 0.8f,
            RestSpread = -0.35f,
            Nod = -7,
            Lean = -2.5f,
            Arms = 9,
            Stretch = 0.03f,
            Size = 0.2f,
        };
        // AU 9, 10 and 15: upper lip raised, lids narrow; the head draws back and away.
        s[(int)Mood.Disgust] = new()
        {
            Squint = 0.75f,
            Brows = -0.55f,
            Knit = 0.55f,
            Lids = -0.35f,
            Corners = -0.65f,
            CornerSkew = 0.22f,
            UpperLip = 0.7f,
            RestJaw = 0.05f,
            RestPart = 0.2f,
            RestSpread = 0.1f,
            Nod = -6,
            Tilt = -8,
            Lean = -4.5f,
            Size = -0.15f,
            Turn = -10,
        };
        s[(int)Mood.Doubt] = new()
        {
            Squint = 0.45f,
            Brows = -0.1f,
            BrowSkew = 1.9f,
            Knit = 0.25f,
            Lids = -0.2f,
            Corners = -0.3f,
            CornerSkew = 0.55f,
            RestPress = 0.35f,
            RestSpread = -0.15f,
            Tilt = 11,
            Size = -0.2f,
            Tempo = -0.12f,
            Turn = -5,
            Nod = 2,
        };
        s[(int)Mood.Boredom] = new()
        {
            Brows = -0.1f,
            Lids = -0.6f,
            Corners = -0.32f,
            RestSpread = -0.05f,
            Nod = 2,
            Tilt = -12,
            Arms = -4,
            GazeDown = 0.1f,
            Stretch = -0.028f,
            Size = -0.65f,
            Tempo = -0.5f,
            Turn = -13,
        };
        // Soft: the smile stays closed, the inner brows rise, the head leans to a shoulder.
        s[(int)Mood.Affection] = new()
        {
            Squint = 0.35f,
            Brows = 0.35f,
            Knit = -0.65f,
            Lids = -0.28f,
            Corners = 0.55f,
            RestPress = 0.1f,
            Nod = 3,
            Tilt = 10,
            Lean = 2.0f,
            Size = -0.15f,
            Tempo = -0.25f,
            Turn = 4,
        };
        // The chin goes up, the lids come down, the chest comes out.
        s[(int)Mood.Pride] = new()
        {
            Squint = 0.2f,
            Brows = 0.55f,
            Lids = -0.42f,
            Corners = 0.35f,
            RestPress = 0.5f,
            Nod = -11,
            Arms = 7,
            Stretch = 0.035f,
            Tempo = -0.15f,
            Lean = -2.5f,
            Turn = 9,
            Tilt = -3,
        };
        // One brow and one corner: something is going on.
        s[(int)Mood.Mischief] = new()
        {
            Squint = 0.6f,
            Brows = -0.25f,
            BrowSkew = 1.5f,
            Knit = 0.55f,
            Lids = -0.22f,
            Corners = 0.6f,
            CornerSkew = 0.7f,
            RestPart = 0.1f,
            RestJaw = 0.05f,
            Nod = 6,
            Tilt = -9,
            Lean = 2.5f,
            Size = 0.2f,
            Tempo = 0.14f,
            Turn = 6,
        };
        return s;
    }
}
