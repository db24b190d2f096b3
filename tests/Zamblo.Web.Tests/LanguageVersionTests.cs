using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>A production in another language, line beside line.</summary>
public class LanguageVersionTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private const string German = "MARO\n(leise)\nDer Ofen ist heiß und die Straße ist ganz dunkel.\n\nMARO\nDas Brot ist es nicht.\n";

    private async Task<(string Production, string Scene)> VersionAsync(string? text = German, string language = "de")
    {
        var made = await Server.PostAsync($"/api/productions/{Production}/versions", new { language, text });
        var id = Id(made);
        await IdleAsync(id);
        return (id, await Server.FirstSceneAsync(id));
    }

    private Task<JsonElement> DubAsync(string scene, string? beside = null) =>
        Server.GetAsync($"/api/scenes/{scene}/dubbing{(beside == null ? "" : $"?beside={beside}")}");

    private static JsonElement[] Rows(JsonElement list) => [.. list.GetProperty("rows").EnumerateArray()];

    private static string Text(JsonElement row) => row.GetProperty("text").GetString()!;

    private async Task SpeakBothAsync()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.SpeakAsync(Production, Scene, Member, "And the bread is not.");
    }

    [Fact]
    public async Task A_version_has_its_own_voices_and_takes_and_the_same_acting_at_the_same_part_of_its_lines()
    {
        await SpeakBothAsync();
        var state = await StateAsync();
        var line = Line(state);
        double start = line.GetProperty("start").GetDouble(),
            length = line.GetProperty("duration").GetDouble();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = line.GetProperty("member").GetString(),
                kind = "Gesture",
                name = "nod",
                start = start + (length / 2),
            }
        );
        var (id, scene) = await VersionAsync();
        var version = await Server.GetAsync($"/api/scenes/{scene}");
        Assert.Equal("de", version.GetProperty("members")[0].GetProperty("voice").GetString()!.Split(':')[1].Split('+')[0]);
        Assert.Equal("(leise) Der Ofen ist heiß und die Straße ist ganz dunkel.", Line(version).GetProperty("text").GetString());
        Assert.Contains(Line(version).GetProperty("words").EnumerateArray(), w => w[0].GetString()!.Contains("Ofen", StringComparison.Ordinal));
        // The nod is in the middle of the line that it was in the middle of.
        var nod = version.GetProperty("clips").EnumerateArray().First(c => c.GetProperty("name").GetString() == "nod");
        double there = Line(version).GetProperty("start").GetDouble(),
            takes = Line(version).GetProperty("duration").GetDouble(),
            place = (nod.GetProperty("start").GetDouble() + nod.GetProperty("end").GetDouble()) / 2;
        var before = (await StateAsync()).GetProperty("clips").EnumerateArray().First(c => c.GetProperty("name").GetString() == "nod");
        var was = ((before.GetProperty("start").GetDouble() + before.GetProperty("end").GetDouble()) / 2 - start) / length;
        Assert.InRange((place - there) / takes, was - 0.2, was + 0.2);
        // The original is what it was, and both know each other.
        Assert.Equal("The oven is hot.", Line(await StateAsync()).GetProperty("text").GetString());
        var rows = Rows(await DubAsync(scene));
        Assert.Equal(["The oven is hot.", "And the bread is not."], rows.Select(r => Text(r.GetProperty("beside"))));
        Assert.All(rows, r => Assert.False(r.GetProperty("isLeft").GetBoolean()));
        var cards = (await Server.GetAsync($"/api/productions/{Production}/versions")).EnumerateArray().ToArray();
        Assert.Equal([Production, id], cards.Select(Id));
        Assert.Equal([true, false], cards.Select(c => c.GetProperty("isOriginal").GetBoolean()));
        Assert.Equal("de", cards[1].GetProperty("language").GetString());
        Assert.Equal(
            ["(leise) Der Ofen ist heiß und die Straße ist ganz dunkel.", "Das Brot ist es nicht."],
            Rows(await DubAsync(Scene)).Select(r => Text(r.GetProperty("beside")))
        );
    }

    [Fact]
    public async Task Lines_are_made_as_long_as_in_the_other_language_as_far_as_a_voice_bears_it()
    {
        await SpeakBothAsync();
        var (_, scene) = await VersionAsync();
        static double Off(JsonElement r) => r.GetProperty("length").GetDouble() / r.GetProperty("beside").GetProperty("length").GetDouble();
        var before = Rows(await DubAsync(scene));
        // The first is much longer, the second hardly.
        Assert.True(Off(before[0]) > 1.4, $"{Off(before[0])}");
        var beside = (await DubAsync(scene)).GetProperty("beside").GetString();
        var fitted = await Server.PostAsync(
            $"/api/scenes/{scene}/fit",
            new { revision = (await Server.GetAsync($"/api/scenes/{scene}")).GetProperty("production").GetProperty("revision").GetInt64(), beside }
        );
        var after = Rows(await DubAsync(scene));
        Assert.Equal(1.25, after[0].GetProperty("speed").GetDouble(), 3);
        Assert.Equal(Off(before[0]) / 1.25, Off(after[0]), 2);
        Assert.InRange(Off(after[1]), 0.97, 1.03);
        Assert.Contains("Maro", Assert.Single(fitted.GetProperty("problems").EnumerateArray()).GetString(), StringComparison.Ordinal);
        // A second time there is nothing to do.
        var again = await Server.PostAsync($"/api/scenes/{scene}/fit", new { beside });
        Assert.Equal(0, again.GetProperty("count").GetInt32());
        await Server.PostAsync($"/api/scenes/{scene}/fit", new { beside = Guid.NewGuid() });
    }

    [Fact]
    public async Task Captions_are_spoken_and_what_has_none_stays_as_it_is_until_somebody_writes_it()
    {
        await SpeakBothAsync();
        var first = Id(Line(await StateAsync()));
        await Server.SendAsync(HttpMethod.Put, $"/api/lines/{first}/caption", new { language = "fr", text = "Le four\nest chaud." }, 200);
        await Server.SendAsync(HttpMethod.Put, $"/api/lines/{first}/caption", new { language = "", text = "It is hot." }, 200);
        Assert.Equal(["fr"], (await DubAsync(Scene)).GetProperty("captioned").EnumerateArray().Select(t => t.GetString()));
        var (id, scene) = await VersionAsync(null, "fr");
        var rows = Rows(await DubAsync(scene));
        Assert.Equal(["Le four est chaud.", "And the bread is not."], rows.Select(Text));
        Assert.Equal([false, true], rows.Select(r => r.GetProperty("isLeft").GetBoolean()));
        // What captions had in place of the English words is English.
        var captions = (await Server.GetAsync($"/api/scenes/{scene}/caption-list?language=en")).GetProperty("rows")[0].GetProperty("text").GetString();
        Assert.Equal("It is hot.", captions);
        Assert.Equal(JsonValueKind.Null, (await Server.GetAsync($"/api/scenes/{scene}/caption-list")).GetProperty("rows")[0].GetProperty("text").ValueKind);
        await Server.PatchAsync($"/api/lines/{rows[1].GetProperty("line").GetString()}", new { text = "Et le pain ne l'est pas." });
        await IdleAsync(id);
        Assert.All(Rows(await DubAsync(scene)), r => Assert.False(r.GetProperty("isLeft").GetBoolean()));
        Assert.Equal([], (await DubAsync(Scene)).GetProperty("captioned").EnumerateArray().Select(t => t.GetString()));
    }

    [Fact]
    public async Task What_cannot_be_made_is_refused_with_a_sentence_and_versions_of_versions_are_of_the_original()
    {
        await SpeakBothAsync();
        var address = $"/api/productions/{Production}/versions";
        Assert.Contains("tag", await Server.ErrorAsync(address, new { language = "" }), StringComparison.Ordinal);
        Assert.Contains("Nothing is written", await Server.ErrorAsync(address, new { language = "de" }), StringComparison.Ordinal);
        Assert.Contains("1 speeches", await Server.ErrorAsync(address, new { language = "de", text = "MARO\nHallo.\n" }), StringComparison.Ordinal);
        await Server.PostAsync(address, new { language = "../x", text = German }, 400);
        await Server.PostAsync($"/api/productions/{Guid.NewGuid()}/versions", new { language = "de", text = German }, 404);
        var (german, _) = await VersionAsync();
        Assert.Contains("already", await Server.ErrorAsync(address, new { language = "de", text = German }), StringComparison.Ordinal);
        var french = Id(
            await Server.PostAsync($"/api/productions/{german}/versions", new { language = "fr", text = "MARO\nLe four est chaud.\n\nMARO\nPas le pain.\n" })
        );
        await IdleAsync(french);
        var scene = await Server.FirstSceneAsync(french);
        Assert.Equal(3, (await Server.GetAsync($"/api/productions/{french}/versions")).GetArrayLength());
        Assert.Equal("The oven is hot.", Text(Rows(await DubAsync(scene))[0].GetProperty("beside")));
        Assert.StartsWith("(leise) Der Ofen", Text(Rows(await DubAsync(scene, german))[0].GetProperty("beside")), StringComparison.Ordinal);
        // The original goes into the bin: the versions go on beside each other.
        await Server.DeleteAsync($"/api/productions/{Production}");
        Assert.Equal(2, (await Server.GetAsync($"/api/productions/{french}/versions")).GetArrayLength());
        Assert.StartsWith("(leise) Der Ofen", Text(Rows(await DubAsync(scene))[0].GetProperty("beside")), StringComparison.Ordinal);
    }
}
