using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A speech of a script as somebody has looked it through.</summary>
/// <param name="Scene">Number of its scene in the script, from 0.</param>
/// <param name="Role">Who says it.</param>
/// <param name="Text">What is said, with directions.</param>
/// <param name="IsOffStage">Heard, not seen.</param>
/// <param name="IsTogether">Said while the one before it is said.</param>
public sealed record ScriptPart(int Scene, string Role, string Text, bool IsOffStage = false, bool IsTogether = false);

/// <summary>Who plays a role.</summary>
/// <param name="Role">As the script calls it.</param>
/// <param name="Member">A member that is there, or null for a new one.</param>
/// <param name="Character">Of a new one.</param>
/// <param name="Voice">Of a new one.</param>
public sealed record ScriptRole(string Role, Guid? Member, string? Character, string? Voice);

/// <summary>A whole script becomes cast, scenes and lines, and is spoken: as it is read, or as it was looked through.</summary>
public sealed record BringScript(string Text) : SceneEdit
{
    /// <summary>The speeches, in place of those that the text has; null takes the text's.</summary>
    public IReadOnlyList<ScriptPart>? Parts { get; init; }

    /// <summary>Headings of the scenes of <see cref="Parts"/>.</summary>
    public IReadOnlyList<string>? Scenes { get; init; }

    /// <summary>Who plays whom; roles that are not named are cast as seems best.</summary>
    public IReadOnlyList<ScriptRole>? Cast { get; init; }
}

internal sealed class ScriptEdits(ScriptCasting casting) : IEditHandler<BringScript>
{
    private const int LongestHeading = 120;

    public async Task<object?> PrepareAsync(BringScript edit, CancellationToken cancel) =>
        await ReadAsync(edit.Text, edit.Parts, edit.Scenes, edit.Cast, cancel);

    /// <summary>A script as it comes: its text, or the speeches in it as somebody has looked them through.</summary>
    /// <exception cref="RequestException">It says nothing, or what nobody can speak.</exception>
    internal static async Task<Screenplay> ReadAsync(
        string text,
        IReadOnlyList<ScriptPart>? looked,
        IReadOnlyList<string>? scenes,
        IReadOnlyList<ScriptRole>? cast,
        CancellationToken cancel
    )
    {
        foreach (var voice in (cast ?? []).Select(c => c.Voice).OfType<string>().Distinct())
            await Synthesis.CheckAsync(voice, cancel);
        var read = ScriptView.Read(text);
        var play = looked is { } parts ? Of(parts, scenes ?? []) with { Fades = read.Fades } : read;
        if (play.Lines.Count == 0)
            throw new RequestException(looked == null ? string.Join(" ", play.Problems) : "Nothing is left to say: keep at least one line.");
        if (play.Lines.FirstOrDefault(l => l.Text.Length > Espeak.MaximalText) is { } tooLong)
            throw new RequestException($"What {tooLong.Role} says is longer than {Espeak.MaximalText:N0} characters: cut it into speeches.");
        return play;
    }

    private static Screenplay Of(IReadOnlyList<ScriptPart> parts, IReadOnlyList<string> headings)
    {
        foreach (var p in parts)
        {
            if (string.IsNullOrWhiteSpace(p.Role))
                throw new RequestException($"Nobody is named who says \"{p.Text}\".");
            if (!Directions.Spoken(p.Text).Any(char.IsLetterOrDigit))
                throw new RequestException($"{p.Role} says nothing in \"{p.Text}\": write words, or leave it out.");
            Check.Range(p.Scene, 0, 1000, "A scene of a script");
        }
        var lines = parts.Select(p => new ScreenplayLine(p.Role.Trim(), p.Text.Trim(), null, p.Scene, 0, p.IsOffStage) { IsTogether = p.IsTogether });
        return new Screenplay(null, headings, [.. lines.OrderBy(l => l.Scene)], []);
    }

    public async Task ApplyAsync(BringScript edit, EditScope scope)
    {
        scope.Name = "Bring in a script";
        var (db, production, play) = (scope.Db, scope.Production.Id, scope.Prepared<Screenplay>());
        var (members, joined) = await casting.CastAsync(edit.Cast, scope, play);
        var last = await db.Lines.Where(l => l.SceneId == edit.Scene).MaxAsync(l => (int?)l.Order) ?? 0;
        var scene = await db.Scenes.FirstAsync(s => s.Id == edit.Scene);
        // The scene that is open takes the first one of the script; each further one that is spoken in follows as a scene of its own.
        var heading = play.Lines[0].Scene;
        if (last == 0 && HeadingOf(play, heading) is { } first)
        {
            scene.Title = first;
            scene.Backdrop = SetWords.SetOf(first) ?? scene.Backdrop;
        }
        if (last == 0)
            Fade(scene, play, heading);
        var named = Named(members);
        foreach (var said in play.Lines)
        {
            if (said.Scene != heading)
            {
                (heading, last) = (said.Scene, 0);
                scene = await AddSceneAsync(db, scene, play, heading);
            }
            var member = members[said.Role];
            Add(scope, scene.Id, member, ++last, said, named);
        }
        scope.Answer = new EditAnswer
        {
            Lines = play.Lines.Count,
            Members = joined,
            Problems = play.Problems,
        };
    }

    /// <summary>A scene of a script comes after another one: its title, its set, out of black and into it.</summary>
    internal static async Task<Scene> AddSceneAsync(ZambloContext db, Scene before, Screenplay play, int number)
    {
        var title = HeadingOf(play, number);
        var scene = await SceneEdits.AddAfterAsync(db, before, title);
        scene.Backdrop = SetWords.SetOf(title ?? "") ?? scene.Backdrop;
        Fade(scene, play, number);
        return scene;
    }

    private static void Fade(Scene scene, Screenplay play, int number)
    {
        if (play.Fades.TryGetValue(number, out var asked))
            scene.Camera = Column.Write(Column.Read<CameraDials>(scene.Camera).Faded(asked));
    }

    /// <summary>What a scene of a script is called; null where it has no heading.</summary>
    internal static string? HeadingOf(Screenplay play, int number) =>
        play.Scenes.ElementAtOrDefault(number) is { Length: > 0 } h ? h[..Math.Min(h.Length, LongestHeading)] : null;

    /// <summary>Directions call people as the script does, or as they are called here.</summary>
    internal static IReadOnlyList<(string, Guid)> Named(IReadOnlyDictionary<string, CastMember> cast) =>
        [.. cast.Select(m => (m.Key, m.Value.Id)), .. cast.Values.Select(m => (m.RoleName, m.Id))];

    /// <summary>A speech becomes a line, and is spoken.</summary>
    /// <param name="scope">The edit.</param>
    /// <param name="scene">In which scene.</param>
    /// <param name="member">Who says it.</param>
    /// <param name="order">Its place among the scene's lines.</param>
    /// <param name="said">The speech.</param>
    /// <param name="cast">People that directions may name.</param>
    internal static void Add(EditScope scope, Guid scene, CastMember member, int order, ScreenplayLine said, IReadOnlyList<(string, Guid)> cast)
    {
        var text = said.WithDirection;
        var how = Directions.Leading(text);
        var delivery = Delivery.FromDirection(how);
        var line = new Line
        {
            Id = Guid.NewGuid(),
            SceneId = scene,
            CastMemberId = member.Id,
            Order = order,
            Text = text,
            IsOffStage = said.IsOffStage,
            IsTogether = said.IsTogether,
            Delivery = Column.Write(delivery),
        };
        scope.Db.Lines.Add(line);
        Act(scope.Db, line, how, cast);
        scope.Order(TakeOrder.Speak, "Speak a line", new TakeOrder(scene, line.Id, member.Id, text, TakeKind.Synthesis, null, "", delivery));
    }

    /// <summary>What the directions of a line that has no voice yet ask for: a mood over all of it, gestures and looks at their words.</summary>
    internal static void Act(ZambloContext db, Line line, string? how, IEnumerable<(string Name, Guid Member)> cast)
    {
        if (how != null && MoodSuggestions.FromDirection(how) is { } mood)
            db.Clips.Add(ClipRows.WholeLine(line, mood));
        foreach (var gesture in DirectedGestures.In(line.Text))
            db.Clips.Add(ClipRows.AtWord(line, gesture));
        db.Clips.AddRange(ClipRows.Looks(line, [.. cast.Where(c => c.Member != line.CastMemberId)]));
    }
}
