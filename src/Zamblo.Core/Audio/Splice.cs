namespace Zamblo.Core.Audio;

/// <summary>Cuts sounds together without a click at the seams.</summary>
public static class Splice
{
    /// <summary>Length of a cross-fade at a seam, in seconds.</summary>
    public const double Seam = 0.01;

    /// <summary>
    /// Lays one sound into another: what was there from <paramref name="at"/> to <paramref name="until"/> gives way. The insert starts exactly
    /// at <paramref name="at"/>, the rest follows exactly where it ends; at both seams the sounds cross-fade (linear, they add up to one).
    /// </summary>
    /// <param name="sound">What is there.</param>
    /// <param name="insert">What comes in, at the same rate.</param>
    /// <param name="at">In seconds of what is there.</param>
    /// <param name="until">In seconds of what is there; not before <paramref name="at"/>.</param>
    /// <returns>A sound of <c>at + insert.Duration + (sound.Duration - until)</c> seconds.</returns>
    /// <exception cref="ArgumentException">The rates differ.</exception>
    public static AudioBuffer Insert(AudioBuffer sound, AudioBuffer insert, double at, double until)
    {
        if (sound.SampleRate != insert.SampleRate)
            throw new ArgumentException("Sounds of two rates cannot be cut together.");
        var rate = sound.SampleRate;
        var from = Math.Clamp((int)Math.Round(at * rate), 0, sound.Samples.Length);
        var to = Math.Clamp((int)Math.Round(until * rate), from, sound.Samples.Length);
        var result = new float[from + insert.Samples.Length + sound.Samples.Length - to];
        var fade = Math.Min((int)(Seam * rate), insert.Samples.Length / 2);
        Array.Copy(sound.Samples, result, from);
        Array.Copy(insert.Samples, 0, result, from, insert.Samples.Length);
        var tail = from + insert.Samples.Length;
        Array.Copy(sound.Samples, to, result, tail, sound.Samples.Length - to);
        for (var i = 0; i < fade; i++)
        {
            var share = (i + 1f) / (fade + 1);
            // Into the insert: what was there goes on for a moment underneath; at its end what follows comes in a moment before.
            if (from > 0)
                result[from + i] = insert.Samples[i] * share + (from + i < sound.Samples.Length ? sound.Samples[from + i] * (1 - share) : 0);
            var back = insert.Samples.Length - 1 - i;
            if (to < sound.Samples.Length)
                result[from + back] = insert.Samples[back] * share + (to - 1 - i >= 0 ? sound.Samples[to - 1 - i] * (1 - share) : 0);
        }
        return new AudioBuffer(result, rate);
    }
}
