using Zamblo.Core.Scenes;

namespace Zamblo.Core.Review;

/// <summary>Looks a film through before the audience does.</summary>
public static class ReviewPass
{
    /// <summary>Flags of a scene, in order of time.</summary>
    /// <param name="reviewed">What is looked at.</param>
    /// <param name="cancel">Stops.</param>
    public static IReadOnlyList<ReviewFlag> Of(ReviewedScene reviewed, CancellationToken cancel = default)
    {
        var scene = reviewed.Scene;
        var flags = new List<ReviewFlag>(VoiceReview.Of(reviewed));
        flags.AddRange(PictureReview.Of(scene));
        flags.AddRange(SightReview.Of(scene));
        for (var m = 0; m < scene.Document.Members.Count; m++)
        {
            cancel.ThrowIfCancellationRequested();
            var poses = scene.Stage.PosesOf(m);
            flags.AddRange(MouthReview.Of(scene, m, poses));
            flags.AddRange(PictureReview.Of(scene, m, poses));
        }
        return [.. flags.OrderBy(f => f.Start).ThenBy(f => f.Kind)];
    }

    /// <summary>What is wrong between a scene and the next one: flags of the later.</summary>
    /// <param name="before">A scene.</param>
    /// <param name="after">The one that follows it.</param>
    public static IReadOnlyList<ReviewFlag> Across(EvaluatedScene before, EvaluatedScene after) => [.. SightReview.Across(before, after)];

    /// <summary>Members that say nothing in any scene of a film.</summary>
    /// <param name="scenes">All of them.</param>
    public static IReadOnlyList<ReviewFlag> Silent(IReadOnlyList<EvaluatedScene> scenes)
    {
        var members = scenes.SelectMany(s => s.Document.Members).DistinctBy(m => m.Id);
        var speaking = scenes.SelectMany(s => s.Lines).SelectMany(l => l.Line.Also.Append(l.Line.Member)).ToHashSet();
        return
        [
            .. members
                .Where(m => !speaking.Contains(m.Id))
                .Select(m => new ReviewFlag(ReviewKind.NoVoice, false, 0, 0, $"{m.RoleName} says nothing in the whole film.", "no line") { Member = m.Id }),
        ];
    }
}
