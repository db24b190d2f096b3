using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>A line as it is heard, with its place in the scene.</summary>
/// <param name="Member">Index of who says it.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="Audio">At 48 kHz.</param>
/// <param name="Speech">What was heard in it.</param>
public sealed record HeardLine(int Member, double Start, AudioBuffer Audio, SpeechAnalysis Speech);

/// <summary>From a voice or a screenplay straight to a scene, without a production: for the command line.</summary>
public static class SceneBuilder
{
    /// <summary>Stillness before the first word and after the last, in seconds.</summary>
    public const double LeadIn = 0.5, LeadOut = 0.8;

    /// <summary>One character and one voice.</summary>
    public static async Task<(StageScene Scene, AudioBuffer Sound)> FromVoiceAsync(string character, string audioPath, string? script, FrameRate rate, Action<double>? progress, CancellationToken cancel)
    {
        var audio = await AudioFiles.DecodeAsync(audioPath, Path.GetFileName(audioPath), AudioFiles.MasterRate, cancel);
        var speech = SpeechModels.Analyzer.Analyze(await AudioFiles.ResampleAsync(audio, CepstralFrontEnd.SampleRate, cancel), script, progress, cancel);
        return Assemble([(character, 1)], [new HeardLine(0, LeadIn, audio, speech)], rate, "bakery");
    }

    /// <summary>Every role of a screenplay, spoken by synthesis; a part of the film for each scene in which somebody speaks.</summary>
    public static async Task<IReadOnlyList<FilmPart>> FromScreenplayAsync(Screenplay play, FrameRate rate, Action<double>? progress, CancellationToken cancel)
    {
        var roles = play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
        var cast = Casting(roles, []);
        var spokenLines = new List<HeardLine>();
        for (var i = 0; i < play.Lines.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var line = play.Lines[i];
            var member = Array.FindIndex(roles, r => r.Equals(line.Role, StringComparison.OrdinalIgnoreCase));
            var spoken = await Synthesis.SpeakAsync(cast[member].Voice, line.Text, Delivery.FromDirection(line.Parenthetical), cancel);
            spokenLines.Add(new HeardLine(member, 0, await AudioFiles.ResampleAsync(spoken.Audio, AudioFiles.MasterRate, cancel), spoken.Speech));
            progress?.Invoke((double)(i + 1) / play.Lines.Count);
        }
        return [.. Enumerable.Range(0, play.Lines.Count).GroupBy(i => play.Lines[i].Scene).Select(scene => OneScene(play, [.. scene], spokenLines, cast, rate))];
    }

    private static FilmPart OneScene(Screenplay play, int[] own, List<HeardLine> all, (string Character, string Voice)[] cast, FrameRate rate)
    {
        List<HeardLine> lines = [.. own.Select(i => all[i])];
        var starts = Timing.Lay([.. lines.Select(l => LineTime.Of(l.Speech.Duration, l.Speech))], LeadIn, Timing.TurnGap);
        lines = [.. lines.Zip(starts, (l, start) => l with { Start = start })];
        var moods = new List<(int, MoodSpan)>();
        for (var i = 0; i < lines.Count; i++)
        {
            var line = play.Lines[own[i]];
            var others = all.Where((l, k) => k != own[i] && l.Member == lines[i].Member).Select(l => l.Speech).ToArray();
            if (MoodSuggestions.For(line.Parenthetical == null ? line.Text : $"({line.Parenthetical}) {line.Text}", lines[i].Speech, others) is { } m)
                moods.Add((lines[i].Member, new MoodSpan(m.Mood, lines[i].Start + m.Start, lines[i].Start + m.End, m.Intensity)));
        }
        var (scene, sound) = Assemble([.. cast.Select((c, i) => (c.Character, i + 1))], lines, rate, "bakery", moods);
        return new FilmPart(scene, _ => Task.FromResult(sound));
    }

    /// <summary>Puts figures on the stage and lays the sound.</summary>
    public static (StageScene Scene, AudioBuffer Sound) Assemble(IReadOnlyList<(string Character, int Seed)> cast, IReadOnlyList<HeardLine> lines, FrameRate rate, string backdrop, IReadOnlyList<(int Member, MoodSpan Mood)>? moods = null)
    {
        var end = lines.Max(l => l.Start + l.Speech.Duration) + LeadOut;
        var members = cast.Select((c, i) =>
        {
            var stage = Cast.Character(c.Character).Rig.Stage;
            return new StageMember(c.Character, StageScene.SpreadX(i, cast.Count), stage.Y, stage.Scale, stage.BeforeFront,
                [.. lines.Where(l => l.Member == i).OrderBy(l => l.Start).Select(l => new PlacedSpeech(l.Speech, l.Start, new MouthDials()))],
                new PerformanceDials { Seed = c.Seed })
            { Moods = [.. (moods ?? []).Where(m => m.Member == i).Select(m => m.Mood)] };
        }).ToArray();
        var scene = new StageScene(backdrop, members, rate, end);
        return (scene, Mixer.Mix(lines.Select(l => new Mixer.Placed(l.Audio, l.Start)), scene.Duration, AudioFiles.MasterRate));
    }

    /// <summary>
    /// A character and a voice for each role, as different from each other as there are: a role that is called like a character gets it,
    /// others take turns; two who share a character get voices of their own.
    /// </summary>
    /// <param name="roles">Role names.</param>
    /// <param name="taken">Voices that are in use already.</param>
    public static (string Character, string Voice)[] Casting(IReadOnlyList<string> roles, IReadOnlyCollection<string> taken)
    {
        string[] others = ["espeak:en-us+m1", "espeak:en-gb+f2", "espeak:en-us+m7", "espeak:en-gb-scotland", "espeak:en-us+f5", "espeak:en-gb+m5", "espeak:en-us+f2", "espeak:en-gb-x-rp+m2"];
        var used = taken.ToHashSet();
        return [.. roles.Select((role, i) =>
        {
            var character = Cast.CharacterKeys.FirstOrDefault(k => k.Equals(role, StringComparison.OrdinalIgnoreCase)) ?? Cast.CharacterKeys[i % Cast.CharacterKeys.Count];
            var voice = others.Prepend(Cast.Character(character).Rig.Voice).FirstOrDefault(v => !used.Contains(v)) ?? others[i % others.Length];
            used.Add(voice);
            return (character, voice);
        })];
    }
}
