using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>What somebody tells of a voice before it is listened to.</summary>
/// <param name="Script">What it says, with directions; null for nothing.</param>
/// <param name="Language">BCP 47 tag; null for nothing, which is English as far as it sounds like it.</param>
public sealed record Said(string? Script, string? Language = null)
{
    /// <summary>The same as what is known about a take.</summary>
    public SpeechQuery Query => SpeechQuery.Of(Script ?? "", Language ?? "en") with { IsTold = Language != null };
}
