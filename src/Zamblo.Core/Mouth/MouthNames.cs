namespace Zamblo.Core.Mouth;

/// <summary>What drawn mouths are called, and which of them stands in for one that is not drawn.</summary>
public static class MouthNames
{
    // Letters and sounds by which sheets of mouths name them (common practice), beside the shapes' own names.
    private static readonly Dictionary<MouthShape, string[]> Called = new()
    {
        [MouthShape.Rest] = ["x", "neutral", "silence", "sil", "idle", "none"],
        [MouthShape.Closed] = ["mbp", "bmp", "pbm", "m", "b", "p", "shut"],
        [MouthShape.Tuck] = ["fv", "f", "v"],
        [MouthShape.Tongue] = ["th", "dh"],
        [MouthShape.Tip] = ["l", "t", "d", "n", "tdn", "ln", "dntl", "tdnl", "consonants", "etc"],
        [MouthShape.Back] = ["k", "g", "kg", "ng", "h"],
        [MouthShape.Push] = ["sh", "ch", "j", "zh", "chjsh", "chsh"],
        [MouthShape.Teeth] = ["s", "z", "sz"],
        [MouthShape.Curl] = ["r", "er"],
        [MouthShape.Open] = ["a", "ai", "ah", "aa"],
        [MouthShape.Mid] = ["e", "eh", "ae"],
        [MouthShape.Wide] = ["ee", "i", "iy", "ih", "y"],
        [MouthShape.Round] = ["o", "oh", "ow", "ao"],
        [MouthShape.Pucker] = ["u", "oo", "w", "wq", "uw", "q"],
    };

    /// <summary>Name of a shape in rigs and files.</summary>
    public static string Of(MouthShape shape) => shape.ToString().ToLowerInvariant();

    /// <summary>The shape that a name means, with or without "mouth" before and a number behind; null where it means none.</summary>
    public static MouthShape? ShapeOf(string text)
    {
        var words = text.ToLowerInvariant().Split([' ', '-', '_', '.'], StringSplitOptions.RemoveEmptyEntries);
        var name = string.Concat(words.Where(w => w is not ("mouth" or "mouths" or "lips" or "viseme")).Select(w => w.Trim("0123456789".ToCharArray())));
        foreach (var shape in MouthShapes.All)
            if (name == Of(shape) || Called[shape].Contains(name))
                return shape;
        return null;
    }

    /// <summary>
    /// For each shape that is not drawn one that is: a contact stays a contact (lips that close, or a lip at the teeth, are served by closed lips), the rest
    /// by the nearest that is open.
    /// </summary>
    /// <param name="there">What is drawn: one of <see cref="MouthShape.Rest"/> and <see cref="MouthShape.Closed"/> among them.</param>
    public static IReadOnlyDictionary<MouthShape, MouthShape> Serving(IReadOnlyCollection<MouthShape> there)
    {
        MouthShape[] shut = [MouthShape.Closed, MouthShape.Rest];
        return MouthShapes
            .All.Where(s => !there.Contains(s))
            .ToDictionary(
                s => s,
                s =>
                    s is MouthShape.Rest or MouthShape.Closed or MouthShape.Tuck
                        ? shut.First(there.Contains)
                        : there.Except(shut).DefaultIfEmpty(shut.First(there.Contains)).MinBy(t => Apart(t, s))
            );
    }

    private static float Apart(MouthShape a, MouthShape b)
    {
        var (one, other) = (MouthShapes.TargetOf(a), MouthShapes.TargetOf(b));
        return Enumerable.Range(0, (int)MouthChannel.CornerLeft).Sum(c => (one[c] - other[c]) * (one[c] - other[c]));
    }
}
