using System.Diagnostics;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Media;

namespace Zamblo.Bench;

internal static class FilmBench
{
    // So many frames are held ready in memory for the encoder alone: half a gigabyte.
    private const int Ready = 160;

    public static async Task RunAsync(string folder)
    {
        var spoken = await Espeak.SpeakAsync(
            "en-us",
            "Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.",
            new Delivery()
        );
        var audio = await AudioFiles.ResampleAsync(spoken.Audio, AudioFiles.MasterRate);
        var lines = Enumerable.Range(0, 6).Select(i => new HeardLine(i % 3, audio, spoken.Speech)).ToArray();
        var film = SceneBuilder.Assemble(
            CastLibrary.Shipped(),
            [("maro", 1, ""), ("bubb", 2, ""), ("tock", 3, "")],
            lines,
            new FilmStyle(new FrameRate(25), new FrameSize(1280, 720)),
            "bakery"
        );
        var scene = film.Scene;
        scene.Draw(0, 50);
        var clock = Stopwatch.StartNew();
        // What answers a dial: every pass of every figure anew, cues and a hundred touch-ups included.
        var touches = Enumerable.Range(0, 10).Select(i => CueEdits.Put(MouthShape.Round, 0.3 + 0.5 * i, 0.38 + 0.5 * i)).ToArray();
        for (var member = 0; member < 3; member++)
            new Performer(
                new Part { Lines = [.. scene.Cast[member].Lines.Select(l => new PlacedSpeech(l.Speech, l.Start, new MouthDials(), touches))] },
                scene.Duration
            ).Evaluate(new FrameRate(25), 0, scene.FrameCount);
        Console.WriteLine(
            $"all passes of {scene.Duration:0} s with three figures: {scene.Duration / clock.Elapsed.TotalSeconds:0} x real time "
                + $"({60_000 / (scene.Duration / clock.Elapsed.TotalSeconds):0} ms a minute)"
        );
        clock.Restart();
        scene.Draw(0, scene.FrameCount);
        Console.WriteLine($"poses and drawing lists of {scene.Duration:0} s with three figures: {scene.Duration / clock.Elapsed.TotalSeconds:0} x real time");
        foreach (var size in new[] { new FrameSize(1280, 720), new FrameSize(1920, 1080) })
            await SizeAsync(folder, film, size);
    }

    private static async Task SizeAsync(string folder, FilmPart film, FrameSize size)
    {
        var scene = film.Scene;
        var list = scene.Draw(0, Math.Min(Ready, scene.FrameCount));
        using var painter = new FilmPainter(size.Width, size.Height);
        var frames = new byte[list.Frames.Count][];
        var share = 0.0;
        for (var f = 0; f < frames.Length; f++)
        {
            frames[f] = [.. painter.Draw(list, f)];
            if (f > 0)
                share += painter.ShareDrawn / (frames.Length - 1);
        }
        var clock = Stopwatch.StartNew();
        for (var f = 0; f < frames.Length; f++)
            painter.Draw(list, f);
        var drawing = clock.Elapsed.TotalSeconds / frames.Length;
        clock.Restart();
        await FilmRenderer.RenderAsync([film], size, Path.Combine(folder, "film.mp4"), Path.Combine(folder, $"work-{size}"));
        var all = clock.Elapsed.TotalSeconds / scene.FrameCount;
        // The very same frames, ready in memory, into as many encoders with the same settings.
        clock.Restart();
        var encoders = Environment.ProcessorCount;
        await Task.WhenAll(
            Enumerable
                .Range(0, encoders)
                .Select(async n =>
                {
                    var part = Path.Combine(folder, $"alone-{n}.mp4");
                    await File.WriteAllBytesAsync(part, []);
                    using var process = OutsideProgram.Start(
                        "ffmpeg",
                        FilmCodec.Encoder(FilmCodec.Usual, size, scene.Rate, part),
                        new SandboxFiles([], [part])
                    );
                    var errors = OutsideProgram.ReadTailAsync(process.StandardError, CancellationToken.None);
                    foreach (var frame in frames)
                        await process.StandardInput.BaseStream.WriteAsync(frame);
                    process.StandardInput.Close();
                    await process.WaitForExitAsync();
                    if ((await errors).Length > 0)
                        throw new MediaException(await errors);
                })
        );
        var alone = clock.Elapsed.TotalSeconds / (frames.Length * encoders);
        Console.WriteLine(
            $"film at {size}: {scene.Rate.FrameSeconds / all:0.00} x real time, {all / alone:0.00} times what {encoders} encoders alone "
                + $"take for the same frames; "
                + $"{100 * share:0} % of the picture is drawn anew from frame to frame, {1000 * drawing:0.0} ms of a core a frame (encoder "
                + $"{1000 * alone * encoders:0.0} ms)"
        );
    }
}
