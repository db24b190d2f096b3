using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

/// <summary>
/// The grain of the paper that everything seems printed on: a grey tile that is multiplied over the whole picture, in stage units,
/// in the browser and in film alike.
/// </summary>
public static class PaperGrain
{
    /// <summary>Width and height of the tile in pixels; it covers as many stage units.</summary>
    public const int Size = 256;

    /// <summary>Grey values, row by row: soft mottling and fine specks (chosen by eye: just visible on flat colour).</summary>
    public static byte[] Tile()
    {
        var random = new SeededRandom(20);
        var coarse = Layer(random.Fork(1), 32);
        var middle = Layer(random.Fork(2), 8);
        var fine = random.Fork(3);
        var tile = new byte[Size * Size];
        for (var i = 0; i < tile.Length; i++)
        {
            var speck = fine.Uniform(i);
            var value = 247 + 5 * (coarse[i] - 0.5) + 7 * (middle[i] - 0.5) + 9 * (speck - 0.5) - (speck > 0.997 ? 9 : 0);
            tile[i] = (byte)Math.Clamp(value, 0, 255);
        }
        return tile;
    }

    // Value noise on a grid of the given spacing that wraps round at the edges.
    private static double[] Layer(SeededRandom random, int spacing)
    {
        var cells = Size / spacing;
        var result = new double[Size * Size];
        double Corner(int x, int y) => random.Uniform(x % cells + y % cells * cells);
        for (var y = 0; y < Size; y++)
        for (var x = 0; x < Size; x++)
        {
            int cx = x / spacing,
                cy = y / spacing;
            double fx = (double)(x % spacing) / spacing,
                fy = (double)(y % spacing) / spacing;
            fx = fx * fx * (3 - 2 * fx);
            fy = fy * fy * (3 - 2 * fy);
            var top = Corner(cx, cy) + (Corner(cx + 1, cy) - Corner(cx, cy)) * fx;
            var bottom = Corner(cx, cy + 1) + (Corner(cx + 1, cy + 1) - Corner(cx, cy + 1)) * fx;
            result[y * Size + x] = top + (bottom - top) * fy;
        }
        return result;
    }
}
