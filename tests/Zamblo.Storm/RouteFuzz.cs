using System.Diagnostics;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Zamblo.Storm;

/// <summary>A request that was not answered as it should have been.</summary>
/// <param name="Request">Method, address and the beginning of the body.</param>
/// <param name="Fault">What came.</param>
public sealed record FuzzFault(string Request, string Fault);

/// <summary>What came of it.</summary>
/// <param name="Unreached">Routes of which no request was accepted: what is behind their checks was not tried.</param>
public sealed record FuzzReport(
    int Routes,
    int Requests,
    int Accepted,
    IReadOnlyList<string> Unreached,
    IReadOnlyList<FuzzFault> Faults,
    TimeSpan Slowest,
    string SlowestRequest
);

/// <summary>
/// Sends every address of the server what nobody should send. No answer is 500 or late, and a production that took a body still opens and is drawn.
/// </summary>
public sealed class RouteFuzz(Talk talk, IReadOnlyList<ApiRoute> routes, int seed)
{
    private static readonly TimeSpan Late = TimeSpan.FromSeconds(15);

    // Streams that do not end.
    private static readonly Regex Endless = new("/news$");
    private const int Together = 6;
    private readonly Random _random = new(seed);
    private readonly List<FuzzFault> _faults = [];
    private readonly HashSet<ApiRoute> _reached = [];
    private readonly Dictionary<ApiRoute, string> _refusals = [];
    private int _requests,
        _accepted;
    private (TimeSpan Time, string Request) _slowest;

    /// <summary>Fuzzes each route.</summary>
    /// <param name="perRoute">At most so many requests each.</param>
    public async Task<FuzzReport> RunAsync(int perRoute)
    {
        var fixture = await Fixture.MakeAsync(talk);
        var copy = await fixture.CopyAsync();
        foreach (var (number, route) in routes.Where(r => !Endless.IsMatch(r.Pattern)).Index())
        {
            // A fresh one now and then: what others have made and unmade is not to hide anything.
            if (number % Together == 0)
                copy = await fixture.CopyAsync();
            // The good one first: what it has made is there for the others.
            var (good, spoilt) = Requests(route, copy);
            foreach (var (url, body) in spoilt.OrderBy(_ => _random.Next()).Take(perRoute).Prepend(good))
                if (!await SendAsync(route, url, body, copy))
                    copy = await fixture.CopyAsync();
            await QuietAsync(copy);
        }
        var unreached = routes
            .Where(r => !Endless.IsMatch(r.Pattern) && !_reached.Contains(r))
            .Select(r => $"{r.Method} {r.Pattern}: {_refusals.GetValueOrDefault(r)}")
            .ToArray();
        return new FuzzReport(routes.Count, _requests, _accepted, unreached, _faults, _slowest.Time, _slowest.Request);
    }

    private static ((string Url, string? Body) Good, IReadOnlyList<(string Url, string? Body)> Spoilt) Requests(ApiRoute route, Fixture fixture)
    {
        var known = fixture.Known(route.Pattern);
        var query = string.Join('&', route.Query.Where(q => q.Name != "revision").Select(q => $"{q.Name}={Uri.EscapeDataString(Usual(q, known))}"));
        var url = Address(route.Pattern, fixture);
        var good = route.Body == null ? null : HostileBody.Good(route.Body, known);
        var spoilt = new List<(string, string?)>();
        foreach (var bad in (string[])["x", Guid.Empty.ToString(), "..%2f..%2fetc%2fpasswd", "%00", "-1", "999999999999"])
            if (route.Pattern.Contains('{', StringComparison.Ordinal))
                spoilt.Add((Regex.Replace(route.Pattern, @"\{[^}]*\}", bad), "{}"));
        foreach (var (name, type) in route.Query)
        foreach (var value in HostileBody.InAddress(type))
            spoilt.Add(($"{url}?{Regex.Replace(query, $"(^|&){name}=[^&]*", "")}&{name}={Uri.EscapeDataString(value)}", null));
        if (route.Body != null)
            foreach (var body in HostileBody.Spoilt(route.Body, good))
                spoilt.Add(($"{url}?{query}", body));
        return (($"{url}?{query}", good == null ? null : HostileBody.Written(good)), spoilt);
    }

    private static string Usual((string Name, Type Type) word, IReadOnlyDictionary<string, JsonNode?> known) =>
        known.TryGetValue(word.Name.ToLowerInvariant(), out var value) ? $"{value}"
        : word.Type == typeof(bool) || word.Type == typeof(bool?) ? "true"
        : "1";

    // {id:guid} is the id of what stands before it.
    private static string Address(string pattern, Fixture fixture) =>
        Regex.Replace(
            pattern,
            @"(?<before>[a-z]+)/\{(?<name>\w+)(:\w+)?\}",
            m =>
                m.Groups["before"].Value
                + "/"
                + (
                    m.Groups["before"].Value switch
                    {
                        "productions" => fixture.Production,
                        "assets" => fixture.Hash,
                        "characters" => "maro",
                        "mouths" => "Open",
                        "moods" => "Joy",
                        "gestures" when m.Groups["name"].Value == "gesture" => "wave",
                        "gestures" or "motions" => fixture.Ids.GetValueOrDefault("motion", Guid.Empty.ToString()),
                        "words" => "1",
                        "frames" => "0",
                        var many => fixture.Ids.GetValueOrDefault(many.TrimEnd('s'), Guid.Empty.ToString()),
                    }
                )
        );

    // False when the production is not what it was: the next one gets another.
    private async Task<bool> SendAsync(ApiRoute route, string url, string? body, Fixture fixture)
    {
        _requests++;
        var method = route.Method;
        var request = $"{method} {url} {(body?.Length > 300 ? body[..300] + "..." : body)}";
        var clock = Stopwatch.StartNew();
        try
        {
            using var limit = new CancellationTokenSource(Late);
            using var message = new HttpRequestMessage(new HttpMethod(method), url);
            if (body != null)
                message.Content = new StringContent(body, Encoding.UTF8, "application/json");
            using var response = await talk.Client.SendAsync(message, limit.Token);
            if (clock.Elapsed > _slowest.Time)
                _slowest = (clock.Elapsed, request);
            if ((int)response.StatusCode >= 500)
            {
                _faults.Add(new FuzzFault(request, $"{(int)response.StatusCode}"));
                return true;
            }
            if (!response.IsSuccessStatusCode)
            {
                _refusals.TryAdd(route, $"{(int)response.StatusCode} {await response.Content.ReadAsStringAsync()} to {body}");
                return true;
            }
            _reached.Add(route);
            if (method == "GET")
                return true;
        }
        catch (OperationCanceledException)
        {
            _faults.Add(new FuzzFault(request, $"no answer in {Late.TotalSeconds} s"));
            return true;
        }
        _accepted++;
        if (await fixture.TroubleAsync() is not { } trouble)
            return true;
        // A scene or a production that was taken out is no trouble; one that does not open is.
        if (!trouble.EndsWith(": 404", StringComparison.Ordinal))
            _faults.Add(new FuzzFault(request, $"accepted, and then {trouble}"));
        return false;
    }

    // What was ordered is called off.
    private async Task QuietAsync(Fixture fixture)
    {
        using var response = await talk.Client.GetAsync($"/api/productions/{fixture.Production}/jobs");
        if (!response.IsSuccessStatusCode)
            return;
        foreach (var job in JsonNode.Parse(await response.Content.ReadAsStringAsync())!.AsArray())
            if (job!["state"]!.GetValue<string>() is "queued" or "running")
                await talk.PostAsync($"/api/jobs/{job["id"]!.GetValue<string>()}/cancel", new { });
    }
}
