namespace Zamblo.Media.Tests;

/// <summary>The command "worker", as far as it goes without a studio.</summary>
public class WorkerCommandTests : InFolder
{
    private Task<(int Code, string Output, string Error)> RunAsync(params string[] arguments) =>
        CommandTests.RunAsync(["worker", "--data", PathOf("worker"), .. arguments]);

    [Fact]
    public async Task It_says_what_is_missing()
    {
        var key = PathOf("worker-key");
        await File.WriteAllTextAsync(key, new string('b', 64));
        await File.WriteAllTextAsync(PathOf("flour"), "flour");
        foreach (
            var (arguments, expected) in new (string[], string)[]
            {
                (["--key", PathOf("none")], "copy \"worker-key\""),
                (["--key", PathOf("flour")], "holds no key"),
                (["--key", key, "--studio", "bakery"], "no address of a studio"),
                (["--key", key, "--cores", "0"], "1 to 1024"),
            }
        )
        {
            var (code, output, error) = await RunAsync(arguments);
            Assert.Equal((2, ""), (code, output));
            Assert.Contains(expected, error, StringComparison.Ordinal);
        }
    }
}
