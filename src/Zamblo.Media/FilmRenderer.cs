using System.Collections.Concurrent;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
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

    /// <inheritdoc/>
    public override string ToString() => $"{Width}x{Height}";
}

/// <summary>A scene of a film.</summary>
/// <param name="Scene">What is seen.</param>
/// <param name="Sound">What is heard, at 48 kHz, made when it is needed; cut or filled up to the length of the picture.</param>
public sealed record FilmPart(StageScene Scene, Func<CancellationToken, Task<AudioBuffer>> Sound)
{
    /// <summary>A scene with its words: for captions, an editor, the review. Null where only picture and sound are wanted.</summary>
    public ReviewedScene? Reviewed { get; init; }

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

    /// <summary>What is said, as captions, in seconds of the scene.</summary>
    public IReadOnlyList<Captions.Caption> Captions => Reviewed == null ? [] : SceneText.Subtitles(Reviewed.Scene);

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
    private const double ChunkSeconds = 4;

    // Other code draws other pictures.
    private static readonly string Version =
        $"{typeof(StageScene).Assembly.ManifestModule.ModuleVersionId} {typeof(FilmRenderer).Assembly.ManifestModule.ModuleVersionId}";

    /// <summary>Renders H.264 (yuv420p) and AAC (48 kHz) into an MP4 whose index stands in front.</summary>
    /// <param name="parts">Scenes of one frame rate, cut hard one after another.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="output">The film; written at the end, whole or not at all.</param>
    /// <param name="workFolder">For sound and joining; made when missing, removed when the film is done.</param>
    /// <param name="chunkFolder">For chunks, which stay there for the next film; null puts them into the work folder.</param>
    /// <param name="progress">Frames done.</param>
    /// <param name="cancel">Stops; finished chunks stay.</param>
    /// <exception cref="MediaException">ffmpeg is missing or failed, or the disk is full.</exception>
    public static async Task RenderAsync(
        IReadOnlyList<FilmPart> parts,
        FrameSize size,
        string output,
        string workFolder,
        string? chunkFolder = null,
        Action<int>? progress = null,
        CancellationToken cancel = default
    )
    {
        try
        {
            Directory.CreateDirectory(workFolder);
            var folder = chunkFolder ?? workFolder;
            Directory.CreateDirectory(folder);
            var chunks = ChunksOf(parts, size, folder);
            await DrawAsync(chunks, size, progress, cancel);
            // One file a scene: uncompressed sound is joined without a gap, and an hour of it is never in memory at once.
            for (var i = 0; i < parts.Count; i++)
            {
                var sound = await parts[i].Sound(cancel);
                var exact = new float[(int)Math.Round(parts[i].Scene.Duration * AudioFiles.MasterRate)];
                Array.Copy(sound.Samples, exact, Math.Min(exact.Length, sound.Samples.Length));
                await using var file = File.Create(Path.Combine(workFolder, $"sound-{i:0000}.wav"));
                WavFile.Write(file, [exact], AudioFiles.MasterRate);
            }
            var sounds = Path.Combine(workFolder, "sounds.txt");
            await File.WriteAllLinesAsync(sounds, Enumerable.Range(0, parts.Count).Select(i => $"file 'sound-{i:0000}.wav'"), cancel);
            // Beside the chunks: ffmpeg takes names from a list only where they are plain.
            var list = Path.Combine(folder, $"list-{Guid.NewGuid():N}.txt");
            var joined = Path.Combine(workFolder, "film.mp4");
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
                        "-f",
                        "concat",
                        "-safe",
                        "1",
                        "-i",
                        sounds,
                        "-map",
                        "0:v",
                        "-map",
                        "1:a",
                        "-c:v",
                        "copy",
                        "-c:a",
                        "aac",
                        "-b:a",
                        "160k",
                        "-ar",
                        "48000",
                        "-movflags",
                        "+faststart",
                        "-f",
                        "mp4",
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

    private static List<Chunk> ChunksOf(IReadOnlyList<FilmPart> parts, FrameSize size, string folder)
    {
        var perChunk = Math.Max(1, (int)Math.Round(ChunkSeconds * parts[0].Scene.Rate.FramesPerSecond));
        var chunks = new List<Chunk>();
        foreach (var part in parts)
            for (var first = 0; first < part.Scene.FrameCount; first += perChunk)
            {
                var count = Math.Min(perChunk, part.Scene.FrameCount - first);
                var name = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{Version} {part.Scene.Manifest()} {size} {first} {count}")));
                chunks.Add(new Chunk(part.Scene, first, count, Path.Combine(folder, $"chunk-{name[..40]}.mp4")));
            }
        return chunks;
    }

    private static async Task DrawAsync(List<Chunk> chunks, FrameSize size, Action<int>? progress, CancellationToken cancel)
    {
        var queue = new ConcurrentQueue<Chunk>(chunks.Where(c => !File.Exists(c.Path)).DistinctBy(c => c.Path));
        var done = chunks.Sum(c => c.Count) - queue.Sum(c => c.Count);
        // In use: a sweep takes the oldest.
        foreach (var chunk in chunks.Where(c => File.Exists(c.Path)))
            File.SetLastAccessTimeUtc(chunk.Path, DateTime.UtcNow);
        progress?.Invoke(done);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var workers = Enumerable
            .Range(0, Math.Max(1, Math.Min(Environment.ProcessorCount, queue.Count)))
            .Select(_ =>
                Task.Run(
                    async () =>
                    {
                        using var painter = new FilmPainter(size.Width, size.Height);
                        try
                        {
                            while (queue.TryDequeue(out var chunk))
                                await EncodeChunkAsync(chunk, painter, size, () => progress?.Invoke(Interlocked.Increment(ref done)), stop.Token);
                        }
                        catch
                        {
                            await stop.CancelAsync();
                            throw;
                        }
                    },
                    CancellationToken.None
                )
            )
            .ToArray();
        await FinishAsync(workers, cancel);
    }

    private static async Task FinishAsync(Task[] workers, CancellationToken cancel)
    {
        try
        {
            await Task.WhenAll(workers);
        }
        catch
        {
            cancel.ThrowIfCancellationRequested();
            // The first real failure stopped the others; theirs are only cancellations.
            var failure = workers.Select(w => w.Exception?.GetBaseException()).FirstOrDefault(e => e is not null and not OperationCanceledException);
            if (failure != null)
                System.Runtime.ExceptionServices.ExceptionDispatchInfo.Capture(failure).Throw();
            throw;
        }
    }

    private sealed record Chunk(StageScene Scene, int First, int Count, string Path);

    /// <summary>Arguments of an encoder that takes planes from its standard input.</summary>
    internal static string[] Encoder(FrameSize size, FrameRate rate, string output) =>
        [
            "-v",
            "error",
            "-y",
            "-f",
            "rawvideo",
            "-pix_fmt",
            "yuv420p",
            "-color_range",
            "tv",
            "-colorspace",
            "bt709",
            "-color_primaries",
            "bt709",
            "-color_trc",
            "bt709",
            "-s",
            size.ToString(),
            "-r",
            rate.ToString(),
            "-i",
            "-",
            "-an",
            "-c:v",
            "libx264",
            "-preset",
            "superfast",
            "-crf",
            "17",
            "-threads",
            "1",
            "-colorspace",
            "bt709",
            "-color_primaries",
            "bt709",
            "-color_trc",
            "bt709",
            "-color_range",
            "tv",
            "-chroma_sample_location",
            "center",
            "-video_track_timescale",
            rate.Numerator.ToString(CultureInfo.InvariantCulture),
            "-f",
            "mp4",
            output,
        ];

    private static async Task EncodeChunkAsync(Chunk chunk, FilmPainter painter, FrameSize size, Action frameDone, CancellationToken cancel)
    {
        var (scene, first, count, path) = chunk;
        var partial = $"{path}.{Guid.NewGuid():N}.part";
        // The sandbox shows the one file that is written, which must be there for that.
        await File.WriteAllBytesAsync(partial, [], cancel);
        using var process = OutsideProgram.Start("ffmpeg", Encoder(size, scene.Rate, partial), new SandboxFiles([], [partial]));
        var errors = OutsideProgram.ReadTailAsync(process.StandardError, CancellationToken.None);
        try
        {
            var list = scene.Draw(first, count);
            var pipe = process.StandardInput.BaseStream;
            // One frame is on its way to the encoder while the next is drawn.
            var buffers = new byte[2][];
            var sent = Task.CompletedTask;
            for (var f = 0; f < count; f++)
            {
                cancel.ThrowIfCancellationRequested();
                var planes = painter.Draw(list, f);
                var buffer = buffers[f & 1] ??= new byte[planes.Length];
                planes.CopyTo(buffer, 0);
                await sent;
                sent = pipe.WriteAsync(buffer, cancel).AsTask();
                frameDone();
            }
            await sent;
            process.StandardInput.Close();
            using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            limit.CancelAfter(TimeSpan.FromMinutes(5));
            await process.WaitForExitAsync(limit.Token);
        }
        catch (IOException)
        {
            // The pipe broke: ffmpeg ended early and says why.
            OutsideProgram.Kill(process);
            File.Delete(partial);
            throw Failure(await errors);
        }
        catch
        {
            OutsideProgram.Kill(process);
            File.Delete(partial);
            throw;
        }
        // ffmpeg may end well although the end of the file found no room: whatever it complains of is a failure.
        if (process.ExitCode != 0 || (await errors).Trim().Length > 0)
            throw Failure(await errors);
        File.Move(partial, path, overwrite: true);
    }

    private static MediaException Failure(string error) =>
        error.Contains("No space left", StringComparison.OrdinalIgnoreCase)
            ? new MediaException("The disk is full: free some space and render again; what is finished is kept.")
            : new MediaException(
                "The film could not be encoded: " + (error.Trim().Split('\n').LastOrDefault(l => l.Length > 0) ?? "ffmpeg ended without a reason.")
            );

    // ENOSPC is 28 on Linux.
    private static bool IsFull(IOException e) => (e.HResult & 0xFFFF) == 28 || e.Message.Contains("No space left", StringComparison.Ordinal);
}
