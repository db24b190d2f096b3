using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>How a recipe's figure moves: the same limbs for all, the face where its parts put it, what dangles on springs.</summary>
internal static class TailorRig
{
    public static Rig Of(WardrobeRecipe recipe, string key, TailorFit fit, IReadOnlyDictionary<string, List<StockPath>> layers, InkAndColour colours)
    {
        WardrobePart Part(string kind) => WardrobeStock.Find(kind, recipe.PartOf(kind));
        float[] At(Vector2 p) => [MathF.Round(p.X, 1), MathF.Round(p.Y, 1)];
        float[] B(float x, float y) => At(fit.Body(new Vector2(x, y)));
        float[] H(float x, float y) => At(fit.Head(new Vector2(x, y)));
        bool Has(string layer) => layers.TryGetValue(layer, out var list) && list.Count > 0;
        RigPart Limb(string id, string? parent, RigMotion motion, float[] pivot, float[]? tip = null) =>
            new()
            {
                Id = id,
                Parent = parent,
                Motion = motion,
                Pivot = pivot,
                Tip = tip,
            };
        RigPart OnFace(string id, float[] pivot, float surface) =>
            new()
            {
                Id = id,
                Parent = "head",
                Pivot = pivot,
                Surface = surface,
            };
        var parts = new List<RigPart>
        {
            Limb("hips", null, RigMotion.Hips, [0, 0]),
            Limb("leg-left", "hips", RigMotion.LegLeft, B(262, 812)),
            Limb("shin-left", "leg-left", RigMotion.KneeLeft, B(262, 924), B(262, 1040)),
            Limb("foot-left", "shin-left", RigMotion.Level, B(262, 1040)),
            Limb("leg-right", "hips", RigMotion.LegRight, B(338, 812)),
            Limb("shin-right", "leg-right", RigMotion.KneeRight, B(338, 924), B(338, 1040)),
            Limb("foot-right", "shin-right", RigMotion.Level, B(338, 1040)),
            Limb("torso", "hips", RigMotion.Body, B(300, 900)),
            Limb("upper-left", "torso", RigMotion.ArmLeft, B(204, 462)),
            Limb("fore-left", "upper-left", RigMotion.ElbowLeft, B(174, 616), B(170, 780)),
            Limb("cuff-left", "upper-left", RigMotion.None, [0, 0]),
            Limb("upper-right", "torso", RigMotion.ArmRight, B(396, 462)),
            Limb("fore-right", "upper-right", RigMotion.ElbowRight, B(426, 616), B(430, 780)),
            Limb("cuff-right", "upper-right", RigMotion.None, [0, 0]),
            Limb("tool", "fore-right", RigMotion.None, [0, 0]),
            Limb("neck", "torso", RigMotion.None, [0, 0]),
            Limb("neckwear", "torso", RigMotion.None, [0, 0]),
            Limb("head", "torso", RigMotion.Head, H(300, 430)),
        };
        // Hands hang on their forearms; of several drawings of one the fingers choose.
        foreach (var arm in (string[])["left", "right"])
        foreach (var shape in Enum.GetValues<HandShape>().Where(s => Has(Tailor.HandLayer(s, arm))))
            parts.Add(
                new RigPart
                {
                    Id = Tailor.HandLayer(shape, arm),
                    Parent = "fore-" + arm,
                    Hand = new RigHand(shape, arm == "right"),
                }
            );
        void Rides(string id, float shift, float[]? pivot = null, RigSpring? spring = null) =>
            parts.Add(
                new RigPart
                {
                    Id = id,
                    Parent = "head",
                    Shift = shift,
                    Pivot = pivot ?? [0, 0],
                    Spring = spring,
                }
            );
        // What hangs from the head swings behind it, what stands on it before.
        var swings = Part("hair").Option("spring") != null;
        Rides("back-hair", -0.16f, H(300, 250), swings ? Hanging(1.7f, 10) : null);
        Rides("side-hair", 0.02f, H(300, 300), swings ? Hanging(1.9f, 8) : null);
        Rides("hair-back", -0.16f);
        Rides(
            "crown",
            -0.06f,
            H(300, 170),
            Has("crown")
                ? new RigSpring
                {
                    Frequency = 3,
                    Damping = 0.26f,
                    Turn = 9,
                }
                : null
        );
        var floppy = Part("ears").Option("spring") != null && Has("ear-left");
        parts.Add(Ear("ear-left", H(164, floppy ? 190 : 298)));
        parts.Add(Ear("ear-right", H(436, floppy ? 190 : 298)));
        Rides("skull", 0);
        parts.Add(OnFace("marks", H(300, 320), 0.5f));
        parts.Add(OnFace("cheek-left", H(218, 356), 0.8f));
        parts.Add(OnFace("cheek-right", H(382, 356), 0.8f));
        Rides("beard", 0.05f);
        parts.Add(OnFace("snout", H(300, 380), 0.95f));
        var hasSnout = Part("snout").Key is not ("none" or "pig");
        var mouthAt = H(
            300,
            Part("snout").Key switch
            {
                "muzzle" => 396,
                "small" => 390,
                "pig" => 404,
                _ => 378,
            }
        );
        parts.Add(OnFace("mouth", mouthAt, hasSnout ? 0.95f : 0.82f));
        parts.Add(OnFace("moustache", H(300, 366), 0.9f));
        parts.Add(OnFace("eye-left", H(246, 288), 0.85f));
        parts.Add(OnFace("eye-right", H(354, 288), 0.85f));
        parts.Add(OnFace("nose", H(300, 330), 1.05f));
        parts.Add(OnFace("glasses", H(300, 288), 0.76f));
        Rides(
            "hair-top",
            0.08f,
            H(300, 180),
            new RigSpring
            {
                Frequency = 3.2f,
                Damping = 0.36f,
                Slide = 0.6f,
            }
        );
        parts.Add(OnFace("brow-left", H(244, 250), 0.85f));
        parts.Add(OnFace("brow-right", H(356, 250), 0.85f));
        Rides(
            "hat",
            0.06f,
            H(300, 200),
            Has("hat")
                ? new RigSpring
                {
                    Frequency = 2.4f,
                    Damping = 0.3f,
                    Turn = Part("hat").Option("spring") != null ? 14 : 7,
                }
                : null
        );
        parts.Add(Earring("earring-left", H(158, 326)));
        parts.Add(Earring("earring-right", H(442, 326)));
        RigPart Ear(string id, float[] pivot) =>
            new()
            {
                Id = id,
                Parent = "head",
                Pivot = pivot,
                Shift = -0.2f,
                Spring = floppy ? Hanging(1.8f, 9) : null,
            };
        RigPart Earring(string id, float[] pivot) =>
            new()
            {
                Id = id,
                Parent = "head",
                Pivot = pivot,
                Shift = -0.2f,
                Spring = Has(id) ? Hanging(2.6f, 16) : null,
            };
        var (eyes, brows, mouth) = (Part("eyes"), Part("brows"), Part("mouth"));
        var covered = Part("hat").Key != "none" && Part("hat").Option("keeps") == null;
        RigEye Eye(string id, bool isRight) =>
            new()
            {
                Part = id,
                Radius = [eyes.Number("width", 27) * recipe.Head, eyes.Number("height", 28) * recipe.Head],
                Pupil = eyes.Number("pupil", 17) * recipe.Head,
                Lash = eyes.Number("lash", 9) * recipe.Head,
                Iris = recipe.Palette.Iris,
                IsRight = isRight,
            };
        RigBrow Brow(string id, bool isRight) =>
            new()
            {
                Part = id,
                Length = brows.Number("length", 32) * recipe.Head,
                Thickness = brows.Number("thickness", 13) * recipe.Head,
                Up = (covered ? 6 : 15) * recipe.Head,
                Rise = 18 * recipe.Head,
                Color = colours.Of("hairdark"),
                Edge = colours.Of("skin"),
                IsRight = isRight,
            };
        var head = fit.Head(new Vector2(300, 296));
        var foot = fit.Body(new Vector2(300, Tailor.GroundLine));
        var (top, low) = (fit.Top, fit.Head(new Vector2(300, 470)).Y);
        var side = MathF.Max(low - top + 16, 300 * recipe.Head);
        return new Rig
        {
            Key = key,
            Name = recipe.Name,
            Description = recipe.Description,
            Voice = recipe.Voice,
            Anchor = At(foot),
            Portrait = [300 - side / 2, low + 8 - side, side, side],
            Stage = new RigStage { Scale = 0.62f * recipe.Height, Y = 790 },
            Parts = [.. parts],
            Head = new RigHead { Centre = At(head), Radius = [134 * recipe.Head, 158 * recipe.Head] },
            Eyes = [Eye("eye-left", false), Eye("eye-right", true)],
            Brows = [Brow("brow-left", false), Brow("brow-right", true)],
            Mouth = new RigMouth
            {
                Style = Enum.Parse<MouthStyle>(hasSnout && mouth.Option("style") == "lips" ? "muzzle" : mouth.Option("style")!, true),
                Width = mouth.Number("width", 112) * recipe.Head,
                Height = mouth.Number("height", 96) * recipe.Head,
                Line = 5.5f * recipe.Line,
                Lip = mouth.Number("lip", 7) * recipe.Head,
                LipColor = mouth.Option("style") == "beak" ? recipe.Palette.Metal : colours.Of("lip"),
                Smile = mouth.Number("smile", 0.3f),
                Teeth = mouth.Option("style") == "slot" ? "#C9D0D6" : "#FFFDF8",
            },
        };
    }

    private static RigSpring Hanging(float hz, float turn) =>
        new()
        {
            Frequency = hz,
            Damping = 0.24f,
            Turn = -turn,
        };
}
