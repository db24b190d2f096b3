using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>A production of its own with one scene and one member, on the server of the class.</summary>
public abstract class SceneTests(Host host) : IClassFixture<Host>, IAsyncLifetime
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

    private protected static JsonElement Line(JsonElement state, int i = 0) => state.GetProperty("lines")[i];

    private protected static string Id(JsonElement e) => e.GetProperty("id").GetString()!;

    private protected static long Revision(JsonElement state) => state.GetProperty("production").GetProperty("revision").GetInt64();
}
