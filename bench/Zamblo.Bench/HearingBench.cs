using System.Diagnostics;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

internal static class HearingBench
{
    public static async Task RunAsync(string folder, bool quick, bool scriptOnly = false)
    {
        var analyzer = SpeechModels.Analyzer;
        var set = await SpeechSets.CleanAsync(folder);
        if (quick) set = [.. set.Where((_, i) => i % 3 == 0)];
        Console.WriteLine($"{set.Count} utterances, {set.Sum(u => u.Audio.Duration):0} s, of them {set.Count(u => u.IsHeldOut)} held out");
        analyzer.Analyze(set[0].Audio, set[0].Text);
        foreach (var (name, script, noise) in new[] { ("script, clean", true, false), ("script, 10 dB", true, true), ("none, clean", false, false), ("none, 10 dB", false, true) })
        {
            if (scriptOnly && !script) continue;
            Scoring tuned = new(), held = new(), all = new();
            var clock = Stopwatch.StartNew();
            double seconds = 0;
            foreach (var u in set)
            {
                var v = noise ? SpeechSets.WithNoise(u) : u;
                clock.Stop();
                clock.Start();
                var heard = analyzer.Analyze(v.Audio, script ? v.Text : null);
                clock.Stop();
                seconds += v.Audio.Duration;
                (u.IsHeldOut ? held : tuned).Add(v.Truth, heard.Phones);
                all.Add(v.Truth, heard.Phones);
                clock.Start();
            }
            Console.WriteLine($"{name,-14} tuned     {tuned.Report()}");
            Console.WriteLine($"{name,-14} held out  {held.Report()}  {seconds / clock.Elapsed.TotalSeconds:0.0} x real time");
            if (script && !noise) Calibrate(all);
        }
        // A script with one word in ten missing: how far do the other words move?
        int within = 0, words = 0;
        foreach (var u in set)
        {
            var tokens = u.Text.Split(' ');
            var drop = tokens.Length / 2;
            var full = analyzer.Analyze(u.Audio, u.Text).Words;
            var less = analyzer.Analyze(u.Audio, string.Join(' ', tokens.Where((_, i) => i != drop))).Words;
            foreach (var (w, i) in full.Select((w, i) => (w, i)))
            {
                if (i >= drop - 1 && i <= drop + 1) continue;
                words++;
                if (less.Any(x => x.Text == w.Text && Math.Abs(x.Start - w.Start) <= 0.002 && Math.Abs(x.End - w.End) <= 0.002)) within++;
            }
        }
        Console.WriteLine($"a word missing from the script: {100.0 * within / words:0.0} % of the other words (neighbours aside) within 2 ms");
        // The reference recogniser on the same sound, in the same run.
        var wav = Path.Combine(folder, "speed.wav");
        await using (var file = File.Create(wav)) WavFile.Write(file, [[.. set.Take(10).SelectMany(u => u.Audio.Samples)]], 16000);
        var watch = Stopwatch.StartNew();
        await OutsideProgram.RunAsync("pocketsphinx_continuous", ["-infile", wav, "-logfn", "/dev/null"]);
        var reference = watch.Elapsed.TotalSeconds;
        var length = set.Take(10).Sum(u => u.Audio.Duration);
        watch.Restart();
        foreach (var u in set.Take(10)) analyzer.Analyze(u.Audio, u.Text);
        Console.WriteLine($"reference recogniser {length / reference:0.0} x real time; aligning is {reference / watch.Elapsed.TotalSeconds:0.0} times as fast");
    }

    private static void Calibrate(Scoring scoring)
    {
        foreach (var bin in scoring.Calibration.GroupBy(c => Math.Min(9, (int)(c.Confidence * 10))).OrderBy(g => g.Key))
            Console.WriteLine($"  confidence {bin.Key / 10.0:0.0} to {bin.Key / 10.0 + 0.1:0.0}: {bin.Count(),5} phones, {100.0 * bin.Count(c => c.Right) / bin.Count():0} % right");
    }
}
