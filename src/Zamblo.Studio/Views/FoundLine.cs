using Zamblo.Core.Speech;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>A place where something is said.</summary>
/// <param name="Scene">Its scene.</param>
/// <param name="Title">Of the scene.</param>
/// <param name="Line">The line.</param>
/// <param name="Role">Who says it.</param>
/// <param name="Word">Index of the word that it begins in; less than 0 where the line has not been heard.</param>
/// <param name="Before">What is said before it, a little.</param>
/// <param name="Match">As it is written there.</param>
/// <param name="After">What is said after it, a little.</param>
public sealed record FoundLine(Guid Scene, string Title, Guid Line, string Role, int Word, string Before, string Match, string After)
{
    private const int Around = 24,
        Most = 200;

    /// <summary>Where a text is said, over all scenes in order; 200 places at most.</summary>
    /// <param name="scenes">The scenes.</param>
    /// <param name="production">Whose.</param>
    /// <param name="text">What is looked for; capitals do not matter.</param>
    public static async Task<IReadOnlyList<FoundLine>> FindAsync(SceneDesk scenes, Guid production, string text)
    {
        var found = new List<FoundLine>();
        text = text.Trim();
        if (text.Length == 0)
            return found;
        foreach (var card in await scenes.ScenesAsync(production))
        {
            var scene = await scenes.LoadAsync(card.Id);
            foreach (var line in scene.Lines)
            {
                var written = scene.WrittenOf(line);
                var speech = scene.Find(line.Id)?.Speech;
                var spans = speech == null ? [] : WrittenSpans.Of(written, speech.Words);
                var role = scene.Member(line.CastMemberId).RoleName;
                for (var at = 0; (at = written.IndexOf(text, at, StringComparison.CurrentCultureIgnoreCase)) >= 0; at += text.Length)
                {
                    var end = Math.Min(written.Length, at + text.Length);
                    var (from, to) = (Math.Max(0, at - Around), Math.Min(written.Length, end + Around));
                    found.Add(new FoundLine(card.Id, card.Title, line.Id, role, WordAt(spans, at), written[from..at], written[at..end], written[end..to]));
                    if (found.Count == Most)
                        return found;
                }
            }
        }
        return found;
    }

    // The last word that begins at or before a place.
    private static int WordAt(int[] spans, int at)
    {
        var word = -1;
        for (var i = 0; i < spans.Length; i += 2)
            if (spans[i] >= 0 && spans[i] <= at)
                word = i / 2;
        return word < 0 && spans.Length > 0 ? 0 : word;
    }
}
