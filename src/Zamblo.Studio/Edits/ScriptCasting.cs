using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Productions;

namespace Zamblo.Studio.Edits;

/// <summary>Who plays each role of a script. Where nobody has said anything yet, members that the script does not know make room for its roles.</summary>
internal sealed class ScriptCasting(CastLibrary library)
{
    /// <summary>Casts the roles of a script.</summary>
    /// <param name="asked">Who plays whom; roles that are not named are cast as seems best.</param>
    /// <param name="scope">The edit that brings the script.</param>
    /// <param name="play">The script.</param>
    /// <exception cref="RequestException">They are more than one stage holds.</exception>
    public async Task<(Dictionary<string, CastMember> Members, int Joined)> CastAsync(IReadOnlyList<ScriptRole>? asked, EditScope scope, Screenplay play)
    {
        var (db, production) = (scope.Db, scope.Production.Id);
        var there = await scope.CastAsync();
        var cast = new Dictionary<string, CastMember>(StringComparer.OrdinalIgnoreCase);
        var wishes = new Dictionary<string, ScriptRole>(StringComparer.OrdinalIgnoreCase);
        foreach (var wish in asked ?? [])
            wishes[wish.Role] = wish;
        var roles = play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
        foreach (var role in roles)
            if (wishes.TryGetValue(role, out var wish))
            {
                if (wish.Member is { } id)
                    cast[role] = there.Find(m => m.Id == id) ?? throw new NotFoundException("such cast member");
            }
            else if (there.Find(m => ScriptView.Is(m, role)) is { } known)
                cast[role] = known;
        var missing = roles.Where(r => !cast.ContainsKey(r)).ToArray();
        var spare = new Queue<CastMember>();
        if (!await db.Lines.AnyAsync(l => db.Scenes.Any(s => s.Id == l.SceneId && s.ProductionId == production)))
            foreach (var unused in there.Where(m => !cast.ContainsValue(m)))
                spare.Enqueue(unused);
        if (there.Count - spare.Count + missing.Length > CastEdits.Most)
            throw new RequestException(
                $"Eight cast members are the most that one stage holds; with this script there would be {there.Count - spare.Count + missing.Length}."
            );
        var casting = SceneBuilder.Casting(library, missing, [.. cast.Values.Select(m => m.Voice)]);
        var order = there.Count == 0 ? 0 : there.Max(m => m.Order);
        for (var i = 0; i < missing.Length; i++)
        {
            var wish = wishes.GetValueOrDefault(missing[i]);
            var wished = wish?.Character is { } named && library.Has(named) ? named : casting[i].Character;
            var character = library.Apart(wished, [.. cast.Values.Select(m => m.Character)]);
            if (!spare.TryDequeue(out var member))
            {
                member = ProductionList.Member(library, production, ++order, character);
                db.CastMembers.Add(member);
            }
            (member.RoleName, member.Character) = (ScriptView.Named(missing[i]), character);
            member.Voice = wish?.Voice ?? casting[i].Voice;
            cast[missing[i]] = member;
        }
        db.CastMembers.RemoveRange(spare);
        return (cast, missing.Length);
    }
}
