using System.Diagnostics;
using System.Text.Json;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

[Collection("ffmpeg")]
public class CommandTests : InFolder
{
    private static readonly string Cli = Path.Combine(AppContext.BaseDirectory, "Zamblo.Cli.dll");

    // Of the repository.
    internal static string Root
    {
        get
        {
            var folder = AppContext.BaseDirectory;
            while (!Directory.Exists(Path.Combine(folder, "tests", "pictures")))
                folder = Path.GetDirectoryName(folder)!;
            return folder;
        }
    }

    internal static async Task<(int Code, string Output, string Error)> RunAsync(params string[] arguments)
    {
        var result = await OutsideProgram.RunAsync("dotnet", [Cli, .. arguments], limit: TimeSpan.FromMinutes(3));
        return (result.ExitCode, System.Text.Encoding.UTF8.GetString(result.Output), result.Error);
    }

    [Fact]
    public async Task Analyze_writes_a_TextGrid_that_Praat_reads_back()
    {
        var text = PathOf("text.txt");
        await File.WriteAllTextAsync(text, "he was not an ill disposed young man");
        var (code, output, _) = await RunAsync("analyze", Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0880.wav", "--script", text);
        Assert.Equal(0, code);
        await File.WriteAllTextAsync(PathOf("a.TextGrid"), output);
        // Praat (Boersma and Weenink) is the independent reader; Debian's package praat.
        await File.WriteAllTextAsync(
            PathOf("read.praat"),
            """
            form Read
              text path
            endform
            grid = Read from file: path$
            tiers = Get number of tiers
            name$ = Get tier name: 2
            words = Get number of intervals: 1
            end = Get total duration
            appendInfoLine: tiers, " ", name$, " ", fixed$ (end, 3)
            for i to words
              label$ = Get label of interval: 1, i
              if label$ <> ""
                start = Get starting point: 1, i
                appendInfoLine: label$, " ", fixed$ (start, 2)
              endif
            endfor
            """
        );
        var praat = await OutsideProgram.RunAsync("praat", ["--run", PathOf("read.praat"), PathOf("a.TextGrid")]);
        var lines = System.Text.Encoding.UTF8.GetString(praat.Output).Trim().Split('\n');
        Assert.Equal("2 phones 2.990", lines[0]);
        Assert.Equal("he was not an ill disposed young man", string.Join(' ', lines[1..].Select(l => l.Split(' ')[0])));
    }

    [Fact]
    public async Task Lists_and_a_script_are_told_as_rows_and_as_JSON()
    {
        await File.WriteAllTextAsync(PathOf("play.fountain"), "INT. BAKERY\n\nMARO (whispering): Quiet. [sighs] It sleeps.\n\nTOCK\n\nIt rains.\n");
        var (code, output, error) = await RunAsync("script", PathOf("play.fountain"), "--json");
        Assert.Equal(0, code);
        using var script = JsonDocument.Parse(output);
        var line = Assert.Single(script.RootElement.GetProperty("lines").EnumerateArray());
        Assert.Equal(
            ["Maro", "Quiet. It sleeps.", "whispering", "Whispering", "Mischief"],
            ((string[])["name", "words", "direction", "delivery", "mood"]).Select(k => line.GetProperty(k).GetString()!)
        );
        Assert.Contains("TOCK", Assert.Single(script.RootElement.GetProperty("problems").EnumerateArray()).GetString()!);
        (code, output, error) = await RunAsync("script", PathOf("play.fountain"));
        Assert.Equal((0, "scene\tINT. BAKERY"), (code, output.Split('\n')[0]));
        Assert.Contains("line 7: not spoken (action): It rains.", error);
        foreach (var (what, key) in ((string, string)[])[("voices", "flite:awb"), ("characters", "maro"), ("sets", "bakery")])
        {
            (code, output, _) = await RunAsync(what, "--json");
            using var list = JsonDocument.Parse(output);
            Assert.Contains(list.RootElement.EnumerateArray(), v => v.GetProperty("key").GetString() == key);
            Assert.Contains((await RunAsync(what)).Output.Split('\n'), row => row.Split('\t')[0] == key);
        }
    }

    [Fact]
    public async Task A_film_is_written_in_every_form_that_its_ending_names()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "ANNA: The oven is hot.\nOTTO: (sadly) I know. [sighs] Nine minutes.\n");
        string[] endings = ["mp4", "webm", "mov", "gif", "webp", "png", "wav", "flac", "mp3", "vtt", "srt", "csv", "json", "fountain"];
        string[] outputs = [.. endings.SelectMany(e => new[] { "-o", PathOf("film." + e) })];
        var (code, _, error) = await RunAsync(["film", PathOf("play.txt"), "--size", "160x90", "--seed", "7", "--set", "street-night", .. outputs]);
        Assert.True(code == 0, error);
        var seconds = double.Parse((await ProbeAsync(PathOf("film.mp4"), "format=duration")).Split('=')[1]);
        // ffprobe is the judge: codecs and lengths.
        foreach (
            var (ending, codecs) in ((string, string)[])
                [("mp4", "h264 aac"), ("webm", "vp9 opus"), ("mov", "prores pcm_s16le"), ("gif", "gif"), ("wav", "pcm_s16le"), ("flac", "flac"), ("mp3", "mp3")]
        )
        {
            var told = await ProbeAsync(PathOf("film." + ending), "stream=codec_name:format=duration");
            foreach (var codec in codecs.Split(' '))
                Assert.Contains($"codec_name={codec}", told);
            Assert.Equal(seconds, double.Parse(System.Text.RegularExpressions.Regex.Match(told, @"duration=([\d.]+)").Groups[1].Value), 0.15);
        }
        Assert.Equal(Math.Round(seconds * 25), Directory.GetFiles(PathOf("film.png")).Length, 1.0);
        Assert.Equal("RIFF", System.Text.Encoding.ASCII.GetString((await File.ReadAllBytesAsync(PathOf("film.webp")))[..4]));
        var captions = await File.ReadAllTextAsync(PathOf("film.vtt"));
        Assert.Contains("<v Otto>I know.", captions);
        Assert.DoesNotContain("sigh", captions);
        Assert.Contains("Anna: The oven is hot.", await File.ReadAllTextAsync(PathOf("film.srt")));
        Assert.Contains("(sadly)\nI know. [sighs] Nine minutes.", (await File.ReadAllTextAsync(PathOf("film.fountain"))).ReplaceLineEndings("\n"));
        // The motion has a row for each frame and member, and the mouth of whoever speaks opens.
        var rows = (await File.ReadAllTextAsync(PathOf("film.csv"))).TrimEnd().Split("\r\n");
        Assert.StartsWith("frame,time,scene,member,mouth_open,jaw,", rows[0]);
        Assert.Contains(",head_nod,", rows[0]);
        Assert.Equal(Math.Round(seconds * 25) * 2, rows.Length - 1, 2.0);
        double Opens(string who) => rows[1..(rows.Length / 4)].Select(r => r.Split(',')).Where(r => r[3] == who).Max(r => double.Parse(r[4]));
        Assert.True(Opens("Anna") > 0.3 && Opens("Otto") < 0.1);
        using var motion = JsonDocument.Parse(await File.ReadAllTextAsync(PathOf("film.json")));
        Assert.Equal(rows.Length - 1, motion.RootElement.GetProperty("rows").GetArrayLength());
        Assert.Equal(25, motion.RootElement.GetProperty("fps").GetDouble());
        Assert.DoesNotContain(Directory.GetFileSystemEntries(Folder), f => f.Contains(".work") || Path.GetFileName(f)[0] == '.');
        (code, _, error) = await RunAsync("film", PathOf("play.txt"), "-o", PathOf("film.avi"));
        Assert.Equal((2, true), (code, error.Contains("no ending that says what it is")));
    }

    [Fact]
    public async Task Analyze_knows_all_its_formats()
    {
        var audio = PathOf("go.wav");
        await FfmpegAsync("go.wav", "-f", "s16le", "-ar", "16000", "-ac", "1", "-i", Recordings + "goforward.raw");
        var text = PathOf("go.txt");
        await File.WriteAllTextAsync(text, "Go forward ten meters.");
        var csv = await RunAsync("analyze", audio, "--script", text, "--format", "csv", "--fps", "50");
        Assert.StartsWith("time,mouth_open", csv.Output);
        Assert.InRange(csv.Output.Split('\n').Length, 138, 142);
        Assert.StartsWith("WEBVTT", (await RunAsync("analyze", audio, "--script", text, "--format", "vtt")).Output);
        Assert.Contains("-->", (await RunAsync("analyze", audio, "--script", text, "--format", "srt")).Output);
        using var json = JsonDocument.Parse((await RunAsync("analyze", audio, "--format", "json")).Output);
        Assert.Equal("recognised", json.RootElement.GetProperty("source").GetString());
        Assert.Equal(
            ["go", "forward", "ten", "meters"],
            json.RootElement.GetProperty("words")
                .EnumerateArray()
                .SelectMany(w => ScriptText.Words(w.GetProperty("text").GetString()!))
                .SelectMany(w => w.Spoken)
        );
    }

    [Fact]
    public async Task Exit_codes_tell_use_from_failure_and_errors_are_one_sentence()
    {
        foreach (
            var bad in new string[][]
            {
                ["analyze"],
                ["analyze", "x.wav", "--format", "mp3"],
                ["speak", "--voice", "espeak:en-us", "-o", "x.wav"],
                ["film", "-o", "x.mp4"],
                ["dance"],
                ["film", "a.txt", "-o", "x.mp4", "--size", "7x7"],
            }
        )
        {
            var (code, output, error) = await RunAsync(bad);
            Assert.Equal(2, code);
            Assert.Empty(output);
            Assert.NotEmpty(error.Trim());
        }
        await File.WriteAllTextAsync(PathOf("letter.wav"), "Dear Maro.");
        foreach (
            var (arguments, name) in new (string[], string)[]
            {
                (["analyze", PathOf("none.wav")], "none.wav"),
                (["analyze", PathOf("letter.wav")], "letter.wav"),
                (["film", PathOf("none.fountain"), "-o", PathOf("x.mp4")], "none.fountain"),
            }
        )
        {
            var (code, _, error) = await RunAsync(arguments);
            Assert.Equal(1, code);
            Assert.Contains(name, error);
            Assert.Single(error.Trim().Split('\n'));
        }
    }

    [Fact]
    public async Task Speak_writes_sound_and_times()
    {
        var (code, _, _) = await RunAsync(
            "speak",
            "--voice",
            "espeak:en-us",
            "--text",
            "Ding! Three minutes.",
            "-o",
            PathOf("ding.wav"),
            "--textgrid",
            PathOf("ding.TextGrid")
        );
        Assert.Equal(0, code);
        Assert.Contains("codec_name=pcm_s16le", await ProbeAsync(PathOf("ding.wav"), "stream=codec_name"));
        Assert.Contains("text = \"Three\"", await File.ReadAllTextAsync(PathOf("ding.TextGrid")));
    }

    [Fact]
    public async Task Captions_go_along_as_a_track_and_a_stretch_has_its_own()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "ANNA: The oven is hot.\nOTTO: I know.\n");
        var (code, _, error) = await RunAsync([
            "film",
            PathOf("play.txt"),
            "--size",
            "160x90",
            "--captions",
            "track",
            "--from",
            "0.2",
            "-o",
            PathOf("film.mp4"),
            "-o",
            PathOf("film.webm"),
        ]);
        Assert.True(code == 0, error);
        foreach (var name in (string[])["film.mp4", "film.webm"])
        {
            var read = await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-i", PathOf(name), "-map", "0:s", "-f", "srt", "-"]);
            var text = System.Text.Encoding.UTF8.GetString(read.Output);
            Assert.Contains("Anna: The oven is hot.", text);
            Assert.Contains("Otto: I know.", text);
            Assert.StartsWith("1\n00:00:00,", text.ReplaceLineEndings("\n"));
        }
        foreach (
            var wrong in (string[][])
                [
                    ["--from", "3", "--to", "2"],
                    ["--from", "nan"],
                    ["--from", "999"],
                    ["--loudness", "3"],
                    ["--codec", "mpeg2"],
                ]
        )
            Assert.Equal(2, (await RunAsync(["film", PathOf("play.txt"), "--size", "160x90", .. wrong, "-o", PathOf("no.mp4")])).Code);
        Assert.False(File.Exists(PathOf("no.mp4")));
    }

    [Fact]
    public async Task A_screenplay_becomes_a_film_in_one_command()
    {
        await File.WriteAllTextAsync(PathOf("p.fountain"), "INT. BAKERY - NIGHT\n\nMARO\nThe oven is hot.\n\nBUBB\nFeed me!\n\nTOCK\nDing.\n");
        var (code, _, error) = await RunAsync("film", PathOf("p.fountain"), "--size", "320x180", "-o", PathOf("p.mp4"));
        Assert.True(code == 0, error);
        Assert.Contains("Rendering 100 %", error);
        Assert.Contains("codec_name=h264", await ProbeAsync(PathOf("p.mp4"), "stream=codec_name"));
    }

    [Fact]
    public async Task A_recording_becomes_a_film_whose_mouth_follows_it()
    {
        var (code, _, error) = await RunAsync(
            "film",
            "--character",
            "maro",
            "--voice",
            Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0930.wav",
            "--size",
            "640x360",
            "-o",
            PathOf("r.mp4")
        );
        Assert.True(code == 0, error);
        // The film is the recording with its lead-in and lead-out, in whole frames.
        Assert.Contains("duration=4.6", await ProbeAsync(PathOf("r.mp4"), "format=duration"));
    }

    [Fact]
    public async Task A_production_s_file_is_made_filmed_and_looked_through()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), KeepCommandTests.Play);
        var (code, _, error) = await RunAsync("film", PathOf("play.txt"), "--camera", "calm", "--captions", "picture", "-o", PathOf("play.zamblo"));
        Assert.True(code == 0, error);
        // The film of the file is the film of the script, to the last frame; another format is another picture of it.
        string[] sounds = [PathOf("a.wav"), PathOf("b.wav")];
        Assert.Equal(0, (await RunAsync("film", PathOf("play.txt"), "-o", sounds[0], "-o", PathOf("a.csv"))).Code);
        Assert.Equal(0, (await RunAsync("film", PathOf("play.zamblo"), "-o", sounds[1], "-o", PathOf("b.csv"), "-o", PathOf("b.fountain"))).Code);
        var (first, second) = (await File.ReadAllBytesAsync(sounds[0]), await File.ReadAllBytesAsync(sounds[1]));
        Assert.Equal(first.Length, second.Length);
        // The file keeps each line with 16 bits: two lines that sound together differ by what was rounded.
        for (var i = 44; i + 1 < first.Length; i += 2)
            Assert.InRange(BitConverter.ToInt16(first, i) - BitConverter.ToInt16(second, i), -4, 4);
        Assert.Equal(await File.ReadAllTextAsync(PathOf("a.csv")), await File.ReadAllTextAsync(PathOf("b.csv")));
        Assert.Contains("I do not care.", await File.ReadAllTextAsync(PathOf("b.fountain")));
        (code, var output, error) = await RunAsync("review", PathOf("play.zamblo"), "--json");
        Assert.True(code == 0, output + error);
        Assert.Equal("[]", output.Trim());
        (code, output, _) = await RunAsync("review", PathOf("play.txt"));
        Assert.Equal(0, code);
        Assert.Equal("", output);
        await File.WriteAllTextAsync(PathOf("bad.zamblo"), "no zip");
        (code, _, error) = await RunAsync("film", PathOf("bad.zamblo"), "-o", PathOf("c.mp4"));
        Assert.Equal(1, code);
        Assert.Equal("This is no production of Zamblo, or it is damaged.", error.Trim());
    }

    [Fact]
    public async Task A_film_is_made_beside_where_one_stands_of_files_that_lie_there()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "MARO: Hot.\n");
        File.Copy(Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0930.wav", PathOf("voice.wav"));
        await File.WriteAllBytesAsync(PathOf("face.jpg"), new Portraits.PaintedFace().Picture());
        async Task HereAsync(string made, params string[] arguments)
        {
            var start = new ProcessStartInfo("dotnet", [Cli, "film", .. arguments, "-o", made])
            {
                WorkingDirectory = Path.GetDirectoryName(PathOf("play.txt"))!,
                RedirectStandardError = true,
            };
            using var process = Process.Start(start)!;
            var error = await process.StandardError.ReadToEndAsync();
            await process.WaitForExitAsync();
            Assert.True(process.ExitCode == 0, error);
            Assert.True(File.Exists(PathOf(made)));
        }
        await HereAsync("here.mp4", "play.txt", "--size", "160x90");
        await File.WriteAllTextAsync(PathOf("said.txt"), "he might even have been made amiable himself");
        await HereAsync("face.csv", "--picture", "face.jpg", "--voice", "voice.wav", "--script", "said.txt");
    }

    [Fact]
    public async Task A_picture_speaks_in_its_own_shape_or_on_a_set()
    {
        await File.WriteAllBytesAsync(
            PathOf("face.jpg"),
            new Portraits.PaintedFace
            {
                Width = 360,
                Height = 440,
                At = new(180, 190),
                Size = 72,
            }.Picture()
        );
        var voice = Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0930.wav";
        await File.WriteAllTextAsync(PathOf("said.txt"), "he might even have been made amiable himself");
        string[] says = ["--voice", voice, "--script", PathOf("said.txt")];
        var (code, _, error) = await RunAsync(["film", "--picture", PathOf("face.jpg"), .. says, "--fps", "10", "-o", PathOf("a.mp4")]);
        Assert.True(code == 0, error);
        Assert.Contains("width=1048\nheight=1280", await ProbeAsync(PathOf("a.mp4"), "stream=width,height"));
        // On a set it is cut out; and it is a member like any other, also of a production's file.
        string[] set = ["--set", "kitchen", "--camera", "lively", "--size", "320x180"];
        (code, _, error) = await RunAsync(["film", "--picture", PathOf("face.jpg"), .. says, .. set, "-o", PathOf("b.zamblo"), "-o", PathOf("b.csv")]);
        Assert.True(code == 0, error);
        (code, _, error) = await RunAsync("film", PathOf("b.zamblo"), "-o", PathOf("c.csv"));
        Assert.True(code == 0, error);
        Assert.Equal((await File.ReadAllLinesAsync(PathOf("b.csv"))).Length, (await File.ReadAllLinesAsync(PathOf("c.csv"))).Length);
        // As somebody of a screenplay.
        await File.WriteAllTextAsync(PathOf("play.txt"), "ANNA: Good morning.\nMARO: Morning.\n");
        (code, _, error) = await RunAsync("film", PathOf("play.txt"), "--cast", "ANNA=" + PathOf("face.jpg"), "-o", PathOf("d.csv"));
        Assert.True(code == 0, error);
        // A clip has another mouth, in its own size, for as long as the voice takes.
        var clip = Path.Combine(Root, "tests", "pictures", "clip.mp4");
        (code, _, error) = await RunAsync(["film", "--plate", clip, .. says, "-o", PathOf("p.mp4")]);
        Assert.True(code == 0, error);
        Assert.Contains("width=480\nheight=360", await ProbeAsync(PathOf("p.mp4"), "stream=width,height"));
        Assert.Contains("duration=4.6", await ProbeAsync(PathOf("p.mp4"), "format=duration"));
        Assert.Equal(2, (await RunAsync("film", "--plate", clip, "-o", PathOf("q.mp4"))).Code);
        // Where nobody is found, a box says where the face is.
        using (var plain = new SkiaSharp.SKBitmap(200, 200))
        {
            plain.Erase(SkiaSharp.SKColors.SteelBlue);
            using var data = plain.Encode(SkiaSharp.SKEncodedImageFormat.Png, 100);
            await File.WriteAllBytesAsync(PathOf("plain.png"), data.ToArray());
        }
        string[] start = ["film", "--picture", PathOf("plain.png"), .. says, "-o", PathOf("e.csv")];
        (code, _, error) = await RunAsync(start);
        Assert.Equal(1, code);
        Assert.Contains("No face was found", error);
        Assert.Equal(0, (await RunAsync([.. start, "--face", "40,40,120,140"])).Code);
        Assert.Equal(2, (await RunAsync([.. start, "--face", "40,40"])).Code);
        Assert.Equal(2, (await RunAsync([.. start, "--character", "maro"])).Code);
    }

    [Fact]
    public async Task Without_a_set_the_ground_is_transparent_where_the_file_can_keep_it()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "MARO: Hot.\n");
        string[] targets = ["a.webm", "a.mov", "a.png", "a.mp4"];
        var (code, _, error) = await RunAsync([
            "film",
            PathOf("play.txt"),
            "--set",
            "clear",
            "--size",
            "320x180",
            .. targets.SelectMany(t => new[] { "-o", PathOf(t) }),
        ]);
        Assert.True(code == 0, error);
        var frames = Directory.GetFiles(PathOf("a.png")).Length;
        Assert.True(frames > 20);
        using var png = SkiaSharp.SKBitmap.Decode(PathOf("a.png/000010.png"));
        // The corner is empty, the middle of the picture is the baker's.
        Assert.Equal(0, png.GetPixel(4, 4).Alpha);
        Assert.Equal(255, png.GetPixel(160, 100).Alpha);
        // ffmpeg's decoders are the judge: how much shines through in the corner and in the middle of the same frame.
        foreach (var (file, decoder) in new[] { ("a.webm", new[] { "-c:v", "libvpx-vp9" }), ("a.mov", []) })
        {
            var raw = (
                await OutsideProgram.RunAsync(
                    "ffmpeg",
                    ["-v", "error", .. decoder, "-i", PathOf(file), "-vf", "select=eq(n\\,10)", "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "rgba", "-"]
                )
            ).Output;
            Assert.InRange(raw[4 * (4 * 320 + 4) + 3], 0, 12);
            Assert.InRange(raw[4 * (100 * 320 + 160) + 3], 243, 255);
            var count = await OutsideProgram.RunAsync(
                "ffprobe",
                ["-v", "error", "-count_frames", "-select_streams", "V", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", PathOf(file)]
            );
            Assert.Equal(frames.ToString(), System.Text.Encoding.UTF8.GetString(count.Output).Trim().TrimEnd(','));
        }
    }
}
