using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>A production of its own with one scene and one member, on the server of the class.</summary>
public abstract class SceneTests(IHost host) : IAsyncLifetime
{
    private protected string Data => host.Data;
    private protected Talk Server => host.Talk;
    private protected IServiceProvider Services => host.Services;
    private protected string Production = "",
        Scene = "",
        Member = "";

    public async Task InitializeAsync() => (Production, Scene, Member) = await Server.NewProductionAsync();

    public Task DisposeAsync() => Task.CompletedTask;

    private protected async Task<JsonElement> StateAsync() => await Server.GetAsync("/api/scenes/" + Scene);

    // The state once every line has words.
    private protected async Task<JsonElement> HeardAsync()
    {
        for (var i = 0; i < 300; i++)
        {
            var state = await StateAsync();
            if (
                state
                    .GetProperty("lines")
                    .EnumerateArray()
                    .All(l => l.TryGetProperty("words", out var w) && w.ValueKind == JsonValueKind.Array && w.GetArrayLength() > 0)
            )
                return state;
            await Task.Delay(100);
        }
        throw new TimeoutException("Not all lines were heard.");
    }

    // Waits until all work of a production has ended.
    private protected async Task IdleAsync(string? production = null)
    {
        foreach (var job in (await Server.GetAsync($"/api/productions/{production ?? Production}/jobs")).EnumerateArray().ToArray())
            await Server.WaitAsync(production ?? Production, Id(job));
    }

    private protected static JsonElement Line(JsonElement state, int i = 0) => state.GetProperty("lines")[i];

    private protected static JsonElement[] Clips(JsonElement state) => [.. state.GetProperty("clips").EnumerateArray()];

    private protected static double Number(JsonElement e, string name) => e.GetProperty(name).GetDouble();

    // A file of the tests' pictures, which the tests of Zamblo.Media paint.
    private protected static byte[] Picture(string name)
    {
        var folder = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(folder, "tests", "pictures")))
            folder = Path.GetDirectoryName(folder)!;
        return File.ReadAllBytes(Path.Combine(folder, "tests", "pictures", name));
    }

    private protected static string Text(JsonElement e, string name) => e.GetProperty(name).GetString()!;

    private protected static string Id(JsonElement e) => e.GetProperty("id").GetString()!;

    private protected static long Revision(JsonElement state) => state.GetProperty("production").GetProperty("revision").GetInt64();
}
