using Zamblo.Core.Audio;

namespace Zamblo.Media.Tests;

[Collection("ffmpeg")]
public class AudioFileTests : InFolder
{
    [Theory]
    [InlineData("a.wav", "-ar", "8000", "-ac", "2")]
    [InlineData("b.wav", "-ar", "96000", "-c:a", "pcm_s24le")]
    [InlineData("c.flac", "-ar", "44100", "-ac", "2")]
    [InlineData("d.mp3", "-ar", "44100")]
    [InlineData("e.ogg", "-ar", "48000", "-c:a", "libvorbis")]
    [InlineData("f.m4a", "-ar", "22050", "-c:a", "aac")]
    [InlineData("g.webm", "-ar", "48000", "-c:a", "libopus")]
    public async Task Every_kind_is_decoded_with_its_length_and_pitch(string name, params string[] encoding)
    {
        var path = await FfmpegAsync(name, ["-f", "lavfi", "-i", "sine=frequency=440:duration=2", .. encoding]);
        var audio = await AudioFiles.DecodeAsync(path, name, 16000);
        Assert.Equal(16000, audio.SampleRate);
        Assert.Equal(2, audio.Duration, 0.08);
        var crossings = 0;
        for (var i = 4001; i < 28000; i++)
            if (audio.Samples[i - 1] < 0 && audio.Samples[i] >= 0)
                crossings++;
        Assert.Equal(440 * 1.5, crossings, 3.0);
    }

    [Fact]
    public async Task Sound_that_a_recording_left_out_is_silence_of_its_length()
    {
        var whole = await FfmpegAsync("whole.webm", "-f", "lavfi", "-i", "sine=frequency=440:duration=3", "-c:a", "libopus");
        // Packets of 20 ms; what is dropped leaves a hole in the times, as a browser's recorder does.
        var holed = await FfmpegAsync("holed.webm", "-i", whole, "-c", "copy", "-bsf:a", "noise=amount=0:drop='between(n,50,74)'");
        var audio = await AudioFiles.DecodeAsync(holed, "holed", 16000);
        Assert.Equal(3, audio.Duration, 0.05);
        Assert.True(audio.Samples.AsSpan(17600, 4800).ToArray().Max(Math.Abs) < 1e-3);
        Assert.True(audio.Samples.AsSpan(27200, 16000).ToArray().Max(Math.Abs) > 0.05);
        Assert.Equal(audio.Samples.Length, (await AudioFiles.ChannelAsync(holed, "holed", 0, 16000)).Samples.Length);
    }

    [Fact]
    public async Task A_dead_channel_does_not_halve_the_other()
    {
        var mono = await FfmpegAsync("mono.wav", "-f", "lavfi", "-i", "sine=frequency=440:duration=1");
        var half = await FfmpegAsync("half.wav", "-i", mono, "-af", "pan=stereo|c0=c0|c1=0*c0");
        var a = await AudioFiles.DecodeAsync(mono, "mono", 16000);
        var b = await AudioFiles.DecodeAsync(half, "half", 16000);
        Assert.Equal(a.Samples.Max(), b.Samples.Max(), 2);
    }

    [Theory]
    [InlineData("one", "anull")]
    [InlineData("two", "pan=stereo|c0=0.5*c0|c1=c0")]
    [InlineData("dead", "pan=stereo|c0=c0|c1=0*c0")]
    [InlineData("six", "pan=5.1|c0=c0|c1=0.4*c0|c2=c0|c3=0*c0|c4=c0|c5=0.1*c0")]
    public async Task A_file_that_is_decoded_piece_by_piece_is_the_one_that_is_decoded_whole(string name, string filter)
    {
        // Longer than a piece, at a rate that has to be changed, and too loud at times.
        var path = await FfmpegAsync(name + ".flac", "-f", "lavfi", "-i", "aevalsrc=1.3*sin(440*t*6.283)*sin(t):s=44100:d=13", "-af", filter);
        var whole = await AudioFiles.DecodeAsync(path, name, 48000);
        using var expected = new MemoryStream();
        WavFile.Write(expected, [whole.Samples], 48000);
        using var written = new MemoryStream();
        await AudioFiles.DecodeToAsync(path, name, 48000, written);
        Assert.Equal(13, whole.Duration, 0.01);
        Assert.True(expected.ToArray().AsSpan().SequenceEqual(written.ToArray()));
    }

    [Fact]
    public async Task What_is_no_sound_is_refused_with_a_sentence_that_names_it()
    {
        async Task<string> Refused(string name, byte[] bytes)
        {
            await File.WriteAllBytesAsync(PathOf(name), bytes);
            var e = await Assert.ThrowsAsync<MediaException>(() => AudioFiles.DecodeAsync(PathOf(name), name, 16000));
            Assert.Contains($"\"{name}\"", e.Message);
            Assert.EndsWith(".", e.Message);
            return e.Message;
        }
        Assert.Contains("empty", await Refused("empty.wav", []));
        Assert.Contains("not a sound file", await Refused("letter.wav", "Dear Maro, the flour is late again. Yours, the mill."u8.ToArray()));
        Assert.Contains("not a sound file", await Refused("list.m3u8", "#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n"u8.ToArray()));
        var random = new byte[20000];
        new Random(1).NextBytes(random);
        await Refused("noise.mp3", random);
        var wav = await File.ReadAllBytesAsync(await FfmpegAsync("good.wav", "-f", "lavfi", "-i", "sine=duration=1"));
        Assert.Contains("zero seconds", await Refused("zero.wav", wav[..78]));
        var flac = await File.ReadAllBytesAsync(await FfmpegAsync("good.flac", "-f", "lavfi", "-i", "sine=duration=1"));
        await Refused("corrupt.flac", flac[..60]);
        var picture = await FfmpegAsync("silent.mp4", "-f", "lavfi", "-i", "color=size=64x64:duration=1");
        Assert.Contains("no sound", await Refused("film.mp4", await File.ReadAllBytesAsync(picture)));
    }

    [Fact]
    public async Task Three_hours_are_too_long()
    {
        var path = await FfmpegAsync("long.flac", "-f", "lavfi", "-i", "anullsrc=r=8000:cl=mono", "-t", "10800");
        var e = await Assert.ThrowsAsync<MediaException>(() => AudioFiles.DecodeAsync(path, "long.flac", 16000));
        Assert.Contains("3.0 hours", e.Message);
    }

    [Fact]
    public async Task Without_ffmpeg_the_sentence_says_what_to_install()
    {
        Environment.SetEnvironmentVariable("ZAMBLO_FFPROBE", "/nowhere/ffprobe");
        try
        {
            await File.WriteAllTextAsync(PathOf("x.wav"), "x");
            var e = await Assert.ThrowsAsync<ProgramMissingException>(() => AudioFiles.ProbeAsync(PathOf("x.wav"), "x.wav"));
            Assert.Contains("install the Debian package ffmpeg", e.Message);
        }
        finally
        {
            Environment.SetEnvironmentVariable("ZAMBLO_FFPROBE", null);
        }
    }

    [Fact]
    public async Task A_program_that_hangs_is_stopped_and_one_that_floods_too()
    {
        var e = await Assert.ThrowsAsync<MediaException>(() => OutsideProgram.RunAsync("sleep", ["60"], limit: TimeSpan.FromMilliseconds(300)));
        Assert.Contains("time limit", e.Message);
        e = await Assert.ThrowsAsync<MediaException>(() => OutsideProgram.RunAsync("yes", [], maximalOutput: 1 << 20));
        Assert.Contains("size limit", e.Message);
    }
}
