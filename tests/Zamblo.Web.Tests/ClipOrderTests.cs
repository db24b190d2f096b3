using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>Of clips that lie over each other the later one is on top, wherever a database keeps its row.</summary>
public sealed class ClipOrderTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    [Fact]
    public async Task Clips_stay_in_the_order_in_which_they_were_laid_also_when_a_row_is_written_anew()
    {
        string[] moods = ["Joy", "Anger", "Doubt", "Fear"];
        foreach (var name in moods)
            await Server.PostAsync(
                $"/api/scenes/{Scene}/clips",
                new
                {
                    member = Member,
                    kind = "Mood",
                    name,
                    start = 0.2,
                    end = 0.7,
                }
            );
        Assert.Equal(moods, await NamesAsync());
        // As undo and redo do it, or a database that moves rows: the first becomes the last to be written.
        await using (var db = await Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync())
        {
            var scene = Guid.Parse(Scene);
            var first = await db.Clips.AsNoTracking().Where(c => c.SceneId == scene).OrderBy(c => c.Order).FirstAsync();
            await db.Clips.Where(c => c.Id == first.Id).ExecuteDeleteAsync();
            db.Clips.Add(first);
            await db.SaveChangesAsync();
        }
        await Server.PatchAsync($"/api/scenes/{Scene}", new { title = "Seen anew" });
        Assert.Equal(moods, await NamesAsync());
    }

    private async Task<string[]> NamesAsync() => [.. (await StateAsync()).GetProperty("clips").EnumerateArray().Select(c => Text(c, "name"))];
}
