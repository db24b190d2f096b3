using System.Security.Cryptography;
using System.Text;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Where the pieces of films lie, and who draws them too.</summary>
/// <param name="Folder">They stay there for the next film.</param>
/// <param name="Share">Is handed the board of a film while it is drawn, and lets go of it when it is done; null where nobody helps.</param>
public sealed record ChunkKeep(string Folder, Func<ChunkBoard, IDisposable>? Share = null);

/// <summary>A few seconds of a film's picture.</summary>
/// <param name="Scene">What is seen.</param>
/// <param name="Part">Which of the film's scenes that is, from 0.</param>
/// <param name="First">Its first frame, of the scene.</param>
/// <param name="Count">Its frames.</param>
/// <param name="Size">Of the picture.</param>
/// <param name="Path">Where it lies when it is drawn; its name changes with everything that is seen in it and with the code that draws it.</param>
public sealed record FilmChunk(StageScene Scene, int Part, int First, int Count, FrameSize Size, string Path)
{
    /// <summary>How its picture is coded.</summary>
    public string Codec { get; init; } = FilmCodec.Usual;

    /// <summary>The same on every machine that has the same program.</summary>
    public string Name => System.IO.Path.GetFileName(Path);
}

/// <summary>Cuts films into chunks, and draws them: side by side, each by itself, each the same whoever draws it.</summary>
public static class FilmChunks
{
    /// <summary>Of the code that draws: other code draws other pictures.</summary>
    public static string Version { get; } =
        $"{typeof(StageScene).Assembly.ManifestModule.ModuleVersionId} {typeof(FilmChunks).Assembly.ManifestModule.ModuleVersionId}";

    /// <summary>The chunks of a film, in their order.</summary>
    /// <param name="parts">Its scenes.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="folder">Where they are to lie.</param>
    /// <param name="codec">How their picture is coded.</param>
    public static IReadOnlyList<FilmChunk> Of(IReadOnlyList<FilmPart> parts, FrameSize size, string folder, string codec = FilmCodec.Usual)
    {
        var chunks = new List<FilmChunk>();
        for (var i = 0; i < parts.Count; i++)
        {
            var part = parts[i];
            foreach (var (first, count) in FilmPieces.Of(part.Scene, part.First, part.Frames))
            {
                var name = Convert.ToHexStringLower(
                    SHA256.HashData(Encoding.UTF8.GetBytes($"{Version} {part.Scene.Manifest()} {size} {first} {count} {codec}"))
                );
                chunks.Add(new FilmChunk(part.Scene, i, first, count, size, Path.Combine(folder, $"chunk-{name[..40]}.mp4")) { Codec = codec });
            }
        }
        return chunks;
    }

    /// <summary>Draws those that are not there yet, on all cores of this machine and with whoever helps.</summary>
    /// <param name="chunks">Of a film.</param>
    /// <param name="size">Of the picture.</param>
    /// <param name="share">Is handed the board meanwhile.</param>
    /// <param name="progress">Frames done.</param>
    /// <param name="cancel">Stops; finished chunks stay.</param>
    internal static async Task DrawAsync(
        IReadOnlyList<FilmChunk> chunks,
        FrameSize size,
        Func<ChunkBoard, IDisposable>? share,
        Action<int>? progress,
        CancellationToken cancel
    )
    {
        var board = new ChunkBoard(chunks, progress);
        using var shared = share?.Invoke(board);
        var cores = Math.Max(1, Math.Min(Environment.ProcessorCount, board.Waiting));
        await SideBySide.RunAsync(cores, stop => WorkAsync(board, size, stop), cancel);
    }

    private static async Task WorkAsync(ChunkBoard board, FrameSize size, CancellationToken stop)
    {
        using var drawer = new ChunkDrawer(size);
        while (await board.NextAsync(stop) is { } next)
        {
            using var until = CancellationTokenSource.CreateLinkedTokenSource(stop, next.IsElsewhere);
            try
            {
                await drawer.DrawAsync(next.Chunk, () => board.Count(next.Chunk), until.Token);
                board.Finish(next.Chunk);
            }
            catch (OperationCanceledException) when (next.IsElsewhere.IsCancellationRequested && !stop.IsCancellationRequested)
            {
                // Whoever had it was quicker.
            }
        }
    }
}

/// <summary>Draws chunks one after another.</summary>
/// <param name="size">Of the picture.</param>
/// <param name="keeps">Pieces are kept by what is seen in them, too: for films that are made again.</param>
public sealed class ChunkDrawer(FrameSize size, bool keeps = true) : IDisposable
{
    private static readonly TimeSpan EncoderLimit = TimeSpan.FromMinutes(5);
    private readonly FilmPainter _painter = new(size.Width, size.Height);

    /// <summary>Lets go of its pictures.</summary>
    public void Dispose() => _painter.Dispose();

    /// <summary>Draws a chunk and encodes it; its file is there at the end, whole or not at all.</summary>
    /// <param name="chunk">Of the drawer's size.</param>
    /// <param name="frameDone">After each frame.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">ffmpeg is missing or failed, or the disk is full.</exception>
    public async Task DrawAsync(FilmChunk chunk, Action frameDone, CancellationToken cancel)
    {
        var list = chunk.Scene.Draw(chunk.First, chunk.Count);
        var seen = FilmContent.PathOf(chunk, list);
        if (keeps && FilmContent.Take(seen, chunk.Path))
        {
            for (var f = 0; f < chunk.Count; f++)
                frameDone();
            return;
        }
        var partial = $"{chunk.Path}.{Guid.NewGuid():N}.part";
        try
        {
            // The sandbox shows the one file that is written, which must be there for that.
            await File.WriteAllBytesAsync(partial, [], cancel);
            await EncodeAsync(chunk, list, partial, frameDone, cancel);
            File.Move(partial, chunk.Path, overwrite: true);
        }
        finally
        {
            File.Delete(partial);
        }
        if (keeps)
            FilmContent.Keep(chunk.Path, seen);
    }

    private async Task EncodeAsync(FilmChunk chunk, DrawingList list, string path, Action frameDone, CancellationToken cancel)
    {
        using var process = OutsideProgram.Start("ffmpeg", FilmCodec.Encoder(chunk.Codec, size, chunk.Scene.Rate, path), new SandboxFiles([], [path]));
        var errors = OutsideProgram.ReadTailAsync(process.StandardError, CancellationToken.None);
        try
        {
            var pipe = process.StandardInput.BaseStream;
            // One frame is on its way to the encoder while the next is drawn.
            var buffers = new byte[2][];
            var sent = Task.CompletedTask;
            for (var f = 0; f < chunk.Count; f++)
            {
                cancel.ThrowIfCancellationRequested();
                var planes = _painter.Draw(list, f);
                var buffer = buffers[f & 1] ??= new byte[planes.Length];
                planes.CopyTo(buffer, 0);
                await sent;
                sent = pipe.WriteAsync(buffer, cancel).AsTask();
                frameDone();
            }
            await sent;
            process.StandardInput.Close();
            using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            limit.CancelAfter(EncoderLimit);
            await process.WaitForExitAsync(limit.Token);
        }
        catch (IOException)
        {
            // The pipe broke: ffmpeg ended early and says why.
            OutsideProgram.Kill(process);
            throw FilmRenderer.Failure(await errors);
        }
        catch
        {
            OutsideProgram.Kill(process);
            throw;
        }
        // ffmpeg may end well although the end of the file found no room: whatever it complains of is a failure.
        if (process.ExitCode != 0 || FilmCodec.Complaints(await errors).Length > 0)
            throw FilmRenderer.Failure(await errors);
    }
}
