using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Studio.Assets;

namespace Zamblo.Web.Tests;

/// <summary>Neural voices over HTTP. The model is made by the tests of Zamblo.Media.</summary>
public class VoiceWebTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    internal static string PathOf(string name)
    {
        var folder = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(folder, "tests", "voices")))
            folder = Path.GetDirectoryName(folder)!;
        return Path.Combine(folder, "tests", "voices", name);
    }

    private async Task<string> TicketAsync(object voice) => (await Server.PostAsync("/api/voices", voice)).GetProperty("ticket").GetString()!;

    private async Task<JsonElement[]> VoicesAsync(string part) =>
        [.. (await Server.GetAsync("/api/voices")).EnumerateArray().Where(v => v.GetProperty("key").GetString()!.Contains(part))];

    [Fact]
    public async Task A_voice_comes_speaks_a_line_and_goes()
    {
        var model = await File.ReadAllBytesAsync(PathOf("night_owl.onnx"));
        var description = await File.ReadAllTextAsync(PathOf("night_owl.onnx.json"));
        var owl = new
        {
            name = "Barn owl",
            description,
            licence = "CC0, made by hand",
        };
        var (first, second) = (await TicketAsync(owl), await TicketAsync(owl));
        await Server.PostAsync("/api/voices/models?ticket=" + first, model);
        var voices = await VoicesAsync("Barn-owl");
        Assert.Equal(["neural:en-us:Barn-owl:low", "neural:en-us:Barn-owl:high"], voices.Select(v => v.GetProperty("key").GetString()));
        Assert.All(voices, v => Assert.Equal("CC0, made by hand", v.GetProperty("licence").GetString()));
        // The same name again is refused, and nothing of it stays.
        foreach (var (url, body) in new (string, object)[] { ("/api/voices", owl), ("/api/voices/models?ticket=" + second, model) })
            Assert.Contains("already", (await Server.PostAsync(url, body, expect: 400)).GetProperty("error").GetString());
        var data = Services.GetRequiredService<DataFolder>();
        Assert.Empty(Directory.GetFiles(data.Temporary, "voice-*"));
        // It speaks a line.
        await Server.PatchAsync($"/api/members/{Member}", new { revision = Revision(await StateAsync()), voice = "neural:en-us:Barn-owl:high" });
        var line = Line(await Server.SpeakAsync(Production, Scene, Member, "Mama, papa."));
        Assert.Equal("neural:en-us:Barn-owl:high", line.GetProperty("takes")[0].GetProperty("name").GetString());
        Assert.True(line.GetProperty("duration").GetDouble() > 0);
        var own = await Server.GetAsync("/api/voices/own");
        Assert.Equal(2, own.GetProperty("keys").GetArrayLength());
        await Server.DeleteAsync("/api/voices?key=neural:en-us:Barn-owl:low");
        Assert.Empty(await VoicesAsync("Barn-owl"));
        Assert.Empty(Directory.GetFiles(data.Voices));
        await Server.SendAsync(HttpMethod.Delete, "/api/voices?key=neural:en-us:Barn-owl:low", expect: 404);
        // What it has said stays, and what it is to say now is refused with a sentence.
        Assert.True(Line(await StateAsync()).GetProperty("duration").GetDouble() > 0);
        var gone = await Server.ErrorAsync(
            $"/api/lines/{line.GetProperty("id").GetString()}/takes",
            new
            {
                kind = "synthesis",
                text = "Papa",
                voice = "neural:en-us:Barn-owl:high",
            }
        );
        Assert.Contains("bring its files again", gone);
    }

    [Fact]
    public async Task What_does_not_speak_is_refused_and_nothing_is_kept()
    {
        var data = Services.GetRequiredService<DataFolder>();
        async Task Refused(object body, string part, string url = "/api/voices")
        {
            var answer = await Server.PostAsync(url, body, expect: 400);
            Assert.Contains(part, answer.GetProperty("error").GetString());
        }
        var description = await File.ReadAllTextAsync(PathOf("night_owl.onnx.json"));
        await Refused(new { name = "x" }, "x.onnx.json");
        await Refused(new { name = "!!", description }, "with letters");
        await Refused(new { name = "x", description = "{}" }, "sample rate");
        await Refused("a model"u8.ToArray(), "description first", "/api/voices/models?ticket=../../zamblo");
        await Refused("no model"u8.ToArray(), "", "/api/voices/models?ticket=" + await TicketAsync(new { name = "x", description }));
        Assert.Empty(Directory.GetFiles(data.Voices));
        Assert.Empty(Directory.GetFiles(data.Temporary, "voice-*"));
    }
}
