using Zamblo.Core.Stage;

namespace Zamblo.Core.Shots;

/// <summary>
/// A camera that is held: it wanders a little all the time (drift), or it is shaken once, as by a hit, and comes to rest. Functions of time alone, so that
/// any frame can be drawn by itself.
/// </summary>
public static class HandHeld
{
    // Shares of the picture's width (chosen by eye: seen, but not looked at), and the slow sway of a body that stands, well below 1 Hz.
    private const float Wander = 0.007f,
        Hit = 0.014f;

    private static readonly (float Hertz, float Share)[] Sway = [(0.13f, 0.55f), (0.29f, 0.3f), (0.61f, 0.15f)];

    // A shake dies away within half a second (time constant) at about ten swings a second.
    private const float ShakeSeconds = 0.16f,
        ShakeHertz = 9.5f;

    /// <summary>What a held camera sees in place of a still one.</summary>
    /// <param name="view">Of the still one.</param>
    /// <param name="aspect">Width of the picture by its height.</param>
    /// <param name="drift">How much it wanders, 0 to 1.</param>
    /// <param name="t">Of its sway, in seconds.</param>
    /// <param name="hit">Seconds since it was shaken; null for never.</param>
    public static StageView Look(StageView view, float aspect, float drift, double t, double? hit)
    {
        // A little nearer, so that it never sees beyond what the still one sees.
        var room = Wander * drift + (hit == null ? 0 : Hit);
        var width = view.Width * (1 - 2 * room);
        var (x, y) = (Wander * drift * Wave(t, 0), Wander * drift * Wave(t, 1.9f));
        if (hit is { } since and >= 0)
        {
            var strength = Hit * MathF.Exp(-(float)since / ShakeSeconds);
            var turn = MathF.Tau * ShakeHertz * (float)since;
            (x, y) = (x + strength * 0.6f * MathF.Sin(1.31f * turn), y + strength * MathF.Sin(turn));
        }
        return new StageView(view.X + x * view.Width, view.Y + y * view.Width / aspect, width);
    }

    // Between -1 and 1.
    private static float Wave(double t, float phase) => Sway.Sum(s => s.Share * MathF.Sin(MathF.Tau * s.Hertz * (float)t + phase + 40 * s.Hertz));
}
