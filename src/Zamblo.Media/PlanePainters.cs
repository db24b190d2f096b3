using SkiaSharp;
using Zamblo.Core.Lettering;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Draws groups of shapes, each as its plane is seen: near, behind, or on the picture itself.</summary>
internal sealed class PlanePainters : IDisposable
{
    private readonly ShapePainter _near,
        _far,
        _over;
    private readonly int _width,
        _height;

    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    /// <param name="view">From a drawing to the picture, until something else is looked at.</param>
    /// <param name="scale">Of that.</param>
    public PlanePainters(int width, int height, SKMatrix view, float scale)
    {
        (_width, _height) = (width, height);
        (_near, _far) = (new ShapePainter(view, scale), new ShapePainter(view, scale));
        var over = height / PictureText.Height;
        _over = new ShapePainter(SKMatrix.CreateScale(over, over), over);
    }

    /// <summary>From the stage to a picture that shows a part of it.</summary>
    public static SKMatrix MatrixOf(StageView view, int width, int height)
    {
        var scale = view.ScaleFor(width);
        return SKMatrix.CreateScaleTranslation(scale, scale, width / 2f - view.X * scale, height / 2f - view.Y * scale);
    }

    /// <summary>Looks at what a frame shows.</summary>
    public void Look(FrameLook look)
    {
        _near.Look(MatrixOf(look.Near, _width, _height), look.Near.ScaleFor(_width));
        _far.Look(MatrixOf(look.Far, _width, _height), look.Far.ScaleFor(_width));
    }

    /// <summary>Who draws a group.</summary>
    public ShapePainter Of(DrawGroup group) =>
        group.Plane switch
        {
            DrawPlane.Far => _far,
            DrawPlane.Over => _over,
            _ => _near,
        };

    /// <summary>Draws a group of a frame.</summary>
    public void Draw(SKCanvas canvas, DrawingList list, int frame, DrawGroup group)
    {
        for (var i = group.First; i < group.First + group.Count; i++)
            Of(group).Draw(canvas, list, list.Frames[frame], i);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _near.Dispose();
        _far.Dispose();
        _over.Dispose();
    }
}
