namespace Zamblo.Core;

/// <summary>
/// Frames per second as an exact fraction, so that 23.976 (24000/1001) and 29.97 (30000/1001) stay exact over an hour.
/// A frame number and a time in seconds never mix: this type is the only bridge between them.
/// </summary>
/// <param name="Numerator">Frames; positive.</param>
/// <param name="Denominator">Seconds; positive.</param>
public readonly record struct FrameRate(int Numerator, int Denominator = 1)
{
    /// <summary>Frames per second as a floating-point number.</summary>
    public double FramesPerSecond => (double)Numerator / Denominator;

    /// <summary>Length of one frame in seconds.</summary>
    public double FrameSeconds => (double)Denominator / Numerator;

    /// <summary>Start of a frame in seconds.</summary>
    public double TimeOf(int frame) => (double)frame * Denominator / Numerator;

    /// <summary>The frame that is on screen at a time: frame n covers [n/fps, (n+1)/fps).</summary>
    public int FrameAt(double seconds) => (int)Math.Floor(seconds * Numerator / Denominator + 1e-9);

    /// <summary>The least number of frames that covers a duration.</summary>
    public int FramesFor(double seconds) => (int)Math.Ceiling(seconds * Numerator / Denominator - 1e-9);

    /// <summary>Reads "25", "23.976", "29.97" or "30000/1001".</summary>
    /// <exception cref="FormatException">The text is not a rate between 1 and 120.</exception>
    public static FrameRate Parse(string text)
    {
        var parts = text.Split('/');
        FrameRate rate;
        if (parts.Length == 2 && int.TryParse(parts[0], out var n) && int.TryParse(parts[1], out var d) && n > 0 && d > 0)
            rate = new FrameRate(n, d);
        else if (parts.Length == 1 && double.TryParse(text, System.Globalization.CultureInfo.InvariantCulture, out var fps) && fps > 0)
        {
            // The NTSC rates are written rounded in practice; SMPTE defines them as multiples of 1000/1001.
            var ntsc = Math.Round(fps * 1.001);
            rate =
                Math.Abs(fps - Math.Round(fps)) < 1e-6 ? new FrameRate((int)Math.Round(fps))
                : Math.Abs(ntsc * 1000 / 1001 - fps) < 0.01 ? new FrameRate((int)ntsc * 1000, 1001)
                : new FrameRate((int)Math.Round(fps * 1000), 1000);
        }
        else
            throw new FormatException($"\"{text}\" is not a frame rate; write for example 25 or 30000/1001.");
        if (rate.FramesPerSecond is < 1 or > 120)
            throw new FormatException($"A frame rate of {text} is outside 1 to 120 frames a second.");
        return rate;
    }

    /// <summary>Reads a rate; false where it is none.</summary>
    public static bool TryParse(string text, out FrameRate rate)
    {
        try
        {
            rate = Parse(text);
            return true;
        }
        catch (FormatException)
        {
            rate = default;
            return false;
        }
    }

    /// <summary>The rate as people write it: "25" or "30000/1001".</summary>
    public override string ToString() => Denominator == 1 ? $"{Numerator}" : $"{Numerator}/{Denominator}";
}
