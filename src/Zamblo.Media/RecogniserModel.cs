using System.Text;
using System.Text.Json;
using Microsoft.ML.OnnxRuntime;

namespace Zamblo.Media;

/// <summary>
/// A recogniser of one language in the common form of Moonshine models: encoder_model.onnx, decoder_model_merged.onnx, and tokenizer.json with the pieces that
/// it writes words with. How many layers and heads it has is read off the decoder.
/// </summary>
internal sealed class RecogniserModel
{
    /// <summary>Its files; the pieces of the one that comes with the program are within it.</summary>
    public const string EncoderFile = "encoder_model.onnx",
        DecoderFile = "decoder_model_merged.onnx",
        TokenFile = "tokenizer.json";

    // A list of a hundred thousand pieces has about seven million letters; a longer file is none.
    private const long LongestTokens = 32L << 20;

    // Tokens per second at most in what the models were made with (from memory): of the English ones, and of those of other languages; more is a loop.
    private const double English = 6.5,
        Others = 13;

    private const string Past = "past_key_values.";

    private RecogniserModel(string name, InferenceSession encoder, InferenceSession decoder, string?[] pieces, double rate)
    {
        (Name, Encoder, Decoder, Pieces, TokensPerSecond) = (name, encoder, decoder, pieces, rate);
        var known = decoder.InputMetadata;
        var layers = known.Keys.Count(k => k.StartsWith(Past, StringComparison.Ordinal) && k.EndsWith(".decoder.key", StringComparison.Ordinal));
        var shape = known.TryGetValue($"{Past}0.decoder.key", out var key) ? key.Dimensions : [];
        if (shape is not [_, > 0 and <= 64, _, > 0 and <= 512])
            throw new MediaException($"{DecoderFile} is no decoder of this form: it has no \"{Past}0.decoder.key\" of four dimensions.");
        (Heads, HeadLength) = (shape[1], shape[3]);
        string[] all = ["decoder.key", "decoder.value", "encoder.key", "encoder.value"];
        PastNames = [.. Enumerable.Range(0, layers).SelectMany(i => all.Select(n => $"{Past}{i}.{n}"))];
        Inputs = ["input_ids", "encoder_hidden_states", "use_cache_branch", .. PastNames];
        Outputs = ["logits", .. PastNames.Select(n => n.Replace("past_key_values", "present", StringComparison.Ordinal))];
        Compare(DecoderFile, Inputs, known.Keys);
        Compare(DecoderFile, Outputs, decoder.OutputMetadata.Keys);
        Compare(EncoderFile, SoundInputs, encoder.InputMetadata.Keys);
        Compare(EncoderFile, States, encoder.OutputMetadata.Keys);
    }

    /// <summary>What tells it from others where something is kept by it; empty for the one that comes with the program.</summary>
    public string Name { get; }

    private InferenceSession Encoder { get; }

    public InferenceSession Decoder { get; }

    /// <summary>What each token stands for; "▁" begins a word, "&lt;0x41&gt;" is a byte; null for what is no text.</summary>
    public string?[] Pieces { get; }

    public int Heads { get; }

    public int HeadLength { get; }

    /// <summary>The tokens that begin and end a text.</summary>
    public int Begin { get; private init; } = 1;

    /// <inheritdoc cref="Begin"/>
    public int End { get; private init; } = 2;

    /// <summary>More than so many are no speech.</summary>
    public double TokensPerSecond { get; }

    /// <summary>What the decoder remembers, layer by layer: of the tokens, then of the sound.</summary>
    public string[] PastNames { get; }

    public string[] Inputs { get; }

    public string[] Outputs { get; }

    private static readonly string[] SoundInputs = ["input_values"],
        States = ["last_hidden_state"];

    // What a model takes and gives has to be what this form has, no less and no more.
    private static void Compare(string file, IEnumerable<string> wanted, IEnumerable<string> found)
    {
        if (wanted.Except(found).FirstOrDefault() is { } missing)
            throw new MediaException($"{file} is not of this form: it has no \"{missing}\".");
        if (found.Except(wanted).FirstOrDefault() is { } more)
            throw new MediaException($"{file} is not of this form: it has \"{more}\", too.");
    }

    /// <summary>What the decoder is told of a sound.</summary>
    /// <param name="sound">Samples at 16 kHz, 1 x N.</param>
    /// <returns>States, 1 x N x width.</returns>
    public IDisposableReadOnlyCollection<OrtValue> Hear(OrtValue sound)
    {
        using var options = new RunOptions();
        return Encoder.Run(options, SoundInputs, [sound], States);
    }

    /// <summary>The one that comes with the program.</summary>
    /// <param name="folder">Of the model.</param>
    /// <param name="pieces">That it writes.</param>
    /// <exception cref="MediaException">It is broken.</exception>
    public static RecogniserModel Own(string folder, string?[] pieces)
    {
        try
        {
            return new("", Open(folder, EncoderFile), Open(folder, DecoderFile), pieces, English);
        }
        catch (OnnxRuntimeException e)
        {
            throw new MediaException("The recogniser's model is broken: delete src/Zamblo.Media/Models/moonshine, and ./zamblo start fetches it anew.", e);
        }
    }

    /// <summary>One that somebody has brought.</summary>
    /// <param name="folder">With its three files.</param>
    /// <exception cref="MediaException">It is none, and why.</exception>
    public static RecogniserModel Brought(string folder)
    {
        try
        {
            foreach (var name in (string[])[EncoderFile, DecoderFile, TokenFile])
                if (!File.Exists(Path.Combine(folder, name)))
                    throw new MediaException($"{name} is missing.");
            var tokens = Path.Combine(folder, TokenFile);
            if (new FileInfo(tokens).Length > LongestTokens)
                throw new MediaException($"{TokenFile} is too long to be one.");
            var (pieces, begin, end) = ReadTokens(File.ReadAllText(tokens));
            // What lies there now: another model under the same name writes other words.
            var identity = $"{folder} {File.GetLastWriteTimeUtc(Path.Combine(folder, DecoderFile)).Ticks}";
            return new(identity, Open(folder, EncoderFile), Open(folder, DecoderFile), pieces, Others) { Begin = begin, End = end };
        }
        catch (OnnxRuntimeException e)
        {
            throw new MediaException($"One of the models cannot be read: {e.Message}", e);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new MediaException(e.Message, e);
        }
    }

    private static InferenceSession Open(string folder, string name) =>
        new(
            Path.Combine(folder, name),
            new SessionOptions
            {
                IntraOpNumThreads = 1,
                InterOpNumThreads = 1,
                LogSeverityLevel = OrtLoggingLevel.ORT_LOGGING_LEVEL_ERROR,
            }
        );

    /// <summary>Reads the pieces of a tokenizer.json: the vocabulary of its model by number, and which tokens are no text.</summary>
    /// <param name="json">As tokenizers are kept in the open.</param>
    /// <exception cref="MediaException">It is none.</exception>
    internal static (string?[] Pieces, int Begin, int End) ReadTokens(string json)
    {
        try
        {
            using var document = JsonDocument.Parse(json);
            var vocabulary = document
                .RootElement.GetProperty("model")
                .GetProperty("vocab")
                .EnumerateObject()
                .Select(p => (Text: p.Name, Number: p.Value.GetInt32()))
                .ToList();
            if (vocabulary.Count == 0 || vocabulary.Any(v => v.Number < 0 || v.Number >= 4 * vocabulary.Count + 1000))
                throw new MediaException($"{TokenFile} has no list of pieces.");
            var pieces = new string?[vocabulary.Max(v => v.Number) + 1];
            foreach (var (text, number) in vocabulary)
                pieces[number] = text;
            if (document.RootElement.TryGetProperty("added_tokens", out var added))
                foreach (var token in added.EnumerateArray())
                    if (token.GetProperty("id").GetInt32() is var id && id >= 0 && id < pieces.Length)
                        pieces[id] = null;
            int NumberOf(string text) =>
                vocabulary.FirstOrDefault(v => v.Text == text) is { Text: not null } found
                    ? found.Number
                    : throw new MediaException($"{TokenFile} has no \"{text}\": texts of this form begin and end with one.");
            var (begin, end) = (NumberOf("<s>"), NumberOf("</s>"));
            pieces[begin] = pieces[end] = null;
            return (pieces, begin, end);
        }
        catch (Exception e) when (e is JsonException or KeyNotFoundException or InvalidOperationException or FormatException)
        {
            throw new MediaException($"{TokenFile} is none of this form: {e.Message}", e);
        }
    }
}
