using Zamblo.Core.Lettering;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>A caption as it comes.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">The words.</param>
/// <param name="Pace">Characters a second.</param>
/// <param name="IsFast">Hardly anybody reads that in time.</param>
public sealed record CaptionView(double Start, double End, string Text, double Pace, bool IsFast);

/// <summary>A line with its captions.</summary>
/// <param name="Line">Its id.</param>
/// <param name="Role">Who says it.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="Said">What is said.</param>
/// <param name="Text">What a hand has written in its place; null for nothing.</param>
/// <param name="Captions">What comes of it.</param>
public sealed record CaptionRow(Guid Line, string Role, double Start, string Said, string? Text, IReadOnlyList<CaptionView> Captions);

/// <summary>The captions of a scene in one language, to be read and written.</summary>
/// <param name="Languages">In which there is something, beside the one that is spoken.</param>
/// <param name="Rows">Line by line, in order of their start.</param>
public sealed record CaptionList(IReadOnlyList<string> Languages, IReadOnlyList<CaptionRow> Rows)
{
    // Characters a second that an audience reads (common practice: 17 to 20).
    private const double Readable = 20;

    /// <summary>Of a scene.</summary>
    /// <param name="scene">Which.</param>
    /// <param name="language">Tag of the language; empty for the one that is spoken.</param>
    public static CaptionList Of(LoadedScene scene, string language)
    {
        var evaluated = scene.Evaluated;
        var roles = evaluated.Document.Members.ToDictionary(m => m.Id, m => m.RoleName);
        var captions = SceneText.CaptionsOf(evaluated, language: language).ToLookup(c => c.Line.Value);
        var languages = evaluated.Document.Lines.SelectMany(l => l.Captions.Keys).Where(k => k.Length > 0).Distinct().Order(StringComparer.Ordinal);
        return new CaptionList(
            [.. languages],
            [
                .. evaluated
                    .Lines.OrderBy(l => l.Start)
                    .Select(l => new CaptionRow(
                        l.Line.Id.Value,
                        roles[l.Line.Member],
                        l.Start,
                        SceneText.WordsOf(l).Trim(),
                        l.Line.Captions.GetValueOrDefault(language),
                        [.. captions[l.Line.Id.Value].Select(ViewOf)]
                    )),
            ]
        );
    }

    private static CaptionView ViewOf(SpokenCaption c)
    {
        var pace = WordSpacing.Measure(c.Text) / Math.Max(0.1, c.End - c.Start);
        return new CaptionView(c.Start, c.End, c.Text, pace, pace > Readable);
    }
}
