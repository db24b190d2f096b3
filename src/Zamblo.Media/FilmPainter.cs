using System.Runtime.InteropServices;
using SkiaSharp;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Draws the frames of a film one after another. Only what has changed since the frame before is drawn, grained and converted: a group of shapes
/// that moves, and whatever it touches; what is still is a kept picture. Every frame is equal, bit for bit, to the same frame drawn whole, since
/// shapes are never drawn in part.
/// </summary>
internal sealed class FilmPainter : IDisposable
{
    // Room for softened edges and the pen's nib, in pixels.
    private const int Air = 3;

    // A still group: its pixels, premultiplied, and where they are.
    private sealed record Layer(uint[] Pixels, SKRectI Part);

    private readonly SKBitmap _bitmap;
    private readonly SKCanvas _canvas;
    private readonly PlanePainters _planes;
    private FrameLook _look;
    private readonly PlanarPicture _picture;
    private readonly int _width,
        _height;

    // Of the scene that was drawn last.
    private IReadOnlyList<DrawShape>? _of;
    private uint[] _back = [];
    private Layer?[] _layers = [];
    private DrawItem[]? _before;
    private SKRectI[] _parts = [];

    /// <param name="width">In pixels, even.</param>
    /// <param name="height">In pixels, even.</param>
    public FilmPainter(int width, int height)
    {
        (_width, _height) = (width, height);
        _bitmap = new SKBitmap(new SKImageInfo(width, height, Rasteriser.Pixels, SKAlphaType.Premul));
        _canvas = new SKCanvas(_bitmap);
        var cover = StageView.Cover(width, height);
        var view = PlanePainters.MatrixOf(cover, width, height);
        _planes = new PlanePainters(width, height, view, cover.ScaleFor(width));
        // The grain is the paper's: it stays where it is, whatever is seen.
        var colored = Rasteriser.GrainFor(width, height, view);
        var grain = new byte[width * height];
        for (var i = 0; i < grain.Length; i++)
            grain[i] = colored[4 * i];
        _picture = new PlanarPicture(width, height, grain);
    }

    /// <summary>How much of the last frame was drawn anew, 0 to 1.</summary>
    public double ShareDrawn { get; private set; }

    /// <summary>Draws a frame.</summary>
    /// <param name="list">A stretch of a scene.</param>
    /// <param name="frame">Index into its frames; any order, but what follows the frame before is quickest.</param>
    /// <param name="isWhole">Draw everything, as if there were no frame before.</param>
    /// <returns>Planes in 4:2:0, valid until the next call.</returns>
    public byte[] Draw(DrawingList list, int frame, bool isWhole = false)
    {
        var look = list.LookAt(frame, _width, _height);
        _picture.HasGrain = list.HasGrain;
        if (look.Moves)
            return DrawMoving(list, frame, look);
        if (!ReferenceEquals(list.Shapes, _of) || look != _look)
        {
            _planes.Look(_look = look);
            Set(list, frame);
        }
        var items = list.Frames[frame];
        var parts = new SKRectI[list.Groups.Count];
        for (var g = 0; g < parts.Length; g++)
            parts[g] = list.Groups[g].IsStill ? _layers[g]?.Part ?? SKRectI.Empty : PartOf(list, items, list.Groups[g]);
        var (redrawn, dirty) = Changed(list, items, parts, isWhole || _before == null);
        var pixels = MemoryMarshal.Cast<byte, uint>(_bitmap.GetPixelSpan());
        foreach (var part in dirty)
            Restore(pixels, part);
        for (var g = 0; g < parts.Length; g++)
        {
            var group = list.Groups[g];
            if (_layers[g] is { } layer)
                foreach (var part in dirty)
                    Lay(pixels, layer, part);
            else if (redrawn[g])
                _planes.Draw(_canvas, list, frame, group);
        }
        _canvas.Flush();
        foreach (var part in dirty)
            _picture.Convert(_bitmap.GetPixelSpan(), part);
        (_before, _parts) = (items, parts);
        ShareDrawn = dirty.Sum(p => (double)p.Width * p.Height) / ((double)_width * _height);
        return _picture.Planes;
    }

    // While the camera moves, nothing is still.
    private byte[] DrawMoving(DrawingList list, int frame, FrameLook look)
    {
        _of = null;
        _look = look;
        _canvas.ResetMatrix();
        _canvas.Clear(SKColors.Black);
        _planes.DrawAll(_canvas, list, frame, look, SKColors.Black);
        _canvas.Flush();
        _picture.Convert(_bitmap.GetPixelSpan(), new SKRectI(0, 0, _width, _height));
        ShareDrawn = 1;
        return _picture.Planes;
    }

    // What is still in a shot is drawn once.
    private void Set(DrawingList list, int frame)
    {
        _of = list.Shapes;
        _before = null;
        _layers = new Layer?[list.Groups.Count];
        _canvas.ResetMatrix();
        _canvas.Clear(SKColors.Black);
        _back = MemoryMarshal.Cast<byte, uint>(_bitmap.GetPixelSpan()).ToArray();
        for (var g = 0; g < list.Groups.Count; g++)
        {
            var group = list.Groups[g];
            if (!group.IsStill)
                continue;
            _canvas.ResetMatrix();
            if (g > 0)
                _canvas.Clear(SKColors.Transparent);
            _planes.Draw(_canvas, list, frame, group);
            _canvas.Flush();
            var drawn = MemoryMarshal.Cast<byte, uint>(_bitmap.GetPixelSpan()).ToArray();
            // What lies behind everything is the ground that all is restored from.
            if (g == 0)
                _back = drawn;
            else
                _layers[g] = new Layer(drawn, PartOf(list, list.Frames[frame], group));
        }
    }

    private SKRectI PartOf(DrawingList list, DrawItem[] items, DrawGroup group)
    {
        var bounds = SKRect.Empty;
        for (var i = group.First; i < group.First + group.Count; i++)
        {
            var own = _planes.Of(group).BoundsOf(list, items, i);
            if (own.IsEmpty)
                continue;
            if (bounds.IsEmpty)
                bounds = own;
            else
                bounds.Union(own);
        }
        if (bounds.IsEmpty)
            return SKRectI.Empty;
        // Even on all sides: four pixels share one colour.
        int Down(float v, int most) => Math.Clamp((int)Math.Floor(Math.Clamp(v, -1e6f, 1e6f)) - Air, 0, most) & ~1;
        int Up(float v, int most) => Math.Clamp((int)Math.Ceiling(Math.Clamp(v, -1e6f, 1e6f)) + Air + 1, 0, most) & ~1;
        return new SKRectI(Down(bounds.Left, _width), Down(bounds.Top, _height), Up(bounds.Right, _width), Up(bounds.Bottom, _height));
    }

    // Which groups are drawn again, and the parts of the picture in which that happens; the parts lie apart from each other.
    private (bool[] Redrawn, List<SKRectI> Dirty) Changed(DrawingList list, DrawItem[] items, SKRectI[] parts, bool isWhole)
    {
        var redrawn = new bool[parts.Length];
        if (isWhole)
        {
            for (var g = 0; g < parts.Length; g++)
                redrawn[g] = !list.Groups[g].IsStill;
            return (redrawn, [new SKRectI(0, 0, _width, _height)]);
        }
        var dirty = new List<SKRectI>();
        void Add(int g)
        {
            redrawn[g] = true;
            foreach (var part in (ReadOnlySpan<SKRectI>)[parts[g], _parts[g]])
                if (!part.IsEmpty)
                    dirty.Add(part);
        }
        for (var g = 0; g < parts.Length; g++)
            if (!list.Groups[g].IsStill && !AreEqual(items, _before!, list.Groups[g]))
                Add(g);
        bool isStable;
        do
        {
            isStable = true;
            for (var a = 0; a < dirty.Count; a++)
            for (var b = dirty.Count - 1; b > a; b--)
                if (dirty[a].IntersectsWith(dirty[b]))
                {
                    dirty[a] = SKRectI.Union(dirty[a], dirty[b]);
                    dirty.RemoveAt(b);
                    isStable = false;
                }
            // Nothing is drawn in part: whoever is touched is drawn again as well.
            for (var g = 0; g < parts.Length; g++)
                if (!redrawn[g] && !list.Groups[g].IsStill && dirty.Exists(d => d.IntersectsWith(parts[g])))
                {
                    Add(g);
                    isStable = false;
                }
        } while (!isStable);
        return (redrawn, dirty);
    }

    private static bool AreEqual(DrawItem[] a, DrawItem[] b, DrawGroup group)
    {
        for (var i = group.First; i < group.First + group.Count; i++)
            if (!a[i].Equals(b[i]))
                return false;
        return true;
    }

    private void Restore(Span<uint> pixels, SKRectI part)
    {
        for (var y = part.Top; y < part.Bottom; y++)
            _back.AsSpan(y * _width + part.Left, part.Width).CopyTo(pixels[(y * _width + part.Left)..]);
    }

    // Over what is there, by Porter and Duff ("Compositing digital images", 1984), with colours premultiplied.
    private void Lay(Span<uint> pixels, Layer layer, SKRectI part)
    {
        part.Intersect(layer.Part);
        if (part.IsEmpty || !part.IntersectsWith(layer.Part))
            return;
        for (var y = part.Top; y < part.Bottom; y++)
        {
            var from = y * _width + part.Left;
            for (var i = from; i < from + part.Width; i++)
            {
                var over = layer.Pixels[i];
                var alpha = over >> 24;
                if (alpha == 0)
                    continue;
                pixels[i] = alpha == 255 ? over : over + Times(pixels[i], 255 - alpha);
            }
        }
    }

    // All four channels times a / 255, rounded, two at a time.
    private static uint Times(uint pixel, uint a)
    {
        uint odd = (pixel & 0x00FF00FF) * a + 0x00800080,
            even = ((pixel >> 8) & 0x00FF00FF) * a + 0x00800080;
        odd = ((odd + ((odd >> 8) & 0x00FF00FF)) >> 8) & 0x00FF00FF;
        even = (even + ((even >> 8) & 0x00FF00FF)) & 0xFF00FF00;
        return odd | even;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _planes.Dispose();
        _canvas.Dispose();
        _bitmap.Dispose();
    }
}
