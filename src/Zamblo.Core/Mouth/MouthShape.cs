using System.Text.Json.Serialization;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Mouth;

/// <summary>The fourteen shapes, in the order of the picker.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<MouthShape>))]
public enum MouthShape
{
    /// <summary>Silence.</summary>
    Rest,

    /// <summary>P B M.</summary>
    Closed,

    /// <summary>F V.</summary>
    Tuck,

    /// <summary>TH DH.</summary>
    Tongue,

    /// <summary>T D N L.</summary>
    Tip,

    /// <summary>K G NG HH.</summary>
    Back,

    /// <summary>SH ZH CH JH.</summary>
    Push,

    /// <summary>S Z.</summary>
    Teeth,

    /// <summary>R ER.</summary>
    Curl,

    /// <summary>AA AY AW AH.</summary>
    Open,

    /// <summary>EH AE EY.</summary>
    Mid,

    /// <summary>IY IH Y.</summary>
    Wide,

    /// <summary>AO OY OW.</summary>
    Round,

    /// <summary>UW UH W.</summary>
    Pucker,
}

/// <summary>Targets of the shapes and which phones they stand for.</summary>
public static class MouthShapes
{
    /// <summary>All of them, in order.</summary>
    public static readonly IReadOnlyList<MouthShape> All = Enum.GetValues<MouthShape>();

    // Jaw, part, spread, protrusion, press, tuck, upper raise, lower drop, tongue tip, tongue back; corners follow the mood, not the sound.
    // Chosen by eye on the demo characters, within the order that articulation sets (Open is the widest jaw, Pucker the most rounded, and so on).
    private static readonly MouthChannels[] Targets =
    [
        Target(0.00f, 0.00f, 0.00f, 0.00f, 0.00f, 0, 0.00f, 0.00f, 0.00f, 0.0f),
        Target(0.02f, 0.00f, 0.00f, 0.08f, 0.85f, 0, 0.00f, 0.00f, 0.00f, 0.0f),
        Target(0.14f, 0.26f, 0.10f, 0.00f, 0.00f, 1, 0.35f, 0.00f, 0.00f, 0.0f),
        Target(0.22f, 0.40f, 0.12f, 0.00f, 0.00f, 0, 0.15f, 0.20f, 1.00f, 0.0f),
        Target(0.20f, 0.36f, 0.12f, 0.00f, 0.00f, 0, 0.12f, 0.15f, 0.75f, 0.1f),
        Target(0.28f, 0.42f, 0.05f, 0.00f, 0.00f, 0, 0.10f, 0.10f, 0.00f, 0.9f),
        Target(0.10f, 0.52f, -0.42f, 0.75f, 0.00f, 0, 0.45f, 0.45f, 0.30f, 0.2f),
        Target(0.04f, 0.44f, 0.55f, 0.00f, 0.00f, 0, 0.30f, 0.35f, 0.40f, 0.0f),
        Target(0.20f, 0.36f, -0.35f, 0.45f, 0.00f, 0, 0.10f, 0.10f, 0.20f, 0.5f),
        Target(0.88f, 0.90f, 0.08f, 0.00f, 0.00f, 0, 0.15f, 0.20f, 0.00f, 0.1f),
        Target(0.52f, 0.66f, 0.40f, 0.00f, 0.00f, 0, 0.20f, 0.20f, 0.10f, 0.1f),
        Target(0.16f, 0.46f, 0.90f, 0.00f, 0.00f, 0, 0.20f, 0.25f, 0.20f, 0.5f),
        Target(0.58f, 0.70f, -0.58f, 0.60f, 0.00f, 0, 0.05f, 0.05f, 0.00f, 0.3f),
        Target(0.18f, 0.30f, -1.00f, 1.00f, 0.00f, 0, 0.00f, 0.00f, 0.00f, 0.5f),
    ];

    /// <summary>The phones that a shape stands for, alone or as one part of a diphthong; "silence" for rest.</summary>
    public static string PhonesOf(MouthShape shape) =>
        shape == MouthShape.Rest ? "silence" : string.Join(' ', Arpabet.Phones.Where(p => Of(p) is var (first, second) && (first == shape || second == shape)));

    /// <summary>Channels of a shape at full strength.</summary>
    public static MouthChannels TargetOf(MouthShape shape) => Targets[(int)shape];

    /// <summary>
    /// A shape at another strength: opening and stretching grow with it, contacts (lips, lip and teeth, teeth) do not.
    /// </summary>
    /// <param name="shape">Which.</param>
    /// <param name="strength">0 to 1.5; 1 is the shape as drawn.</param>
    public static MouthChannels TargetOf(MouthShape shape, float strength)
    {
        var channels = Targets[(int)shape];
        foreach (
            var c in (ReadOnlySpan<MouthChannel>)
                [MouthChannel.Jaw, MouthChannel.Part, MouthChannel.Spread, MouthChannel.Protrusion, MouthChannel.UpperRaise, MouthChannel.LowerDrop]
        )
        {
            // A weak pucker is still a pucker: the lips' shape gives way half as much as the opening.
            var share = c is MouthChannel.Spread or MouthChannel.Protrusion ? 0.5f + 0.5f * strength : strength;
            channels[c] = Math.Clamp(channels[c] * share, -1, 1);
        }
        return channels;
    }

    /// <summary>
    /// Shapes of a phone in order: one, or two for a diphthong. The grouping follows ISO/IEC 14496-2 (MPEG-4 Visual), table of
    /// visemes (groups from memory), with the vowels kept a little further apart.
    /// </summary>
    public static (MouthShape First, MouthShape? Second) Of(string phone) =>
        phone switch
        {
            "P" or "B" or "M" => (MouthShape.Closed, null),
            "F" or "V" => (MouthShape.Tuck, null),
            "TH" or "DH" => (MouthShape.Tongue, null),
            "T" or "D" or "N" or "L" => (MouthShape.Tip, null),
            "K" or "G" or "NG" or "HH" => (MouthShape.Back, null),
            "SH" or "ZH" or "CH" or "JH" => (MouthShape.Push, null),
            "S" or "Z" => (MouthShape.Teeth, null),
            "R" or "ER" => (MouthShape.Curl, null),
            "AA" or "AH" => (MouthShape.Open, null),
            "AY" => (MouthShape.Open, MouthShape.Wide),
            "AW" => (MouthShape.Open, MouthShape.Pucker),
            "EH" or "AE" => (MouthShape.Mid, null),
            "EY" => (MouthShape.Mid, MouthShape.Wide),
            "IY" or "IH" or "Y" => (MouthShape.Wide, null),
            "AO" => (MouthShape.Round, null),
            "OY" => (MouthShape.Round, MouthShape.Wide),
            "OW" => (MouthShape.Round, MouthShape.Pucker),
            "UW" or "UH" or "W" => (MouthShape.Pucker, null),
            _ => (MouthShape.Rest, null),
        };

    /// <summary>
    /// How strongly a phone makes its shape before loudness and stress: lax vowels are smaller than tense ones, schwa smallest,
    /// AE opens the jaw further than EH, and H hardly has a mouth of its own.
    /// </summary>
    public static float StrengthOf(string phone) =>
        phone switch
        {
            "AH" => 0.58f,
            "IH" => 0.75f,
            "UH" => 0.75f,
            "AE" => 1.2f,
            "HH" => 0.7f,
            _ => 1f,
        };

    /// <summary>What may be left out first when the mouth would be too busy: 0 first, 3 never.</summary>
    public static int Priority(MouthShape shape) =>
        shape switch
        {
            MouthShape.Tip or MouthShape.Back => 0,
            MouthShape.Teeth or MouthShape.Tongue or MouthShape.Curl => 1,
            MouthShape.Closed or MouthShape.Tuck or MouthShape.Pucker => 3,
            _ => 2,
        };

    /// <summary>The shape whose target is nearest to given channels: for drawn mouth sets and the lip strip.</summary>
    public static MouthShape Nearest(in MouthChannels channels)
    {
        var best = MouthShape.Rest;
        var least = float.MaxValue;
        for (var s = 0; s < Targets.Length; s++)
        {
            float sum = 0;
            for (var c = 0; c < (int)MouthChannel.CornerLeft; c++)
            {
                var d = channels[c] - Targets[s][c];
                sum +=
                    d
                    * d
                    * (
                        c is (int)MouthChannel.Jaw or (int)MouthChannel.Tuck or (int)MouthChannel.Spread ? 2
                        : c >= (int)MouthChannel.UpperRaise ? 0.5f
                        : 1
                    );
            }
            if (sum < least)
            {
                least = sum;
                best = (MouthShape)s;
            }
        }
        return best;
    }

    private static MouthChannels Target(params ReadOnlySpan<float> values)
    {
        var result = new MouthChannels();
        for (var i = 0; i < values.Length; i++)
            result[i] = values[i];
        return result;
    }
}
