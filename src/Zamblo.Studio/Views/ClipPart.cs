using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>A clip on its lane.</summary>
public sealed record ClipPart(Guid Id, Guid Member, Guid? Line, string Kind, string Name, string Title, double Start, double End, float Strength)
{
    public bool IsOwn { get; init; }
    public bool Replaces { get; init; }
    public double BlendIn { get; init; }
    public double BlendOut { get; init; }
    public string? Move { get; init; }
    public string? Change { get; init; }
    public double Over { get; init; } = FrameBlend.Usual;
    public Guid? Prop { get; init; }
    public bool Right { get; init; }
    public float WalkTo { get; init; }
    public float? WalkFrom { get; init; }
    public Guid? Mark { get; init; }
    public bool Mirror { get; init; }
    public int Loops { get; init; } = 1;
    public double Ease { get; init; }
    public double From { get; init; }
    public double To { get; init; } = 1;
    public double Speed { get; init; } = 1;
    public bool Stretches { get; init; }
    public double? Air { get; init; }

    /// <summary>Of a change of the light: how bright the lamps become, 0 to 1.</summary>
    public double? Lamps { get; init; }

    /// <summary>All clips of a scene.</summary>
    public static IEnumerable<ClipPart> Of(LoadedScene scene)
    {
        foreach (var clip in scene.Document.Clips)
        {
            var (start, end) = scene.Evaluated.SpanOf(clip);
            var part = new ClipPart(
                clip.Id.Value,
                clip.Member.Value,
                clip.Line?.Value,
                clip.Kind.ToString().ToLowerInvariant(),
                "",
                scene.TitleOf(clip),
                Math.Round(start, 3),
                Math.Round(end, 3),
                1
            );
            yield return clip switch
            {
                MoodClip m => part with { Name = m.Mood.ToString(), Strength = m.Intensity, Ease = m.Ease },
                GestureClip g => part with
                {
                    Name = g.Own != null ? Gesture.Performed : g.Key,
                    Strength = g.Strength,
                    IsOwn = g.Own != null,
                    Replaces = g.Replaces,
                    BlendIn = g.BlendIn,
                    BlendOut = g.BlendOut,
                    Mirror = g.Mirror,
                    Loops = g.Loops,
                    From = g.From,
                    To = g.To,
                    Stretches = g.Stretches,
                    Speed = Math.Round(scene.Evaluated.GestureOf(g)?.Speed ?? 1, 2),
                },
                LookClip l => part with { Name = l.Aim.ToString() },
                WalkClip w => part with { Name = ClipRows.NameOf(w.Manner), WalkTo = w.To, WalkFrom = w.From, Mark = w.Mark },
                LightClip l => part with { Name = l.Light.ToString(), Strength = (float)l.Strength, Air = l.Air, Lamps = l.Lamps },
                FootageClip f => part with { Name = "footage", From = f.From, Speed = f.Speed },
                HoldClip h => part with { Name = "hold", Prop = h.Prop.Value, Right = h.Right },
                ShotClip shot => part with { Name = shot.Framing.ToString(), Move = shot.Move.ToString(), Change = shot.Change.ToString(), Over = shot.Over },
                _ => part,
            };
        }
    }
}
