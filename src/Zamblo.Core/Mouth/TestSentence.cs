namespace Zamblo.Core.Mouth;

/// <summary>A sentence in which an English mouth visits all fourteen shapes: for looking at a character.</summary>
public static class TestSentence
{
    /// <summary>The words.</summary>
    public const string Text = "Bubb, the shy thief, saw every jar of flour move. Who would choose to keep a good cake waiting?";
}
