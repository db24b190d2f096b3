using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Captions in other words and other languages, over HTTP.</summary>
public class CaptionTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private Task<JsonElement> ListAsync(string language = "") => Server.GetAsync($"/api/scenes/{Scene}/caption-list?language={language}");

    private Task<JsonElement> WriteAsync(string line, string text, string language = "", int expect = 200) =>
        Server.SendAsync(HttpMethod.Put, $"/api/lines/{line}/caption", new { language, text }, expect);

    private Task<string> FileAsync(string format, string query = "") => Server.Client.GetStringAsync($"/api/scenes/{Scene}/captions?format={format}{query}");

    private static string[] Texts(JsonElement list) =>
        [
            .. list.GetProperty("rows")
                .EnumerateArray()
                .SelectMany(r => r.GetProperty("captions").EnumerateArray())
                .Select(c => c.GetProperty("text").GetString()!),
        ];

    [Fact]
    public async Task A_caption_is_written_shown_cut_with_its_line_joined_and_taken_back()
    {
        var line = Id(Line(await Server.SpeakAsync(Production, Scene, Member, "Well, you know, the oven is hot.")));
        Assert.Equal(["Well, you know, the oven is hot."], Texts(await ListAsync()));
        await WriteAsync(line, "  The oven \n is hot. ");
        Assert.Equal(["The oven", "is hot."], Texts(await ListAsync()));
        Assert.Contains("The oven\n", await FileAsync("vtt"), StringComparison.Ordinal);
        // As long as it is said, and not before.
        var captions = (await ListAsync()).GetProperty("rows")[0].GetProperty("captions");
        var words = (await StateAsync()).GetProperty("lines")[0].GetProperty("words").EnumerateArray().ToArray();
        var start = Line(await StateAsync()).GetProperty("start").GetDouble();
        double Said(string word) => start + words.First(w => w[0].GetString()!.Contains(word, StringComparison.Ordinal))[1].GetDouble();
        Assert.Equal(Said("the"), captions[0].GetProperty("start").GetDouble(), 2);
        Assert.Equal(Said("is"), captions[1].GetProperty("start").GetDouble(), 2);
        // Split and joined it is what it was; undone as well.
        await Server.PostAsync($"/api/lines/{line}/split", new { at = Said("hot") });
        Assert.Equal(["The oven", "is", "hot."], Texts(await ListAsync()));
        await Server.PostAsync($"/api/lines/{line}/join", new { });
        Assert.Equal(["The oven", "is hot."], Texts(await ListAsync()));
        await WriteAsync(line, "");
        Assert.Equal(["Well, you know, the oven is hot."], Texts(await ListAsync()));
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal(["The oven", "is hot."], Texts(await ListAsync()));
        // A copy has them, too.
        var copy = (await Server.PostAsync($"/api/productions/{Production}/duplicate", new { })).GetProperty("id").GetString()!;
        var scene = await Server.FirstSceneAsync(copy);
        Assert.Equal(["The oven", "is hot."], Texts(await Server.GetAsync($"/api/scenes/{scene}/caption-list")));
    }

    [Fact]
    public async Task A_translated_script_becomes_captions_of_the_lines_one_by_one()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.SpeakAsync(Production, Scene, Member, "And the bread is not.");
        const string script = "MARO\n(leise)\nDer Ofen ist heiß.\n\nMARO\nUnd das Brot ist es nicht.\n";
        Task<JsonElement> BringAsync(string text, string language, int expect = 200) =>
            Server.PostAsync($"/api/productions/{Production}/captions", new { language, text }, expect);
        await BringAsync("MARO\nDer Ofen ist heiß.\n", "de", 400);
        await BringAsync(script, "", 400);
        await BringAsync(script, "../de", 400);
        await BringAsync(script, "de");
        var list = await ListAsync("de");
        Assert.Equal(["Der Ofen ist heiß.", "Und das Brot ist es nicht."], Texts(list));
        Assert.Equal("de", list.GetProperty("languages")[0].GetString());
        // What is spoken stays what it is, until the other language is in the picture.
        Assert.Contains("The oven is hot.", await FileAsync("srt"), StringComparison.Ordinal);
        Assert.Contains("Der Ofen ist heiß.", await FileAsync("srt", "&language=de"), StringComparison.Ordinal);
        var revision = Revision(await StateAsync());
        await Server.PatchAsync($"/api/productions/{Production}", new { revision, lettering = new { hasCaptions = true, language = "de" } });
        Assert.Contains("Und das Brot", await FileAsync("vtt"), StringComparison.Ordinal);
        await Server.SendAsync(
            HttpMethod.Patch,
            $"/api/productions/{Production}",
            new { revision = Revision(await StateAsync()), lettering = new { language = "no language" } },
            400
        );
        // A line without words in it has those that are said.
        await WriteAsync(Id(Line(await StateAsync(), 1)), "", "de");
        Assert.Equal(["Der Ofen ist heiß.", "And the bread is not."], Texts(await ListAsync("de")));
        await Server.PostAsync($"/api/productions/{Production}/captions/removal", new { language = "de" });
        Assert.Equal(["The oven is hot.", "And the bread is not."], Texts(await ListAsync("de")));
        Assert.Equal(400, (int)(await Server.Client.GetAsync($"/api/scenes/{Scene}/captions?format=vtt&language=%22x")).StatusCode);
    }
}
