using System.Runtime.CompilerServices;

namespace Zamblo.Core.Mouth;

/// <summary>What a mouth can do, each by itself. 0 to 1 unless said.</summary>
public enum MouthChannel
{
    /// <summary>Jaw, 0 shut to 1 widest.</summary>
    Jaw,

    /// <summary>Gap between the lips, 0 together.</summary>
    Part,

    /// <summary>Corners of the lips: -1 puckered to +1 spread.</summary>
    Spread,

    /// <summary>Lips pushed forward.</summary>
    Protrusion,

    /// <summary>Lips pressed on each other.</summary>
    Press,

    /// <summary>Lower lip under the upper teeth.</summary>
    Tuck,

    /// <summary>Upper lip raised, teeth bared.</summary>
    UpperRaise,

    /// <summary>Lower lip pulled down.</summary>
    LowerDrop,

    /// <summary>Tip of the tongue up; at 1 between the teeth.</summary>
    TongueTip,

    /// <summary>Back of the tongue up.</summary>
    TongueBack,

    /// <summary>Corner at the left of the picture: -1 down to +1 up.</summary>
    CornerLeft,

    /// <summary>Corner at the right of the picture: -1 down to +1 up.</summary>
    CornerRight,
}

/// <summary>One value per <see cref="MouthChannel"/>.</summary>
[InlineArray(Count)]
public struct MouthChannels
{
    /// <summary>Number of channels.</summary>
    public const int Count = 12;
    private float _first;

    /// <summary>One channel.</summary>
    public float this[MouthChannel channel]
    {
        readonly get => this[(int)channel];
        set => this[(int)channel] = value;
    }

    /// <summary>How far open the mouth looks, 0 lips together to 1 widest: the lesser of the two ways to shut it.</summary>
    public readonly float Openness => Math.Clamp(this[MouthChannel.Part] * (0.35f + 0.65f * this[MouthChannel.Jaw]) * (1 - this[MouthChannel.Press]), 0, 1);

    /// <summary>Between two mouths, channel by channel.</summary>
    public static MouthChannels Lerp(in MouthChannels a, in MouthChannels b, float share)
    {
        var result = new MouthChannels();
        for (var i = 0; i < Count; i++)
            result[i] = a[i] + (b[i] - a[i]) * share;
        return result;
    }
}
