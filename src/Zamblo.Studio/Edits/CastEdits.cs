using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>Somebody joins the cast.</summary>
public sealed record AddMember(string? Character) : Edit
{
    [JsonIgnore]
    public Guid Production { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Production);
}

/// <summary>Role, character, voice or dials of a member. Of the dials only those that are named change.</summary>
public sealed record ChangeMember(string? RoleName, string? Character, string? Voice, JsonObject? Mouth, JsonObject? Performance) : Edit
{
    [JsonIgnore]
    public Guid Member { get; init; }
    public override EditTarget Target => new(TargetKind.Member, Member);
}

/// <summary>Who leaves takes the lines along; undo brings all of it back.</summary>
public sealed record RemoveMember : Edit
{
    [JsonIgnore]
    public Guid Member { get; init; }
    public override EditTarget Target => new(TargetKind.Member, Member);
}

/// <summary>Two members exchange all their lines in a scene.</summary>
public sealed record SwapMembers(Guid First, Guid Second) : SceneEdit;

internal sealed class CastEdits(CastLibrary library)
    : IEditHandler<AddMember>,
        IEditHandler<ChangeMember>,
        IEditHandler<RemoveMember>,
        IEditHandler<SwapMembers>
{
    /// <summary>So many hold on one stage.</summary>
    public const int Most = 8;

    /// <summary>Longest name of a role.</summary>
    public const int LongestRole = 40;

    public async Task ApplyAsync(AddMember edit, EditScope scope)
    {
        scope.Name = "Add a cast member";
        var key = KnownCharacter(edit.Character ?? "");
        var there = await scope.CastAsync();
        if (there.Count >= Most)
            throw new RequestException("Eight cast members are the most that one stage holds.");
        var member = ProductionList.Member(
            library,
            scope.Production.Id,
            there.Count == 0 ? 1 : there.Max(m => m.Order) + 1,
            library.Apart(key, [.. there.Select(m => m.Character)])
        );
        for (var n = 2; there.Any(m => m.RoleName == member.RoleName); n++)
            member.RoleName = $"{library.Character(key).Rig.Name} {n}";
        scope.Db.CastMembers.Add(member);
        scope.Answer = new EditAnswer { Id = member.Id };
    }

    public async Task<object?> PrepareAsync(ChangeMember edit, CancellationToken cancel)
    {
        if (edit.Voice != null)
            await Synthesis.CheckAsync(edit.Voice, cancel);
        return null;
    }

    public async Task ApplyAsync(ChangeMember edit, EditScope scope)
    {
        scope.Name =
            edit.RoleName != null ? "Rename a role"
            : edit.Character != null ? "Recast a role"
            : edit.Voice != null ? "Change a voice"
            : edit.Mouth != null ? "Turn a mouth dial"
            : "Turn a motion dial";
        var member = await scope.MemberAsync(edit.Member);
        if (edit.RoleName != null)
            member.RoleName = Check.Name(edit.RoleName, LongestRole, "A role name");
        if (edit.Character != null)
        {
            var others = (await scope.CastAsync()).Where(m => m.Id != member.Id).Select(m => m.Character);
            member.Character = library.Apart(KnownCharacter(edit.Character), [.. others]);
        }
        if (edit.Voice != null)
            member.Voice = edit.Voice;
        if (edit.Mouth != null)
            member.MouthDials = Column.Write(Dials.Turned(Column.Read<MouthDials>(member.MouthDials), edit.Mouth).Clamped());
        if (edit.Performance != null)
            member.PerformanceDials = Column.Write(Dials.Turned(Column.Read<PerformanceDials>(member.PerformanceDials), edit.Performance).Clamped());
    }

    public async Task ApplyAsync(RemoveMember edit, EditScope scope)
    {
        scope.Name = "Remove a cast member";
        var gone = await scope.MemberAsync(edit.Member);
        // The light is nobody's: its changes stay with whoever stays.
        var others = (await scope.CastAsync()).Where(m => m.Id != gone.Id).ToArray();
        async Task LeaveAsync(ClipKind kind, CastMember? to)
        {
            if (to != null)
                foreach (var clip in await scope.Db.Clips.Where(c => c.CastMemberId == gone.Id && c.Kind == kind).ToListAsync())
                    clip.CastMemberId = to.Id;
        }
        await LeaveAsync(ClipKind.Light, others.FirstOrDefault());
        // Nor is what of a filmed clip is shown when, while somebody of it is there.
        if (library.Character(gone.Character) is PlateFigure plate)
            await LeaveAsync(ClipKind.Footage, Array.Find(others, m => library.Character(m.Character) is PlateFigure other && plate.IsOfOneClip(other)));
        await ProductionRows.RemoveAsync(scope.Db, [gone]);
    }

    public async Task ApplyAsync(SwapMembers edit, EditScope scope)
    {
        scope.Name = "Change two speakers over";
        var (first, second) = (await scope.MemberAsync(edit.First), await scope.MemberAsync(edit.Second));
        Guid Other(Guid member) => member == first.Id ? second.Id : first.Id;
        foreach (
            var line in await scope.Db.Lines.Where(l => l.SceneId == edit.Scene && (l.CastMemberId == first.Id || l.CastMemberId == second.Id)).ToListAsync()
        )
            line.CastMemberId = Other(line.CastMemberId);
        foreach (
            var clip in await scope
                .Db.Clips.Where(c => c.SceneId == edit.Scene && c.LineId != null && (c.CastMemberId == first.Id || c.CastMemberId == second.Id))
                .ToListAsync()
        )
            clip.CastMemberId = Other(clip.CastMemberId);
    }

    private string KnownCharacter(string key) => library.Has(key) ? key : throw new RequestException($"There is no character \"{key}\".");
}
