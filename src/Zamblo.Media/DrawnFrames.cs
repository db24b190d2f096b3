using SkiaSharp;

namespace Zamblo.Media;

/// <summary>
/// Frames as they are drawn, with what shines through, straight into an encoder that keeps it: for editors, pages and compositing. One after another: slower
/// than a film, which is cut into chunks.
/// </summary>
internal static class DrawnFrames
{
    /// <summary>Whether a film has nothing behind its figures, so that its ground is transparent.</summary>
    public static bool IsClear(IReadOnlyList<FilmPart> parts) => parts.All(p => p.Scene.BackCount == 0);

    /// <summary>How an ending is encoded; null where it cannot hold what shines through, or gains nothing.</summary>
    public static string[]? EncodingOf(string ending, bool isClear) =>
        ending switch
        {
            // PNG (ISO/IEC 15948): the drawing itself, whether it has a ground or not.
            ".png" => ["-pix_fmt", isClear ? "rgba" : "rgb24", "-start_number", "0"],
            ".webm" when isClear =>
            [
                .. "-c:v libvpx-vp9 -pix_fmt yuva420p -crf 24 -b:v 0 -row-mt 1 -deadline realtime -cpu-used 6 -auto-alt-ref 0".Split(' '),
                .. "-c:a libopus -b:a 128k".Split(' '),
            ],
            ".mov" when isClear => "-c:v prores_ks -profile:v 4444 -pix_fmt yuva444p10le -c:a pcm_s16le".Split(' '),
            // For editors: what they cut and grade has never been a small file.
            ".mov" =>
            [
                "-vf",
                "scale=out_color_matrix=bt709:out_range=tv",
                .. "-c:v prores -profile:v 3 -pix_fmt yuv422p10le -colorspace bt709 -color_primaries bt709 -color_trc bt709 -c:a pcm_s16le".Split(' '),
            ],
            ".webp" when isClear => "-c:v libwebp_anim -pix_fmt yuva420p -quality 80 -loop 0".Split(' '),
            _ => null,
        };

    /// <summary>Writes frames.</summary>
    /// <param name="parts">Scenes, one after another.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="target">A file, or a folder for PNGs; written at the end, whole or not at all.</param>
    /// <param name="encoding">Arguments of the encoder.</param>
    /// <param name="sound">A sound file that goes along, or null.</param>
    /// <param name="frameDone">Told after each frame.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">ffmpeg is missing or failed.</exception>
    public static async Task WriteAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        string target,
        string[] encoding,
        string? sound,
        Action frameDone,
        CancellationToken cancel
    )
    {
        var isFolder = target.TrimEnd('/').EndsWith(".png", StringComparison.OrdinalIgnoreCase);
        var whole = Path.GetFullPath(target.TrimEnd('/'));
        var part = isFolder ? whole : Path.Combine(Path.GetDirectoryName(whole)!, $".{Guid.NewGuid():N}{Path.GetExtension(whole)}");
        if (isFolder)
            Directory.CreateDirectory(part);
        else
            await File.WriteAllBytesAsync(part, [], cancel);
        string[] arguments =
        [
            .. "-v error -y -f rawvideo -pix_fmt bgra".Split(' '),
            "-s",
            size.ToString(),
            "-r",
            parts[0].Scene.Rate.ToString(),
            "-i",
            "-",
            .. sound == null ? [] : new[] { "-i", sound },
            .. encoding,
            isFolder ? Path.Combine(part, "%06d.png") : part,
        ];
        try
        {
            using var process = OutsideProgram.Start("ffmpeg", arguments, new SandboxFiles(sound == null ? [] : [sound], [part]));
            var errors = OutsideProgram.ReadTailAsync(process.StandardError, CancellationToken.None);
            try
            {
                await DrawAsync(parts, size, process.StandardInput.BaseStream, frameDone, cancel);
                process.StandardInput.Close();
                await process.WaitForExitAsync(cancel);
            }
            catch (IOException)
            {
                OutsideProgram.Kill(process);
                throw new MediaException($"\"{target}\" could not be written: {(await errors).Trim()}");
            }
            catch
            {
                OutsideProgram.Kill(process);
                throw;
            }
            if (process.ExitCode != 0)
                throw new MediaException($"\"{target}\" could not be written: {(await errors).Trim()}");
            if (!isFolder)
                File.Move(part, whole, overwrite: true);
        }
        finally
        {
            if (!isFolder)
                File.Delete(part);
        }
    }

    // So many frames are evaluated at a time.
    private const int Stretch = 100;

    // Frames are drawn side by side, and go out in their order.
    private static async Task DrawAsync(IReadOnlyList<FilmPart> parts, FrameSize size, Stream pipe, Action frameDone, CancellationToken cancel)
    {
        var desks = Enumerable.Range(0, Math.Max(1, Environment.ProcessorCount)).Select(_ => Rasteriser.ForStage(size.Width, size.Height)).ToArray();
        var drawing = new Queue<Task<byte[]>>();
        async Task SendAsync()
        {
            await pipe.WriteAsync(await drawing.Dequeue(), cancel);
            frameDone();
        }
        try
        {
            var next = 0;
            foreach (var film in parts)
                for (var f = film.First; f < film.First + film.Frames; f += Stretch)
                {
                    var list = film.Scene.Draw(f, Math.Min(Stretch, film.First + film.Frames - f));
                    for (var i = 0; i < list.Frames.Count; i++)
                    {
                        cancel.ThrowIfCancellationRequested();
                        // The desk whose turn it is has handed its last frame out.
                        if (drawing.Count == desks.Length)
                            await SendAsync();
                        var (desk, frame) = (desks[next++ % desks.Length], i);
                        drawing.Enqueue(Task.Run(() => Straight(desk.Draw(list, frame)), cancel));
                    }
                }
            while (drawing.Count > 0)
                await SendAsync();
        }
        finally
        {
            // Nobody draws any more before the desks are put away.
            await Task.WhenAll(drawing.Select(t => (Task)t.ContinueWith(_ => { }, TaskScheduler.Default)));
            foreach (var desk in desks)
                desk.Dispose();
        }
    }

    // Encoders take colours that are not multiplied with how much shines through.
    private static byte[] Straight(SKBitmap bitmap)
    {
        var pixels = bitmap.GetPixelSpan().ToArray();
        for (var i = 0; i < pixels.Length; i += 4)
        {
            int alpha = pixels[i + 3];
            if (alpha is 0 or 255)
                continue;
            for (var c = 0; c < 3; c++)
                pixels[i + c] = (byte)Math.Min(255, (pixels[i + c] * 255 + alpha / 2) / alpha);
        }
        return pixels;
    }
}
