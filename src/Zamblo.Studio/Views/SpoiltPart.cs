using System.Text.RegularExpressions;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>Something of a scene that could not be read as it stands.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="What">What of it is shown otherwise than it stands, or that nothing of it is shown.</param>
public sealed partial record SpoiltPart(string Name, string What)
{
    /// <summary>More of them nobody reads.</summary>
    public const int Most = 40;

    /// <summary>Of a scene, in the order in which they were found.</summary>
    public static IReadOnlyList<SpoiltPart> Of(LoadedScene scene) => [.. scene.Spoilt.Take(Most).Select(s => new SpoiltPart(NameOf(scene, s.Row), WhatOf(s)))];

    private static string WhatOf(SpoiltRow spoilt) =>
        spoilt.Fields.Count == 0
            ? "cannot be read, and is not shown"
            : string.Join(", ", spoilt.Fields.Select(f => Capital().Replace(f, " $0").Trim().ToLowerInvariant()));

    private static string NameOf(LoadedScene scene, object row) =>
        row switch
        {
            Production => "The production",
            Scene => "This scene",
            CastMember member => member.RoleName,
            Line line => LineName(scene, line.Id),
            Take take => $"A take of {LineName(scene, take.LineId)}",
            LineTouch touch => $"A touch-up of {LineName(scene, touch.LineId)}",
            TakeMark mark => $"A mark in {TakeName(scene, mark.TakeId)}",
            TakePin pin => $"A boundary in {TakeName(scene, pin.TakeId)}",
            SceneSound sound => sound.Name.Length > 0 ? sound.Name : "A sound",
            SceneProp => "A prop",
            ScoreClip { Kind: var kind } clip =>
                $"{(Enum.IsDefined(kind) ? Capital().Replace(kind.ToString(), " $0").Trim() : "A clip")} of {RoleOf(scene, clip)}",
            _ => "Something",
        };

    private static string RoleOf(LoadedScene scene, ScoreClip clip) =>
        scene.Members.FirstOrDefault(m => m.Id.Value == clip.CastMemberId)?.RoleName ?? "somebody";

    private static string LineName(LoadedScene scene, Guid id) =>
        scene.Lines.ToList().FindIndex(l => l.Id == id) is var i and >= 0 ? $"line {i + 1}" : "a line";

    private static string TakeName(LoadedScene scene, Guid take) => scene.Takes.TryGetValue(take, out var row) ? LineName(scene, row.LineId) : "a take";

    [GeneratedRegex("[A-Z]")]
    private static partial Regex Capital();
}
