using System.Collections.Frozen;
using System.Text;
using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Draft text of speech: of English by Moonshine base (Jeffries et al. 2024, "Moonshine: Speech Recognition for Live Transcription and Voice Commands"; MIT
/// License), an encoder and decoder of attention layers, run by ONNX Runtime; of other languages by models of the same form that somebody has brought
/// (<see cref="Recognisers"/>). It says what is said, not when: the aligner places the words, and the creator corrects them.
/// </summary>
public static class WordRecogniser
{
    /// <summary>The longest piece that is listened to at once, in seconds; the model was made with up to 30.</summary>
    private const double PieceSeconds = 14;

    // Mean log likelihood of a token under which a piece is no speech that the model knows: music, laughter, another language.
    private const double LeastLikelihood = -1.1;

    // Mean log likelihood of a token from which on nothing else is tried, and how many readings are followed where it is less.
    private const double Sure = -0.15;
    private const int Width = 4;

    private const string English = "en";

    // How many tokens are looked at for the beginnings of names.
    private const int ForNames = 48;

    private static readonly Lazy<string?[]> OwnPieces = new(() =>
    {
        using var stream =
            typeof(WordRecogniser).Assembly.GetManifestResourceStream("moonshine_pieces.txt")
            ?? throw new InvalidOperationException("The program lacks the recogniser's own list of pieces.");
        string[] pieces = new StreamReader(stream, Encoding.UTF8).ReadToEnd().TrimEnd('\n').Split('\n');
        // The first three are no text: unknown, begin and end.
        return [.. pieces.Select((p, i) => i < 3 ? null : p)];
    });
    private static readonly Lazy<RecogniserModel> Own = new(() => RecogniserModel.Own(Folder, OwnPieces.Value), LazyThreadSafetyMode.PublicationOnly);

    private static readonly Lazy<FrozenSet<string>> Everyday = new(() =>
        OwnPieces.Value.OfType<string>().Where(p => p.Length > 1 && p[0] == '▁' && char.IsLower(p[1])).Select(p => p[1..]).ToFrozenSet()
    );

    /// <summary>Whether a word is so common, written small, that the model has a piece of its own for it.</summary>
    /// <param name="word">In any case.</param>
    internal static bool IsEveryday(string word) => Everyday.Value.Contains(word.ToLowerInvariant());

    /// <summary>Where the model is, where it is there.</summary>
    internal static string Folder => Path.Combine(AppContext.BaseDirectory, "Models", "moonshine");

    /// <summary>Whether words of a language can be written down.</summary>
    /// <param name="language">BCP 47 tag.</param>
    public static bool Writes(string language) =>
        Recognisers.KeyOf(language) != English
            ? Recognisers.Of(language) != null
            : new[] { RecogniserModel.EncoderFile, RecogniserModel.DecoderFile }.All(n => File.Exists(Path.Combine(Folder, n)));

    /// <summary>What is said in a recording, with punctuation.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="voiced">Where there is a voice, in seconds.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the recogniser.</param>
    /// <param name="shelf">Keeps what is done of it; null keeps nothing.</param>
    /// <param name="names">That may be said; null for none.</param>
    /// <param name="language">BCP 47 tag of what is spoken.</param>
    /// <exception cref="MediaException">The model is broken, or there is none for the language.</exception>
    public static IReadOnlyList<DraftWord> Recognise(
        AudioBuffer audio,
        IReadOnlyList<(double Start, double End)> voiced,
        Action<double>? progress = null,
        CancellationToken cancel = default,
        DraftShelf? shelf = null,
        KnownNames? names = null,
        string language = English
    )
    {
        var pieces = Cut(audio, voiced);
        if (pieces.Count == 0)
            return [];
        // Before anything runs side by side, so that what is wrong with the model is said as it is.
        var model =
            Recognisers.KeyOf(language) == English
                ? Own.Value
                : Recognisers.Of(language) ?? throw new MediaException($"There is no recogniser for \"{language}\" here.");
        var with = $"{names?.Written}{model.Name}";
        var words = new IReadOnlyList<DraftWord>[pieces.Count];
        var done = 0;
        Parallel.For(
            0,
            pieces.Count,
            new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount, CancellationToken = cancel },
            i =>
            {
                var piece = audio.Slice(pieces[i].Start, pieces[i].End);
                words[i] =
                    shelf == null ? RecognisePiece(model, piece, names, cancel) : shelf.Take(piece, () => RecognisePiece(model, piece, names, cancel), with);
                lock (words)
                    progress?.Invoke((double)++done / pieces.Count);
            }
        );
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
                int low = (int)((from + PieceSeconds / 2) * 100),
                    high = Math.Min((int)((from + PieceSeconds) * 100), levels.Length - 1);
                var best = low;
                for (var i = low; i < high; i++)
                    if (levels[i] < levels[best])
                        best = i;
                whole.Add((from, best / 100.0));
                from = best / 100.0;
            }
            whole.Add((from, end));
        }
        var pieces = new List<(double Start, double End)>();
        foreach (var (start, end) in whole)
        {
            if (pieces.Count > 0 && end - pieces[^1].Start <= PieceSeconds)
                pieces[^1] = (pieces[^1].Start, end);
            else
                pieces.Add((start, end));
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

    private static IReadOnlyList<DraftWord> RecognisePiece(RecogniserModel model, AudioBuffer piece, KnownNames? names, CancellationToken cancel)
    {
        // Under a fifth of a second the model has nothing to work on.
        if (piece.Duration < 0.2)
            return [];
        using var sound = OrtValue.CreateTensorValueFromMemory(piece.Samples, [1, piece.Samples.Length]);
        using var heard = model.Hear(sound);
        var most = (int)Math.Ceiling(piece.Duration * model.TokensPerSecond) + 4;
        var best = Search(model, heard[0], most, 1, cancel);
        // Where it is not sure, it is worth the time to follow several readings side by side.
        if (best.Mean < Sure && Search(model, heard[0], most, Width, cancel) is var other && other.Mean > best.Mean)
            best = other;
        if (best.Mean < LeastLikelihood)
            return [];
        var words = Words(WithoutLoop(best.Tokens), model.Pieces);
        if (names == null)
            return words;
        // Where something sounds like one of the names it is looked at once more, with them in mind.
        if (names.MayBeIn(words))
            words = names.Named(words, Words(WithoutLoop(Search(model, heard[0], most, Width, cancel, names).Tokens), model.Pieces));
        return names.Spelled(words);
    }

    // A row of tokens that may be what is said.
    private sealed record Reading(List<(int Token, double LogLikelihood)> Tokens, double Sum, bool IsOver)
    {
        // Of a token, the end counted as one.
        public double Mean => Sum / Math.Max(1, Tokens.Count + (IsOver ? 1 : 0));

        /// <summary>What speaks for the names in it.</summary>
        public NameTrail Names { get; init; }

        /// <summary>By which readings are compared.</summary>
        public double Score => Sum + Names.Bonus;
    }

    // The likeliest reading of so many that are followed side by side (beam search), a row of the batch each.
    private static Reading Search(RecogniserModel model, OrtValue heard, int most, int width, CancellationToken cancel, KnownNames? names = null)
    {
        using var options = new RunOptions();
        List<Reading> live = [new([], 0, false)];
        Reading? over = null;
        // The same sound in every row. What the decoder makes of it is made once, with the first token; what it remembers of the tokens grows with each.
        var states = heard.GetTensorTypeAndShape().Shape;
        int[] same = new int[width];
        var sound = Rows(heard.GetTensorDataAsSpan<float>(), 1, same);
        var memory = new float[model.PastNames.Length][];
        static bool IsOfSound(int i) => i % 4 >= 2;
        for (var step = 0; step < most && live.Count > 0; step++)
        {
            cancel.ThrowIfCancellationRequested();
            var inputs = new List<OrtValue>
            {
                OrtValue.CreateTensorValueFromMemory<long>(
                    [.. live.Select(r => r.Tokens.Count == 0 ? model.Begin : (long)r.Tokens[^1].Token)],
                    [live.Count, 1]
                ),
                Tensor(sound, width, live.Count, [states[1], states[2]]),
                OrtValue.CreateTensorValueFromMemory(new[] { step > 0 }, [1]),
            };
            for (var i = 0; i < memory.Length; i++)
                inputs.Add(
                    step == 0 ? OrtValue.CreateTensorValueFromMemory(Array.Empty<float>(), [0, model.Heads, 1, model.HeadLength])
                    : IsOfSound(i)
                        ? Tensor(memory[i], width, live.Count, [model.Heads, memory[i].Length / width / model.Heads / model.HeadLength, model.HeadLength])
                    : Tensor(memory[i], live.Count, live.Count, [model.Heads, step, model.HeadLength])
                );
            try
            {
                using var told = model.Decoder.Run(options, model.Inputs, inputs, model.Outputs);
                var next = new List<(int Row, int Token, double LogLikelihood)>();
                var logits = told[0].GetTensorDataAsSpan<float>();
                var length = logits.Length / live.Count;
                for (var row = 0; row < live.Count; row++)
                    foreach (var (token, value) in Likeliest(logits.Slice(row * length, length), names == null ? width : ForNames))
                        next.Add((row, token, value));
                var before = live;
                var rows = new List<int>();
                live = [];
                NameTrail After(int row, int token) =>
                    names == null ? default : names.After(before[row].Names, token == model.End ? null : model.Pieces[token]);
                double ScoreOf((int Row, int Token, double LogLikelihood) n) => before[n.Row].Sum + n.LogLikelihood + After(n.Row, n.Token).Bonus;
                foreach (var (row, token, value) in next.OrderByDescending(ScoreOf).Take(width))
                {
                    var (tokens, sum, trail) = (before[row].Tokens, before[row].Sum + value, After(row, token));
                    if (token != model.End)
                    {
                        live.Add(new Reading([.. tokens, (token, value)], sum, false) { Names = trail });
                        rows.Add(row);
                    }
                    else if (new Reading(tokens, sum, true) { Names = trail } is var ended && (over == null || IsBetter(ended, over)))
                        over = ended;
                }
                // A sum only falls: the others are behind for good.
                if (over != null && live.All(l => l.Score < over.Score))
                    break;
                for (var i = 0; i < memory.Length; i++)
                    if (step == 0 && IsOfSound(i))
                        memory[i] = Rows(told[i + 1].GetTensorDataAsSpan<float>(), 1, same);
                    else if (!IsOfSound(i))
                        memory[i] = Rows(told[i + 1].GetTensorDataAsSpan<float>(), before.Count, rows);
            }
            finally
            {
                foreach (var input in inputs)
                    input.Dispose();
            }
        }
        return over ?? live.MaxBy(l => l.Mean)!;
    }

    // Of a token, with what speaks for names.
    private static bool IsBetter(Reading a, Reading b) => a.Mean + a.Names.Bonus / (a.Tokens.Count + 1) > b.Mean + b.Names.Bonus / (b.Tokens.Count + 1);

    // The first rows of an array of so many, without a copy.
    private static OrtValue Tensor(float[] all, int rows, int count, long[] shape) =>
        OrtValue.CreateTensorValueFromMemory(OrtMemoryInfo.DefaultInstance, all.AsMemory(0, all.Length / rows * count), [count, .. shape]);

    // Some rows of so many.
    private static float[] Rows(ReadOnlySpan<float> all, int count, IReadOnlyList<int> rows)
    {
        var length = all.Length / count;
        var result = new float[length * rows.Count];
        for (var r = 0; r < rows.Count; r++)
            all.Slice(rows[r] * length, length).CopyTo(result.AsSpan(r * length));
        return result;
    }

    /// <summary>The same without what a decoder that has lost its way says over and over at the end.</summary>
    internal static List<(int Token, double LogLikelihood)> WithoutLoop(List<(int Token, double LogLikelihood)> tokens)
    {
        for (var length = 1; length <= 12; length++)
        {
            var times = 1;
            while (
                tokens.Count >= (times + 1) * length && Enumerable.Range(0, length).All(i => tokens[^(i + 1)].Token == tokens[^(times * length + i + 1)].Token)
            )
                times++;
            // Nobody says the same more than four times on end; a single token may be a laugh.
            if (times > (length == 1 ? 8 : 4))
                return tokens[..^((times - 1) * length)];
        }
        return tokens;
    }

    // The likeliest tokens, the first one first.
    private static (int Token, double LogLikelihood)[] Likeliest(ReadOnlySpan<float> logits, int count)
    {
        var best = new int[count];
        best.AsSpan().Fill(-1);
        for (var i = 0; i < logits.Length; i++)
        {
            if (best[^1] >= 0 && logits[i] <= logits[best[^1]])
                continue;
            var at = count - 1;
            for (; at > 0 && (best[at - 1] < 0 || logits[i] > logits[best[at - 1]]); at--)
                best[at] = best[at - 1];
            best[at] = i;
        }
        double most = logits[best[0]],
            sum = 0;
        foreach (var l in logits)
            sum += Math.Exp(l - most);
        var values = new (int, double)[count];
        for (var i = 0; i < count; i++)
            values[i] = (best[i], logits[best[i]] - most - Math.Log(sum));
        return values;
    }

    /// <summary>Words of a row of tokens; "▁" begins one, "&lt;0x41&gt;" is a byte. A word is as likely as all its tokens together; signs that
    /// nobody says ("♪") are none.</summary>
    /// <param name="tokens">One after the other.</param>
    /// <param name="pieces">What each stands for; null for those that come with the program.</param>
    internal static IReadOnlyList<DraftWord> Words(IReadOnlyList<(int Token, double LogLikelihood)> tokens, string?[]? pieces = null)
    {
        pieces ??= OwnPieces.Value;
        var words = new List<(List<byte> Bytes, double LogLikelihood)>();
        foreach (var (token, likelihood) in tokens)
        {
            if (token >= pieces.Length || pieces[token] is not { Length: > 0 } piece)
                continue;
            if (words.Count == 0 || piece[0] == '▁')
                words.Add(([], 0));
            words[^1]
                .Bytes.AddRange(
                    piece.Length == 6 && piece.StartsWith("<0x", StringComparison.Ordinal)
                        ? [Convert.ToByte(piece[3..5], 16)]
                        : Encoding.UTF8.GetBytes(piece.Replace("▁", ""))
                );
            words[^1] = words[^1] with { LogLikelihood = words[^1].LogLikelihood + likelihood };
        }
        return
        [
            .. words
                .Select(w => new DraftWord(Encoding.UTF8.GetString([.. w.Bytes]), (float)Math.Exp(w.LogLikelihood)))
                .Where(w => w.Text.Any(char.IsLetterOrDigit)),
        ];
    }
}
