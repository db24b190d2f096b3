using System.Text.Json;

namespace Zamblo.Web.Tests;

/// <summary>What people have to say about places of a scene, over HTTP, on a machine where nobody signs in.</summary>
public class RemarkTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private async Task<JsonElement[]> RemarksAsync() => [.. (await Server.GetAsync($"/api/productions/{Production}/remarks")).EnumerateArray()];

    [Fact]
    public async Task A_remark_hangs_on_its_line_is_said_otherwise_called_done_and_taken_away_and_is_no_step_of_the_history()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        var line = Id(Line(state));
        var revision = Revision(state);
        var id = (
            await Server.PostAsync(
                $"/api/scenes/{Scene}/remarks",
                new
                {
                    text = "  Too loud?  ",
                    at = 0.9,
                    line,
                    offset = 0.4,
                }
            )
        ).GetProperty("id").GetString()!;
        await Server.PostAsync($"/api/scenes/{Scene}/remarks", new { text = "A beat here.", at = 2.5 });
        var remark = (await RemarksAsync()).Single(r => Id(r) == id);
        Assert.Equal(
            ("Too loud?", line, 0.4),
            (remark.GetProperty("text").GetString(), remark.GetProperty("lineId").GetString(), remark.GetProperty("offset").GetDouble())
        );
        await Server.PatchAsync($"/api/remarks/{id}", new { text = "Much too loud." });
        await Server.PatchAsync($"/api/remarks/{id}", new { isDone = true });
        remark = (await RemarksAsync()).Single(r => Id(r) == id);
        Assert.Equal(("Much too loud.", true), (remark.GetProperty("text").GetString(), remark.GetProperty("isDone").GetBoolean()));
        Assert.Equal(revision, Revision(await StateAsync()));
        // Its line may go; the remark stays where it was.
        await Server.DeleteAsync($"/api/lines/{line}");
        Assert.Equal(2, (await RemarksAsync()).Length);
        await Server.DeleteAsync($"/api/remarks/{id}");
        Assert.Equal("A beat here.", Assert.Single(await RemarksAsync()).GetProperty("text").GetString());
    }

    [Fact]
    public async Task What_is_no_remark_is_refused()
    {
        foreach (
            var (body, status) in new (object, int)[]
            {
                (new { text = " ", at = 1.0 }, 400),
                (new { text = new string('a', 2001), at = 1.0 }, 400),
                (new { at = 1.0 }, 400),
                (new { text = "a\0b", at = 1.0 }, 400),
                (
                    new
                    {
                        text = "x",
                        at = 1.0,
                        line = Guid.NewGuid(),
                    },
                    404
                ),
            }
        )
            await Server.PostAsync($"/api/scenes/{Scene}/remarks", body, status);
        await Server.PostAsync($"/api/scenes/{Guid.NewGuid()}/remarks", new { text = "x", at = 1.0 }, 404);
        await Server.SendAsync(HttpMethod.Patch, $"/api/remarks/{Guid.NewGuid()}", new { isDone = true }, 404);
        await Server.SendAsync(HttpMethod.Delete, $"/api/remarks/{Guid.NewGuid()}", null, 404);
        Assert.Empty(await RemarksAsync());
    }
}
