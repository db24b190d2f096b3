using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>Something that is said.</summary>
/// <param name="Role">Who says it.</param>
/// <param name="Ink">Colour of the role.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">As it is written.</param>
public sealed record LookedLine(string Role, string Ink, double Start, double End, string Text);

/// <summary>A scene for somebody who only looks: what is seen, heard and said, and nothing of how it was made.</summary>
/// <param name="Title">Of the scene.</param>
/// <param name="Version">Changes with what is seen.</param>
/// <param name="Sound">Changes with what is heard.</param>
/// <param name="Width">Of the picture, in pixels.</param>
/// <param name="Height">Of the picture, in pixels.</param>
/// <param name="View">The part of the stage that is seen without a camera: its middle and its width, in stage units.</param>
/// <param name="Fps">Frames a second.</param>
/// <param name="Frames">So many there are.</param>
/// <param name="Duration">In seconds.</param>
/// <param name="Lines">In order of their start; those without a voice are not there.</param>
public sealed record LookedScene(
    string Title,
    string Version,
    string Sound,
    int Width,
    int Height,
    IReadOnlyList<float> View,
    double Fps,
    int Frames,
    double Duration,
    IReadOnlyList<LookedLine> Lines
)
{
    /// <summary>As a scene is now.</summary>
    public static LookedScene Of(LoadedScene scene)
    {
        var (p, stage) = (scene.Production, scene.Stage);
        var view = StageView.For(stage.Heads, p.Width, p.Height);
        var members = scene.Members.ToDictionary(m => m.Id);
        return new LookedScene(
            scene.Scene.Title,
            $"{p.Revision}.{scene.Heard}",
            scene.Evaluated.SoundKey(),
            p.Width,
            p.Height,
            [view.X, view.Y, view.Width],
            stage.Rate.FramesPerSecond,
            stage.FrameCount,
            stage.Duration,
            [
                .. scene
                    .Evaluated.Lines.OrderBy(l => l.Start)
                    .Select(l => (Line: l, Who: members[l.Line.Member]))
                    .Select(l => new LookedLine(l.Who.RoleName, l.Who.Ink, l.Line.Start, l.Line.End, SceneText.WordsOf(l.Line).Trim())),
            ]
        );
    }
}
