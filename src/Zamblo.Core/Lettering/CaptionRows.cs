using Zamblo.Core.Speech;

namespace Zamblo.Core.Lettering;

/// <summary>Breaks captions into rows: as few as hold the words, and as even as they get.</summary>
public static class CaptionRows
{
    /// <summary>Breaks a text at its spaces, and between signs where its script has none.</summary>
    /// <param name="text">The words.</param>
    /// <param name="room">Greatest width of a row.</param>
    /// <param name="widthOf">Of some text.</param>
    /// <returns>Rows; a word that is wider than the room has a row of its own.</returns>
    public static IReadOnlyList<string> Break(string text, float room, Func<string, float> widthOf)
    {
        string[] words = [.. WordSpacing.Split(text).Select(w => w.Text)];
        if (words.Length == 0)
            return [];
        var rows = Fill(words, room, widthOf);
        if (rows.Count < 2)
            return rows;
        // The narrowest that needs no more rows, by halving.
        float low = 0,
            high = room;
        for (var step = 0; step < 8; step++)
        {
            var middle = (low + high) / 2;
            if (Fill(words, middle, widthOf) is var tried && tried.Count == rows.Count && tried.All(r => widthOf(r) <= room))
                (high, rows) = (middle, tried);
            else
                low = middle;
        }
        return rows;
    }

    private static List<string> Fill(string[] words, float room, Func<string, float> widthOf)
    {
        var rows = new List<string> { words[0] };
        foreach (var word in words.Skip(1))
            if (WordSpacing.Join([rows[^1], word]) is var longer && widthOf(longer) <= room)
                rows[^1] = longer;
            else
                rows.Add(word);
        return rows;
    }
}
