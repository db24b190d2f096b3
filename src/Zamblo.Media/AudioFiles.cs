using System.Globalization;
using System.Runtime.InteropServices;
using System.Text.Json;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>What ffprobe says of a sound file.</summary>
/// <param name="Format">Container, as ffprobe names it.</param>
/// <param name="Codec">Encoding.</param>
/// <param name="SampleRate">In Hz.</param>
/// <param name="Channels">1 for mono.</param>
/// <param name="Duration">Seconds as the file claims, or null where it claims nothing (a browser's recording).</param>
public sealed record AudioProbe(string Format, string Codec, int SampleRate, int Channels, double? Duration);

/// <summary>Reads sound files of any common kind through ffmpeg.</summary>
public static class AudioFiles
{
    /// <summary>Longer sound is refused, in seconds.</summary>
    public const double MaximalSeconds = 2 * 3600;

    /// <summary>Sample rate of master sound, in Hz.</summary>
    public const int MasterRate = 48000;

    // A browser that is short of time leaves sound out of a recording, and says so by its times only: silence of that length takes the place.
    private const string FillHoles = "aresample=async=1:min_hard_comp=0.03";

    // Only containers that hold sound; this keeps playlists and other files that lead elsewhere out. ffmpeg does not even try another.
    private static readonly string[] Formats =
    [
        "wav",
        "w64",
        "flac",
        "mp3",
        "ogg",
        "mov",
        "mp4",
        "m4a",
        "3gp",
        "3g2",
        "mj2",
        "matroska",
        "webm",
        "aac",
        "aiff",
        "caf",
        "amr",
        "asf",
        "au",
    ];

    private static readonly string[] Guarded = ["-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", string.Join(',', Formats)];

    // Fewer bytes than any speech codec needs for a second: a file of so many bytes cannot last longer, whatever it claims.
    private const double LeastBytesPerSecond = 200;

    /// <summary>Looks into a file.</summary>
    /// <param name="path">The file on disk.</param>
    /// <param name="name">What the person calls it, for the message.</param>
    /// <param name="cancel">Stops the program.</param>
    /// <exception cref="MediaException">It holds no sound, or is empty, too long or broken; the message says which.</exception>
    public static async Task<AudioProbe> ProbeAsync(string path, string name, CancellationToken cancel = default)
    {
        var length = new FileInfo(path).Length;
        if (length == 0)
            throw new MediaException($"\"{name}\" is empty.");
        var result = await OutsideProgram.RunAsync(
            "ffprobe",
            [.. Guarded, "-show_entries", "format=format_name,duration:stream=codec_type,codec_name,sample_rate,channels,duration", "-of", "json", path],
            limit: TimeSpan.FromSeconds(30),
            maximalOutput: 1 << 20,
            cancel: cancel,
            files: SandboxFiles.Reading(path)
        );
        if (result.ExitCode != 0)
            throw new MediaException($"\"{name}\" is not a sound file that can be read.");
        using var json = JsonDocument.Parse(result.Output);
        // What ffprobe cannot tell, it leaves out.
        static string Text(JsonElement e, string property) =>
            e.ValueKind == JsonValueKind.Object && e.TryGetProperty(property, out var found) ? found.ToString() : "";
        static double? Seconds(JsonElement e) => double.TryParse(Text(e, "duration"), CultureInfo.InvariantCulture, out var v) ? v : null;
        var container = json.RootElement.TryGetProperty("format", out var f) ? f : default;
        var format = Text(container, "format_name");
        if (!format.Split(',').Any(Formats.Contains))
            throw new MediaException($"\"{name}\" is not a sound file that can be read.");
        var streams = json.RootElement.TryGetProperty("streams", out var all) ? all.EnumerateArray() : default;
        foreach (var stream in streams.Where(s => Text(s, "codec_type") == "audio"))
        {
            var duration = Seconds(stream) ?? Seconds(container);
            if (duration > MaximalSeconds)
                throw new MediaException($"\"{name}\" is {duration / 3600:0.0} hours long; at most {MaximalSeconds / 3600:0} hours can be used at once.");
            if (!int.TryParse(Text(stream, "sample_rate"), out var rate) || rate is < 1000 or > 1_000_000)
                throw new MediaException($"\"{name}\" is broken: it gives no usable sample rate.");
            if (!int.TryParse(Text(stream, "channels"), out var channels) || channels is < 1 or > 64)
                throw new MediaException($"\"{name}\" is broken: it gives no usable number of channels.");
            return Text(stream, "codec_name") is { Length: > 0 } codec
                ? new AudioProbe(format, codec, rate, channels, duration)
                : throw new MediaException($"\"{name}\" is broken, or of a kind that cannot be read.");
        }
        throw new MediaException($"\"{name}\" has no sound in it.");
    }

    /// <summary>Decodes to one channel at a given rate. A dead channel of a stereo file does not halve the other.</summary>
    /// <exception cref="MediaException">The file is broken, has no length or is too long.</exception>
    public static Task<AudioBuffer> DecodeAsync(string path, string name, int sampleRate, CancellationToken cancel = default) =>
        DecodeAsync(path, name, sampleRate, null, cancel);

    /// <summary>The same for a part of the file, without decoding what lies before it.</summary>
    public static async Task<AudioBuffer> DecodeAsync(string path, string name, int sampleRate, SoundPart? part, CancellationToken cancel = default)
    {
        var probe = await ProbeAsync(path, name, cancel);
        // The length that the file claims is mostly right: the samples then go straight to where they stay.
        var expected = Math.Min(
            part is { } q ? q.End - q.Start : probe.Duration ?? 0,
            Math.Min(MaximalSeconds, 1 + new FileInfo(path).Length / LeastBytesPerSecond)
        );
        var samples = new float[(int)Math.Round(Math.Max(0, expected) * sampleRate)];
        var other = probe.Channels == 1 ? [] : new float[samples.Length];
        var count = 0;
        var (left, right) = (0.0, 0.0);
        await StreamAsync(
            path,
            name,
            probe,
            sampleRate,
            part,
            values =>
            {
                var channels = probe.Channels == 1 ? 1 : 2;
                var more = values.Length / channels;
                if (count + more > samples.Length)
                {
                    Array.Resize(ref samples, Math.Max(count + more, samples.Length + samples.Length / 4));
                    if (channels == 2)
                        Array.Resize(ref other, samples.Length);
                }
                for (var i = 0; i < more; i++)
                    samples[count + i] = values[i * channels];
                if (channels == 2)
                {
                    for (var i = 0; i < more; i++)
                        other[count + i] = values[2 * i + 1];
                    Power(values, ref left, ref right);
                }
                count += more;
            },
            cancel
        );
        if (probe.Channels > 1)
        {
            var (l, r) = Weights(left, right);
            for (var i = 0; i < count; i++)
                samples[i] = l * samples[i] + r * other[i];
        }
        for (var i = 0; i < count; i++)
            samples[i] = Sane(samples[i]);
        if (samples.Length != count)
            Array.Resize(ref samples, count);
        return new AudioBuffer(samples, sampleRate);
    }

    /// <summary>Decodes to a WAVE file of one channel and 16 bits without ever holding the whole in memory: what <see cref="DecodeAsync(string, string, int,
    /// CancellationToken)"/> gives, rounded.</summary>
    /// <param name="path">The file on disk.</param>
    /// <param name="name">What the person calls it.</param>
    /// <param name="sampleRate">In Hz.</param>
    /// <param name="wave">Takes the file; can seek.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="MediaException">The file is broken, has no length or is too long.</exception>
    public static async Task DecodeToAsync(string path, string name, int sampleRate, Stream wave, CancellationToken cancel = default)
    {
        var probe = await ProbeAsync(path, name, cancel);
        var (l, r) = (1f, 0f);
        if (probe.Channels > 1)
        {
            // Which channel is dead, if one is, is known at the end only: two are gone through twice.
            var (left, right) = (0.0, 0.0);
            await StreamAsync(path, name, probe, sampleRate, null, values => Power(values, ref left, ref right), cancel);
            (l, r) = Weights(left, right);
        }
        using var writer = new WavWriter(wave, 1, sampleRate);
        var mixed = Array.Empty<float>();
        await StreamAsync(
            path,
            name,
            probe,
            sampleRate,
            null,
            values =>
            {
                var channels = probe.Channels == 1 ? 1 : 2;
                var more = values.Length / channels;
                if (mixed.Length < more)
                    mixed = new float[more];
                for (var i = 0; i < more; i++)
                    mixed[i] = Sane(channels == 1 ? values[i] : l * values[2 * i] + r * values[2 * i + 1]);
                writer.Write(mixed.AsSpan(0, more));
            },
            cancel
        );
    }

    private static float Sane(float value) => float.IsFinite(value) ? Math.Clamp(value, -1f, 1f) : 0;

    private static void Power(ReadOnlySpan<float> values, ref double left, ref double right)
    {
        for (var i = 0; i + 1 < values.Length; i += 2)
        {
            left += values[i] * (double)values[i];
            right += values[i + 1] * (double)values[i + 1];
        }
    }

    // Under a thousandth of the other's power (-30 dB) a channel is dead, not quiet.
    private static (float Left, float Right) Weights(double left, double right) =>
        left < right * 1e-3 ? (0f, 1f)
        : right < left * 1e-3 ? (1f, 0f)
        : (0.5f, 0.5f);

    private delegate void TakeSamples(ReadOnlySpan<float> values);

    // One channel, or two that alternate, piece by piece.
    private static async Task StreamAsync(
        string path,
        string name,
        AudioProbe probe,
        int sampleRate,
        SoundPart? part,
        TakeSamples take,
        CancellationToken cancel
    )
    {
        var channels = Math.Min(probe.Channels, 2);
        var count = 0L;
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            Samples(path, part, FillHoles, channels, sampleRate),
            limit: TimeSpan.FromMinutes(10),
            maximalOutput: (long)((MaximalSeconds + 60) * sampleRate * channels * 4),
            cancel: cancel,
            files: SandboxFiles.Reading(path),
            take: piece =>
            {
                var values = MemoryMarshal.Cast<byte, float>(piece.Span[..(piece.Length / (4 * channels) * (4 * channels))]);
                count += values.Length / channels;
                take(values);
            }
        );
        if (count == 0)
            throw new MediaException(
                result.ExitCode != 0 ? $"\"{name}\" is broken: nothing in it can be decoded." : $"\"{name}\" has a length of zero seconds."
            );
        if ((double)count / sampleRate > MaximalSeconds)
            throw new MediaException($"\"{name}\" is longer than {MaximalSeconds / 3600:0} hours.");
    }

    // What makes plain samples of a file, or of a part of it.
    private static string[] Samples(string path, SoundPart? part, string filter, int channels, int sampleRate)
    {
        string[] seek = part is { } p
            ? ["-ss", p.Start.ToString("0.######", CultureInfo.InvariantCulture), "-t", (p.End - p.Start).ToString("0.######", CultureInfo.InvariantCulture)]
            : [];
        string[] form = ["-map", "0:a:0", "-af", filter, "-ac", $"{channels}", "-ar", $"{sampleRate}", "-f", "f32le", "-"];
        return [.. Guarded, "-nostdin", .. seek, "-i", path, .. form];
    }

    /// <summary>Decodes one channel of a file.</summary>
    /// <param name="path">The file on disk.</param>
    /// <param name="name">What the person calls it.</param>
    /// <param name="channel">From 0.</param>
    /// <param name="sampleRate">In Hz.</param>
    /// <param name="part">Of the file; null for all of it.</param>
    /// <param name="cancel">Stops the program.</param>
    /// <exception cref="MediaException">It cannot be decoded.</exception>
    public static async Task<AudioBuffer> ChannelAsync(
        string path,
        string name,
        int channel,
        int sampleRate,
        SoundPart? part = null,
        CancellationToken cancel = default
    )
    {
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            Samples(path, part, $"{FillHoles},pan=mono|c0=c{channel}", 1, sampleRate),
            limit: TimeSpan.FromMinutes(10),
            maximalOutput: (long)((MaximalSeconds + 60) * sampleRate * 4),
            cancel: cancel,
            files: SandboxFiles.Reading(path)
        );
        if (result.ExitCode != 0)
            throw new MediaException($"\"{name}\" is broken: its channel {channel + 1} cannot be decoded.");
        return new AudioBuffer(MemoryMarshal.Cast<byte, float>(result.Output.AsSpan(0, result.Output.Length / 4 * 4)).ToArray(), sampleRate);
    }

    /// <summary>Changes the sample rate of sound in memory.</summary>
    public static Task<AudioBuffer> ResampleAsync(AudioBuffer audio, int sampleRate, CancellationToken cancel = default) =>
        audio.SampleRate == sampleRate ? Task.FromResult(audio) : FilterAsync(audio, null, sampleRate, cancel);

    /// <summary>Makes sound slower or faster without changing its pitch.</summary>
    /// <param name="audio">Any rate.</param>
    /// <param name="speed">0.25 to 4; 0.5 is twice as long.</param>
    /// <param name="cancel">Stops the program.</param>
    public static Task<AudioBuffer> StretchAsync(AudioBuffer audio, double speed, CancellationToken cancel = default) =>
        speed == 1
            ? Task.FromResult(audio)
            : FilterAsync(audio, string.Create(CultureInfo.InvariantCulture, $"rubberband=tempo={Math.Clamp(speed, 0.25, 4)}"), audio.SampleRate, cancel);

    internal static async Task<AudioBuffer> FilterAsync(AudioBuffer audio, string? filter, int sampleRate, CancellationToken cancel)
    {
        string[] filters = filter == null ? [] : ["-af", filter];
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            ["-v", "error", "-f", "f32le", "-ar", $"{audio.SampleRate}", "-ac", "1", "-i", "-", .. filters, "-ar", $"{sampleRate}", "-f", "f32le", "-"],
            MemoryMarshal.AsBytes(audio.Samples.AsSpan()).ToArray(),
            cancel: cancel,
            files: SandboxFiles.None
        );
        if (result.ExitCode != 0)
            throw new MediaException("The sound could not be converted: " + result.Error.Trim());
        return new AudioBuffer(MemoryMarshal.Cast<byte, float>(result.Output).ToArray(), sampleRate);
    }
}
