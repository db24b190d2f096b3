namespace Zamblo.Core.Performance;

/// <summary>
/// Numbers that look random and depend on a seed and a place only, so that changing one stretch leaves the others alone
/// (SplitMix64: Steele, Lea and Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014).
/// </summary>
public readonly record struct SeededRandom(ulong Seed)
{
    /// <summary>A generator for a part, independent of its siblings.</summary>
    public SeededRandom Fork(int part) => new(Mix(Seed ^ Mix((ulong)(uint)part + 0x632BE59BD9B4E019UL)));

    /// <summary>The n-th number, 0 to just under 1.</summary>
    public double Uniform(int n) => (Mix(Seed + (ulong)(uint)n * 0x9E3779B97F4A7C15UL) >> 11) * (1.0 / (1UL << 53));

    /// <summary>The n-th number, normally distributed with mean 0 and deviation 1 (Box and Muller 1958).</summary>
    public double Normal(int n) => Math.Sqrt(-2 * Math.Log(1 - Uniform(2 * n))) * Math.Cos(2 * Math.PI * Uniform(2 * n + 1));

    private static ulong Mix(ulong z)
    {
        z += 0x9E3779B97F4A7C15UL;
        z = (z ^ z >> 30) * 0xBF58476D1CE4E5B9UL;
        z = (z ^ z >> 27) * 0x94D049BB133111EBUL;
        return z ^ z >> 31;
    }
}
