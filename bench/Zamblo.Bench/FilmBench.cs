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
    public static async Task RunAsync(string folder)
    {
        var spoken = await Espeak.SpeakAsync("en-us", "Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.", new Delivery());
        var audio = await AudioFiles.ResampleAsync(spoken.Audio, AudioFiles.MasterRate);
        var lines = Enumerable.Range(0, 10).Select(i => new HeardLine(i % 3, audio, spoken.Speech)).ToArray();
        var film = SceneBuilder.Assemble(CastLibrary.Shipped(), [("maro", 1), ("bubb", 2), ("tock", 3)], lines, new FrameRate(25), "bakery");
        var scene = film.Scene;
        scene.Draw(0, 50);
        var clock = Stopwatch.StartNew();
        // What answers a dial: every pass of every figure anew, cues and a hundred touch-ups included.
        var touches = Enumerable.Range(0, 10).Select(i => CueEdits.Put(MouthShape.Round, 0.3 + 0.5 * i, 0.38 + 0.5 * i)).ToArray();
        for (var member = 0; member < 3; member++)
            new Performer(new Part { Lines = [.. scene.Cast[member].Lines.Select(l => new PlacedSpeech(l.Speech, l.Start, new MouthDials(), touches))] }, scene.Duration).Evaluate(new FrameRate(25), 0, scene.FrameCount);
        Console.WriteLine($"all passes of {scene.Duration:0} s with three figures: {scene.Duration / clock.Elapsed.TotalSeconds:0} x real time ({60_000 / (scene.Duration / clock.Elapsed.TotalSeconds):0} ms a minute)");
        clock.Restart();
        scene.Draw(0, scene.FrameCount);
        Console.WriteLine($"poses and drawing lists of {scene.Duration:0} s with three figures: {scene.Duration / clock.Elapsed.TotalSeconds:0} x real time");
        clock.Restart();
        await FilmRenderer.RenderAsync([film], new FrameSize(1280, 720), Path.Combine(folder, "film.mp4"), Path.Combine(folder, "work"));
        var seconds = clock.Elapsed.TotalSeconds;
        Console.WriteLine($"film at 1280x720: {scene.Duration / seconds:0.0} x real time");
        clock.Restart();
        await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", $"testsrc=s=1280x720:r=25:d={scene.Duration.ToString(System.Globalization.CultureInfo.InvariantCulture)}", "-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-f", "null", "-"]);
        Console.WriteLine($"the encoder alone takes {clock.Elapsed.TotalSeconds / seconds:0.00} of that time");
    }
}
