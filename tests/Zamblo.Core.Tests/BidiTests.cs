using System.Text.Json;
using Zamblo.Core.Lettering;

namespace Zamblo.Core.Tests;

/// <summary>
/// Texts of several directions against <c>tests/bidi/cases.json</c>: mixed rows with their levels and their order as bidi-js 1.1.0 (MIT, npm) has them, which
/// passes the conformance tests of the Unicode Standard by its own account.
/// </summary>
public class BidiTests
{
    private sealed record Case(string Text, byte Base, string Levels, string Order);

    private static Case[] Cases()
    {
        var folder = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(folder, "tests", "bidi")))
            folder = Path.GetDirectoryName(folder)!;
        return JsonSerializer.Deserialize<Case[]>(File.ReadAllText(Path.Combine(folder, "tests", "bidi", "cases.json")), JsonSerializerOptions.Web)!;
    }

    [Fact]
    public void Levels_and_order_are_those_of_the_reference()
    {
        var cases = Cases();
        Assert.True(cases.Length > 500 && cases.Count(c => c.Base == 1) > 150);
        foreach (var c in cases)
        {
            var (level, levels) = BidiText.Levels(c.Text);
            Assert.True(
                c.Base == level && c.Levels == string.Join(' ', levels),
                $"{JsonSerializer.Serialize(c.Text)}: {level} {string.Join(' ', levels)}, not {c.Base} {c.Levels}"
            );
            var order = BidiText
                .Runs(c.Text)
                .SelectMany(r => r.IsFromRight ? Enumerable.Range(r.Start, r.Length).Reverse() : Enumerable.Range(r.Start, r.Length));
            Assert.Equal(c.Order, string.Join(' ', order));
        }
    }

    [Fact]
    public void Nothing_is_lost_whatever_comes()
    {
        var random = new Random(3);
        for (var round = 0; round < 2000; round++)
        {
            var text = string.Concat(Enumerable.Range(0, random.Next(40)).Select(_ => (char)random.Next(0xFFFF)));
            var runs = BidiText.Runs(text);
            Assert.Equal(Enumerable.Range(0, text.Length), runs.SelectMany(r => Enumerable.Range(r.Start, r.Length)).Order());
        }
        Assert.Empty(BidiText.Runs(""));
    }
}
