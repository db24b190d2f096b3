using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Scenes;

/// <summary>The shots of a scene: what the camera does by itself, and over it what was made by hand.</summary>
internal static class SceneShots
{
    // A mood from this strength on is played to the camera.
    private const float Strong = 0.75f;

    public static ShotList Of(EvaluatedScene scene)
    {
        var document = scene.Document;
        var ids = document.Members.Select(m => m.Id).ToList();
        var turns = scene
            .Lines.Where(l => l.Speech is { Words.Count: > 0 } && !l.Line.IsOffStage)
            .Select(l =>
            {
                var words = l.Speech!.Words;
                return new SpokenTurn(
                    ids.IndexOf(l.Line.Member),
                    l.Start + words[0].Start,
                    l.Start + words[^1].End,
                    [.. words.Select(w => (l.Start + w.Start, l.Start + w.End))],
                    IsStrong(document, l.Line)
                );
            })
            .Where(t => t.Member >= 0)
            .ToArray();
        var things = document.Things.Select(t => (PropId?)t.Laid.Id).ToList();
        var chosen = CameraPass.Make(turns, ids.Count, scene.Duration, document.Camera, NamedIn(scene, document));
        return ShotList.Of(
            chosen,
            document
                .Clips.OfType<ShotClip>()
                .Select(c => (Clip: c, Span: scene.SpanOf(c)))
                .Select(c =>
                    (
                        new Shot(c.Span.Start, c.Clip.Framing, c.Clip.Framing == Framing.Insert ? -1 : ids.IndexOf(c.Clip.Member), "By hand")
                        {
                            Move = c.Clip.Move,
                            Change = c.Clip.Change,
                            Over = c.Clip.Over,
                            Other = c.Clip.Framing is Framing.Two or Framing.Shoulder ? OtherOf(c.Clip, ids, turns, c.Span.Start) : -1,
                            Prop = c.Clip.Framing == Framing.Insert ? things.IndexOf(c.Clip.Prop) : -1,
                            Clip = c.Clip.Id,
                        },
                        c.Span.End
                    )
                ),
            (float)document.Camera.Clamped().Drift,
            scene.Duration
        );
    }

    // Props by their names: one that is a word, and said as such or in the plural.
    private static IReadOnlyList<ThingNamed> NamedIn(EvaluatedScene scene, SceneDocument document)
    {
        var props = document.Things.Select(t => t.Art.Name.Split(' ')[^1]).ToArray();
        if (props.Length == 0)
            return [];
        return
        [
            .. from line in scene.Lines
            where line.Speech != null && !line.Line.IsOffStage
            from word in line.Speech!.Words
            let said = word.Text.Trim('.', ',', '!', '?', ';', ':', '"')
            let prop = Array.FindIndex(props, name => IsNamed(name, said))
            where prop >= 0
            select new ThingNamed(line.Start + word.Start, prop),
        ];
    }

    private static bool IsNamed(string name, string said) =>
        said.Equals(name, StringComparison.OrdinalIgnoreCase)
        || said.Length == name.Length + 1 && said.StartsWith(name, StringComparison.OrdinalIgnoreCase) && said[^1] is 's';

    private static int OtherOf(ShotClip clip, List<MemberId> ids, IReadOnlyList<SpokenTurn> turns, double start)
    {
        if (clip.Other is { } who && who != clip.Member && ids.IndexOf(who) is var at and >= 0)
            return at;
        // Over the shoulder of whoever is talked to: of the others the one that speaks nearest to it.
        if (clip.Framing == Framing.Shoulder && turns.Where(t => t.Member != ids.IndexOf(clip.Member)).MinBy(t => Math.Abs(t.End - start)) is { } partner)
            return partner.Member;
        // A neighbour.
        var own = ids.IndexOf(clip.Member);
        return ids.Count < 2 ? -1
            : own + 1 < ids.Count ? own + 1
            : own - 1;
    }

    private static bool IsStrong(SceneDocument document, SceneLine line) =>
        line.Query.Script?.TrimEnd('"', '\u201D', ' ').EndsWith('!') == true
        || document.Clips.OfType<MoodClip>().Any(c => c.Line == line.Id && c.Intensity >= Strong);
}
