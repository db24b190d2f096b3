using System.Globalization;
using System.Numerics;

namespace Zamblo.Core.Stage;

/// <summary>A clip that a set is made of: over and over, as long as the scene lasts.</summary>
public sealed class BackdropFilm
{
    private readonly PictureSet _set;
    private readonly Vector2[] _corners,
        _texture;

    /// <param name="set">The clip.</param>
    /// <param name="at">Its upper left corner, in stage units.</param>
    /// <param name="scale">Stage units for a pixel.</param>
    /// <param name="over">What makes it darker; null for nothing.</param>
    public BackdropFilm(PictureSet set, Vector2 at, float scale, DrawShape? over)
    {
        (_set, Over) = (set, over);
        _texture = [new(0, 0), new(set.Width, 0), new(set.Width, set.Height), new(0, set.Height)];
        _corners = [.. _texture.Select(t => at + scale * t)];
        Shape = new DrawShape(null, null)
        {
            Picture = set.Hash,
            Filmed = set.Frames,
            Blur = set.Blur / scale,
            Mesh = new DrawMesh([.. _texture.SelectMany(t => new[] { t.X, t.Y })], [0, 1, 2, 0, 2, 3]),
        };
    }

    /// <summary>Its frames.</summary>
    public DrawShape Shape { get; }

    /// <summary>What makes it darker; null for nothing.</summary>
    public DrawShape? Over { get; }

    /// <summary>Names how it lies, which its shape does not say.</summary>
    public string Key => string.Create(CultureInfo.InvariantCulture, $"film {_corners[0]} {_corners[2]}");

    /// <summary>The frame that is shown at a moment.</summary>
    /// <param name="t">In seconds of the scene, 0 or more.</param>
    public DrawItem At(double t)
    {
        // A little later: a moment that was counted out in seconds is never the frame before.
        var frame = (int)((long)Math.Floor(t * PictureSet.FilmRate.FramesPerSecond + 0.02) % _set.Frames);
        return new DrawItem(Matrix3x2.Identity, 1, DrawMesh.Write(frame, _corners, _texture));
    }
}
