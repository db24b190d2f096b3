using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Security.Cryptography;
using System.Text.Json;
using Zamblo.Media;

namespace Zamblo.Studio.Farm;

/// <summary>A worker's line to its studio: signed requests.</summary>
internal sealed class FarmLine : IDisposable
{
    private readonly HttpClient _http;
    private readonly FarmKey _key;

    /// <param name="studio">Its address.</param>
    /// <param name="key">That both have.</param>
    public FarmLine(Uri studio, FarmKey key)
    {
        _key = key;
        _http = new HttpClient(new SocketsHttpHandler { AutomaticDecompression = DecompressionMethods.All, ConnectTimeout = TimeSpan.FromSeconds(10) })
        {
            BaseAddress = studio,
            Timeout = TimeSpan.FromMinutes(10),
        };
    }

    public void Dispose() => _http.Dispose();

    /// <summary>Asks for something, and reads the answer; the default where there is none.</summary>
    public async Task<T?> AskAsync<T>(HttpMethod method, string target, object? body, CancellationToken cancel)
    {
        var bytes = body == null ? [] : JsonSerializer.SerializeToUtf8Bytes(body);
        using var content = new ByteArrayContent(bytes);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        using var answer = await SendAsync(method, target, body == null ? null : content, Convert.ToHexStringLower(SHA256.HashData(bytes)), null, cancel);
        if (answer.StatusCode == HttpStatusCode.NoContent)
            return default;
        await using var stream = await answer.Content.ReadAsStreamAsync(cancel);
        return await JsonSerializer.DeserializeAsync<T>(stream, cancellationToken: cancel);
    }

    /// <summary>Brings a file.</summary>
    public async Task BringAsync(string target, string path, CancellationToken cancel)
    {
        await using var file = File.OpenRead(path);
        var hash = Convert.ToHexStringLower(await SHA256.HashDataAsync(file, cancel));
        file.Position = 0;
        using var content = new StreamContent(file);
        using var _ = await SendAsync(HttpMethod.Put, target, content, hash, null, cancel);
    }

    /// <summary>Fetches a file; what had come of it before is not fetched again.</summary>
    /// <param name="target">What.</param>
    /// <param name="path">Where it is written; it may hold the beginning.</param>
    /// <param name="cancel">Stops; what has come stays.</param>
    /// <returns>SHA-256 of what is there now.</returns>
    public async Task<string> FetchAsync(string target, string path, CancellationToken cancel)
    {
        long have = File.Exists(path) ? new FileInfo(path).Length : 0;
        using var answer = await SendAsync(HttpMethod.Get, target, null, FarmKey.NoBody, have > 0 ? have : null, cancel);
        if (answer.StatusCode != HttpStatusCode.PartialContent)
            File.Delete(path);
        await using var stream = await answer.Content.ReadAsStreamAsync(cancel);
        return await HashedCopy.WriteAsync(stream, path, long.MaxValue, cancel);
    }

    private async Task<HttpResponseMessage> SendAsync(HttpMethod method, string target, HttpContent? content, string hash, long? from, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(method, target) { Content = content };
        var time = DateTimeOffset.UtcNow.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture);
        request.Headers.Add(FarmKey.TimeHeader, time);
        request.Headers.Add(FarmKey.BodyHeader, hash);
        request.Headers.Add(FarmKey.SignatureHeader, _key.Sign(method.Method, target, time, hash));
        if (from is { } at)
            request.Headers.Range = new RangeHeaderValue(at, null);
        var answer = await _http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancel);
        if (answer.IsSuccessStatusCode)
            return answer;
        using (answer)
            throw answer.StatusCode switch
            {
                HttpStatusCode.Gone => new LoanOverException(),
                HttpStatusCode.PreconditionFailed => new UnknownWorkerException(),
                // All of it had come before.
                HttpStatusCode.RequestedRangeNotSatisfiable => new InvalidDataException(),
                >= HttpStatusCode.InternalServerError => new HttpRequestException($"The studio answers {(int)answer.StatusCode}."),
                _ => new MediaException(await SentenceAsync(answer, cancel)),
            };
    }

    private static async Task<string> SentenceAsync(HttpResponseMessage answer, CancellationToken cancel)
    {
        var text = await answer.Content.ReadAsStringAsync(cancel);
        try
        {
            using var json = JsonDocument.Parse(text);
            if (json.RootElement.TryGetProperty("error", out var error) && error.GetString() is { Length: > 0 } sentence)
                return sentence;
        }
        catch (JsonException)
        {
            // Something else answers there.
        }
        return $"There is no studio of this version at that address: it answers {(int)answer.StatusCode}.";
    }
}
