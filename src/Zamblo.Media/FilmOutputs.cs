using System.Text;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;

namespace Zamblo.Media;

/// <summary>
/// What a film can be written as; the ending of the name says what: MP4, WebM (VP9 and Opus), MOV (ProRes 422, for editors), GIF, animated WebP, a folder
/// of PNGs, the sound alone (WAV, FLAC, MP3) or taken apart (a ZIP of stems), captions (WebVTT, SubRip, ASS with every word timed), the motion as numbers
/// (CSV, JSON) or as morph
/// targets (binary glTF), a timeline for an editor (OpenTimelineIO).
/// </summary>
public static class FilmOutputs
{
    private static readonly string[] Sounds = [".wav", ".flac", ".mp3"],
        Apart = [".zip"],
        Texts = [".vtt", ".srt", ".ass", ".csv", ".json", ".otio", ".glb"],
        Pictures = [".mp4", ".webm", ".mov", ".gif", ".webp", ".png"];

    // A GIF or a WebP is looked at on a page: wider, and with more frames, it is larger than the film.
    private const int LoopWidth = 640,
        LoopRate = 15;

    /// <summary>All endings, as a sentence lists them.</summary>
    public static string Known => string.Join(", ", Pictures.Concat(Sounds).Concat(Apart).Concat(Texts).Select(e => e[1..]));

    /// <summary>Whether a file of that name can be written.</summary>
    public static bool Knows(string name) => Pictures.Concat(Sounds).Concat(Apart).Concat(Texts).Contains(EndingOf(name));

    /// <summary>Whether what has this ending is made of whole scenes only: timelines.</summary>
    internal static bool IsWhole(string ending) => ending == ".otio";

    private static string EndingOf(string name) => Path.GetExtension(name.TrimEnd('/')).ToLowerInvariant();

    /// <summary>Writes a film in every form that is asked for; pictures are drawn once.</summary>
    /// <param name="parts">Its scenes.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="targets">Files; each is written at the end, whole or not at all.</param>
    /// <param name="workFolder">For what lies between; removed when all is done.</param>
    /// <param name="progress">Frames drawn.</param>
    /// <param name="cancel">Stops.</param>
    /// <param name="finish">Codec, loudness, captions, title.</param>
    /// <param name="keep">Where pieces of the film stay for the next one, and who draws them too; null for nowhere and nobody.</param>
    /// <exception cref="MediaException">An ending that is not known, or ffmpeg failed.</exception>
    public static async Task WriteAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        IReadOnlyList<string> targets,
        string workFolder,
        Action<int>? progress,
        CancellationToken cancel,
        FilmFinish? finish = null,
        ChunkKeep? keep = null
    )
    {
        finish ??= new FilmFinish();
        // Programs in their sandbox see no folder of ours, so names are whole.
        workFolder = Path.GetFullPath(workFolder);
        if (targets.FirstOrDefault(t => !Knows(t)) is { } strange)
            throw new MediaException($"\"{strange}\" has no ending that says what it is: {Known}.");
        if (parts.Any(p => p.IsCut) && targets.FirstOrDefault(t => IsWhole(EndingOf(t))) is { } whole)
            throw new MediaException($"\"{whole}\" is written of whole scenes only: leave the stretch away.");
        foreach (var target in targets.Where(t => Texts.Contains(EndingOf(t))))
            WriteText(parts, size, finish, target, targets.FirstOrDefault(t => EndingOf(t) is ".mp4" or ".mov" or ".webm"));
        var sounds = targets.Where(t => Sounds.Contains(EndingOf(t))).ToArray();
        if (sounds.Length > 0)
            await WriteSoundsAsync(parts, sounds, workFolder, finish.Loudness, cancel);
        foreach (var target in targets.Where(t => Apart.Contains(EndingOf(t))))
            await FilmSound.WriteStemsAsync(parts, target, cancel);
        var pictures = targets.Where(t => Pictures.Contains(EndingOf(t))).ToArray();
        var isClear = DrawnFrames.IsClear(parts);
        var drawn = pictures.Where(t => DrawnFrames.EncodingOf(EndingOf(t), isClear) != null).ToArray();
        foreach (var target in drawn)
            await WriteDrawnAsync(parts, size, target, isClear, workFolder, finish.Loudness, progress, cancel);
        pictures = [.. pictures.Except(drawn)];
        if (pictures.Length == 0)
            return;
        // Each codec is made from the frames; what is only for looking at comes out of the film.
        string[] films = [.. pictures.Where(t => EndingOf(t) is ".mp4" or ".webm")];
        var first = films.FirstOrDefault() ?? workFolder + ".film.mp4";
        try
        {
            foreach (var film in films.DefaultIfEmpty(first).DistinctBy(EndingOf))
                await FilmRenderer.RenderAsync(parts, size, film, workFolder, keep, progress, cancel, finish);
            foreach (var target in pictures.Where(t => t != first))
                if (films.Contains(target))
                {
                    if (films.First(f => EndingOf(f) == EndingOf(target)) is { } same && same != target)
                        File.Copy(same, target, true);
                }
                else
                    await ConvertAsync(first, target, cancel);
        }
        finally
        {
            if (!pictures.Contains(first))
                File.Delete(first);
        }
    }

    private static async Task WriteDrawnAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        string target,
        bool isClear,
        string workFolder,
        double? loudness,
        Action<int>? progress,
        CancellationToken cancel
    )
    {
        var sound = EndingOf(target) is ".webm" or ".mov" ? workFolder + ".drawn.wav" : null;
        try
        {
            if (sound != null)
                await WriteSoundsAsync(parts, [sound], workFolder, loudness, cancel);
            var done = 0;
            await DrawnFrames.WriteAsync(
                parts,
                size,
                target,
                DrawnFrames.EncodingOf(EndingOf(target), isClear)!,
                sound,
                () => progress?.Invoke(++done),
                cancel
            );
        }
        finally
        {
            if (sound != null)
                File.Delete(sound);
        }
    }

    private static void WriteText(IReadOnlyList<FilmPart> parts, FrameSize size, FilmFinish finish, string target, string? film)
    {
        switch (EndingOf(target))
        {
            case ".otio":
                using (var timeline = File.Create(target))
                    Timeline.Write(
                        timeline,
                        Path.GetFileNameWithoutExtension(target),
                        [.. parts.Select(p => new TimelineScene(p.Scene, p.Names, p.Lines))],
                        film == null ? null : Path.GetRelativePath(Path.GetDirectoryName(Path.GetFullPath(target))!, film).Replace('\\', '/')
                    );
                return;
            case ".glb":
                using (var model = File.Create(target))
                    Gltf.WriteBinary(model, ActingOf(parts), parts[0].Scene.Rate, finish.Names);
                return;
        }
        if (EndingOf(target) is ".csv" or ".json")
        {
            var scenes = parts.Select(p => p.Motion).ToArray();
            using var file = File.Create(target);
            if (EndingOf(target) == ".json")
                MotionTable.WriteJson(file, scenes);
            else
            {
                using var table = new StreamWriter(file, new UTF8Encoding(false));
                MotionTable.WriteCsv(table, scenes);
            }
            return;
        }
        var captions = FilmPart.CaptionsOf(parts);
        using var writer = new StreamWriter(target, false, new UTF8Encoding(false));
        if (EndingOf(target) == ".vtt")
            Captions.WriteVtt(writer, captions);
        else if (EndingOf(target) == ".ass")
            Karaoke.Write(writer, finish.Title ?? "", size.Width, size.Height, Rows(parts));
        else
            Captions.WriteSrt(writer, captions);
    }

    private static List<KaraokeRow> Rows(IReadOnlyList<FilmPart> parts)
    {
        var rows = new List<KaraokeRow>();
        double at = 0;
        foreach (var part in parts)
        {
            rows.AddRange(part.KaraokeFrom(at));
            at += part.Seconds;
        }
        return rows;
    }

    // The poses of each member over all scenes; who is not in one stands still there.
    private static IReadOnlyList<(string Name, IReadOnlyList<Pose> Poses)> ActingOf(IReadOnlyList<FilmPart> parts) =>
        [
            .. parts
                .SelectMany(p => p.Names)
                .Distinct()
                .Select(name =>
                    (
                        name,
                        (IReadOnlyList<Pose>)
                            [
                                .. parts.SelectMany(p =>
                                    p.Names.ToList().IndexOf(name) is var i and >= 0 ? p.Motion.PosesOf(i) : Enumerable.Repeat(Pose.Neutral, p.Frames)
                                ),
                            ]
                    )
                ),
        ];

    private static async Task WriteSoundsAsync(IReadOnlyList<FilmPart> parts, string[] targets, string workFolder, double? loudness, CancellationToken cancel)
    {
        var folder = workFolder + ".sound";
        Directory.CreateDirectory(folder);
        try
        {
            var names = await FilmSound.WriteAsync(parts, folder, loudness, cancel);
            var samples = new List<float>();
            foreach (var name in names)
                using (var file = File.OpenRead(Path.Combine(folder, name)))
                    samples.AddRange(WavFile.ReadMono(file).Samples);
            var wav = Path.Combine(folder, "whole.wav");
            await using (var file = File.Create(wav))
                WavFile.Write(
                    file,
                    [
                        [.. samples],
                    ],
                    AudioFiles.MasterRate
                );
            foreach (var target in targets)
                if (EndingOf(target) == ".wav")
                    File.Copy(wav, target, true);
                else
                    await RunAsync(wav, target, EndingOf(target) == ".flac" ? ["-c:a", "flac"] : ["-c:a", "libmp3lame", "-q:a", "2"], cancel);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    private static Task ConvertAsync(string film, string target, CancellationToken cancel)
    {
        var loop = $"fps={LoopRate},scale='min({LoopWidth},iw)':-2:flags=lanczos";
        string[] how =
            EndingOf(target) == ".gif"
                ? ["-filter_complex", $"{loop},split[a][b];[a]palettegen=stats_mode=diff[p];[b][p]paletteuse=dither=none", "-loop", "0"]
                : ["-vf", loop, "-c:v", "libwebp_anim", "-quality", "80", "-loop", "0"];
        return RunAsync(film, target, ["-an", .. how], cancel);
    }

    private static async Task RunAsync(string input, string target, string[] how, CancellationToken cancel)
    {
        // Beside its place first, so that a broken attempt leaves what was there.
        var part = Path.Combine(Path.GetDirectoryName(Path.GetFullPath(target))!, $".{Guid.NewGuid():N}{Path.GetExtension(target)}");
        try
        {
            var result = await OutsideProgram.RunAsync(
                "ffmpeg",
                ["-v", "error", "-nostdin", "-y", "-i", input, .. how, part],
                cancel: cancel,
                limit: TimeSpan.FromHours(2)
            );
            if (result.ExitCode != 0)
                throw new MediaException($"\"{target}\" could not be written: {result.Error.Trim()}");
            File.Move(part, target, true);
        }
        finally
        {
            File.Delete(part);
        }
    }
}
