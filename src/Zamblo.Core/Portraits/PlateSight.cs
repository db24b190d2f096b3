namespace Zamblo.Core.Portraits;

/// <summary>How well a face in a clip can be given another mouth.</summary>
public enum PlateSight
{
    /// <summary>Well.</summary>
    Good,

    /// <summary>It is not seen.</summary>
    Gone,

    /// <summary>It is turned too far away.</summary>
    Turned,

    /// <summary>Something is before the mouth.</summary>
    Covered,

    /// <summary>It moves so fast that the mouth's edges may be seen.</summary>
    Fast,

    /// <summary>It is out of focus: the mouth may look sharper than what is around it.</summary>
    Blurred,

    /// <summary>There is hardly any light on it.</summary>
    Dark,
}

/// <summary>A stretch of a clip in which a face is seen alike well.</summary>
/// <param name="Start">In seconds of the clip.</param>
/// <param name="End">In seconds of the clip.</param>
/// <param name="Sight">How well.</param>
public readonly record struct PlateStretch(double Start, double End, PlateSight Sight)
{
    /// <summary>No mouth says what is said there.</summary>
    public bool IsMute => HasNoMouth(Sight);

    /// <summary>Whether a face that is seen so is given no mouth.</summary>
    public static bool HasNoMouth(PlateSight sight) => sight is PlateSight.Gone or PlateSight.Turned;

    /// <summary>What it means, in a sentence; null where all is well.</summary>
    public string? Note() =>
        Sight switch
        {
            PlateSight.Gone => Says("no face is seen: a voice is heard there, but no mouth says it."),
            PlateSight.Turned => Says("the face is turned away: a voice is heard there, but no mouth says it."),
            PlateSight.Covered => Says("something is before the mouth: it would be drawn over."),
            PlateSight.Fast => Says("the head moves fast: the new mouth may be seen there."),
            PlateSight.Blurred => Says("the face is out of focus: the new mouth may look sharper than it."),
            PlateSight.Dark => Says("there is hardly any light on the face: little is seen of the mouth."),
            _ => null,
        };

    private string Says(string what) => FormattableString.Invariant($"From {Start:0.0} to {End:0.0} s {what}");

    /// <summary>Brings frames together to stretches.</summary>
    /// <param name="sights">Of each frame.</param>
    /// <param name="rate">Of the frames.</param>
    /// <returns>One after another, from the first frame to the end of the last.</returns>
    public static IReadOnlyList<PlateStretch> Of(IReadOnlyList<PlateSight> sights, FrameRate rate)
    {
        var stretches = new List<PlateStretch>();
        for (var from = 0; from < sights.Count; )
        {
            var to = from;
            while (to < sights.Count && sights[to] == sights[from])
                to++;
            stretches.Add(new PlateStretch(rate.TimeOf(from), rate.TimeOf(to), sights[from]));
            from = to;
        }
        return stretches;
    }
}
