using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Shots by the rules of the trade (common practice; Thompson and Bowen, "Grammar of the Shot", from memory).</summary>
public class CameraTests
{
    // A talk that is made up: turns of all lengths, pauses, interruptions, with words that touch each other.
    private static (SpokenTurn[] Turns, double Duration) Talk(Random random, int members)
    {
        var turns = new List<SpokenTurn>();
        var at = random.NextDouble() * 2;
        for (int i = 0, n = random.Next(1, 30), member = 0; i < n; i++)
        {
            member = random.Next(4) == 0 ? member : random.Next(members);
            var words = new List<(double, double)>();
            var t = at;
            for (var w = random.Next(1, random.Next(3) == 0 ? 90 : 12); w > 0; w--)
            {
                var end = t + 0.1 + 0.5 * random.NextDouble();
                words.Add((t, end));
                t = end + (random.Next(6) == 0 ? 0.3 * random.NextDouble() : 0);
            }
            turns.Add(new SpokenTurn(member, at, t, words, random.Next(5) == 0));
            at = Math.Max(
                at + 0.3,
                t
                    + (
                        random.Next(5) == 0 ? -0.5
                        : random.Next(6) == 0 ? 3
                        : 0.4
                    ) * random.NextDouble()
            );
        }
        return ([.. turns], turns.Max(t => t.End) + 0.2 + 2 * random.NextDouble());
    }

    [Fact]
    public void Shots_cover_the_scene_and_keep_the_rules()
    {
        var random = new Random(11);
        var (past, inserts) = (0, 0);
        for (var round = 0; round < 600; round++)
        {
            var members = random.Next(1, 6);
            var (turns, duration) = Talk(random, members);
            var dials = new CameraDials
            {
                IsFixed = false,
                Pace = random.NextDouble(),
                Nearness = random.NextDouble(),
                Reactions = random.NextDouble(),
                Shoulders = random.NextDouble(),
                Things = random.NextDouble(),
                Seed = round,
            };
            ThingNamed[] things = [.. turns.SelectMany(t => t.Words).Where(_ => random.Next(6) == 0).Select(w => new ThingNamed(w.Start, random.Next(3)))];
            var shots = CameraPass.Make(turns, members, duration, dials, things);
            Assert.Equal(shots, CameraPass.Make(turns, members, duration, dials, things));
            past += shots.Count(s => s.Framing == Framing.Shoulder);
            inserts += shots.Count(s => s.Framing == Framing.Insert);
            // A thing is looked at once, about when it is first named, and for no longer than one can do without the speaker.
            foreach (var look in shots.Where(s => s.Framing == Framing.Insert))
            {
                Assert.Single(shots, s => s.Prop == look.Prop && s.Framing == Framing.Insert);
                Assert.InRange(look.Start - things.Where(t => t.Prop == look.Prop).Min(t => t.Time), -0.85, 1.65);
            }
            Assert.Equal(0, shots[0].Start);
            for (var i = 0; i < shots.Count; i++)
            {
                var (shot, end) = (shots[i], i + 1 < shots.Count ? shots[i + 1].Start : duration);
                Assert.InRange(shot.Subject, -1, members - 1);
                Assert.NotEmpty(shot.Reason);
                if (shots.Count > 1)
                    Assert.True(end - shot.Start >= CameraPass.Shortest - 1e-6, $"round {round}: {shot} lasts {end - shot.Start:0.00} s");
                Assert.DoesNotContain(turns.SelectMany(t => t.Words), w => shot.Start > w.Start + 1e-4 && shot.Start < w.End - 1e-4);
                if (i == 0)
                    continue;
                var before = shots[i - 1];
                Assert.False(
                    before.Framing == shot.Framing && before.Subject == shot.Subject && before.Other == shot.Other,
                    $"round {round}: {before}, then the same"
                );
                // Neighbouring shots of one subject alone: medium and close are too near to each other.
                if (before.Subject == shot.Subject && before.Other < 0 && shot.Other < 0)
                    Assert.True(before.Framing == Framing.Wide || shot.Framing == Framing.Wide, $"round {round}: {before} to {shot}");
            }
        }
        Assert.True(past > 200 && inserts > 100, $"{past} over shoulders, {inserts} things");
    }

    [Fact]
    public void Who_speaks_is_seen()
    {
        var random = new Random(5);
        double spoken = 0,
            away = 0;
        for (var round = 0; round < 200; round++)
        {
            var members = random.Next(2, 5);
            var (turns, duration) = Talk(random, members);
            var shots = CameraPass.Make(turns, members, duration, CameraDials.Lively with { Seed = round });
            foreach (var turn in turns)
            {
                double since = 0;
                for (var t = turn.Start; t < turn.End; t += 0.02)
                {
                    spoken += 0.02;
                    // While another speaks too, one of them is seen.
                    var isSeen = turns.Any(o => o.Start <= t && o.End > t && shots.Last(s => s.Start <= t).Shows(o.Member));
                    since = isSeen ? 0 : since + 0.02;
                    away += isSeen ? 0 : 0.02;
                    Assert.True(since <= CameraPass.LongestAway + 2, $"round {round}: {turn.Member} is out of the picture at {t:0.00} for {since:0.0} s");
                }
            }
        }
        // Reactions, and turns that begin before the picture can be cut.
        Assert.InRange(away / spoken, 0, 0.15);
    }

    [Fact]
    public void Faces_are_whole_in_every_framing_and_format()
    {
        var random = new Random(3);
        (int W, int H)[] sizes = [(1280, 720), (1080, 1080), (1080, 1920), (1080, 1350), (2560, 1080)];
        for (var round = 0; round < 1000; round++)
        {
            var heads = Enumerable
                .Range(0, random.Next(1, 6))
                .Select(i =>
                {
                    var (x, half, top) = (200 + 200 * i, random.Next(40, 100), random.Next(120, 400));
                    return new HeadBox(x - half, x + half, top, random.Next(610, 790)) { Chin = top + 2.2f * half, Eyes = top + 1.2f * half };
                })
                .ToArray();
            foreach (var (w, h) in sizes)
            foreach (var framing in Enum.GetValues<Framing>())
            {
                var subject = random.Next(heads.Length);
                var shot = new Shot(0, framing, subject, "") { Other = framing is Framing.Two or Framing.Shoulder ? (subject + 1) % heads.Length : -1 };
                var view = Framings.ViewOf(shot, heads, w, h);
                var tall = view.Width * h / w;
                var whole = heads.Where((_, i) => shot.Shows(i));
                foreach (var head in whole)
                {
                    Assert.InRange(head.Left, view.X - view.Width / 2 - 0.1f, head.Right);
                    Assert.InRange(head.Right, head.Left, view.X + view.Width / 2 + 0.1f);
                    Assert.InRange(head.Top, view.Y - tall / 2 - 0.1f, head.Chin);
                    Assert.InRange(head.Chin, head.Top, view.Y + tall / 2 + 0.1f);
                }
            }
        }
    }

    [Fact]
    public void Over_the_shoulder_the_edge_goes_through_the_other_head_and_keeps_the_sides()
    {
        HeadBox[] heads = [new HeadBox(300, 460, 230, 790) { Chin = 414, Eyes = 330 }, new HeadBox(640, 800, 220, 790) { Chin = 404, Eyes = 320 }];
        foreach (var (subject, other) in (ReadOnlySpan<(int, int)>)[(0, 1), (1, 0)])
        {
            var view = Framings.ViewOf(new Shot(0, Framing.Shoulder, subject, "") { Other = other }, heads, 1280, 720);
            float left = view.X - view.Width / 2,
                right = view.X + view.Width / 2,
                tall = view.Width * 720 / 1280;
            var seen = (Math.Min(right, heads[other].Right) - Math.Max(left, heads[other].Left)) / (heads[other].Right - heads[other].Left);
            // Less than half of the head, so that both eyes are never there.
            Assert.InRange(seen, 0.2f, 0.5f);
            Assert.True(heads[subject].Left > left && heads[subject].Right < right);
            Assert.InRange((heads[subject].Eyes - (view.Y - tall / 2)) / tall, 0.25f, 0.5f);
            // Left stays left: whom it is of has the other side of the picture (the rule of 180 degrees).
            Assert.Equal(Math.Sign(subject - other), Math.Sign((heads[subject].Left + heads[subject].Right) / 2 - view.X));
        }
        // Too far apart for it, it is a shot of the one.
        HeadBox[] far = [heads[0] with { Left = 40, Right = 200 }, new HeadBox(1180, 1280, 220, 790) { Chin = 404, Eyes = 320 }];
        Assert.Equal(
            Framings.ViewOf(new Shot(0, Framing.Medium, 0, ""), far, 1280, 720),
            Framings.ViewOf(new Shot(0, Framing.Shoulder, 0, "") { Other = 1 }, far, 1280, 720)
        );
    }

    [Fact]
    public void A_close_shot_has_its_eyes_on_the_upper_third()
    {
        var heads = new[]
        {
            new HeadBox(500, 700, 130, 790) { Chin = 414, Eyes = 300 },
            new HeadBox(1100, 1200, 300, 650) { Chin = 420, Eyes = 360 },
        };
        var close = Framings.ViewOf(new Shot(0, Framing.Close, 0, ""), heads, 1280, 720);
        var medium = Framings.ViewOf(new Shot(0, Framing.Medium, 0, ""), heads, 1280, 720);
        Assert.True(close.Width < 0.8f * medium.Width && medium.Width < 1280);
        var tall = close.Width * 720 / 1280;
        Assert.InRange((heads[0].Eyes - (close.Y - tall / 2)) / tall, 0.3f, 0.5f);
        // Whoever looks to the right has room at the right.
        Assert.True(close.X > 600);
    }

    [Fact]
    public void Shots_by_hand_lie_over_those_that_were_chosen()
    {
        Shot[] chosen = [new(0, Framing.Wide, -1, "a"), new(4, Framing.Medium, 0, "b"), new(8, Framing.Medium, 1, "c")];
        var id = new ClipId(Guid.NewGuid());
        var list = ShotList.Of(chosen, [(new Shot(5, Framing.Close, 1, "By hand") { Clip = id }, 7.8)]).Shots;
        Assert.Equal([0.0, 4, 5, 7.8], list.Select(s => s.Start));
        // The scrap of 0.2 s before the next one goes to it.
        Assert.Equal([(Framing.Wide, -1), (Framing.Medium, 0), (Framing.Close, 1), (Framing.Medium, 1)], list.Select(s => (s.Framing, s.Subject)));
        // The camera goes on as it was where there is time for it.
        Assert.Equal(
            [(0.0, -1), (4.0, 0), (5.0, 1), (6.0, 0), (8.0, 1)],
            ShotList.Of(chosen, [(new Shot(5, Framing.Close, 1, "By hand") { Clip = id }, 6)]).Shots.Select(s => (s.Start, s.Subject))
        );
        Assert.Equal(0, ShotList.Of(chosen, [(new Shot(0.2, Framing.Close, 1, "By hand") { Clip = id }, 6)]).Shots[0].Start);
        // Cuts lie on whole frames, the nearest.
        Assert.Equal(120, ShotList.Of([chosen[0], chosen[1] with { Start = 4.01 }], []).FirstFrame(1, new FrameRate(30)));
    }
}
