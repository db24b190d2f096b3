using System.Globalization;
using System.Text.RegularExpressions;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>How a film leaves the house: loudness, codecs, chapters, stretches. ffprobe and ffmpeg's own meter are the judges.</summary>
[Collection("ffmpeg")]
public partial class FinishTests : InFolder
{
    private static readonly FrameSize Small = new(160, 90);
    private static readonly CastLibrary Cast = CastLibrary.Shipped();

    // Speech-like: bursts of a rich tone, one much louder than the others.
    private static AudioBuffer Bursts(double seconds, float level)
    {
        var samples = new float[(int)(seconds * AudioFiles.MasterRate)];
        for (var i = 0; i < samples.Length; i++)
        {
            var t = i / (double)AudioFiles.MasterRate;
            var loud = t % 1 < 0.6 ? level * (t is > 2 and < 2.2 ? 4 : 1) : 0;
            samples[i] = loud * (float)(Math.Sin(2 * Math.PI * 180 * t) + 0.6 * Math.Sin(2 * Math.PI * 900 * t) + 0.3 * Math.Sin(2 * Math.PI * 2700 * t));
        }
        return new AudioBuffer(samples, AudioFiles.MasterRate);
    }

    private static FilmPart Part(double seconds, float level = 0.1f, string title = "") =>
        new(
            new StageScene(
                Cast.Backdrop("paper"),
                [new StageMember(Cast.Character("tock"), 640, 610, 0.6f, true, [], new PerformanceDials())],
                new FrameRate(25),
                seconds
            ),
            _ => Task.FromResult(Bursts(seconds, level))
        )
        {
            Title = title,
        };

    private Task WriteAsync(IReadOnlyList<FilmPart> parts, FilmFinish finish, params string[] names) =>
        FilmOutputs.WriteAsync(parts, Small, [.. names.Select(PathOf)], PathOf("work"), null, CancellationToken.None, finish);

    // libebur128 within ffmpeg, which others have written.
    private static async Task<(double Lufs, double PeakDb)> MeasureAsync(string path)
    {
        var told = await OutsideProgram.RunAsync("ffmpeg", ["-nostats", "-i", path, "-af", "ebur128=peak=true", "-f", "null", "-"]);
        double Last(Regex what) => double.Parse(what.Matches(told.Error)[^1].Groups[1].Value, CultureInfo.InvariantCulture);
        return (Last(Integrated()), Last(Peak()));
    }

    [GeneratedRegex(@"I:\s+(-?[\d.]+) LUFS")]
    private static partial Regex Integrated();

    [GeneratedRegex(@"Peak:\s+(-?[\d.]+) dBFS")]
    private static partial Regex Peak();

    [Theory]
    [InlineData(-23)]
    [InlineData(-16)]
    [InlineData(-14)]
    public async Task Sound_comes_to_the_loudness_that_is_asked_for_and_no_peak_is_over_minus_one(double target)
    {
        // Two scenes, one soft: it is the whole that is brought there, so the one stays softer.
        FilmPart[] parts = [Part(4), Part(4, 0.02f)];
        await WriteAsync(parts, new FilmFinish(Loudness: target), "film.mp4", "film.wav");
        foreach (var name in (string[])["film.mp4", "film.wav"])
        {
            var (lufs, peak) = await MeasureAsync(PathOf(name));
            // EBU R 128 allows 0.5 LU and -1 dBTP; AAC moves peaks a little.
            Assert.InRange(lufs, target - 0.5, target + 0.5);
            Assert.InRange(peak, -60, name == "film.wav" ? -1 : -0.5);
        }
        using var sound = File.OpenRead(PathOf("film.wav"));
        var samples = WavFile.ReadMono(sound).Samples;
        Assert.Equal(8 * AudioFiles.MasterRate, samples.Length);
        static double Power(float[] x) => x.Sum(v => (double)v * v);
        Assert.True(Power(samples[..(4 * AudioFiles.MasterRate)]) > 4 * Power(samples[(4 * AudioFiles.MasterRate)..]));
    }

    [Fact]
    public async Task Without_a_target_and_in_silence_sound_is_as_it_was()
    {
        await WriteAsync([Part(2)], new FilmFinish(), "plain.wav");
        using (var sound = File.OpenRead(PathOf("plain.wav")))
            Assert.Equal(Bursts(2, 0.1f).Samples, WavFile.ReadMono(sound).Samples, (a, b) => Math.Abs(a - b) < 1e-4);
        await WriteAsync([Part(2, 0)], new FilmFinish(Loudness: -14), "silent.wav");
        using var silence = File.OpenRead(PathOf("silent.wav"));
        Assert.All(WavFile.ReadMono(silence).Samples, s => Assert.Equal(0, s));
    }

    [Theory]
    [InlineData("h264", "h264")]
    [InlineData("h265", "hevc")]
    [InlineData("av1", "av1")]
    public async Task Every_codec_has_all_frames_the_title_and_a_chapter_for_each_scene(string codec, string told)
    {
        FilmPart[] parts = [Part(2, title: "INT. OVEN; #2 = hot"), Part(1.2, title: "Street")];
        await WriteAsync(parts, new FilmFinish(codec, Title: "A \\ film"), "film.mp4");
        var streams = await ProbeAsync(PathOf("film.mp4"), "stream=codec_name,nb_frames");
        Assert.Contains($"codec_name={told}\nnb_frames=80", streams);
        Assert.Contains("codec_name=aac", streams);
        // What a shelf of films shows of it: one more picture, which is no part of the film.
        var poster = await ProbeAsync(PathOf("film.mp4"), "stream=codec_name,width,height:stream_disposition=attached_pic");
        Assert.Contains("codec_name=mjpeg\nwidth=160\nheight=90\nDISPOSITION:attached_pic=1", poster);
        var about = await ProbeAsync(PathOf("film.mp4"), "format_tags=title:chapter=start_time,end_time:chapter_tags=title");
        Assert.Contains("TAG:title=A \\ film", about);
        Assert.Contains("start_time=0.000000\nend_time=2.000000\nTAG:title=INT. OVEN; #2 = hot", about);
        Assert.Contains("start_time=2.000000\nend_time=3.200000\nTAG:title=Street", about);
        Assert.DoesNotContain(Directory.GetFileSystemEntries(Folder), f => Path.GetFileName(f) != "film.mp4");
    }

    // Structural similarity (Wang, Bovik, Sheikh and Simoncelli 2004) by ffmpeg's own meter, of what is decoded and what was drawn.
    private async Task<double> LikenessAsync(string film, string pictures)
    {
        const string like = "[1]scale=out_color_matrix=bt709:out_range=tv,format=yuv420p[drawn];[0]format=yuv420p[film];[film][drawn]ssim";
        string[] how = ["-v", "info", "-i", PathOf(film), "-framerate", "25", "-i", PathOf($"{pictures}/%06d.png"), "-lavfi", like, "-f", "null", "-"];
        var told = await OutsideProgram.RunAsync("ffmpeg", how);
        return double.Parse(Regex.Match(told.Error, @"All:([\d.]+)").Groups[1].Value, CultureInfo.InvariantCulture);
    }

    [Theory]
    [InlineData("h264", "film.mp4")]
    [InlineData("h265", "film.mp4")]
    [InlineData("av1", "film.mp4")]
    [InlineData("h264", "film.webm")]
    [InlineData("h264", "film.mov")]
    public async Task Every_codec_shows_what_was_drawn_and_is_the_same_each_time(string codec, string name)
    {
        FilmPart[] parts = [Part(2)];
        await WriteAsync(parts, new FilmFinish(codec), name, "drawn.png");
        Assert.InRange(await LikenessAsync(name, "drawn.png"), 0.975, 1);
        async Task<string> SumAsync() =>
            System.Text.Encoding.ASCII.GetString(
                (await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-i", PathOf(name), "-map", "0:v", "-f", "framemd5", "-"])).Output
            );
        var first = await SumAsync();
        File.Delete(PathOf(name));
        await WriteAsync(parts, new FilmFinish(codec), name);
        Assert.Equal(first, await SumAsync());
    }

    [Fact]
    public async Task A_stretch_is_to_the_frame_what_the_whole_has_there()
    {
        var whole = Part(4);
        await WriteAsync([whole], new FilmFinish(), "whole.png", "whole.wav");
        await WriteAsync([whole.Between(1.2, 2.5)], new FilmFinish(), "part.png", "part.wav", "part.mp4");
        var frames = Directory.GetFiles(PathOf("part.png")).Order().ToArray();
        // 1.2 s is frame 30, and the last one that begins before 2.5 s is 62.
        Assert.Equal(33, frames.Length);
        foreach (var i in (int[])[0, 16, 32])
            Assert.Equal(await File.ReadAllBytesAsync(PathOf($"whole.png/{30 + i:000000}.png")), await File.ReadAllBytesAsync(frames[i]));
        Assert.Contains("nb_frames=33", await ProbeAsync(PathOf("part.mp4"), "stream=nb_frames"));
        using FileStream all = File.OpenRead(PathOf("whole.wav")),
            some = File.OpenRead(PathOf("part.wav"));
        var sound = WavFile.ReadMono(all).Samples;
        Assert.Equal(sound[(int)(1.2 * 48000)..(int)(2.52 * 48000)], WavFile.ReadMono(some).Samples);
        var refused = await Assert.ThrowsAsync<MediaException>(() => WriteAsync([whole.Between(1, 2)], new FilmFinish(), "part.otio"));
        Assert.Contains("whole scenes only", refused.Message);
        // Beyond the ends there is nothing; a frame is the least.
        Assert.Equal((0, 100), (whole.Between(-3, 99).First, whole.Between(-3, 99).Frames));
        Assert.Equal((99, 1), (whole.Between(77, 78).First, whole.Between(77, 78).Frames));
    }
}
