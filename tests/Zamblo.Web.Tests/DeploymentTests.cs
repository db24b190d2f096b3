using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Web.People;

namespace Zamblo.Web.Tests;

/// <summary>The files of `deploy/`, as they are: nginx with its own in front of a studio, and systemd's own check of the units.</summary>
public sealed class DeploymentTests : IAsyncLifetime
{
    private const string Name = "studio.example.org";
    private readonly string _folder = Directory.CreateTempSubdirectory("zamblo-deploy-").FullName;

    public Task InitializeAsync() => Task.CompletedTask;

    public Task DisposeAsync()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, true);
        return Task.CompletedTask;
    }

    private static string Deploy(string file)
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(at.FullName, "Zamblo.slnx")))
            at = at.Parent!;
        return Path.Combine(at.FullName, "deploy", file);
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    // A certificate of our own for the name.
    private void Certify()
    {
        using var key = RSA.Create(2048);
        var request = new CertificateRequest($"CN={Name}", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        using var made = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(2));
        File.WriteAllText(Path.Combine(_folder, "cert.pem"), made.ExportCertificatePem());
        File.WriteAllText(Path.Combine(_folder, "cert.key"), key.ExportPkcs8PrivateKeyPem());
    }

    // nginx with the file as it ships, but for its ports and the places of its certificate.
    private async Task<(Process Proxy, int Port)> ProxyAsync(string studio)
    {
        Certify();
        var (plain, tls) = (FreePort(), FreePort());
        var site = (await File.ReadAllTextAsync(Deploy("nginx.conf")))
            .Replace("listen 80;", $"listen 127.0.0.1:{plain};", StringComparison.Ordinal)
            .Replace("listen 443 ", $"listen 127.0.0.1:{tls} ", StringComparison.Ordinal)
            .Replace($"/etc/ssl/{Name}.pem", Path.Combine(_folder, "cert.pem"), StringComparison.Ordinal)
            .Replace($"/etc/ssl/{Name}.key", Path.Combine(_folder, "cert.key"), StringComparison.Ordinal)
            .Replace("http://127.0.0.1:5170", studio, StringComparison.Ordinal);
        Assert.DoesNotContain("5170", site);
        var temporary = string.Concat(new[] { "client_body", "proxy", "fastcgi", "uwsgi", "scgi" }.Select(t => $"{t}_temp_path {Path.Combine(_folder, t)};\n"));
        var conf = Path.Combine(_folder, "nginx.conf");
        await File.WriteAllTextAsync(
            conf,
            $"{(Environment.UserName == "root" ? "user root;\n" : "")}daemon off;\nworker_processes 1;\nerror_log {_folder}/error.log;\npid {_folder}/pid;\n"
                + $"events {{}}\nhttp {{\naccess_log off;\n{temporary}{site}\n}}\n"
        );
        var proxy = Process.Start(new ProcessStartInfo("/usr/sbin/nginx", ["-p", _folder, "-c", conf]) { RedirectStandardError = true })!;
        for (var i = 0; i < 100; i++)
        {
            Assert.False(proxy.HasExited, File.Exists($"{_folder}/error.log") ? await File.ReadAllTextAsync($"{_folder}/error.log") : "nginx ended");
            try
            {
                using var probe = new TcpClient();
                await probe.ConnectAsync(IPAddress.Loopback, tls);
                break;
            }
            catch (SocketException)
            {
                await Task.Delay(50);
            }
        }
        return (proxy, tls);
    }

    // A browser that finds the name on this machine and takes the certificate of the test.
    private static HttpClient Browser(int port, CookieContainer cookies) =>
        new(
            new SocketsHttpHandler
            {
                CookieContainer = cookies,
                AllowAutoRedirect = false,
                SslOptions = new() { RemoteCertificateValidationCallback = (_, c, _, _) => c!.Subject == $"CN={Name}" },
                ConnectCallback = async (_, cancel) =>
                {
                    var socket = new Socket(SocketType.Stream, ProtocolType.Tcp);
                    await socket.ConnectAsync(IPAddress.Loopback, port, cancel);
                    return new NetworkStream(socket, true);
                },
            }
        )
        {
            BaseAddress = new Uri($"https://{Name}"),
        };

    private async Task BehindProxyAsync(bool hasDoor, Func<HttpClient, CookieContainer, WebApplication, Task> look)
    {
        var app = await ZambloServer.StartAsync(
            new ServerOptions(Path.Combine(_folder, "data"), "http://127.0.0.1:0", false) { HasDoor = hasDoor, Hosts = [Name] }
        );
        var (proxy, port) = await ProxyAsync(app.Urls.First());
        try
        {
            var cookies = new CookieContainer();
            using var browser = Browser(port, cookies);
            await look(browser, cookies, app);
        }
        finally
        {
            proxy.Kill();
            await app.StopAsync();
            await app.DisposeAsync();
        }
    }

    private static async Task<string> TokenAsync(HttpClient browser, string page) =>
        Regex.Match(await browser.GetStringAsync(page), "__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"").Groups[1].Value;

    [Fact]
    public Task Somebody_signs_in_through_the_proxy_hears_news_at_once_and_sends_large_files() =>
        BehindProxyAsync(
            true,
            async (browser, cookies, app) =>
            {
                Assert.Equal("Healthy", await browser.GetStringAsync("/health/live"));
                Assert.Equal(HttpStatusCode.Redirect, (await browser.GetAsync("/")).StatusCode);
                // A link as whoever owns the studio opens it first.
                var link = "/join/" + await app.Services.GetRequiredService<PeopleDesk>().InviteAsync(PersonRole.Owns, "the test");
                var entered = await browser.PostAsync(
                    link,
                    new FormUrlEncodedContent([
                        KeyValuePair.Create("name", "Ilka"),
                        KeyValuePair.Create("password", "four small rolls"),
                        KeyValuePair.Create("__RequestVerificationToken", await TokenAsync(browser, link)),
                    ])
                );
                Assert.Equal(HttpStatusCode.Redirect, entered.StatusCode);
                var cookie = cookies.GetCookies(browser.BaseAddress!)["zamblo-person"]!;
                Assert.True(cookie.Secure && cookie.HttpOnly);
                var page = await browser.GetAsync("/people");
                Assert.Equal(HttpStatusCode.OK, page.StatusCode);
                Assert.Equal("max-age=31536000", page.Headers.GetValues("Strict-Transport-Security").Single());
                // Its address is the browser's, not the proxy's: the token of the page holds.
                var token = Regex.Match(await page.Content.ReadAsStringAsync(), "name=\"csrf\" content=\"([^\"]+)\"").Groups[1].Value;
                browser.DefaultRequestHeaders.Add("X-Csrf-Token", token);
                var made = await browser.PostAsync("/api/productions", new StringContent("{\"title\":\"Behind\"}", null, "application/json"));
                Assert.True(made.IsSuccessStatusCode, await made.Content.ReadAsStringAsync());
                var id = Regex.Match(await made.Content.ReadAsStringAsync(), "[0-9a-f]{8}-[0-9a-f-]{27}").Value;
                // News come while the connection is open.
                using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(30));
                using var news = await browser.GetAsync($"/api/productions/{id}/news", HttpCompletionOption.ResponseHeadersRead, stop.Token);
                Assert.Equal("text/event-stream", news.Content.Headers.ContentType!.MediaType);
                await using var stream = await news.Content.ReadAsStreamAsync(stop.Token);
                Assert.True(await stream.ReadAsync(new byte[64], stop.Token) > 0);
                // Larger than what a proxy lets through by itself.
                var wav = new byte[6_000_044];
                "RIFF"u8.CopyTo(wav);
                var sent = await browser.PostAsync("/api/uploads?name=long.wav", new ByteArrayContent(wav), stop.Token);
                Assert.NotEqual(HttpStatusCode.RequestEntityTooLarge, sent.StatusCode);
                Assert.NotEqual(HttpStatusCode.BadGateway, sent.StatusCode);
            }
        );

    [Fact]
    public Task A_studio_without_a_door_lets_nobody_in_through_a_proxy() =>
        BehindProxyAsync(
            false,
            async (browser, _, _) =>
            {
                var refused = await browser.GetAsync("/");
                Assert.Equal(HttpStatusCode.Forbidden, refused.StatusCode);
                Assert.Contains("--people", await refused.Content.ReadAsStringAsync());
            }
        );

    [Fact]
    public async Task The_units_pass_systemd_s_own_check()
    {
        // Where they would lie, with programs that are there.
        foreach (var file in new[] { "zamblo.service", "zamblo-backup.service", "zamblo-backup.timer" })
            await File.WriteAllTextAsync(
                Path.Combine(_folder, file),
                (await File.ReadAllTextAsync(Deploy(file)))
                    .Replace("ExecStart=/opt/zamblo/zamblo", "ExecStart=/bin/true", StringComparison.Ordinal)
                    .Replace("User=zamblo\nGroup=zamblo", "User=daemon\nGroup=daemon", StringComparison.Ordinal)
            );
        string[] arguments = ["verify", "--recursive-errors=no", Path.Combine(_folder, "zamblo.service"), Path.Combine(_folder, "zamblo-backup.timer")];
        using var check = Process.Start(new ProcessStartInfo("systemd-analyze", arguments) { RedirectStandardError = true })!;
        var said = await check.StandardError.ReadToEndAsync();
        await check.WaitForExitAsync();
        Assert.True(check.ExitCode == 0 && !said.Contains("zamblo", StringComparison.Ordinal), said);
        // What the service is started with is understood.
        var start = Regex.Match(await File.ReadAllTextAsync(Deploy("zamblo.service")), "zamblo start (.+)").Groups[1].Value;
        foreach (var option in Regex.Matches(start, "--[a-z]+").Select(m => m.Value))
            Assert.Contains(option, await File.ReadAllTextAsync(Deploy("../zamblo")));
    }
}
