using FsCheck.Xunit;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>A camera that is held in the hand, or shaken.</summary>
public class HandHeldTests
{
    private const float Aspect = 16f / 9;
    private static readonly StageView Still = new(640, 360, 800);

    [Property]
    public void It_never_sees_beyond_what_a_still_one_sees(ushort frame, byte drift, bool isHit)
    {
        var t = frame / 25.0;
        var view = HandHeld.Look(Still, Aspect, drift / 255f, t, isHit ? t / 3 : null);
        float half = view.Width / 2,
            tall = half / Aspect;
        Assert.InRange(view.X - half, Still.X - Still.Width / 2 - 0.01f, Still.X + Still.Width / 2);
        Assert.InRange(view.X + half, Still.X - Still.Width / 2, Still.X + Still.Width / 2 + 0.01f);
        Assert.InRange(view.Y - tall, Still.Y - Still.Width / Aspect / 2 - 0.01f, Still.Y);
        Assert.InRange(view.Y + tall, Still.Y, Still.Y + Still.Width / Aspect / 2 + 0.01f);
    }

    [Fact]
    public void It_wanders_slowly_and_a_shake_is_quick_and_over_within_a_second()
    {
        float X(double t, double? hit = null, float drift = 0) => HandHeld.Look(Still, Aspect, drift, t, hit).X;
        float Y(double t, double? hit = null) => HandHeld.Look(Still, Aspect, 0, t, hit).Y;
        var way = Enumerable.Range(0, 1500).Select(f => X(f / 25.0, null, 1)).ToArray();
        Assert.True(way.Max() - way.Min() > 4);
        // Less than a pixel of a small picture from frame to frame, and it turns around less than twice a second.
        Assert.True(way.Zip(way.Skip(1)).Max(p => Math.Abs(p.Second - p.First)) < 1);
        var turns = Enumerable.Range(1, way.Length - 2).Count(i => (way[i] - way[i - 1]) * (way[i + 1] - way[i]) < 0);
        Assert.InRange(turns, 10, 120);
        // The shake: strong within the first swings, then gone; in nothing else than time since the hit.
        double Strength(double from, double to) => Enumerable.Range(0, 100).Max(i => Math.Abs(Y(9, from + (to - from) * i / 100) - Still.Y));
        Assert.True(Strength(0, 0.1) > 5);
        Assert.True(Strength(1, 2) < 0.1);
        Assert.Equal(Y(3, 0.2), Y(7, 0.2));
        // A camera on its legs does nothing.
        Assert.Equal(Still, HandHeld.Look(Still, Aspect, 0, 5, null));
    }
}
