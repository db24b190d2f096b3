using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
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
    private readonly byte[] _paper;
    private bool _hasGrain = true;

    /// <param name="width">In pixels, even.</param>
    /// <param name="height">In pixels, even.</param>
    /// <param name="grain">Grey values that are multiplied over the picture, one a pixel.</param>
    public PlanarPicture(int width, int height, byte[] grain)
    {
        (_width, _height, _paper) = (width, height, grain);
        Planes = new byte[width * height * 3 / 2];
    }

    /// <summary>Paper grain lies over what is converted from now on.</summary>
    public bool HasGrain
    {
        set => _hasGrain = value;
    }

    private static int Of(double factor) => (int)Math.Round(factor * (1 << Bits));

    /// <summary>The planes, one after the other: luma, blue difference, red difference.</summary>
    public byte[] Planes { get; }

    // So many pixels of a row at once.
    private const int Block = 32;

    /// <summary>Converts a part of a picture.</summary>
    /// <param name="pixels">Blue, green, red, alpha; opaque, of the whole picture.</param>
    /// <param name="part">Even on all sides.</param>
    public void Convert(ReadOnlySpan<byte> pixels, SKRectI part)
    {
        if (pixels.Length < 4 * _width * _height || part.Left < 0 || part.Top < 0 || part.Right > _width || part.Bottom > _height)
            throw new ArgumentException("The part lies beyond the picture.", nameof(part));
        for (var y = part.Top; y < part.Bottom; y += 2)
        {
            var x = part.Left;
            for (; x + Block <= part.Right; x += Block)
                Blocks(pixels, x, y);
            for (; x < part.Right; x += 2)
                Quad(pixels, x, y);
        }
    }

    // Two rows of a block: their luma, and half a row of chroma.
    private void Blocks(ReadOnlySpan<byte> pixels, int x, int y)
    {
        Span<Vector256<uint>> luma = stackalloc Vector256<uint>[8];
        Span<Vector256<ulong>> u = stackalloc Vector256<ulong>[4];
        Span<Vector256<ulong>> v = stackalloc Vector256<ulong>[4];
        ref var source = ref MemoryMarshal.GetReference(pixels);
        ref var grain = ref MemoryMarshal.GetArrayDataReference(_paper);
        for (var k = 0; k < 4; k++)
        {
            nuint at = (nuint)(y * _width + x + 8 * k),
                below = at + (nuint)_width;
            var (first, second) = (Grained(ref source, ref grain, at), Grained(ref source, ref grain, below));
            var mask = Vector256.Create(255u);
            Vector256<uint> b0 = first & mask,
                g0 = (first >>> 8) & mask,
                r0 = (first >>> 16) & mask,
                b1 = second & mask,
                g1 = (second >>> 8) & mask,
                r1 = (second >>> 16) & mask;
            (luma[k], luma[4 + k]) = (Luma(r0, g0, b0), Luma(r1, g1, b1));
            Vector256<int> r = Pairs(r0 + r1),
                g = Pairs(g0 + g1),
                b = Pairs(b0 + b1);
            (u[k], v[k]) = (Chroma(UR * r + UG * g + UB * b), Chroma(VR * r + VG * g + VB * b));
        }
        ref var planes = ref MemoryMarshal.GetArrayDataReference(Planes);
        var row = (nuint)(y * _width + x);
        Bytes(luma[0], luma[1], luma[2], luma[3]).StoreUnsafe(ref planes, row);
        Bytes(luma[4], luma[5], luma[6], luma[7]).StoreUnsafe(ref planes, row + (nuint)_width);
        var chroma = (nuint)(_width * _height + y / 2 * (_width / 2) + x / 2);
        Bytes(u).StoreUnsafe(ref planes, chroma);
        Bytes(v).StoreUnsafe(ref planes, chroma + (nuint)(_width * _height / 4));
    }

    // Eight pixels, with the paper's grain multiplied over them: a b / 255 of each byte, rounded; exact for all bytes.
    private Vector256<uint> Grained(ref byte source, ref byte grain, nuint at)
    {
        var pixel = Vector256.LoadUnsafe(ref source, 4 * at);
        if (!_hasGrain)
            return pixel.AsUInt32();
        var grey = Vector256.WidenLower(
            Vector256.WidenLower(Vector128.CreateScalar(Unsafe.ReadUnaligned<ulong>(ref Unsafe.Add(ref grain, at))).AsByte().ToVector256())
        );
        grey |= grey << 8;
        grey |= grey << 16;
        Vector256<ushort> low = Divided(Vector256.WidenLower(pixel) * Vector256.WidenLower(grey.AsByte())),
            high = Divided(Vector256.WidenUpper(pixel) * Vector256.WidenUpper(grey.AsByte()));
        return Vector256.Narrow(low, high).AsUInt32();
    }

    private static Vector256<ushort> Divided(Vector256<ushort> product)
    {
        product += Vector256.Create((ushort)128);
        return (product + (product >>> 8)) >>> 8;
    }

    private static Vector256<uint> Luma(Vector256<uint> r, Vector256<uint> g, Vector256<uint> b) =>
        ((uint)YR * r + (uint)YG * g + (uint)YB * b + Vector256.Create((16u << Bits) + Half)) >>> Bits;

    // Neighbours added up, in the even lanes; nothing in the odd ones.
    private static Vector256<int> Pairs(Vector256<uint> sums) => ((sums.AsUInt64() & Vector256.Create(0xFFFFFFFFul)) + (sums.AsUInt64() >>> 32)).AsInt32();

    // Four pixels are in the sum.
    private static Vector256<ulong> Chroma(Vector256<int> sum) =>
        ((sum + Vector256.Create((128 << (Bits + 2)) + 2 * (Half << 1))) >> (Bits + 2)).AsUInt64() & Vector256.Create(0xFFFFFFFFul);

    private static Vector256<byte> Bytes(Vector256<uint> a, Vector256<uint> b, Vector256<uint> c, Vector256<uint> d) =>
        Vector256.Narrow(Vector256.Narrow(a, b), Vector256.Narrow(c, d));

    private static Vector128<byte> Bytes(ReadOnlySpan<Vector256<ulong>> four)
    {
        var shorts = Vector256.Narrow(Vector256.Narrow(four[0], four[1]), Vector256.Narrow(four[2], four[3]));
        return Vector128.Narrow(shorts.GetLower(), shorts.GetUpper());
    }

    // Four pixels that share a colour.
    private void Quad(ReadOnlySpan<byte> pixels, int x, int y)
    {
        int r = 0,
            g = 0,
            b = 0;
        foreach (var at in (ReadOnlySpan<int>)[y * _width + x, y * _width + x + 1, (y + 1) * _width + x, (y + 1) * _width + x + 1])
        {
            var grain = _hasGrain ? _paper[at] : 255;
            int Grained(byte channel)
            {
                var product = channel * grain + 128;
                return (product + (product >> 8)) >> 8;
            }
            int own = Grained(pixels[4 * at + 2]),
                green = Grained(pixels[4 * at + 1]),
                blue = Grained(pixels[4 * at]);
            Planes[at] = (byte)((YR * own + YG * green + YB * blue + (16 << Bits) + Half) >> Bits);
            (r, g, b) = (r + own, g + green, b + blue);
        }
        var chroma = _width * _height + y / 2 * (_width / 2) + x / 2;
        Planes[chroma] = (byte)((UR * r + UG * g + UB * b + (128 << (Bits + 2)) + 2 * (Half << 1)) >> (Bits + 2));
        Planes[chroma + _width * _height / 4] = (byte)((VR * r + VG * g + VB * b + (128 << (Bits + 2)) + 2 * (Half << 1)) >> (Bits + 2));
    }
}
