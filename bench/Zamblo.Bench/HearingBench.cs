using System.Diagnostics;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

internal static class HearingBench
{
    public static async Task RunAsync(string folder, bool quick, string? only = null, string? plot = null)
    {
        var curves = new List<(string Name, IReadOnlyList<double> Errors)>();
        var analyzer = SpeechModels.Analyzer;
        var set = await SpeechSets.CleanAsync(folder);
        if (quick)
            set = [.. set.Where((_, i) => i % 3 == 0)];
        Console.WriteLine($"{set.Count} utterances, {set.Sum(u => u.Audio.Duration):0} s, of them {set.Count(u => u.IsHeldOut)} held out");
        analyzer.Analyze(set[0].Audio, set[0].Text);
        var wordless = new SpeechAnalyzer(
            analyzer.Model,
            analyzer.Dictionary,
            voice: VoiceModel.Probabilities,
            song: SongVoiceModel.Tell,
            spoken: PhoneNets.Spoken
        );
        Func<Utterance, Utterance> clean = u => u,
            noisy = u => SpeechSets.WithNoise(u),
            crowded = u => SpeechSets.WithTalker(u, set[(set.IndexOf(u) + 3) % set.Count]);
        foreach (
            var (name, listener, script, made) in new[]
            {
                ("script, clean", analyzer, true, clean),
                ("script, 10 dB", analyzer, true, noisy),
                ("script, two talkers", analyzer, true, crowded),
                ("room 0.3", analyzer, true, u => SpeechSets.InRoom(u, 0.3)),
                ("room 0.6", analyzer, true, u => SpeechSets.InRoom(u, 0.6)),
                ("room 0.9", analyzer, true, u => SpeechSets.InRoom(u, 0.9)),
                ("crowd", analyzer, true, u => SpeechSets.InCrowd(u, [.. Enumerable.Range(1, 8).Select(k => set[(set.IndexOf(u) + 7 * k) % set.Count])])),
                ("sounds, clean", wordless, false, clean),
                ("sounds, 10 dB", wordless, false, noisy),
                ("none, clean", analyzer, false, clean),
                ("none, 10 dB", analyzer, false, noisy),
                ("none, two talkers", analyzer, false, crowded),
            }
        )
        {
            if (only != null && !name.StartsWith(only, StringComparison.Ordinal))
                continue;
            Scoring tuned = new(),
                held = new();
            var voices = new SortedDictionary<string, Scoring>();
            var clock = Stopwatch.StartNew();
            double seconds = 0;
            foreach (var u in set)
            {
                var v = made(u);
                clock.Stop();
                clock.Start();
                var heard = listener.Analyze(v.Audio, script ? v.Text : null);
                clock.Stop();
                seconds += v.Audio.Duration;
                var score = u.IsHeldOut ? held : tuned;
                score.Add(v.Truth, heard.Phones);
                var voice = u.Name[..u.Name.LastIndexOf('-')];
                if (!voices.ContainsKey(voice))
                    voices[voice] = new Scoring();
                voices[voice].Add(v.Truth, heard.Phones);
                if (name.StartsWith("none", StringComparison.Ordinal))
                    score.AddWords(v.Text, heard.Words);
                clock.Start();
            }
            Console.WriteLine($"{name, -14} tuned     {tuned.Report()}");
            Console.WriteLine($"{name, -14} held out  {held.Report()}");
            Console.WriteLine($"{name, -14} {seconds / clock.Elapsed.TotalSeconds:0.0} x real time");
            Calibrate(held);
            if (script)
                curves.Add((name, held.Errors));
            foreach (var (voice, own) in voices)
                Console.WriteLine($"  {voice, -10} {own.Report()}");
        }
        if (plot != null)
            await File.WriteAllTextAsync(plot, Plot.Cumulative(curves));
        if (only is null or "overlaps")
            await OverlapBench.RunAsync(folder);
        if (only is null or "vocal")
            await VocalBench.RunAsync(folder, set);
        if (only?.StartsWith("songs", StringComparison.Ordinal) ?? true)
            await SongBench.RunAsync(folder, only?["songs".Length..].Trim() ?? "");
        if (only is null or "languages")
            await LanguageBench.RunAsync(set);
        if (only is null or "hour")
            Hour(analyzer, set);
        if (only is not (null or "script"))
            return;
        foreach (var kind in new[] { "missing", "added", "replaced" })
            WrongScript(analyzer, set, kind);
        await AccentsAsync();
        // The reference recogniser on the same sound, in the same run.
        var wav = Path.Combine(folder, "speed.wav");
        await using (var file = File.Create(wav))
            WavFile.Write(
                file,
                [
                    [.. set.Take(10).SelectMany(u => u.Audio.Samples)],
                ],
                16000
            );
        var watch = Stopwatch.StartNew();
        await OutsideProgram.RunAsync("pocketsphinx_continuous", ["-infile", wav, "-logfn", "/dev/null"]);
        var reference = watch.Elapsed.TotalSeconds;
        var length = set.Take(10).Sum(u => u.Audio.Duration);
        watch.Restart();
        foreach (var u in set.Take(10))
            analyzer.Analyze(u.Audio, u.Text);
        Console.WriteLine($"reference recogniser {length / reference:0.0} x real time; aligning is {reference / watch.Elapsed.TotalSeconds:0.0} times as fast");
    }

    /// <summary>One word in ten of the script is missing, added or replaced: how far do the others move, and are the wrong ones known?</summary>
    private static void WrongScript(SpeechAnalyzer analyzer, List<Utterance> set, string kind)
    {
        int within = 0,
            words = 0,
            flagged = 0,
            changed = 0;
        foreach (var u in set)
        {
            var tokens = u.Text.Split(' ');
            var at = tokens.Length / 2;
            var full = analyzer.Analyze(u.Audio, u.Text).Words;
            string[] wrong = kind switch
            {
                "missing" => [.. tokens[..at], .. tokens[(at + 1)..]],
                "added" => [.. tokens[..at], "elephant", .. tokens[at..]],
                _ => [.. tokens[..at], "elephant", .. tokens[(at + 1)..]],
            };
            var heard = analyzer.Analyze(u.Audio, string.Join(' ', wrong));
            foreach (var (w, i) in full.Select((w, i) => (w, i)))
            {
                if (i == at && kind != "added")
                    continue;
                words += 2;
                // The word nearest in time of those with the same text.
                if (
                    heard.Words.Where(x => x.Text == w.Text).OrderBy(x => Math.Abs(x.Start + x.End - w.Start - w.End)).FirstOrDefault()
                    is not { Text: not null } same
                )
                    continue;
                if (Math.Abs(same.Start - w.Start) <= 0.002)
                    within++;
                if (Math.Abs(same.End - w.End) <= 0.002)
                    within++;
            }
            changed++;
            if (at >= full.Count)
                continue;
            // A word that is missing from the script leaves speech that no word explains; one that is not said is left out or doubted.
            var middle = (full[at].Start + full[at].End) / 2;
            if (
                kind == "missing"
                    ? !heard.Words.Any(w => w.Start <= middle && w.End >= middle)
                    : !heard.Words.Any(w => w.Text == "elephant" && w.Confidence > 0.5)
            )
                flagged++;
        }
        Console.WriteLine(
            $"a word {kind}: {100.0 * within / words:0.0} % of the others' boundaries within 2 ms, {100.0 * flagged / changed:0} % of the wrong words known"
        );
    }

    /// <summary>Voices of another engine and other accents, whose times it tells: words that are found, and how far off their starts are.</summary>
    private static async Task AccentsAsync()
    {
        int found = 0,
            all = 0;
        var errors = new List<double>();
        foreach (var voice in new[] { "en-us", "en-gb", "en-gb-scotland", "en-us+f3", "en-gb+m3" })
        foreach (var text in SpeechSets.Sentences.Take(6))
        {
            var spoken = await Espeak.SpeakAsync("espeak:" + voice, text, new Delivery());
            var heard = await SpeechModels.AnalyzeAsync(await AudioFiles.ResampleAsync(spoken.Audio, 16000), new SpeechQuery(text, "en"));
            all += ScriptText.Words(text).Count;
            found += heard.Words.Count;
            if (heard.Words.Count == spoken.Speech.Words.Count)
                errors.AddRange(heard.Words.Zip(spoken.Speech.Words, (a, b) => Math.Abs(a.Start - b.Start) * 1000));
        }
        errors.Sort();
        Console.WriteLine(
            string.Concat(
                $"five accents: {found} of {all} words found, their starts off by {errors.DefaultIfEmpty().Average():0.0} ms mean, "
                    + $"{(errors.Count > 0 ? errors[errors.Count / 2] : 0):0.0} ms median"
            )
        );
    }

    /// <summary>An hour of speech with its script: how much faster than it plays, and how much memory at most.</summary>
    private static void Hour(SpeechAnalyzer analyzer, List<Utterance> set)
    {
        var samples = new float[3600 * CepstralFrontEnd.SampleRate];
        var text = new List<string>();
        for (int at = 0, n = 0; at < samples.Length; n++)
        {
            var u = set[n % set.Count];
            var count = Math.Min(u.Audio.Samples.Length, samples.Length - at);
            u.Audio.Samples.AsSpan(0, count).CopyTo(samples.AsSpan(at));
            if (count == u.Audio.Samples.Length)
                text.Add(u.Text);
            at += count + CepstralFrontEnd.SampleRate / 3;
        }
        var clock = Stopwatch.StartNew();
        var heard = analyzer.Analyze(new AudioBuffer(samples, CepstralFrontEnd.SampleRate), string.Join(' ', text));
        using var process = Process.GetCurrentProcess();
        Console.WriteLine(
            string.Concat(
                $"an hour with a script: {3600 / clock.Elapsed.TotalSeconds:0} x real time, {heard.Words.Count} words, at most "
                    + $"{process.PeakWorkingSet64 / 1048576} MiB (the sound itself is {samples.Length * 4L / 1048576})"
            )
        );
    }

    private static void Calibrate(Scoring scoring)
    {
        // Expected calibration error (Naeini, Cooper and Hauskrecht 2015): how far the mean confidence of a bin lies from the share that is right,
        // weighted by its phones.
        var error =
            scoring.Calibration.GroupBy(c => Math.Min(9, (int)(c.Confidence * 10))).Sum(g => Math.Abs(g.Sum(c => c.Confidence) - g.Count(c => c.Right)))
            / Math.Max(1, scoring.Calibration.Count);
        Console.WriteLine(FormattableString.Invariant($"  held out: expected calibration error {100 * error:0.0} %"));
        foreach (var bin in scoring.Calibration.GroupBy(c => Math.Min(9, (int)(c.Confidence * 10))).OrderBy(g => g.Key))
            Console.WriteLine(
                $"  confidence {bin.Key / 10.0:0.0} to {bin.Key / 10.0 + 0.1:0.0}: {bin.Count(), 5} phones, "
                    + $"{100.0 * bin.Count(c => c.Right) / bin.Count():0} % right"
            );
    }
}
