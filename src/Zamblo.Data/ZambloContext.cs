using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace Zamblo.Data;

/// <summary>The database.</summary>
public class ZambloContext : DbContext
{
    public ZambloContext(DbContextOptions<ZambloContext> options)
        : base(options) { }

    /// <summary>For one of another kind.</summary>
    protected ZambloContext(DbContextOptions options)
        : base(options) { }

    public DbSet<Production> Productions => Set<Production>();
    public DbSet<Scene> Scenes => Set<Scene>();
    public DbSet<CastMember> CastMembers => Set<CastMember>();
    public DbSet<Standing> Standings => Set<Standing>();
    public DbSet<SceneProp> Props => Set<SceneProp>();
    public DbSet<Line> Lines => Set<Line>();
    public DbSet<LineVoice> LineVoices => Set<LineVoice>();
    public DbSet<Take> Takes => Set<Take>();
    public DbSet<LineTouch> Touches => Set<LineTouch>();
    public DbSet<ScoreClip> Clips => Set<ScoreClip>();
    public DbSet<SceneSound> Sounds => Set<SceneSound>();
    public DbSet<TakeMark> Marks => Set<TakeMark>();
    public DbSet<TakePin> Pins => Set<TakePin>();
    public DbSet<Respelling> Respellings => Set<Respelling>();
    public DbSet<OwnCharacter> OwnCharacters => Set<OwnCharacter>();
    public DbSet<SavedGesture> SavedGestures => Set<SavedGesture>();
    public DbSet<MouthMotion> MouthMotions => Set<MouthMotion>();
    public DbSet<Asset> Assets => Set<Asset>();
    public DbSet<HistoryEntry> History => Set<HistoryEntry>();
    public DbSet<EditTrace> Traces => Set<EditTrace>();
    public DbSet<Hearing> Hearings => Set<Hearing>();
    public DbSet<Job> Jobs => Set<Job>();
    public DbSet<Person> People => Set<Person>();
    public DbSet<Passkey> Passkeys => Set<Passkey>();
    public DbSet<Invitation> Invitations => Set<Invitation>();
    public DbSet<LookLink> LookLinks => Set<LookLink>();
    public DbSet<Team> Teams => Set<Team>();
    public DbSet<Membership> Memberships => Set<Membership>();
    public DbSet<Remark> Remarks => Set<Remark>();
    public DbSet<AuditEntry> Audit => Set<AuditEntry>();

    /// <summary>Whether it is a server's, not a file.</summary>
    public bool IsServer => Database.ProviderName != "Microsoft.EntityFrameworkCore.Sqlite";

    protected override void ConfigureConventions(ModelConfigurationBuilder configuration) =>
        // All times are UTC; a file does not say so of itself.
        configuration.Properties<DateTime>().HaveConversion<Utc>();

    private sealed class Utc()
        : ValueConverter<DateTime, DateTime>(
            at => at.Kind == DateTimeKind.Utc ? at : DateTime.SpecifyKind(at, DateTimeKind.Utc),
            at => DateTime.SpecifyKind(at, DateTimeKind.Utc)
        );

    protected override void OnModelCreating(ModelBuilder model)
    {
        // Rows are never deleted by cascade in the database: every deleted row must pass through the history to be restorable.
        void Belongs<TChild, TParent>(System.Linq.Expressions.Expression<Func<TChild, object?>> key)
            where TChild : class
            where TParent : class => model.Entity<TChild>().HasOne<TParent>().WithMany().HasForeignKey(key).OnDelete(DeleteBehavior.Restrict);
        Belongs<Scene, Production>(s => s.ProductionId);
        Belongs<Scene, Asset>(s => s.BackdropHash);
        Belongs<CastMember, Production>(m => m.ProductionId);
        Belongs<Respelling, Production>(r => r.ProductionId);
        Belongs<Standing, Scene>(s => s.SceneId);
        Belongs<Standing, CastMember>(s => s.CastMemberId);
        Belongs<SceneProp, Scene>(p => p.SceneId);
        Belongs<SceneProp, Asset>(p => p.PictureHash);
        Belongs<ScoreClip, SceneProp>(c => c.PropId);
        Belongs<Line, Scene>(l => l.SceneId);
        Belongs<Line, CastMember>(l => l.CastMemberId);
        Belongs<LineVoice, Line>(v => v.LineId);
        Belongs<LineVoice, CastMember>(v => v.CastMemberId);
        Belongs<Take, Line>(t => t.LineId);
        Belongs<Take, Asset>(t => t.AssetHash);
        Belongs<Take, Asset>(t => t.SpeechHash);
        Belongs<Take, Asset>(t => t.GuideHash);
        Belongs<LineTouch, Line>(t => t.LineId);
        Belongs<TakeMark, Take>(m => m.TakeId);
        Belongs<TakePin, Take>(p => p.TakeId);
        Belongs<ScoreClip, Scene>(c => c.SceneId);
        Belongs<ScoreClip, CastMember>(c => c.CastMemberId);
        Belongs<ScoreClip, CastMember>(c => c.TargetId);
        Belongs<ScoreClip, Line>(c => c.LineId);
        Belongs<SceneSound, Scene>(s => s.SceneId);
        Belongs<SceneSound, Asset>(s => s.AssetHash);
        Belongs<SceneSound, Line>(s => s.LineId);
        // A line and its take name each other; no database takes two rows at once, so this one is only known to the model.
        model.Entity<Line>().Property(l => l.TakeId).HasAnnotation(ProductionRows.RefersTo, nameof(Take));
        model.Entity<Scene>().Property(s => s.Gap).HasDefaultValue(0.2);
        model.Entity<Standing>().HasIndex(s => new { s.SceneId, s.CastMemberId }).IsUnique();
        model.Entity<Respelling>().HasIndex(r => new { r.ProductionId, r.Word }).IsUnique();
        model.Entity<Asset>().HasKey(a => a.Hash);
        model.Entity<Asset>().HasIndex(a => a.By);
        model.Entity<HistoryEntry>().HasIndex(h => new { h.ProductionId, h.Position }).IsUnique();
        model.Entity<HistoryEntry>().HasOne<Production>().WithMany().HasForeignKey(h => h.ProductionId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<EditTrace>().HasKey(t => new { t.ProductionId, t.Revision });
        model.Entity<EditTrace>().HasOne<Production>().WithMany().HasForeignKey(t => t.ProductionId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<Hearing>().HasKey(h => h.Key);
        model.Entity<Hearing>().HasIndex(h => h.ProductionId);
        model.Entity<Job>().HasIndex(j => j.ProductionId);
        model.Entity<Person>().HasIndex(p => p.NormalizedName).IsUnique();
        model.Entity<Passkey>().HasIndex(k => k.CredentialId).IsUnique();
        model.Entity<Passkey>().HasOne<Person>().WithMany().HasForeignKey(k => k.PersonId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<Remark>().HasOne<Production>().WithMany().HasForeignKey(r => r.ProductionId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<Invitation>().HasIndex(i => i.TokenHash).IsUnique();
        model.Entity<Invitation>().HasOne<Team>().WithMany().HasForeignKey(i => i.TeamId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<LookLink>().HasIndex(l => l.TokenHash).IsUnique();
        model.Entity<LookLink>().HasOne<Job>().WithMany().HasForeignKey(l => l.JobId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<LookLink>().HasOne<Production>().WithMany().HasForeignKey(l => l.ProductionId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<Team>().HasIndex(t => t.Name).IsUnique();
        model.Entity<Membership>().HasKey(m => new { m.TeamId, m.PersonId });
        model.Entity<Membership>().HasOne<Team>().WithMany().HasForeignKey(m => m.TeamId).OnDelete(DeleteBehavior.Cascade);
        model.Entity<Membership>().HasOne<Person>().WithMany().HasForeignKey(m => m.PersonId).OnDelete(DeleteBehavior.Cascade);
        Belongs<Production, Team>(p => p.TeamId);
        model.Entity<Production>().Property(p => p.Revision).IsConcurrencyToken();
    }
}

/// <summary>Lets the migration tool make a context.</summary>
public sealed class DesignTimeFactory : IDesignTimeDbContextFactory<ZambloContext>
{
    public ZambloContext CreateDbContext(string[] args) => new ZambloContexts(DatabaseAddress.OfFile("design.db")).CreateDbContext();
}

/// <summary>Small writes that many places need.</summary>
public static class ZambloContextExtensions
{
    /// <summary>Notes an asset that lies in the store; the second time it is known already.</summary>
    public static async Task KeepAssetAsync(this ZambloContext db, string hash, long length, string name)
    {
        var (now, by) = (DateTime.UtcNow, ActingPerson.Name);
        // What is written as it is, is not tried again by itself where a server is away.
        await db
            .Database.CreateExecutionStrategy()
            .ExecuteAsync(() =>
                db.Database.ExecuteSqlAsync(
                    $"""
                    INSERT INTO "Assets" ("Hash", "Length", "Name", "Created", "By") VALUES ({hash}, {length}, {name}, {now}, {by}) ON CONFLICT DO NOTHING
                    """
                )
            );
    }
}
