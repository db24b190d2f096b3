using System.Globalization;
using Zamblo.Core;

namespace Zamblo.Media;

/// <summary>How the picture of a film is coded: from the drawn frames, each codec by itself, never out of another one.</summary>
public static class FilmCodec
{
    /// <summary>H.264 (ITU-T H.264): what plays everywhere.</summary>
    public const string Usual = "h264";

    /// <summary>VP9, of a WebM.</summary>
    public const string OfWebM = "vp9";

    /// <summary>How the pieces of a film with this ending are coded.</summary>
    /// <param name="ending">With the dot.</param>
    /// <param name="asked">Of an MP4.</param>
    public static string Of(string ending, string asked) => ending.Equals(".webm", StringComparison.OrdinalIgnoreCase) ? OfWebM : asked;

    // Of x264, chosen by what is left of a mouth that speaks (PSNR within it) and by the size of an hour. What stays in the picture for long is coded well and
    // then referred to (mbtree, which looks ahead), but not at the cost of what moves (qcomp); flat colour with lines needs neither extra bits for flat parts
    // (aq) nor made-up texture (psy), and lips are told from teeth by their colour (chroma). Lines move in small pieces (partitions): a twelfth smaller.
    // At 1280x720 the demo, close shots all through, comes to 640 MB an hour with 43.7 dB of luma (measured; 890 MB with 44.6 dB at 20 and without pieces).
    private const string H264 =
        "-c:v libx264 -preset superfast -crf 21.5 -x264-params mbtree=1:rc-lookahead=25:ref=2:qcomp=0.85:aq-strength=0.5:psy=0:chroma-qp-offset=-2"
        + ":partitions=i4x4,i8x8,p8x8,b8x8 -threads 1";

    // One thread each: chunks are coded side by side, and are the same wherever they are made.
    private const string H265 = "-c:v libx265 -preset superfast -crf 21 -tag:v hvc1 -x265-params log-level=error:pools=none:frame-threads=1",
        Av1 = "-c:v libsvtav1 -preset 9 -crf 30 -svtav1-params lp=1",
        Vp9 = "-c:v libvpx-vp9 -crf 24 -b:v 0 -deadline realtime -cpu-used 6 -threads 1";

    /// <summary>Arguments of an encoder that takes planes from its standard input.</summary>
    /// <param name="codec">"h264", "h265", "av1" or "vp9".</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="rate">Of its frames.</param>
    /// <param name="output">An MP4.</param>
    /// <exception cref="MediaException">There is no such codec.</exception>
    internal static string[] Encoder(string codec, FrameSize size, FrameRate rate, string output)
    {
        var how = codec switch
        {
            Usual => H264,
            "h265" => H265,
            "av1" => Av1,
            OfWebM => Vp9,
            _ => throw new MediaException($"There is no codec \"{codec}\"."),
        };
        const string colour = "-colorspace bt709 -color_primaries bt709 -color_trc bt709";
        return
        [
            .. $"-v error -y -f rawvideo -pix_fmt yuv420p -color_range tv {colour} -s {size} -r {rate} -i - -an".Split(' '),
            .. how.Split(' '),
            .. $"{colour} -color_range tv -chroma_sample_location center".Split(' '),
            "-video_track_timescale",
            rate.Numerator.ToString(CultureInfo.InvariantCulture),
            "-f",
            "mp4",
            output,
        ];
    }

    /// <summary>What an encoder complains of: one of them tells how it is set, too, in rows of its own.</summary>
    internal static string Complaints(string errors) =>
        string.Join(
                '\n',
                errors
                    .Split('\n')
                    .Where(row => !row.StartsWith("Svt[info]", StringComparison.Ordinal) && !row.StartsWith("Svt[warn]", StringComparison.Ordinal))
            )
            .Trim();
}
