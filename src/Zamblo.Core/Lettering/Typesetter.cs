namespace Zamblo.Core.Lettering;

/// <summary>Words as an outline.</summary>
/// <param name="Path">SVG path data; the base line is y = 0, the first letter starts at x = 0.</param>
/// <param name="Width">How far the pen goes, in the units of the size.</param>
public readonly record struct SetText(string Path, float Width);

/// <summary>Makes outlines of words: the same in preview and film. Handed in, since fonts are files.</summary>
public interface ITypesetter
{
    /// <summary>Sets one row of text, in any script.</summary>
    /// <param name="text">What to set.</param>
    /// <param name="size">Of the letters: the em, in picture units.</param>
    SetText Set(string text, float size);
}
