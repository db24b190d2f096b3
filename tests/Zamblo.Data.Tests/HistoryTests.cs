using FsCheck.Xunit;
using Microsoft.EntityFrameworkCore;

namespace Zamblo.Data.Tests;

public sealed class HistoryTests : IDisposable
{
    private readonly string _folder;
    private readonly Databases _databases;

    public HistoryTests()
    {
        _folder = Directory.CreateTempSubdirectory("zamblo-data-").FullName;
        _databases = new Databases(_folder);
    }

    public void Dispose() => _databases.Dispose();

    private async Task<(ZambloContexts Contexts, ProductionStore Store, Guid Production, Guid Scene, Guid Member)> NewAsync(bool onServer)
    {
        var contexts = await _databases.NewAsync(onServer);
        await using var db = contexts.CreateDbContext();
        var production = new Production { Id = Guid.NewGuid(), Title = "Night Shift" };
        var scene = new Scene
        {
            Id = Guid.NewGuid(),
            ProductionId = production.Id,
            Order = 1,
        };
        var member = new CastMember
        {
            Id = Guid.NewGuid(),
            ProductionId = production.Id,
            RoleName = "Maro",
        };
        db.AddRange(production, scene, member);
        await db.SaveChangesAsync();
        return (contexts, new ProductionStore(contexts), production.Id, scene.Id, member.Id);
    }

    private static Task<EditDone> TitleAsync(ProductionStore store, Guid production, long? seen, string title, string name = "Rename") =>
        store.EditAsync(
            production,
            seen,
            (_, root) =>
            {
                root.Title = title;
                return Task.FromResult(name);
            }
        );

    /// <summary>All rows that an edit can touch, as text.</summary>
    private static string Dump(ZambloContexts contexts)
    {
        using var db = contexts.CreateDbContext();
        var lines = db.Lines.AsNoTracking().AsEnumerable().OrderBy(l => l.Id).Select(l => $"{l.Id} {l.Order} {l.Text} {l.Start} {l.CastMemberId}");
        var members = db.CastMembers.AsNoTracking().AsEnumerable().OrderBy(m => m.Id).Select(m => $"{m.Id} {m.RoleName} {m.Voice}");
        var productions = db.Productions.AsNoTracking().AsEnumerable().Select(p => $"{p.Title} {p.Width} {p.Rate}");
        return string.Join('\n', productions.Concat(members).Concat(lines));
    }

    [Property(MaxTest = 25)]
    public void Any_sequence_of_edits_undone_gives_the_start_and_redone_the_end(byte[] choices, bool onServer)
    {
        var (contexts, store, production, scene, member) = NewAsync(onServer && Databases.HasServer).Result;
        var states = new List<string> { Dump(contexts) };
        foreach (var choice in choices ?? [])
        {
            var before = store.NamesAsync(production).Result.Undo;
            store
                .EditAsync(
                    production,
                    null,
                    async (db, _) =>
                    {
                        var lines = await db.Lines.OrderBy(l => l.Order).ToListAsync();
                        switch (choice % 5)
                        {
                            case 0:
                                db.Lines.Add(
                                    new Line
                                    {
                                        Id = Guid.NewGuid(),
                                        SceneId = scene,
                                        CastMemberId = member,
                                        Order = lines.Count + 1,
                                        Text = $"line {choice}",
                                    }
                                );
                                break;
                            case 1 when lines.Count > 0:
                                db.Lines.Remove(lines[choice % lines.Count]);
                                break;
                            case 2 when lines.Count > 0:
                                lines[choice % lines.Count].Start = choice / 10.0;
                                break;
                            case 3:
                                (await db.CastMembers.FirstAsync()).RoleName = $"Role {choice}";
                                break;
                            default:
                                (await db.Productions.FirstAsync()).Title = $"Title {choice}";
                                break;
                        }
                        return $"Edit {choice}";
                    }
                )
                .Wait();
            if (Dump(contexts) != states[^1])
                states.Add(Dump(contexts));
        }
        for (var i = states.Count - 2; i >= 0; i--)
        {
            Assert.NotNull(store.UndoAsync(production, null).Result);
            Assert.Equal(states[i], Dump(contexts));
        }
        Assert.Null(store.UndoAsync(production, null).Result);
        for (var i = 1; i < states.Count; i++)
        {
            // A store made anew knows the history: it survives a restart.
            Assert.NotNull(new ProductionStore(contexts).RedoAsync(production, null).Result);
            Assert.Equal(states[i], Dump(contexts));
        }
        Assert.Null(store.RedoAsync(production, null).Result);
    }

    [Theory, OnFile, OnServer]
    public async Task An_edit_of_what_has_changed_since_is_refused_with_what_it_is_now_and_changes_nothing(bool onServer)
    {
        var (contexts, store, production, _, _) = await NewAsync(onServer);
        var first = (await TitleAsync(store, production, 0, "One")).Revision;
        var e = await Assert.ThrowsAsync<StaleRevisionException>(() => TitleAsync(store, production, 0, "Two"));
        Assert.Equal(first, e.Current);
        Assert.Contains("\"One\" now", e.Message);
        Assert.Contains("One", Dump(contexts));
        Assert.Equal("Rename", (await store.NamesAsync(production)).Undo);
    }

    [Theory, OnFile, OnServer]
    public async Task An_edit_of_an_older_state_is_carried_out_where_it_touches_nothing_that_has_changed(bool onServer)
    {
        var (contexts, store, production, scene, member) = await NewAsync(onServer);
        var line = new Line
        {
            Id = Guid.NewGuid(),
            SceneId = scene,
            CastMemberId = member,
            Order = 1,
            Text = "Ding.",
        };
        Task<EditDone> Edit(long seen, Action<ZambloContext> change) =>
            store.EditAsync(
                production,
                seen,
                async (db, _) =>
                {
                    await db.Lines.LoadAsync();
                    await db.CastMembers.LoadAsync();
                    change(db);
                    return "Edit";
                }
            );
        var at = (await Edit(0, db => db.Lines.Add(line))).Revision;
        // Another tab renames the production and moves the line; this one still has the state before.
        await TitleAsync(store, production, at, "Other");
        await Edit(at, db => db.Lines.Local.First().Start = 2);
        await Edit(at, db => db.CastMembers.Local.First().RoleName = "Timer");
        await Edit(at, db => db.Lines.Local.First().Text = "Dong.");
        Assert.Contains("Timer", Dump(contexts));
        Assert.Contains("Dong. 2", Dump(contexts));
        // What was touched is refused, also when the whole row is to go.
        await Assert.ThrowsAsync<StaleRevisionException>(() => Edit(at, db => db.Lines.Local.First().Start = 3));
        await Assert.ThrowsAsync<StaleRevisionException>(() => Edit(at, db => db.Lines.Remove(db.Lines.Local.First())));
        // Two dials of one member do not meet; the same dial does.
        var dials = (await Edit(await Now(contexts), db => db.CastMembers.Local.First().MouthDials = """{"strength":1,"lead":0.03}""")).Revision;
        await Edit(dials, db => db.CastMembers.Local.First().MouthDials = """{"strength":0.5,"lead":0.03}""");
        await Edit(dials, db => db.CastMembers.Local.First().MouthDials = """{"strength":0.5,"lead":0.06}""");
        await Assert.ThrowsAsync<StaleRevisionException>(() => Edit(dials, db => db.CastMembers.Local.First().MouthDials = """{"strength":0.7,"lead":0.06}"""));
    }

    private static async Task<long> Now(ZambloContexts contexts)
    {
        await using var db = contexts.CreateDbContext();
        return await db.Productions.Select(p => p.Revision).FirstAsync();
    }

    [Theory, OnFile, OnServer]
    public async Task Undo_takes_back_only_what_was_seen(bool onServer)
    {
        var (_, store, production, _, _) = await NewAsync(onServer);
        await TitleAsync(store, production, 0, "One");
        await TitleAsync(store, production, null, "Filed by a job");
        await Assert.ThrowsAsync<StaleRevisionException>(() => store.UndoAsync(production, 1));
        Assert.NotNull(await store.UndoAsync(production, 2));
        // An undo is a change like any other: what it touched is stale.
        await Assert.ThrowsAsync<StaleRevisionException>(() => TitleAsync(store, production, 2, "Three"));
        await TitleAsync(store, production, 3, "Three");
        await Assert.ThrowsAsync<StaleRevisionException>(() => TitleAsync(store, production, 99, "Four"));
    }

    [Theory, OnFile, OnServer]
    public async Task A_failed_edit_leaves_no_trace(bool onServer)
    {
        var (contexts, store, production, _, _) = await NewAsync(onServer);
        var before = Dump(contexts);
        await Assert.ThrowsAsync<InvalidOperationException>(() =>
            store.EditAsync(
                production,
                null,
                async (db, _) =>
                {
                    (await db.Productions.FirstAsync()).Title = "Broken";
                    await db.SaveChangesAsync();
                    throw new InvalidOperationException();
                }
            )
        );
        Assert.Equal(before, Dump(contexts));
        Assert.Null((await store.NamesAsync(production)).Undo);
    }

    [Theory, OnFile, OnServer]
    public async Task A_new_edit_after_undo_ends_what_could_be_redone(bool onServer)
    {
        var (_, store, production, _, _) = await NewAsync(onServer);
        foreach (var title in new[] { "One", "Two" })
            await TitleAsync(store, production, null, title, $"To {title}");
        Assert.Equal("To Two", await store.UndoAsync(production, null));
        await TitleAsync(store, production, null, "Three", "To Three");
        Assert.Equal(("To Three", null), await store.NamesAsync(production));
    }

    [Theory, OnFile, OnServer]
    public async Task An_edit_that_changes_nothing_is_no_entry(bool onServer)
    {
        var (_, store, production, _, _) = await NewAsync(onServer);
        Assert.Equal(0, (await TitleAsync(store, production, null, "Night Shift")).Revision);
        Assert.Null((await store.NamesAsync(production)).Undo);
    }

    [Theory, OnFile, OnServer]
    public async Task The_model_and_the_migrations_agree(bool onServer)
    {
        var (contexts, _, _, _, _) = await NewAsync(onServer);
        await using var db = contexts.CreateDbContext();
        Assert.False(db.Database.HasPendingModelChanges());
        // What refers to nothing is refused.
        db.Lines.Add(new Line { Id = Guid.NewGuid(), SceneId = Guid.NewGuid() });
        await Assert.ThrowsAsync<DbUpdateException>(() => db.SaveChangesAsync());
    }

    [Fact]
    public async Task Assets_are_kept_once_under_the_hash_of_their_contents()
    {
        var store = new AssetStore(Path.Combine(_folder, "assets"));
        var (hash, length) = await store.SaveAsync(new MemoryStream("abc"u8.ToArray()));
        // FIPS 180-4, SHA-256 of "abc".
        Assert.Equal("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", hash);
        Assert.Equal(3, length);
        Assert.Equal(hash, (await store.SaveAsync(new MemoryStream("abc"u8.ToArray()))).Hash);
        Assert.Single(Directory.GetFiles(Path.Combine(_folder, "assets"), "*", SearchOption.AllDirectories));
        await Assert.ThrowsAsync<InvalidDataException>(() => store.SaveAsync(new MemoryStream(new byte[100]), 99));
        Assert.Single(Directory.GetFiles(Path.Combine(_folder, "assets"), "*", SearchOption.AllDirectories));
        foreach (var bad in new[] { "../../etc/passwd", "", new string('A', 64), hash[..63] + "/" })
            Assert.Throws<ArgumentException>(() => store.PathOf(bad));
    }
}
