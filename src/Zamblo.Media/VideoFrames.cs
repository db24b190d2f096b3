using System.Globalization;
using Zamblo.Core;

namespace Zamblo.Media;

/// <summary>Takes a clip apart into pictures.</summary>
public static class VideoFrames
{
    // Containers in which clips come (MP4, MOV, WebM, Matroska, AVI, MPEG, animated GIF and WebP are read by ffmpeg under these names).
    private const string Formats = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpeg,mpegts,gif,ogg,flv";

    /// <summary>Endings of files that are taken for clips.</summary>
    public static IReadOnlySet<string> Endings { get; } = new HashSet<string> { ".mp4", ".m4v", ".mov", ".webm", ".mkv", ".avi", ".mpg", ".gif" };

    private static readonly string[] Guarded = ["-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", Formats];

    /// <summary>Path of a frame.</summary>
    public static string PathOf(string folder, int frame) => Path.Combine(folder, (frame + 1).ToString("D6", CultureInfo.InvariantCulture) + ".jpg");

    /// <summary>Takes a clip apart; upright, at an even rate, whatever its own is.</summary>
    /// <param name="path">Of the clip.</param>
    /// <param name="name">For messages.</param>
    /// <param name="rate">Of the frames.</param>
    /// <param name="seconds">From its start, so much of it.</param>
    /// <param name="longest">Side of the frames, in pixels: larger ones are made smaller.</param>
    /// <param name="folder">For the frames; what is left there of others goes.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>How many frames there are.</returns>
    /// <exception cref="MediaException">It is no clip, or broken.</exception>
    public static async Task<int> TakeApartAsync(string path, string name, FrameRate rate, double seconds, int longest, string folder, CancellationToken cancel)
    {
        foreach (var other in Directory.EnumerateFiles(folder, "*.jpg"))
            File.Delete(other);
        var size = $"scale='min({longest},iw)':'min({longest},ih)':force_original_aspect_ratio=decrease:force_divisible_by=2";
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            [
                .. Guarded,
                "-nostdin",
                "-y",
                "-i",
                path,
                "-map",
                "0:v:0",
                "-an",
                "-t",
                seconds.ToString("0.###", CultureInfo.InvariantCulture),
                "-vf",
                $"fps={rate.Numerator}/{rate.Denominator},{size},{(await IsBrightAsync(path, cancel) ? ToUsual : "")}format=yuvj444p",
                "-q:v",
                "2",
                Path.Combine(folder, "%06d.jpg"),
            ],
            limit: TimeSpan.FromMinutes(20),
            cancel: cancel,
            files: new SandboxFiles([path], [folder])
        );
        var count = 0;
        while (File.Exists(PathOf(folder, count)))
            count++;
        if (count == 0)
            throw new MediaException(
                result.Error.Contains("Stream map", StringComparison.Ordinal)
                    ? $"\"{name}\" has no picture: a plate is a clip (MP4, MOV, WebM)."
                    : $"\"{name}\" is no clip that can be read: bring an MP4, MOV or WebM."
            );
        return count;
    }

    // From a high dynamic range to the usual one: what is no brighter than white (203 cd/m², ITU-R BT.2408) keeps its colour, the rest is bent under it.
    private const string ToUsual = "zscale=t=linear:npl=203,format=gbrpf32le,zscale=p=bt709,tonemap=mobius:param=0.7:desat=0,zscale=t=bt709:m=bt709:r=pc,";

    // Perceptual quantization and hybrid log-gamma (ITU-R BT.2100), under ffmpeg's names.
    private static async Task<bool> IsBrightAsync(string path, CancellationToken cancel)
    {
        var result = await OutsideProgram.RunAsync(
            "ffprobe",
            [.. Guarded, "-select_streams", "v:0", "-show_entries", "stream=color_transfer", "-of", "csv=p=0", path],
            limit: TimeSpan.FromSeconds(30),
            maximalOutput: 1 << 12,
            cancel: cancel,
            files: SandboxFiles.Reading(path)
        );
        var transfer = System.Text.Encoding.UTF8.GetString(result.Output);
        return transfer.Contains("smpte2084", StringComparison.Ordinal) || transfer.Contains("arib-std-b67", StringComparison.Ordinal);
    }

    /// <summary>Whether a file is a piece of a film of ours.</summary>
    /// <param name="path">Of the file.</param>
    /// <param name="size">That its picture must have.</param>
    /// <param name="frames">That it must have.</param>
    /// <param name="cancel">Stops the program.</param>
    public static async Task<bool> IsAsync(string path, FrameSize size, int frames, CancellationToken cancel)
    {
        var result = await OutsideProgram.RunAsync(
            "ffprobe",
            [.. Guarded, "-count_packets", "-show_entries", "stream=codec_name,width,height,pix_fmt,nb_read_packets", "-of", "csv=p=0", path],
            limit: TimeSpan.FromSeconds(30),
            maximalOutput: 1 << 16,
            cancel: cancel,
            files: SandboxFiles.Reading(path)
        );
        return result.ExitCode == 0
            && System.Text.Encoding.UTF8.GetString(result.Output).Trim()
                == string.Create(CultureInfo.InvariantCulture, $"h264,{size.Width},{size.Height},yuv420p,{frames}");
    }
}
