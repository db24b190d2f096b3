using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>
/// Reading is total: whatever stands in one field of a row (a file system that wrote half, a hand in the database, a version that never was), its
/// production still opens and is drawn.
/// </summary>
public sealed class SpoiltRowTests(Host host) : IClassFixture<Host>
{
    private static readonly string[] Texts = ["", "{", "null", "[1]", "none such", "{\"start\":\"x\"}", "-5"];
    private static readonly string[] Numbers = ["-1e300", "-1", "0", "1e300"];
    private static readonly string[] Counts = ["-1", "0", "2000000000"];

    [FileFact]
    public async Task A_production_opens_whatever_stands_in_one_of_its_fields()
    {
        var fixture = await Fixture.MakeAsync(host.Talk);
        var troubles = new List<string>();
        var tried = 0;
        await using var db = await host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        foreach (var type in ProductionRows.Types(db.Model))
        foreach (var property in type.GetProperties().Where(p => !p.IsPrimaryKey() && !p.IsForeignKey()))
        {
            var (table, column) = (type.GetTableName()!, property.GetColumnName());
            var kept = await KeptAsync(db, table, column);
            if (kept.Count == 0)
                troubles.Add($"{table}: the fixture has none");
            foreach (var value in Spoilt(property, kept))
            {
                tried++;
                await SetAsync(db, $"UPDATE \"{table}\" SET \"{column}\" = {value}");
                // As after a restart: nothing is at hand.
                await SetAsync(db, "UPDATE Productions SET Revision = Revision + 1");
                if (await fixture.TroubleAsync() is { } trouble)
                {
                    troubles.Add($"{table}.{column} = {value}: {trouble}");
                    // What does not come to an end now would hold up everything after it.
                    if (trouble.Contains("no answer", StringComparison.Ordinal))
                        Assert.Fail(string.Join('\n', troubles));
                }
                for (var i = 0; i < kept.Count; i++)
                    await SetAsync(
                        db,
                        $"UPDATE \"{table}\" SET \"{column}\" = {kept[i]} WHERE rowid = (SELECT rowid FROM \"{table}\" ORDER BY rowid LIMIT 1 OFFSET {i})"
                    );
            }
        }
        Assert.True(tried > 200, $"{tried}");
        Assert.True(troubles.Count == 0, $"{troubles.Count} of {tried}:\n" + string.Join('\n', troubles));
    }

    [FileFact]
    public async Task What_cannot_be_shown_as_it_stands_is_told_and_becomes_what_is_shown_when_somebody_says_so()
    {
        var fixture = await Fixture.MakeAsync(host.Talk);
        var scene = "/api/scenes/" + fixture.Ids["scene"];
        async Task<string[]> ToldAsync() =>
            [
                .. (await host.Talk.GetAsync(scene))
                    .GetProperty("scene")
                    .GetProperty("spoilt")
                    .EnumerateArray()
                    .Select(s => $"{s.GetProperty("name").GetString()}: {s.GetProperty("what").GetString()}"),
            ];
        Assert.Empty(await ToldAsync());
        await using var db = await host.Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync();
        var id = Guid.Parse(fixture.Ids["scene"]);
        var clips = db.Clips.Where(c => c.SceneId == id);
        var count = await clips.CountAsync();
        await db
            .Scenes.Where(s => s.Id == id)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.Gap, 1e300).SetProperty(x => x.Light, "{").SetProperty(x => x.Camera, "{\"length\":1e30}"));
        await db.Lines.Where(l => l.SceneId == id).OrderBy(l => l.Order).Take(1).ExecuteUpdateAsync(s => s.SetProperty(x => x.Start, -1e300));
        var clip = await clips.Select(c => c.Id).FirstAsync();
        await clips.Where(c => c.Id == clip).ExecuteUpdateAsync(s => s.SetProperty(x => x.Data, "[1]"));
        await db.Productions.ExecuteUpdateAsync(s => s.SetProperty(x => x.Revision, x => x.Revision + 1));
        var told = await ToldAsync();
        Assert.Contains(told, t => t.StartsWith("This scene: ", StringComparison.Ordinal) && t.Contains("gap") && t.Contains("light"));
        Assert.Contains("line 1: start", told);
        Assert.Single(told, t => t.EndsWith("cannot be read, and is not shown", StringComparison.Ordinal));
        var state = await host.Talk.GetAsync(scene);
        await host.Talk.PostAsync(scene + "/mend", new { revision = state.GetProperty("production").GetProperty("revision").GetInt64() });
        Assert.Empty(await ToldAsync());
        Assert.Equal(count - 1, await clips.CountAsync());
        // What was shown is shown: nothing but the rows has changed.
        var after = await host.Talk.GetAsync(scene);
        Assert.Equal(state.GetProperty("duration").GetDouble(), after.GetProperty("duration").GetDouble());
        await host.Talk.PostAsync($"/api/productions/{fixture.Production}/undo", new { });
        Assert.Equal(told.Order(), (await ToldAsync()).Order());
    }

    private static IEnumerable<string> Spoilt(IProperty property, IReadOnlyList<string> kept)
    {
        if (property.ClrType == typeof(double) || property.ClrType == typeof(double?))
            return Numbers;
        if (property.ClrType == typeof(int) || property.ClrType.IsEnum)
            return Counts;
        if (property.ClrType != typeof(string))
            return [];
        // Of what is written as JSON each number, too.
        var json = kept.FirstOrDefault(k => k.StartsWith("'{", StringComparison.Ordinal));
        var numbers = json == null ? [] : ((string[])["1e30", "-1e30", "-1"]).Select(n => Regex.Replace(json, @"(?<=[:\[,])-?\d+(\.\d+)?(?=[,\]}])", n));
        return Texts.Select(t => $"'{t}'").Concat(numbers);
    }

#pragma warning disable EF1002 // Names of the model's own tables and columns, and values of our own.
    private static Task SetAsync(ZambloContext db, string sql) =>
        db.Database.ExecuteSqlRawAsync(sql.Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal));

    private static Task<List<string>> KeptAsync(ZambloContext db, string table, string column) =>
        db.Database.SqlQueryRaw<string>($"SELECT quote(\"{column}\") AS Value FROM \"{table}\" ORDER BY rowid").ToListAsync();
#pragma warning restore EF1002
}
