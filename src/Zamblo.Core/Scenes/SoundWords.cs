using System.Text.RegularExpressions;
using Zamblo.Core.Lettering;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Scenes;

/// <summary>
/// Sounds that captions tell in brackets, for who reads in place of hearing: what somebody does audibly within a line, "[laughs]", effects by their names,
/// "[door slams]", and "[music]" where it begins (common practice).
/// </summary>
internal static partial class SoundWords
{
    // A sound stands for so long at the most, in seconds.
    private const double Stands = 2.5;

    /// <summary>The words of a line with what is heard between them.</summary>
    /// <param name="words">As they are written, with their times, in order.</param>
    /// <param name="written">The line with its directions.</param>
    /// <param name="end">Of the line's sound, in the time of the words.</param>
    /// <param name="sounds">Laughter and the like that was found in it, in the time of the words.</param>
    public static IReadOnlyList<WordSegment> Between(IReadOnlyList<WordSegment> words, string written, double end, IReadOnlyList<VocalSound>? sounds = null)
    {
        var heard = Directions.In(written).Where(d => Heard().IsMatch(d.Text)).ToArray();
        // What is written says it all; else what was found, but for breath, which nobody captions.
        if (heard.Length == 0)
            return
            [
                .. words
                    .Concat(
                        (sounds ?? [])
                            .Where(s => s.Kind != VocalSoundKind.Breath)
                            .Select(s => new WordSegment($"[{VocalSounds.NameOf(s.Kind)}]", s.Start, s.End))
                    )
                    .OrderBy(w => w.Start),
            ];
        if (words.Count == 0)
            return words;
        var all = new List<WordSegment>();
        var (next, said) = (0, 0);
        void Until(int count)
        {
            while (next < words.Count && said < count)
            {
                said += Math.Max(1, ScriptText.PlainWords(words[next].Text).Count);
                all.Add(words[next++]);
            }
        }
        foreach (var d in heard)
        {
            Until(ScriptText.PlainWords(Directions.Spoken(written[..d.Start])).Count);
            var from = all.Count > 0 ? all[^1].End : Math.Max(0, words[0].Start - 0.5);
            var to = next < words.Count ? words[next].Start : end;
            all.Add(new WordSegment($"[{d.Text.ToLowerInvariant()}]", Math.Min(from, to), to));
        }
        Until(int.MaxValue);
        return all;
    }

    /// <summary>Captions with the effects and the music of their scene: before the words where somebody speaks meanwhile, else by themselves.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="captions">In order of their start.</param>
    public static IReadOnlyList<SpokenCaption> With(EvaluatedScene scene, IReadOnlyList<SpokenCaption> captions)
    {
        var all = captions.ToList();
        foreach (var sound in scene.Sounds.Where(s => s.Kind != SoundKind.Room && s.Start < scene.Duration).OrderByDescending(s => s.Start))
        {
            var name = sound.Kind == SoundKind.Music ? "music" : NameOf(sound.Name);
            if (name.Length == 0)
                continue;
            var text = $"[{name}]";
            var meanwhile = all.FindIndex(c => c.Speaker >= 0 && sound.Start >= c.Start - 0.3 && sound.Start < c.End);
            if (meanwhile >= 0)
            {
                var c = all[meanwhile];
                all[meanwhile] = c with { Text = $"{text} {c.Text}", Words = c.Words == null ? null : [new WordSegment(text, c.Start, c.Start), .. c.Words] };
                continue;
            }
            var end = Math.Min(sound.Start + Math.Min(Stands, sound.Length ?? (sound.Loops ? Stands : sound.Duration - sound.From)), scene.Duration);
            var next = all.FindIndex(c => c.Start > sound.Start);
            if (next >= 0)
                end = Math.Min(end, all[next].Start);
            all.Insert(next < 0 ? all.Count : next, new SpokenCaption(sound.Start, Math.Max(end, sound.Start + 0.1), text, -1));
        }
        return all;
    }

    // "03_door-slams.wav" is "door slams".
    private static string NameOf(string file) =>
        string.Join(' ', Letters().Matches(Path.GetFileNameWithoutExtension(file)).Select(m => m.Value)).ToLowerInvariant();

    // Verbs for what is heard and is no speech, as directions have them: "laughs", "humming", "a sigh", "laughter"; not "to the pantry" or "clearly".
    [GeneratedRegex(
        @"\b(clear\w*\s.*throat|(laugh|chuckl|giggl|snigger|sigh|sob|cr(y|ies)|weep|cough|gasp|groan|moan|yawn"
            + @"|sniff|sniffl|snort|snor|whistl|hum|grunt|growl|hiss|scream|shriek|applau[ds]|clap|sneez|hiccup"
            + @"|gulp|pant|knock|exhal|inhal|breath)(\w?(ing|ed)|e?s|e|ter)?)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Heard();

    [GeneratedRegex(@"[\p{L}\p{M}']+")]
    private static partial Regex Letters();
}
