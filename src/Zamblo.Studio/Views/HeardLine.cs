using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Studio.Views;

/// <summary>JSON that is written as it is.</summary>
[JsonConverter(typeof(Writer))]
public sealed record RawJson(string Text)
{
    private sealed class Writer : JsonConverter<RawJson>
    {
        public override RawJson Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => throw new NotSupportedException();

        public override void Write(Utf8JsonWriter writer, RawJson value, JsonSerializerOptions options) =>
            writer.WriteRawValue(value.Text, skipInputValidation: true);
    }

    public static RawJson Of(object value) => new(JsonSerializer.Serialize(value, JsonSerializerOptions.Web));
}

/// <summary>
/// What the page is told about the sound of a line: words, phones, cues, level and pitch. By far the largest part of a scene's state, and the
/// same until the line itself changes: it is written once.
/// </summary>
public sealed class HeardLine
{
    private static readonly ConditionalWeakTable<object, ConcurrentDictionary<Figure, HeardLine>> Written = [];

    // From the clock on, so that a page that has outlived a server takes nothing of the next one's for what it knows.
    private static long _count = DateTimeOffset.UtcNow.ToUnixTimeMilliseconds() * 1000;

    // Nobody has listened yet.
    private const string Unheard =
        "\"source\":null,\"words\":null,\"phones\":null,\"cues\":null,\"levels\":null,\"pitch\":null,\"accents\":null,\"rises\":null,"
        + "\"hasBand\":false,\"isHidden\":false,\"sounds\":null,\"isForeign\":false,\"repeats\":null";

    private readonly IReadOnlyList<string> _pictures;
    private readonly Figure _figure;

    /// <summary>Grows with every one that is written.</summary>
    public long Number { get; } = Interlocked.Increment(ref _count);

    /// <summary>Members of a JSON object, without its braces.</summary>
    public string Members { get; }

    /// <summary>Of a line.</summary>
    /// <param name="spoken">What is said, with its cues.</param>
    /// <param name="character">Key of whose mouth is pictured.</param>
    /// <param name="figure">The same as a drawing.</param>
    public static HeardLine Of(PlacedSpeech spoken, string character, Figure figure) =>
        Written.GetValue(spoken.Key, _ => new()).GetOrAdd(figure, f => new HeardLine(spoken, character, f));

    /// <summary>One object of all that the page is told of a line, and a key that changes with any of it.</summary>
    /// <param name="light">What else there is to tell, as an object.</param>
    /// <param name="heard">What was heard, or null.</param>
    /// <param name="mouths">Gets the pictures that are needed.</param>
    /// <param name="known">Numbers of what the page has: of those nothing but the number is told.</param>
    public static RawJson Join(string light, HeardLine? heard, MouthGallery mouths, HashSet<long> known)
    {
        var key = $"{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(light)))[..16]}.{heard?.Number ?? 0}";
        var isKnown = heard != null && known.Contains(heard.Number);
        if (heard != null && !isKnown)
            foreach (var picture in heard._pictures)
                mouths.Add(heard._figure, picture);
        return new($"{light[..^1]},\"key\":\"{key}\",\"heard\":{heard?.Number ?? 0}{(isKnown ? "" : "," + (heard?.Members ?? Unheard))}}}");
    }

    private HeardLine(PlacedSpeech spoken, string character, Figure figure)
    {
        var speech = spoken.Speech;
        var pictures = new HashSet<string>();
        string Picture(Cue cue)
        {
            var key = MouthGallery.KeyOf(character, cue);
            pictures.Add(key);
            return key;
        }
        var text = JsonSerializer.Serialize(
            new
            {
                source = speech.Source.ToString().ToLowerInvariant(),
                draft = speech.Draft.Length > 0 ? speech.Draft : null,
                words = speech.Words.Select(w => new object[] { w.Text, R(w.Start), R(w.End), Math.Round(w.Confidence, 2) }),
                phones = speech
                    .Phones.Where(p => p.Phone != Core.Speech.Arpabet.Silence)
                    .Select(p => new object[] { p.Phone, R(p.Start), R(p.End), Math.Round(p.Confidence, 2) }),
                // Silences have no picture, but where a hand has shut the mouth it shows.
                cues = spoken
                    .Cues.Select((c, n) => (c, n))
                    .Where(x => x.c.Shape != MouthShape.Rest || x.c.Touch != Guid.Empty)
                    .Select(x =>
                        new object[]
                        {
                            x.c.Shape == MouthShape.Rest ? "" : Picture(x.c),
                            R(x.c.Start),
                            R(x.c.End),
                            Math.Round(x.c.Strength, 2),
                            x.c.Shape.ToString(),
                            x.n,
                            x.c.Touch == Guid.Empty ? "" : x.c.Touch.ToString(),
                            Math.Round(x.c.Confidence, 2),
                        }
                    ),
                levels = Levels(speech.LevelsDb),
                pitch = speech.PitchHz.Length > 0 ? Pitch(speech.PitchHz) : null,
                accents = spoken.Prosody.Accents.Select(a => new[] { R(a.Nucleus), Math.Round(a.Prominence, 2) }),
                hasBand = speech.HasBand,
                isHidden = speech.IsHidden,
                isForeign = speech.IsForeign,
                repeats = speech.Repeats?.Select(r => R(r.Start)),
                sounds = speech.Sounds?.Select(s => new object[] { VocalSounds.NameOf(s.Kind), R(s.Start), R(s.End), Math.Round(s.Confidence, 2), s.Kind }),
                rises = spoken.Prosody.Phrases.Where(p => p.IsRising).Select(p => R(p.End)),
            },
            JsonSerializerOptions.Web
        );
        Members = text[1..^1];
        _pictures = [.. pictures];
        _figure = figure;
    }

    private static double R(double seconds) => Math.Round(seconds, 3);

    // One byte per 20 ms is enough for drawing: 0 is -60 dB and less, 100 is full scale.
    private static string Levels(float[] db)
    {
        var bytes = new byte[(db.Length + 1) / 2];
        for (var i = 0; i < bytes.Length; i++)
            bytes[i] = (byte)Math.Clamp((Math.Max(db[2 * i], db[Math.Min(2 * i + 1, db.Length - 1)]) + 60) / 60 * 100, 0, 100);
        return Convert.ToBase64String(bytes);
    }

    // One byte per 20 ms: 0 is no voice, 128 the middle of this voice, 6 steps a semitone.
    private static string Pitch(float[] hz)
    {
        var voiced = hz.Where(h => h > 0).Order().ToArray();
        var bytes = new byte[(hz.Length + 1) / 2];
        if (voiced.Length == 0)
            return Convert.ToBase64String(bytes);
        var middle = voiced[voiced.Length / 2];
        for (var i = 0; i < bytes.Length; i++)
            if (hz[2 * i] > 0)
                bytes[i] = (byte)Math.Clamp(128 + 6 * 12 * Math.Log2(hz[2 * i] / middle), 1, 255);
        return Convert.ToBase64String(bytes);
    }
}
