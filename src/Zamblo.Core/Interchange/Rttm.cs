using System.Globalization;
using Zamblo.Core.Dialogue;

namespace Zamblo.Core.Interchange;

/// <summary>Turns as RTTM (NIST, "Rich Transcription Time Marked", as in the evaluation plans since 2009).</summary>
public static class Rttm
{
    /// <summary>One SPEAKER record a turn.</summary>
    /// <param name="writer">Where to.</param>
    /// <param name="name">Of the recording; spaces become underscores.</param>
    /// <param name="turns">In order.</param>
    public static void Write(TextWriter writer, string name, IReadOnlyList<SpeakerTurn> turns)
    {
        name = string.Join('_', name.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        foreach (var t in turns)
            writer.Write(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"SPEAKER {name} 1 {t.Start:0.000} {t.End - t.Start:0.000} <NA> <NA> speaker{t.Speaker + 1} <NA> <NA>\n"
                )
            );
    }
}
