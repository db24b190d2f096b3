using System.Globalization;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>The sound of a film, scene by scene in files: an hour of it is never in memory at once.</summary>
internal static class FilmSound
{
    // Between samples a peak is higher than on them: -1 dBTP is what EBU R 128 allows, half a decibel is left for that.
    private const double PeakDb = -1.5;

    // Nearer than this, in LU, nobody hears or measures.
    private const double Near = 0.05;
    private const int Tries = 6;

    /// <summary>Writes WAV files, one a scene.</summary>
    /// <param name="parts">The scenes.</param>
    /// <param name="folder">Where to.</param>
    /// <param name="loudness">Of the whole, in LUFS; null as it is.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>Their names in the folder.</returns>
    public static async Task<List<string>> WriteAsync(IReadOnlyList<FilmPart> parts, string folder, double? loudness, CancellationToken cancel)
    {
        var names = new List<string>();
        var blocks = new List<double>();
        foreach (var part in parts)
        {
            var exact = Exact(part, await part.HeardAsync(cancel));
            if (loudness != null)
                blocks.AddRange(Loudness.Blocks([exact], AudioFiles.MasterRate));
            names.Add(string.Create(CultureInfo.InvariantCulture, $"sound-{names.Count:0000}.wav"));
            await using var file = File.Create(Path.Combine(folder, names[^1]));
            WavFile.Write(file, [exact], AudioFiles.MasterRate);
        }
        if (loudness is not { } target || Loudness.Integrated(blocks) is not (> Loudness.Silence and var now))
            return names;
        // What the limiter takes away is made good, as far as that goes.
        var gain = target - now;
        for (var i = 0; i < Tries; i++)
        {
            var missing = target - Loudness.Integrated(names.SelectMany(n => Loudness.Blocks([Louder(folder, n, gain)], AudioFiles.MasterRate)));
            gain += missing;
            if (Math.Abs(missing) < Near)
                break;
        }
        foreach (var name in names)
        {
            var samples = Louder(folder, name, gain);
            await using var file = File.Create(Path.Combine(folder, name));
            WavFile.Write(file, [samples], AudioFiles.MasterRate);
        }
        return names;
    }

    /// <summary>Writes the sound of a whole film into one file.</summary>
    /// <param name="parts">The scenes.</param>
    /// <param name="target">The file; what lies between is beside it.</param>
    /// <param name="coder">What ffmpeg is told of the codec, in words between spaces.</param>
    /// <param name="loudness">Of the whole, in LUFS; null as it is.</param>
    /// <param name="keep">Where the coded sound stays for the next film, in which perhaps only something is seen otherwise; null keeps none.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">ffmpeg is missing or failed, or the disk is full.</exception>
    public static async Task CodeAsync(IReadOnlyList<FilmPart> parts, string target, string coder, double? loudness, string? keep, CancellationToken cancel)
    {
        var folder = Path.GetDirectoryName(target)!;
        var names = await WriteAsync(parts, folder, loudness, cancel);
        var kept = keep == null ? null : Path.Combine(keep, $"heard-{await NameOfAsync(names.Select(n => Path.Combine(folder, n)), coder, cancel)}.piece");
        if (kept != null && FilmContent.Take(kept, target))
        {
            names.ForEach(n => File.Delete(Path.Combine(folder, n)));
            return;
        }
        // Uncompressed sound is joined without a gap.
        var list = Path.Combine(folder, "sounds.txt");
        await File.WriteAllLinesAsync(list, names.Select(n => $"file '{n}'"), cancel);
        var result = await OutsideProgram.RunAsync(
            "ffmpeg",
            ["-v", "error", "-nostdin", "-y", "-f", "concat", "-safe", "1", "-i", list, .. coder.Split(' '), target],
            cancel: cancel,
            files: new SandboxFiles([], [folder])
        );
        if (result.ExitCode != 0)
            throw FilmRenderer.Failure(result.Error);
        names.ForEach(n => File.Delete(Path.Combine(folder, n)));
        if (kept != null)
            FilmContent.Keep(target, kept);
    }

    // By all that is heard and how it is coded.
    private static async Task<string> NameOfAsync(IEnumerable<string> sounds, string coder, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        hash.AppendData(Encoding.UTF8.GetBytes($"{FilmChunks.Version} {coder}"));
        foreach (var path in sounds)
        {
            await using var file = File.OpenRead(path);
            hash.AppendData(await SHA256.HashDataAsync(file, cancel));
        }
        return Convert.ToHexStringLower(hash.GetHashAndReset())[..40];
    }

    // As long as the picture.
    private static float[] Exact(FilmPart part, AudioBuffer? sound)
    {
        var exact = new float[(int)Math.Round(part.Seconds * AudioFiles.MasterRate)];
        var from = (int)Math.Round(part.Scene.Rate.TimeOf(part.First) * AudioFiles.MasterRate);
        if (sound?.Samples is { } s)
            Array.Copy(s, Math.Min(from, s.Length), exact, 0, Math.Clamp(s.Length - from, 0, exact.Length));
        return exact;
    }

    /// <summary>Writes every part of the sound by itself into a ZIP of WAV files, each as long as the film: silent where it is not heard.</summary>
    /// <param name="parts">The scenes.</param>
    /// <param name="target">The ZIP.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task WriteStemsAsync(IReadOnlyList<FilmPart> parts, string target, CancellationToken cancel)
    {
        var names = parts.SelectMany(p => p.Stems).Select(s => s.Name).Distinct().ToArray();
        if (names.Length == 0)
            throw new MediaException("Nothing is heard in it: there are no stems.");
        var length = parts.Sum(p => (long)Math.Round(p.Seconds * AudioFiles.MasterRate));
        await using var zip = new FileStream(target, FileMode.Create);
        using var archive = new ZipArchive(zip, ZipArchiveMode.Create);
        for (var i = 0; i < names.Length; i++)
        {
            // Two may be called alike once what no file may be called is out of their names.
            var name = string.Create(
                CultureInfo.InvariantCulture,
                $"{i + 1:00} {string.Concat(names[i].Select(c => char.IsLetterOrDigit(c) ? c : ' ')).Trim()}.wav"
            );
            await using var entry = archive.CreateEntry(name, CompressionLevel.Fastest).Open();
            using var wav = new WavWriter(entry, 1, AudioFiles.MasterRate, length);
            foreach (var part in parts)
            {
                cancel.ThrowIfCancellationRequested();
                var stem = part.Stems.FirstOrDefault(s => s.Name == names[i]);
                wav.Write(Exact(part, stem == null ? null : await stem.Sound(cancel)));
            }
        }
    }

    private static float[] Louder(string folder, string name, double gainDb)
    {
        using var file = File.OpenRead(Path.Combine(folder, name));
        var samples = WavFile.ReadMono(file).Samples;
        Limiter.Apply(samples, AudioFiles.MasterRate, Math.Pow(10, gainDb / 20), Math.Pow(10, PeakDb / 20));
        return samples;
    }
}
