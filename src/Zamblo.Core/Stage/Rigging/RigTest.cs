using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Rigging;

/// <summary>Short scenes in which a figure does all that its rig must bear, one after the other.</summary>
public static class RigTest
{
    // A third of the way between keys that belong together, in seconds.
    private const double Beat = 0.5;

    /// <summary>What there is to be looked at: key and name.</summary>
    public static IReadOnlyList<(string Key, string Name)> All { get; } =
    [("head", "Turn, nod, tilt"), ("eyes", "Blink and look"), ("hands", "Arms and body"), ("moods", "Moods"), ("sentence", "A sentence")];

    /// <summary>The figure while it is tested, on plain paper.</summary>
    /// <param name="library">For the paper.</param>
    /// <param name="figure">Who.</param>
    /// <param name="test">One of <see cref="All"/>.</param>
    /// <param name="speech">What is said in "sentence".</param>
    public static StageScene Scene(CastLibrary library, Figure figure, string test, PlacedSpeech? speech = null)
    {
        var scale = ScaleOf(figure);
        var dials = test switch
        {
            "sentence" => new PerformanceDials { Expressiveness = 1.2f },
            // As it is drawn.
            "" => new PerformanceDials
            {
                Gaze = 0,
                Blinks = 0,
                Expressiveness = 0,
                Body = 0,
                Turn = 0,
                Tilt = 0,
            },
            _ => new PerformanceDials { Gaze = 0, Blinks = 0 },
        };
        var member = new StageMember(figure, StageScene.Width / 2, Floor, scale, true, speech == null ? [] : [speech], dials);
        var length = speech is { } s ? s.Start + s.Speech.Duration + 1 : 0.5;
        if (test == "moods")
        {
            member = member with { Moods = [.. Moods.All.Select((m, i) => new MoodSpan(m, 0.2 + 1.4 * i, 1.5 + 1.4 * i))] };
            length = 0.4 + 1.4 * Moods.All.Count;
        }
        else if (Tracks.TryGetValue(test, out var tracks))
        {
            length = tracks.Values.Max(t => t[^1][0]) + 0.4;
            var gesture = new Gesture
            {
                Key = test,
                Name = test,
                Part = "body",
                Length = length,
                Stroke = 0,
                Tracks = tracks,
            };
            member = member with { Gestures = [new GestureSpan(gesture, 0.1, 0.1 + length, Replaces: true)] };
            length += 0.3;
        }
        return new StageScene(library.Backdrop("paper"), [member], new FrameRate(25), length);
    }

    /// <summary>Of the figure on the stage of <see cref="Scene"/>: the whole of it fits.</summary>
    public static float ScaleOf(Figure figure) => Math.Min(0.9f * StageScene.Height / figure.Size.Y, 0.9f * StageScene.Width / figure.Size.X);

    /// <summary>Where it stands there.</summary>
    public const float Floor = 0.965f * StageScene.Height;

    // Values at beats, back to 0 at the end.
    private static double[][] Keys(params double[] values) => [.. values.Select((v, i) => new[] { Beat * i, v })];

    private static readonly Dictionary<string, IReadOnlyDictionary<string, double[][]>> Tracks = new()
    {
        ["head"] = new Dictionary<string, double[][]>
        {
            ["headTurn"] = Keys(0, -30, -30, 30, 30, 0, 0, 0, 0, 0, 0, 0, 0, -25, 25, 0),
            ["headNod"] = Keys(0, 0, 0, 0, 0, 0, 18, -16, 0, 0, 0, 0, 0, 12, -12, 0),
            ["headTilt"] = Keys(0, 0, 0, 0, 0, 0, 0, 0, 0, -16, 16, 0, 0, 0, 0, 0),
        },
        ["eyes"] = new Dictionary<string, double[][]>
        {
            ["lidLeft"] =
            [
                [0, 0],
                [0.4, 0],
                [0.5, -1],
                [0.62, 0],
                [1.2, 0],
                [1.8, -1],
                [2.4, 0],
                [2.8, 0.3],
                [3.2, 0],
                [7, 0],
            ],
            ["lidRight"] =
            [
                [0, 0],
                [0.4, 0],
                [0.5, -1],
                [0.62, 0],
                [1.2, 0],
                [1.8, -1],
                [2.4, 0],
                [2.8, 0.3],
                [3.2, 0],
                [7, 0],
            ],
            ["gazeX"] =
            [
                [0, 0],
                [3.2, 0],
                [3.5, -1],
                [4, -1],
                [4.3, 1],
                [4.8, 1],
                [5.1, 0],
                [7, 0],
            ],
            ["gazeY"] =
            [
                [0, 0],
                [5, 0],
                [5.3, -1],
                [5.8, -1],
                [6.1, 1],
                [6.6, 1],
                [7, 0],
            ],
            ["browLeft"] =
            [
                [0, 0],
                [2.4, 0],
                [2.8, 1],
                [3.4, 0],
                [5.2, 0],
                [5.6, -1],
                [6.4, -1],
                [7, 0],
            ],
            ["browRight"] =
            [
                [0, 0],
                [2.4, 0],
                [2.8, 1],
                [3.4, 0],
                [5.2, 0],
                [5.6, -1],
                [6.4, -1],
                [7, 0],
            ],
            ["browKnit"] =
            [
                [0, 0],
                [5.2, 0],
                [5.6, 1],
                [6.4, 1],
                [7, 0],
            ],
        },
        ["hands"] = new Dictionary<string, double[][]>
        {
            ["armLeft"] = Keys(0, 60, 110, 20, 0, 0, 0, 0, 0, 0),
            ["armRight"] = Keys(0, 20, 60, 110, 20, 0, 0, 0, 0, 0),
            ["elbowLeft"] = Keys(0, 20, 70, 40, 0, 0, 0, 0, 0, 0),
            ["elbowRight"] = Keys(0, 0, 20, 70, 40, 0, 0, 0, 0, 0),
            ["lean"] = Keys(0, 0, 0, 0, 0, -7, 7, 0, 0, 0),
            ["shiftX"] = Keys(0, 0, 0, 0, 0, 0, 0, 0, 0.03, 0),
            ["rise"] = Keys(0, 0, 0, 0, 0, 0, 0, 0.04, 0, 0),
            ["crouch"] = Keys(0, 0, 0, 0, 0, 0, 0, 0, 0.04, 0),
        },
    };
}
