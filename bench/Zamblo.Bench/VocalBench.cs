using System.Diagnostics;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>Laughs, sobs, breaths and the like: are they found and named, is no word laid on them, is nothing taken for them that is speech?</summary>
internal static class VocalBench
{
    // A breath in is told but not counted as wrong: voices have them, and no set says where.
    private static bool Counts(VocalSound s) => s.Kind != VocalSoundKind.Breath;

    public static async Task RunAsync(string folder, IReadOnlyList<Utterance> set)
    {
        var takes = await VocalSets.MakeAsync(folder, set);
        Console.WriteLine($"{takes.Count} sounds between words, of them {takes.Count(t => t.Name.StartsWith("recorded", StringComparison.Ordinal))} recorded");
        var clock = Stopwatch.StartNew();
        var found = takes.ToDictionary(t => t, t => VocalSounds.Find(t.Audio, VocalSoundNet.Tell));
        Console.WriteLine(FormattableString.Invariant($"found {takes.Sum(t => t.Audio.Duration) / clock.Elapsed.TotalSeconds:0} x real time"));
        foreach (var kind in takes.Select(t => t.Truth.Kind).Distinct())
        foreach (var recorded in (bool[])[false, true])
        {
            VocalTake[] own = [.. takes.Where(t => t.Truth.Kind == kind && t.Name.StartsWith("recorded", StringComparison.Ordinal) == recorded)];
            if (own.Length == 0)
                continue;
            VocalTake[] named = [.. own.Where(t => Share(t, found[t].Where(s => s.Kind == kind)) >= 0.5)];
            var told = own.Count(t => Share(t, found[t].Where(Counts)) >= 0.5);
            Console.WriteLine($"{kind, -8} {(recorded ? "recorded" : "made"), -9} named {named.Length} of {own.Length}, found as any kind {told}");
            foreach (var t in own.Except(named))
                Console.WriteLine($"  missed {t.Name} {At(t.Truth)}: {string.Join(", ", found[t].Select(At))}");
        }
        var outside = takes.Sum(t => found[t].Where(Counts).Sum(s => s.Duration - Overlap(s, t.Truth)));
        var speech = takes.Sum(t => t.Audio.Duration - t.Truth.Duration);
        Console.WriteLine(FormattableString.Invariant($"of the words before and after {100 * outside / speech:0.00} % taken for such a sound"));
        var own16 = SpeechModels.Analyzer;
        var deaf = new SpeechAnalyzer(own16.Model, own16.Dictionary, voice: VoiceModel.Probabilities);
        foreach (
            var (name, listener, script) in new (string, SpeechAnalyzer, Func<VocalTake, string?>)[]
            {
                ("script", own16, t => t.Text),
                ("script, not told", deaf, t => t.Text),
                ("none", own16, _ => null),
            }
        )
        {
            double open = 0,
                all = 0;
            var words = 0;
            foreach (var t in takes)
            {
                var analysis = listener.Analyze(t.Audio, script(t));
                words += analysis.Words.Count(w => Math.Min(w.End, t.Truth.End) - Math.Max(w.Start, t.Truth.Start) > 0.5 * (w.End - w.Start));
                all += t.Truth.Duration;
                open += analysis
                    .Phones.Where(p => !Arpabet.IsSilent(p.Phone))
                    .Sum(p => Math.Max(0, Math.Min(p.End, t.Truth.End) - Math.Max(p.Start, t.Truth.Start)));
            }
            Console.WriteLine(
                FormattableString.Invariant($"{name, -17} words laid on sounds {words}, of their time taken for speech {100 * open / all:0.0} %")
            );
        }
        var (falsely, seconds) = (new List<string>(), 0.0);
        void Listen(string name, AudioBuffer audio)
        {
            seconds += audio.Duration;
            falsely.AddRange(VocalSounds.Find(audio, VocalSoundNet.Tell).Where(Counts).Select(s => $"{name} {At(s)}"));
        }
        foreach (var u in set)
        foreach (var v in (Utterance[])[u, SpeechSets.WithNoise(u), SpeechSets.InRoom(u, 0.6)])
            Listen(u.Name, v.Audio);
        foreach (var path in Directory.GetFiles("/usr/share/pocketsphinx/test/data", "*.wav", SearchOption.AllDirectories).Order())
            Listen(Path.GetFileName(path), await AudioFiles.DecodeAsync(path, path, 16000));
        Console.WriteLine(
            FormattableString.Invariant($"speech and reading: {falsely.Count} false in {seconds:0} s, {3600 * falsely.Count / seconds:0.0} an hour")
        );
        falsely.ForEach(f => Console.WriteLine("  " + f));
        falsely.Clear();
        seconds = 0;
        await foreach (var (name, audio) in VocalSets.ExclamationsAsync())
            Listen(name, audio);
        if (seconds > 0)
            Console.WriteLine(FormattableString.Invariant($"exclamations: {falsely.Count} false in {seconds:0} s"));
        falsely.ForEach(f => Console.WriteLine("  " + f));
    }

    private static string At(VocalSound s) => FormattableString.Invariant($"{s.Kind} {s.Start:0.00}-{s.End:0.00} ({s.Confidence:0.00})");

    private static double Overlap(VocalSound a, VocalSound b) => Math.Max(0, Math.Min(a.End, b.End) - Math.Max(a.Start, b.Start));

    private static double Share(VocalTake take, IEnumerable<VocalSound> sounds) => sounds.Sum(s => Overlap(s, take.Truth)) / take.Truth.Duration;
}
