using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Tests;

/// <summary>A scene that begins as the one before it ended.</summary>
public sealed class CarryTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task LayAsync(object clip) => await Server.PostAsync($"/api/scenes/{Scene}/clips", clip);

    private Task<LoadedScene> LoadAsync(string scene) => Services.GetRequiredService<SceneDesk>().LoadAsync(Guid.Parse(scene));

    // Somebody speaks, goes on walking beyond the end, is glad, and nods until after it.
    private async Task<double> PlayAsync()
    {
        await Server.SpeakAsync(Production, Scene, Member, "I am going to the oven now.");
        var end = (await LoadAsync(Scene)).Stage.Duration;
        await LayAsync(
            new
            {
                member = Member,
                kind = "Walk",
                name = "walk",
                start = end - 1,
                end = end + 1,
                walkTo = 1000,
            }
        );
        await LayAsync(
            new
            {
                member = Member,
                kind = "Mood",
                name = "Joy",
                start = 0.2,
                end = end - 0.5,
            }
        );
        await LayAsync(
            new
            {
                member = Member,
                kind = "Gesture",
                name = "cheer",
                start = end - 0.5,
                end = end + 0.7,
            }
        );
        await LayAsync(
            new
            {
                member = Member,
                kind = "Light",
                name = "Night",
                start = 0.5,
            }
        );
        return end;
    }

    [Fact]
    public async Task What_is_under_way_goes_on_where_the_next_scene_begins()
    {
        await PlayAsync();
        // The set goes on, so all else does by itself.
        var second = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { }));
        var (before, after) = (await LoadAsync(Scene), await LoadAsync(second));
        var end = before.Evaluated.Duration;
        Assert.Equal(before.Stage.PlaceOf(0, end), after.Stage.PlaceOf(0, 0), 0.5);
        Assert.Equal(1000, after.Stage.PlaceOf(0, 5), 0.5);
        Assert.InRange(before.Stage.PlaceOf(0, end), before.Stage.PlaceOf(0, 0) + 20, 990);
        // Arms are where they were, and she is glad for a moment yet.
        var (last, first) = (before.Stage.PosesOf(0)[^1], after.Stage.PosesOf(0)[0]);
        Assert.True(last.ArmRight > 30);
        Assert.Equal(last.ArmRight, first.ArmRight, 15f);
        Assert.True(first.Mouth[Zamblo.Core.Mouth.MouthChannel.CornerLeft] > 0.1);
        Assert.Equal("Night", after.Document.Light.Light.ToString());

        // Changed before, it is taken over anew and not twice; what a hand has laid since stays.
        await Server.PostAsync(
            $"/api/scenes/{second}/clips",
            new
            {
                member = Member,
                kind = "Mood",
                name = "Fear",
                start = 0.3,
                end = 1,
            }
        );
        var walk = before.Document.Clips.First(c => c is Zamblo.Core.Score.WalkClip).Id.Value;
        await Server.PatchAsync($"/api/clips/{walk}", new { revision = Revision(await StateAsync()), walkTo = 300 });
        var done = await Server.PostAsync($"/api/scenes/{second}/carry", new { revision = Revision(await StateAsync()) });
        Assert.Contains("Carried on", done.GetProperty("said").GetString(), StringComparison.Ordinal);
        after = await LoadAsync(second);
        Assert.Equal(300, after.Stage.PlaceOf(0, 5), 0.5);
        Assert.Equal(4, after.Document.Clips.Count);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        Assert.Equal(1000, (await LoadAsync(second)).Stage.PlaceOf(0, 5), 0.5);
    }

    [Fact]
    public async Task What_is_held_comes_along_into_another_set()
    {
        await Server.SpeakAsync(Production, Scene, Member, "Take the loaf with you.");
        var prop = Id(await Server.PostAsync($"/api/scenes/{Scene}/props", new { revision = Revision(await StateAsync()), art = "loaf" }));
        await Server.PostAsync($"/api/scenes/{Scene}/props", new { revision = Revision(await StateAsync()), art = "lamp" });
        await LayAsync(
            new
            {
                member = Member,
                kind = "Hold",
                prop,
                start = 0.5,
                end = 60,
            }
        );
        var second = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { }));
        Assert.Equal(2, (await LoadAsync(second)).Document.Props.Count);
        // By hand into a third, that plays elsewhere and has something of its own already.
        await Server.PatchAsync($"/api/scenes/{second}", new { backdrop = "street" });
        var third = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { }));
        foreach (var clip in (await LoadAsync(third)).Document.Clips)
            await Server.PostAsync($"/api/scenes/{third}/clips/delete", new { ids = new[] { clip.Id.Value } });
        await Server.PatchAsync($"/api/scenes/{third}", new { backdrop = "office" });
        await Server.PostAsync($"/api/scenes/{third}/carry", new { });
        var scene = await LoadAsync(third);
        var hold = Assert.IsType<Zamblo.Core.Score.HoldClip>(Assert.Single(scene.Document.Clips));
        Assert.Contains(scene.Document.Props, p => p.Id == hold.Prop && p.Art == "loaf");
        await Server.ErrorAsync($"/api/scenes/{Scene}/carry", new { });
    }

    [Fact]
    public async Task A_scene_that_is_cut_in_two_goes_on_over_the_cut()
    {
        await Server.SpeakAsync(Production, Scene, Member, "I am going to the oven now.");
        var state = await Server.SpeakAsync(Production, Scene, Member, "And now I am there.");
        var at = Line(state, 1).GetProperty("start").GetDouble();
        await LayAsync(
            new
            {
                member = Member,
                kind = "Walk",
                name = "walk",
                start = 0.6,
                end = at + 1,
                walkTo = 1000,
            }
        );
        await LayAsync(
            new
            {
                member = Member,
                kind = "Shot",
                name = "Close",
                start = 0.1,
                end = 0.9,
            }
        );
        var before = await LoadAsync(Scene);
        var second = Id(await Server.PostAsync($"/api/scenes/{Scene}/cut", new { revision = Revision(await StateAsync()), at = at - 0.01 }));
        var (first, after) = (await LoadAsync(Scene), await LoadAsync(second));
        var shift = at - after.Document.LeadIn;
        foreach (var t in (double[])[0, 0.3, 0.8, 1.5])
            Assert.Equal(before.Stage.PlaceOf(0, t + shift), after.Stage.PlaceOf(0, t), 0.5);
        Assert.Contains(first.Document.Clips, c => c is Zamblo.Core.Score.ShotClip);
        Assert.DoesNotContain(after.Document.Clips, c => c is Zamblo.Core.Score.ShotClip);
    }
}
