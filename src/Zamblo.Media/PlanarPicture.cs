using System.Numerics;
using System.Runtime.InteropServices;
using SkiaSharp;

namespace Zamblo.Media;

/// <summary>
/// A picture as encoders take it: one plane of luma and two of chroma at half the size (4:2:0), 8 bits, limited range, with the matrix of ITU-R
/// BT.709-6. Chroma lies in the middle of its four pixels. Only the parts of it that have changed are converted.
/// </summary>
internal sealed class PlanarPicture
{
    private const int Bits = 16,
        Half = 1 << (Bits - 1);

    // BT.709-6, items 3.2 to 3.5: luma from 16 to 235, chroma from 16 to 240.
    private static readonly int YR = Of(0.2126 * 219 / 255),
        YG = Of(0.7152 * 219 / 255),
        YB = Of(0.0722 * 219 / 255);
    private static readonly int UR = Of(-0.2126 * 224 / 255 / 1.8556),
        UG = Of(-0.7152 * 224 / 255 / 1.8556),
        UB = Of(0.5 * 224 / 255);
    private static readonly int VR = Of(0.5 * 224 / 255),
        VG = Of(-0.7152 * 224 / 255 / 1.5748),
        VB = Of(-0.0722 * 224 / 255 / 1.5748);

    private readonly int _width,
        _height;
    private readonly uint[] _paper,
        _none;
    private uint[] _grain;
    private readonly uint[] _red,
        _green,
        _blue;

    /// <param name="width">In pixels, even.</param>
    /// <param name="height">In pixels, even.</param>
    /// <param name="grain">Grey values that are multiplied over the picture, one a pixel.</param>
    public PlanarPicture(int width, int height, uint[] grain)
    {
        (_width, _height, _grain, _paper) = (width, height, grain, grain);
        _none = new uint[grain.Length];
        Array.Fill(_none, 255u);
        Planes = new byte[width * height * 3 / 2];
        // Two rows added up, with room for a whole vector at the end.
        (_red, _green, _blue) = (new uint[width + Vector<uint>.Count], new uint[width + Vector<uint>.Count], new uint[width + Vector<uint>.Count]);
    }

    /// <summary>Paper grain lies over what is converted from now on.</summary>
    public bool HasGrain
    {
        set => _grain = value ? _paper : _none;
    }

    private static int Of(double factor) => (int)Math.Round(factor * (1 << Bits));

    /// <summary>The planes, one after the other: luma, blue difference, red difference.</summary>
    public byte[] Planes { get; }

    /// <summary>Converts a part of a picture.</summary>
    /// <param name="pixels">RGBA, opaque, of the whole picture.</param>
    /// <param name="part">Even on all sides.</param>
    public void Convert(ReadOnlySpan<byte> pixels, SKRectI part)
    {
        var source = MemoryMarshal.Cast<byte, uint>(pixels);
        Span<byte> luma = Planes.AsSpan(0, _width * _height),
            u = Planes.AsSpan(_width * _height, _width * _height / 4),
            v = Planes.AsSpan(_width * _height * 5 / 4);
        for (var y = part.Top; y < part.Bottom; y += 2)
        {
            Row(source, luma, y, part.Left, part.Right, isFirst: true);
            Row(source, luma, y + 1, part.Left, part.Right, isFirst: false);
            var at = y / 2 * (_width / 2);
            for (var x = part.Left; x < part.Right; x += 2)
            {
                int r = (int)(_red[x] + _red[x + 1]),
                    g = (int)(_green[x] + _green[x + 1]),
                    b = (int)(_blue[x] + _blue[x + 1]);
                // Four pixels are in the sum.
                u[at + x / 2] = (byte)((UR * r + UG * g + UB * b + (128 << (Bits + 2)) + 2 * (Half << 1)) >> (Bits + 2));
                v[at + x / 2] = (byte)((VR * r + VG * g + VB * b + (128 << (Bits + 2)) + 2 * (Half << 1)) >> (Bits + 2));
            }
        }
    }

    // One row of luma; its colours are kept, or added to those that are kept.
    private void Row(ReadOnlySpan<uint> source, Span<byte> luma, int y, int from, int to, bool isFirst)
    {
        var row = y * _width;
        var byteMask = new Vector<uint>(255);
        var round = new Vector<uint>(128);
        var (yr, yg, yb) = (new Vector<uint>((uint)YR), new Vector<uint>((uint)YG), new Vector<uint>((uint)YB));
        var offset = new Vector<uint>((16u << Bits) + Half);
        Span<uint> gathered = stackalloc uint[Vector<uint>.Count];
        for (var x = from; x < to; x += Vector<uint>.Count)
        {
            var count = Math.Min(Vector<uint>.Count, to - x);
            var isWhole = row + x + Vector<uint>.Count <= source.Length;
            var pixel = isWhole ? new Vector<uint>(source[(row + x)..]) : Tail(source, row + x);
            var grain = isWhole ? new Vector<uint>(_grain, row + x) : Tail(_grain, row + x);
            Vector<uint> Grained(Vector<uint> channel)
            {
                // a b / 255, rounded; exact for all bytes.
                var product = channel * grain + round;
                return (product + (product >> 8)) >> 8;
            }
            Vector<uint> r = Grained(pixel & byteMask),
                g = Grained((pixel >> 8) & byteMask),
                b = Grained((pixel >> 16) & byteMask);
            ((yr * r + yg * g + yb * b + offset) >> Bits).CopyTo(gathered);
            for (var i = 0; i < count; i++)
                luma[row + x + i] = (byte)gathered[i];
            if (!isFirst)
            {
                r += new Vector<uint>(_red, x);
                g += new Vector<uint>(_green, x);
                b += new Vector<uint>(_blue, x);
            }
            r.CopyTo(_red, x);
            g.CopyTo(_green, x);
            b.CopyTo(_blue, x);
        }
    }

    // The last pixels of the picture, filled up.
    private static Vector<uint> Tail(ReadOnlySpan<uint> source, int at)
    {
        Span<uint> some = stackalloc uint[Vector<uint>.Count];
        some.Clear();
        source[at..].CopyTo(some);
        return new Vector<uint>(some);
    }
}
