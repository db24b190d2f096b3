namespace Zamblo.Core.Audio;

/// <summary>A part of a recording.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
public readonly record struct SoundPart(double Start, double End);
