using System.Globalization;
using System.Text.RegularExpressions;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>What a film weighs, and what is left of its picture.</summary>
[Collection("ffmpeg")]
public class FilmSizeTests : InFolder
{
    private const int Seconds = 8;
    private static readonly FrameSize Size = new(1280, 720);

    // Two who talk in turns, one who listens, before a set with lines and grain.
    private static StageScene Talk()
    {
        PhoneSegment[] phones = [.. "AA B IY S UW M EH F OW P AE L".Split(' ').Select((p, i) => new PhoneSegment(p, 0.25 * i, 0.25 * (i + 1)))];
        var said = new SpeechAnalysis(3, phones, [new WordSegment("well", 0, 3)], [.. Enumerable.Repeat(-20f, 300)], SpeechSource.Engine);
        StageMember Of(string key, float x, float y, float scale, double start) =>
            new(
                CastLibrary.Shipped().Character(key),
                x,
                y,
                scale,
                y < 700,
                start < 0 ? [] : [new PlacedSpeech(said, start, new MouthDials())],
                new PerformanceDials()
            );
        return new StageScene(
            CastLibrary.Shipped().Backdrop("bakery"),
            [Of("maro", 400, 790, 0.62f, 0.5), Of("bubb", 640, 640, 0.4f, 4), Of("tock", 900, 610, 0.4f, -1)],
            new FrameRate(25),
            Seconds
        );
    }

    [Fact]
    public async Task An_hour_stays_under_700_megabytes_and_little_of_the_picture_is_lost()
    {
        var scene = Talk();
        var silence = new AudioBuffer(new float[Seconds * 48000], 48000);
        await FilmRenderer.RenderAsync([new FilmPart(scene, _ => Task.FromResult(silence))], Size, PathOf("film.mp4"), PathOf("work"));
        var hour = new FileInfo(PathOf("film.mp4")).Length / (double)Seconds * 3600;
        Assert.InRange(hour, 50e6, 700e6);
        // The planes as they went to the encoder.
        using (var painter = new FilmPainter(Size.Width, Size.Height))
        await using (var raw = File.Create(PathOf("raw.yuv")))
        {
            var list = scene.Draw(0, scene.FrameCount);
            for (var f = 0; f < scene.FrameCount; f++)
                raw.Write(painter.Draw(list, f));
        }
        var told = await OutsideProgram.RunAsync(
            "ffmpeg",
            [
                "-v",
                "info",
                "-i",
                PathOf("film.mp4"),
                "-f",
                "rawvideo",
                "-pix_fmt",
                "yuv420p",
                "-s",
                Size.ToString(),
                "-r",
                "25",
                "-i",
                PathOf("raw.yuv"),
                "-lavfi",
                "[0:v:0][1:v:0]ssim",
                "-f",
                "null",
                "-",
            ],
            limit: TimeSpan.FromMinutes(2)
        );
        // Structural similarity (Wang, Bovik, Sheikh and Simoncelli 2004) of ffmpeg's own meter; what is missing is grain.
        Assert.InRange(double.Parse(Regex.Match(told.Error, @"All:([\d.]+)").Groups[1].Value, CultureInfo.InvariantCulture), 0.985, 1);
    }
}
