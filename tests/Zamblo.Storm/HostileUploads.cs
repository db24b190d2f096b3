namespace Zamblo.Storm;

/// <summary>Brings hostile files in, as a page would.</summary>
public static class HostileUploads
{
    private static readonly TimeSpan Late = TimeSpan.FromSeconds(30);

    /// <summary>Sends so many; gives those that were answered with anything but a sentence of refusal, or with what a sound is.</summary>
    public static async Task<IReadOnlyList<FuzzFault>> SendAsync(Talk talk, int seed, int count)
    {
        var faults = new List<FuzzFault>();
        foreach (var (name, bytes) in HostileFiles.Make(seed).Take(count))
        {
            var request =
                $"{bytes.Length} bytes as \"{(name.Length > 40 ? name[..40] : name)}\", beginning "
                + $"{Convert.ToHexString(bytes.AsSpan(0, Math.Min(48, bytes.Length)))}";
            try
            {
                using var limit = new CancellationTokenSource(Late);
                using var response = await talk.Client.PostAsync($"/api/uploads?name={Uri.EscapeDataString(name)}", new ByteArrayContent(bytes), limit.Token);
                var text = await response.Content.ReadAsStringAsync(limit.Token);
                if ((int)response.StatusCode >= 500 || !response.IsSuccessStatusCode && !text.Contains("\"error\":\"", StringComparison.Ordinal))
                    faults.Add(new FuzzFault(request, $"{(int)response.StatusCode} {text}"));
            }
            catch (OperationCanceledException)
            {
                faults.Add(new FuzzFault(request, $"no answer in {Late.TotalSeconds} s"));
            }
        }
        return faults;
    }
}
