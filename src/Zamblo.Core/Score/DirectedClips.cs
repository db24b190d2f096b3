using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>Clips for the gestures and looks that directions in a line ask for, before anybody has heard the line.</summary>
public static class DirectedClips
{
    /// <summary>The stroke falls just before the word that follows the direction, or after the last word.</summary>
    /// <param name="id">Of the clip.</param>
    /// <param name="member">Who makes it.</param>
    /// <param name="line">In which line.</param>
    /// <param name="text">Of the line, with its directions.</param>
    /// <param name="gesture">Which.</param>
    public static GestureClip Of(ClipId id, MemberId member, LineId line, string text, DirectedGesture gesture)
    {
        var words = ScriptText.PlainWords(Directions.Spoken(text));
        var isLast = gesture.Words >= words.Count;
        var word = isLast ? words.Count - 1 : gesture.Words;
        var stroke = new WordAnchor(word, word < 0 ? "" : words[word].Text, isLast ? 1.3 : -0.3, 0, 1);
        return new GestureClip(id, member, line, gesture.Gesture, 1, stroke, Gestures.Find(gesture.Gesture)?.Length ?? 1);
    }

    /// <summary>Looks from the word that follows their direction, each until the next one or the end of the line.</summary>
    /// <param name="ids">New ids.</param>
    /// <param name="member">Who looks.</param>
    /// <param name="line">In which line.</param>
    /// <param name="text">Of the line, with its directions.</param>
    /// <param name="others">Everybody but that member, by the names that directions may use.</param>
    public static IReadOnlyList<LookClip> Looks(Func<ClipId> ids, MemberId member, LineId line, string text, IReadOnlyList<(string Name, MemberId Id)> others)
    {
        var words = ScriptText.PlainWords(Directions.Spoken(text));
        var looks = DirectedLooks.In(text, [.. others.Select(o => o.Name)]);
        var end = new WordAnchor(-1, "", 0, 1, 1);
        // Before the first word the whole line is looked; after the last one there is nothing left of it but its end.
        WordAnchor From(DirectedLook look) =>
            look.Words == 0 ? new WordAnchor(-1, "", 0, 0, 1)
            : look.Words >= words.Count ? new WordAnchor(words.Count - 1, words[^1].Text, 0.7, 1, 1)
            : new WordAnchor(look.Words, words[look.Words].Text, -0.2, 0, 1);
        var clips = new List<LookClip>();
        for (var i = 0; i < looks.Count; i++)
        {
            // Of two at one word the later counts.
            if (i + 1 < looks.Count && looks[i + 1].Words == looks[i].Words)
                continue;
            var aim = looks[i].Name is { } who ? new LookAim(null, others[who].Id) : LookAim.Read(looks[i].Aim!)!;
            clips.Add(new LookClip(ids(), member, line, aim, From(looks[i]), i + 1 < looks.Count ? From(looks[i + 1]) : end));
        }
        return clips;
    }
}
