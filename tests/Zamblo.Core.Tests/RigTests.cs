using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Rigging;

namespace Zamblo.Core.Tests;

/// <summary>Rigs that follow from names and places.</summary>
public class RigTests
{
    private static int _number;

    // A box, in groups with names.
    private static ArtPiece Box(string groups, float left, float top, float right, float bottom, string fill = "#336699", bool isSeen = true) =>
        new(
            [.. groups.Split('/').Select(g => new ArtGroup(_number++, g))],
            FormattableString.Invariant($"M{left} {top}L{right} {top}L{right} {bottom}L{left} {bottom}Z"),
            new ArtBox(left, top, right, bottom),
            fill,
            null,
            0,
            isSeen
        );

    private static RigPart Of(RiggedArt art, string id) => art.Rig.Parts.Single(p => p.Id == id);

    private static ArtPiece[] Person(string left = "left", string right = "right") =>
        [
            Box($"leg {left}", 110, 600, 140, 780),
            Box($"shin {left}", 112, 770, 138, 940),
            Box($"foot {left}", 90, 930, 140, 960),
            Box($"leg {right}", 160, 600, 190, 780),
            Box($"shin {right}", 162, 770, 188, 940),
            Box($"foot {right}", 160, 930, 210, 960),
            Box("body", 100, 300, 200, 620),
            Box($"{left} arm", 70, 310, 95, 450),
            Box($"{left} fore-arm", 72, 440, 93, 570),
            Box($"{left} hand", 68, 565, 97, 600),
            Box($"{right} arm", 205, 310, 230, 450),
            Box($"{right} fore-arm", 207, 440, 228, 570),
            Box("head", 80, 60, 220, 300),
            Box($"head/eyes/{left}_eye", 105, 140, 135, 180, "#FFFFFF"),
            Box($"head/eyes/{left}_eye", 115, 150, 127, 165, "#000000"),
            Box($"head/eyes/{right}_eye", 165, 140, 195, 180, "#FFFFFF"),
            Box($"head/eyes/{right}_eye", 175, 150, 187, 165, "#000000"),
            Box("head/mouth", 120, 230, 180, 270, "#552222"),
            Box("head/hairFront", 80, 50, 220, 100),
        ];

    [Theory]
    [InlineData("Left arm", "Arm", "Left")]
    [InlineData("arm_L", "Arm", "Left")]
    [InlineData("upperArmRight", "Arm", "Right")]
    [InlineData("FOREARM-R", "Forearm", "Right")]
    [InlineData("right lower leg", "Shin", "Right")]
    [InlineData("Eyebrow L", "Brow", "Left")]
    [InlineData("eye lid right", "Lid", "Right")]
    [InlineData("Left eye pupil", "Pupil", "Left")]
    [InlineData("Hair_back", "Hair", "None")]
    [InlineData("mouth-L", "Mouth", "None")]
    [InlineData("Ears", "Ear", "None")]
    [InlineData("glasses", "Glasses", "None")]
    public void Names_are_understood_as_people_write_them(string name, string kind, string side)
    {
        var read = PartNames.Of(name)!.Value;
        Assert.Equal((kind, side), (read.Kind.ToString()!, read.Side.ToString()));
    }

    [Theory]
    [InlineData("g1234")]
    [InlineData("Layer 1")]
    [InlineData("freckles")]
    [InlineData("bright")]
    [InlineData("")]
    public void Other_names_say_nothing(string name) => Assert.Null(PartNames.Of(name));

    [Fact]
    public void Parts_hang_on_what_they_should_and_turn_where_they_meet()
    {
        var made = AutoRig.Make("Somebody", Person());
        foreach (
            var (id, parent, motion) in new[]
            {
                ("hips", null, RigMotion.Hips),
                ("leg-left", "hips", RigMotion.LegLeft),
                ("shin-left", "leg-left", RigMotion.KneeLeft),
                ("foot-left", "shin-left", RigMotion.Level),
                ("body", "hips", RigMotion.Body),
                ("arm-right", "body", RigMotion.ArmRight),
                ("forearm-right", "arm-right", RigMotion.ElbowRight),
                ("hand-left", "forearm-left", RigMotion.None),
                ("head", "body", RigMotion.Head),
                ("eye-left", "head", RigMotion.EyeLeft),
                ("pupil-left", "eye-left", RigMotion.Pupil),
            }
        )
            Assert.Equal((parent, motion), (Of(made, id).Parent, Of(made, id).Motion));
        // The shoulder is at the upper end of the arm, the elbow where the forearm begins, the sole under the shin.
        var arm = Of(made, "arm-left");
        Assert.InRange(arm.Pivot[1], 310, 340);
        Assert.InRange(Of(made, "forearm-left").Pivot[1], 435, 465);
        Assert.InRange(Of(made, "forearm-left").Tip![1], 560, 600);
        Assert.InRange(Of(made, "shin-left").Tip![1], 925, 965);
        // Nobody's pupil leaves its eye.
        Assert.InRange(Of(made, "pupil-left").Reach![0], 1, 9);
        // Everything is drawn in the order in which it was; what is drawn anew of the mouth holds its place.
        Assert.Equal("hips", made.Groups[0].Id);
        Assert.Equal(Enumerable.Range(0, 19).Where(i => i != 17), made.Groups.SelectMany(g => g.Pieces));
        Assert.Equal(MouthStyle.Stretched, made.Rig.Mouth.Style);
        Assert.Empty(made.Rig.Eyes);
        Assert.Equal(Gait.Step, made.Rig.Stage.Gait);
    }

    [Fact]
    public void Left_and_right_may_be_the_figures_own()
    {
        var made = AutoRig.Make("Somebody", Person("right", "left"));
        Assert.InRange(Of(made, "arm-left").Pivot[0], 70, 95);
        Assert.InRange(Of(made, "eye-right").Pivot[0], 165, 195);
        Assert.Equal(RigMotion.LegLeft, Of(made, "leg-left").Motion);
        Assert.InRange(Of(made, "leg-left").Pivot[0], 110, 140);
    }

    [Fact]
    public void What_is_missing_has_a_stand_in_and_the_list_says_which()
    {
        var made = AutoRig.Make("Crate", [Box("crate", 0, 0, 400, 300), Box("label", 100, 200, 300, 260)]);
        var said = RigReport.Of(made.Rig).ToDictionary(f => f.What);
        Assert.Equal((RigState.StandIn, "the whole figure nods and tilts"), (said["Head"].State, said["Head"].Says));
        Assert.Equal(2, made.Rig.Eyes.Length);
        Assert.Equal(RigState.StandIn, said["Eyes"].State);
        Assert.Equal(RigState.Missing, said["Arms"].State);
        Assert.False(said.ContainsKey("Lids"));
        // A name that says nothing is a part all the same: it can be given a motion.
        Assert.Contains(made.Rig.Parts, p => p.Id == "label");
        var person = RigReport.Of(AutoRig.Make("Somebody", Person()).Rig).ToDictionary(f => f.What);
        Assert.Equal("eyes are squeezed shut", person["Lids"].Says);
        Assert.Equal("the one drawn mouth is stretched", person["Mouth"].Says);
        Assert.Equal("bend and reach", person["Arms"].Says);
    }

    [Fact]
    public void Mouths_that_bear_sounds_serve_the_shapes_that_are_nearest()
    {
        var made = AutoRig.Make(
            "Somebody",
            [
                Box("head", 0, 0, 400, 400),
                Box("mouth/mouth mbp", 150, 300, 250, 306),
                Box("mouth/AI", 150, 290, 250, 350, isSeen: false),
                Box("mouth/mouth_o", 170, 290, 230, 340, isSeen: false),
            ]
        );
        var mouth = made.Rig.Mouth;
        Assert.Equal(MouthStyle.Drawn, mouth.Style);
        Assert.Equal(["closed", "open", "round"], mouth.Drawn.Keys.Order());
        Assert.Equal(("closed", "closed"), (mouth.Serves["tuck"], mouth.Serves["rest"]));
        Assert.Equal("round", mouth.Serves["pucker"]);
        // A line opens no further by being stretched.
        Assert.Equal(MouthStyle.Muzzle, AutoRig.Make("Line", [Box("head", 0, 0, 400, 400), Box("mouth", 150, 300, 250, 306)]).Rig.Mouth.Style);
    }

    [Fact]
    public void What_comes_back_in_front_of_something_else_stays_in_front_of_it()
    {
        var made = AutoRig.Make("Somebody", [Box("head", 0, 0, 400, 400), Box("head/eye left", 100, 100, 150, 150), Box("head/shine", 90, 90, 120, 120)]);
        Assert.Equal(["head", "eye-left", "head.2"], made.Groups.Select(g => g.Id).Where(id => id.StartsWith("head") || id.StartsWith("eye-left")));
        Assert.Equal("head", Of(made, "head.2").Parent);
    }

    [Fact]
    public void Nothing_to_be_seen_is_no_figure() =>
        Assert.Contains("nothing", Assert.Throws<ArtException>(() => AutoRig.Make("Nobody", [Box("head", 0, 0, 9, 9, isSeen: false)])).Message);

    [Theory]
    [InlineData("M0 0L1.5-2Q3 4 5,6Z", true)]
    [InlineData("M0 0h5", false)]
    [InlineData("M.5 1", false)]
    [InlineData("M1e5 1", false)]
    public void Paths_that_are_stretched_are_plain(string path, bool isPlain) => Assert.Equal(isPlain, Zamblo.Core.Stage.Wardrobe.PathPoints.IsPlain(path));
}
