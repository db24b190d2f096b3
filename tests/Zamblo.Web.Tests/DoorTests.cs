using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio.Assets;

namespace Zamblo.Web.Tests;

/// <summary>What comes in from outside: files, names, addresses, ids, pages of others.</summary>
public class DoorTests(Host host) : IClassFixture<Host>
{
    private Talk Server => host.Talk;

    [Fact]
    public async Task Bad_sound_is_refused_and_leaves_nothing_behind()
    {
        var (_, scene, _) = await Server.NewProductionAsync();
        string[] Files() =>
            [
                .. Directory
                    .GetFiles(host.Data, "*", SearchOption.AllDirectories)
                    .Select(f => Path.GetRelativePath(host.Data, f))
                    .Where(f => f.StartsWith("assets", StringComparison.Ordinal) || f.StartsWith("tmp", StringComparison.Ordinal))
                    .Order(StringComparer.Ordinal),
            ];
        var before = Files();
        async Task Refused(string name, byte[] bytes, string part)
        {
            var answer = await Server.PostAsync($"/api/uploads?name={name}", bytes, expect: 400);
            Assert.Contains(part, answer.GetProperty("error").GetString());
        }
        await Refused("letter.wav", "Dear Maro, the flour is late."u8.ToArray(), "\"letter.wav\" is not a sound file");
        await Refused("empty.mp3", [], "empty");
        // A list of other files is no sound: what it names is never opened.
        await Refused("list.m3u8", Encoding.UTF8.GetBytes($"#EXTM3U\n#EXTINF:1,\nfile://{host.Data}/zamblo.db\n"), "\"list.m3u8\"");
        await Refused("list.wav", "ffconcat version 1.0\nfile /etc/hostname\n"u8.ToArray(), "\"list.wav\"");
        Assert.Equal(before, Files());
        Assert.Empty((await Server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").EnumerateArray());
        await Server.PostAsync($"/api/scenes/{scene}/renders", new { }, expect: 400);
    }

    [Fact]
    public async Task The_door_is_shut_to_strangers()
    {
        using var bare = new HttpClient { BaseAddress = new Uri(host.Address) };
        async Task<HttpStatusCode> As(HttpMethod method, string path, string header, string value)
        {
            using var request = new HttpRequestMessage(method, path);
            if (header == "Host")
                request.Headers.Host = value;
            else
                request.Headers.Add(header, value);
            return (await bare.SendAsync(request)).StatusCode;
        }
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bare.PostAsync("/api/productions", new StringContent("{}", Encoding.UTF8, "application/json"))).StatusCode
        );
        Assert.Equal(HttpStatusCode.BadRequest, await As(HttpMethod.Get, "/api/productions", "Host", "evil.example"));
        Assert.Equal(HttpStatusCode.Forbidden, await As(HttpMethod.Get, "/api/productions", "Sec-Fetch-Site", "cross-site"));
        Assert.Equal(HttpStatusCode.OK, await As(HttpMethod.Get, "/api/productions", "Sec-Fetch-Site", "same-origin"));
        var page = await bare.GetAsync("/");
        var policy = page.Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("script-src 'self';", policy);
        Assert.DoesNotContain("unsafe", policy);
        Assert.Equal("nosniff", page.Headers.GetValues("X-Content-Type-Options").Single());
    }

    // A client library would take the dots out of the path before it is sent: this is written to the socket as it stands.
    [Theory]
    [InlineData("/../zamblo.db")]
    [InlineData("/../../zamblo.db")]
    [InlineData("/fonts/../../appsettings.json")]
    [InlineData("/%2e%2e/zamblo.db")]
    [InlineData("/..%2fzamblo.db")]
    [InlineData("/api/assets/../zamblo.db/sound?from=0&to=1")]
    [InlineData("/api/assets/..%2fzamblo.db/sound?from=0&to=1")]
    [InlineData("/api/jobs/../../etc/passwd")]
    [InlineData("/api/characters/..%2f..%2fetc/picture")]
    public async Task No_path_leads_out(string path)
    {
        var uri = new Uri(host.Address);
        using var socket = new TcpClient();
        await socket.ConnectAsync(uri.Host, uri.Port);
        await using var stream = socket.GetStream();
        await stream.WriteAsync(Encoding.ASCII.GetBytes($"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n"));
        var answer = await new StreamReader(stream).ReadToEndAsync();
        Assert.Matches(@"^HTTP/1\.1 4\d\d ", answer);
        Assert.DoesNotContain("SQLite format", answer);
    }

    [Theory]
    [InlineData("espeak:../../../etc/passwd")]
    [InlineData("espeak:en-us+../../tmp/x")]
    [InlineData("flite:/etc/passwd")]
    [InlineData("nobody")]
    public async Task A_voice_that_is_not_there_is_no_file_name(string voice)
    {
        var (production, scene, member) = await Server.NewProductionAsync();
        using var answer = await Server.Client.GetAsync("/api/voices/sample?key=" + Uri.EscapeDataString(voice));
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        using var cast = await Server.Client.PatchAsJsonAsync("/api/members/" + member, new { voice });
        if (!cast.IsSuccessStatusCode)
            return;
        // Old data may name a voice that has gone: then the line says so.
        var job = (
            await Server.PostAsync(
                $"/api/scenes/{scene}/lines",
                new
                {
                    member,
                    kind = "synthesis",
                    text = "Ding.",
                }
            )
        ).GetProperty("job").GetString()!;
        Assert.Equal("failed", (await Server.WaitAsync(production, job)).GetProperty("state").GetString());
    }

    [Fact]
    public async Task Markup_in_a_line_is_words_and_no_command_to_the_voice()
    {
        var (production, scene, member) = await Server.NewProductionAsync();
        var state = await Server.SpeakAsync(production, scene, member, "<speak><break time=\"30s\"/><audio src=\"file:///etc/passwd\"/>Ding</speak>");
        Assert.InRange(state.GetProperty("lines")[0].GetProperty("duration").GetDouble(), 0.3, 25);
    }

    [Fact]
    public async Task Ids_of_another_production_change_nothing_in_it()
    {
        var (_, scene, member) = await Server.NewProductionAsync();
        var (other, otherScene, otherMember) = await Server.NewProductionAsync();
        await Server.SpeakAsync(other, otherScene, otherMember, "The oven is hot.");
        var clip = (
            await Server.PostAsync(
                $"/api/scenes/{otherScene}/clips",
                new
                {
                    member = otherMember,
                    kind = "Mood",
                    name = "joy",
                    start = 0.2,
                    end = 1.2,
                }
            )
        ).GetProperty("id").GetString();
        var state = await Server.GetAsync("/api/scenes/" + otherScene);
        var line = state.GetProperty("lines")[0].GetProperty("id").GetString();
        foreach (
            var (url, body) in new (string, object)[]
            {
                (
                    $"/api/scenes/{scene}/clips",
                    new
                    {
                        member = otherMember,
                        kind = "Mood",
                        name = "joy",
                        start = 0.0,
                        end = 1.0,
                    }
                ),
                ($"/api/scenes/{scene}/clips/delete", new { ids = new[] { clip } }),
                ($"/api/scenes/{scene}/clips/line-up", new { ids = new[] { clip, clip } }),
                (
                    $"/api/scenes/{scene}/lines",
                    new
                    {
                        member = otherMember,
                        kind = "synthesis",
                        text = "Ding.",
                    }
                ),
                (
                    $"/api/scenes/{scene}/performances",
                    new
                    {
                        member = otherMember,
                        part = "head",
                        start = 0.0,
                        end = 1.0,
                        samples = new Dictionary<string, double[][]>
                        {
                            ["headTurn"] =
                            [
                                [0, 0],
                                [1, 9],
                            ],
                        },
                    }
                ),
            }
        )
        {
            using var answer = await Server.Client.PostAsJsonAsync(url, body);
            Assert.True((int)answer.StatusCode is 400 or 404, $"{url}: {(int)answer.StatusCode}");
        }
        // Neither may a line of one be given to a member of another.
        using var given = await Server.Client.PatchAsJsonAsync("/api/lines/" + line, new { member });
        Assert.True((int)given.StatusCode is 400 or 404, $"{(int)given.StatusCode}");
        Assert.Equal(
            state.GetProperty("production").GetProperty("revision").GetInt64(),
            (await Server.GetAsync("/api/scenes/" + otherScene)).GetProperty("production").GetProperty("revision").GetInt64()
        );
    }

    [Fact]
    public async Task A_page_that_listens_hears_of_an_edit()
    {
        var (production, _, member) = await Server.NewProductionAsync();
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(30));
        using var answer = await Server.Client.GetAsync($"/api/productions/{production}/news", HttpCompletionOption.ResponseHeadersRead, patience.Token);
        Assert.Equal("text/event-stream", answer.Content.Headers.ContentType!.MediaType);
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync(patience.Token));
        async Task<string> NextAsync()
        {
            while (await reader.ReadLineAsync(patience.Token) is { } line)
                if (line.StartsWith("data:", StringComparison.Ordinal))
                    return line;
            throw new EndOfStreamException();
        }
        Assert.Contains("hello", await NextAsync());
        await Server.PatchAsync("/api/members/" + member, new { roleName = "Night baker" });
        Assert.Contains("\"changed\"", await NextAsync());
    }

    [Fact]
    public async Task A_sweep_takes_what_nothing_refers_to_and_nothing_else()
    {
        var sweep = host.Services.GetRequiredService<DataSweep>();
        var folder = host.Services.GetRequiredService<DataFolder>();
        var assets = host.Services.GetRequiredService<AssetStore>();
        await using var db = await host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        var (production, scene, member) = await Server.NewProductionAsync();
        var line = (await Server.SpeakAsync(production, scene, member, "The oven is hot.")).GetProperty("lines")[0].GetProperty("id").GetGuid();
        var kept = await db.Takes.Where(t => t.LineId == line).Select(t => t.AssetHash).FirstAsync();
        async Task<string> OrphanAsync(byte content, TimeSpan age)
        {
            var (hash, length) = await assets.SaveAsync(new MemoryStream([content, content]), 100, default, _ => Task.CompletedTask);
            await db.KeepAssetAsync(hash, length, "left");
            await db.Assets.Where(a => a.Hash == hash).ExecuteUpdateAsync(u => u.SetProperty(a => a.Created, DateTime.UtcNow - age));
            return assets.PathOf(hash);
        }
        string old = await OrphanAsync(1, TimeSpan.FromDays(3)),
            fresh = await OrphanAsync(2, TimeSpan.FromMinutes(1)),
            film = folder.FilmOf(Guid.NewGuid());
        await db.Assets.Where(a => a.Hash == kept).ExecuteUpdateAsync(u => u.SetProperty(a => a.Created, DateTime.UtcNow.AddDays(-3)));
        await File.WriteAllTextAsync(film, "x");
        await sweep.SweepAsync(default);
        Assert.False(File.Exists(old));
        Assert.False(File.Exists(film));
        Assert.True(File.Exists(fresh));
        Assert.True(File.Exists(assets.PathOf(kept!)));
    }

    [Fact]
    public async Task Of_what_can_be_made_again_the_longest_unused_goes_when_it_is_too_much()
    {
        var folder = host.Services.GetRequiredService<DataFolder>();
        string Made(string name, int hours)
        {
            var path = Path.Combine(folder.Chunks, name);
            Directory.CreateDirectory(folder.Chunks);
            File.WriteAllBytes(path, new byte[1000]);
            File.SetLastAccessTimeUtc(path, DateTime.UtcNow.AddHours(-hours));
            return path;
        }
        // A piece of a film has two names.
        string[] old = [Made("chunk-old.mp4", 3), Made("seen-old.piece", 3)];
        string[] late = [Made("chunk-late.mp4", 2), Made("seen-late.piece", 2)];
        var sweep = new DataSweep(
            folder,
            host.Services.GetRequiredService<AssetStore>(),
            host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>(),
            Microsoft.Extensions.Logging.Abstractions.NullLogger<DataSweep>.Instance
        )
        {
            // Whatever else the other tests have made there, and one of the two.
            CacheBytes =
                new DirectoryInfo(folder.Cache)
                    .EnumerateFiles("*", SearchOption.AllDirectories)
                    .Where(f => f.Extension is ".wav" or ".mp4" or ".piece")
                    .Sum(f => f.Extension == ".wav" ? f.Length : f.Length / 2) - 1000,
        };
        await sweep.SweepAsync(default);
        Assert.DoesNotContain(old, File.Exists);
        Assert.All(late, f => Assert.True(File.Exists(f)));
        Array.ForEach(late, File.Delete);
    }

    [Fact]
    public async Task A_full_quota_refuses_sound_in_a_sentence_and_edits_go_on()
    {
        var data = Directory.CreateTempSubdirectory("zamblo-quota-").FullName;
        await using (var app = await ZambloServer.StartAsync(new ServerOptions(data, "http://127.0.0.1:0", false) { QuotaBytes = 1 << 20 }))
        {
            using var talk = await Talk.WithAsync(app.Urls.First());
            var (production, _, _) = await talk.NewProductionAsync();
            var refused = await talk.PostAsync("/api/uploads?name=long.wav", new byte[2 << 20], expect: 400);
            Assert.Contains("no room", refused.GetProperty("error").GetString());
            await talk.PatchAsync("/api/productions/" + production, new { title = "Still here" });
            await app.StopAsync();
        }
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(data, true);
    }

    [Fact]
    public async Task What_has_ended_long_ago_does_not_hide_what_is_under_way()
    {
        var (production, _, _) = await Server.NewProductionAsync();
        await using var db = await host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        var id = Guid.Parse(production);
        var waiting = new Job
        {
            Id = Guid.NewGuid(),
            ProductionId = id,
            Kind = "render",
            Title = "Film",
            Payload = "{}",
            State = JobState.Queued,
            Created = DateTime.UtcNow.AddHours(-1),
        };
        db.Jobs.Add(waiting);
        for (var i = 0; i < 40; i++)
            db.Jobs.Add(
                new Job
                {
                    Id = Guid.NewGuid(),
                    ProductionId = id,
                    Kind = "listen",
                    Title = "Listen",
                    Payload = "{}",
                    State = JobState.Done,
                    Created = DateTime.UtcNow,
                }
            );
        await db.SaveChangesAsync();
        var shown = (await Server.GetAsync($"/api/productions/{production}/jobs")).EnumerateArray().Select(j => j.GetProperty("id").GetGuid()).ToArray();
        Assert.Contains(waiting.Id, shown);
        Assert.InRange(shown.Length, 2, 40);
    }
}
