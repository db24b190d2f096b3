using System.Text.Json.Serialization;

namespace Zamblo.Core.Shots;

/// <summary>How much a picture shows (common practice; sizes as in Thompson and Bowen, "Grammar of the Shot", from memory).</summary>
[JsonConverter(typeof(JsonStringEnumConverter<Framing>))]
public enum Framing
{
    /// <summary>Everybody, and the place.</summary>
    Wide,

    /// <summary>Two who talk.</summary>
    Two,

    /// <summary>One figure from head to foot.</summary>
    Full,

    /// <summary>Head and chest.</summary>
    Medium,

    /// <summary>The face.</summary>
    Close,

    /// <summary>A thing: a prop as large as the picture.</summary>
    Insert,

    /// <summary>One past another, of whom a side of the head stands at the edge: over the shoulder.</summary>
    Shoulder,
}

/// <summary>What the camera does while it looks.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<CameraMove>))]
public enum CameraMove
{
    /// <summary>Nothing; it follows whoever walks.</summary>
    Still,

    /// <summary>Slowly nearer.</summary>
    Push,

    /// <summary>Slowly away.</summary>
    Pull,

    /// <summary>Wanders a little, as one that is held.</summary>
    Drift,

    /// <summary>Is shaken as it begins, and comes to rest.</summary>
    Shake,
}

/// <summary>What the camera sees from a moment on, until the next shot.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="Framing">How much.</param>
/// <param name="Subject">Index of the member that it is of; for everybody it does not matter.</param>
/// <param name="Reason">Why, in words.</param>
public sealed record Shot(double Start, Framing Framing, int Subject, string Reason)
{
    /// <summary>The second of two; -1 for none.</summary>
    public int Other { get; init; } = -1;

    /// <summary>Index of the prop that an insert is of; -1 for none.</summary>
    public int Prop { get; init; } = -1;

    /// <summary>What the camera does meanwhile.</summary>
    public CameraMove Move { get; init; }

    /// <summary>How it begins.</summary>
    public ShotChange Change { get; init; }

    /// <summary>How long the change takes, in seconds; its middle is where the shot begins.</summary>
    public double Over { get; init; } = FrameBlend.Usual;

    /// <summary>Made by hand: the clip that it comes from; null for one that the camera pass has chosen.</summary>
    public ClipId? Clip { get; init; }

    /// <summary>Whether it shows a member for certain.</summary>
    public bool Shows(int member) => Framing == Framing.Wide || member == Subject || member == Other && Framing != Framing.Shoulder;
}

/// <summary>How the camera behaves by itself.</summary>
public sealed record CameraDials
{
    /// <summary>One picture of everybody all the time.</summary>
    public bool IsFixed { get; init; } = true;

    /// <summary>0 few and long shots, 1 many and short ones; moves come in above one half.</summary>
    public double Pace { get; init; } = 0.35;

    /// <summary>0 keeps its distance, 1 goes near.</summary>
    public double Nearness { get; init; } = 0.5;

    /// <summary>How much is seen of those who listen, 0 to 1.</summary>
    public double Reactions { get; init; } = 0.4;

    /// <summary>How often an answer is seen over the other one's shoulder, 0 to 1.</summary>
    public double Shoulders { get; init; }

    /// <summary>How often a thing is seen that is spoken of, 0 to 1.</summary>
    public double Things { get; init; }

    /// <summary>How much it wanders in every shot, as one that is held in the hand: 0 stands on its legs, 1.</summary>
    public double Drift { get; init; }

    /// <summary>Another number gives other shots of the same kind.</summary>
    public int Seed { get; init; } = 1;

    /// <summary>How long the picture takes to come out of black at the scene's start, in seconds, 0 to 5; 0 is there at once.</summary>
    public double FadeIn { get; init; }

    /// <summary>How long it takes to go to black at the scene's end, in seconds, 0 to 5.</summary>
    public double FadeOut { get; init; }

    /// <summary>Longest fade, in seconds, and what a script gets that asks for one (common practice: a second).</summary>
    public const double LongestFade = 5,
        UsualFade = 1;

    /// <summary>One picture for all of it.</summary>
    public static CameraDials Fixed { get; } = new();

    /// <summary>Few cuts, a still camera.</summary>
    public static CameraDials Calm { get; } =
        new()
        {
            IsFixed = false,
            Shoulders = 0.2,
            Things = 0.5,
        };

    /// <summary>Many cuts, faces, slow pushes.</summary>
    public static CameraDials Lively { get; } =
        new()
        {
            IsFixed = false,
            Pace = 0.8,
            Nearness = 0.75,
            Reactions = 0.6,
            Shoulders = 0.35,
            Things = 0.8,
        };

    /// <summary>Dials by name: "fixed", "calm" or "lively"; null for another name.</summary>
    public static CameraDials? Named(string name) =>
        name switch
        {
            "fixed" => Fixed,
            "calm" => Calm,
            "lively" => Lively,
            _ => null,
        };

    /// <summary>The same with the fades that a script asks for, and no others.</summary>
    /// <param name="asked">Out of black, into black.</param>
    public CameraDials Faded((bool In, bool Out) asked) => this with { FadeIn = asked.In ? UsualFade : 0, FadeOut = asked.Out ? UsualFade : 0 };

    /// <summary>The same with everything within its range.</summary>
    public CameraDials Clamped() =>
        this with
        {
            Pace = Unit(Pace, 0.35),
            Nearness = Unit(Nearness, 0.5),
            Reactions = Unit(Reactions, 0.4),
            Shoulders = Unit(Shoulders, 0),
            Things = Unit(Things, 0),
            Drift = Unit(Drift, 0),
            FadeIn = Fade(FadeIn),
            FadeOut = Fade(FadeOut),
        };

    private static double Fade(double seconds) => double.IsFinite(seconds) ? Math.Clamp(seconds, 0, LongestFade) : 0;

    private static double Unit(double value, double otherwise) => double.IsFinite(value) ? Math.Clamp(value, 0, 1) : otherwise;
}
