using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Audio;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>
/// A studio with a door. Held to OWASP ASVS 4.0.3, level 1 (numbers from memory): 2.1.1 and 2.1.9 passwords, 2.2.1 throttling, 2.5.x links, 3.x sessions,
/// 4.1.x access.
/// </summary>
public sealed class PeopleTests : StudioWithDoor
{
    [Fact]
    public async Task Nothing_is_open_but_the_door()
    {
        using var stranger = new Browser(Address);
        foreach (var page in new[] { "/", "/casting", "/voices", "/one-take", "/workers", "/people", $"/production/{Guid.NewGuid()}", "/none/such" })
        {
            var answer = await stranger.Client.GetAsync(page);
            Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
            Assert.StartsWith("/enter?to=", answer.Headers.Location!.ToString(), StringComparison.Ordinal);
        }
        // Every address that there is, taken from the routes themselves.
        var routes = App
            .Services.GetRequiredService<Microsoft.AspNetCore.Routing.EndpointDataSource>()
            .Endpoints.OfType<Microsoft.AspNetCore.Routing.RouteEndpoint>();
        var asked = 0;
        foreach (var route in routes.Where(r => r.RoutePattern.RawText!.TrimStart('/').StartsWith("api/", StringComparison.Ordinal)))
        {
            var url = "/" + Regex.Replace(route.RoutePattern.RawText!.TrimStart('/'), "{[^}]*}", Guid.NewGuid().ToString());
            foreach (var method in route.Metadata.GetMetadata<Microsoft.AspNetCore.Routing.HttpMethodMetadata>()!.HttpMethods)
            {
                using var request = new HttpRequestMessage(new HttpMethod(method), url);
                Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.Client.SendAsync(request)).StatusCode);
                asked++;
            }
        }
        Assert.True(asked > 100);
        Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.Client.PostAsync("/pieces/crew", null)).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Client.GetAsync("/look/none")).StatusCode);
        Assert.Contains("used up", await stranger.Client.GetStringAsync("/join/none"), StringComparison.Ordinal);
        // What pages are made of may be seen.
        Assert.Equal(HttpStatusCode.OK, (await stranger.Client.GetAsync("/app.css")).StatusCode);
    }

    [Fact]
    public async Task The_first_owns_it_a_link_is_good_once_and_weak_passwords_are_refused()
    {
        var link = await FirstLinkAsync();
        using var other = new Browser(Address);
        foreach (var (name, password) in new[] { ("Ana", "short"), ("Ana", "aaaaaaaaaaaaaaaa"), ("", Password), ("A\u0001", Password) })
            Assert.Equal(HttpStatusCode.BadRequest, (await other.FormAsync(link, ("name", name), ("password", password))).StatusCode);
        // A form that is not of this page's is none.
        Assert.Equal(HttpStatusCode.BadRequest, (await other.Client.PostAsync(link, new FormUrlEncodedContent([]))).StatusCode);
        using var owner = await JoinAsync(link, "Ana");
        Assert.Contains("used up", await other.Client.GetStringAsync(link), StringComparison.Ordinal);
        var me = await owner.DoAsync(HttpMethod.Get, "/api/me");
        Assert.Equal(("Ana", "Owns"), (me.GetProperty("name").GetString(), me.GetProperty("role").GetString()));
        var said = new StringWriter();
        await App.Services.GetRequiredService<People.PeopleDesk>().GreetAsync(Address, said);
        Assert.Equal("", said.ToString());
        // No two of the same name, however it is written.
        var second = (await owner.DoAsync(HttpMethod.Post, "/api/people/invitations", new { role = "Acts" })).GetProperty("path").GetString()!;
        var twice = await other.FormAsync(second, ("name", "ANA"), ("password", Password));
        Assert.Contains("already", await twice.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        // Neither passwords nor links are kept.
        await using var db = await App.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        Assert.DoesNotContain(Password, (await db.People.SingleAsync()).PasswordHash, StringComparison.Ordinal);
        Assert.DoesNotContain((await db.Invitations.SingleAsync()).TokenHash, second, StringComparison.Ordinal);
        // The cookie is out of scripts' reach.
        using var again = new Browser(Address);
        var cookie = Assert.Single(
            (await again.EnterAsync("ana", Password)).Headers.GetValues("Set-Cookie"),
            c => c.StartsWith("zamblo-person", StringComparison.Ordinal)
        );
        Assert.Contains("httponly", cookie, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("samesite=lax", cookie, StringComparison.OrdinalIgnoreCase);
        var open = await again.FormAsync("/enter", ("name", "Ana"), ("password", Password), ("to", "//elsewhere"));
        Assert.Equal("/", open.Headers.Location!.ToString());
    }

    [Fact]
    public async Task Wrong_passwords_lock_a_name_for_a_while_and_tell_nothing_of_who_is_here()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var stranger = new Browser(Address);
        async Task<string> ErrorAsync(string name, string password) =>
            Regex.Match(await (await stranger.EnterAsync(name, password)).Content.ReadAsStringAsync(), "role=\"alert\">([^<]+)").Groups[1].Value;
        var wrong = await ErrorAsync("Ana", "not the password");
        Assert.Equal(wrong, await ErrorAsync("Nobody", "not the password"));
        for (var i = 0; i < 4; i++)
            await ErrorAsync("Ana", "not the password");
        Assert.Contains("Too many", await ErrorAsync("Ana", Password), StringComparison.Ordinal);
        var view = await owner.DoAsync(HttpMethod.Get, "/api/people");
        Assert.True(view.GetProperty("people")[0].GetProperty("isLocked").GetBoolean());
        Assert.Contains(view.GetProperty("audit").EnumerateArray(), a => a.GetProperty("what").GetString()!.Contains("locked out", StringComparison.Ordinal));
        // Whoever goes on is not listened to any more.
        var refused = false;
        for (var i = 0; i < 25 && !refused; i++)
            refused = (await stranger.EnterAsync($"Nobody {i}", "x")).StatusCode == HttpStatusCode.TooManyRequests;
        Assert.True(refused);
    }

    [Fact]
    public async Task A_role_says_what_somebody_may_do_and_the_history_says_who_did_it()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var actor = await InviteAsync(owner, "Acts", "Ben");
        using var guest = await InviteAsync(owner, "Looks", "Cid");
        var production = (await actor.DoAsync(HttpMethod.Post, "/api/productions", new { title = "Crumbs" })).GetProperty("id").GetString()!;
        var scene = Regex.Match(await guest.Client.GetStringAsync("/production/" + production), "data-scene=\"([^\"]+)\"").Groups[1].Value;
        Task<JsonElement> StateAsync(Browser who) => who.DoAsync(HttpMethod.Get, "/api/scenes/" + scene);
        var state = await StateAsync(guest);
        var revision = state.GetProperty("production").GetProperty("revision").GetInt64();
        await actor.DoAsync(HttpMethod.Patch, $"/api/productions/{production}", new { revision, title = "More crumbs" });
        Assert.EndsWith("(Ben)", (await StateAsync(guest)).GetProperty("undo").GetString(), StringComparison.Ordinal);
        foreach (
            var (who, url, method) in new[]
            {
                (guest, $"/api/productions/{production}", HttpMethod.Patch),
                (guest, "/api/productions", HttpMethod.Post),
                (guest, $"/api/productions/{production}/undo", HttpMethod.Post),
                (guest, "/api/people", HttpMethod.Get),
                (actor, "/api/people", HttpMethod.Get),
                (actor, "/api/people/invitations", HttpMethod.Post),
            }
        )
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (await who.SendAsync(method, url, method == HttpMethod.Get ? null : new { title = "x", role = "Owns" })).StatusCode
            );
        // Who comments says something, and puts nobody else's words otherwise; who looks does not.
        using var critic = await InviteAsync(owner, "Comments", "Dot");
        var said = (await critic.DoAsync(HttpMethod.Post, $"/api/scenes/{scene}/remarks", new { text = "Louder.", at = 1.0 })).GetProperty("id").GetString();
        Assert.Equal(HttpStatusCode.BadRequest, (await actor.SendAsync(HttpMethod.Patch, $"/api/remarks/{said}", new { text = "Softer." })).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await guest.SendAsync(HttpMethod.Delete, $"/api/remarks/{said}")).StatusCode);
        var other = (await actor.DoAsync(HttpMethod.Post, $"/api/scenes/{scene}/remarks", new { text = "No.", at = 1.0 })).GetProperty("id").GetString();
        Assert.Equal(HttpStatusCode.BadRequest, (await critic.SendAsync(HttpMethod.Delete, $"/api/remarks/{other}")).StatusCode);
        await actor.DoAsync(HttpMethod.Delete, $"/api/remarks/{said}");
        // A role changes at once; nobody is left without an owner.
        var people = (await owner.DoAsync(HttpMethod.Get, "/api/people"))
            .GetProperty("people")
            .EnumerateArray()
            .ToDictionary(p => p.GetProperty("name").GetString()!, p => p.GetProperty("id").GetString()!);
        await owner.DoAsync(HttpMethod.Patch, $"/api/people/{people["Cid"]}", new { role = "Acts" });
        await guest.DoAsync(HttpMethod.Post, $"/api/productions/{production}/undo", new { });
        foreach (
            var answer in new[]
            {
                await owner.SendAsync(HttpMethod.Delete, $"/api/people/{people["Ana"]}"),
                await owner.SendAsync(HttpMethod.Patch, $"/api/people/{people["Ana"]}", new { role = "Looks" }),
                await owner.SendAsync(HttpMethod.Patch, $"/api/people/{people["Ben"]}", new { role = 3 }),
            }
        )
            Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        // Who has a page open when taken out hears no more.
        using var stream = new StreamReader(await actor.Client.GetStreamAsync($"/api/productions/{production}/news"));
        Assert.Contains("news", await stream.ReadLineAsync(), StringComparison.Ordinal);
        await owner.DoAsync(HttpMethod.Delete, $"/api/people/{people["Ben"]}");
        await owner.DoAsync(HttpMethod.Post, $"/api/scenes/{scene}/remarks", new { text = "Only for us.", at = 1.0 });
        Assert.DoesNotContain("remarks", await stream.ReadToEndAsync().WaitAsync(TimeSpan.FromSeconds(20)), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.Redirect, (await actor.Client.GetAsync("/")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await actor.Client.GetAsync("/api/me")).StatusCode);
        // A new password ends what was signed in elsewhere, and not here.
        using var elsewhere = new Browser(Address);
        await elsewhere.EnterAsync("Cid", Password);
        Assert.Equal(HttpStatusCode.OK, (await elsewhere.Client.GetAsync("/api/me")).StatusCode);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await guest.SendAsync(HttpMethod.Put, "/api/me/password", new { old = "not this", now = "quite another one" })).StatusCode
        );
        await guest.DoAsync(HttpMethod.Put, "/api/me/password", new { old = Password, now = "quite another one" });
        Assert.Equal(HttpStatusCode.Unauthorized, (await elsewhere.Client.GetAsync("/api/me")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await guest.Client.GetAsync("/api/me")).StatusCode);
        await guest.FormAsync("/people", []);
        var gone = await guest.FormAsync("/enter", []);
        Assert.Equal(HttpStatusCode.Unauthorized, gone.StatusCode);
    }

    [Fact]
    public async Task Everybody_brings_as_much_as_the_owner_says()
    {
        using var owner = await JoinAsync(await FirstLinkAsync(), "Ana");
        using var ben = await InviteAsync(owner, "Acts", "Ben");
        async Task<JsonElement> BenAsync() =>
            (await owner.DoAsync(HttpMethod.Get, "/api/people")).GetProperty("people").EnumerateArray().Single(p => p.GetProperty("name").GetString() == "Ben");
        var id = (await BenAsync()).GetProperty("id").GetString();
        async Task<HttpResponseMessage> BringAsync(Browser who, int seconds, float pitch)
        {
            using var wav = new MemoryStream();
            WavFile.Write(
                wav,
                [
                    [.. Enumerable.Range(0, 16000 * seconds).Select(i => 0.2f * MathF.Sin(i / pitch))],
                ],
                16000
            );
            var page = await who.Client.GetStringAsync("/people");
            using var request = new HttpRequestMessage(HttpMethod.Post, "/api/uploads?name=hum.wav") { Content = new ByteArrayContent(wav.ToArray()) };
            request.Headers.Add("X-Csrf-Token", Regex.Match(page, "name=\"csrf\" content=\"([^\"]+)\"").Groups[1].Value);
            return await who.Client.SendAsync(request);
        }
        Assert.Equal(JsonValueKind.Null, (await BenAsync()).GetProperty("quotaBytes").ValueKind);
        // 16 bits a sample: two megabytes and a little is a minute and a bit.
        await owner.DoAsync(HttpMethod.Patch, $"/api/people/{id}", new { quotaBytes = 2 << 20 });
        Assert.True((await BringAsync(ben, 40, 17)).IsSuccessStatusCode);
        var refused = await BringAsync(ben, 40, 18);
        Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
        Assert.Contains("You may bring 2 MB to this studio and have brought 1 MB.", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.InRange((await BenAsync()).GetProperty("broughtBytes").GetInt64(), 16000 * 40 * 2, 16000 * 40 * 2 + 100);
        // What somebody else brings is not counted for him, and what he brings again is counted once.
        Assert.True((await BringAsync(owner, 40, 18)).IsSuccessStatusCode);
        await owner.DoAsync(HttpMethod.Patch, $"/api/people/{id}", new { quotaBytes = 3 << 20, role = "Acts" });
        Assert.True((await BringAsync(ben, 40, 17)).IsSuccessStatusCode);
        Assert.True((await BringAsync(ben, 40, 19)).IsSuccessStatusCode);
        await owner.DoAsync(HttpMethod.Patch, $"/api/people/{id}", new { quotaBytes = 0 });
        Assert.True((await BringAsync(ben, 40, 20)).IsSuccessStatusCode);
        foreach (var wrong in new object[] { new { quotaBytes = -1 }, new { quotaBytes = 1e30 } })
            Assert.Equal(HttpStatusCode.BadRequest, (await owner.SendAsync(HttpMethod.Patch, $"/api/people/{id}", wrong)).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await ben.SendAsync(HttpMethod.Patch, $"/api/people/{id}", new { quotaBytes = 0 })).StatusCode);
        var audit = (await owner.DoAsync(HttpMethod.Get, "/api/people")).GetProperty("audit").EnumerateArray().Select(a => a.GetProperty("what").GetString());
        Assert.Contains("lets Ben bring 2 MB", audit);
    }

    [Fact]
    public async Task Without_a_door_nobody_signs_in_but_nobody_comes_through_a_proxy_either()
    {
        var data = Directory.CreateTempSubdirectory("zamblo-people-").FullName;
        await using (var app = await ZambloServer.StartAsync(new ServerOptions(data, "http://127.0.0.1:0", false)))
        {
            using var browser = new Browser(app.Urls.First());
            Assert.Equal(HttpStatusCode.OK, (await browser.Client.GetAsync("/")).StatusCode);
            Assert.False((await browser.DoAsync(HttpMethod.Get, "/api/me")).GetProperty("hasDoor").GetBoolean());
            using var request = new HttpRequestMessage(HttpMethod.Get, "/");
            request.Headers.Add("X-Forwarded-For", "192.0.2.1");
            var answer = await browser.Client.SendAsync(request);
            Assert.Equal(HttpStatusCode.Forbidden, answer.StatusCode);
            Assert.Contains("--people", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
            await app.StopAsync();
        }
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(data, true);
        // Which addresses other machines reach (RFC 1122 3.2.1.3: all of 127/8 is this host).
        foreach (
            var (urls, isReached) in new[]
            {
                ("http://127.0.0.1:5170", false),
                ("http://localhost:5170", false),
                ("http://[::1]:5170", false),
                ("http://127.0.0.2:80", false),
                ("http://0.0.0.0:5170", true),
                ("http://*:5170", true),
                ("http://192.0.2.7:5170", true),
                ("http://127.0.0.1:1;http://studio:2", true),
            }
        )
            Assert.Equal(isReached, ServerOptions.IsReachedFromElsewhere(urls));
        // The owner's first link can be opened.
        var options = new ServerOptions(data, "", false);
        Assert.Equal("http://localhost:5170", options.ReachedAt("http://0.0.0.0:5170"));
        Assert.Equal("http://studio:5170", (options with { Hosts = ["studio"] }).ReachedAt("http://[::]:5170"));
        Assert.Equal("http://192.0.2.7:80", options.ReachedAt("http://192.0.2.7:80"));
    }

    [Fact]
    public async Task What_is_no_passkey_is_refused_in_a_sentence_and_signs_nobody_in()
    {
        using var ana = await JoinAsync(await FirstLinkAsync(), "Ana");
        Assert.Equal("[]", await ana.Client.GetStringAsync("/api/me/passkeys"));
        // Nothing was asked for.
        var early = await ana.SendAsync(HttpMethod.Post, "/api/me/passkeys", new { name = "Mine", credential = "{}" });
        Assert.Equal(HttpStatusCode.BadRequest, early.StatusCode);
        var options = await ana.SendAsync(HttpMethod.Post, "/api/me/passkeys/options");
        Assert.Contains("challenge", await options.Content.ReadAsStringAsync());
        foreach (var credential in new[] { null, "", "{", "{}", "[]", "{\"id\":\"AAAA\",\"rawId\":\"AAAA\",\"type\":\"public-key\",\"response\":{}}" })
        {
            await ana.SendAsync(HttpMethod.Post, "/api/me/passkeys/options");
            var refused = await ana.SendAsync(HttpMethod.Post, "/api/me/passkeys", new { name = "Mine", credential });
            Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
            Assert.Contains("error", await refused.Content.ReadAsStringAsync());
        }
        foreach (var id in new[] { "AAAA", "%20", "not*base" })
            Assert.Equal(HttpStatusCode.NotFound, (await ana.SendAsync(HttpMethod.Delete, "/api/me/passkeys/" + id)).StatusCode);
        using var stranger = new Browser(Address);
        foreach (var credential in new[] { "", "{}", "{\"id\":\"AAAA\",\"rawId\":\"AAAA\",\"type\":\"public-key\",\"response\":{}}" })
        {
            var asked = await stranger.HandlerAsync("Ask");
            Assert.Contains("challenge", await asked.Content.ReadAsStringAsync());
            Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.HandlerAsync("Passkey", ("credential", credential))).StatusCode);
        }
        Assert.Equal(HttpStatusCode.Unauthorized, (await stranger.Client.GetAsync("/api/me")).StatusCode);
    }
}
