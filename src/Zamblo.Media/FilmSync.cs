using System.Globalization;
using SkiaSharp;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>
/// How far sound and picture of a finished film are apart: some seconds of it are decoded again, the sound is laid over the sound that was meant and the
/// pictures over those that were meant, where they fit best.
/// </summary>
public static class FilmSync
{
    /// <summary>Sound that comes so much too early (less than 0) or too late is noticed, in seconds (ITU-R BT.1359-1, detectability; from memory).</summary>
    public const double Earliest = -0.045,
        Latest = 0.125;

    // So much of a film is looked at, in seconds, from the first word on; at most so far apart is searched.
    private const double Window = 4,
        Reach = 0.5;
    private const int Rate = 8000,
        Across = 160;

    /// <summary>Measures it.</summary>
    /// <param name="parts">Scenes of the film as it was meant.</param>
    /// <param name="film">The film.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>Seconds by which the sound comes later than the picture; null where nobody speaks or nothing moves, or where it cannot be decoded.</returns>
    public static async Task<double?> MeasureAsync(IReadOnlyList<FilmPart> parts, string film, CancellationToken cancel)
    {
        var from = 0.0;
        foreach (var part in parts)
        {
            var begins = part.Scene.Rate.TimeOf(part.First);
            var said = part.Scene.Cast.SelectMany(m => m.Lines).Where(l => l.Start >= begins && l.Start < begins + part.Seconds - 1).ToArray();
            if (said.Length > 0)
            {
                // The frame in which somebody begins.
                var start = part.Scene.Rate.TimeOf(part.Scene.Rate.FrameAt(said.Min(l => l.Start)));
                return await MeasureAsync(part, start, from + start - begins, film, cancel);
            }
            from += part.Seconds;
        }
        return null;
    }

    private static async Task<double?> MeasureAsync(FilmPart part, double start, double at, string film, CancellationToken cancel)
    {
        var rate = part.Scene.Rate;
        var first = rate.FrameAt(start);
        var frames = (int)Math.Min(Window * rate.FramesPerSecond, part.First + part.Frames - first);
        if (frames < 10)
            return null;
        var seconds = rate.TimeOf(frames);
        // A little more on each side: what is too early or too late is there.
        var lead = (int)(Math.Min(at, Reach) * rate.FramesPerSecond + 1e-6);
        var open = lead / rate.FramesPerSecond;
        var height = Math.Max(2, (int)Math.Round(Across * (double)SizeOf(part).Height / SizeOf(part).Width));
        // What was meant is made while the film is read.
        var (heard, drawn) = (SamplesAsync(film, at - open, seconds + open + Reach, cancel), Task.Run(() => Drawn(part, first, frames, height), cancel));
        var shown = PicturesAsync(film, at - open - 0.5 / rate.FramesPerSecond, seconds + open + Reach, height, rate.ToString(), cancel);
        var meant = await SoundAsync(part, start, seconds, cancel);
        await Task.WhenAll(heard, drawn, shown);
        return meant != null && Lag(meant, await heard, open) is { } sound && Lag(await drawn, await shown, lead) is { } picture
            ? sound - picture / rate.FramesPerSecond
            : null;
    }

    private static FrameSize SizeOf(FilmPart part) =>
        part.Reviewed is { } reviewed ? new FrameSize(reviewed.Scene.Document.Width, reviewed.Scene.Document.Height) : new FrameSize(1280, 720);

    private static async Task<float[]?> SoundAsync(FilmPart part, double start, double seconds, CancellationToken cancel)
    {
        var said = part.Stretch is { } stretch ? await stretch(start, start + seconds, cancel) : (await part.HeardAsync(cancel)).Slice(start, start + seconds);
        var mix = await AudioFiles.ResampleAsync(said, Rate, cancel);
        return mix.Samples.Any(s => Math.Abs(s) > 0.01f) ? mix.Samples : null;
    }

    private static async Task<float[]> SamplesAsync(string film, double from, double seconds, CancellationToken cancel)
    {
        // What begins late has silence before it.
        string[] how =
        [
            "-vn",
            "-af",
            $"aresample={Rate}:async=1:min_hard_comp=0.01:first_pts=0,atrim={Stretch(from, seconds)},asetpts=PTS-STARTPTS",
            "-ac",
            "1",
            "-f",
            "f32le",
        ];
        var raw = await DecodeAsync(film, how, cancel);
        var samples = new float[raw.Length / 4];
        Buffer.BlockCopy(raw, 0, samples, 0, samples.Length * 4);
        return samples;
    }

    private static async Task<byte[][]> PicturesAsync(string film, double from, double seconds, int height, string rate, CancellationToken cancel)
    {
        var filter = $"fps={rate}:start_time=0,trim={Stretch(from, seconds)},setpts=PTS-STARTPTS,scale={Across}:{height}:flags=area,format=gray";
        return [.. (await DecodeAsync(film, ["-an", "-vf", filter, "-f", "rawvideo"], cancel)).Chunk(Across * height).Where(f => f.Length == Across * height)];
    }

    // Cut after decoding, to the sample and to the frame, by the times in the file.
    private static string Stretch(double from, double seconds) =>
        string.Create(CultureInfo.InvariantCulture, $"start={Math.Max(0, from):0.######}:duration={seconds:0.######}");

    private static async Task<byte[]> DecodeAsync(string film, string[] how, CancellationToken cancel)
    {
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            ["-v", "error", "-nostdin", "-i", film, .. how, "-"],
            cancel: cancel,
            limit: TimeSpan.FromMinutes(5),
            files: new SandboxFiles([Path.GetFullPath(film)], [])
        );
        return result.ExitCode == 0 ? result.Output : [];
    }

    private static byte[][] Drawn(FilmPart part, int first, int frames, int height)
    {
        var list = part.Scene.Draw(first, frames);
        using var rasteriser = Rasteriser.ForStage(Across * 2, height * 2);
        var pictures = new byte[frames][];
        for (var f = 0; f < frames; f++)
        {
            var pixels = rasteriser.Draw(list, f).GetPixelSpan();
            var gray = pictures[f] = new byte[Across * height];
            for (var y = 0; y < height; y++)
            for (var x = 0; x < Across; x++)
            {
                var i = 4 * (2 * y * Across * 2 + 2 * x);
                gray[y * Across + x] = (byte)((pixels[i] + 2 * pixels[i + 1] + pixels[i + 2]) / 4);
            }
        }
        return pictures;
    }

    // Where the correlation is greatest, in seconds behind "open".
    private static double? Lag(float[] meant, float[] found, double open)
    {
        int middle = (int)Math.Round(open * Rate),
            reach = (int)(Reach * Rate);
        var (best, most) = (0, 0.0);
        for (var shift = -Math.Min(middle, reach); shift <= reach; shift++)
        {
            var at = middle + shift;
            var count = Math.Min(meant.Length, found.Length - at);
            if (count < meant.Length / 2)
                break;
            double sum = 0;
            for (var i = 0; i < count; i++)
                sum += meant[i] * found[at + i];
            if (sum > most)
                (best, most) = (shift, sum);
        }
        return most > 0 ? best / (double)Rate : null;
    }

    // Where the pictures' changes are most alike: what stands still is everywhere the same.
    private static int? Lag(byte[][] drawn, byte[][] shown, int open)
    {
        var (best, least, worst) = (0, double.MaxValue, 0.0);
        for (var shift = -open; shift <= open + 25; shift++)
        {
            var at = open + shift;
            var count = Math.Min(drawn.Length, shown.Length - at);
            if (count < drawn.Length / 2)
                break;
            double sum = 0;
            for (var f = 1; f < count; f++)
            for (var i = 0; i < drawn[f].Length; i++)
                sum += Math.Abs(drawn[f][i] - drawn[f - 1][i] - (shown[at + f][i] - shown[at + f - 1][i]));
            sum /= count;
            worst = Math.Max(worst, sum);
            if (sum < least)
                (best, least) = (shift, sum);
        }
        return worst > 1.02 * least ? best : null;
    }
}
