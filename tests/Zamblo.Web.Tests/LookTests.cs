using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>Links with which anybody looks at a film, or at a production, and at nothing else.</summary>
public sealed class LookTests : StudioWithDoor
{
    [Fact]
    public async Task A_link_shows_one_film_to_anybody_and_ends()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var stranger = new Browser(Address);
        var contexts = App.Services.GetRequiredService<IDbContextFactory<ZambloContext>>();
        var folder = App.Services.GetRequiredService<Studio.Assets.DataFolder>();
        Job film;
        await using (var db = await contexts.CreateDbContextAsync())
        {
            film = Studio.Jobs.JobDesk.New(Studio.Jobs.FilmTicket.Kind, Guid.NewGuid(), "Crumbs", new { });
            (film.State, film.Result) = (JobState.Done, "");
            db.Jobs.Add(film);
            await db.SaveChangesAsync();
        }
        await File.WriteAllTextAsync(folder.FilmOf(film.Id), "film");
        Assert.Equal(HttpStatusCode.BadRequest, (await owner.SendAsync(HttpMethod.Post, $"/api/jobs/{film.Id}/links", new { days = 0 })).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.SendAsync(HttpMethod.Post, $"/api/jobs/{Guid.NewGuid()}/links", new { days = 7 })).StatusCode);
        var link = await owner.DoAsync(HttpMethod.Post, $"/api/jobs/{film.Id}/links", new { days = 7 });
        var path = link.GetProperty("path").GetString()!;
        Assert.Contains("Crumbs", await stranger.Client.GetStringAsync(path), StringComparison.Ordinal);
        Assert.Equal("film", await stranger.Client.GetStringAsync(path + "/film"));
        Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.Client.GetAsync($"/api/jobs/{film.Id}/film")).StatusCode);
        Assert.Single((await owner.DoAsync(HttpMethod.Get, $"/api/jobs/{film.Id}/links")).EnumerateArray());
        // Its time runs out.
        await using (var db = await contexts.CreateDbContextAsync())
            await db.LookLinks.ExecuteUpdateAsync(u => u.SetProperty(l => l.Expires, DateTime.UtcNow.AddMinutes(-1)));
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(path)).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(path + "/film")).StatusCode);
        // Or it is taken away; and it goes with its film.
        link = await owner.DoAsync(HttpMethod.Post, $"/api/jobs/{film.Id}/links", new { days = 7 });
        await owner.DoAsync(HttpMethod.Delete, $"/api/links/{link.GetProperty("id").GetString()}");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(link.GetProperty("path").GetString())).StatusCode);
        link = await owner.DoAsync(HttpMethod.Post, $"/api/jobs/{film.Id}/links", new { days = 7 });
        await owner.DoAsync(HttpMethod.Delete, $"/api/jobs/{film.Id}");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(link.GetProperty("path").GetString())).StatusCode);
    }

    [Fact]
    public async Task A_link_shows_a_production_as_it_is_to_anybody_and_nothing_else()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var stranger = new Browser(Address);
        async Task<(string Production, string Scene)> MakeAsync(string title)
        {
            var id = (await owner.DoAsync(HttpMethod.Post, "/api/productions", new { title })).GetProperty("id").GetString()!;
            await using var db = await App.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
            return (id, (await db.Scenes.FirstAsync(s => s.ProductionId == Guid.Parse(id))).Id.ToString());
        }
        var (shown, scene) = await MakeAsync("Crumbs");
        var (other, hidden) = await MakeAsync("Secret");
        Assert.Equal(HttpStatusCode.BadRequest, (await owner.SendAsync(HttpMethod.Post, $"/api/productions/{shown}/links", new { days = 91 })).StatusCode);
        var link = await owner.DoAsync(HttpMethod.Post, $"/api/productions/{shown}/links", new { days = 7 });
        var path = link.GetProperty("path").GetString()!;
        Assert.Contains("Crumbs", await stranger.Client.GetStringAsync(path), StringComparison.Ordinal);
        var scenes = JsonDocument.Parse(await stranger.Client.GetStringAsync(path + "/scenes")).RootElement;
        Assert.Equal(scene, Assert.Single(scenes.EnumerateArray()).GetProperty("id").GetString());
        var seen = JsonDocument.Parse(await stranger.Client.GetStringAsync($"{path}/scenes/{scene}")).RootElement;
        Assert.Equal((1280, 25), (seen.GetProperty("width").GetInt32(), seen.GetProperty("fps").GetInt32()));
        foreach (var part in new[] { "shapes", "frames?from=0&count=2", "sound" })
            Assert.Equal(HttpStatusCode.OK, (await stranger.Client.GetAsync($"{path}/scenes/{scene}/{part}")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await stranger.Client.GetAsync(path + "/grain")).StatusCode);
        // A film it is not, and what else there is stays where it is: by the link, and without.
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(path + "/film")).StatusCode);
        foreach (var part in new[] { "", "/shapes", "/frames?from=0&count=2", "/sound" })
            Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync($"{path}/scenes/{hidden}{part}")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.Client.GetAsync($"/api/scenes/{scene}/shapes")).StatusCode);
        foreach (var part in new[] { "pictures/" + new string('a', 64), $"plates/{new string('a', 64)}/frames/0" })
            Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync($"{path}/{part}")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.Client.PostAsync($"{path}/scenes/{scene}", null)).StatusCode);
        // What changes is seen; what is off the shelf is not, until it is there again.
        await owner.DoAsync(HttpMethod.Patch, $"/api/scenes/{scene}", new { title = "Ovens" });
        Assert.Contains("Ovens", await stranger.Client.GetStringAsync(path + "/scenes"), StringComparison.Ordinal);
        await owner.DoAsync(HttpMethod.Delete, $"/api/productions/{shown}");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(path + "/scenes")).StatusCode);
        await owner.DoAsync(HttpMethod.Post, $"/api/productions/{shown}/restore");
        Assert.Equal(HttpStatusCode.OK, (await stranger.Client.GetAsync(path + "/scenes")).StatusCode);
        // Taken back by its own people only: a link of theirs is no business of another team's.
        Assert.Single((await owner.DoAsync(HttpMethod.Get, $"/api/productions/{shown}/links")).EnumerateArray());
        Assert.Empty((await owner.DoAsync(HttpMethod.Get, $"/api/productions/{other}/links")).EnumerateArray());
        await owner.DoAsync(HttpMethod.Delete, $"/api/links/{link.GetProperty("id").GetString()}");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(path)).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync(path + "/scenes")).StatusCode);
    }
}
