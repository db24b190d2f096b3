using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Score;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Tests;

/// <summary>Places on the floor that have names, walks to them, and who faces whom.</summary>
public sealed class MarkTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private Task<LoadedScene> LoadAsync(string scene) => Services.GetRequiredService<SceneDesk>().LoadAsync(Guid.Parse(scene));

    private async Task<string> MarkAsync(object mark) => Id(await Server.PostAsync($"/api/scenes/{Scene}/marks", mark));

    private async Task<JsonElement[]> MarksAsync(string scene) =>
        [.. (await Server.GetAsync("/api/scenes/" + scene)).GetProperty("scene").GetProperty("marks").EnumerateArray()];

    [Fact]
    public async Task A_walk_to_a_mark_leads_to_wherever_the_mark_is()
    {
        var oven = await MarkAsync(new { name = "Oven", x = 900 });
        await MarkAsync(new { x = 200 });
        Assert.Equal(["Oven", "Mark 1"], (await MarksAsync(Scene)).Select(m => m.GetProperty("name").GetString()));
        await Server.SpeakAsync(Production, Scene, Member, "Mind the oven.");
        var walk = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    member = Member,
                    kind = "Walk",
                    name = "walk",
                    start = 0.2,
                    end = 1.2,
                    mark = oven,
                }
            )
        );
        Assert.Equal(900, (await LoadAsync(Scene)).Stage.PlaceOf(0, 2), 0.5);
        await MarkAsync(new { mark = oven, x = 1100 });
        Assert.Equal(1100, (await LoadAsync(Scene)).Stage.PlaceOf(0, 2), 0.5);
        // Changed otherwise, it still leads there; to a place of its own, no longer.
        await Server.PatchAsync($"/api/clips/{walk}", new { name = "run" });
        Assert.Equal(Guid.Parse(oven), Assert.IsType<WalkClip>((await LoadAsync(Scene)).Clip(Guid.Parse(walk))).Mark);
        await Server.PatchAsync($"/api/clips/{walk}", new { walkTo = 500 });
        await MarkAsync(new { mark = oven, x = 1000 });
        Assert.Equal(500, (await LoadAsync(Scene)).Stage.PlaceOf(0, 2), 0.5);
        await Server.PatchAsync($"/api/clips/{walk}", new { mark = oven });
        // Off the floor, and it leads to where it was.
        await Server.PostAsync($"/api/scenes/{Scene}/marks/lift", new { mark = oven });
        Assert.Equal(1000, (await LoadAsync(Scene)).Stage.PlaceOf(0, 2), 0.5);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        await MarkAsync(new { mark = oven, x = 300 });
        Assert.Equal(300, (await LoadAsync(Scene)).Stage.PlaceOf(0, 2), 0.5);
    }

    [Fact]
    public async Task Marks_are_in_every_scene_of_their_set_and_in_no_other()
    {
        await Server.PatchAsync($"/api/scenes/{Scene}", new { backdrop = "street" });
        var mark = await MarkAsync(new { name = "Door", x = 100 });
        var second = Id(await Server.PostAsync($"/api/productions/{Production}/scenes", new { }));
        Assert.Equal(mark, Id(Assert.Single(await MarksAsync(second))));
        await Server.PatchAsync($"/api/scenes/{second}", new { backdrop = "office" });
        Assert.Empty(await MarksAsync(second));
        Assert.Single(await MarksAsync(Scene));
        // By night it is the same floor.
        await Server.PatchAsync($"/api/scenes/{second}", new { backdrop = "street-night" });
        Assert.Single(await MarksAsync(second));
        // What cannot be is refused in a sentence.
        await Server.PostAsync($"/api/scenes/{Scene}/marks", new { mark = Guid.NewGuid(), x = 1 }, expect: 404);
        await Server.ErrorAsync($"/api/scenes/{Scene}/marks", new { name = "  " });
        // Out of all bounds is brought back to where somebody can go.
        await MarkAsync(new { x = 1e9 });
        Assert.Equal(1680, (await MarksAsync(Scene))[1].GetProperty("x").GetDouble());
        await Server.PostAsync($"/api/scenes/{Scene}/marks/lift", new { mark = Guid.NewGuid() }, expect: 404);
    }

    [Fact]
    public async Task By_one_command_everybody_faces_whoever_stands_next()
    {
        foreach (var name in (string[])["Tock", "Wick"])
            await Server.PostAsync($"/api/productions/{Production}/members", new { roleName = name, character = name.ToLowerInvariant() });
        await Server.PostAsync($"/api/scenes/{Scene}/places/facing", new { away = false });
        var scene = await LoadAsync(Scene);
        // Left to right: the outer ones look inwards.
        Assert.Equal((1f, -1f), (scene.Members[0].Place!.Facing, scene.Members[2].Place!.Facing));
        var poses = Enumerable.Range(0, 3).Select(i => scene.Stage.PosesOf(i).Average(p => p.HeadTurn)).ToArray();
        Assert.True(poses[0] > 8 && poses[2] < -8, string.Join(' ', poses));
        // Nobody has been put elsewhere by it.
        Assert.All(scene.Members, m => Assert.Null(m.Place!.X));
        await Server.PostAsync($"/api/scenes/{Scene}/places", new { member = Member, facing = -0.5 });
        Assert.Equal(-0.5f, (await LoadAsync(Scene)).Members[0].Place!.Facing);
        await Server.PostAsync($"/api/scenes/{Scene}/places/facing", new { away = true });
        Assert.All((await LoadAsync(Scene)).Members, m => Assert.Equal(0, m.Place!.Facing));
    }
}
