using System.Globalization;
using System.Text.Json;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>An analysis as CSV of face channels and as JSON.</summary>
public static class SpeechExports
{
    /// <summary>Column names of the face channels, in the order of <see cref="MouthChannel"/> after <c>mouth_open</c>.</summary>
    public static readonly IReadOnlyList<string> Columns =
    [
        "mouth_open",
        "jaw",
        "lip_part",
        "lip_spread",
        "lip_protrusion",
        "lip_press",
        "lip_tuck",
        "upper_lip_raise",
        "lower_lip_drop",
        "tongue_tip",
        "tongue_back",
        "corner_left",
        "corner_right",
    ];

    /// <summary>One row per frame: time in seconds, then one column per face channel; <c>mouth_open</c> is 0 with the lips together, 1 widest.</summary>
    public static void WriteCsv(TextWriter writer, SpeechAnalysis speech, FrameRate rate, MouthDials dials)
    {
        writer.Write("time," + string.Join(',', Columns) + "\n");
        var frames = rate.FramesFor(speech.Duration);
        var track = MouthPass.Evaluate(speech, dials, rate, 0, frames);
        for (var f = 0; f < frames; f++)
        {
            writer.Write(rate.TimeOf(f).ToString("0.0000", CultureInfo.InvariantCulture));
            writer.Write("," + track.Frames[f].Openness.ToString("0.000", CultureInfo.InvariantCulture));
            for (var c = 0; c < MouthChannels.Count; c++)
                writer.Write("," + track.Frames[f][c].ToString("0.000", CultureInfo.InvariantCulture));
            writer.Write("\n");
        }
    }

    /// <summary>One row per cue, silences left out: times in seconds, shape, strength, phone, word, and whether a hand made it.</summary>
    public static void WriteCues(TextWriter writer, SpeechAnalysis speech, IReadOnlyList<Cue> cues)
    {
        writer.Write("start,peak,end,shape,strength,phone,word,by_hand\n");
        var word = 0;
        foreach (var c in cues)
        {
            if (c.Shape == MouthShape.Rest && c.Touch == Guid.Empty)
                continue;
            while (word < speech.Words.Count && speech.Words[word].End <= c.Peak)
                word++;
            var text = word < speech.Words.Count && speech.Words[word].Start <= c.Peak ? speech.Words[word].Text : "";
            writer.Write(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{c.Start:0.0000},{c.Peak:0.0000},{c.End:0.0000},{c.Shape},{c.Strength:0.000},{c.Phone},{text.Replace(",", "")},"
                        + $"{(c.Touch == Guid.Empty ? 0 : 1)}\n"
                )
            );
        }
    }

    /// <summary>Words, phones and mouth cues with times in seconds and confidences.</summary>
    public static void WriteJson(Stream stream, SpeechAnalysis speech, MouthDials dials) => WriteJson(stream, speech, MouthPass.Cues(speech, dials));

    /// <summary>Words, phones, laughter and the like (where there is some) and given cues with times in seconds and confidences.</summary>
    public static void WriteJson(Stream stream, SpeechAnalysis speech, IReadOnlyList<Cue> cues)
    {
        using var json = new Utf8JsonWriter(stream, new JsonWriterOptions { Indented = true });
        void Times(double start, double end)
        {
            json.WriteNumber("start", Math.Round(start, 4));
            json.WriteNumber("end", Math.Round(end, 4));
        }
        json.WriteStartObject();
        json.WriteNumber("duration", Math.Round(speech.Duration, 4));
        json.WriteString("source", speech.Source.ToString().ToLowerInvariant());
        json.WriteStartArray("words");
        foreach (var w in speech.Words)
        {
            json.WriteStartObject();
            json.WriteString("text", w.Text);
            Times(w.Start, w.End);
            json.WriteNumber("confidence", Math.Round(w.Confidence, 3));
            json.WriteEndObject();
        }
        json.WriteEndArray();
        json.WriteStartArray("phones");
        foreach (var p in speech.Phones)
        {
            json.WriteStartObject();
            json.WriteString("phone", Arpabet.IsSilent(p.Phone) ? "" : p.Phone);
            Times(p.Start, p.End);
            json.WriteNumber("confidence", Math.Round(p.Confidence, 3));
            json.WriteEndObject();
        }
        json.WriteEndArray();
        if (speech.Sounds != null)
        {
            json.WriteStartArray("sounds");
            foreach (var s in speech.Sounds)
            {
                json.WriteStartObject();
                json.WriteString("sound", s.Kind.ToString().ToLowerInvariant());
                Times(s.Start, s.End);
                json.WriteNumber("confidence", Math.Round(s.Confidence, 3));
                json.WriteEndObject();
            }
            json.WriteEndArray();
        }
        json.WriteStartArray("cues");
        foreach (var c in cues)
        {
            json.WriteStartObject();
            json.WriteString("shape", c.Shape.ToString());
            Times(c.Start, c.End);
            json.WriteNumber("peak", Math.Round(c.Peak, 4));
            json.WriteNumber("strength", Math.Round(c.Strength, 3));
            json.WriteEndObject();
        }
        json.WriteEndArray();
        json.WriteEndObject();
    }
}
