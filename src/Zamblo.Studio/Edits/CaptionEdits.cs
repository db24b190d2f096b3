using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;

namespace Zamblo.Studio.Edits;

/// <summary>What captions have in place of what is said in a line; empty gives back what is said.</summary>
/// <param name="Language">Tag of a language; empty for the one that is spoken.</param>
/// <param name="Text">A new row begins a new caption.</param>
public sealed record WriteCaption(string? Language, string? Text) : LineEdit;

/// <summary>
/// A script in another language: its speeches become the captions of the production's lines, in their order. Nothing is changed where there are not as many.
/// </summary>
/// <param name="Language">Tag of the language.</param>
/// <param name="Text">The script, in any form that is understood.</param>
public sealed record BringCaptions(string? Language, string? Text) : Edit
{
    [System.Text.Json.Serialization.JsonIgnore]
    public Guid Production { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Production);
}

/// <summary>All captions of a language go.</summary>
/// <param name="Language">Tag of the language; empty for the one that is spoken.</param>
public sealed record RemoveCaptions(string? Language) : Edit
{
    [System.Text.Json.Serialization.JsonIgnore]
    public Guid Production { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Production);
}

internal sealed class CaptionEdits : IEditHandler<WriteCaption>, IEditHandler<BringCaptions>, IEditHandler<RemoveCaptions>
{
    private const int MostLanguages = 30;

    /// <summary>Of a line's row; what is spoilt is none.</summary>
    public static IReadOnlyDictionary<string, string> Read(Line line) => Column.Read<Dictionary<string, string>>(line.Captions);

    /// <summary>As a row has it.</summary>
    public static string Write(IReadOnlyDictionary<string, string> captions) =>
        captions.Count == 0 ? "" : Column.Write(new SortedDictionary<string, string>(captions.ToDictionary(), StringComparer.Ordinal));

    private static void Set(Line line, string language, string text)
    {
        var captions = Read(line).ToDictionary();
        captions.Remove(language);
        if (text.Length > 0)
            captions[language] = text;
        if (captions.Count > MostLanguages)
            throw new RequestException($"A line has captions in at most {MostLanguages} languages.");
        line.Captions = Write(captions);
    }

    private static string Tidy(string? text)
    {
        text = string.Join('\n', (text ?? "").ReplaceLineEndings("\n").Split('\n').Select(row => row.Trim()).Where(row => row.Length > 0));
        if (text.Length > CaptionWording.LongestText)
            throw new RequestException($"The captions of a line have at most {CaptionWording.LongestText:N0} characters.");
        return text.Any(c => char.IsControl(c) && c != '\n') ? throw new RequestException("Captions have no control characters.") : text;
    }

    public async Task ApplyAsync(WriteCaption edit, EditScope scope)
    {
        scope.Name = "Change a caption";
        var (_, line) = await scope.LineAsync(edit.Line);
        Set(line, Check.Language(edit.Language), Tidy(edit.Text));
    }

    public async Task ApplyAsync(BringCaptions edit, EditScope scope)
    {
        var language = Check.Language(edit.Language);
        if (language.Length == 0)
            throw new RequestException("Say which language the script is in.");
        scope.Name = $"Bring in captions ({language})";
        foreach (var (line, speech) in Translated(await LinesAsync(scope.Db, scope.Production.Id), edit.Text ?? ""))
            Set(line, language, Tidy(Directions.Spoken(speech.Text)));
    }

    public async Task ApplyAsync(RemoveCaptions edit, EditScope scope)
    {
        var language = Check.Language(edit.Language);
        scope.Name = language.Length == 0 ? "Captions as it is said" : $"Remove captions ({language})";
        foreach (var line in await LinesAsync(scope.Db, scope.Production.Id))
            Set(line, language, "");
    }

    /// <summary>Lines with their speeches in a translated script, one by one.</summary>
    /// <exception cref="RequestException">There are not as many.</exception>
    internal static IEnumerable<(Line Line, ScreenplayLine Speech)> Translated(IReadOnlyList<Line> lines, string text)
    {
        var speeches = ScriptView.Read(text).Lines;
        return speeches.Count == lines.Count
            ? lines.Zip(speeches)
            : throw new RequestException(
                $"This script has {speeches.Count} speeches, the production has {lines.Count} lines: both go together one by one. Nothing is changed."
            );
    }

    /// <summary>Lines of all scenes, in the order of the film.</summary>
    internal static async Task<IReadOnlyList<Line>> LinesAsync(ZambloContext db, Guid production)
    {
        var scenes = await db.Scenes.Where(s => s.ProductionId == production).ToDictionaryAsync(s => s.Id, s => s.Order);
        var ids = scenes.Keys.ToArray();
        var lines = await db.Lines.Where(l => ids.Contains(l.SceneId)).ToListAsync();
        return [.. lines.OrderBy(l => scenes[l.SceneId]).ThenBy(l => l.Order)];
    }

    /// <summary>Captions of both halves of a line that is split.</summary>
    public static (string First, string Second) Split(Line line, PlacedLine placed, double at)
    {
        Dictionary<string, string> first = [],
            second = [];
        var said = ScriptText.AsWritten(placed.Speech?.Words ?? [], SceneText.WordsOf(placed));
        foreach (var (language, text) in Read(line))
        {
            var (a, b) = CaptionWording.Split(said, text, at);
            if (a.Length > 0)
                first[language] = a;
            if (b.Length > 0)
                second[language] = b;
        }
        return (Write(first), Write(second));
    }

    /// <summary>Captions of two lines whose boundary comes later by so many seconds: what is said between goes over.</summary>
    public static (string First, string Second) MoveBoundary(Line first, PlacedLine placedFirst, Line second, PlacedLine placedSecond, double by)
    {
        var (a, b) = (Read(first), Read(second));
        var (giver, placed, at) = by > 0 ? (b, placedSecond, by) : (a, placedFirst, placedFirst.Duration + by);
        var said = ScriptText.AsWritten(placed.Speech?.Words ?? [], SceneText.WordsOf(placed));
        Dictionary<string, string> one = [],
            two = [];
        foreach (var language in a.Keys.Union(b.Keys))
        {
            var (before, after) = CaptionWording.Split(said, giver.GetValueOrDefault(language) ?? SceneText.WordsOf(placed).Trim(), at);
            string Whole(IReadOnlyDictionary<string, string> own, PlacedLine line) => own.GetValueOrDefault(language) ?? SceneText.WordsOf(line).Trim();
            // Whose words are not its captions stays without.
            if (by > 0)
            {
                one[language] = CaptionWording.Join(Whole(a, placedFirst), before);
                if (b.ContainsKey(language) && after.Length > 0)
                    two[language] = after;
            }
            else
            {
                two[language] = CaptionWording.Join(after, Whole(b, placedSecond));
                if (a.ContainsKey(language) && before.Length > 0)
                    one[language] = before;
            }
        }
        return (Write(one), Write(two));
    }

    /// <summary>Captions of two lines that are joined: where only one has any, the other has what is said.</summary>
    public static string Join(Line first, PlacedLine placedFirst, Line second, PlacedLine placedSecond)
    {
        var (a, b) = (Read(first), Read(second));
        var joined = new Dictionary<string, string>();
        foreach (var language in a.Keys.Union(b.Keys))
            joined[language] = CaptionWording.Join(
                a.GetValueOrDefault(language) ?? SceneText.WordsOf(placedFirst).Trim(),
                b.GetValueOrDefault(language) ?? SceneText.WordsOf(placedSecond).Trim()
            );
        return Write(joined);
    }
}
