using System.Text.Json;
using Zamblo.Core;
using Zamblo.Core.Light;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Data;

namespace Zamblo.Studio.Scenes;

/// <summary>Clips as rows, and back: the one place that knows how they are written down.</summary>
internal static class ClipRows
{
    private const string AtMember = "member";

    // Everything that any kind of clip may need, as it lies in the database.
    private sealed record Written(WordAnchor Start, WordAnchor? End, double Length)
    {
        public double Ease { get; init; } = 0.5;
        public bool Mirror { get; init; }
        public int Loops { get; init; } = 1;
        public double From { get; init; }
        public double To { get; init; } = 1;
        public Gesture? Own { get; init; }
        public bool Replaces { get; init; }
        public double BlendIn { get; init; } = 0.12;
        public double BlendOut { get; init; } = 0.2;
        public MotionBeat[]? Beats { get; init; }
        public float WalkTo { get; init; }
        public float? WalkFrom { get; init; }
        public Guid? Mark { get; init; }
        public CameraMove Move { get; init; }
        public ShotChange Change { get; init; }
        public double Over { get; init; } = FrameBlend.Usual;
        public bool Right { get; init; }
        public double? Air { get; init; }
        public double? Lamps { get; init; }
        public double Speed { get; init; } = 1;
    }

    /// <summary>Reads a row.</summary>
    /// <returns>Null where it cannot be read, or names what there is not: such a row shows nothing and can be deleted.</returns>
    public static LaneClip? Read(ScoreClip row)
    {
        Written? data;
        try
        {
            data = JsonSerializer.Deserialize<Written>(row.Data, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return null;
        }
        if (data?.Start == null)
            return null;
        var (id, member, line) = (new ClipId(row.Id), new MemberId(row.CastMemberId), row.LineId is { } l ? new LineId(l) : (LineId?)null);
        var end = data.End ?? data.Start;
        var strength = (float)(double.IsFinite(row.Strength) ? row.Strength : 1);
        return row.Kind switch
        {
            ClipKind.Mood => MoodOf(row.Name) is { } mood ? new MoodClip(id, member, line, mood, strength, data.Start, end, data.Ease) : null,
            ClipKind.Gesture => new GestureClip(id, member, line, row.Name, strength, data.Start, data.Length)
            {
                Own = data.Own,
                Mirror = data.Mirror,
                Loops = Math.Max(1, data.Loops),
                From = data.From,
                To = data.To,
                Replaces = data.Replaces,
                BlendIn = data.BlendIn,
                BlendOut = data.BlendOut,
                Beats = data.Beats?.Where(b => b?.At != null).ToArray() ?? [],
            },
            ClipKind.Look => (row.TargetId is { } who ? new LookAim(null, new MemberId(who)) : LookAim.Read(row.Name)) is { } aim
                ? new LookClip(id, member, line, aim, data.Start, end)
                : null,
            ClipKind.Walk => new WalkClip(id, member, line, data.WalkTo, data.WalkFrom, data.Start, end)
            {
                Manner = MannerOf(row.Name) ?? WalkManner.Walk,
                Mark = data.Mark,
            },
            ClipKind.Shot => FramingOf(row.Name) is { } framing
                ? new ShotClip(id, member, line, framing, data.Move, row.TargetId is { } other ? new MemberId(other) : null, data.Start, end)
                {
                    Prop = row.PropId is { } thing ? new PropId(thing) : null,
                    Change = Enum.IsDefined(data.Change) ? data.Change : ShotChange.Cut,
                    Over = double.IsFinite(data.Over) ? Math.Clamp(data.Over, FrameBlend.Shortest, FrameBlend.Longest) : FrameBlend.Usual,
                }
                : null,
            ClipKind.Hold => row.PropId is { } prop ? new HoldClip(id, member, line, new PropId(prop), data.Right, data.Start, end) : null,
            ClipKind.Light => LightOf(row.Name) is { } light
                ? new LightClip(id, member, line, light, Math.Clamp(strength, 0, 1), data.Start, end) { Air = AmountOf(data.Air), Lamps = AmountOf(data.Lamps) }
                : null,
            ClipKind.Footage => new FootageClip(id, member, line, Finite(data.From, 0), Math.Min(Finite(data.Speed, 1), FootageRun.Fastest), data.Start, end),
            _ => null,
        };
    }

    private static double Finite(double read, double usual) => double.IsFinite(read) && read >= 0 ? read : usual;

    private static double? AmountOf(double? read) => read is { } much && double.IsFinite(much) ? Math.Clamp(much, 0, 1) : null;

    /// <summary>Writes a clip into a row of its own or a new one.</summary>
    public static void Write(LaneClip clip, ScoreClip row)
    {
        (row.Id, row.CastMemberId, row.LineId, row.Kind, row.Strength, row.TargetId) = (clip.Id.Value, clip.Member.Value, clip.Line?.Value, clip.Kind, 1, null);
        row.PropId = (clip as HoldClip)?.Prop.Value ?? (clip as ShotClip)?.Prop?.Value;
        var data = clip switch
        {
            MoodClip m => new Written(m.Start, m.End, 0) { Ease = m.Ease },
            GestureClip g => new Written(g.Stroke, null, g.Length)
            {
                Own = g.Own,
                Mirror = g.Mirror,
                Loops = g.Loops,
                From = g.From,
                To = g.To,
                Replaces = g.Replaces,
                BlendIn = g.BlendIn,
                BlendOut = g.BlendOut,
                Beats = g.Beats.Count == 0 ? null : [.. g.Beats],
            },
            LookClip l => new Written(l.Start, l.End, 0),
            WalkClip w => new Written(w.Start, w.End, 0)
            {
                WalkTo = w.To,
                WalkFrom = w.From,
                Mark = w.Mark,
            },
            ShotClip s => new Written(s.Start, s.End, 0)
            {
                Move = s.Move,
                Change = s.Change,
                Over = s.Over,
            },
            LightClip l => new Written(l.Start, l.End, 0) { Air = l.Air, Lamps = l.Lamps },
            HoldClip h => new Written(h.Start, h.End, 0) { Right = h.Right },
            FootageClip f => new Written(f.Start, f.End, 0) { From = Math.Round(f.From, 4), Speed = Math.Round(f.Speed, 4) },
            _ => throw new ArgumentException("Not a kind of clip that is kept.", nameof(clip)),
        };
        switch (clip)
        {
            case MoodClip m:
                (row.Name, row.Strength) = (m.Mood.ToString(), Math.Round(m.Intensity, 4));
                break;
            case GestureClip g:
                (row.Name, row.Strength) = (g.Own != null ? Gesture.Performed : g.Key, Math.Round(g.Strength, 4));
                break;
            case LookClip l:
                (row.Name, row.TargetId) = (l.Aim.Member == null ? l.Aim.ToString() : AtMember, l.Aim.Member?.Value);
                break;
            case WalkClip w:
                row.Name = NameOf(w.Manner);
                break;
            case LightClip l:
                (row.Name, row.Strength) = (l.Light.ToString(), Math.Round(l.Strength, 4));
                break;
            case HoldClip:
                row.Name = "hold";
                break;
            case FootageClip:
                row.Name = "footage";
                break;
            case ShotClip s:
                (row.Name, row.TargetId) = (s.Framing.ToString(), s.Other?.Value);
                break;
        }
        row.Data = JsonSerializer.Serialize(data, JsonSerializerOptions.Web);
    }

    /// <summary>A row for a new clip.</summary>
    public static ScoreClip New(LaneClip clip, Guid scene)
    {
        var row = new ScoreClip { SceneId = scene };
        Write(clip, row);
        return row;
    }

    /// <summary>A mood by its name, never by a number.</summary>
    public static Mood? MoodOf(string name) => Moods.All.Cast<Mood?>().FirstOrDefault(m => m.ToString()!.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>A light by its name, never by a number.</summary>
    public static LightKind? LightOf(string name) =>
        Enum.GetValues<LightKind>().Cast<LightKind?>().FirstOrDefault(l => l.ToString()!.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>A framing by its name, never by a number.</summary>
    public static Framing? FramingOf(string name) =>
        Enum.GetValues<Framing>().Cast<Framing?>().FirstOrDefault(f => f.ToString()!.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>A manner of walking by its name; null for none that is known.</summary>
    public static WalkManner? MannerOf(string name) => Enum.GetValues<WalkManner>().Cast<WalkManner?>().FirstOrDefault(m => NameOf(m!.Value) == name);

    /// <summary>The name that rows and requests have for it.</summary>
    public static string NameOf(WalkManner manner) => manner.ToString().ToLowerInvariant();

    /// <summary>What people call a clip.</summary>
    public static string Title(LaneClip clip, IEnumerable<(MemberId Id, string RoleName)> members) =>
        clip switch
        {
            MoodClip m => m.Mood.ToString(),
            GestureClip g => g.Own?.Name ?? Gestures.Find(g.Key)?.Name ?? g.Key,
            LookClip { Aim: { Member: { } who } } => "To " + (members.FirstOrDefault(m => m.Id == who).RoleName ?? "somebody who has left"),
            LookClip l => "To " + (l.Aim.Direction is "left" or "right" ? "the " + l.Aim.Direction : l.Aim.Direction ?? "the camera"),
            WalkClip w => (
                w.To is < 0 or > StageScene.Width ? "Exit"
                : w.From != null ? "Entrance"
                : ""
            )
                is { Length: > 0 } way
                ? w.Manner == WalkManner.Walk
                    ? way
                    : $"{way}, {NameOf(w.Manner)}"
                : w.Manner.ToString(),
            ShotClip s => s.Framing + " shot",
            HoldClip => "In the hand",
            LightClip l => "Light: " + l.Light,
            FootageClip { Speed: 0 } => "Held frame",
            FootageClip f => f.Speed == 1 ? "Clip" : $"Clip at {Math.Round(100 * f.Speed)} %",
            _ => clip.Kind.ToString(),
        };

    /// <summary>A gesture in a line that has not been spoken yet.</summary>
    public static ScoreClip AtWord(Line line, DirectedGesture gesture) =>
        New(DirectedClips.Of(new ClipId(Guid.NewGuid()), new MemberId(line.CastMemberId), new LineId(line.Id), line.Text, gesture), line.SceneId);

    /// <summary>The looks of a line that has not been spoken yet.</summary>
    public static IEnumerable<ScoreClip> Looks(Line line, IReadOnlyList<(string Name, Guid Member)> others) =>
        DirectedClips
            .Looks(
                () => new ClipId(Guid.NewGuid()),
                new MemberId(line.CastMemberId),
                new LineId(line.Id),
                line.Text,
                [.. others.Select(o => (o.Name, new MemberId(o.Member)))]
            )
            .Select(l => New(l, line.SceneId));

    /// <summary>A mood over a line that has not been spoken yet: it lies over all of it, however long it comes to be.</summary>
    public static ScoreClip WholeLine(Line line, Mood mood) =>
        New(
            new MoodClip(
                new ClipId(Guid.NewGuid()),
                new MemberId(line.CastMemberId),
                new LineId(line.Id),
                mood,
                0.7f,
                new WordAnchor(-1, "", 0, 0, 1),
                new WordAnchor(-1, "", 0, 1, 1)
            ),
            line.SceneId
        );
}
