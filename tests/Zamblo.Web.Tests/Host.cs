using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.Extensions.DependencyInjection;

namespace Zamblo.Web.Tests;

/// <summary>The real server within the test's own process: for everything but kills, restarts and environments. One for each class.</summary>
public sealed class Host : IAsyncLifetime
{
    private WebApplication _app = null!;

    /// <summary>Its folder.</summary>
    public string Data { get; } = Directory.CreateTempSubdirectory("zamblo-web-").FullName;

    /// <summary>Where it listens.</summary>
    public string Address => _app.Urls.First();

    internal Talk Talk { get; private set; } = null!;

    public IServiceProvider Services => _app.Services;

    public async Task InitializeAsync()
    {
        _app = await ZambloServer.StartAsync(new ServerOptions(Data, "http://127.0.0.1:0", false));
        Talk = await Talk.WithAsync(_app.Urls.First());
    }

    public async Task DisposeAsync()
    {
        Talk.Dispose();
        await _app.StopAsync();
        await _app.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(Data, true);
    }
}
