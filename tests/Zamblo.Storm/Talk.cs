using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Zamblo.Storm;

/// <summary>Requests to a server, as its pages make them.</summary>
public class Talk(HttpClient client) : IDisposable
{
    public HttpClient Client => client;

    public static async Task<Talk> WithAsync(string address) => new(await ClientAsync(address));

    protected static async Task<HttpClient> ClientAsync(string address)
    {
        var client = new HttpClient(new HttpClientHandler { CookieContainer = new() }) { BaseAddress = new Uri(address) };
        var page = await client.GetStringAsync("/");
        client.DefaultRequestHeaders.Add("X-Csrf-Token", Regex.Match(page, "name=\"csrf\" content=\"([^\"]+)\"").Groups[1].Value);
        return client;
    }

    public async Task<JsonElement> SendAsync(HttpMethod method, string url, object? body = null, int expect = 0)
    {
        using var response = await Client.SendAsync(
            new HttpRequestMessage(method, url)
            {
                Content =
                    body is byte[] bytes ? new ByteArrayContent(bytes)
                    : body == null ? null
                    : JsonContent.Create(body),
            }
        );
        var text = await response.Content.ReadAsStringAsync();
        if (expect == 0 ? !response.IsSuccessStatusCode : (int)response.StatusCode != expect)
            throw new InvalidOperationException($"{method} {url}: {(int)response.StatusCode} {text}");
        return text.Length == 0 ? default : JsonDocument.Parse(text).RootElement.Clone();
    }

    public Task<JsonElement> GetAsync(string url) => SendAsync(HttpMethod.Get, url);

    public Task<JsonElement> PostAsync(string url, object body, int expect = 0) => SendAsync(HttpMethod.Post, url, body, expect);

    public Task<JsonElement> PatchAsync(string url, object body) => SendAsync(HttpMethod.Patch, url, body);

    public Task<JsonElement> DeleteAsync(string url) => SendAsync(HttpMethod.Delete, url);

    /// <summary>What is said of a request that is refused.</summary>
    public async Task<string> ErrorAsync(string url, object body, bool patch = false)
    {
        using var response = patch ? await Client.PatchAsJsonAsync(url, body) : await Client.PostAsJsonAsync(url, body);
        if (response.IsSuccessStatusCode)
            throw new InvalidOperationException($"{url} was not refused.");
        return (await response.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("error").GetString()!;
    }

    /// <summary>A production with one scene and one member; their ids.</summary>
    public async Task<(string Production, string Scene, string Member)> NewProductionAsync()
    {
        var id = (await PostAsync("/api/productions", new { title = "Test" })).GetProperty("id").GetString()!;
        var scene = await FirstSceneAsync(id);
        var state = await GetAsync("/api/scenes/" + scene);
        return (id, scene, state.GetProperty("members")[0].GetProperty("id").GetString()!);
    }

    /// <summary>The scene that a production's page opens with.</summary>
    public async Task<string> FirstSceneAsync(string production) =>
        Regex.Match(await Client.GetStringAsync("/production/" + production), "data-scene=\"([^\"]+)\"").Groups[1].Value;

    /// <summary>Waits until a job has ended and gives it.</summary>
    public async Task<JsonElement> WaitAsync(string production, string job, double seconds = 90)
    {
        for (var i = 0; i < seconds * 5; i++)
        {
            var jobs = await GetAsync($"/api/productions/{production}/jobs");
            var it = jobs.EnumerateArray().First(j => j.GetProperty("id").GetString() == job);
            if (it.GetProperty("state").GetString() is "done" or "failed" or "cancelled")
                return it;
            await Task.Delay(200);
        }
        throw new TimeoutException("The job did not end.");
    }

    public async Task<JsonElement> SpeakAsync(string production, string scene, string member, string text)
    {
        var job = (
            await PostAsync(
                $"/api/scenes/{scene}/lines",
                new
                {
                    member,
                    kind = "synthesis",
                    text,
                }
            )
        ).GetProperty("job").GetString()!;
        var done = await WaitAsync(production, job);
        if (done.GetProperty("state").GetString() != "done")
            throw new InvalidOperationException(done.ToString());
        return await GetAsync("/api/scenes/" + scene);
    }

    public void Dispose() => client.Dispose();
}
