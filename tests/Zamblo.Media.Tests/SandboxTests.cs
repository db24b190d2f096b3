using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Zamblo.Media.Tests;

/// <summary>What an outside program gets to see. Where the system allows no walls, that is said and nothing else is claimed.</summary>
public class SandboxTests : InFolder
{
    private static async Task<(int Code, string Output)> ShellAsync(string script, SandboxFiles? files)
    {
        var result = await OutsideProgram.RunAsync("bash", ["-c", script], files: files);
        return (result.ExitCode, Encoding.UTF8.GetString(result.Output));
    }

    [Fact]
    public async Task Only_the_files_that_are_named_are_there()
    {
        if (NoWalls())
            return;
        await File.WriteAllTextAsync(PathOf("given.txt"), "flour");
        await File.WriteAllTextAsync(PathOf("other.txt"), "secret");
        Assert.Equal((0, "flour"), await ShellAsync($"cat '{PathOf("given.txt")}'", SandboxFiles.Reading(PathOf("given.txt"))));
        Assert.NotEqual(0, (await ShellAsync($"cat '{PathOf("other.txt")}'", SandboxFiles.Reading(PathOf("given.txt")))).Code);
        Assert.NotEqual(0, (await ShellAsync("cat /etc/passwd", SandboxFiles.None)).Code);
        Assert.NotEqual(0, (await ShellAsync($"echo x > '{PathOf("given.txt")}'", SandboxFiles.Reading(PathOf("given.txt")))).Code);
        var inside = Directory.CreateDirectory(PathOf("out")).FullName;
        Assert.Equal(0, (await ShellAsync($"echo bread > '{inside}/a'", SandboxFiles.Writing(inside))).Code);
        Assert.Equal("bread\n", await File.ReadAllTextAsync(Path.Combine(inside, "a")));
        Assert.Equal("flour", await File.ReadAllTextAsync(PathOf("given.txt")));
    }

    [Fact]
    public async Task There_is_no_network_and_nothing_of_the_servers_environment()
    {
        if (NoWalls())
            return;
        using var door = new TcpListener(IPAddress.Loopback, 0);
        door.Start();
        var call = $"exec 3<>/dev/tcp/127.0.0.1/{((IPEndPoint)door.LocalEndpoint).Port}";
        Assert.Equal(0, (await ShellAsync(call, null)).Code);
        Assert.NotEqual(0, (await ShellAsync(call, SandboxFiles.None)).Code);
        Environment.SetEnvironmentVariable("ZAMBLO_TEST_SECRET", "yeast");
        Assert.DoesNotContain("yeast", (await ShellAsync("env", SandboxFiles.None)).Output);
    }

    [Fact]
    public async Task More_memory_than_any_program_needs_is_not_given()
    {
        // dd takes its block from memory at once.
        Assert.Equal(0, (await ShellAsync("dd if=/dev/zero of=/dev/null bs=64M count=1", SandboxFiles.None)).Code);
        var (code, output) = await ShellAsync("dd if=/dev/zero of=/dev/null bs=7G count=1 2>&1", SandboxFiles.None);
        Assert.NotEqual(0, code);
        Assert.Contains("memory exhausted", output, StringComparison.Ordinal);
    }

    private static bool NoWalls()
    {
        if (Sandbox.IsUsable)
            return false;
        // Then a program runs in the open, and ends with its parent.
        Assert.Equal("setpriv", Sandbox.Wrap("/usr/bin/true", [], SandboxFiles.None).Program);
        return true;
    }
}
