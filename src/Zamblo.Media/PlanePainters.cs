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

    /// <summary>Draws all of a frame, also one in which one shot becomes the next: both are drawn, each as much as it is seen.</summary>
    /// <param name="canvas">Already cleared.</param>
    /// <param name="list">What to draw.</param>
    /// <param name="frame">Index into the list's frames.</param>
    /// <param name="look">What it shows.</param>
    /// <param name="ground">What is behind everything.</param>
    public void DrawAll(SKCanvas canvas, DrawingList list, int frame, FrameLook look, SKColor ground)
    {
        if (look.Next is not { } next)
        {
            Look(look);
            All();
            return;
        }
        var after = new FrameLook(next.Near, next.Far, true);
        if (next.Change is ShotChange.Wipe or ShotChange.Pass)
        {
            Look(look);
            All();
            canvas.ResetMatrix();
            canvas.Save();
            // Over a pixel at most: as the page has it.
            canvas.ClipRect(new SKRect(0, 0, Math.Clamp(MathF.Round(next.Edge * _width), 0, _width), _height));
            canvas.Clear(ground);
            Look(after);
            All();
            canvas.Restore();
            if (next.Change == ShotChange.Pass)
                Pass(canvas, next.Edge);
            return;
        }
        // Added to each other, so that what is transparent in both is so in the picture.
        canvas.Clear(ground.WithAlpha(0));
        foreach (var (own, share) in (ReadOnlySpan<(FrameLook, float)>)[(look with { Next = null }, next.Before), (after, next.After)])
        {
            if (share <= 0)
                continue;
            canvas.ResetMatrix();
            using var paint = new SKPaint { BlendMode = SKBlendMode.Plus, Color = SKColors.White.WithAlpha((byte)MathF.Round(255 * share)) };
            canvas.SaveLayer(paint);
            canvas.Clear(ground);
            Look(own);
            All();
            canvas.Restore();
        }
        canvas.ResetMatrix();
        // Where there is a set, what is seen of neither is black.
        if (ground.Alpha == 255 || list.Groups.Any(g => g.Plane == DrawPlane.Far))
            canvas.DrawColor(SKColors.Black, SKBlendMode.DstOver);

        void All()
        {
            foreach (var group in list.Groups)
                Draw(canvas, list, frame, group);
        }
    }

    // What passes close to the camera.
    private void Pass(SKCanvas canvas, float edge)
    {
        float left = (edge - FrameBlend.PassWidth / 2) * _width,
            right = (edge + FrameBlend.PassWidth / 2) * _width;
        SKColor[] colors = [.. FrameBlend.PassStops.Select(s => ShapePainter.Color(FrameBlend.PassColor, s.Much))];
        float[] at = [.. FrameBlend.PassStops.Select(s => s.At)];
        using var shader = SKShader.CreateLinearGradient(new SKPoint(left, 0), new SKPoint(right, 0), colors, at, SKShaderTileMode.Clamp);
        using var paint = new SKPaint { Shader = shader };
        canvas.ResetMatrix();
        canvas.DrawRect(new SKRect(left, 0, right, _height), paint);
    }

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
