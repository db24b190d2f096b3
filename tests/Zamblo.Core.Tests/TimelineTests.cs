using System.Numerics;
using System.Text.Json;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Films for other programs: a timeline, and acting as morph targets.</summary>
public class TimelineTests
{
    private static StageScene Stage(double seconds, params Shot[] shots) =>
        new(TestData.Cast.Backdrop("paper"), [], new FrameRate(25), seconds) { Shots = shots.Length == 0 ? ShotList.Whole : ShotList.Of(shots, []) };

    private static JsonElement Written(string? film)
    {
        TimelineScene[] scenes =
        [
            new(
                Stage(4, new Shot(0, Framing.Wide, -1, "first"), new Shot(1.5, Framing.Close, 0, "then")),
                ["Maro", "Bubb"],
                [new TimelineLine(0, 0.52, 1.8, "The oven is hot."), new TimelineLine(1, 1.6, 3.9, "So am I.")]
            ),
            new(Stage(2), ["Maro", "Bubb"], [new TimelineLine(0, 0.4, 1.2, "Come."), new TimelineLine(0, 1.0, 1.6, "Now.")]),
        ];
        using var stream = new MemoryStream();
        Timeline.Write(stream, "Night", scenes, film);
        return JsonDocument.Parse(stream.ToArray()).RootElement;
    }

    // Of OpenTimelineIO's file format (opentimelineio.readthedocs.io, "File Format Specification", and the serialized schema, from memory).
    [Fact]
    public void A_timeline_has_a_clip_for_each_shot_and_line_and_fills_every_frame_once()
    {
        var timeline = Written("film.mp4");
        Assert.Equal("Timeline.1", timeline.GetProperty("OTIO_SCHEMA").GetString());
        var stack = timeline.GetProperty("tracks");
        Assert.Equal("Stack.1", stack.GetProperty("OTIO_SCHEMA").GetString());
        Assert.Equal(2, stack.GetProperty("markers").GetArrayLength());
        var tracks = stack.GetProperty("children").EnumerateArray().ToArray();
        Assert.Equal(["Video", "Audio", "Audio"], tracks.Select(t => t.GetProperty("kind").GetString()));
        double Value(JsonElement range, string time) => range.GetProperty(time).GetProperty("value").GetDouble();
        foreach (var track in tracks)
        {
            double at = 0;
            foreach (var item in track.GetProperty("children").EnumerateArray())
            {
                var range = item.GetProperty("source_range");
                Assert.Equal(25, range.GetProperty("duration").GetProperty("rate").GetDouble());
                Assert.True(Value(range, "duration") > 0);
                // A clip shows the film's own frames at its place.
                if (item.GetProperty("OTIO_SCHEMA").GetString() == "Clip.2")
                {
                    Assert.Equal(at, Value(range, "start_time"));
                    var media = item.GetProperty("media_references").GetProperty(item.GetProperty("active_media_reference_key").GetString()!);
                    Assert.Equal("ExternalReference.1", media.GetProperty("OTIO_SCHEMA").GetString());
                    Assert.Equal("film.mp4", media.GetProperty("target_url").GetString());
                    Assert.Equal(150, Value(media.GetProperty("available_range"), "duration"));
                }
                at += Value(range, "duration");
            }
            Assert.True(at <= 150);
        }
        var shots = tracks[0].GetProperty("children").EnumerateArray().ToArray();
        Assert.Equal(["Wide", "Close Maro", "Wide"], shots.Select(s => s.GetProperty("name").GetString()));
        Assert.Equal([38, 62, 50], shots.Select(s => (int)Value(s.GetProperty("source_range"), "duration")));
        Assert.Equal(
            "MissingReference.1",
            Written(null)
                .GetProperty("tracks")
                .GetProperty("children")[0]
                .GetProperty("children")[0]
                .GetProperty("media_references")
                .GetProperty("DEFAULT_MEDIA")
                .GetProperty("OTIO_SCHEMA")
                .GetString()
        );
    }

    [Fact]
    public void Heads_turn_as_they_are_seen()
    {
        // glTF 2.0, 3.4: y up, z forward, x to the picture's right for who looks at the front. A face that looks at us looks along z.
        Vector3 Look(Pose p) => Vector3.Transform(Vector3.UnitZ, FaceTargets.HeadOf(p));
        Assert.True(Look(Pose.Neutral with { HeadTurn = 20 }).X > 0.3);
        Assert.True(Look(Pose.Neutral with { HeadNod = 15 }).Y < -0.2);
        // Tilted clockwise, the crown goes to the right.
        Assert.True(Vector3.Transform(Vector3.UnitY, FaceTargets.HeadOf(Pose.Neutral with { HeadTilt = 15 })).X > 0.2);
        Assert.Equal(1, FaceTargets.HeadOf(Pose.Neutral).W, 6);
    }

    [Fact]
    public void Vowels_of_the_mouth_are_those_of_the_targets()
    {
        float Weight(string name, MouthShape shape)
        {
            var pose = Pose.Neutral;
            pose.Mouth = MouthShapes.TargetOf(shape);
            return FaceTargets.All.Single(t => t.Name == name).Weight(pose);
        }
        string[] vowels = ["aa", "ih", "ou", "ee", "oh"];
        // Shut lips are no vowel; each mouth is nearest to its own: AA, IY, UW, OW.
        Assert.All(vowels, v => Assert.Equal(0, Weight(v, MouthShape.Closed)));
        foreach (var (shape, vowel) in new[] { (MouthShape.Open, "aa"), (MouthShape.Wide, "ee"), (MouthShape.Pucker, "ou"), (MouthShape.Round, "oh") })
        {
            var told = string.Join(", ", vowels.Select(v => $"{v} {Weight(v, shape):0.00}"));
            Assert.True(vowels.MaxBy(v => Weight(v, shape)) == vowel && Weight(vowel, shape) > 0.3f, $"{shape}: {told}");
        }
        Assert.All(FaceTargets.All, t => Assert.InRange(t.Weight(Pose.Neutral), 0, 1));
        Assert.Equal(FaceTargets.All.Count, FaceTargets.All.Select(t => t.Name).Distinct().Count());
    }

    // ISO/IEC 14496-2, annex C, table of facial animation parameters: names and what is positive (from memory).
    [Fact]
    public void Facial_animation_parameters_go_the_way_that_the_standard_says()
    {
        var faps = FaceTargets.By(FaceNames.Mpeg4);
        float Of(string name, Pose pose) => faps.Single(t => t.Name == name).Weight(pose);
        Pose Mouth(MouthShape shape)
        {
            var pose = Pose.Neutral;
            pose.Mouth = MouthShapes.TargetOf(shape);
            return pose;
        }
        Assert.Equal(faps.Count, faps.Select(t => t.Name).Distinct().Count());
        Assert.All(faps, t => Assert.Equal(0, t.Weight(Pose.Neutral), 3));
        // Down is positive for the jaw and the upper lip, up for the lower one; corners outwards.
        Assert.True(Of("open_jaw", Mouth(MouthShape.Open)) > 0.4f);
        Assert.True(Of("raise_b_midlip", Mouth(MouthShape.Open)) < -0.3f && Of("lower_t_midlip", Mouth(MouthShape.Open)) <= 0);
        Assert.True(Of("stretch_l_cornerlip", Mouth(MouthShape.Wide)) > 0.1f && Of("stretch_r_cornerlip", Mouth(MouthShape.Pucker)) < -0.05f);
        Assert.True(Of("push_t_lip", Mouth(MouthShape.Pucker)) > 0.1f);
        Assert.True(Of("raise_b_midlip", Mouth(MouthShape.Closed)) > -0.05f);
        // The figure's own left is at the picture's right.
        Assert.Equal(1, Of("close_t_l_eyelid", Pose.Neutral with { LidRight = 0 }));
        Assert.Equal(0, Of("close_t_r_eyelid", Pose.Neutral with { LidRight = 0 }));
        Assert.True(Of("raise_r_m_eyebrow", Pose.Neutral with { BrowLeft = 1 }) > 0.2f);
        // Eyes to the figure's left and down: 30 degrees are 0.52 rad.
        Assert.Equal(0.524f, Of("yaw_l_eyeball", Pose.Neutral with { GazeX = 1 }), 3);
        Assert.True(Of("pitch_r_eyeball", Pose.Neutral with { GazeY = 1 }) > 0.5f);
    }

    [Fact]
    public void An_avatars_expressions_are_those_of_vrm()
    {
        // VRM 1.0, VRMC_vrm-1.0, preset expressions (from memory).
        string[] presets = ["happy", "angry", "sad", "relaxed", "surprised", "aa", "ih", "ou", "ee", "oh", "blink", "blinkLeft", "blinkRight"];
        string[] looks = ["lookUp", "lookDown", "lookLeft", "lookRight", "neutral"];
        var names = FaceTargets.By(FaceNames.Vrm).Select(t => t.Name).ToArray();
        Assert.Empty(names.Except(presets.Concat(looks)));
        Assert.Equal(11, names.Length);
    }
}
