using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Storm;

namespace Zamblo.Web.Tests;

/// <summary>The real server within the test's own process: for everything but kills, restarts and environments.</summary>
public interface IHost
{
    /// <summary>Its folder.</summary>
    string Data { get; }

    internal Talk Talk { get; }

    IServiceProvider Services { get; }
}

/// <summary>A server of a class's own, where what is looked at is more than the test's production: folders, jobs, workers, everybody's characters.</summary>
public sealed class Host : IAsyncLifetime, IHost
{
    private WebApplication _app = null!;

    /// <summary>Its folder.</summary>
    public string Data { get; } = Directory.CreateTempSubdirectory("zamblo-web-").FullName;

    /// <summary>Where it listens.</summary>
    public string Address => _app.Urls.First();

    internal Talk Talk { get; private set; } = null!;

    Talk IHost.Talk => Talk;

    public IServiceProvider Services => _app.Services;

    public async Task InitializeAsync()
    {
        _app = await ZambloServer.StartAsync(new ServerOptions(Data, "http://127.0.0.1:0", false) { Database = await TestDatabases.OfAsync(Data) });
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

/// <summary>One server for all classes that look at nothing but their own production: a start costs more than most tests do.</summary>
public sealed class SharedHost : IAsyncLifetime, IHost
{
    private static readonly Lazy<Task<Host>> One = new(StartAsync);
    private Host _host = null!;

    public string Data => _host.Data;

    Talk IHost.Talk => _host.Talk;

    public IServiceProvider Services => _host.Services;

    public async Task InitializeAsync() => _host = await One.Value;

    public Task DisposeAsync() => Task.CompletedTask;

    private static async Task<Host> StartAsync()
    {
        var host = new Host();
        await host.InitializeAsync();
        // The process ends, and the server with it: only its folder is left.
        AppDomain.CurrentDomain.ProcessExit += (_, _) =>
        {
            try
            {
                Directory.Delete(host.Data, true);
            }
            catch (IOException)
            {
                // Something is written there this very moment.
            }
        };
        return host;
    }
}
