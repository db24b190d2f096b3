using Zamblo.Core.Interchange;

namespace Zamblo.Media;

/// <summary>A way in which a film leaves the house.</summary>
/// <param name="Key">Name in requests.</param>
/// <param name="Title">What people read.</param>
/// <param name="Purpose">What it is for, in some words.</param>
/// <param name="Ending">Of the file, with the dot; a folder of pictures is handed on as ".zip".</param>
/// <param name="Codec">Of the picture in an MP4: "h264", "h265" or "av1".</param>
/// <param name="ContentType">As the web names it.</param>
public sealed record FilmForm(string Key, string Title, string Purpose, string Ending, string Codec, string ContentType)
{
    /// <summary>Of morph targets.</summary>
    public FaceNames Names { get; init; }

    /// <summary>Whether a browser plays it.</summary>
    public bool IsWatched =>
        ContentType.StartsWith("video/", StringComparison.Ordinal) && Ending != ".mov" || ContentType.StartsWith("image/", StringComparison.Ordinal);

    /// <summary>Whether it has sound, whose loudness can be asked for.</summary>
    public bool HasSound => Ending is ".mp4" or ".webm" or ".mov" or ".wav" or ".flac" or ".mp3";

    /// <summary>Whether captions can go along in it as a track.</summary>
    public bool HasTrack => Ending is ".mp4" or ".webm";

    /// <summary>Whether it is made of whole scenes only.</summary>
    public bool IsWhole => FilmOutputs.IsWhole(Ending);

    /// <summary>Of a film as it is made where nothing is said.</summary>
    public static FilmForm Usual => All[0];

    /// <summary>All of them.</summary>
    public static IReadOnlyList<FilmForm> All { get; } =
    [
        new("mp4", "MP4, H.264", "plays everywhere", ".mp4", "h264", "video/mp4"),
        new("mp4-h265", "MP4, H.265", "smaller, for newer players", ".mp4", "h265", "video/mp4"),
        new("mp4-av1", "MP4, AV1", "smallest, slow to make", ".mp4", "av1", "video/mp4"),
        new("webm", "WebM, VP9", "for pages; sees through where there is no set", ".webm", "h264", "video/webm"),
        new("mov", "MOV, ProRes", "for editors; sees through where there is no set", ".mov", "h264", "video/quicktime"),
        new("gif", "GIF", "a silent loop, 640 wide", ".gif", "h264", "image/gif"),
        new("webp", "Animated WebP", "a silent loop, smaller than a GIF", ".webp", "h264", "image/webp"),
        new("png", "PNG pictures", "every frame, in a ZIP", ".png", "h264", "application/zip"),
        new("wav", "WAV", "the sound alone", ".wav", "h264", "audio/wav"),
        new("flac", "FLAC", "the sound alone, half the size", ".flac", "h264", "audio/flac"),
        new("mp3", "MP3", "the sound alone, small", ".mp3", "h264", "audio/mpeg"),
        new("stems", "Stems, WAV", "every voice, music and effects by themselves, in a ZIP", ".zip", "h264", "application/zip"),
        new("ass", "Captions, ASS", "every word lit as it is said", ".ass", "h264", "text/plain"),
        new("otio", "OpenTimelineIO", "a timeline for an editor", ".otio", "h264", "application/json"),
        new("csv", "Motion, CSV", "every channel of every frame", ".csv", "h264", "text/csv"),
        new("json", "Motion, JSON", "every channel of every frame", ".json", "h264", "application/json"),
        new("glb", "glTF", "the motion as morph targets", ".glb", "h264", "model/gltf-binary"),
        new("glb-vrm", "glTF, VRM names", "the motion for an avatar", ".glb", "h264", "model/gltf-binary") { Names = FaceNames.Vrm },
        new("glb-mpeg4", "glTF, MPEG-4 names", "facial animation parameters", ".glb", "h264", "model/gltf-binary") { Names = FaceNames.Mpeg4 },
    ];

    /// <summary>By its key; null for one that is not known.</summary>
    public static FilmForm? Find(string? key) => key == null ? Usual : All.FirstOrDefault(f => f.Key == key);
}

/// <summary>How a film is finished.</summary>
/// <param name="Codec">Of the picture in an MP4: "h264", "h265" or "av1".</param>
/// <param name="Loudness">Integrated loudness that the sound is brought to, in LUFS (EBU R 128: -23; on the web -16 and -14: common practice); null
/// leaves it.</param>
/// <param name="HasCaptionTrack">What is said goes along as a track of text that players switch on, in MP4 and WebM.</param>
/// <param name="Title">Written into the file.</param>
/// <param name="Names">Of morph targets.</param>
public sealed record FilmFinish(
    string Codec = "h264",
    double? Loudness = null,
    bool HasCaptionTrack = false,
    string? Title = null,
    FaceNames Names = FaceNames.Zamblo
)
{
    /// <summary>Loudest and softest that can be asked for, in LUFS.</summary>
    public const double Loudest = -8,
        Softest = -40;

    /// <summary>Codecs of an MP4.</summary>
    public static IReadOnlyList<string> Codecs { get; } = ["h264", "h265", "av1"];
}
