using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>Sound and picture of a finished film are where they belong, and it is told where they are not.</summary>
[Collection("ffmpeg")]
public class FilmSyncTests : InFolder
{
    private static FilmPart Talk(double start)
    {
        PhoneSegment[] phones = [.. "AA B IY S UW M EH F OW P AE L".Split(' ').Select((p, i) => new PhoneSegment(p, 0.25 * i, 0.25 * (i + 1)))];
        var said = new SpeechAnalysis(3, phones, [new WordSegment("well", 0, 3)], [.. Enumerable.Repeat(-20f, 300)], SpeechSource.Engine);
        var speech = new PlacedSpeech(said, start, new MouthDials());
        var scene = new StageScene(
            CastLibrary.Shipped().Backdrop("bakery"),
            [new StageMember(CastLibrary.Shipped().Character("maro"), 640, 790, 0.9f, false, [speech], new PerformanceDials())],
            new FrameRate(25),
            start + 5
        );
        var random = new Random(5);
        var sound = new float[(int)((start + 5) * 48000)];
        for (var i = (int)(start * 48000); i < (start + 3) * 48000; i++)
            sound[i] = (float)(0.3 * (random.NextDouble() - 0.5) * (1 + Math.Sin(i / 4000.0)));
        return new FilmPart(scene, _ => Task.FromResult(new AudioBuffer(sound, 48000)));
    }

    private async Task<string> ShiftedAsync(string film, string name, params string[] how)
    {
        var told = await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-y", .. how, "-c", "copy", PathOf(name)]);
        Assert.True(told.ExitCode == 0, told.Error);
        Assert.NotEqual(film, PathOf(name));
        return PathOf(name);
    }

    [Theory]
    [InlineData("film.mp4", 1)]
    [InlineData("film.webm", 0.1)]
    public async Task A_film_s_sound_is_with_its_picture_and_what_was_moved_is_measured(string name, double start)
    {
        FilmPart[] parts = [Talk(start)];
        var film = PathOf(name);
        await FilmOutputs.WriteAsync(parts, new FrameSize(640, 360), [film], PathOf("work"), null, CancellationToken.None);
        var offset = await FilmSync.MeasureAsync(parts, film, CancellationToken.None);
        Assert.NotNull(offset);
        Assert.InRange(offset.Value, -0.01, 0.01);
        // The same streams, the one later than the other; the delay of Opus (6.5 ms) is told or not, as a container has it.
        var late = await ShiftedAsync(film, "late" + Path.GetExtension(name), "-i", film, "-itsoffset", "0.2", "-i", film, "-map", "0:v", "-map", "1:a");
        Assert.InRange((await FilmSync.MeasureAsync(parts, late, CancellationToken.None))!.Value, 0.18, 0.22);
        var early = await ShiftedAsync(film, "early" + Path.GetExtension(name), "-itsoffset", "0.12", "-i", film, "-i", film, "-map", "0:v", "-map", "1:a");
        Assert.InRange((await FilmSync.MeasureAsync(parts, early, CancellationToken.None))!.Value, -0.12 - 0.041, -0.12 + 0.041);
    }

    [Fact]
    public async Task Where_nothing_is_said_or_there_is_no_film_nothing_is_measured()
    {
        FilmPart[] parts = [Talk(0.5)];
        await File.WriteAllTextAsync(PathOf("film.mp4"), "no film");
        Assert.Null(await FilmSync.MeasureAsync(parts, PathOf("film.mp4"), CancellationToken.None));
        var silent = parts[0] with { Sound = _ => Task.FromResult(new AudioBuffer(new float[5 * 48000], 48000)) };
        await FilmOutputs.WriteAsync([silent], new FrameSize(160, 90), [PathOf("silent.mp4")], PathOf("work"), null, CancellationToken.None);
        Assert.Null(await FilmSync.MeasureAsync([silent], PathOf("silent.mp4"), CancellationToken.None));
    }
}
