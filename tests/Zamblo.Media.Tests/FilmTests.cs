using System.Diagnostics;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Lettering;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

[Collection("ffmpeg")]
public class FilmTests : InFolder
{
    private static readonly CastLibrary Cast = CastLibrary.Shipped();

    private static readonly SpeechAnalysis Said = new(
        2,
        [new("SIL", 0, 0.4), new("AA", 0.4, 1), new("B", 1, 1.12), new("AA", 1.12, 1.6), new("SIL", 1.6, 2)],
        [],
        Enumerable.Repeat(-20f, 200).ToArray(),
        SpeechSource.Engine
    );

    private static StageScene Scene(double seconds, FrameRate rate)
    {
        return new StageScene(
            Cast.Backdrop("bakery"),
            [new StageMember(Cast.Character("maro"), 640, 790, 0.62f, false, [new PlacedSpeech(Said, 0, new MouthDials())], new PerformanceDials())],
            rate,
            seconds
        );
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
        await FilmRenderer.RenderAsync(Film(scene, seconds), new FrameSize(320, 180), film, PathOf("work"), null, f => last = Math.Max(last, f));
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
        var numbers = video
            .Split('\n')
            .Where(l => l.StartsWith("start_time", StringComparison.Ordinal) || l.StartsWith("duration", StringComparison.Ordinal))
            .Select(l => double.Parse(l.Split('=')[1], System.Globalization.CultureInfo.InvariantCulture))
            .ToArray();
        Assert.Equal(0, numbers[0], 3);
        Assert.Equal(numbers[0], numbers[2], 3);
        Assert.Equal(scene.Duration, numbers[1], 0.002);
        Assert.Equal(numbers[1], numbers[3], 1024 / 48000.0);
        // Faststart: the index stands before the data (ISO/IEC 14496-12 allows both).
        var head = System.Text.Encoding.Latin1.GetString(await File.ReadAllBytesAsync(film));
        Assert.True(head.IndexOf("moov", StringComparison.Ordinal) < head.IndexOf("mdat", StringComparison.Ordinal));
        var count = await OutsideProgram.RunAsync(
            "ffprobe",
            ["-v", "error", "-count_frames", "-select_streams", "V", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", film]
        );
        Assert.Equal(scene.FrameCount, int.Parse(System.Text.Encoding.ASCII.GetString(count.Output).Trim().TrimEnd(',')));
    }

    [Fact]
    public async Task Chunks_join_without_a_seam()
    {
        // Ten seconds are three chunks; the frames' times must go on evenly across their joints.
        var scene = Scene(10, new FrameRate(25));
        await FilmRenderer.RenderAsync(Film(scene, 10), new FrameSize(160, 90), PathOf("film.mp4"), PathOf("work"));
        var times = (await ProbeAsync(PathOf("film.mp4"), "packet=pts_time,stream_index"))
            .Split('\n')
            .Chunk(2)
            .Where(c => c.Length == 2 && c[0] == "stream_index=0")
            .Select(c => double.Parse(c[1].Split('=')[1], System.Globalization.CultureInfo.InvariantCulture))
            .Order()
            .ToArray();
        Assert.Equal(250, times.Length);
        for (var i = 0; i < times.Length; i++)
            Assert.Equal(i / 25.0, times[i], 3);
    }

    [Fact]
    public async Task A_cancelled_film_goes_on_where_it_was()
    {
        var scene = Scene(16, new FrameRate(25));
        using var source = new CancellationTokenSource();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() =>
            FilmRenderer.RenderAsync(
                Film(scene, 16),
                new FrameSize(160, 90),
                PathOf("film.mp4"),
                PathOf("work"),
                null,
                f =>
                {
                    if (f > 230)
                        source.Cancel();
                },
                source.Token
            )
        );
        Assert.False(File.Exists(PathOf("film.mp4")));
        var kept = Directory.GetFiles(PathOf("work"), "chunk-*.mp4").Length;
        Assert.True(kept >= 1);
        var first = -1;
        await FilmRenderer.RenderAsync(
            Film(scene, 16),
            new FrameSize(160, 90),
            PathOf("film.mp4"),
            PathOf("work"),
            null,
            f =>
            {
                if (first < 0)
                    first = f;
            }
        );
        Assert.True(first >= kept * 100, $"started at frame {first} with {kept} chunks kept");
        Assert.Contains("duration=16.0", await ProbeAsync(PathOf("film.mp4"), "stream=duration"));
    }

    [Fact]
    public async Task A_full_disk_is_said_and_the_film_goes_on_when_there_is_room()
    {
        // A file system of 48 KiB, for as long as the test runs; only root may mount one.
        var mount = Directory.CreateDirectory(PathOf("small")).FullName;
        var mounted = (await OutsideProgram.RunAsync("mount", ["-t", "tmpfs", "-o", "size=48k", "tmpfs", mount])).ExitCode == 0;
        Assert.True(mounted, "This test needs a small file system of its own: run it as root.");
        try
        {
            var scene = Scene(8, new FrameRate(25));
            var e = await Assert.ThrowsAsync<MediaException>(() =>
                FilmRenderer.RenderAsync(Film(scene, 8), new FrameSize(640, 360), PathOf("film.mp4"), Path.Combine(mount, "work"))
            );
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
        if (good)
            Assert.Equal(new FrameSize(1280, 720), FrameSize.Parse(text));
        else
            Assert.EndsWith(".", Assert.Throws<FormatException>(() => FrameSize.Parse(text)).Message);
    }

    // Three figures, one behind the counter and two before it, one of them walking past another.
    private static StageScene Busy(string backdrop = "bakery")
    {
        StageMember Of(string key, float x, float y, float scale, bool before) =>
            new(Cast.Character(key), x, y, scale, before, [new PlacedSpeech(Said, 0.2, new MouthDials())], new PerformanceDials());
        return new StageScene(
            Cast.Backdrop(backdrop),
            [
                Of("maro", 400, 790, 0.62f, false),
                Of("bubb", 640, 640, 0.4f, true),
                Of("tock", 900, 610, 0.4f, true) with
                {
                    Walks = [new WalkSpan(0.5, 2, 500)],
                },
            ],
            new FrameRate(25),
            3
        );
    }

    [Theory]
    [InlineData(640, 360)]
    [InlineData(362, 362)]
    [InlineData(202, 360)]
    public void Frames_of_which_only_the_changes_are_drawn_are_equal_to_frames_drawn_whole(int width, int height)
    {
        using var some = new FilmPainter(width, height);
        using var whole = new FilmPainter(width, height);
        var least = 1.0;
        foreach (var scene in new[] { Busy(), Busy("paper"), Busy() })
        {
            var list = scene.Draw(0, scene.FrameCount);
            for (var f = 0; f < list.Frames.Count; f++)
            {
                Assert.True(whole.Draw(list, f, isWhole: true).AsSpan().SequenceEqual(some.Draw(list, f)), $"frame {f} differs");
                least = Math.Min(least, some.ShareDrawn);
            }
            // Backwards and by leaps, too.
            foreach (var f in new[] { 70, 3, 40, 39 })
                Assert.True(whole.Draw(list, f, isWhole: true).AsSpan().SequenceEqual(some.Draw(list, f)));
        }
        Assert.True(least < 0.9);
        // The same frame again costs nothing.
        var again = Busy().Draw(10, 1);
        some.Draw(again, 0);
        some.Draw(again, 0);
        Assert.Equal(0, some.ShareDrawn);
    }

    // Shots, pushes, captions and a name over the same three.
    private static StageScene Directed()
    {
        var bare = Busy();
        Shot[] shots =
        [
            new(0, Framing.Wide, -1, ""),
            new(0.72, Framing.Close, 0, "") { Move = CameraMove.Push },
            new(1.6, Framing.Close, 1, "") { Move = CameraMove.Drift },
            new(2.4, Framing.Medium, 0, "") { Move = CameraMove.Shake },
        ];
        var text = new PictureText(
            new LetteringDials
            {
                HasCaptions = true,
                HasLitWords = true,
                HasNames = true,
                Title = "Night Shift",
            },
            [new NamedSpeaker("Maro", "#0B6A8A", 0.3, true, []), new NamedSpeaker("Bubb", "#A34A00", null, false, [])],
            [
                new SpokenCaption(0.3, 1.4, "The oven is hot, Bubb.", 0)
                {
                    Words = [new("The oven", 0.3, 0.8), new("is hot,", 0.8, 1.1), new("Bubb.", 1.1, 1.4)],
                },
                new SpokenCaption(1.4, 2.8, "So am I.", 1),
            ],
            640,
            360,
            Typesetter.Shared
        );
        return new StageScene(Cast.Backdrop("bakery"), bare.Cast, bare.Rate, 3, text) { Shots = ShotList.Of(shots, []) };
    }

    [Fact]
    public void Any_frame_of_a_directed_film_drawn_alone_is_that_of_the_run()
    {
        var scene = Directed();
        var run = scene.Draw(0, scene.FrameCount);
        using var painter = new FilmPainter(640, 360);
        var frames = Enumerable.Range(0, scene.FrameCount).Select(f => painter.Draw(run, f).ToArray()).ToArray();
        foreach (var f in new[] { 0, 9, 18, 25, 39, 40, 41, 60, 74 })
        {
            using var alone = new FilmPainter(640, 360);
            Assert.True(alone.Draw(scene.Draw(f, 1), 0).AsSpan().SequenceEqual(frames[f]), $"frame {f} differs");
        }
    }

    [Fact]
    public async Task Cuts_lie_on_the_frames_that_the_shots_say()
    {
        var scene = Directed();
        await FilmRenderer.RenderAsync(Film(scene, 3), new FrameSize(640, 360), PathOf("film.mp4"), PathOf("work"));
        var raw = (
            await OutsideProgram.RunAsync(
                "ffmpeg",
                ["-v", "error", "-i", PathOf("film.mp4"), "-f", "rawvideo", "-pix_fmt", "gray", "-"],
                limit: TimeSpan.FromMinutes(1)
            )
        ).Output;
        const int size = 640 * 360;
        Assert.Equal(75, raw.Length / size);
        // How much a frame differs from the one before: at a cut everything does.
        double Change(int f) => Enumerable.Range(0, size / 7).Average(i => Math.Abs(raw[f * size + 7 * i] - raw[(f - 1) * size + 7 * i]));
        var jumps = Enumerable.Range(1, 74).OrderByDescending(Change).Take(3).Order();
        Assert.Equal([18, 40, 60], jumps);
        var calm = Enumerable.Range(1, 74).Except([18, 40, 60]).Max(Change);
        Assert.True(new[] { 18, 40, 60 }.Min(Change) > 2 * calm, string.Join(" ", Enumerable.Range(1, 74).Select(f => $"{f}:{Change(f):0.0}")));
        Assert.Equal([0, 18, 40, 60], Enumerable.Range(0, 4).Select(i => scene.Shots.FirstFrame(i, scene.Rate)));
    }

    [Fact]
    public void Words_of_many_scripts_have_outlines()
    {
        // Widths of capital letters of one size: an M is wider than an I in every face (common practice).
        Assert.True(Typesetter.Shared.Set("M", 40).Width > Typesetter.Shared.Set("I", 40).Width);
        // Kerning and shaping: what is set together is not the sum of its parts.
        Assert.True(Typesetter.Shared.Set("AV", 40).Width < Typesetter.Shared.Set("A", 40).Width + Typesetter.Shared.Set("V", 40).Width);
        foreach (var text in new[] { "Łódź", "Привет", "Ελλάδα", "مرحبا", "नमस्ते", "שלום", "今天很热", "こんにちは" })
        {
            var set = Typesetter.Shared.Set(text, 40);
            Assert.True(set.Width > 30, text);
            Assert.True(set.Path.Count(c => c == 'M') >= 3, text);
        }
        // Arabic letters join: the word is narrower than its letters alone.
        Assert.True(Typesetter.Shared.Set("مرحبا", 40).Width < "مرحبا".Sum(c => Typesetter.Shared.Set(c.ToString(), 40).Width));
    }

    [Fact]
    public void Words_from_the_right_stand_where_they_are_read()
    {
        // Where a letter that is only there once is drawn, left to right: a mark of it, by what is drawn without it.
        static float At(string text, string part)
        {
            var (all, without) = (Outlines(text), Outlines(text.Replace(part, "", StringComparison.Ordinal)));
            var first = all.Zip(without).TakeWhile(p => MathF.Abs(p.First - p.Second) < 0.01f).Count();
            return all[first];
        }
        static float[] Outlines(string text) =>
            [
                .. System
                    .Text.RegularExpressions.Regex.Matches(Typesetter.Shared.Set(text, 40).Path, @"M\s*(-?[\d.]+)")
                    .Select(m => float.Parse(m.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture)),
            ];
        // In a row from the left a number that follows Hebrew stands at the left of it; in one from the right Latin words keep their own order.
        var width = Typesetter.Shared.Set("שלום 12", 40).Width;
        Assert.True(Outlines("שלום 12").Min() >= 0);
        Assert.True(Typesetter.Shared.Set("12", 40).Width < 0.5f * width);
        Assert.Equal(Outlines("12")[0], Outlines("שלום 12")[0], 0.6f);
        Assert.Equal(Outlines("abc")[0], Outlines("שלום abc")[0], 0.6f);
        Assert.Equal(Outlines("abc")[0], Outlines("abc שלום")[0], 0.6f);
        Assert.True(At("abc שלום", "abc") < 0.3f * Typesetter.Shared.Set("abc שלום", 40).Width);
        // Brackets look the other way.
        Assert.NotEqual(Typesetter.Shared.Set("(", 40).Path, Typesetter.Shared.Set("ש(", 40).Path[..Typesetter.Shared.Set("(", 40).Path.Length]);
    }

    [Fact]
    public void Planes_hold_the_colours_of_the_standard()
    {
        // ITU-R BT.709-6, 3.5, 8 bits: black 16, white 235; primaries as table values of SMPTE RP 177 arithmetic, from memory, rounded.
        (byte R, byte G, byte B, int Y, int U, int V)[] colours =
        [
            (0, 0, 0, 16, 128, 128),
            (255, 255, 255, 235, 128, 128),
            (255, 0, 0, 63, 102, 240),
            (0, 255, 0, 173, 42, 26),
            (0, 0, 255, 32, 240, 118),
            (255, 255, 0, 219, 16, 138),
        ];
        foreach (var (r, g, b, y, u, v) in colours)
        {
            var picture = new PlanarPicture(6, 4, [.. Enumerable.Repeat((byte)255, 24)]);
            picture.Convert(Enumerable.Repeat(new byte[] { b, g, r, 255 }, 24).SelectMany(p => p).ToArray(), new SkiaSharp.SKRectI(0, 0, 6, 4));
            Assert.All(picture.Planes[..24], p => Assert.InRange(p, y - 1, y + 1));
            Assert.All(picture.Planes[24..30], p => Assert.InRange(p, u - 1, u + 1));
            Assert.All(picture.Planes[30..], p => Assert.InRange(p, v - 1, v + 1));
        }
    }

    private async Task<byte[]> PixelAsync(string film, double at)
    {
        var at1 = at.ToString("0.000", System.Globalization.CultureInfo.InvariantCulture);
        return (
            await OutsideProgram.RunAsync(
                "ffmpeg",
                ["-v", "error", "-ss", at1, "-i", film, "-frames:v", "1", "-vf", "crop=8:8:2:2,scale=1:1", "-f", "rawvideo", "-pix_fmt", "rgb24", "-"]
            )
        ).Output;
    }

    [Fact]
    public async Task Scenes_keep_their_own_backdrops_also_where_one_worker_draws_several()
    {
        FilmPart Part(string backdrop) => new(Busy(backdrop), _ => Task.FromResult(Tone(3)));
        await FilmRenderer.RenderAsync(
            [Part("bakery"), Part("paper"), Part("bakery"), Part("paper")],
            new FrameSize(320, 180),
            PathOf("film.mp4"),
            PathOf("work")
        );
        var pixels = new List<byte[]>();
        for (var i = 0; i < 4; i++)
            pixels.Add(await PixelAsync(PathOf("film.mp4"), 3 * i + 1));
        foreach (var (a, b, isSame) in new[] { (0, 2, true), (1, 3, true), (0, 1, false), (2, 3, false) })
            Assert.Equal(isSame, pixels[a].Zip(pixels[b]).Sum(p => Math.Abs(p.First - p.Second)) < 30);
    }

    // Twenty seconds in five pieces, with a gesture in the fourth.
    [Fact]
    public async Task Of_a_scene_in_which_something_has_changed_only_the_pieces_that_look_otherwise_are_drawn()
    {
        var wave = Gestures.Find("wave")!;
        FilmPart Part(params GestureSpan[] gestures) =>
            new(
                new StageScene(
                    Cast.Backdrop("bakery"),
                    [new StageMember(Cast.Character("maro"), 640, 790, 0.6f, true, [], new PerformanceDials()) { Gestures = gestures }],
                    new FrameRate(25),
                    20
                ),
                _ => Task.FromResult(Tone(20))
            );
        async Task<byte[]> MakeAsync(FilmPart part, string chunks)
        {
            await FilmRenderer.RenderAsync([part], new FrameSize(160, 90), PathOf("film.mp4"), PathOf("work"), new ChunkKeep(PathOf(chunks)));
            return await File.ReadAllBytesAsync(PathOf("film.mp4"));
        }
        int Drawn() => Directory.GetFiles(PathOf("chunks"), "seen-*.piece").Length;
        await MakeAsync(Part(), "chunks");
        Assert.Equal(5, Drawn());
        var changed = Part(new GestureSpan(wave, 13, 15));
        var film = await MakeAsync(changed, "chunks");
        Assert.InRange(Drawn(), 6, 7);
        // It is the film that is made without anything of the old one, byte for byte.
        Assert.Equal(await MakeAsync(changed, "others"), film);
        // Taken back, all is there.
        var pieces = Drawn();
        await MakeAsync(Part(), "chunks");
        Assert.Equal(pieces, Drawn());
        // What is heard was the same all the time, and was coded once; something else is not.
        Assert.Single(Directory.GetFiles(PathOf("chunks"), "heard-*.piece"));
        await MakeAsync(new FilmPart(Part().Scene, _ => Task.FromResult(Tone(12))), "chunks");
        Assert.Equal(2, Directory.GetFiles(PathOf("chunks"), "heard-*.piece").Length);
    }

    [Fact]
    public async Task Of_a_film_that_is_made_again_only_what_is_seen_otherwise_is_drawn()
    {
        FilmPart Part(string backdrop) => new(Busy(backdrop), _ => Task.FromResult(Tone(3)));
        async Task<int> DrawnAsync(params FilmPart[] parts)
        {
            var done = new List<int>();
            await FilmRenderer.RenderAsync(
                parts,
                new FrameSize(160, 90),
                PathOf("film.mp4"),
                PathOf("work"),
                new ChunkKeep(PathOf("chunks")),
                f =>
                {
                    lock (done)
                        done.Add(f);
                }
            );
            return parts.Sum(p => p.Scene.FrameCount) - done.Min();
        }
        Assert.Equal(150, await DrawnAsync(Part("bakery"), Part("paper")));
        Assert.Equal(0, await DrawnAsync(Part("bakery"), Part("paper")));
        // Another order is the same pictures; another figure is not.
        Assert.Equal(0, await DrawnAsync(Part("paper"), Part("bakery")));
        var other = new StageScene(
            Cast.Backdrop("paper"),
            [new StageMember(Cast.Character("tock"), 640, 610, 0.4f, true, [], new PerformanceDials())],
            new FrameRate(25),
            3
        );
        Assert.Equal(75, await DrawnAsync(Part("bakery"), new FilmPart(other, _ => Task.FromResult(Tone(3)))));
    }

    [Fact]
    public async Task A_film_into_the_folder_of_one_that_was_broken_off_takes_nothing_of_it()
    {
        // The old film is stopped after its first chunk.
        using var stop = new CancellationTokenSource();
        var old = new StageScene(Cast.Backdrop("paper"), [], new FrameRate(25), 9);
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() =>
            FilmRenderer.RenderAsync(
                [new FilmPart(old, _ => Task.FromResult(Tone(9)))],
                new FrameSize(160, 90),
                PathOf("film.mp4"),
                PathOf("work"),
                null,
                f =>
                {
                    if (Directory.GetFiles(PathOf("work"), "chunk-*.mp4").Length > 0)
                        stop.Cancel();
                },
                stop.Token
            )
        );
        Assert.NotEmpty(Directory.GetFiles(PathOf("work"), "chunk-*.mp4"));
        var now = new StageScene(Cast.Backdrop("bakery"), [], new FrameRate(25), 9);
        await FilmRenderer.RenderAsync([new FilmPart(now, _ => Task.FromResult(Tone(9)))], new FrameSize(160, 90), PathOf("film.mp4"), PathOf("work"));
        await FilmRenderer.RenderAsync([new FilmPart(now, _ => Task.FromResult(Tone(9)))], new FrameSize(160, 90), PathOf("fresh.mp4"), PathOf("fresh"));
        for (var t = 0.5; t < 9; t += 2)
            Assert.Equal(await PixelAsync(PathOf("fresh.mp4"), t), await PixelAsync(PathOf("film.mp4"), t));
    }

    private static FilmPart[] Film(StageScene scene, double seconds) => [new FilmPart(scene, _ => Task.FromResult(Tone(seconds)))];
}
