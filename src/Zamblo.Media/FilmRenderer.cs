using System.Globalization;
using System.Text;
using SkiaSharp;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Review;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Size of a film's picture.</summary>
/// <param name="Width">In pixels, even, 16 to 4096.</param>
/// <param name="Height">In pixels, even, 16 to 4096.</param>
public readonly record struct FrameSize(int Width, int Height)
{
    /// <summary>Reads "1280x720".</summary>
    /// <exception cref="FormatException">Not a size, or odd, or out of range.</exception>
    public static FrameSize Parse(string text)
    {
        var parts = text.Split('x', 'X', '×');
        if (parts.Length != 2 || !int.TryParse(parts[0], out var w) || !int.TryParse(parts[1], out var h))
            throw new FormatException($"\"{text}\" is not a picture size; write for example 1280x720.");
        if (w % 2 != 0 || h % 2 != 0 || w is < 16 or > 4096 || h is < 16 or > 4096)
            throw new FormatException($"A picture of {w}x{h} cannot be encoded: both numbers must be even and from 16 to 4096.");
        return new FrameSize(w, h);
    }

    /// <summary>Of a film as large as a clip, both numbers even and within bounds.</summary>
    /// <param name="width">Of the clip.</param>
    /// <param name="height">Of the clip.</param>
    public static FrameSize Of(int width, int height)
    {
        static int Even(int pixels) => Math.Clamp(pixels & ~1, 16, 4096);
        return new FrameSize(Even(width), Even(height));
    }

    private const int Usual = 1280;

    /// <summary>Of a film in the shape of a picture: its longer side as long as a usual film's, both even.</summary>
    /// <param name="width">Of the picture.</param>
    /// <param name="height">Of the picture.</param>
    public static FrameSize Like(int width, int height)
    {
        var scale = (double)Usual / Math.Max(width, height);
        int Even(int pixels) => Math.Max(16, (int)Math.Round(pixels * scale / 2) * 2);
        return new FrameSize(Even(width), Even(height));
    }

    /// <inheritdoc/>
    public override string ToString() => $"{Width}x{Height}";
}

/// <summary>A part of what is heard.</summary>
/// <param name="Name">Whose, or what.</param>
/// <param name="Sound">At 48 kHz, from the beginning of the scene, made when it is needed.</param>
public sealed record Stem(string Name, Func<CancellationToken, Task<AudioBuffer>> Sound);

/// <summary>A scene of a film.</summary>
/// <param name="Scene">What is seen.</param>
/// <param name="Sound">What is heard, at 48 kHz, made when it is needed; cut or filled up to the length of the picture.</param>
public sealed record FilmPart(StageScene Scene, Func<CancellationToken, Task<AudioBuffer>> Sound)
{
    /// <summary>A scene with its words: for captions, an editor, the review. Null where only picture and sound are wanted.</summary>
    public ReviewedScene? Reviewed { get; init; }

    /// <summary>The first frame that is in the film.</summary>
    public int First { get; private init; }

    /// <summary>
    /// What is heard, taken apart: every voice, music, room tone and effects by themselves; added up they are <see cref="Sound"/> before its peaks are held.
    /// </summary>
    public IReadOnlyList<Stem> Stems { get; init; } = [];

    /// <summary>How many frames of the scene are in the film.</summary>
    public int Frames { get; private init; } = Scene.FrameCount;

    /// <summary>How long that is.</summary>
    public double Seconds => Scene.Rate.TimeOf(Frames);

    /// <summary>How its members move.</summary>
    internal MotionScene Motion => new(Scene, Names, First, Frames);

    /// <summary>What the scene is called, for a film's chapters.</summary>
    public string Title { get; init; } = "";

    /// <summary>Whether it is less than the scene.</summary>
    public bool IsCut => Frames < Scene.FrameCount;

    /// <summary>A stretch of it, a frame at least.</summary>
    /// <param name="from">In seconds of the scene.</param>
    /// <param name="to">In seconds of the scene; null for its end.</param>
    public FilmPart Between(double from, double? to)
    {
        var first = Math.Clamp(Scene.Rate.FrameAt(Math.Max(0, from)), 0, Scene.FrameCount - 1);
        var end = to is { } t ? Scene.Rate.FramesFor(Math.Min(t, Scene.Duration)) : Scene.FrameCount;
        return this with { First = first, Frames = Math.Clamp(end - first, 1, Scene.FrameCount - first) };
    }

    /// <summary>What is heard of a stretch, in seconds of the scene, where that can be made without the whole.</summary>
    public Func<double, double, CancellationToken, Task<AudioBuffer>>? Stretch { get; init; }

    private WeakReference<AudioBuffer>? _heard;

    /// <summary>Makes what is heard.</summary>
    public Func<CancellationToken, Task<AudioBuffer>> Sound
    {
        get;
        init
        {
            field = value;
            // A part with another sound takes nothing over that was made of the first.
            _heard = null;
        }
    } = Sound;

    /// <summary><see cref="Sound"/>, made once as long as there is memory for it.</summary>
    public async Task<AudioBuffer> HeardAsync(CancellationToken cancel)
    {
        if (_heard?.TryGetTarget(out var made) != true || made == null)
            _heard = new WeakReference<AudioBuffer>(made = await Sound(cancel));
        return made;
    }

    /// <summary>Of an evaluated scene.</summary>
    /// <param name="scene">Which.</param>
    /// <param name="sound">What is heard.</param>
    /// <param name="soundOf">Of a line by itself.</param>
    public static FilmPart Of(EvaluatedScene scene, Func<CancellationToken, Task<AudioBuffer>> sound, Func<PlacedLine, AudioBuffer?> soundOf) =>
        new(scene.Stage, sound) { Reviewed = new ReviewedScene(scene, soundOf) };

    /// <summary>Lines as they are written, with directions, in the order of the script.</summary>
    public IReadOnlyList<string> Texts { get; init; } = [];

    /// <summary>What is said, line by line.</summary>
    public IReadOnlyList<TimelineLine> Lines => Reviewed == null ? [] : SceneText.LinesOf(Reviewed.Scene);

    /// <summary>What is said, as captions, in seconds from its first frame.</summary>
    public IReadOnlyList<Captions.Caption> Captions
    {
        get
        {
            if (Reviewed == null)
                return [];
            double from = Scene.Rate.TimeOf(First),
                to = from + Seconds;
            return
            [
                .. SceneText
                    .Subtitles(Reviewed.Scene)
                    .Where(c => c.End > from && c.Start < to)
                    .Select(c => c with { Start = Math.Max(from, c.Start) - from, End = Math.Min(to, c.End) - from }),
            ];
        }
    }

    /// <summary>Words that are lit as they are said, in seconds from its first frame.</summary>
    /// <param name="at">When it begins in the film, in seconds.</param>
    public IEnumerable<KaraokeRow> KaraokeFrom(double at)
    {
        double from = Scene.Rate.TimeOf(First),
            to = from + Seconds;
        foreach (var row in Reviewed == null ? [] : SceneText.KaraokeOf(Reviewed.Scene))
        {
            var within = row.Words.Where(w => w.Start >= from && w.End <= to).Select(w => w with { Start = w.Start - from + at, End = w.End - from + at });
            if (within.ToArray() is { Length: > 0 } words)
                yield return row with
                {
                    Words = words,
                };
        }
    }

    /// <summary>The captions of scenes that follow one another.</summary>
    public static IReadOnlyList<Captions.Caption> CaptionsOf(IReadOnlyList<FilmPart> parts)
    {
        var captions = new List<Captions.Caption>();
        double at = 0;
        foreach (var part in parts)
        {
            captions.AddRange(part.Captions.Select(c => c with { Start = c.Start + at, End = c.End + at }));
            at += part.Seconds;
        }
        return captions;
    }

    /// <summary>What the members are called, in the order of the stage's cast.</summary>
    public IReadOnlyList<string> Names => Reviewed == null ? [] : [.. Reviewed.Scene.Document.Members.Select(m => m.RoleName)];
}

/// <summary>
/// Makes the film: chunks of frames are drawn and encoded side by side, each can be made again by itself, then they are joined and the sound is
/// added. A chunk is named by everything that is seen in it: a folder that holds finished ones is continued, and of a film that was made before
/// only what has changed is drawn again.
/// </summary>
public static class FilmRenderer
{
    // One channel: 96 kbit/s are more than anybody hears (common practice). The quick search is three times as fast and no further from the sound (measured).
    private const string Aac = "-c:a aac -aac_coder fast -b:a 96k -ar 48000 -f mp4",
        Opus = "-c:a libopus -b:a 96k -f webm";

    /// <summary>Renders an MP4 (AAC, 48 kHz) whose index stands in front, or a WebM (VP9, Opus).</summary>
    /// <param name="parts">Scenes of one frame rate, cut hard one after another.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="output">The film; written at the end, whole or not at all.</param>
    /// <param name="workFolder">For sound and joining; made when missing, removed when the film is done.</param>
    /// <param name="keep">Where chunks lie, and who draws them too; null puts them into the work folder.</param>
    /// <param name="progress">Frames done.</param>
    /// <param name="cancel">Stops; finished chunks stay.</param>
    /// <param name="finish">Codec of an MP4, loudness, captions, title.</param>
    /// <exception cref="MediaException">ffmpeg is missing or failed, or the disk is full.</exception>
    public static async Task RenderAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        string output,
        string workFolder,
        ChunkKeep? keep = null,
        Action<int>? progress = null,
        CancellationToken cancel = default,
        FilmFinish? finish = null
    )
    {
        finish ??= new FilmFinish();
        var isWebM = output.EndsWith(".webm", StringComparison.OrdinalIgnoreCase);
        var codec = FilmCodec.Of(Path.GetExtension(output), finish.Codec);
        try
        {
            Directory.CreateDirectory(workFolder);
            var folder = keep?.Folder ?? workFolder;
            Directory.CreateDirectory(folder);
            var chunks = FilmChunks.Of(parts, size, folder, codec);
            // The sound is coded while the picture is drawn: of a film of which little is new it takes as long.
            var sound = Path.Combine(workFolder, isWebM ? "sound.webm" : "sound.mp4");
            await SideBySide.RunAsync(
                [
                    stop => FilmChunks.DrawAsync(chunks, size, keep?.Share, progress, stop),
                    stop => FilmSound.CodeAsync(parts, sound, isWebM ? Opus : Aac, finish.Loudness, keep?.Folder, stop),
                ],
                cancel
            );
            var about = Path.Combine(workFolder, "about.txt");
            await File.WriteAllTextAsync(about, About(parts, finish.Title), cancel);
            var subtitles = Path.Combine(workFolder, "captions.srt");
            var hasTrack = finish.HasCaptionTrack && FilmPart.CaptionsOf(parts) is { Count: > 0 };
            if (hasTrack)
                await using (var writer = new StreamWriter(subtitles, false, new UTF8Encoding(false)))
                    Captions.WriteSrt(writer, FilmPart.CaptionsOf(parts));
            // What a shelf of films shows of it: an attached picture (MP4's covr; a WebM has no such thing that players know).
            var poster = isWebM ? null : Path.Combine(workFolder, "poster.jpg");
            if (poster != null)
                await File.WriteAllBytesAsync(poster, Poster(parts[0], size), cancel);
            // Beside the chunks: ffmpeg takes names from a list only where they are plain.
            var list = Path.Combine(folder, $"list-{Guid.NewGuid():N}.txt");
            var joined = Path.Combine(workFolder, isWebM ? "film.webm" : "film.mp4");
            OutsideProgram.Result result;
            try
            {
                await File.WriteAllLinesAsync(list, chunks.Select(c => $"file '{Path.GetFileName(c.Path)}'"), cancel);
                result = await OutsideProgram.RunAsync(
                    "ffmpeg",
                    [
                        "-v",
                        "error",
                        "-nostdin",
                        "-y",
                        "-f",
                        "concat",
                        "-safe",
                        "1",
                        "-i",
                        list,
                        "-i",
                        sound,
                        "-f",
                        "ffmetadata",
                        "-i",
                        about,
                        .. hasTrack ? ["-f", "srt", "-i", subtitles] : Array.Empty<string>(),
                        .. poster != null ? ["-i", poster] : Array.Empty<string>(),
                        "-map",
                        "0:v",
                        "-map",
                        "1:a",
                        .. hasTrack ? ["-map", "3:s", "-c:s", isWebM ? "webvtt" : "mov_text", "-disposition:s:0", "default"] : Array.Empty<string>(),
                        .. poster != null ? ["-map", hasTrack ? "4:v" : "3:v", "-disposition:v:1", "attached_pic"] : Array.Empty<string>(),
                        "-map_metadata",
                        "2",
                        "-map_chapters",
                        "2",
                        "-c:v",
                        "copy",
                        "-c:a",
                        "copy",
                        .. codec == "h265" ? ["-tag:v:0", "hvc1"] : Array.Empty<string>(),
                        .. isWebM ? Array.Empty<string>() : ["-movflags", "+faststart"],
                        joined,
                    ],
                    cancel: cancel,
                    files: new SandboxFiles([folder], [workFolder])
                );
            }
            finally
            {
                File.Delete(list);
            }
            if (result.ExitCode != 0)
                throw Failure(result.Error);
            Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(output))!);
            File.Move(joined, output, overwrite: true);
            Directory.Delete(workFolder, recursive: true);
        }
        catch (IOException e) when (IsFull(e))
        {
            throw new MediaException("The disk is full: free some space and render again; what is finished is kept.", e);
        }
    }

    // The first frame that is seen, as the shelf has it.
    private static byte[] Poster(FilmPart part, FrameSize size)
    {
        var scale = Math.Min(1, PosterWidth / (double)Math.Max(size.Width, size.Height));
        using var rasteriser = Rasteriser.ForStage((int)(size.Width * scale) & ~1, (int)(size.Height * scale) & ~1);
        var frame = Math.Clamp(part.Scene.FirstSeen, part.First, part.First + part.Frames - 1);
        using var data = rasteriser.Draw(part.Scene.Draw(frame, 1), 0).Encode(SKEncodedImageFormat.Jpeg, 88);
        return data.ToArray();
    }

    private const int PosterWidth = 960;

    // What ffmpeg calls FFMETADATA1: the title, and a chapter a scene where there are several.
    private static string About(IReadOnlyList<FilmPart> parts, string? title)
    {
        static string Plain(string text) => string.Concat(text.ReplaceLineEndings(" ").Select(c => c is '=' or ';' or '#' or '\\' ? $"\\{c}" : c.ToString()));
        var text = new StringBuilder(";FFMETADATA1\n");
        if (!string.IsNullOrWhiteSpace(title))
            text.Append(CultureInfo.InvariantCulture, $"title={Plain(title)}\n");
        double at = 0;
        for (var i = 0; i < parts.Count && parts.Count > 1; i++)
        {
            var end = at + parts[i].Seconds;
            var name = parts[i].Title.Length > 0 ? parts[i].Title : $"Scene {i + 1}";
            text.Append(
                CultureInfo.InvariantCulture,
                $"[CHAPTER]\nTIMEBASE=1/1000\nSTART={(long)Math.Round(at * 1000)}\nEND={(long)Math.Round(end * 1000)}\ntitle={Plain(name)}\n"
            );
            at = end;
        }
        return text.ToString();
    }

    internal static MediaException Failure(string error) =>
        error.Contains("No space left", StringComparison.OrdinalIgnoreCase)
            ? new MediaException("The disk is full: free some space and render again; what is finished is kept.")
            : new MediaException(
                "The film could not be encoded: " + (error.Trim().Split('\n').LastOrDefault(l => l.Length > 0) ?? "ffmpeg ended without a reason.")
            );

    // ENOSPC is 28 on Linux.
    private static bool IsFull(IOException e) => (e.HResult & 0xFFFF) == 28 || e.Message.Contains("No space left", StringComparison.Ordinal);
}
