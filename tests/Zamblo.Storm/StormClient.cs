using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

namespace Zamblo.Storm;

/// <summary>One person at work while the storm goes on: edits, types, brings good files and bad ones, orders films; and notes what was acknowledged.</summary>
internal sealed class StormClient(int number, Func<Talk?> server, Ledger ledger, Fixture fixture, StormOptions options)
{
    private readonly Random _random = new(options.Seed + number);
    private readonly IEnumerator<(string Name, byte[] Bytes)> _hostile = HostileFiles.Make(options.Seed + number).GetEnumerator();
    private string _scene = "";
    private int _count;

    public async Task WorkAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
            try
            {
                if (_scene.Length == 0)
                    await OpenAsync();
                else
                    await StepAsync();
                await Task.Delay(_random.Next(60), CancellationToken.None);
            }
            catch (Exception e)
                when (e is HttpRequestException or IOException or OperationCanceledException or ObjectDisposedException or System.Net.Sockets.SocketException)
            {
                // The server was killed under the request.
                ledger.CountCut();
                await Task.Delay(100, CancellationToken.None);
            }
    }

    // A scene of its own: what happens to its title is this client's alone.
    private async Task OpenAsync()
    {
        if (await SendAsync(HttpMethod.Post, $"/api/productions/{fixture.Production}/scenes", new { }) is { } made)
            _scene = made.GetProperty("id").GetString()!;
    }

    private Task StepAsync() =>
        _random.Next(100) switch
        {
            < 40 => TitleAsync(),
            < 55 => ClipAsync(),
            < 59 => TypeAsync(),
            < 63 => BringAsync(),
            < 78 => HostileAsync(),
            < 81 => ScriptAsync(),
            < 84 => FilmAsync(),
            _ => ReadAsync(),
        };

    private async Task TitleAsync()
    {
        var number = ledger.Titles.GetValueOrDefault(_scene).Sent + 1;
        ledger.Titles[_scene] = (ledger.Titles.GetValueOrDefault(_scene).Acknowledged, number);
        if (await SendAsync(HttpMethod.Patch, $"/api/scenes/{_scene}", new { title = $"Loaf {number}" }) != null)
            ledger.Titles[_scene] = (number, number);
    }

    private async Task ClipAsync()
    {
        var start = _random.NextDouble();
        string[] moods = ["Joy", "Anger", "Doubt", "Fear"];
        await SendAsync(
            HttpMethod.Post,
            $"/api/scenes/{fixture.Ids["scene"]}/clips",
            new
            {
                member = fixture.Ids["member"],
                kind = "Mood",
                name = moods[_random.Next(moods.Length)],
                start,
                end = start + 0.5,
            }
        );
    }

    private string Mark() => $"Tray {number} of batch {++_count}.";

    private Task TypeAsync() =>
        LineAsync(
            Mark(),
            mark => new
            {
                member = fixture.Ids["member"],
                kind = "Synthesis",
                text = mark,
            }
        );

    private async Task BringAsync()
    {
        var mark = Mark();
        if (await SendAsync(HttpMethod.Post, $"/api/uploads?name={Uri.EscapeDataString(mark)}", HostileFiles.Good(_random.Next(1000))) is not { } upload)
            return;
        ledger.CountUpload();
        var hash = upload.GetProperty("hash").GetString();
        await LineAsync(
            mark,
            text => new
            {
                member = fixture.Ids["member"],
                kind = "File",
                hash,
                name = "hum.wav",
                text,
            }
        );
    }

    private async Task LineAsync(string mark, Func<string, object> order)
    {
        ledger.Unsure[mark] = 0;
        if (await SendAsync(HttpMethod.Post, $"/api/scenes/{_scene}/lines", order(mark)) is not { } done)
            return;
        ledger.Lines.Enqueue((done.GetProperty("job").GetString()!, fixture.Production, _scene, mark));
        ledger.Unsure.TryRemove(mark, out _);
    }

    private async Task HostileAsync()
    {
        _hostile.MoveNext();
        var (name, bytes) = _hostile.Current;
        await SendAsync(HttpMethod.Post, $"/api/uploads?name={Uri.EscapeDataString(name)}", bytes);
        ledger.CountHostile();
    }

    private async Task ScriptAsync()
    {
        string[] tricks = ["[[", "MARO (", "<v.", "(((", "@", "*_"];
        await SendAsync(
            HttpMethod.Post,
            $"/api/scenes/{_scene}/script",
            new { text = string.Concat(Enumerable.Repeat(tricks[_random.Next(tricks.Length)], 20_000)) }
        );
        ledger.CountHostile();
    }

    private async Task FilmAsync()
    {
        var scene = fixture.Ids["scene"];
        if (ledger.Films.Count >= options.Films || await SendAsync(HttpMethod.Get, $"/api/scenes/{scene}", null) is not { } state)
            return;
        var frames = state.GetProperty("frames").GetInt32();
        if (await SendAsync(HttpMethod.Post, $"/api/scenes/{scene}/renders", new { }) is { } done)
            ledger.Films.Enqueue((done.GetProperty("job").GetString()!, fixture.Production, frames));
    }

    private Task ReadAsync() => SendAsync(HttpMethod.Get, $"/api/scenes/{(_random.Next(2) == 0 ? _scene : fixture.Ids["scene"])}", null);

    // Null where it was refused.
    private async Task<JsonElement?> SendAsync(HttpMethod method, string url, object? body)
    {
        if (server() is not { } talk)
            throw new HttpRequestException("There is no server just now.");
        using var message = new HttpRequestMessage(method, url);
        if (body != null)
            message.Content = body is byte[] bytes ? new ByteArrayContent(bytes) : JsonContent.Create(body);
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        using var response = await talk.Client.SendAsync(message, limit.Token);
        var text = await response.Content.ReadAsStringAsync(limit.Token);
        switch (response.StatusCode)
        {
            case HttpStatusCode.InsufficientStorage:
                ledger.CountFull();
                return null;
            case HttpStatusCode.ServiceUnavailable:
                ledger.CountAway();
                return null;
            case >= HttpStatusCode.InternalServerError:
                ledger.Faults.Enqueue($"{method} {url}: {(int)response.StatusCode} {text}");
                return null;
            case >= HttpStatusCode.BadRequest:
                return null;
        }
        if (method != HttpMethod.Get)
            ledger.CountEdit();
        return text.Length == 0 ? default(JsonElement) : JsonDocument.Parse(text).RootElement.Clone();
    }
}
