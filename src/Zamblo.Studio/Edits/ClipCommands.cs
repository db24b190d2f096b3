using System.Text.Json.Serialization;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;

namespace Zamblo.Studio.Edits;

/// <summary>A clip is laid: seconds of the scene. At is where a gesture's stroke is to fall.</summary>
public sealed record AddClip(
    Guid Member,
    ClipKind Kind,
    string? Name,
    double Start,
    double? End,
    double? Strength,
    bool? Mirror,
    int? Loops,
    double? Ease,
    double? From,
    double? To,
    double? At
) : SceneEdit
{
    /// <summary>For a walk: where to, and for an entrance where from, in stage units.</summary>
    public float? WalkTo { get; init; }
    public float? WalkFrom { get; init; }

    /// <summary>For a walk: the mark that it leads to.</summary>
    public Guid? Mark { get; init; }

    /// <summary>For a shot: what the camera does, how it begins, and how long that takes, in seconds.</summary>
    public CameraMove? Move { get; init; }
    public ShotChange? Change { get; init; }
    public double? Over { get; init; }

    /// <summary>For a shot of two, or past somebody: the other one.</summary>
    public Guid? Other { get; init; }

    /// <summary>For a change of the light: how much there comes to be in the air, how bright the lamps become; less than 0 leaves that.</summary>
    public double? Air { get; init; }
    public double? Lamps { get; init; }

    /// <summary>For a gesture that is no longer or not in the library: the motion itself.</summary>
    public Gesture? Own { get; init; }
    public bool? Replaces { get; init; }
    public bool? Stretches { get; init; }

    /// <summary>For a prop in a hand: which, and in the hand at the picture's right.</summary>
    public Guid? Prop { get; init; }
    public bool? Right { get; init; }

    /// <summary>For a filmed clip: 1 as it was filmed, 0 for a held frame. What of it is shown first is its From, in seconds of what is played.</summary>
    public double? Speed { get; init; }
}

/// <summary>An edit of a clip.</summary>
public abstract record ClipEdit : Edit
{
    [JsonIgnore]
    public Guid Clip { get; init; }
    public override EditTarget Target => new(TargetKind.Clip, Clip);
}

/// <summary>
/// Place or manner of a clip. By moves it by so many seconds. Of a filmed clip a start that is given together with the end that it has is trimmed: what is
/// shown then stays where it is.
/// </summary>
public sealed record ChangeClip(
    string? Name,
    double? Start,
    double? End,
    double? By,
    double? Strength,
    bool? Mirror,
    int? Loops,
    double? Ease,
    double? From,
    double? To
) : ClipEdit
{
    public float? WalkTo { get; init; }
    public Guid? Mark { get; init; }

    /// <summary>For a shot: what the camera does, how it begins, how long that takes, in seconds, and whom it shows.</summary>
    public CameraMove? Move { get; init; }
    public ShotChange? Change { get; init; }
    public double? Over { get; init; }
    public Guid? Member { get; init; }
    public Guid? Other { get; init; }

    /// <summary>For a change of the light: how much there comes to be in the air, how bright the lamps become; less than 0 leaves that.</summary>
    public double? Air { get; init; }
    public double? Lamps { get; init; }

    /// <summary>For an insert: of what.</summary>
    public Guid? Prop { get; init; }
    public bool? Replaces { get; init; }
    public double? BlendIn { get; init; }
    public double? BlendOut { get; init; }

    /// <summary>For a gesture: longer and shorter with its words, or always as long.</summary>
    public bool? Stretches { get; init; }

    /// <summary>For a prop in a hand: in the one at the picture's right.</summary>
    public bool? Right { get; init; }

    /// <summary>For a filmed clip: 1 as it was filmed, 0 for a held frame.</summary>
    public double? Speed { get; init; }
}

/// <summary>A clip is cut in two at a moment of the scene.</summary>
public sealed record SplitClip(double At) : ClipEdit;

/// <summary>Moods for lines that have none, from words, punctuation and voice.</summary>
public sealed record SuggestMoods : SceneEdit;

/// <summary>Clips of a scene are deleted.</summary>
public sealed record DeleteClips(Guid[] Ids) : SceneEdit;

/// <summary>Several clips become one.</summary>
public sealed record JoinClips(Guid[] Ids) : SceneEdit;

/// <summary>One after the other, so many frames apart; less than 0 overlaps.</summary>
public sealed record LineUpClips(Guid[] Ids, int? GapFrames) : SceneEdit;
