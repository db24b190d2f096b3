using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>Clips for the gestures that directions in a line ask for, before anybody has heard the line.</summary>
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
}
