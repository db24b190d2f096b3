using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using Microsoft.AspNetCore.Builder;
using Zamblo.Storm;

namespace Zamblo.Web.Tests;

/// <summary>Whoever runs a studio for others: health, figures, and what it says of requests and jobs.</summary>
public sealed class WatchTests
{
    private static async Task WithAsync(bool hasDoor, Func<WebApplication, HttpClient, string, Task> look)
    {
        var data = Directory.CreateTempSubdirectory("zamblo-watch-").FullName;
        var app = await ZambloServer.StartAsync(new ServerOptions(data, "http://127.0.0.1:0", false) { HasDoor = hasDoor });
        try
        {
            using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(app.Urls.First()) };
            await look(app, client, data);
        }
        finally
        {
            await app.StopAsync();
            await app.DisposeAsync();
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(data, true);
        }
    }

    [Fact]
    public Task Health_is_told_to_everybody_and_figures_to_who_has_their_key() =>
        WithAsync(
            true,
            async (_, client, data) =>
            {
                Assert.Equal("Healthy", await client.GetStringAsync("/health/live"));
                Assert.Contains(await client.GetStringAsync("/health/ready"), new[] { "Healthy", "Degraded" });
                async Task<HttpStatusCode> AskAsync(string? key)
                {
                    using var request = new HttpRequestMessage(HttpMethod.Get, "/metrics");
                    if (key != null)
                        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", key);
                    return (await client.SendAsync(request)).StatusCode;
                }
                Assert.NotEqual(HttpStatusCode.OK, await AskAsync(null));
                Assert.NotEqual(HttpStatusCode.OK, await AskAsync("no"));
                var key = Path.Combine(data, "metrics-key");
                Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(key));
                Assert.Equal(HttpStatusCode.OK, await AskAsync((await File.ReadAllTextAsync(key)).Trim()));
                // It opens nothing else.
                using var other = new HttpRequestMessage(HttpMethod.Get, "/api/productions");
                other.Headers.Authorization = new AuthenticationHeaderValue("Bearer", (await File.ReadAllTextAsync(key)).Trim());
                Assert.Equal(HttpStatusCode.Unauthorized, (await client.SendAsync(other)).StatusCode);
            }
        );

    [Fact]
    public Task Figures_count_jobs_and_requests_by_their_kinds_and_hold_nobody_s_words() =>
        WithAsync(
            false,
            async (app, client, _) =>
            {
                using var talk = await Talk.WithAsync(app.Urls.First());
                var (production, scene, member) = await talk.NewProductionAsync();
                await talk.SpeakAsync(production, scene, member, "Marzipan for breakfast.");
                var text = "";
                // What is counted is shown within moments.
                for (var i = 0; i < 300 && !(text.Contains("zamblo_jobs_duration_seconds_count", StringComparison.Ordinal) && text.Contains("{id:guid}")); i++)
                {
                    await Task.Delay(200);
                    text = await client.GetStringAsync("/metrics");
                }
                Assert.Matches("zamblo_jobs_duration_seconds_count\\{[^}]*kind=\"speak\"[^}]*state=\"done\"[^}]*\\} [1-9]", text);
                Assert.Matches("zamblo_jobs_waiting\\{[^}]*queue=\"films\"[^}]*\\} 0", text);
                Assert.Matches("zamblo_data_free_bytes[^\\n]* [1-9]", text);
                Assert.Contains("http_route=\"/api/scenes/{id:guid}/\"", text);
                Assert.DoesNotContain("Marzipan", text);
                Assert.DoesNotContain(scene.ToString(), text);
            }
        );

    [Fact]
    public async Task Lines_of_json_tell_requests_and_jobs_without_anybody_s_words()
    {
        var data = Directory.CreateTempSubdirectory("zamblo-logs-").FullName;
        var said = new List<string>();
        try
        {
            await using (var server = await ServerProcess.StartAsync(data, arguments: ["--logs", "json"], said: said.Add))
            {
                var (production, scene, member) = await server.NewProductionAsync();
                await server.SpeakAsync(production, scene, member, "Marzipan for breakfast.");
                await server.Client.GetAsync("/api/characters/marzipan/picture");
                await server.StopAsync();
            }
            string[] lines;
            lock (said)
                lines = [.. said.Where(l => l.StartsWith('{'))];
            var read = lines.Select(l => JsonDocument.Parse(l).RootElement).ToArray();
            string? Of(JsonElement line, string name) => line.GetProperty("State").TryGetProperty(name, out var v) ? v.ToString() : null;
            Assert.Contains(read, l => Of(l, "Route") == "/api/scenes/{id:guid}/" && Of(l, "Status") == "200");
            Assert.Contains(read, l => Of(l, "Route")?.Contains("{key}", StringComparison.Ordinal) == true && Of(l, "Status") == "404");
            Assert.Contains(read, l => Of(l, "Kind") == "speak" && Of(l, "State") == "Done");
            Assert.DoesNotContain(lines, l => l.Contains("arzipan", StringComparison.Ordinal));
        }
        finally
        {
            Directory.Delete(data, true);
        }
    }
}
