namespace Zamblo.Core.Speech;

/// <summary>
/// How well the best of all phones, whatever they are, explains each frame: the yardstick for confidence, and the score of speech that no
/// script has. Worked out once per recording, on all cores.
/// </summary>
internal sealed class Background
{
    private const int Likeliest = 10;
    private readonly float[] _best;

    /// <param name="model">The acoustic model.</param>
    /// <param name="features">Frames x 39.</param>
    /// <param name="cancel">Stops the work.</param>
    public Background(AcousticModel model, float[] features, CancellationToken cancel)
    {
        var frames = features.Length / Features.Length;
        _best = new float[frames];
        var phones = Arpabet.Phones.Where(model.HasPhone).Select(p => model.SenonesOf(model.PhoneIndex(p)).ToArray()).ToArray();
        // Small enough that a short take keeps all cores busy.
        const int block = 64;
        Parallel.For(
            0,
            (frames + block - 1) / block,
            new ParallelOptions { CancellationToken = cancel },
            () => new SenoneScorer(model),
            (b, _, scorer) =>
            {
                var scores = new float[phones.Length];
                var order = new int[phones.Length];
                for (var t = b * block; t < Math.Min(frames, (b + 1) * block); t++)
                {
                    scorer.SetFrame(features.AsSpan(t * Features.Length, Features.Length));
                    // Every other frame looks at all phones, the one after it only at those that were likeliest: its window is three fifths the same sound.
                    var all = t % 2 == 0;
                    var best = float.NegativeInfinity;
                    for (var k = 0; k < (all ? phones.Length : Likeliest); k++)
                    {
                        var phone = all ? k : order[k];
                        var own = float.NegativeInfinity;
                        foreach (var s in phones[phone])
                            own = MathF.Max(own, scorer.Score(s));
                        if (all)
                            (scores[k], order[k]) = (-own, k);
                        best = MathF.Max(best, own);
                    }
                    if (all)
                        Array.Sort(scores, order);
                    _best[t] = best;
                }
                return scorer;
            },
            _ => { }
        );
    }

    /// <summary>Log likelihood of a frame in its best phone, in nats.</summary>
    public float this[int frame] => _best[frame];
}
