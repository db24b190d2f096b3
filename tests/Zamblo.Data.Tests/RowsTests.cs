using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Score;

namespace Zamblo.Data.Tests;

/// <summary>What a production is made of, from the model's own keys; and data of the state before the migrations were folded.</summary>
public sealed class RowsTests : IDisposable
{
    private readonly string _folder;
    private readonly Databases _databases;

    public RowsTests()
    {
        _folder = Directory.CreateTempSubdirectory("zamblo-rows-").FullName;
        _databases = new Databases(_folder);
    }

    public void Dispose() => _databases.Dispose();

    // A database as the last version with all its migrations left it: the demo with unison, looks, a walk, marks, boundaries, a respelling, an
    // effect, undo, and a copy of it all.
    private async Task<ZambloContexts> AsItWasAsync()
    {
        await using (var connection = new SqliteConnection($"Data Source={Path.Combine(_folder, "landed.db")};Foreign Keys=False"))
        {
            await connection.OpenAsync();
            await using var script = typeof(RowsTests).Assembly.GetManifestResourceStream("landed.sql")!;
            await using var command = connection.CreateCommand();
            command.CommandText = await new StreamReader(script).ReadToEndAsync();
            await command.ExecuteNonQueryAsync();
        }
        SqliteConnection.ClearAllPools();
        return _databases.OfFile("landed.db");
    }

    // The same, opened by this version, and brought to a server where one is asked for.
    private async Task<ZambloContexts> LandedAsync(bool onServer)
    {
        var file = await AsItWasAsync();
        await using (var db = file.CreateDbContext())
            await DataUpgrade.RunAsync(db);
        if (!onServer)
            return file;
        var server = await _databases.NewAsync(onServer);
        Assert.InRange(await DataCopy.RunAsync(file, server), 50, 10_000);
        return server;
    }

    private static async Task HoldsTogetherAsync(ZambloContext db)
    {
        // A server looks after its keys by itself.
        if (db.IsServer)
            return;
        Assert.Empty(await QueryAsync<string>(db, "PRAGMA foreign_key_check"));
        Assert.Equal(["ok"], await QueryAsync<string>(db, "PRAGMA integrity_check"));
    }

    private static async Task<T[]> QueryAsync<T>(ZambloContext db, string sql)
    {
        await db.Database.OpenConnectionAsync();
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.CommandText = sql;
        await using var reader = await command.ExecuteReaderAsync();
        var rows = new List<T>();
        while (await reader.ReadAsync())
            rows.Add(reader.GetFieldValue<T>(0));
        return [.. rows];
    }

    [Theory, OnFile, OnServer]
    public async Task Data_of_the_last_landed_state_opens_with_everything_in_it(bool onServer)
    {
        var contexts = await LandedAsync(onServer);
        await using var db = contexts.CreateDbContext();
        await HoldsTogetherAsync(db);
        Assert.Equal(
            (2, 8, 8, 12, 2, 2, 2, 2, 2),
            (
                await db.Productions.CountAsync(),
                await db.Lines.CountAsync(),
                await db.Takes.CountAsync(),
                await db.Clips.CountAsync(),
                await db.Touches.CountAsync(),
                await db.Marks.CountAsync(),
                await db.Pins.CountAsync(),
                await db.Sounds.CountAsync(),
                await db.Respellings.CountAsync()
            )
        );
        foreach (var production in await db.Productions.ToListAsync())
        {
            var members = await db.CastMembers.Where(m => m.ProductionId == production.Id).ToListAsync();
            // Two others speak along with the first line, each of the same production.
            var voices = await db
                .LineVoices.Where(v => db.Lines.Any(l => l.Id == v.LineId && db.Scenes.Any(s => s.Id == l.SceneId && s.ProductionId == production.Id)))
                .ToListAsync();
            Assert.Equal(["bubb", "tock"], voices.Select(v => members.First(m => m.Id == v.CastMemberId).Character).Order());
            // In the copy, too, one looks at Tock: at its own.
            var looks = await db
                .Clips.Where(c => c.Kind == ClipKind.Look && db.Scenes.Any(s => s.Id == c.SceneId && s.ProductionId == production.Id))
                .ToListAsync();
            Assert.Equal(["camera", "member"], looks.Select(l => l.Name).Order());
            Assert.Equal("tock", members.First(m => m.Id == looks.Single(l => l.TargetId != null).TargetId).Character);
        }
    }

    [Theory, OnFile, OnServer]
    public async Task Steps_that_were_made_before_can_be_undone(bool onServer)
    {
        var contexts = await LandedAsync(onServer);
        await using var db = contexts.CreateDbContext();
        var production = await db.Productions.OrderByDescending(p => p.HistoryPosition).FirstAsync();
        var store = new ProductionStore(contexts);
        var names = new List<string>();
        while (await store.UndoAsync(production.Id, null) is { } name)
            names.Add(name);
        Assert.Equal(production.HistoryPosition, names.Count);
        Assert.Contains("Turn a mouth dial", names);
        var forth = 0;
        while (await store.RedoAsync(production.Id, null) is not null)
            forth++;
        Assert.Equal(await db.History.CountAsync(h => h.ProductionId == production.Id), forth);
        await HoldsTogetherAsync(db);
    }

    [Fact]
    public async Task Data_from_before_that_is_refused_in_a_sentence_and_left_alone()
    {
        await using var db = (await AsItWasAsync()).CreateDbContext();
        await db.Database.ExecuteSqlRawAsync("DELETE FROM __EFMigrationsHistory WHERE MigrationId LIKE '%HandRevisions'");
        var refused = await Assert.ThrowsAsync<DataTooOldException>(() => DataUpgrade.RunAsync(db));
        Assert.EndsWith("nothing was changed.", refused.Message);
        Assert.Equal(2, (await QueryAsync<long>(db, "SELECT count(*) FROM Productions"))[0]);
    }

    // Every column, ids by the order in which they are met, so that two productions can be compared.
    private static async Task<string> DumpAsync(ZambloContext db, Guid production)
    {
        var rows = await ProductionRows.LoadAsync(db, production, isTracked: false);
        // Rows have no order of their own in the database: kind by kind, parents first, they are sorted by all that is known of them.
        const string id = "[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}";
        var names = new Dictionary<string, string>();
        var result = new List<string>();
        foreach (var kind in rows.GroupBy(r => r.GetType()))
        foreach (
            var text in kind.Select(r => kind.Key.Name + JsonSerializer.Serialize(r, kind.Key))
                .OrderBy(t => System.Text.RegularExpressions.Regex.Replace(t, id, m => names.GetValueOrDefault(m.Value, "")), StringComparer.Ordinal)
                .ToArray()
        )
            result.Add(
                System.Text.RegularExpressions.Regex.Replace(text, id, m => names.TryGetValue(m.Value, out var n) ? n : names[m.Value] = $"#{names.Count}")
            );
        return string.Join('\n', result);
    }

    [Theory, OnFile, OnServer]
    public async Task A_copy_is_equal_to_its_original_in_every_column_of_every_row(bool onServer)
    {
        var contexts = await LandedAsync(onServer);
        await using var db = contexts.CreateDbContext();
        var original = await db.Productions.AsNoTracking().OrderByDescending(p => p.HistoryPosition).FirstAsync();
        var copy = await ProductionRows.CopyAsync(db, original.Id);
        await db.SaveChangesAsync();
        Assert.Equal(await DumpAsync(db, original.Id), await DumpAsync(db, copy.Id));
        // Nothing of it refers to the original.
        var own = (await ProductionRows.LoadAsync(db, original.Id, isTracked: false))
            .Select(r => r.GetType().GetProperty("Id")!.GetValue(r)!.ToString()!)
            .ToArray();
        var text = JsonSerializer.Serialize((await ProductionRows.LoadAsync(db, copy.Id, isTracked: false)).Cast<object>());
        Assert.All(own, id => Assert.DoesNotContain(id, text, StringComparison.OrdinalIgnoreCase));
        await HoldsTogetherAsync(db);
    }

    [Theory, OnFile, OnServer]
    public async Task Who_leaves_takes_all_along_that_hangs_on_them_and_undo_brings_it_back(bool onServer)
    {
        var contexts = await LandedAsync(onServer);
        await using var db = contexts.CreateDbContext();
        var production = await db.Productions.OrderByDescending(p => p.HistoryPosition).FirstAsync();
        var store = new ProductionStore(contexts);
        var before = await DumpAsync(db, production.Id);
        var tock = await db.CastMembers.FirstAsync(m => m.ProductionId == production.Id && m.Character == "tock");
        await store.EditAsync(
            production.Id,
            null,
            async (own, _) =>
            {
                await ProductionRows.RemoveAsync(own, [await own.CastMembers.FirstAsync(m => m.Id == tock.Id)]);
                return "Remove a cast member";
            }
        );
        await using (var look = contexts.CreateDbContext())
        {
            Assert.False(await look.Clips.AnyAsync(c => c.TargetId == tock.Id || c.CastMemberId == tock.Id));
            Assert.False(await look.LineVoices.AnyAsync(v => v.CastMemberId == tock.Id));
            Assert.Equal(3, await look.Lines.CountAsync(l => look.Scenes.Any(s => s.Id == l.SceneId && s.ProductionId == production.Id)));
        }
        await store.UndoAsync(production.Id, null);
        await using var again = contexts.CreateDbContext();
        var (was, now) = (Without(before), Without(await DumpAsync(again, production.Id)));
        Assert.Equal(was, now);
        // The production's own counters move on.
        static string Without(string dump) => string.Join('\n', dump.Split('\n').Where(l => !l.StartsWith(nameof(Production), StringComparison.Ordinal)));
    }

    [Fact]
    public void Every_kind_of_row_that_has_a_parent_is_part_of_a_production()
    {
        using var db = _databases.OfFile("x.db").CreateDbContext();
        var parts = ProductionRows.Types(db.Model).Select(t => t.ClrType.Name).ToArray();
        Assert.Equal(nameof(Production), parts[0]);
        foreach (
            var name in new[]
            {
                nameof(Scene),
                nameof(CastMember),
                nameof(Line),
                nameof(LineVoice),
                nameof(Take),
                nameof(LineTouch),
                nameof(ScoreClip),
                nameof(SceneSound),
                nameof(TakeMark),
                nameof(TakePin),
                nameof(Respelling),
            }
        )
            Assert.Contains(name, parts);
        Assert.DoesNotContain(nameof(Asset), parts);
    }
}
