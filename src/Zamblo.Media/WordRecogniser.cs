using System.Text;
using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Draft text of English speech by Moonshine base (Jeffries et al. 2024, "Moonshine: Speech Recognition for Live Transcription and Voice Commands"; MIT
/// License), an encoder and decoder of attention layers, run by ONNX Runtime. It says what is said, not when: the aligner places the words, and the creator
/// corrects them.
/// </summary>
public static class WordRecogniser
{
    /// <summary>The longest piece that is listened to at once, in seconds; the model was made with up to 30.</summary>
    private const double PieceSeconds = 14;
    // The model's rate of tokens was at most about this in what it was made with; more is a loop.
    private const double TokensPerSecond = 6.5;
    // Mean log likelihood of a token under which a piece is no speech that the model knows: music, laughter, another language.
    private const double LeastLikelihood = -1.1;
    private const int Layers = 8, Heads = 8, HeadLength = 52, Begin = 1, End = 2;

    private static readonly Lazy<(InferenceSession Encoder, InferenceSession Decoder)> Model = new(() => (Open("encoder_model.onnx"), Open("decoder_model_merged.onnx")), LazyThreadSafetyMode.PublicationOnly);
    private static readonly Lazy<string[]> Pieces = new(() =>
    {
        using var stream = typeof(WordRecogniser).Assembly.GetManifestResourceStream("moonshine_pieces.txt") ?? throw new InvalidOperationException("The program lacks the recogniser's own list of pieces.");
        return new StreamReader(stream, Encoding.UTF8).ReadToEnd().TrimEnd('\n').Split('\n');
    });
    private static readonly string[] PastNames = [.. Enumerable.Range(0, Layers).SelectMany(i => new[] { "decoder.key", "decoder.value", "encoder.key", "encoder.value" }.Select(n => $"past_key_values.{i}.{n}"))];
    private static readonly string[] Inputs = ["input_ids", "encoder_hidden_states", "use_cache_branch", .. PastNames];
    private static readonly string[] Outputs = ["logits", .. PastNames.Select(n => n.Replace("past_key_values", "present"))];

    private static string PathOf(string name) => Path.Combine(AppContext.BaseDirectory, "Models", "moonshine", name);

    /// <summary>Whether the model is there.</summary>
    public static bool IsInstalled => File.Exists(PathOf("encoder_model.onnx")) && File.Exists(PathOf("decoder_model_merged.onnx"));

    private static InferenceSession Open(string name)
    {
        try
        {
            return new InferenceSession(PathOf(name), new SessionOptions { IntraOpNumThreads = 1, InterOpNumThreads = 1, LogSeverityLevel = OrtLoggingLevel.ORT_LOGGING_LEVEL_ERROR });
        }
        catch (OnnxRuntimeException e)
        {
            throw new MediaException($"The recogniser's model {name} is broken: delete src/Zamblo.Media/Models/moonshine, and ./zamblo start fetches it anew.", e);
        }
    }

    /// <summary>What is said in a recording, with punctuation.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="voiced">Where there is a voice, in seconds.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the recogniser.</param>
    /// <exception cref="MediaException">The model is broken.</exception>
    public static IReadOnlyList<DraftWord> Recognise(AudioBuffer audio, IReadOnlyList<(double Start, double End)> voiced, Action<double>? progress = null, CancellationToken cancel = default)
    {
        var pieces = Cut(audio, voiced);
        // Before anything runs side by side, so that what is wrong with the model is said as it is.
        if (pieces.Count > 0) _ = Model.Value;
        var words = new IReadOnlyList<DraftWord>[pieces.Count];
        var done = 0;
        Parallel.For(0, pieces.Count, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount, CancellationToken = cancel },
            i =>
            {
                words[i] = RecognisePiece(audio.Slice(pieces[i].Start, pieces[i].End), cancel);
                lock (words) progress?.Invoke((double)++done / pieces.Count);
            });
        return [.. words.SelectMany(w => w)];
    }

    /// <summary>Pieces that the model can take: cut at the longest pauses, or where the sound is faintest when nobody pauses.</summary>
    internal static List<(double Start, double End)> Cut(AudioBuffer audio, IReadOnlyList<(double Start, double End)> voiced)
    {
        var whole = new List<(double Start, double End)>();
        // Only where somebody goes on without a pause.
        float[]? levels = null;
        foreach (var (start, end) in voiced)
        {
            var from = start;
            while (end - from > PieceSeconds)
            {
                levels ??= LoudnessEnvelope.LevelsDb(audio);
                // Not near its beginning.
                int low = (int)((from + PieceSeconds / 2) * 100), high = Math.Min((int)((from + PieceSeconds) * 100), levels.Length - 1);
                var best = low;
                for (var i = low; i < high; i++)
                    if (levels[i] < levels[best]) best = i;
                whole.Add((from, best / 100.0));
                from = best / 100.0;
            }
            whole.Add((from, end));
        }
        var pieces = new List<(double Start, double End)>();
        foreach (var (start, end) in whole)
        {
            if (pieces.Count > 0 && end - pieces[^1].Start <= PieceSeconds) pieces[^1] = (pieces[^1].Start, end);
            else pieces.Add((start, end));
        }
        // A little room on both sides, but nobody else's word.
        double before = 0;
        for (var i = 0; i < pieces.Count; i++)
        {
            var (start, end) = pieces[i];
            var after = i + 1 == pieces.Count ? audio.Duration : pieces[i + 1].Start;
            pieces[i] = (Math.Max(start - 0.3, (before + start) / 2), Math.Min(end + 0.3, (end + after) / 2));
            before = end;
        }
        return pieces;
    }

    private static IReadOnlyList<DraftWord> RecognisePiece(AudioBuffer piece, CancellationToken cancel)
    {
        // Under a fifth of a second the model has nothing to work on.
        if (piece.Duration < 0.2) return [];
        var (encoder, decoder) = Model.Value;
        using var options = new RunOptions();
        using var sound = OrtValue.CreateTensorValueFromMemory(piece.Samples, [1, piece.Samples.Length]);
        using var heard = encoder.Run(options, ["input_values"], [sound], ["last_hidden_state"]);
        using var nothing = OrtValue.CreateTensorValueFromMemory(Array.Empty<float>(), [0, Heads, 1, HeadLength]);
        OrtValue[] past = [.. PastNames.Select(_ => nothing)];
        var tokens = new List<(int Token, double LogLikelihood)>();
        double likelihood = 0;
        IDisposableReadOnlyCollection<OrtValue>? first = null, last = null;
        try
        {
            var most = (int)Math.Ceiling(piece.Duration * TokensPerSecond) + 4;
            for (var token = Begin; tokens.Count < most;)
            {
                cancel.ThrowIfCancellationRequested();
                using var id = OrtValue.CreateTensorValueFromMemory(new long[] { token }, [1, 1]);
                using var cached = OrtValue.CreateTensorValueFromMemory(new[] { first != null }, [1]);
                var told = decoder.Run(options, Inputs, [id, heard[0], cached, .. past], Outputs);
                if (last != first) last?.Dispose();
                last = told;
                // What the decoder makes of the encoder's answer is made once, with the first token.
                for (var i = 0; i < past.Length; i++)
                    if (first == null || i % 4 < 2) past[i] = told[i + 1];
                first ??= told;
                (token, var value) = Likeliest(told[0].GetTensorDataAsSpan<float>());
                likelihood += value;
                if (token == End) break;
                tokens.Add((token, value));
            }
        }
        finally
        {
            if (last != first) last?.Dispose();
            first?.Dispose();
        }
        return likelihood / (tokens.Count + 1) < LeastLikelihood ? [] : Words(WithoutLoop(tokens));
    }

    /// <summary>The same without what a decoder that has lost its way says over and over at the end.</summary>
    internal static List<(int Token, double LogLikelihood)> WithoutLoop(List<(int Token, double LogLikelihood)> tokens)
    {
        for (var length = 1; length <= 12; length++)
        {
            var times = 1;
            while (tokens.Count >= (times + 1) * length && Enumerable.Range(0, length).All(i => tokens[^(i + 1)].Token == tokens[^(times * length + i + 1)].Token)) times++;
            // Nobody says the same more than four times on end; a single token may be a laugh.
            if (times > (length == 1 ? 8 : 4)) return tokens[..^((times - 1) * length)];
        }
        return tokens;
    }

    private static (int Token, double LogLikelihood) Likeliest(ReadOnlySpan<float> logits)
    {
        var best = 0;
        for (var i = 1; i < logits.Length; i++)
            if (logits[i] > logits[best]) best = i;
        double sum = 0;
        foreach (var l in logits) sum += Math.Exp(l - logits[best]);
        return (best, -Math.Log(sum));
    }

    /// <summary>Words of a row of tokens; "▁" begins one, "&lt;0x41&gt;" is a byte. A word is as likely as all its tokens together.</summary>
    internal static IReadOnlyList<DraftWord> Words(IReadOnlyList<(int Token, double LogLikelihood)> tokens)
    {
        var words = new List<(List<byte> Bytes, double LogLikelihood)>();
        foreach (var (token, likelihood) in tokens)
        {
            if (token < 3 || token >= Pieces.Value.Length) continue;
            var piece = Pieces.Value[token];
            if (words.Count == 0 || piece[0] == '▁') words.Add(([], 0));
            words[^1].Bytes.AddRange(piece.Length == 6 && piece.StartsWith("<0x", StringComparison.Ordinal) ? [Convert.ToByte(piece[3..5], 16)] : Encoding.UTF8.GetBytes(piece.Replace("▁", "")));
            words[^1] = words[^1] with { LogLikelihood = words[^1].LogLikelihood + likelihood };
        }
        return [.. words.Where(w => w.Bytes.Count > 0).Select(w => new DraftWord(Encoding.UTF8.GetString([.. w.Bytes]), (float)Math.Exp(w.LogLikelihood)))];
    }
}
