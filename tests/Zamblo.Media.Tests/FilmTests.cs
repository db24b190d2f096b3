using System.Diagnostics;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

[Collection("ffmpeg")]
public class FilmTests : InFolder
{
    private static readonly CastLibrary Cast = CastLibrary.Shipped();

    private static StageScene Scene(double seconds, FrameRate rate)
    {
        var speech = new SpeechAnalysis(2, [new("SIL", 0, 0.4), new("AA", 0.4, 1), new("B", 1, 1.12), new("AA", 1.12, 1.6), new("SIL", 1.6, 2)], [], Enumerable.Repeat(-20f, 200).ToArray(), SpeechSource.Engine);
        return new StageScene(Cast.Backdrop("bakery"), [new StageMember(Cast.Character("maro"), 640, 790, 0.62f, false, [new PlacedSpeech(speech, 0, new MouthDials())], new PerformanceDials())], rate, seconds);
    }

    [Theory]
    [InlineData("25", 2.0)]
    [InlineData("24", 1.51)]
    [InlineData("30000/1001", 1.7)]
    public async Task A_film_is_what_players_expect(string fps, double seconds)
    {
        var rate = FrameRate.Parse(fps);
        var scene = Scene(seconds, rate);
        var film = PathOf("film.mp4");
        var last = 0;
        await FilmRenderer.RenderAsync(Film(scene, seconds), new FrameSize(320, 180), film, PathOf("work"), f => last = Math.Max(last, f));
        Assert.Equal(scene.FrameCount, last);
        Assert.False(Directory.Exists(PathOf("work")));
        var video = await ProbeAsync(film, "stream=codec_name,pix_fmt,width,height,r_frame_rate,start_time,duration,sample_rate,color_space");
        Assert.Contains("codec_name=h264", video);
        Assert.Contains("pix_fmt=yuv420p", video);
        Assert.Contains("color_space=bt709", video);
        Assert.Contains("codec_name=aac", video);
        Assert.Contains("sample_rate=48000", video);
        Assert.Contains($"r_frame_rate={rate.Numerator}/{rate.Denominator}", video);
        // Sound and picture start together and have the same length: within one AAC frame of 1024 samples.
        var numbers = video.Split('\n').Where(l => l.StartsWith("start_time", StringComparison.Ordinal) || l.StartsWith("duration", StringComparison.Ordinal)).Select(l => double.Parse(l.Split('=')[1], System.Globalization.CultureInfo.InvariantCulture)).ToArray();
        Assert.Equal(0, numbers[0], 3);
        Assert.Equal(numbers[0], numbers[2], 3);
        Assert.Equal(scene.Duration, numbers[1], 0.002);
        Assert.Equal(numbers[1], numbers[3], 1024 / 48000.0);
        // Faststart: the index stands before the data (ISO/IEC 14496-12 allows both).
        var head = System.Text.Encoding.Latin1.GetString(await File.ReadAllBytesAsync(film));
        Assert.True(head.IndexOf("moov", StringComparison.Ordinal) < head.IndexOf("mdat", StringComparison.Ordinal));
        var count = await OutsideProgram.RunAsync("ffprobe", ["-v", "error", "-count_frames", "-select_streams", "v", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", film]);
        Assert.Equal(scene.FrameCount, int.Parse(System.Text.Encoding.ASCII.GetString(count.Output).Trim().TrimEnd(',')));
    }

    [Fact]
    public async Task Chunks_join_without_a_seam()
    {
        // Ten seconds are three chunks; the frames' times must go on evenly across their joints.
        var scene = Scene(10, new FrameRate(25));
        await FilmRenderer.RenderAsync(Film(scene, 10), new FrameSize(160, 90), PathOf("film.mp4"), PathOf("work"));
        var times = (await ProbeAsync(PathOf("film.mp4"), "packet=pts_time,stream_index")).Split('\n').Chunk(2).Where(c => c.Length == 2 && c[0] == "stream_index=0")
            .Select(c => double.Parse(c[1].Split('=')[1], System.Globalization.CultureInfo.InvariantCulture)).Order().ToArray();
        Assert.Equal(250, times.Length);
        for (var i = 0; i < times.Length; i++) Assert.Equal(i / 25.0, times[i], 3);
    }

    [Fact]
    public async Task A_cancelled_film_goes_on_where_it_was()
    {
        var scene = Scene(16, new FrameRate(25));
        using var source = new CancellationTokenSource();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() =>
            FilmRenderer.RenderAsync(Film(scene, 16), new FrameSize(160, 90), PathOf("film.mp4"), PathOf("work"), f => { if (f > 230) source.Cancel(); }, source.Token));
        Assert.False(File.Exists(PathOf("film.mp4")));
        var kept = Directory.GetFiles(PathOf("work"), "chunk-*.mp4").Length;
        Assert.True(kept >= 1);
        var first = -1;
        await FilmRenderer.RenderAsync(Film(scene, 16), new FrameSize(160, 90), PathOf("film.mp4"), PathOf("work"), f => { if (first < 0) first = f; });
        Assert.True(first >= kept * 100, $"started at frame {first} with {kept} chunks kept");
        Assert.Contains("duration=16.0", await ProbeAsync(PathOf("film.mp4"), "stream=duration"));
    }

    [Fact]
    public async Task A_full_disk_is_said_and_the_film_goes_on_when_there_is_room()
    {
        // A file system of 48 KiB, for as long as the test runs; only root may mount one.
        var mount = Directory.CreateDirectory(PathOf("small")).FullName;
        var mounted = (await OutsideProgram.RunAsync("mount", ["-t", "tmpfs", "-o", "size=48k", "tmpfs", mount])).ExitCode == 0;
        if (!mounted) return;
        try
        {
            var scene = Scene(8, new FrameRate(25));
            var e = await Assert.ThrowsAsync<MediaException>(() => FilmRenderer.RenderAsync(Film(scene, 8), new FrameSize(640, 360), PathOf("film.mp4"), Path.Combine(mount, "work")));
            Assert.Contains("disk is full", e.Message);
            Assert.False(File.Exists(PathOf("film.mp4")));
            await OutsideProgram.RunAsync("mount", ["-o", "remount,size=64m", mount]);
            await FilmRenderer.RenderAsync(Film(scene, 8), new FrameSize(640, 360), PathOf("film.mp4"), Path.Combine(mount, "work"));
            Assert.True(File.Exists(PathOf("film.mp4")));
        }
        finally
        {
            await OutsideProgram.RunAsync("umount", [mount]);
        }
    }

    [Theory]
    [InlineData("1280x720", true)]
    [InlineData("1281x720", false)]
    [InlineData("0x0", false)]
    [InlineData("99999x2", false)]
    [InlineData("big", false)]
    public void Sizes_that_cannot_be_encoded_are_refused(string text, bool good)
    {
        if (good) Assert.Equal(new FrameSize(1280, 720), FrameSize.Parse(text));
        else Assert.EndsWith(".", Assert.Throws<FormatException>(() => FrameSize.Parse(text)).Message);
    }

    [Fact]
    public void A_frame_drawn_behind_a_kept_backdrop_equals_one_drawn_whole()
    {
        var scene = Scene(2, new FrameRate(25));
        var list = scene.Draw(10, 3);
        using var kept = Rasteriser.ForStage(320, 180);
        using var whole = Rasteriser.ForStage(320, 180);
        kept.Draw(list, 0, scene.BackCount);
        Assert.Equal(whole.Draw(list, 2).GetPixelSpan().ToArray(), kept.Draw(list, 2, scene.BackCount).GetPixelSpan().ToArray());
    }

    private static FilmPart[] Film(StageScene scene, double seconds) => [new FilmPart(scene, _ => Task.FromResult(Tone(seconds)))];
}
