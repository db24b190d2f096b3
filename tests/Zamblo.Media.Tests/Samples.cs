using Zamblo.Core.Audio;

namespace Zamblo.Media.Tests;

/// <summary>A folder that goes away, and sounds made by ffmpeg in it.</summary>
public abstract class InFolder : IDisposable
{
    protected string Folder { get; } = Directory.CreateTempSubdirectory("zamblo-media-").FullName;
    protected const string Recordings = "/usr/share/pocketsphinx/test/data/";

    public void Dispose()
    {
        Directory.Delete(Folder, true);
        GC.SuppressFinalize(this);
    }

    protected string PathOf(string name) => Path.Combine(Folder, name);

    protected async Task<string> FfmpegAsync(string name, params string[] arguments)
    {
        var path = PathOf(name);
        var result = await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-y", .. arguments, path]);
        Assert.True(result.ExitCode == 0, result.Error);
        return path;
    }

    protected static async Task<string> ProbeAsync(string path, string entries)
    {
        var result = await OutsideProgram.RunAsync("ffprobe", ["-v", "error", "-show_entries", entries, "-of", "default=nw=1", path]);
        return System.Text.Encoding.UTF8.GetString(result.Output);
    }

    protected static AudioBuffer Tone(double seconds, int rate = 48000) =>
        new([.. Enumerable.Range(0, (int)(seconds * rate)).Select(i => 0.3f * MathF.Sin(2 * MathF.PI * 440 * i / rate))], rate);
}
