using System.Text;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Draft words of English speech by the open recogniser pocketsphinx (Debian package of that name) with its own language model, out of
/// process. They are a draft: the aligner places them, and the creator corrects them.
/// </summary>
public static class WordRecogniser
{
    // Pieces are cut at pauses; two run side by side on two cores.
    private const double PieceSeconds = 12;

    /// <summary>Whether the recogniser is installed.</summary>
    public static bool IsInstalled => File.Exists("/usr/bin/pocketsphinx_continuous");

    /// <summary>The words of a recording in order, in lower case, or nothing.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="cancel">Stops the recogniser.</param>
    /// <exception cref="MediaException">It failed.</exception>
    public static async Task<IReadOnlyList<string>> RecogniseAsync(AudioBuffer audio, CancellationToken cancel = default)
    {
        var pieces = Cut(audio);
        var words = new IReadOnlyList<string>[pieces.Count];
        await Parallel.ForEachAsync(Enumerable.Range(0, pieces.Count), new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount, CancellationToken = cancel },
            async (i, stop) => words[i] = await RecognisePieceAsync(audio.Slice(pieces[i].Start, pieces[i].End), stop));
        return [.. words.SelectMany(w => w)];
    }

    private static List<(double Start, double End)> Cut(AudioBuffer audio)
    {
        var pieces = new List<(double Start, double End)>();
        foreach (var (start, end) in VoiceActivity.FromLevels(LoudnessEnvelope.LevelsDb(audio)))
        {
            double from = Math.Max(0, start - 0.2), to = Math.Min(audio.Duration, end + 0.2);
            if (pieces.Count > 0 && (to - pieces[^1].Start < PieceSeconds || from <= pieces[^1].End)) pieces[^1] = (pieces[^1].Start, to);
            else pieces.Add((from, to));
        }
        return pieces;
    }

    private static async Task<IReadOnlyList<string>> RecognisePieceAsync(AudioBuffer piece, CancellationToken cancel)
    {
        var path = Path.Combine(Path.GetTempPath(), $"zamblo-{Guid.NewGuid():N}.wav");
        try
        {
            await using (var file = File.Create(path)) WavFile.Write(file, [piece.Samples], piece.SampleRate);
            var result = await OutsideProgram.RunAsync("pocketsphinx_continuous",
                ["-infile", path, "-hmm", Path.Combine(SpeechModels.Folder, "en-us"), "-lm", Path.Combine(SpeechModels.Folder, "en-us.lm.bin"), "-dict", Path.Combine(SpeechModels.Folder, "cmudict-en-us.dict"), "-logfn", "/dev/null"],
                limit: TimeSpan.FromSeconds(60 + 10 * piece.Duration), maximalOutput: 1 << 20, cancel: cancel);
            if (result.ExitCode != 0) throw new MediaException("The word recogniser pocketsphinx failed: " + (result.Error.Trim().Split('\n').LastOrDefault() ?? ""));
            return Regex.Replace(Encoding.UTF8.GetString(result.Output), @"\[[^\]]*\]|<[^>]*>|\(\d+\)", " ").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        }
        finally
        {
            File.Delete(path);
        }
    }
}
