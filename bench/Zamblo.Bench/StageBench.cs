using System.Diagnostics;
using Zamblo.Core;
using Zamblo.Core.Light;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>How fast frames of a full stage are drawn: five figures, a counter, shots that move, with and without rain and a light that changes.</summary>
internal static class StageBench
{
    private static readonly FrameSize Size = new(1920, 1080);
    private static readonly string[] Cast = ["maro", "bubb", "tock", "wick", "ines"];

    public static async Task RunAsync()
    {
        var spoken = await Espeak.SpeakAsync("en-us", "Is everybody here? Then let us begin, and see who is awake when the bread is done.", new Delivery());
        var audio = await AudioFiles.ResampleAsync(spoken.Audio, AudioFiles.MasterRate);
        var lines = Enumerable.Range(0, 4).Select(i => new HeardLine(i, audio, spoken.Speech)).ToArray();
        SkiaSharp.SKGraphics.Init();
        double? still = null;
        foreach (
            var (name, light, camera) in ((string, LightDials, CameraDials)[])
                [
                    ("as drawn, one picture", new(), CameraDials.Fixed),
                    (
                        "with light and rain, one picture",
                        new()
                        {
                            Light = LightKind.Night,
                            Weather = WeatherKind.Rain,
                            Amount = 0.8,
                        },
                        CameraDials.Fixed
                    ),
                    (
                        "with light and rain, shots that move",
                        new()
                        {
                            Light = LightKind.Night,
                            Weather = WeatherKind.Rain,
                            Amount = 0.8,
                        },
                        CameraDials.Lively
                    ),
                ]
        )
        {
            var film = SceneBuilder.Assemble(
                CastLibrary.Shipped(),
                [.. Cast.Select((key, i) => (key, i + 1, ""))],
                lines,
                new FilmStyle(new FrameRate(25), Size) { Light = light, Camera = camera },
                "bakery"
            );
            var rate = Draw(film.Scene);
            still ??= rate;
            Console.WriteLine(
                $"{Size}, five figures, {name}: {rate:0.0} frames a second on {Environment.ProcessorCount} cores ({rate / still:0.00} of the first)"
            );
        }
    }

    // Each core draws a stretch of its own, as chunks of films are drawn.
    private static double Draw(StageScene scene)
    {
        var cores = Environment.ProcessorCount;
        var each = Math.Min(150, scene.FrameCount / cores);
        var lists = Enumerable.Range(0, cores).Select(c => scene.Draw(c * each, each)).ToArray();
        using var warm = new FilmPainter(Size.Width, Size.Height);
        for (var f = 0; f < 5; f++)
            warm.Draw(lists[0], f);
        var clock = Stopwatch.StartNew();
        Parallel.For(
            0,
            cores,
            new ParallelOptions { MaxDegreeOfParallelism = cores },
            c =>
            {
                using var painter = new FilmPainter(Size.Width, Size.Height);
                for (var f = 0; f < each; f++)
                    painter.Draw(lists[c], f);
            }
        );
        return cores * each / clock.Elapsed.TotalSeconds;
    }
}
