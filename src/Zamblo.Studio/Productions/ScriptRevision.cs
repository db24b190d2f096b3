using System.Text.Json.Serialization;
using Zamblo.Core;
using Zamblo.Core.Interchange;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>A line of a production beside its speech in another version of the script.</summary>
/// <param name="Line">Its id; null for a speech that is new.</param>
/// <param name="Part">Index of the speech among those of the script; null for a line that is gone.</param>
/// <param name="Scene">Number of the scene that it stands in, in the script, from 0; of a line that is gone, that of its neighbour.</param>
/// <param name="Role">Who says it there; of a line that is gone, who said it.</param>
/// <param name="OldRole">Who says it here, where that is somebody else; else null.</param>
/// <param name="IsMoved">It stands elsewhere among the others.</param>
/// <param name="IsWritten">Its words are others.</param>
/// <param name="Words">Its words, here and there.</param>
/// <param name="Hangs">What of hands' work hangs on words that are not there any more, in words; empty for nothing.</param>
public sealed record RevisionRow(
    Guid? Line,
    int? Part,
    int Scene,
    string Role,
    string? OldRole,
    bool IsMoved,
    bool IsWritten,
    IReadOnlyList<WordChange> Words,
    string Hangs
)
{
    /// <summary>Nothing about it is to be done.</summary>
    public bool IsSame => Line != null && Part != null && OldRole == null && !IsMoved && !IsWritten;
}

/// <summary>A production beside another version of its script.</summary>
/// <param name="Rows">In the order of the script; what is gone stands where it stood.</param>
/// <param name="Scenes">Headings of the script.</param>
/// <param name="Problems">What of the script was not understood.</param>
public sealed record ScriptRevision(IReadOnlyList<RevisionRow> Rows, IReadOnlyList<string> Scenes, IReadOnlyList<string> Problems)
{
    /// <summary>
    /// For each scene of the script the one of the production that it is, or null for a new one; nothing where the script tells of no scenes: then lines
    /// stay in theirs.
    /// </summary>
    [JsonIgnore]
    public IReadOnlyDictionary<int, Guid?> Places { get; init; } = new Dictionary<int, Guid?>();

    /// <summary>Lays both beside each other.</summary>
    /// <param name="scenes">Of the production, in their order.</param>
    /// <param name="play">The script.</param>
    /// <param name="cast">Who plays a role, by its name; a role that is missing is somebody new.</param>
    public static ScriptRevision Of(IReadOnlyList<LoadedScene> scenes, Screenplay play, IReadOnlyDictionary<string, Guid> cast)
    {
        var names = scenes.SelectMany(s => s.Members).DistinctBy(m => m.Id).ToDictionary(m => m.Id.Value, m => m.RoleName);
        string NameOf(string role) => cast.TryGetValue(role, out var id) && names.TryGetValue(id, out var name) ? name : ScriptView.Named(role);
        var lines = scenes.SelectMany(s => s.Lines.Select(l => (Scene: s, Line: l))).ToArray();
        ScriptSpeechText[] old = [.. lines.Select(l => new ScriptSpeechText(names[l.Line.CastMemberId], l.Scene.WrittenOf(l.Line)))],
            now = [.. play.Lines.Select(l => new ScriptSpeechText(NameOf(l.Role), l.WithDirection))];
        var rows = new List<RevisionRow>();
        var heading = play.Lines.Count > 0 ? play.Lines[0].Scene : 0;
        foreach (var match in ScriptMatch.Of(old, now))
        {
            if (match.New is { } there)
                heading = play.Lines[there].Scene;
            if (match.Old is not { } here)
            {
                rows.Add(new(null, match.New, heading, now[match.New!.Value].Role, null, false, true, [new(now[match.New.Value].Text, 1)], ""));
                continue;
            }
            var (scene, line) = lines[here];
            if (match.New is not { } part)
            {
                rows.Add(new(line.Id, null, heading, old[here].Role, null, false, false, [new(old[here].Text, -1)], Hanging(scene, line, _ => true)));
                continue;
            }
            var isWritten = !IsSaidSo(line, old[here].Text, now[part].Text);
            var kept = ScriptText.Words(now[part].Text).Select(w => PhoneMap.Plain(w.Text)).ToHashSet();
            rows.Add(
                new(
                    line.Id,
                    part,
                    heading,
                    now[part].Role,
                    old[here].Role.Equals(now[part].Role, StringComparison.OrdinalIgnoreCase) ? null : old[here].Role,
                    match.IsMoved,
                    isWritten,
                    isWritten ? ScriptMatch.Words(old[here].Text, now[part].Text) : [new(now[part].Text, 0)],
                    isWritten ? Hanging(scene, line, word => word.Length > 0 && !kept.Contains(PhoneMap.Plain(word))) : ""
                )
            );
        }
        if (!play.Scenes.Any(h => h.Length > 0))
            return new ScriptRevision(rows, play.Scenes, play.Problems);
        var sceneOf = lines.ToDictionary(l => l.Line.Id, l => l.Line.SceneId);
        var places = PlacesOf([.. scenes.Select(s => s.Scene.Id)], rows, sceneOf);
        // Whose scene is another one has been moved, too.
        bool GoesElsewhere(RevisionRow r) => r is { Line: { } id, Part: not null } && places[r.Scene] != sceneOf[id];
        return new ScriptRevision([.. rows.Select(r => GoesElsewhere(r) ? r with { IsMoved = true } : r)], play.Scenes, play.Problems) { Places = places };
    }

    // The scene that most of its lines are in, none before the one of the scene before.
    private static Dictionary<int, Guid?> PlacesOf(IReadOnlyList<Guid> scenes, IReadOnlyList<RevisionRow> rows, IReadOnlyDictionary<Guid, Guid> sceneOf)
    {
        var places = new Dictionary<int, Guid?>();
        var order = scenes.Select((s, i) => (s, i)).ToDictionary(x => x.s, x => x.i);
        var next = 0;
        foreach (var heading in rows.Where(r => r.Part != null).GroupBy(r => r.Scene).OrderBy(g => g.Key))
        {
            var best = heading
                .Where(r => r is { Line: not null, IsMoved: false })
                .GroupBy(r => sceneOf[r.Line!.Value])
                .Where(g => order[g.Key] >= next)
                .OrderByDescending(g => g.Count())
                .ThenBy(g => order[g.Key])
                .FirstOrDefault();
            // A production in which nobody says anything yet has a scene that waits.
            places[heading.Key] = best?.Key ?? (sceneOf.Count == 0 && next < scenes.Count ? scenes[next] : null);
            if (places[heading.Key] is { } found)
                next = order[found] + 1;
        }
        return places;
    }

    /// <summary>Who of those that are there plays which role.</summary>
    /// <param name="play">The script.</param>
    /// <param name="wished">Who plays whom, as somebody has said.</param>
    /// <param name="members">Everybody.</param>
    internal static Dictionary<string, Guid> Roles(Screenplay play, IReadOnlyList<ScriptRole>? wished, IReadOnlyList<CastMember> members)
    {
        var cast = new Dictionary<string, Guid>(StringComparer.OrdinalIgnoreCase);
        foreach (var role in play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase))
            if (members.FirstOrDefault(m => ScriptView.Is(m, role)) is { } known)
                cast[role] = known.Id;
        foreach (var named in wished ?? [])
            if (named.Member is { } member)
                cast[named.Role] = member;
            else
                cast.Remove(named.Role);
        return cast;
    }

    // As it is written here, or as it goes out into a script, with the name of its delivery in front. What was only heard is the same in other signs, too.
    private static bool IsSaidSo(Line line, string old, string now)
    {
        static string Tidy(string text) => string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        static string Bare(string text) => string.Concat(Directions.Spoken(text).Where(char.IsLetterOrDigit)).ToLowerInvariant();
        if (Tidy(old) == Tidy(now) || line.Text.Trim().Length == 0 && Bare(old) == Bare(now))
            return true;
        return ProductionScript.DirectionOf(line, old) is { } how && Tidy($"({how}) {old}") == Tidy(now);
    }

    // What loses its word when those that a rule names are gone.
    private static string Hanging(LoadedScene scene, Line line, Func<string, bool> isGone)
    {
        var clips = scene.ClipRows.Where(c => c.LineId == line.Id).Select(ClipRows.Read).OfType<LaneClip>().Count(Loses);
        var touches = scene.Hand.Touches.Where(t => t.LineId == line.Id).Select(HandWork.Read).Count(Lies);
        static string Count(int n, string what) => n == 1 ? $"1 {what}" : $"{n} {what}s";
        var captions = CaptionEdits.Read(line).Keys.Select(k => k.Length > 0 ? k : "as written").Order(StringComparer.Ordinal).ToArray();
        return string.Join(
            ", ",
            new[]
            {
                clips > 0 ? Count(clips, "clip") : "",
                touches > 0 ? Count(touches, "touch-up") : "",
                captions.Length > 0 ? $"captions ({string.Join(", ", captions)})" : "",
            }.Where(t => t.Length > 0)
        );
        bool Lies(TouchUp touch) => touch.Context.Any(p => isGone(p.Word) && p.End > touch.Start && p.Start < touch.End);
        bool Loses(LaneClip clip)
        {
            var loses = false;
            clip.Moved(a =>
            {
                loses |= isGone(a.Text);
                return a;
            });
            return loses;
        }
    }
}

/// <summary>Looks at scripts without changing anything.</summary>
public sealed class ScriptDesk(SceneDesk scenes)
{
    /// <summary>What another version of the script would change.</summary>
    /// <param name="scene">One of the production's.</param>
    /// <param name="wish">As it would be brought.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="RequestException">It says nothing, or what nobody can speak.</exception>
    public async Task<ScriptRevision> CompareAsync(Guid scene, ReviseScript wish, CancellationToken cancel)
    {
        var play = await ScriptEdits.ReadAsync(wish.Text ?? "", wish.Parts, wish.Scenes, wish.Cast, cancel);
        var production = (await scenes.LoadAsync(scene)).Production.Id;
        var members = await scenes.CastOfAsync(scene);
        var cast = ScriptRevision.Roles(play, wish.Cast, members);
        var loaded = new List<LoadedScene>();
        foreach (var card in await scenes.ScenesAsync(production))
            loaded.Add(await scenes.LoadAsync(card.Id));
        return ScriptRevision.Of(loaded, play, cast);
    }
}
