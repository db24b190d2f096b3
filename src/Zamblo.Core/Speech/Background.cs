namespace Zamblo.Core.Speech;

/// <summary>
/// How well the best of all phones, whatever they are, explains each frame: the yardstick for confidence, and the score of speech that no
/// script has. Worked out once per recording, on all cores.
/// </summary>
internal sealed class Background
{
    private readonly float[] _best;

    /// <param name="model">The acoustic model.</param>
    /// <param name="features">Frames x 39.</param>
    /// <param name="cancel">Stops the work.</param>
    public Background(AcousticModel model, float[] features, CancellationToken cancel)
    {
        var frames = features.Length / Features.Length;
        _best = new float[frames];
        var states = Arpabet.Phones.Where(model.HasPhone).SelectMany(p => model.SenonesOf(model.PhoneIndex(p)).ToArray()).Distinct().ToArray();
        const int block = 400;
        Parallel.For(0, (frames + block - 1) / block, new ParallelOptions { CancellationToken = cancel }, () => new SenoneScorer(model), (b, _, scorer) =>
        {
            for (var t = b * block; t < Math.Min(frames, (b + 1) * block); t++)
            {
                scorer.SetFrame(features.AsSpan(t * Features.Length, Features.Length));
                var best = float.NegativeInfinity;
                foreach (var s in states) best = MathF.Max(best, scorer.Score(s));
                _best[t] = best;
            }
            return scorer;
        }, _ => { });
    }

    /// <summary>Log likelihood of a frame in its best phone, in nats.</summary>
    public float this[int frame] => _best[frame];
}
