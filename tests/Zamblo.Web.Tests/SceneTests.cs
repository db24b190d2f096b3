using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>A server of its own with one production, one scene and one member.</summary>
public abstract class SceneTests : IAsyncLifetime
{
    private protected readonly string Data = Directory.CreateTempSubdirectory("zamblo-web-").FullName;
    private protected ServerProcess Server = null!;
    private protected string Production = "", Scene = "", Member = "";

    public async Task InitializeAsync()
    {
        Server = await ServerProcess.StartAsync(Data);
        (Production, Scene, Member) = await Server.NewProductionAsync();
    }

    public async Task DisposeAsync()
    {
        await Server.DisposeAsync();
        Directory.Delete(Data, true);
    }

    private protected async Task<JsonElement> StateAsync() => await Server.GetAsync("/api/scenes/" + Scene);
    private protected static JsonElement Line(JsonElement state, int i = 0) => state.GetProperty("lines")[i];
    private protected static string Id(JsonElement e) => e.GetProperty("id").GetString()!;
    private protected static long Revision(JsonElement state) => state.GetProperty("production").GetProperty("revision").GetInt64();
}
