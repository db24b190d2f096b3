using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Tests;

/// <summary>Every recipe of the Wardrobe is a figure that moves and speaks like any other.</summary>
public class WardrobeTests
{
    private static readonly WardrobeRecipe Plain = new() { Name = "Ada" };

    private static DrawItem[] Drawn(Figure figure, Pose pose)
    {
        var items = new DrawItem[figure.Shapes.Count];
        figure.Draw(pose, Matrix3x2.Identity, items);
        return items;
    }

    // A height of the picture's mouth: how far its paths reach up and down.
    private static float Opening(Figure figure, MouthChannels mouth)
    {
        var (_, paths, _, _) = figure.MouthPicture(mouth);
        var heights = paths.Take(1).OfType<string>().Select(PathPoints.Heights).ToArray();
        return heights.Length == 0 ? 0 : heights.Max(h => h.Bottom) - heights.Min(h => h.Top);
    }

    [Fact]
    public void A_hundred_of_chance_pass_what_every_character_has_to()
    {
        for (var seed = 1; seed <= 100; seed++)
        {
            var recipe = Tailor.AtRandom(seed);
            var figure = Tailor.Make(recipe, "chance");
            Assert.InRange(figure.Shapes.Count, 50, 260);
            // Turned as far as it goes, in the strongest of poses, everything is drawn and nothing is lost.
            foreach (var turn in (float[])[-30, 0, 30])
            {
                var items = Drawn(figure, Pose.Neutral with { HeadTurn = turn, HeadNod = turn / 3, HeadTilt = -turn / 3, ArmLeft = 40, ElbowRight = 60 });
                Assert.All(
                    items,
                    i => Assert.True(float.IsFinite(i.Transform.M11 + i.Transform.M12 + i.Transform.M31 + i.Transform.M32) && i.Opacity is >= 0 and <= 1)
                );
            }
            // Hats and ears stay in the drawing, feet stand on its ground.
            var art = Tailor.Write(recipe, "chance").Art;
            var rows = System.Text.RegularExpressions.Regex.Matches(art, " d=\"([^\"]+)\"").Select(m => PathPoints.Heights(m.Groups[1].Value)).ToArray();
            Assert.True(rows.Min(r => r.Top) >= 0 && rows.Max(r => r.Bottom) <= figure.Size.Y + 2, $"seed {seed}");
            // The mouth opens and closes.
            Assert.True(Opening(figure, MouthShapes.TargetOf(MouthShape.Open)) > 3 * Opening(figure, MouthShapes.TargetOf(MouthShape.Closed)), $"seed {seed}");
            Assert.Equal(recipe.Parts.Count, recipe.Parts.Keys.Distinct().Count());
        }
    }

    [Fact]
    public void Every_part_can_be_worn_with_everything_plain_and_there_are_more_than_a_hundred()
    {
        var stock = Tailor.Stock();
        Assert.True(stock.Sum(k => k.Parts.Count) > 140);
        Assert.True(stock.First(k => k.Kind == "hair").Parts.Count >= 12);
        foreach (var kind in stock)
        {
            Assert.Equal(kind.Parts.Count, kind.Parts.Select(p => p.Key).Distinct().Count());
            var seen = new HashSet<string>();
            foreach (var part in kind.Parts)
            {
                var (art, rig) = Tailor.Write(Plain.With(kind.Kind, part.Key), "ada");
                // Each is another figure, in its drawing or in its rig.
                Assert.True(seen.Add(art + System.Text.Encoding.UTF8.GetString(rig)), $"{kind.Kind} {part.Key}");
                Tailor.Make(Plain.With(kind.Kind, part.Key).With("hat", "bowler"), "ada");
            }
        }
    }

    [Fact]
    public void Shipped_characters_are_sixteen_and_more_of_every_kind_and_in_one_hand()
    {
        var library = CastLibrary.Shipped();
        Assert.True(library.CharacterKeys.Count >= 16);
        Assert.Equal(["creature", "machine", "person", "thing"], library.CharacterKeys.Select(library.KindOf).Distinct().Order());
        Assert.Equal(library.CharacterKeys.Count, library.CharacterKeys.Select(k => library.Character(k).Rig.Name).Distinct().Count());
        Assert.All(library.CharacterKeys, k => Assert.Equal("#1E2430", library.Character(k).Rig.Ink));
        Assert.All(library.CharacterKeys, k => Assert.NotEmpty(library.Character(k).Rig.Description));
    }

    [Fact]
    public void Two_of_one_character_tell_apart_and_are_one_figure_still()
    {
        var library = CastLibrary.Shipped();
        Assert.Equal("ines", library.Apart("ines", ["maro"]));
        Assert.Equal("ines~3", library.Apart("ines", ["ines", "ines~2"]));
        Assert.Equal("bubb", library.Apart("bubb", ["bubb"]));
        var (one, two) = (library.Character("ines"), library.Character("ines~2"));
        Assert.Equal(one.Shapes.Select(s => s.Path), two.Shapes.Select(s => s.Path));
        Assert.True(one.Shapes.Zip(two.Shapes).Count(s => s.First.Fill != s.Second.Fill) >= 5);
        Assert.True(library.Has("ines~2") && !library.Has("ines~x") && !library.Has("nobody~2") && !library.Has("bubb~2"));
        Assert.Equal("ines", CastLibrary.Plain("ines~12"));
    }

    [Theory]
    [InlineData("hair", "beehive", "no hair \"beehive\"")]
    [InlineData("wings", "two", "no kind of part \"wings\"")]
    public void What_the_Wardrobe_does_not_have_is_said(string kind, string key, string said) =>
        Assert.Contains(said, Assert.Throws<ArtException>(() => Tailor.Make(Plain.With(kind, key), "ada")).Message);

    [Fact]
    public void Measures_colours_and_names_have_bounds()
    {
        foreach (
            var wrong in (WardrobeRecipe[])
                [
                    Plain with
                    {
                        Head = 2,
                    },
                    Plain with
                    {
                        Build = float.NaN,
                    },
                    Plain with
                    {
                        Body = 0,
                    },
                    Plain with
                    {
                        Name = "",
                    },
                    Plain with
                    {
                        Name = new string('x', 41),
                    },
                    Plain with
                    {
                        Palette = new WardrobePalette { Skin = "red" },
                    },
                    Plain with
                    {
                        Palette = new WardrobePalette { Lip = "#12345678" },
                    },
                ]
        )
            Assert.Throws<ArtException>(() => Tailor.Make(wrong, "ada"));
    }

    [Fact]
    public void Proportions_move_what_they_should_and_nothing_else()
    {
        float[] Eye(WardrobeRecipe r) => Tailor.Make(r, "ada").Rig.Parts.First(p => p.Id == "eye-left").Pivot;
        float[] Shoulder(WardrobeRecipe r) => Tailor.Make(r, "ada").Rig.Parts.First(p => p.Id == "upper-left").Pivot;
        Assert.Equal([246f, 288f], Eye(Plain));
        Assert.Equal(Shoulder(Plain), Shoulder(Plain with { Head = 1.2f }));
        Assert.Equal(Eye(Plain), Eye(Plain with { Build = 1.3f, Body = 0.8f }));
        Assert.Equal(300 - 1.3f * (300 - Shoulder(Plain)[0]), Shoulder(Plain with { Build = 1.3f })[0], 0.1f);
        Assert.Equal(300 - 1.2f * 54, Eye(Plain with { Head = 1.2f })[0], 0.1f);
    }

    [Theory]
    // In hue, saturation and value: pure colours a third of the way round (Smith 1978, "Color gamut transform pairs").
    [InlineData("#EB0000", 120, "#00EB00")]
    [InlineData("#EB0000", 240, "#0000EB")]
    [InlineData("#00EB00", 360, "#00EB00")]
    public void Colours_turn_by_their_hue(string from, double degrees, string to) => Assert.Equal(to, InkAndColour.Turned(from, degrees));

    [Fact]
    public void Points_of_paths_are_moved_and_everything_else_stays()
    {
        Assert.Equal("M 11 2 L 13.5 -4 C 11 2 13 4 15 6 Z", PathPoints.Map("M1 2 L3.5 -4 C1 2 3 4 5 6Z", p => p + new Vector2(10, 0)));
        Assert.Equal((-4, 6), PathPoints.Heights("M1 2 L3.5 -4 C1 2 3 4 5 6Z"));
    }
}
