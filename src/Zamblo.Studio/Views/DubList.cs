using Zamblo.Core.Scenes;
using Zamblo.Data;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>The same line in another language.</summary>
/// <param name="Scene">In which scene of the other production.</param>
/// <param name="Text">What is said.</param>
/// <param name="Start">Its take, in seconds of that scene.</param>
/// <param name="End">Of its take, in seconds of that scene.</param>
/// <param name="Length">From the first sound of speech to the last, in seconds.</param>
public sealed record DubOther(Guid Scene, string Text, double Start, double End, double Length);

/// <summary>A line beside the same line in another language.</summary>
/// <param name="Line">Its id.</param>
/// <param name="Role">Who says it.</param>
/// <param name="Text">What is said.</param>
/// <param name="Start">Its take, in seconds of the scene; null while it has no voice.</param>
/// <param name="End">Of its take, in seconds of the scene.</param>
/// <param name="Length">From the first sound of speech to the last, in seconds.</param>
/// <param name="Speed">Of its take.</param>
/// <param name="IsLeft">Nobody has translated it: it has the words and the voice of the other.</param>
/// <param name="Beside">The other; null for a line that is only here.</param>
public sealed record DubRow(Guid Line, string Role, string Text, double? Start, double? End, double? Length, double Speed, bool IsLeft, DubOther? Beside);

/// <summary>A scene beside the same in another language.</summary>
/// <param name="Beside">The other production; null where there is none.</param>
/// <param name="Versions">All languages that there are.</param>
/// <param name="Rows">Line by line, in order of the script.</param>
/// <param name="Captioned">Languages in which captions are written and nobody speaks yet.</param>
public sealed record DubList(Guid? Beside, IReadOnlyList<VersionCard> Versions, IReadOnlyList<DubRow> Rows, IReadOnlyList<string> Captioned);

/// <summary>Lays languages beside each other.</summary>
public sealed class DubDesk(SceneDesk scenes, LanguageVersions versions)
{
    /// <summary>A scene beside the same in another language.</summary>
    /// <param name="id">Of the scene.</param>
    /// <param name="beside">The other production; null for the original, or of an original for its first version.</param>
    /// <exception cref="NotFoundException">There is no such scene.</exception>
    public async Task<DubList> OfAsync(Guid id, Guid? beside)
    {
        var scene = await scenes.LoadAsync(id);
        var all = await versions.ListAsync(scene.Production.Id);
        var other = (all.FirstOrDefault(v => v.Id == beside) ?? all.FirstOrDefault(v => v.Id != scene.Production.Id))?.Id;
        var there = other is { } production && other != scene.Production.Id ? await LinesAsync(production) : new Dictionary<Guid, (LoadedScene, Line)>();
        var captioned = scene.Document.Lines.SelectMany(l => l.Captions.Keys).Where(k => k.Length > 0).Distinct().Except(all.Select(v => v.Language));
        return new DubList(
            there.Count > 0 ? other : null,
            all,
            [.. scene.Lines.Select(l => RowOf(scene, l, there.GetValueOrDefault(KeyOf(l))))],
            [.. captioned.Order(StringComparer.Ordinal)]
        );
    }

    /// <summary>Every line of a production, by the line of the original that it is.</summary>
    public async Task<IReadOnlyDictionary<Guid, (LoadedScene Scene, Line Line)>> LinesAsync(Guid production)
    {
        var found = new Dictionary<Guid, (LoadedScene, Line)>();
        foreach (var card in await scenes.ScenesAsync(production))
        {
            var scene = await scenes.LoadAsync(card.Id);
            foreach (var line in scene.Lines)
                found.TryAdd(KeyOf(line), (scene, line));
        }
        return found;
    }

    /// <summary>The line of the original that a line is: itself, where it is of no version.</summary>
    public static Guid KeyOf(Line line) => line.OriginalId ?? line.Id;

    /// <summary>How long somebody speaks in a line, in seconds.</summary>
    public static double LengthOf(PlacedLine line) => Math.Max(0.05, line.Time.Last - line.Time.First);

    private static DubRow RowOf(LoadedScene scene, Line line, (LoadedScene Scene, Line Line) other)
    {
        var (placed, text) = (scene.Find(line.Id), scene.WrittenOf(line));
        var beside =
            other.Line != null && other.Scene.Find(other.Line.Id) is { } there
                ? new DubOther(other.Scene.Scene.Id, other.Scene.WrittenOf(other.Line), there.Start, there.End, LengthOf(there))
                : null;
        return new DubRow(
            line.Id,
            scene.Member(line.CastMemberId).RoleName,
            text,
            placed?.Start,
            placed?.End,
            placed == null ? null : LengthOf(placed),
            placed?.Line.Care.Speed ?? 1,
            beside != null && beside.Text == text,
            beside
        );
    }
}
