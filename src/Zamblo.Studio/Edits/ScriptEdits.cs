using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A whole script becomes cast, scenes and lines, and is spoken.</summary>
public sealed record BringScript(string Text) : SceneEdit;

internal sealed class ScriptEdits(CastLibrary library) : IEditHandler<BringScript>
{
    private const int Longest = 2_000_000,
        LongestHeading = 120;

    public Task<object?> PrepareAsync(BringScript edit, CancellationToken cancel)
    {
        if (edit.Text.Length > Longest)
            throw new RequestException("A script has at most two million characters.");
        var play = Screenplay.Read(edit.Text.Replace("\0", "", StringComparison.Ordinal));
        if (play.Lines.Count == 0)
            throw new RequestException(string.Join(" ", play.Problems));
        if (play.Lines.FirstOrDefault(l => l.Text.Length > Espeak.MaximalText) is { } tooLong)
            throw new RequestException($"What {tooLong.Role} says is longer than {Espeak.MaximalText:N0} characters: cut it into speeches.");
        return Task.FromResult<object?>(play);
    }

    public async Task ApplyAsync(BringScript edit, EditScope scope)
    {
        scope.Name = "Bring in a script";
        var (db, production, play) = (scope.Db, scope.Production.Id, scope.Prepared<Screenplay>());
        var members = await scope.CastAsync();
        var roles = play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
        var missing = roles.Where(r => !members.Exists(m => Is(m, r))).ToArray();
        if (members.Count + missing.Length > CastEdits.Most)
            throw new RequestException(
                $"Eight cast members are the most that one stage holds; with this script there would be {members.Count + missing.Length}."
            );
        var casting = SceneBuilder.Casting(library, missing, [.. members.Select(m => m.Voice)]);
        var order = members.Count == 0 ? 0 : members.Max(m => m.Order);
        for (var i = 0; i < missing.Length; i++)
        {
            var member = ProductionList.Member(library, production, ++order, casting[i].Character);
            (member.RoleName, member.Voice) = (Named(missing[i]), casting[i].Voice);
            db.CastMembers.Add(member);
            members.Add(member);
        }
        var last = await db.Lines.Where(l => l.SceneId == edit.Scene).MaxAsync(l => (int?)l.Order) ?? 0;
        var scene = await db.Scenes.FirstAsync(s => s.Id == edit.Scene);
        // The scene that is open takes the first one of the script; each further one that is spoken in follows as a scene of its own.
        var heading = play.Lines[0].Scene;
        if (last == 0 && Heading(heading) is { } first)
            scene.Title = first;
        foreach (var said in play.Lines)
        {
            if (said.Scene != heading)
            {
                (heading, last) = (said.Scene, 0);
                scene = await SceneEdits.AddAfterAsync(db, scene, Heading(heading));
            }
            var member = members.First(m => Is(m, said.Role));
            var delivery = Delivery.FromDirection(said.Parenthetical);
            var line = new Line
            {
                Id = Guid.NewGuid(),
                SceneId = scene.Id,
                CastMemberId = member.Id,
                Order = ++last,
                Text = said.Text,
                Delivery = Column.Write(delivery),
            };
            db.Lines.Add(line);
            if (said.Parenthetical != null && MoodSuggestions.FromDirection(said.Parenthetical) is { } mood)
                db.Clips.Add(ClipRows.WholeLine(line, mood));
            scope.Order(TakeOrder.Speak, "Speak a line", new TakeOrder(scene.Id, line.Id, member.Id, said.Text, TakeKind.Synthesis, null, "", delivery));
        }
        scope.Answer = new EditAnswer
        {
            Lines = play.Lines.Count,
            Members = missing.Length,
            Problems = play.Problems,
        };
        string? Heading(int number) =>
            play.Scenes.ElementAtOrDefault(number) is { Length: > 0 } h
                ? h.Length > LongestHeading
                    ? h[..LongestHeading]
                    : h
                : null;
    }

    // A name that is too long to keep is still the same role.
    private static bool Is(CastMember member, string role) =>
        member.RoleName.Equals(role, StringComparison.OrdinalIgnoreCase) || member.RoleName.Equals(Named(role), StringComparison.OrdinalIgnoreCase);

    // MARO becomes Maro; what is written in small letters stays.
    private static string Named(string role)
    {
        var name = role.Any(char.IsLower) ? role : string.Join(' ', role.Split(' ').Select(w => w.Length > 1 ? w[..1] + w[1..].ToLowerInvariant() : w));
        return name.Length > CastEdits.LongestRole ? name[..CastEdits.LongestRole] : name;
    }
}
