using Zamblo.Core;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Studio.Characters;

/// <summary>A figure alone on plain paper, hands and all, to be looked at while one chooses.</summary>
public static class CharacterPreview
{
    // Of the stage's height: the figure, and where it stands.
    private const float Tall = 0.86f,
        Floor = 0.97f;

    private static float ScaleOf(Figure figure) => Tall * StageScene.Height / figure.Size.Y;

    /// <summary>The scene: still, or while a gesture is made.</summary>
    public static StageScene SceneOf(CastLibrary library, Figure figure, Gesture? gesture)
    {
        var dials = new PerformanceDials { Gaze = 0, Blinks = 0 };
        var member = new StageMember(figure, StageScene.Width / 2, StageScene.Height * Floor, ScaleOf(figure), true, [], dials)
        {
            Gestures = gesture == null ? [] : [new GestureSpan(gesture, 0.2, 0.2 + gesture.Length)],
        };
        return new StageScene(library.Backdrop("paper"), [member], new FrameRate(25), 0.4 + (gesture?.Length ?? 0.6));
    }

    /// <summary>Where its portrait lies on that stage: middle, and stage units across.</summary>
    public static float[] PortraitOf(Figure figure)
    {
        var (rig, scale) = (figure.Rig, ScaleOf(figure));
        var v = rig.Portrait;
        return
        [
            StageScene.Width / 2 + (v[0] + v[2] / 2 - rig.Anchor[0]) * scale,
            StageScene.Height * Floor + (v[1] + v[3] / 2 - rig.Anchor[1]) * scale,
            Math.Max(v[2], v[3]) * scale,
        ];
    }
}
