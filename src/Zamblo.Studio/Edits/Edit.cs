using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>What an edit is aimed at.</summary>
public enum TargetKind
{
    Production,
    Scene,
    Member,
    Line,
    Take,
    Clip,
    Sound,
    Prop,
}

/// <summary>The thing that an edit is aimed at: it says whose production it is.</summary>
public readonly record struct EditTarget(TargetKind Kind, Guid Id);

/// <summary>An edit of a production, as a person or a job asks for it. Each kind has a handler (<see cref="IEditHandler{T}"/>).</summary>
public abstract record Edit
{
    /// <summary>The revision that it was made on; null for work that does not depend on one.</summary>
    public long? Revision { get; init; }

    /// <summary>What it is aimed at.</summary>
    [JsonIgnore]
    public abstract EditTarget Target { get; }
}

/// <summary>Carries out one kind of edit.</summary>
public interface IEditHandler<in T>
    where T : Edit
{
    /// <summary>Work that takes long or may fail, before anything is changed: sound that is made, files that are read.</summary>
    /// <returns>What <see cref="ApplyAsync"/> finds in its scope.</returns>
    Task<object?> PrepareAsync(T edit, CancellationToken cancel) => Task.FromResult<object?>(null);

    /// <summary>Changes rows in their present state, and names the edit.</summary>
    /// <exception cref="RequestException">It cannot be done; nothing is changed.</exception>
    Task ApplyAsync(T edit, EditScope scope);
}

/// <summary>What people and pages are told of an edit that was made.</summary>
public sealed record EditAnswer
{
    /// <summary>That holds now.</summary>
    public long Revision { get; init; }

    /// <summary>Of what came into being.</summary>
    public Guid? Id { get; init; }

    /// <summary>Work that was ordered.</summary>
    public Guid? Job { get; init; }

    /// <summary>Touch-ups that were made or changed.</summary>
    public IReadOnlyList<Guid>? Touched { get; init; }

    /// <summary>How many of what the edit is about.</summary>
    public int? Count { get; init; }

    /// <summary>Keys of a performed motion.</summary>
    public int? Keys { get; init; }

    /// <summary>What has changed, in a sentence, where that is not seen at once.</summary>
    public string? Said { get; init; }

    /// <summary>Lines that came into being.</summary>
    public int? Lines { get; init; }

    /// <summary>Members that joined the cast.</summary>
    public int? Members { get; init; }

    /// <summary>What was not understood.</summary>
    public IReadOnlyList<string>? Problems { get; init; }
}

/// <summary>One edit while it is made: a transaction, the production, and what it leaves to be done.</summary>
public sealed class EditScope(ZambloContext db, Production production, SceneDesk scenes, object? prepared)
{
    private readonly List<Job> _orders = [];

    /// <summary>Rows that are changed here are recorded.</summary>
    public ZambloContext Db => db;

    /// <summary>Whose edit.</summary>
    public Production Production => production;

    /// <summary>What people read in the history: "Delete a line".</summary>
    public string Name { get; set; } = "Change";

    /// <summary>What is told of it.</summary>
    public EditAnswer Answer { get; set; } = new();

    /// <summary>Work that is to be done afterwards.</summary>
    public IReadOnlyList<Job> Orders => _orders;

    /// <summary>What was made ready before.</summary>
    public T Prepared<T>() => (T)prepared!;

    /// <summary>A scene of this production as it was before this edit.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task<LoadedScene> SceneAsync(Guid id)
    {
        var scene = await scenes.LoadAsync(id);
        return scene.Production.Id == production.Id ? scene : throw new NotFoundException("such scene");
    }

    /// <summary>The scene of a line of this production, as it was before this edit, and the line's row.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task<(LoadedScene Scene, Line Line)> LineAsync(Guid id)
    {
        var line = await db.Lines.FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
        return (await SceneAsync(line.SceneId), line);
    }

    /// <summary>The members of this production, in their order.</summary>
    public Task<List<CastMember>> CastAsync() => db.CastMembers.Where(m => m.ProductionId == production.Id).OrderBy(m => m.Order).ToListAsync();

    /// <summary>A member of this production.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task<CastMember> MemberAsync(Guid id) =>
        await db.CastMembers.FirstOrDefaultAsync(m => m.Id == id && m.ProductionId == production.Id) ?? throw new NotFoundException("such cast member");

    /// <summary>Orders work in the background, in the same transaction.</summary>
    public Guid Order<T>(string kind, string title, T payload)
    {
        var job = Jobs.JobDesk.New(kind, production.Id, title, payload);
        db.Jobs.Add(job);
        _orders.Add(job);
        return job.Id;
    }
}
