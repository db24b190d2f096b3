using System.Globalization;

namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>From roles to colours: darker and lighter ones are mixed in linear light, so that they keep their hue.</summary>
internal sealed class InkAndColour(WardrobePalette palette)
{
    private const string Ink = "#1E2430";

    /// <summary>The colour of a role; what begins with # is one already.</summary>
    public string Of(string role) =>
        role switch
        {
            _ when role[0] == '#' => role,
            "ink" => Ink,
            "white" => "#FFFDF6",
            "skin" => palette.Skin,
            "shade" => Mix(palette.Skin, "#7A3B2E", 0.24),
            "light" => Mix(palette.Skin, "#FFF6E6", 0.62),
            "blush" => Mix(palette.Skin, "#D9523C", 0.4),
            "lip" => palette.Lip ?? Mix(palette.Skin, "#A83A3A", 0.5),
            "hair" => palette.Hair,
            "hairdark" => Mix(palette.Hair, "#0E1018", 0.4),
            "hairlight" => Mix(palette.Hair, "#FFFFFF", 0.28),
            "c1" => palette.Cloth1,
            "c1dark" => Mix(palette.Cloth1, "#12161F", 0.32),
            "c2" => palette.Cloth2,
            "c2dark" => Mix(palette.Cloth2, "#12161F", 0.32),
            "c3" => palette.Cloth3,
            "c3dark" => Mix(palette.Cloth3, "#12161F", 0.32),
            "metal" => palette.Metal,
            _ => throw new ArtException($"The Wardrobe knows no colour \"{role}\"."),
        };

    /// <summary>The same colour with its hue turned; a grey one gets a colour.</summary>
    /// <param name="color">As #rrggbb.</param>
    /// <param name="degrees">By which the hue turns.</param>
    public static string Turned(string color, double degrees)
    {
        double Byte(int i) => byte.Parse(color.AsSpan(1 + 2 * i, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255.0;
        var (r, g, b) = (Byte(0), Byte(1), Byte(2));
        double max = Math.Max(r, Math.Max(g, b)),
            min = Math.Min(r, Math.Min(g, b)),
            span = max - min;
        var hue =
            span == 0 ? 0
            : max == r ? 60 * ((g - b) / span)
            : max == g ? 60 * ((b - r) / span + 2)
            : 60 * ((r - g) / span + 4);
        // In hue, saturation and value (Smith 1978).
        var saturation = Math.Max(0.28, max == 0 ? 0 : span / max);
        var value = Math.Clamp(max, 0.3, 0.92);
        double Channel(double n)
        {
            var k = ((n + (hue + degrees) / 60) % 6 + 6) % 6;
            return value - value * saturation * Math.Max(0, Math.Min(Math.Min(k, 4 - k), 1));
        }
        return "#" + Convert.ToHexString([(byte)Math.Round(255 * Channel(5)), (byte)Math.Round(255 * Channel(3)), (byte)Math.Round(255 * Channel(1))]);
    }

    /// <summary>So much of the second in the first, in linear light (IEC 61966-2-1, with the power 2.2 for its curve).</summary>
    public static string Mix(string first, string second, double share)
    {
        Span<byte> mixed = stackalloc byte[3];
        for (var i = 0; i < 3; i++)
        {
            double Linear(string c) => Math.Pow(byte.Parse(c.AsSpan(1 + 2 * i, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255.0, 2.2);
            mixed[i] = (byte)Math.Round(255 * Math.Pow(Linear(first) * (1 - share) + Linear(second) * share, 1 / 2.2));
        }
        return "#" + Convert.ToHexString(mixed);
    }
}
