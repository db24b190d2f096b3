using System.Collections.Frozen;
using System.Text.Json;

namespace Zamblo.Core.Performance;

/// <summary>A motion of the library, for any rig.</summary>
public sealed record Gesture
{
    /// <summary>Name in files and addresses.</summary>
    public required string Key { get; init; }

    /// <summary>Name that people read.</summary>
    public required string Name { get; init; }

    /// <summary>What moves most: "face", "head", "hands" or "body".</summary>
    public required string Part { get; init; }

    /// <summary>In seconds at its own speed.</summary>
    public required double Length { get; init; }

    /// <summary>The moment that comes with the stressed syllable, in seconds from its start.</summary>
    public required double Stroke { get; init; }

    /// <summary>Moods that it suits; none for any.</summary>
    public IReadOnlyList<string> Moods { get; init; } = [];

    /// <summary>Per channel of the pose (in camel case) keys of time in seconds and value in the channel's unit.</summary>
    public required IReadOnlyDictionary<string, double[][]> Tracks { get; init; }

    /// <summary>What a figure without elbows does in place of <see cref="Tracks"/>, with all of its body; none for what needs no arms.</summary>
    public IReadOnlyDictionary<string, double[][]> Bodily { get; init; } = new Dictionary<string, double[][]>();

    /// <summary>Only fingers can say it: it is not offered to whoever has none.</summary>
    public bool NeedsHands { get; init; }

    /// <summary>Whether it is one of the library that takes the right hand alone.</summary>
    public bool IsOfOneHand => Key != Performed && Tracks.Keys.Any(k => Arm(k, "Right")) && !Tracks.Keys.Any(k => Arm(k, "Left"));

    /// <summary>The key of what a hand has performed, or of what was joined.</summary>
    public const string Performed = "own";

    private static bool Arm(string channel, string side) =>
        channel.Contains(side, StringComparison.Ordinal)
        && (
            channel.StartsWith("arm", StringComparison.Ordinal)
            || channel.StartsWith("elbow", StringComparison.Ordinal)
            || channel.StartsWith("hand", StringComparison.Ordinal)
        );

    /// <summary>The same as a figure can do it.</summary>
    /// <param name="arms">What it has of them: stumps are raised along with the body, and reach for nothing.</param>
    public Gesture For(ArmKind arms)
    {
        if (arms == ArmKind.Jointed || Bodily.Count == 0)
            return this;
        var tracks = Bodily.ToDictionary();
        if (arms == ArmKind.Stump)
            foreach (var arm in (string[])["armLeft", "armRight"])
                if (Tracks.TryGetValue(arm, out var keys))
                    tracks[arm] = keys;
        return this with { Tracks = tracks, Hands = [] };
    }

    /// <summary>What the hands do with their fingers, in order of time; none leaves them as they are.</summary>
    public IReadOnlyList<HandKey> Hands { get; init; } = [];
}

/// <summary>How far a gesture is at a moment of its span.</summary>
/// <param name="At">Share of the span, 0 to 1.</param>
/// <param name="Share">Of the gesture, 0 to 1.</param>
public readonly record struct PacePoint(double At, double Share);

/// <summary>A gesture in a scene.</summary>
/// <param name="Gesture">Which.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Strength">Factor, 0 to 2.</param>
/// <param name="Mirror">Left and right changed over.</param>
/// <param name="Loops">How often it is done within the span.</param>
/// <param name="From">Share of the gesture that is cut off in front, 0 to less than 1.</param>
/// <param name="To">Share at which it ends.</param>
/// <param name="BlendIn">How long it takes to come in, in seconds.</param>
/// <param name="BlendOut">How long it takes to leave, in seconds.</param>
/// <param name="Replaces">Takes the place of what the figure does by itself on the channels that it moves; else it is added to that, but for arms and
/// hands, which are always taken over.</param>
public sealed record GestureSpan(
    Gesture Gesture,
    double Start,
    double End,
    float Strength = 1,
    bool Mirror = false,
    int Loops = 1,
    double From = 0,
    double To = 1,
    double BlendIn = 0.12,
    double BlendOut = 0.2,
    bool Replaces = false
)
{
    /// <summary>
    /// How it goes on within its span where that is not even: shares of the span and how far it is by then, both from 0 to 1 and growing; fewer than two are
    /// even.
    /// </summary>
    public IReadOnlyList<PacePoint> Pace { get; init; } = [];

    /// <summary>Weight at a time, 0 to 1.</summary>
    public float WeightAt(double t)
    {
        if (t <= Start || t >= End)
            return 0;
        double length = End - Start,
            total = Math.Max(1e-3, BlendIn + BlendOut),
            scale = Math.Min(1, length / total);
        return (float)(Ease.Smooth(BlendIn <= 0 ? 1 : (t - Start) / (BlendIn * scale)) * Ease.Smooth(BlendOut <= 0 ? 1 : (End - t) / (BlendOut * scale)));
    }

    /// <summary>Speed against its own: 1 as it was made.</summary>
    public double Speed => Gesture.Length * (To - From) * Loops / Math.Max(1e-3, End - Start);

    /// <summary>Time within the gesture.</summary>
    internal double LocalTime(double t)
    {
        var share = ShareAt((t - Start) / (End - Start)) * Loops;
        share -= Math.Min(Loops - 1, Math.Floor(share));
        return Gesture.Length * (From + (To - From) * share);
    }

    /// <summary>How far it is, 0 to 1.</summary>
    /// <param name="at">Share of its span.</param>
    public double ShareAt(double at)
    {
        if (Pace.Count < 2)
            return at;
        var i = Math.Clamp(Sorted.Below(Pace, at, static p => p.At), 1, Pace.Count - 1);
        var (from, to) = (Pace[i - 1], Pace[i]);
        return Math.Clamp(from.Share + (at - from.At) / Math.Max(1e-6, to.At - from.At) * (to.Share - from.Share), 0, 1);
    }
}

/// <summary>The library of gestures, and how they are laid over what a figure does by itself.</summary>
public static class Gestures
{
    private enum Blend
    {
        Add,
        Replace,
    }

    private delegate ref float Field(ref Pose pose);

    private sealed record Channel(Field Field, Blend Blend, string Mirror, bool Flips)
    {
        // What has weight, and nothing that it could strike against.
        public bool Swings =>
            Mirror.StartsWith("head", StringComparison.Ordinal) || Mirror is "lean" or "stretch" or "armLeft" or "armRight" or "elbowLeft" or "elbowRight";
    }

    // How far before and after a moment is looked at, in seconds of the scene, and how much of the difference is taken away at a swing of 1.
    private const double Around = 0.12,
        Much = 0.3;

    // Less its second derivative, smoothed: back before it goes, beyond before it rests, and as it was where it holds (Wang, Drucker, Agrawala and Cohen,
    // "The Cartoon Animation Filter", ACM Transactions on Graphics 25, 2006; from memory).
    private static double Swung(double[][] keys, double local, double speed, float swing)
    {
        var h = Around * speed;
        var x = Keys.At(keys, local);
        return x - Much * swing * (Keys.At(keys, local - h) - 2 * x + Keys.At(keys, local + h));
    }

    private static readonly FrozenDictionary<string, Channel> Channels = new Dictionary<string, Channel>
    {
        ["headTurn"] = new((ref Pose p) => ref p.HeadTurn, Blend.Add, "headTurn", true),
        ["headNod"] = new((ref Pose p) => ref p.HeadNod, Blend.Add, "headNod", false),
        ["headTilt"] = new((ref Pose p) => ref p.HeadTilt, Blend.Add, "headTilt", true),
        ["browLeft"] = new((ref Pose p) => ref p.BrowLeft, Blend.Add, "browRight", false),
        ["browRight"] = new((ref Pose p) => ref p.BrowRight, Blend.Add, "browLeft", false),
        ["browKnit"] = new((ref Pose p) => ref p.BrowKnit, Blend.Add, "browKnit", false),
        ["lidLeft"] = new((ref Pose p) => ref p.LidLeft, Blend.Add, "lidRight", false),
        ["lidRight"] = new((ref Pose p) => ref p.LidRight, Blend.Add, "lidLeft", false),
        ["squint"] = new((ref Pose p) => ref p.Squint, Blend.Add, "squint", false),
        ["gazeX"] = new((ref Pose p) => ref p.GazeX, Blend.Add, "gazeX", true),
        ["gazeY"] = new((ref Pose p) => ref p.GazeY, Blend.Add, "gazeY", false),
        ["lean"] = new((ref Pose p) => ref p.Lean, Blend.Add, "lean", true),
        ["shiftX"] = new((ref Pose p) => ref p.ShiftX, Blend.Add, "shiftX", true),
        ["rise"] = new((ref Pose p) => ref p.Rise, Blend.Add, "rise", false),
        ["stretch"] = new((ref Pose p) => ref p.Stretch, Blend.Add, "stretch", false),
        ["armLeft"] = new((ref Pose p) => ref p.ArmLeft, Blend.Replace, "armRight", false),
        ["armRight"] = new((ref Pose p) => ref p.ArmRight, Blend.Replace, "armLeft", false),
        ["elbowLeft"] = new((ref Pose p) => ref p.ElbowLeft, Blend.Replace, "elbowRight", false),
        ["elbowRight"] = new((ref Pose p) => ref p.ElbowRight, Blend.Replace, "elbowLeft", false),
        ["handLeft"] = new((ref Pose p) => ref p.HandLeft, Blend.Replace, "handRight", false),
        ["handRight"] = new((ref Pose p) => ref p.HandRight, Blend.Replace, "handLeft", false),
        ["handLeftX"] = new((ref Pose p) => ref p.HandLeftX, Blend.Replace, "handRightX", true),
        ["handRightX"] = new((ref Pose p) => ref p.HandRightX, Blend.Replace, "handLeftX", true),
        ["handLeftY"] = new((ref Pose p) => ref p.HandLeftY, Blend.Replace, "handRightY", false),
        ["handRightY"] = new((ref Pose p) => ref p.HandRightY, Blend.Replace, "handLeftY", false),
        ["footLeftX"] = new((ref Pose p) => ref p.FootLeftX, Blend.Add, "footRightX", true),
        ["footRightX"] = new((ref Pose p) => ref p.FootRightX, Blend.Add, "footLeftX", true),
        ["footLeftUp"] = new((ref Pose p) => ref p.FootLeftUp, Blend.Add, "footRightUp", false),
        ["footRightUp"] = new((ref Pose p) => ref p.FootRightUp, Blend.Add, "footLeftUp", false),
        ["crouch"] = new((ref Pose p) => ref p.Crouch, Blend.Add, "crouch", false),
    }.ToFrozenDictionary();

    private static readonly Lazy<IReadOnlyList<Gesture>> Library = new(() =>
    {
        using var stream = typeof(Gestures).Assembly.GetManifestResourceStream("Zamblo.Core.Performance.gestures.json")!;
        return JsonSerializer.Deserialize<Gesture[]>(stream, JsonSerializerOptions.Web)!;
    });

    /// <summary>All gestures, by what moves most.</summary>
    public static IReadOnlyList<Gesture> All => Library.Value;

    /// <summary>Names of the channels that a gesture may move.</summary>
    public static IEnumerable<string> ChannelNames => Channels.Keys;

    /// <summary>Lays values over a pose as a performed motion would, at its full strength: for looking while it is being performed.</summary>
    /// <param name="values">Per channel its value; others are not touched.</param>
    /// <param name="replaces">In place of what is there, or added to it.</param>
    /// <param name="pose">Changed.</param>
    public static void Set(IReadOnlyDictionary<string, float> values, bool replaces, ref Pose pose)
    {
        var held = new Gesture
        {
            Key = "",
            Name = "",
            Part = "",
            Length = 1,
            Stroke = 0,
            Tracks = values.ToDictionary(v => v.Key, v => new[] { new double[] { 0, v.Value } }),
        };
        Apply([new GestureSpan(held, 0, 1, BlendIn: 0, BlendOut: 0, Replaces: replaces)], 0.5, ref pose);
    }

    /// <summary>
    /// Several gestures of one figure as one: sampled as they lie, overlaps blended, and reduced to few keys. Between pieces that do not touch,
    /// arms and hands go straight from the one to the other.
    /// </summary>
    /// <param name="spans">In any order; at least one.</param>
    /// <param name="name">Of the whole.</param>
    /// <returns>The gesture, from the first start to the last end.</returns>
    public static Gesture Join(IReadOnlyList<GestureSpan> spans, string name)
    {
        const double step = 0.02;
        double start = spans.Min(s => s.Start),
            end = spans.Max(s => s.End);
        var tracks = new Dictionary<string, double[][]>();
        foreach (var (key, channel) in Channels)
        {
            if (!spans.Any(s => s.Gesture.Tracks.Keys.Any(k => (s.Mirror && Channels.TryGetValue(k, out var c) ? c.Mirror : k) == key)))
                continue;
            var samples = new List<double[]>();
            for (var t = start; t < end + step / 2; t += step)
            {
                // What is taken over is seen against two different poses: what does not follow them is the gesture's own.
                Pose low = default,
                    high = default;
                channel.Field(ref high) = 1;
                Apply(spans, Math.Min(t, end), ref low);
                Apply(spans, Math.Min(t, end), ref high);
                double rest = channel.Field(ref high) - channel.Field(ref low),
                    value = channel.Field(ref low);
                var isTaken = channel.Blend == Blend.Replace || spans.Any(s => s.Replaces);
                if (!isTaken)
                    samples.Add([t - start, value]);
                else if (rest < 0.9)
                    samples.Add([t - start, value / (1 - Math.Max(0, rest))]);
            }
            if (samples.Count > 0)
                tracks[key] = MotionKeys.Reduce([.. samples], MotionKeys.ToleranceOf(key));
        }
        var first = spans.MinBy(s => s.Start)!;
        return new Gesture
        {
            Key = Gesture.Performed,
            Name = name,
            Part = first.Gesture.Part,
            Length = end - start,
            Stroke = first.Start - start + first.Gesture.Stroke / Math.Max(0.05, first.Speed),
            Tracks = tracks,
            Hands = HandShapes.Join(spans, start),
        };
    }

    /// <summary>A gesture by its key, or null.</summary>
    public static Gesture? Find(string key) => All.FirstOrDefault(g => g.Key == key);

    // A hand that rests somewhere is let go by what moves its arm; the other one, too, where both were in front of the body.
    private static void LetGo(ReadOnlySpan<(Channel Channel, float Taken, float Sum)> replaced, ref Pose pose)
    {
        float left = 0,
            right = 0;
        foreach (var (channel, taken, _) in replaced)
            if (channel.Mirror is "handRight" or "handRightX" or "handLeft" or "handLeftX")
                return;
            else if (channel.Mirror is "armRight" or "elbowRight")
                left = Math.Max(left, taken);
            else if (channel.Mirror is "armLeft" or "elbowLeft")
                right = Math.Max(right, taken);
        var both = Math.Max(left, right) * Math.Clamp(5 * (Math.Max(pose.HandLeftX, -pose.HandRightX) - 0.1f), 0, 1);
        pose.HandLeft *= 1 - Math.Min(1, Math.Max(left, both));
        pose.HandRight *= 1 - Math.Min(1, Math.Max(right, both));
    }

    /// <summary>
    /// Lays gestures over a pose. Head, face and body are added; arms are taken over. Where gestures overlap they share: each counts by its
    /// weight, and together never for more than one.
    /// </summary>
    /// <param name="spans">Where they lie.</param>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="pose">Changed.</param>
    /// <param name="swing">How far heads, bodies and arms go back before and beyond after, 1 as designed; what a hand has performed stays as it is.</param>
    public static void Apply(IReadOnlyList<GestureSpan> spans, double t, ref Pose pose, float swing = 0)
    {
        float total = 0;
        foreach (var s in spans)
            total += s.WeightAt(t);
        if (total <= 0)
            return;
        var share = 1 / Math.Max(1, total);
        // How much of each replaced channel is left for what the figure does by itself.
        Span<(Channel Channel, float Taken, float Sum)> replaced = new (Channel, float, float)[Channels.Count];
        var used = 0;
        foreach (var s in spans)
        {
            var weight = s.WeightAt(t) * share;
            if (weight <= 0)
                continue;
            var local = s.LocalTime(t);
            foreach (var (name, keys) in s.Gesture.Tracks)
            {
                if (!Channels.TryGetValue(name, out var channel))
                    continue;
                var value = s.Strength * (float)(swing > 0 && channel.Swings && !s.Replaces ? Swung(keys, local, s.Speed, swing) : Keys.At(keys, local));
                if (s.Mirror)
                {
                    if (channel.Flips)
                        value = -value;
                    channel = Channels[channel.Mirror];
                }
                if (channel.Blend == Blend.Add && !s.Replaces)
                {
                    channel.Field(ref pose) += weight * value;
                    continue;
                }
                var at = 0;
                while (at < used && replaced[at].Channel != channel)
                    at++;
                if (at == used)
                    replaced[used++] = (channel, 0, 0);
                replaced[at].Taken += weight;
                replaced[at].Sum += weight * value;
            }
        }
        for (var i = 0; i < used; i++)
        {
            ref var field = ref replaced[i].Channel.Field(ref pose);
            field = field * (1 - replaced[i].Taken) + replaced[i].Sum;
        }
        LetGo(replaced[..used], ref pose);
        HandShapes.Apply(spans, t, ref pose);
        pose.Squint = Math.Clamp(pose.Squint, 0, 1);
        pose.LidLeft = Math.Clamp(pose.LidLeft, 0, 1.3f);
        pose.LidRight = Math.Clamp(pose.LidRight, 0, 1.3f);
        pose.GazeX = Math.Clamp(pose.GazeX, -1, 1);
        pose.GazeY = Math.Clamp(pose.GazeY, -1, 1);
        pose.BrowLeft = Math.Clamp(pose.BrowLeft, -1.2f, 1.3f);
        pose.BrowRight = Math.Clamp(pose.BrowRight, -1.2f, 1.3f);
        pose.BrowKnit = Math.Clamp(pose.BrowKnit, -1, 1);
    }
}

/// <summary>Values between keys.</summary>
public static class Keys
{
    /// <summary>
    /// A smooth curve through keys that never goes beyond them (monotone cubic: Fritsch and Carlson, "Monotone piecewise cubic
    /// interpolation", SIAM J. Numer. Anal. 17, 1980); level before the first and after the last.
    /// </summary>
    /// <param name="keys">Pairs of time and value, in order of time.</param>
    /// <param name="t">The time.</param>
    public static double At(IReadOnlyList<double[]> keys, double t)
    {
        if (keys.Count == 0)
            return 0;
        if (t <= keys[0][0])
            return keys[0][1];
        if (t >= keys[^1][0])
            return keys[^1][1];
        int i = 0,
            last = keys.Count - 1;
        while (last - i > 1)
            if (keys[(i + last) / 2] is var middle && middle[0] < t)
                i = (i + last) / 2;
            else
                last = (i + last) / 2;
        double h = keys[i + 1][0] - keys[i][0],
            x = (t - keys[i][0]) / h;
        double a = Slope(keys, i) * h,
            b = Slope(keys, i + 1) * h,
            p = keys[i][1],
            q = keys[i + 1][1];
        double x2 = x * x,
            x3 = x2 * x;
        return p * (2 * x3 - 3 * x2 + 1) + a * (x3 - 2 * x2 + x) + q * (3 * x2 - 2 * x3) + b * (x3 - x2);
    }

    // Level at ends and extremes; between them the harmonic mean of the slopes on both sides.
    private static double Slope(IReadOnlyList<double[]> keys, int i)
    {
        if (i == 0 || i == keys.Count - 1)
            return 0;
        double left = (keys[i][1] - keys[i - 1][1]) / (keys[i][0] - keys[i - 1][0]),
            right = (keys[i + 1][1] - keys[i][1]) / (keys[i + 1][0] - keys[i][0]);
        return left * right <= 0 ? 0 : 2 * left * right / (left + right);
    }
}
