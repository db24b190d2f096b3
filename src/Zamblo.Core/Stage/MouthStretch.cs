using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Stage;

/// <summary>
/// One drawn mouth that serves for all: it is as high as the lips are open, as wide as they are spread, and its corners go up and down. Shut it is a line
/// where the lips meet, a third of the way down.
/// </summary>
internal readonly struct MouthStretch
{
    // Of the drawn height: shut, and widest. A mouth is mostly drawn well open.
    private const float Shut = 0.05f,
        Widest = 1.25f;

    // From the top of the drawn mouth, as a share of its height, to where lips meet.
    private const float Meeting = 1 / 3f;

    private readonly float _wide,
        _high,
        _left,
        _right,
        _half,
        _line;

    /// <summary>How it is stretched.</summary>
    /// <param name="m">Channels of the mouth.</param>
    /// <param name="width">As it is drawn, in units of the drawing.</param>
    /// <param name="height">The same.</param>
    public MouthStretch(in MouthChannels m, float width, float height)
    {
        float spread = m[MouthChannel.Spread],
            jaw = m[MouthChannel.Jaw];
        _wide = (spread >= 0 ? 1 + 0.2f * spread : 1 + 0.5f * spread) * (1 - 0.06f * m[MouthChannel.Protrusion]);
        var open = m[MouthChannel.Part] * (0.36f + 0.64f * jaw);
        // Teeth on the lip leave a narrow gap.
        _high = Math.Max(Shut + (Widest - Shut) * Math.Min(1, open / 0.8f), 0.14f * m[MouthChannel.Tuck]);
        (_left, _right) = (height * 0.25f * m[MouthChannel.CornerLeft], height * 0.25f * m[MouthChannel.CornerRight]);
        _half = width / 2;
        _line = (Meeting - 0.5f) * height;
    }

    /// <summary>A path of the mouth, about its middle.</summary>
    public string Of(string path)
    {
        var self = this;
        return PathPoints.Map(path, self.Moved);
    }

    private Vector2 Moved(Vector2 p)
    {
        var aside = Math.Clamp(p.X / _half, -1, 1);
        var corner = (aside < 0 ? _left : _right) * aside * aside;
        return new Vector2(p.X * _wide, _line + (p.Y - _line) * _high - corner);
    }
}
