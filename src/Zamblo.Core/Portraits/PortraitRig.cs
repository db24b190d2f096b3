using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>What stage, camera and notes have to know about a face in a picture.</summary>
internal static class PortraitRig
{
    // Of the stage's height: a face that is cut out and put on a set, forehead to chin; and all of the figure.
    private const float FaceOnStage = 0.3f,
        MostOnStage = 0.94f;

    /// <summary>The rig of a face.</summary>
    public static Rig Of(string key, string name, string voice, PortraitMesh mesh, float unit, Vector2 size, MouthLook look, bool isFree)
    {
        Vector2 middle = mesh.Middle * unit,
            radius = mesh.Radius * unit;
        // Hair and hat are part of what a small picture shows.
        var side = 1.35f * MathF.Max(radius.X, radius.Y);
        // Hair, too, is below the upper edge, however far down the figure goes.
        var tall = size.Y - Math.Max(0, middle.Y - 1.7f * radius.Y);
        var scale = MathF.Min(FaceOnStage * StageScene.Height / (2 * radius.Y), MostOnStage * StageScene.Height / tall);
        return new Rig
        {
            Key = key,
            Name = name,
            Voice = voice,
            Anchor = [isFree ? middle.X : size.X / 2, size.Y],
            Portrait = [middle.X - side, middle.Y - side, 2 * side, 2 * side],
            Ink = look.LipLine,
            Parts = [],
            Head = new RigHead { Centre = [middle.X, middle.Y], Radius = [radius.X, radius.Y] },
            Mouth = new RigMouth
            {
                Width = mesh.MouthWidth * unit,
                Height = mesh.MouthWidth * unit * 0.7f,
                Line = mesh.MouthWidth * unit * 0.03f,
                Lip = mesh.MouthWidth * unit * 0.1f,
                LipColor = look.Lips,
                Inside = look.Inside,
                Tongue = look.Tongue,
                Smile = 0.1f,
            },
            Stage = new RigStage
            {
                Scale = scale,
                Y = StageScene.Height,
                BeforeFront = true,
                Gait = Gait.Glide,
            },
        };
    }

    /// <summary>Where a mouth is, with what moves along, in units of the figure.</summary>
    public static (float X, float Y, float Width, float Height) MouthBox(PortraitMesh mesh, float unit)
    {
        float wide = 1.7f * mesh.MouthWidth * unit,
            high = 1.35f * mesh.MouthWidth * unit;
        var middle = (mesh.MouthMiddle + 0.22f * mesh.MouthWidth * mesh.Down) * unit;
        return (middle.X - wide / 2, middle.Y - high / 2, wide, high);
    }

    /// <summary>Where its anchor is on the stage, and how large it is, so that all of the picture lies on the stage.</summary>
    public static (float X, float Y, float Scale) InPlace(Rig rig, Vector2 size)
    {
        var scale = MathF.Min(StageScene.Width / size.X, StageScene.Height / size.Y);
        return (StageScene.Width / 2 + (rig.Anchor[0] - size.X / 2) * scale, StageScene.Height / 2 + (rig.Anchor[1] - size.Y / 2) * scale, scale);
    }
}
