using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Studio.Edits;

/// <summary>How a speech of a script is understood.</summary>
/// <param name="Row">Where it stands in the script, from 1.</param>
/// <param name="Scene">Number of its scene, from 0.</param>
/// <param name="Role">As the script calls it.</param>
/// <param name="Text">What is said, with directions.</param>
/// <param name="Direction">How all of it is said, or null.</param>
/// <param name="Mood">That it asks for, or null.</param>
/// <param name="Delivery">Name of how the voice says it, or null for plainly.</param>
/// <param name="Gestures">Keys of the gestures that directions ask for.</param>
/// <param name="Looks">Whom and where directions have eyes look: role names, "camera", "left", "right", "up", "down".</param>
/// <param name="IsOffStage">Heard, not seen.</param>
/// <param name="IsTogether">Said while the one before it is said.</param>
public sealed record ScriptSpeech(
    int Row,
    int Scene,
    string Role,
    string Text,
    string? Direction,
    string? Mood,
    string? Delivery,
    IReadOnlyList<string> Gestures,
    IReadOnlyList<string> Looks,
    bool IsOffStage,
    bool IsTogether
);

/// <summary>A role of a script and who would play it.</summary>
/// <param name="Role">As the script calls it.</param>
/// <param name="Name">As it will be called.</param>
/// <param name="Lines">So many lines it has.</param>
/// <param name="Member">The member that is there, or null.</param>
/// <param name="Character">That would play it.</param>
/// <param name="Voice">That would speak it.</param>
public sealed record ScriptCast(string Role, string Name, int Lines, Guid? Member, string Character, string Voice);

/// <summary>How a script is understood, before anything is made of it.</summary>
/// <param name="Title">From its title page, or null.</param>
/// <param name="Scenes">Its headings.</param>
/// <param name="Lines">What is said.</param>
/// <param name="Roles">Who says it.</param>
/// <param name="Unspoken">Rows that nobody says.</param>
/// <param name="Problems">What was not understood, as sentences with line numbers.</param>
public sealed record ScriptView(
    string? Title,
    IReadOnlyList<string> Scenes,
    IReadOnlyList<ScriptSpeech> Lines,
    IReadOnlyList<ScriptCast> Roles,
    IReadOnlyList<UnspokenRow> Unspoken,
    IReadOnlyList<string> Problems
)
{
    /// <summary>Reads a script's text.</summary>
    public static Screenplay Read(string text) => Screenplay.Read(text.Replace("\0", "", StringComparison.Ordinal));

    /// <summary>Looks a script through.</summary>
    /// <param name="text">Fountain, "NAME: words", WebVTT or SubRip.</param>
    /// <param name="members">Who is in the cast already.</param>
    /// <param name="library">Who could join it.</param>
    public static ScriptView Of(string text, IReadOnlyList<CastMember> members, CastLibrary library)
    {
        var play = Read(text);
        var lines = play.Lines.Select(l => SpeechOf(l, play)).ToArray();
        var roles = lines.GroupBy(l => l.Role, StringComparer.OrdinalIgnoreCase).ToArray();
        var known = roles.Select(r => members.FirstOrDefault(m => Is(m, r.Key))).ToArray();
        var missing = roles.Where((_, i) => known[i] == null).Select(r => r.Key).ToArray();
        var casting = SceneBuilder.Casting(library, missing, [.. known.OfType<CastMember>().Select(m => m.Voice)]);
        var next = 0;
        var cast = roles
            .Select(
                (r, i) =>
                {
                    var (character, voice) = known[i] is { } m ? (m.Character, m.Voice) : casting[next++];
                    return new ScriptCast(r.Key, known[i]?.RoleName ?? Named(r.Key), r.Count(), known[i]?.Id, character, voice);
                }
            )
            .ToArray();
        return new ScriptView(play.Title, play.Scenes, lines, cast, play.Unspoken, play.Problems);
    }

    /// <summary>How one speech is understood.</summary>
    public static ScriptSpeech SpeechOf(ScreenplayLine line, Screenplay play)
    {
        var text = line.WithDirection;
        var how = Directions.Leading(text);
        return new ScriptSpeech(
            line.Row,
            line.Scene,
            line.Role,
            text,
            how,
            how == null ? null : MoodSuggestions.FromDirection(how)?.ToString(),
            Delivery.NameOf(how),
            [.. DirectedGestures.In(text).Select(g => g.Gesture)],
            DirectedLooks.In(play, line),
            line.IsOffStage,
            line.IsTogether
        );
    }

    // A name that is too long to keep is still the same role.
    internal static bool Is(CastMember member, string role) =>
        member.RoleName.Equals(role, StringComparison.OrdinalIgnoreCase) || member.RoleName.Equals(Named(role), StringComparison.OrdinalIgnoreCase);

    internal static string Named(string role)
    {
        var name = RoleNames.Of(role);
        return name.Length > CastEdits.LongestRole ? name[..CastEdits.LongestRole] : name;
    }
}
