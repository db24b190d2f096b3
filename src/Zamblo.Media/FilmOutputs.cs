using System.Text;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;

namespace Zamblo.Media;

/// <summary>
/// What a film can be written as; the ending of the name says what: MP4, WebM (VP9 and Opus), MOV (ProRes 422, for editors), GIF, animated WebP, a folder
/// of PNGs, the sound alone (WAV, FLAC, MP3), captions (WebVTT, SubRip), the motion as numbers (CSV, JSON) or as morph
/// targets (binary glTF), a timeline for an editor (OpenTimelineIO).
/// </summary>
public static class FilmOutputs
{
    private static readonly string[] Sounds = [".wav", ".flac", ".mp3"],
        Texts = [".vtt", ".srt", ".csv", ".json", ".otio", ".glb"],
        Pictures = [".mp4", ".webm", ".mov", ".gif", ".webp", ".png"];

    // A GIF or a WebP is looked at on a page: wider, and with more frames, it is larger than the film.
    private const int LoopWidth = 640,
        LoopRate = 15;

    /// <summary>All endings, as a sentence lists them.</summary>
    public static string Known => string.Join(", ", Pictures.Concat(Sounds).Concat(Texts).Select(e => e[1..]));

    /// <summary>Whether a file of that name can be written.</summary>
    public static bool Knows(string name) => Pictures.Concat(Sounds).Concat(Texts).Contains(EndingOf(name));

    private static string EndingOf(string name) => Path.GetExtension(name.TrimEnd('/')).ToLowerInvariant();

    /// <summary>Writes a film in every form that is asked for; pictures are drawn once.</summary>
    /// <param name="parts">Its scenes.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="targets">Files; each is written at the end, whole or not at all.</param>
    /// <param name="workFolder">For what lies between; removed when all is done.</param>
    /// <param name="progress">Frames drawn.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">An ending that is not known, or ffmpeg failed.</exception>
    public static async Task WriteAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        IReadOnlyList<string> targets,
        string workFolder,
        Action<int>? progress,
        CancellationToken cancel
    )
    {
        // Programs in their sandbox see no folder of ours, so names are whole.
        workFolder = Path.GetFullPath(workFolder);
        if (targets.FirstOrDefault(t => !Knows(t)) is { } strange)
            throw new MediaException($"\"{strange}\" has no ending that says what it is: {Known}.");
        foreach (var target in targets.Where(t => Texts.Contains(EndingOf(t))))
            WriteText(parts, target, targets.FirstOrDefault(t => EndingOf(t) is ".mp4" or ".mov" or ".webm"));
        var sounds = targets.Where(t => Sounds.Contains(EndingOf(t))).ToArray();
        if (sounds.Length > 0)
            await WriteSoundsAsync(parts, sounds, workFolder, cancel);
        var pictures = targets.Where(t => Pictures.Contains(EndingOf(t))).ToArray();
        var isClear = DrawnFrames.IsClear(parts);
        var drawn = pictures.Where(t => DrawnFrames.EncodingOf(EndingOf(t), isClear) != null).ToArray();
        foreach (var target in drawn)
            await WriteDrawnAsync(parts, size, target, isClear, workFolder, progress, cancel);
        pictures = [.. pictures.Except(drawn)];
        if (pictures.Length == 0)
            return;
        var film = pictures.FirstOrDefault(t => EndingOf(t) == ".mp4") ?? Path.Combine(workFolder + ".mp4");
        await FilmRenderer.RenderAsync(parts, size, film, workFolder, null, progress, cancel);
        try
        {
            foreach (var target in pictures.Where(t => t != film))
                if (EndingOf(target) == ".mp4")
                    File.Copy(film, target, true);
                else
                    await ConvertAsync(film, target, cancel);
        }
        finally
        {
            if (!pictures.Contains(film))
                File.Delete(film);
        }
    }

    private static async Task WriteDrawnAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        string target,
        bool isClear,
        string workFolder,
        Action<int>? progress,
        CancellationToken cancel
    )
    {
        var sound = EndingOf(target) is ".webm" or ".mov" ? workFolder + ".drawn.wav" : null;
        try
        {
            if (sound != null)
                await WriteSoundsAsync(parts, [sound], workFolder, cancel);
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

    private static void WriteText(IReadOnlyList<FilmPart> parts, string target, string? film)
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
                    Gltf.WriteBinary(model, ActingOf(parts), parts[0].Scene.Rate);
                return;
        }
        if (EndingOf(target) is ".csv" or ".json")
        {
            var scenes = parts.Select(p => (p.Scene, p.Names)).ToArray();
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
        var captions = new List<Captions.Caption>();
        double at = 0;
        foreach (var part in parts)
        {
            captions.AddRange(part.Captions.Select(c => c with { Start = c.Start + at, End = c.End + at }));
            at += part.Scene.Duration;
        }
        using var writer = new StreamWriter(target, false, new UTF8Encoding(false));
        if (EndingOf(target) == ".vtt")
            Captions.WriteVtt(writer, captions);
        else
            Captions.WriteSrt(writer, captions);
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
                                    p.Names.ToList().IndexOf(name) is var i and >= 0 ? p.Scene.PosesOf(i) : Enumerable.Repeat(Pose.Neutral, p.Scene.FrameCount)
                                ),
                            ]
                    )
                ),
        ];

    private static async Task WriteSoundsAsync(IReadOnlyList<FilmPart> parts, string[] targets, string workFolder, CancellationToken cancel)
    {
        var samples = new List<float>();
        foreach (var part in parts)
        {
            var sound = (await part.Sound(cancel)).Samples;
            var exact = new float[(int)Math.Round(part.Scene.Duration * AudioFiles.MasterRate)];
            Array.Copy(sound, exact, Math.Min(exact.Length, sound.Length));
            samples.AddRange(exact);
        }
        var wav = workFolder + ".wav";
        try
        {
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
            File.Delete(wav);
        }
    }

    private static Task ConvertAsync(string film, string target, CancellationToken cancel)
    {
        var loop = $"fps={LoopRate},scale='min({LoopWidth},iw)':-2:flags=lanczos";
        switch (EndingOf(target))
        {
            case ".webm":
                return RunAsync(
                    film,
                    target,
                    [
                        "-c:v",
                        "libvpx-vp9",
                        "-crf",
                        "24",
                        "-b:v",
                        "0",
                        "-row-mt",
                        "1",
                        "-deadline",
                        "realtime",
                        "-cpu-used",
                        "6",
                        "-c:a",
                        "libopus",
                        "-b:a",
                        "128k",
                    ],
                    cancel
                );
            case ".mov":
                return RunAsync(film, target, ["-c:v", "prores_ks", "-profile:v", "3", "-pix_fmt", "yuv422p10le", "-c:a", "pcm_s16le"], cancel);
            case ".gif":
                return RunAsync(
                    film,
                    target,
                    ["-an", "-filter_complex", $"{loop},split[a][b];[a]palettegen=stats_mode=diff[p];[b][p]paletteuse=dither=none", "-loop", "0"],
                    cancel
                );
            default:
                return RunAsync(film, target, ["-an", "-vf", loop, "-c:v", "libwebp_anim", "-quality", "80", "-loop", "0"], cancel);
        }
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
