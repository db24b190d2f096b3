using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>Another version of a script over lines that have been worked on.</summary>
public class RevisionTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private const string Play =
        "INT. BAKERY - NIGHT\n\nMARO\nThe oven is hot and the street is dark.\n\nTOCK\nI heard steps on the roof.\n\nMARO\nThen bolt the door.\n\n"
        + "EXT. STREET - NIGHT\n\nTOCK\nIt rains on the lamps.\n\nMARO\nCome back in.\n";

    private async Task BringAsync()
    {
        await Server.PostAsync($"/api/scenes/{Scene}/script", new { revision = Revision(await StateAsync()), text = Play });
        await IdleAsync();
    }

    private Task<JsonElement> CompareAsync(string text) => Server.PostAsync($"/api/scenes/{Scene}/script/compare", new { text });

    private async Task<JsonElement> ChangeAsync(string text, string[]? left = null, int[]? unwanted = null)
    {
        var done = await Server.PostAsync(
            $"/api/scenes/{Scene}/script/changed",
            new
            {
                revision = Revision(await StateAsync()),
                text,
                left,
                unwanted,
            }
        );
        await IdleAsync();
        return done;
    }

    private async Task<(string Scene, JsonElement[] Lines)[]> AllAsync()
    {
        var all = new List<(string, JsonElement[])>();
        foreach (var s in (await StateAsync()).GetProperty("scenes").EnumerateArray())
        {
            var state = await Server.GetAsync($"/api/scenes/{s.GetProperty("id").GetString()}");
            all.Add((s.GetProperty("id").GetString()!, [.. state.GetProperty("lines").EnumerateArray()]));
        }
        return [.. all];
    }

    private static string Text(JsonElement line) => line.GetProperty("text").GetString()!;

    [Fact]
    public async Task The_script_of_the_production_changes_nothing_and_a_look_changes_nothing_either()
    {
        await BringAsync();
        var own = await Server.Client.GetStringAsync($"/api/productions/{Production}/script");
        var found = await CompareAsync(own);
        Assert.All(found.GetProperty("rows").EnumerateArray(), r => Assert.True(r.GetProperty("isSame").GetBoolean(), r.ToString()));
        var revision = Revision(await StateAsync());
        await CompareAsync("MARO\nSomething else.\n");
        Assert.Equal(revision, Revision(await StateAsync()));
        await Server.PostAsync($"/api/scenes/{Scene}/script/compare", new { text = "" }, 400);
    }

    [Fact]
    public async Task Lines_keep_what_hangs_on_them_when_words_roles_and_places_change()
    {
        await BringAsync();
        var before = await AllAsync();
        var (oven, steps, bolt) = (Id(before[0].Lines[0]), Id(before[0].Lines[1]), Id(before[0].Lines[2]));
        var state = await StateAsync();
        var maro = Line(state).GetProperty("member").GetString();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                revision = Revision(state),
                member = maro,
                kind = "Gesture",
                name = "nod",
                start = Line(state).GetProperty("start").GetDouble() + 0.4,
            }
        );
        var changed = Play.Replace("oven is hot", "oven is cold").Replace("MARO\nThen bolt", "TOCK\nThen bolt").Replace("MARO\nCome back in.\n", "");
        changed = changed.Replace("TOCK\nIt rains", "MARO\nWho is there?\n\nTOCK\nIt rains");
        var rows = (await CompareAsync(changed)).GetProperty("rows").EnumerateArray().ToArray();
        Assert.Equal(
            ["written", "same", "given", "new", "same", "gone"],
            rows.Select(r =>
                r.GetProperty("line").ValueKind == JsonValueKind.Null ? "new"
                : r.GetProperty("part").ValueKind == JsonValueKind.Null ? "gone"
                : r.GetProperty("oldRole").ValueKind != JsonValueKind.Null ? "given"
                : r.GetProperty("isWritten").GetBoolean() ? "written"
                : "same"
            )
        );
        var done = await ChangeAsync(changed);
        Assert.Equal(1, done.GetProperty("lines").GetInt32());
        Assert.Equal(3, done.GetProperty("count").GetInt32());
        var after = await AllAsync();
        Assert.Equal(2, after.Length);
        Assert.Equal([oven, steps, bolt], after[0].Lines.Select(Id));
        Assert.Equal(["The oven is cold and the street is dark.", "I heard steps on the roof.", "Then bolt the door."], after[0].Lines.Select(Text));
        Assert.Equal(["Who is there?", "It rains on the lamps."], after[1].Lines.Select(Text));
        Assert.Equal(after[0].Lines[1].GetProperty("member").GetString(), after[0].Lines[2].GetProperty("member").GetString());
        // Spoken again: the voice says what is written, in the voice of who says it.
        Assert.All(after.SelectMany(s => s.Lines), l => Assert.False(l.GetProperty("isStale").GetBoolean(), l.ToString()));
        var clip = (await StateAsync()).GetProperty("clips").EnumerateArray().First(c => c.GetProperty("name").GetString() == "nod");
        Assert.Equal(oven, clip.GetProperty("line").GetString());
        // Back over the voices that were made and the change itself, and all is as it was.
        for (var step = 0; step < 4; step++)
            await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        await IdleAsync();
        Assert.Equal(before.SelectMany(s => s.Lines).Select(Id), (await AllAsync()).SelectMany(s => s.Lines).Select(Id));
        Assert.Equal(before.SelectMany(s => s.Lines).Select(Text), (await AllAsync()).SelectMany(s => s.Lines).Select(Text));
    }

    [Fact]
    public async Task What_is_not_ticked_stays_and_a_line_can_go_to_another_scene()
    {
        await BringAsync();
        var before = await AllAsync();
        var bolt = Id(before[0].Lines[2]);
        var rains = Id(before[1].Lines[0]);
        // The door is bolted outside now; the rain is gone, and somebody new speaks.
        var changed = Play.Replace("MARO\nThen bolt the door.\n\n", "")
            .Replace("TOCK\nIt rains on the lamps.", "TOCK\nLook at the moon, it is as round as a loaf.");
        changed = changed.Replace("MARO\nCome back in.\n", "MARO\nCome back in.\n\nMARO\nThen bolt the door.\n\nINES\nGood evening.\n");
        var rows = (await CompareAsync(changed)).GetProperty("rows").EnumerateArray().ToArray();
        Assert.True(rows.Single(r => r.GetProperty("line").GetString() == bolt).GetProperty("isMoved").GetBoolean());
        var ines = rows.Single(r => r.GetProperty("role").GetString() == "Ines").GetProperty("part").GetInt32();
        await ChangeAsync(changed, [rains], [ines]);
        var after = await AllAsync();
        Assert.Equal(["It rains on the lamps.", "Come back in.", "Then bolt the door."], after[1].Lines.Select(Text));
        Assert.Equal(bolt, Id(after[1].Lines[2]));
        // Nobody joined for a line that is not wanted.
        Assert.DoesNotContain((await StateAsync()).GetProperty("members").EnumerateArray(), m => m.GetProperty("roleName").GetString() == "Ines");
        Assert.Equal(2, after[0].Lines.Length);
    }

    [Fact]
    public async Task A_heading_in_the_middle_cuts_a_scene_and_a_script_without_headings_leaves_lines_where_they_are()
    {
        await BringAsync();
        var before = await AllAsync();
        // Without headings, and with a line more: nobody changes scenes.
        var plain =
            "MARO: The oven is hot and the street is dark.\nTOCK: I heard steps on the roof.\nMARO: Then bolt the door.\n"
            + "TOCK: It rains on the lamps.\nTOCK: Can you hear it?\nMARO: Come back in.\n";
        await ChangeAsync(plain);
        var after = await AllAsync();
        Assert.Equal(before[0].Lines.Select(Id), after[0].Lines.Select(Id));
        Assert.Equal(["It rains on the lamps.", "Can you hear it?", "Come back in."], after[1].Lines.Select(Text));
        // A scene more, out of the first one.
        var cut = Play.Replace("MARO\nThen bolt", "INT. HALL - NIGHT\n\nMARO\nThen bolt").Replace("MARO\nCome", "TOCK\nCan you hear it?\n\nMARO\nCome");
        var rows = (await CompareAsync(cut)).GetProperty("rows").EnumerateArray().Where(r => !r.GetProperty("isSame").GetBoolean()).ToArray();
        Assert.Equal(Id(before[0].Lines[2]), Assert.Single(rows).GetProperty("line").GetString());
        await ChangeAsync(cut);
        var all = await AllAsync();
        Assert.Equal([2, 1, 3], all.Select(s => s.Lines.Length));
        Assert.Equal(Id(before[0].Lines[2]), Id(all[1].Lines[0]));
        Assert.Equal(before[1].Scene, all[2].Scene);
    }

    [Fact]
    public async Task What_stands_at_moments_of_its_own_makes_room_for_what_is_new()
    {
        await BringAsync();
        var before = (await AllAsync())[0];
        var start = before.Lines[1].GetProperty("start").GetDouble();
        await Server.PatchAsync($"/api/lines/{Id(before.Lines[1])}", new { at = start + 1 });
        var gap = Gap(await AllAsync(), 1, 2);
        await ChangeAsync(Play.Replace("TOCK\nI heard", "MARO\nHush now, be as still as the flour.\n\nTOCK\nI heard"));
        var after = (await AllAsync())[0].Lines;
        Assert.Equal(4, after.Length);
        for (var i = 1; i < 4; i++)
            Assert.True(
                after[i].GetProperty("start").GetDouble()
                    > after[i - 1].GetProperty("start").GetDouble() + after[i - 1].GetProperty("duration").GetDouble() - 0.5,
                $"line {i} comes in over the one before"
            );
        Assert.Equal(gap, Gap(await AllAsync(), 2, 3), 2);
        static double Gap((string, JsonElement[] Lines)[] all, int a, int b) =>
            all[0].Lines[b].GetProperty("start").GetDouble()
            - all[0].Lines[a].GetProperty("start").GetDouble()
            - all[0].Lines[a].GetProperty("duration").GetDouble();
    }
}
