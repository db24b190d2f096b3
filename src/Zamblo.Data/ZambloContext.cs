using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace Zamblo.Data;

/// <summary>The database.</summary>
public sealed class ZambloContext(DbContextOptions<ZambloContext> options) : DbContext(options)
{
    public DbSet<Production> Productions => Set<Production>();
    public DbSet<Scene> Scenes => Set<Scene>();
    public DbSet<CastMember> CastMembers => Set<CastMember>();
    public DbSet<Line> Lines => Set<Line>();
    public DbSet<Take> Takes => Set<Take>();
    public DbSet<LineTouch> Touches => Set<LineTouch>();
    public DbSet<ScoreClip> Clips => Set<ScoreClip>();
    public DbSet<SceneSound> Sounds => Set<SceneSound>();
    public DbSet<TakeMark> Marks => Set<TakeMark>();
    public DbSet<TakePin> Pins => Set<TakePin>();
    public DbSet<Respelling> Respellings => Set<Respelling>();
    public DbSet<SavedGesture> SavedGestures => Set<SavedGesture>();
    public DbSet<MouthMotion> MouthMotions => Set<MouthMotion>();
    public DbSet<Asset> Assets => Set<Asset>();
    public DbSet<HistoryEntry> History => Set<HistoryEntry>();
    public DbSet<Job> Jobs => Set<Job>();

    protected override void OnModelCreating(ModelBuilder model)
    {
        // Rows are never deleted by cascade in the database: every deleted row must pass through the history to be restorable.
        model.Entity<Scene>().HasOne<Production>().WithMany().HasForeignKey(s => s.ProductionId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<CastMember>().HasOne<Production>().WithMany().HasForeignKey(m => m.ProductionId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Line>().HasOne<Scene>().WithMany().HasForeignKey(l => l.SceneId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Line>().HasOne<CastMember>().WithMany().HasForeignKey(l => l.CastMemberId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Take>().HasOne<Line>().WithMany().HasForeignKey(t => t.LineId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Take>().HasOne<Asset>().WithMany().HasForeignKey(t => t.AssetHash).OnDelete(DeleteBehavior.Restrict);
        model.Entity<LineTouch>().HasOne<Line>().WithMany().HasForeignKey(t => t.LineId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<ScoreClip>().HasOne<Scene>().WithMany().HasForeignKey(c => c.SceneId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<ScoreClip>().HasOne<CastMember>().WithMany().HasForeignKey(c => c.CastMemberId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<ScoreClip>().HasOne<Line>().WithMany().HasForeignKey(c => c.LineId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<SceneSound>().HasOne<Scene>().WithMany().HasForeignKey(s => s.SceneId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<SceneSound>().HasOne<Asset>().WithMany().HasForeignKey(s => s.AssetHash).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Scene>().Property(s => s.Gap).HasDefaultValue(0.2);
        model.Entity<TakeMark>().HasOne<Take>().WithMany().HasForeignKey(m => m.TakeId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<TakePin>().HasOne<Take>().WithMany().HasForeignKey(p => p.TakeId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Respelling>().HasOne<Production>().WithMany().HasForeignKey(r => r.ProductionId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Respelling>().HasIndex(r => new { r.ProductionId, r.Word }).IsUnique();
        model.Entity<Take>().HasOne<Asset>().WithMany().HasForeignKey(t => t.GuideHash).OnDelete(DeleteBehavior.Restrict);
        model.Entity<Asset>().HasKey(a => a.Hash);
        model.Entity<HistoryEntry>().HasIndex(h => new { h.ProductionId, h.Position }).IsUnique();
        model.Entity<HistoryEntry>().HasOne<Production>().WithMany().HasForeignKey(h => h.ProductionId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<Job>().HasIndex(j => j.ProductionId);
        model.Entity<Production>().Property(p => p.Revision).IsConcurrencyToken();
    }

    /// <summary>Options for a database file: write-ahead log, foreign keys on.</summary>
    public static DbContextOptions<ZambloContext> OptionsFor(string path) =>
        new DbContextOptionsBuilder<ZambloContext>().UseSqlite($"Data Source={path};Foreign Keys=True;Default Timeout=30").Options;
}

/// <summary>Lets the migration tool make a context.</summary>
public sealed class DesignTimeFactory : IDesignTimeDbContextFactory<ZambloContext>
{
    public ZambloContext CreateDbContext(string[] args) => new(ZambloContext.OptionsFor("design.db"));
}

/// <summary>Small writes that many places need.</summary>
public static class ZambloContextExtensions
{
    /// <summary>Marks lines for deletion, with everything that hangs on them.</summary>
    public static async Task RemoveLinesAsync(this ZambloContext db, IReadOnlyList<Line> lines)
    {
        var ids = lines.Select(l => l.Id).ToArray();
        var takes = await db.Takes.Where(t => ids.Contains(t.LineId)).ToListAsync();
        var takeIds = takes.Select(t => t.Id).ToArray();
        // Asked twice: what the edit has moved to another line meanwhile stays.
        db.Touches.RemoveRange((await db.Touches.Where(t => ids.Contains(t.LineId)).ToListAsync()).Where(t => ids.Contains(t.LineId)));
        db.Marks.RemoveRange(await db.Marks.Where(m => takeIds.Contains(m.TakeId)).ToListAsync());
        db.Pins.RemoveRange(await db.Pins.Where(p => takeIds.Contains(p.TakeId)).ToListAsync());
        db.Clips.RemoveRange((await db.Clips.Where(c => c.LineId != null && ids.Contains(c.LineId.Value)).ToListAsync()).Where(c => c.LineId is { } on && ids.Contains(on)));
        db.Takes.RemoveRange(takes);
        db.Lines.RemoveRange(lines);
    }

    /// <summary>Notes an asset that lies in the store; the second time it is known already.</summary>
    public static async Task KeepAssetAsync(this ZambloContext db, string hash, long length, string name)
    {
        await db.Database.ExecuteSqlAsync($"INSERT OR IGNORE INTO Assets (Hash, Length, Name, Created) VALUES ({hash}, {length}, {name}, {DateTime.UtcNow})");
    }
}
