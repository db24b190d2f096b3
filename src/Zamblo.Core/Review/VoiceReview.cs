using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Review;

/// <summary>Whether voices are whole, understood, and at their time.</summary>
internal static class VoiceReview
{
    // Words that were found with less are shown; a line in which so many are is another text.
    private const float Sure = 0.3f;
    private const double OtherShare = 0.5;

    // Nothing is said for so long, in seconds, within a scene.
    private const double Dead = 3.5;

    // Both speak for so long, in seconds.
    private const double Together = 0.8;

    // Between neighbouring voices, in LU; and between a voice and its pauses, in dB (common practice).
    private const double Jump = 8,
        Quiet = 18;

    // So many samples in a row at full scale are cut off, so often.
    private const float Full = 0.999f;
    private const int InARow = 3,
        Often = 4;

    public static IEnumerable<ReviewFlag> Of(ReviewedScene reviewed)
    {
        var scene = reviewed.Scene;
        var names = scene.Document.Members.ToDictionary(m => m.Id, m => m.RoleName);
        PlacedLine[] lines = [.. scene.Lines.Where(l => l.Speech != null).OrderBy(l => l.Time.First + l.Start)];
        if (scene.Lines.Count == 0)
            yield return new ReviewFlag(ReviewKind.EmptyScene, false, 0, scene.Duration, "Nobody speaks in this scene.", "no line with a voice");
        foreach (var (line, member, words) in reviewed.Unvoiced)
            yield return new ReviewFlag(ReviewKind.NoTake, true, 0, 0, $"{names.GetValueOrDefault(member)}'s line \"{Short(words)}\" has no voice.", "no take")
            {
                Line = line,
                Member = member,
            };
        foreach (var line in lines)
        foreach (var flag in Words(line, names[line.Line.Member]).Concat(Sound(line, names[line.Line.Member], reviewed.SoundOf(line))))
            yield return flag with
            {
                Line = line.Id,
                Member = line.Line.Member,
            };
        foreach (var flag in Between(scene, lines, names))
            yield return flag;
        foreach (var flag in Jumps(lines, names, reviewed))
            yield return flag;
    }

    private static IEnumerable<ReviewFlag> Words(PlacedLine line, string role)
    {
        var words = line.Speech!.Words;
        if (line.Speech.Source == SpeechSource.Engine || words.Count == 0)
            yield break;
        var unsure = words.Where(w => w.Confidence < Sure).ToArray();
        if (line.Line.Query.Script != null && words.Count >= 3 && unsure.Length > OtherShare * words.Count)
        {
            yield return new ReviewFlag(
                ReviewKind.OtherWords,
                true,
                line.Start + words[0].Start,
                line.Start + words[^1].End,
                $"{role} seems to say something else than is written: \"{Short(line.Line.Query.Script)}\".",
                $"{unsure.Length} of {words.Count} words not found ({OtherShare:P0} at most)"
            );
            yield break;
        }
        foreach (var w in unsure)
            yield return new ReviewFlag(
                ReviewKind.UnsureWord,
                false,
                line.Start + w.Start,
                line.Start + w.End,
                $"\"{w.Text}\" was not surely heard.",
                $"confidence {w.Confidence:0.00} ({Sure:0.00} at least)"
            );
    }

    private static IEnumerable<ReviewFlag> Sound(PlacedLine line, string role, AudioBuffer? sound)
    {
        var speech = line.Speech!;
        if (NoiseUnder(speech) is { } under && under < Quiet)
            yield return new ReviewFlag(
                ReviewKind.Noise,
                false,
                line.Start,
                line.End,
                $"There is noise under {role}'s voice.",
                $"pauses {under:0} dB below the voice ({Quiet:0} at least)"
            );
        if (sound == null)
            yield break;
        int run = 0,
            cuts = 0,
            first = -1;
        for (var i = 0; i < sound.Samples.Length; i++)
        {
            run = Math.Abs(sound.Samples[i]) >= Full ? run + 1 : 0;
            if (run != InARow)
                continue;
            cuts++;
            if (first < 0)
                first = i;
        }
        if (cuts >= Often)
            yield return new ReviewFlag(
                ReviewKind.Clipping,
                true,
                line.Start + (double)first / sound.SampleRate,
                line.End,
                $"{role}'s voice is cut off at its loudest.",
                $"{cuts} places at full scale ({Often - 1} at most)"
            );
    }

    // How far below speech its pauses lie, in dB; null where there is no pause to measure.
    private static double? NoiseUnder(SpeechAnalysis speech)
    {
        var (said, still) = (new List<float>(), new List<float>());
        foreach (var p in speech.Phones)
        {
            // The edges of a pause still ring.
            var edge = p.Phone == Arpabet.Silence ? 0.08 : 0;
            for (var i = (int)((p.Start + edge) * 100); i < Math.Min(speech.LevelsDb.Length, (int)((p.End - edge) * 100)); i++)
                if (speech.Sounds?.Any(s => i >= 100 * s.Start - 8 && i < 100 * s.End + 8) != true)
                    (p.Phone == Arpabet.Silence ? still : said).Add(speech.LevelsDb[i]);
        }
        if (said.Count < 30 || still.Count < 20)
            return null;
        return LoudnessEnvelope.Percentile(said.ToArray(), 0.7) - LoudnessEnvelope.Percentile(still.ToArray(), 0.5);
    }

    private static IEnumerable<ReviewFlag> Between(EvaluatedScene scene, PlacedLine[] lines, Dictionary<MemberId, string> names)
    {
        (double Start, double End)[] spoken =
        [
            .. lines.Where(l => l.Speech!.Words.Count > 0 || l.Speech.Sounds != null || l.Speech.Phones.Any(p => p.Phone != Arpabet.Silence)).Select(SpanOf),
        ];
        var last = 0.0;
        foreach (var (start, end) in spoken)
        {
            if (last > 0 && start - last > Dead)
            {
                var from = last;
                // Whoever walks or acts fills a silence.
                var isFilled = scene.Document.Clips.Any(c =>
                    c.Kind is Score.ClipKind.Walk or Score.ClipKind.Gesture && scene.SpanOf(c) is var span && span.Start < start && span.End > from
                );
                if (!isFilled)
                    yield return new ReviewFlag(
                        ReviewKind.DeadAir,
                        false,
                        last,
                        start,
                        "Nothing happens here.",
                        $"{start - last:0.0} s without a word or a move ({Dead:0.0} at most)"
                    );
            }
            last = Math.Max(last, end);
        }
        for (var i = 1; i < lines.Length; i++)
        {
            var (a, b) = (SpanOf(lines[i - 1]), SpanOf(lines[i]));
            var both = Math.Min(a.End, b.End) - b.Start;
            if (both > Together && lines[i].Line.Member != lines[i - 1].Line.Member)
                yield return new ReviewFlag(
                    ReviewKind.Overlap,
                    false,
                    b.Start,
                    b.Start + both,
                    $"{names[lines[i - 1].Line.Member]} and {names[lines[i].Line.Member]} speak at once.",
                    $"{both:0.0} s together ({Together:0.0} at most)"
                )
                {
                    Line = lines[i].Id,
                    Member = lines[i].Line.Member,
                };
        }
    }

    private static IEnumerable<ReviewFlag> Jumps(PlacedLine[] lines, Dictionary<MemberId, string> names, ReviewedScene reviewed)
    {
        double? before = null;
        foreach (var line in lines)
        {
            if (line.Line.IsMute || line.Line.IsOffStage || reviewed.SoundOf(line) is not { } sound)
                continue;
            var level = Loudness.Integrated(sound);
            if (level <= Loudness.Silence)
                continue;
            if (before is { } was && Math.Abs(level - was) > Jump)
                yield return new ReviewFlag(
                    ReviewKind.LevelJump,
                    false,
                    line.Start,
                    line.End,
                    $"{names[line.Line.Member]} is much {(level > was ? "louder" : "softer")} than the voice before.",
                    $"{level - was:+0;-0} LU ({Jump:0} at most; ITU-R BS.1770)"
                )
                {
                    Line = line.Id,
                    Member = line.Line.Member,
                };
            before = level;
        }
    }

    private static (double Start, double End) SpanOf(PlacedLine line)
    {
        (double Start, double End)[] heard =
        [
            .. line.Speech!.Phones.Where(p => p.Phone != Arpabet.Silence).Select(p => (p.Start, p.End)),
            .. (line.Speech.Sounds ?? []).Select(s => (s.Start, s.End)),
        ];
        return heard.Length == 0 ? (line.Start, line.Start) : (line.Start + heard.Min(h => h.Start), line.Start + heard.Max(h => h.End));
    }

    private static string Short(string text) => text.Length > 50 ? text[..49].TrimEnd() + "…" : text;
}
