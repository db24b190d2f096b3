using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Media;

namespace Zamblo.Web.Tests;

/// <summary>A recording in another language than its voice's: noticed, told, and heard by what it is.</summary>
public sealed class LineLanguageTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private static bool IsForeign(JsonElement line) => line.GetProperty("isForeign").GetBoolean();

    private static int Words(JsonElement line) => line.GetProperty("words") is { ValueKind: JsonValueKind.Array } w ? w.GetArrayLength() : 0;

    private async Task<JsonElement> BringAsync(string voice, string said, string text = "")
    {
        var spoken = await Espeak.SpeakAsync(voice, said, new Delivery());
        using var wav = new MemoryStream();
        WavFile.Write(wav, [spoken.Audio.Samples], spoken.Audio.SampleRate);
        var hash = (await Server.PostAsync("/api/uploads?name=voice.wav", wav.ToArray())).GetProperty("hash").GetString();
        var asked = new
        {
            member = Member,
            kind = "file",
            hash,
            name = "voice.wav",
            text,
        };
        await Server.WaitAsync(Production, (await Server.PostAsync($"/api/scenes/{Scene}/lines", asked)).GetProperty("job").GetString()!);
        return Line(await StateAsync());
    }

    private async Task<JsonElement> TellAsync(JsonElement line, string language)
    {
        await Server.PatchAsync($"/api/lines/{Id(line)}", new { revision = Revision(await StateAsync()), language });
        await IdleAsync();
        return Line(await StateAsync());
    }

    [Fact]
    public async Task Speech_that_is_not_english_is_not_written_down_as_english_and_is_heard_anew_when_somebody_says_what_it_is()
    {
        const string said =
            "Der Ofen ist heiß, und das Brot ist noch nicht fertig. Stell die Brötchen ins Regal, bevor es regnet, und vergiss den Schlüssel nicht.";
        var line = await BringAsync("espeak:de", said);
        Assert.True(IsForeign(line));
        Assert.Equal(0, Words(line));
        var untold = line.GetProperty("phones").GetRawText();
        line = await TellAsync(line, "de");
        Assert.False(IsForeign(line));
        Assert.Equal("de", line.GetProperty("language").GetString());
        Assert.NotEqual(untold, line.GetProperty("phones").GetRawText());
        // With its words they are found where they are, said as that language says them.
        await Server.PatchAsync($"/api/lines/{Id(line)}", new { revision = Revision(await StateAsync()), text = said });
        await IdleAsync();
        line = Line(await HeardAsync());
        Assert.Equal(said.Split(' ').Length, Words(line));
        Assert.All(line.GetProperty("words").EnumerateArray(), w => Assert.True(w[3].GetDouble() > 0.3, w.GetRawText()));
        // Both can be taken back.
        for (var i = 0; i < 2; i++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { revision = Revision(await StateAsync()) });
        line = Line(await StateAsync());
        Assert.Equal(("", untold), (line.GetProperty("language").GetString(), line.GetProperty("phones").GetRawText()));
        // Whoever says that it is English is believed.
        line = await TellAsync(line, "en");
        Assert.False(IsForeign(line));
        Assert.True(Words(line) > 3);
        await Server.SendAsync(HttpMethod.Patch, $"/api/lines/{Id(line)}", new { revision = Revision(await StateAsync()), language = "no language" }, 400);
    }

    [Fact]
    public async Task English_is_not_asked_about()
    {
        var line = await BringAsync("espeak:en-gb-scotland", "The oven is hot, and the bread is not ready yet, so put the rolls on the shelf.");
        Assert.False(IsForeign(line));
        Assert.True(Words(line) > 10);
    }

    [Fact]
    public async Task Halves_of_a_line_are_in_its_language_and_a_version_keeps_it_where_nothing_is_translated()
    {
        var line = await BringAsync(
            "espeak:de",
            "Der Ofen ist heiß, und das Brot ist noch nicht fertig.",
            "Der Ofen ist heiß, und das Brot ist noch nicht fertig."
        );
        line = await TellAsync(line, "de");
        await Server.SpeakAsync(Production, Scene, Member, "And the rolls?");
        await Server.PostAsync($"/api/lines/{Id(line)}/split", new { revision = Revision(await StateAsync()), at = Number(line, "start") + 1.2 });
        await IdleAsync();
        var state = await StateAsync();
        Assert.Equal(["de", "de", ""], state.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("language").GetString()!));
        // Who says them speaks Spanish in the version: only what is translated is Spanish.
        await Server.SendAsync(HttpMethod.Put, $"/api/lines/{Id(Line(state, 2))}/caption", new { language = "es", text = "¿Y los panecillos?" }, 200);
        await Server.SendAsync(HttpMethod.Put, $"/api/lines/{Id(Line(state, 1))}/caption", new { language = "es", text = "El pan no está listo." }, 200);
        // What is told of one part of a recording holds for the others.
        await Server.PatchAsync($"/api/lines/{Id(Line(state))}", new { revision = Revision(await StateAsync()), language = "" });
        Assert.Equal(["", "", ""], (await StateAsync()).GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("language").GetString()!));
        var made = await Server.PostAsync($"/api/productions/{Production}/versions", new { language = "es" });
        await IdleAsync(Id(made));
        var version = await Server.GetAsync($"/api/scenes/{await Server.FirstSceneAsync(Id(made))}");
        Assert.Equal(["en-gb", "", ""], version.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("language").GetString()!));
        // Once it has other words, those are Spanish, too.
        await Server.PatchAsync($"/api/lines/{Id(Line(version))}", new { text = "El horno está caliente." });
        await IdleAsync(Id(made));
        Assert.Equal("", Line(await Server.GetAsync($"/api/scenes/{await Server.FirstSceneAsync(Id(made))}")).GetProperty("language").GetString());
    }

    [Fact]
    public async Task Between_parts_that_are_not_english_an_edge_is_moved_without_words()
    {
        const string first = "Der Ofen ist heiß, und das Brot ist noch nicht fertig, denn der Bäcker schläft, und niemand hat den Wecker gehört.",
            second = "Stell die Brötchen ins Regal, bevor es regnet, und vergiss den Schlüssel nicht, sonst bleibt die Tür zu.";
        var line = await BringAsync("espeak:de", $"{first} {second}");
        var start = Number(line, "start");
        await Server.PostAsync($"/api/lines/{Id(line)}/split", new { revision = Revision(await StateAsync()), at = start + Number(line, "duration") / 2 });
        await IdleAsync();
        var state = await StateAsync();
        Assert.All(state.GetProperty("lines").EnumerateArray(), l => Assert.True(IsForeign(l)));
        var end = start + Number(Line(state), "duration");
        await Server.PatchAsync(
            $"/api/lines/{Id(line)}/edge",
            new
            {
                revision = Revision(state),
                edge = "end",
                at = end - 0.4,
            }
        );
        await IdleAsync();
        state = await StateAsync();
        Assert.Equal(end - 0.4, start + Number(Line(state), "duration"), 0.05);
        Assert.All(state.GetProperty("lines").EnumerateArray(), l => Assert.Equal("", l.GetProperty("text").GetString()));
    }
}
