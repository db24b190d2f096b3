using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>
/// What belongs to a team is its people's. Held to OWASP ASVS 4.0.3, 4.1.1 to 4.2.1 (numbers from memory): access is decided on the server, by id.
/// </summary>
public sealed class TeamTests : StudioWithDoor
{
    // Kinds of things with an id in an address that belong to the studio as a whole.
    private static readonly string[] StudioWide = ["people", "teams", "plates", "motions", "gestures"];

    private static async Task<string> IdOf(Browser owner, string team) =>
        (await owner.DoAsync(HttpMethod.Post, "/api/teams", new { name = team })).GetProperty("id").GetString()!;

    private static Task<JsonElement> PutAsync(Browser owner, string team, string name, string role) =>
        owner.DoAsync(HttpMethod.Put, $"/api/teams/{team}/people", new { name, role });

    private static async Task<string> MakeAsync(Browser who, object body) =>
        (await who.DoAsync(HttpMethod.Post, "/api/productions", body)).GetProperty("id").GetString()!;

    private static async Task<string[]> ShelfAsync(Browser who, string query = "") =>
        [
            .. (await who.DoAsync(HttpMethod.Get, "/api/productions" + query))
                .GetProperty("cards")
                .EnumerateArray()
                .Select(c => c.GetProperty("title").GetString()!)
                .Order(),
        ];

    // One of each kind of thing that a production has, by its name in addresses.
    private async Task<Dictionary<string, Guid>> FurnishAsync(Guid production)
    {
        await using var db = await App.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        var scene = await db.Scenes.FirstAsync(s => s.ProductionId == production);
        var member = await db.CastMembers.FirstAsync(m => m.ProductionId == production);
        var ids = new[] { "lines", "takes", "clips", "props", "sounds", "remarks", "jobs", "links" }.ToDictionary(k => k, _ => Guid.NewGuid());
        var asset = new Asset { Hash = new string('a', 64), Name = "none" };
        db.AddRange(
            asset,
            new Line
            {
                Id = ids["lines"],
                SceneId = scene.Id,
                CastMemberId = member.Id,
                Order = 1,
            },
            new Take
            {
                Id = ids["takes"],
                LineId = ids["lines"],
                AssetHash = asset.Hash,
            },
            new ScoreClip
            {
                Id = ids["clips"],
                SceneId = scene.Id,
                CastMemberId = member.Id,
            },
            new SceneProp { Id = ids["props"], SceneId = scene.Id },
            new SceneSound
            {
                Id = ids["sounds"],
                SceneId = scene.Id,
                AssetHash = asset.Hash,
            },
            new Remark
            {
                Id = ids["remarks"],
                ProductionId = production,
                SceneId = scene.Id,
            },
            new Job { Id = ids["jobs"], ProductionId = production },
            new LookLink
            {
                Id = ids["links"],
                TokenHash = "none",
                ProductionId = production,
            }
        );
        await db.SaveChangesAsync();
        ids["productions"] = ids["production"] = production;
        (ids["scenes"], ids["members"]) = (scene.Id, member.Id);
        return ids;
    }

    [Fact]
    public async Task Nothing_of_a_team_s_is_there_for_others_whatever_the_address()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var ben = await InviteAsync(owner, "Owns", "Ben");
        using var carl = await InviteAsync(owner, "Acts", "Carl");
        var bakers = await IdOf(owner, "Bakers");
        var production = await MakeAsync(owner, new { title = "Crumbs", team = bakers });
        var ids = await FurnishAsync(Guid.Parse(production));
        var (asked, kinds) = (0, new HashSet<string>());
        var scoped = new[] { "api", "production" };
        foreach (var route in App.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            var raw = route.RoutePattern.RawText!.TrimStart('/');
            if (!scoped.Contains(raw.Split('/')[0]) || !Regex.IsMatch(raw, "{[a-z]+:guid}"))
                continue;
            var kind = People.Concern.KindOf(route.RoutePattern);
            if (kind == null)
            {
                // Whoever adds a kind of thing says whose it is.
                Assert.Contains(raw.Split('/')[1], StudioWide);
                continue;
            }
            kinds.Add(kind);
            var own = Regex.Replace(raw.Replace("{id:guid}", ids[kind].ToString(), StringComparison.Ordinal), "{[a-z]+:int}", "1");
            var url = "/" + Regex.Replace(own, "{[^}]*}", Guid.NewGuid().ToString());
            foreach (var method in route.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["GET"])
            {
                using var answer = await carl.SendAsync(new HttpMethod(method), url, method == "GET" ? null : new { });
                Assert.True(answer.StatusCode == HttpStatusCode.NotFound, $"{method} {raw}: {(int)answer.StatusCode}");
                Assert.Contains("There is nothing like that here any more.", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
                asked++;
            }
        }
        Assert.Equal(ids.Keys.Except(["production"]).Order(), kinds.Order());
        Assert.True(asked > 100);
        // Whoever owns the studio sees it; and whoever is in the team.
        Assert.Equal(["Crumbs"], await ShelfAsync(ben));
        Assert.Empty(await ShelfAsync(carl));
        await PutAsync(owner, bakers, "carl", "Looks");
        Assert.Equal(["Crumbs"], await ShelfAsync(carl));
        Assert.Equal(HttpStatusCode.OK, (await carl.Client.GetAsync($"/api/productions/{production}/remarks")).StatusCode);
    }

    [Fact]
    public async Task A_role_in_a_team_takes_the_place_of_the_studio_s()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var ben = await InviteAsync(owner, "Looks", "Ben");
        var bakers = await IdOf(owner, "Bakers");
        var common = await MakeAsync(owner, new { title = "Common" });
        var own = await MakeAsync(owner, new { title = "Crumbs", team = bakers });
        await PutAsync(owner, bakers, "Ben", "Acts");
        async Task<HttpStatusCode> RenameAsync(string id) =>
            (await ben.SendAsync(HttpMethod.Patch, $"/api/productions/{id}", new { title = "Rolls" })).StatusCode;
        Assert.Equal((HttpStatusCode.OK, HttpStatusCode.Forbidden), (await RenameAsync(own), await RenameAsync(common)));
        Assert.Equal("Acts", (await ben.DoAsync(HttpMethod.Get, $"/api/productions/{own}/me")).GetProperty("role").GetString());
        Assert.Equal("Looks", (await ben.DoAsync(HttpMethod.Get, $"/api/productions/{common}/me")).GetProperty("role").GetString());
        // What such a person makes is the team's, and a copy stays where its original is.
        var made = await MakeAsync(ben, new { title = "Own" });
        await ben.DoAsync(HttpMethod.Post, $"/api/productions/{made}/duplicate");
        Assert.Equal(["Own", "Own copy", "Rolls"], await ShelfAsync(ben, "?team=" + bakers));
        Assert.Equal(["Common"], await ShelfAsync(ben, "?team=" + Guid.Empty));
        Assert.Equal(HttpStatusCode.Forbidden, (await ben.SendAsync(HttpMethod.Post, "/api/productions", new { title = "No", team = Guid.Empty })).StatusCode);
        // Whoever acts there gives nothing away; whoever owns it does, and undo does not bring it back.
        Assert.Equal(HttpStatusCode.Forbidden, (await ben.SendAsync(HttpMethod.Put, $"/api/productions/{own}/team", new { team = (Guid?)null })).StatusCode);
        await owner.DoAsync(HttpMethod.Put, $"/api/productions/{own}/team", new { team = (Guid?)null });
        Assert.Equal(HttpStatusCode.Forbidden, await RenameAsync(own));
        await owner.DoAsync(HttpMethod.Post, $"/api/productions/{own}/undo", new { });
        Assert.Equal(["Common", "Crumbs"], await ShelfAsync(ben, "?team=" + Guid.Empty));
        // The studio itself is no team's.
        await PutAsync(owner, bakers, "Ben", "Owns");
        Assert.Equal(HttpStatusCode.Forbidden, (await ben.Client.GetAsync("/api/people")).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await ben.SendAsync(HttpMethod.Post, "/api/teams", new { name = "Mine" })).StatusCode);
    }

    [Fact]
    public async Task Whoever_owns_a_team_says_who_is_in_it_also_by_a_link()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var ben = await InviteAsync(owner, "Acts", "Ben");
        using var dora = await InviteAsync(owner, "Acts", "Dora");
        var (bakers, millers) = (await IdOf(owner, "Bakers"), await IdOf(owner, "Millers"));
        await MakeAsync(owner, new { title = "Common" });
        var crumbs = await MakeAsync(owner, new { title = "Crumbs", team = bakers });
        await PutAsync(owner, bakers, "Ben", "Owns");
        await PutAsync(ben, bakers, "Dora", "Comments");
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await dora.SendAsync(HttpMethod.Put, $"/api/teams/{bakers}/people", new { name = "Dora", role = "Owns" })).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await ben.SendAsync(HttpMethod.Put, $"/api/teams/{millers}/people", new { name = "Ben", role = "Looks" })).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await ben.SendAsync(HttpMethod.Put, $"/api/teams/{bakers}/people", new { name = "Nobody", role = "Looks" })).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await ben.SendAsync(HttpMethod.Put, $"/api/teams/{bakers}/people", new { name = "Dora", role = "Enters" })).StatusCode
        );
        var seen = (await ben.DoAsync(HttpMethod.Get, "/api/teams")).GetProperty("teams").EnumerateArray().Single();
        Assert.Equal(["Ben", "Dora"], seen.GetProperty("people").EnumerateArray().Select(p => p.GetProperty("name").GetString()!));
        // Somebody from outside comes for the team, and sees nothing else.
        var link = (await ben.DoAsync(HttpMethod.Post, $"/api/teams/{bakers}/invitations", new { role = "Looks" })).GetProperty("path").GetString()!;
        using (var stranger = new Browser(Address))
            Assert.Contains("Bakers", await stranger.Client.GetStringAsync(link), StringComparison.Ordinal);
        using var ed = await JoinAsync(link, "Ed");
        Assert.Equal(["Crumbs"], await ShelfAsync(ed));
        Assert.Equal(HttpStatusCode.OK, (await ed.Client.GetAsync($"/production/{crumbs}")).StatusCode);
        // Taken out, Ed comes in and finds an empty shelf.
        var id = (await owner.DoAsync(HttpMethod.Get, "/api/people"))
            .GetProperty("people")
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == "Ed")
            .GetProperty("id")
            .GetString();
        await ben.DoAsync(HttpMethod.Delete, $"/api/teams/{bakers}/people/{id}");
        Assert.Empty(await ShelfAsync(ed));
        Assert.Equal(HttpStatusCode.NotFound, (await ed.Client.GetAsync($"/production/{crumbs}")).StatusCode);
        Assert.Equal(
            (HttpStatusCode.OK, HttpStatusCode.Forbidden),
            ((await ed.Client.GetAsync("/")).StatusCode, (await ed.Client.GetAsync("/casting")).StatusCode)
        );
        // A team ends when nothing is left that belongs to it.
        Assert.Equal(HttpStatusCode.BadRequest, (await owner.SendAsync(HttpMethod.Delete, $"/api/teams/{bakers}")).StatusCode);
        await owner.DoAsync(HttpMethod.Delete, $"/api/productions/{crumbs}");
        await owner.DoAsync(HttpMethod.Delete, $"/api/teams/{bakers}");
        Assert.Equal(HttpStatusCode.BadRequest, (await owner.SendAsync(HttpMethod.Post, "/api/teams", new { name = "Millers" })).StatusCode);
        var audit = (await owner.DoAsync(HttpMethod.Get, "/api/people")).GetProperty("audit").EnumerateArray().Select(a => a.GetProperty("what").GetString()!);
        Assert.Contains("ends the team \"Bakers\"", audit);
    }
}
