using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;

namespace Zamblo.Web.Tests;

/// <summary>A studio with a door, and people with browsers of their own.</summary>
public abstract class StudioWithDoor : IAsyncLifetime
{
    protected const string Password = "four small rolls";
    private readonly string _data = Directory.CreateTempSubdirectory("zamblo-people-").FullName;
    private protected WebApplication App { get; private set; } = null!;

    protected string Address => App.Urls.First();

    public async Task InitializeAsync() =>
        App = await ZambloServer.StartAsync(
            new ServerOptions(_data, "http://127.0.0.1:0", false) { HasDoor = true, Database = await TestDatabases.OfAsync(_data) }
        );

    public async Task DisposeAsync()
    {
        await App.StopAsync();
        await App.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(_data, true);
    }

    // A browser of somebody's own.
    private protected sealed class Browser(string address) : IDisposable
    {
        public HttpClient Client { get; } =
            new(new HttpClientHandler { CookieContainer = new(), AllowAutoRedirect = false }) { BaseAddress = new Uri(address) };

        public void Dispose() => Client.Dispose();

        public async Task<HttpResponseMessage> FormAsync(string page, params (string Name, string Value)[] fields)
        {
            var text = await Client.GetStringAsync(page);
            var token = Regex.Match(text, "__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"").Groups[1].Value;
            return await Client.PostAsync(
                page,
                new FormUrlEncodedContent([
                    .. fields.Select(f => KeyValuePair.Create(f.Name, f.Value)),
                    KeyValuePair.Create("__RequestVerificationToken", token),
                ])
            );
        }

        public Task<HttpResponseMessage> EnterAsync(string name, string password) => FormAsync("/enter", ("name", name), ("password", password), ("to", "/"));

        public async Task<HttpResponseMessage> SendAsync(HttpMethod method, string url, object? body = null)
        {
            var page = await Client.GetStringAsync("/people");
            using var request = new HttpRequestMessage(method, url) { Content = body == null ? null : JsonContent.Create(body) };
            request.Headers.Add("X-Csrf-Token", Regex.Match(page, "name=\"csrf\" content=\"([^\"]+)\"").Groups[1].Value);
            return await Client.SendAsync(request);
        }

        // What the page of the door asks for by itself.
        public async Task<HttpResponseMessage> HandlerAsync(string handler, params (string Name, string Value)[] fields)
        {
            var page = await Client.GetStringAsync("/enter");
            using var request = new HttpRequestMessage(HttpMethod.Post, "/enter?handler=" + handler)
            {
                Content = new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Name, f.Value))),
            };
            request.Headers.Add("X-Csrf-Token", Regex.Match(page, "name=\"csrf\" content=\"([^\"]+)\"").Groups[1].Value);
            return await Client.SendAsync(request);
        }

        public async Task<JsonElement> DoAsync(HttpMethod method, string url, object? body = null)
        {
            using var answer = await SendAsync(method, url, body);
            Assert.True(answer.IsSuccessStatusCode, $"{method} {url}: {(int)answer.StatusCode} {await answer.Content.ReadAsStringAsync()}");
            return answer.StatusCode == HttpStatusCode.NoContent ? default : await answer.Content.ReadFromJsonAsync<JsonElement>();
        }
    }

    protected async Task<string> FirstLinkAsync()
    {
        var said = new StringWriter();
        await App.Services.GetRequiredService<People.PeopleDesk>().GreetAsync(Address, said);
        return Regex.Match(said.ToString(), "/join/[^ ]+").Value;
    }

    private protected async Task<Browser> JoinAsync(string link, string name)
    {
        var browser = new Browser(Address);
        using var answer = await browser.FormAsync(link, ("name", name), ("password", Password));
        Assert.True(answer.StatusCode == HttpStatusCode.Redirect, await answer.Content.ReadAsStringAsync());
        return browser;
    }

    private protected async Task<Browser> InviteAsync(Browser owner, string role, string name) =>
        await JoinAsync((await owner.DoAsync(HttpMethod.Post, "/api/people/invitations", new { role })).GetProperty("path").GetString()!, name);
}
