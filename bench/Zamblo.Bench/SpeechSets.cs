using System.Globalization;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>An utterance whose phone times are known.</summary>
/// <param name="Name">Voice and number.</param>
/// <param name="Text">What is said.</param>
/// <param name="Audio">At 16 kHz.</param>
/// <param name="Truth">The engine's phones, silences included.</param>
/// <param name="IsHeldOut">Not looked at while the engine was tuned.</param>
internal sealed record Utterance(string Name, string Text, AudioBuffer Audio, IReadOnlyList<PhoneSegment> Truth, bool IsHeldOut);

/// <summary>Sets that the benchmark makes by itself with flite and festival (Debian packages), in sentences of our own.</summary>
internal static class SpeechSets
{
    public static readonly string[] Sentences =
    [
        "The oven is hot, Bubb, and the bread will not wait for anybody.",
        "Maro put forty loaves in a row before the moon went down.",
        "You fed me at noon, and that was a hundred years ago.",
        "Three minutes, said the timer, and not a second more.",
        "A moth flew round the lamp while the flour settled on the shelf.",
        "Could you please move the jar away from the window?",
        "Every measure of rye gives the dough a darker voice.",
        "She whispered that the church bell had stopped at six.",
        "My thumb is stuck in the pudding, which is thoroughly unusual.",
        "Big brown bags of barley were piled up by the back door.",
        "Just give the yeast some sugar and keep it warm overnight.",
        "The judge from the village thinks fresh rolls should be free.",
    ];

    private static readonly string[] FliteVoices = ["slt", "rms", "awb", "kal16"];
    private static readonly (string Name, string Voice)[] Festival =
    [
        ("slt-hts", "voice_cmu_us_slt_arctic_hts"),
        ("kal", "voice_kal_diphone"),
        ("ked", "voice_ked_diphone"),
    ];

    /// <summary>Twelve sentences in six voices; odd sentences and the voices awb and kal are held out.</summary>
    public static Task<List<Utterance>> CleanAsync(string folder) => OfAsync(folder, Sentences, heldOut: true);

    /// <summary>Sentences in the six voices; or to learn from, in those of them that are never held out and one more.</summary>
    public static async Task<List<Utterance>> OfAsync(string folder, IReadOnlyList<string> sentences, bool heldOut)
    {
        var set = new List<Utterance>();
        for (var s = 0; s < sentences.Count; s++)
        {
            foreach (var voice in FliteVoices.Where(v => heldOut || v != "awb"))
            {
                var wav = Path.Combine(folder, $"flite-{voice}-{s}.wav");
                var told = await OutsideProgram.RunAsync("flite", ["-voice", voice, "-t", sentences[s], "-o", wav, "-psdur"]);
                var truth = new List<PhoneSegment>();
                double at = 0;
                foreach (Match m in Regex.Matches(System.Text.Encoding.ASCII.GetString(told.Output), @"([a-z]+):([\d.]+)"))
                {
                    var end = double.Parse(m.Groups[2].Value, CultureInfo.InvariantCulture);
                    if (end > at)
                        truth.Add(new PhoneSegment(Flite.PhoneOf(m.Groups[1].Value), at, end));
                    at = end;
                }
                set.Add(new Utterance($"flite-{voice}-{s}", sentences[s], await AudioFiles.DecodeAsync(wav, wav, 16000), truth, s % 2 == 1 || voice == "awb"));
            }
            foreach (var (name, voice) in Festival.Where(f => f.Name != (heldOut ? "ked" : "kal")))
            {
                string wav = Path.Combine(folder, $"fest-{name}-{s}.wav"),
                    segs = wav + ".segs";
                await OutsideProgram.RunAsync(
                    "festival",
                    [
                        "-b",
                        $"({voice})",
                        $"(set! u (utt.synth (Utterance Text \"{sentences[s]}\")))",
                        $"(utt.save.wave u \"{wav}\")",
                        $"(utt.save.segs u \"{segs}\")",
                    ]
                );
                if (!File.Exists(segs))
                    continue;
                var sound = await AudioFiles.DecodeAsync(wav, wav, 16000);
                set.Add(new Utterance($"fest-{name}-{s}", sentences[s], sound, Segments(segs), s % 2 == 1 || name == "kal"));
            }
        }
        return set;
    }

    /// <summary>The phones of a file of segments, as festival writes it.</summary>
    public static List<PhoneSegment> Segments(string path)
    {
        var phones = new List<PhoneSegment>();
        double at = 0;
        foreach (var row in File.ReadLines(path).SkipWhile(l => l != "#").Skip(1))
        {
            var parts = row.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            var end = double.Parse(parts[0], CultureInfo.InvariantCulture);
            if (end > at)
                phones.Add(new PhoneSegment(Flite.PhoneOf(parts[2]), at, end));
            // Where nobody sings on a note it has no length, and the next one begins earlier.
            at = Math.Max(at, end);
        }
        return phones;
    }

    /// <summary>The same with pink noise 10 dB under the speech, and one second of noise alone on each side.</summary>
    public static Utterance WithNoise(Utterance u, double snrDb = 10)
    {
        var n = u.Audio.Samples.Length + 32000;
        var noise = Pink(n, u.Name.Sum(c => c));
        double speech = u.Audio.Samples.Average(x => (double)x * x),
            power = noise.Average(x => (double)x * x);
        var gain = (float)Math.Sqrt(speech / power / Math.Pow(10, snrDb / 10));
        for (var i = 0; i < n; i++)
            noise[i] *= gain;
        for (var i = 0; i < u.Audio.Samples.Length; i++)
            noise[i + 16000] += u.Audio.Samples[i];
        List<PhoneSegment> truth = [new(Arpabet.Silence, 0, 1), .. u.Truth.Select(p => p with { Start = p.Start + 1, End = p.End + 1 })];
        truth.Add(new(Arpabet.Silence, truth[^1].End, truth[^1].End + 1));
        return u with { Audio = new AudioBuffer(noise, 16000), Truth = truth };
    }

    /// <summary>The same with another voice that speaks underneath, 12 dB down: a room in which somebody else talks on.</summary>
    public static Utterance WithTalker(Utterance u, Utterance other, double downDb = 12)
    {
        var mixed = u.Audio.Samples.ToArray();
        double own = mixed.Average(x => (double)x * x),
            power = other.Audio.Samples.Average(x => (double)x * x);
        var gain = (float)Math.Sqrt(own / power / Math.Pow(10, downDb / 10));
        for (var i = 0; i < mixed.Length; i++)
            mixed[i] += gain * other.Audio.Samples[i % other.Audio.Samples.Length];
        return u with { Audio = new AudioBuffer(mixed, 16000) };
    }

    // Energy of the sound as it comes straight over that of the echo (direct-to-reverberant ratio), in dB: a small room at arm's length, a large one
    // further away.
    private const double DirectDb = -2;

    /// <summary>
    /// The same in a room: the impulse response is white noise that decays by 60 dB in so many seconds behind the direct sound (Polack's model, "La
    /// transmission de l'énergie sonore dans les salles", 1988).
    /// </summary>
    public static Utterance InRoom(Utterance u, double rt60)
    {
        const int first = 40;
        var random = new Random(u.Name.Sum(c => c));
        var echo = new double[(int)(rt60 * 16000)];
        for (var i = first; i < echo.Length; i++)
            echo[i] = Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble()) * Math.Pow(10, -3.0 * i / echo.Length);
        var gain = Math.Sqrt(Math.Pow(10, -DirectDb / 10) / echo.Sum(e => e * e));
        var n = u.Audio.Samples.Length;
        var size = (int)System.Numerics.BitOperations.RoundUpToPowerOf2((uint)(n + echo.Length));
        var fft = new RealFft(size);
        Complex32[] x = new Complex32[size / 2 + 1],
            h = new Complex32[size / 2 + 1];
        fft.Spectrum(u.Audio.Samples, x);
        float[] response = [.. echo.Select(e => (float)(gain * e))];
        response[0] = 1;
        fft.Spectrum(response, h);
        for (var k = 0; k < x.Length; k++)
            x[k] = new Complex32(x[k].Re * h[k].Re - x[k].Im * h[k].Im, x[k].Re * h[k].Im + x[k].Im * h[k].Re);
        var wet = new float[size];
        fft.Inverse(x, wet);
        // What a microphone brings along by itself.
        for (var i = 0; i < n; i++)
            wet[i] += 2e-4f * (random.NextSingle() - 0.5f);
        return u with { Audio = new AudioBuffer(wet[..n], 16000) };
    }

    /// <summary>
    /// The same in a crowd of others who talk all the time, so many dB under the speaker all together; they begin a second before and go on after.
    /// </summary>
    public static Utterance InCrowd(Utterance u, IReadOnlyList<Utterance> others, double downDb = 5)
    {
        var n = u.Audio.Samples.Length + 32000;
        var crowd = new float[n];
        foreach (var (other, k) in others.Select((o, k) => (o, k)))
        {
            var own = (float)(1 / Math.Sqrt(other.Audio.Samples.Average(x => (double)x * x)));
            for (var i = 0; i < n; i++)
                crowd[i] += own * other.Audio.Samples[(i + 7919 * k) % other.Audio.Samples.Length];
        }
        double speech = u.Audio.Samples.Average(x => (double)x * x),
            power = crowd.Average(x => (double)x * x);
        var gain = (float)Math.Sqrt(speech / power / Math.Pow(10, downDb / 10));
        for (var i = 0; i < n; i++)
            crowd[i] *= gain;
        for (var i = 0; i < u.Audio.Samples.Length; i++)
            crowd[i + 16000] += u.Audio.Samples[i];
        List<PhoneSegment> truth = [new(Arpabet.Silence, 0, 1), .. u.Truth.Select(p => p with { Start = p.Start + 1, End = p.End + 1 })];
        truth.Add(new(Arpabet.Silence, truth[^1].End, truth[^1].End + 1));
        return u with { Audio = new AudioBuffer(crowd, 16000), Truth = truth };
    }

    // Voss and McCartney's sum of held random numbers at halving rates (Gardner, "White and brown music", Scientific American, 1978).
    /// <summary>Pink noise.</summary>
    public static float[] Pink(int count, int seed)
    {
        var random = new Random(seed);
        var rows = new float[14];
        var result = new float[count];
        for (var i = 0; i < count; i++)
        {
            var row = System.Numerics.BitOperations.TrailingZeroCount(i + 1);
            if (row < rows.Length)
                rows[row] = (float)random.NextDouble() - 0.5f;
            result[i] = rows.Sum() + (float)random.NextDouble() - 0.5f;
        }
        return result;
    }
}
