using System.Numerics;
using Zamblo.Core.Interchange;
using Zamblo.Core.Lettering;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Scenes;

/// <summary>What is written in the picture of a scene, from what is said in it.</summary>
public static class SceneText
{
    /// <summary>What is said, as captions that name who says it, in order of their start, in seconds of the scene.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="language">Tag of their language; null for that of the picture.</param>
    public static IReadOnlyList<Captions.Caption> Subtitles(EvaluatedScene scene, string? language = null) =>
        [
            .. Kept(Heard(scene, CaptionsOf(scene, language: language)))
                .Select(c => new Captions.Caption(c.Start, c.End, c.Text)
                {
                    Speaker = c.Speaker < 0 ? null : scene.Document.Members[c.Speaker].RoleName,
                    Across = AcrossOf(scene, c),
                }),
        ];

    private static IReadOnlyList<SpokenCaption> Heard(EvaluatedScene scene, IReadOnlyList<SpokenCaption> captions) =>
        scene.Document.Lettering.HasSounds ? SoundWords.With(scene, captions) : captions;

    // Where whoever speaks is seen in the picture as it begins, 0 left to 1 right; null where nobody else is, or that one is not.
    private static double? AcrossOf(EvaluatedScene scene, SpokenCaption caption)
    {
        if (caption.Speaker < 0 || scene.Document.Members.Count < 2)
            return null;
        var width = PictureText.Height * scene.Document.Width / scene.Document.Height;
        var face = FacesAt(scene.Stage, caption.Start, scene.Document.Width, scene.Document.Height)[caption.Speaker];
        return (face.X + face.Z) / (2 * width) is >= 0 and <= 1 and var across ? across : null;
    }

    /// <summary>Rows of words as they are said, in order of their start, in seconds of the scene.</summary>
    public static IReadOnlyList<KaraokeRow> KaraokeOf(EvaluatedScene scene)
    {
        var members = scene.Document.Members.ToDictionary(m => m.Id);
        return
        [
            .. scene
                .Lines.Where(l => l.Speech != null)
                .SelectMany(l => RowsOf(scene, l).Select(row => new KaraokeRow(members[l.Line.Member].RoleName, members[l.Line.Member].Ink, row)))
                .OrderBy(r => r.Words[0].Start),
        ];
    }

    // As a hand has written them, in the language that is asked for or else the one that is spoken; else as they are said.
    private static IReadOnlyList<IReadOnlyList<WordSegment>> RowsOf(
        EvaluatedScene scene,
        PlacedLine l,
        int maximalCharacters = Captions.MaximalCharacters,
        string? language = null
    )
    {
        var captions = l.Line.Captions;
        var own = captions.GetValueOrDefault(language ?? scene.Document.Lettering.Language) ?? captions.GetValueOrDefault("");
        var words = ScriptText.AsWritten(Placed(l), WordsOf(l));
        if (own != null)
            return [.. CaptionWording.Lay(words, own).SelectMany(block => Captions.Cut(block, maximalCharacters))];
        return Captions.Cut(scene.Document.Lettering.HasSounds ? SoundWords.Between(words, l.Line.Written, l.End, PlacedSounds(l)) : words, maximalCharacters);
    }

    private static VocalSound[] PlacedSounds(PlacedLine l) =>
        [.. (l.Speech!.Sounds ?? []).Select(s => s with { Start = s.Start + l.Start, End = s.End + l.Start })];

    private static WordSegment[] Placed(PlacedLine l) => [.. l.Speech!.Words.Select(w => w with { Start = w.Start + l.Start, End = w.End + l.Start })];

    /// <summary>What is said, line by line in order of start, for an editor.</summary>
    public static IReadOnlyList<TimelineLine> LinesOf(EvaluatedScene scene)
    {
        var ids = scene.Document.Members.Select(m => m.Id).ToList();
        return [.. scene.Lines.Select(l => new TimelineLine(ids.IndexOf(l.Line.Member), l.Start, l.End, WordsOf(l).Trim())).OrderBy(l => l.Start)];
    }

    /// <summary>What is said in a line, as it is written.</summary>
    public static string WordsOf(PlacedLine line) => line.Line.Query.Script ?? line.Speech?.Draft ?? "";

    /// <summary>Captions of what is said, in order of their start, with the index of who says it.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="maximalCharacters">Longest caption.</param>
    /// <param name="language">Tag of their language; null for that of the picture.</param>
    public static IReadOnlyList<SpokenCaption> CaptionsOf(EvaluatedScene scene, int maximalCharacters = Captions.MaximalCharacters, string? language = null)
    {
        var ids = scene.Document.Members.Select(m => m.Id).ToList();
        return
        [
            .. scene
                .Lines.Where(l => l.Speech != null)
                .SelectMany(l =>
                    RowsOf(scene, l, maximalCharacters, language)
                        .Select(row => new SpokenCaption(row[0].Start, row[^1].End, WordSpacing.Join(row.Select(w => w.Text)), ids.IndexOf(l.Line.Member))
                        {
                            Words = row,
                            Line = l.Id,
                        })
                )
                .OrderBy(c => c.Start),
        ];
    }

    internal static PictureText Of(EvaluatedScene scene, StageScene stage, ITypesetter letters)
    {
        var document = scene.Document;
        var width = PictureText.Height * document.Width / document.Height;
        var all = CaptionsOf(scene, PictureText.CharactersFor(width));
        var mute = document.Lettering.HasCards ? scene.Lines.Where(l => l.Line.IsMute).ToDictionary(l => l.Id) : [];
        var captions = Heard(scene, [.. all.Where(c => !mute.ContainsKey(c.Line))]);
        SpokenCaption[] cards = [.. all.Where(c => mute.ContainsKey(c.Line)).GroupBy(c => c.Line).Select(c => CardOf(scene, mute[c.Key], [.. c]))];
        NamedSpeaker[] speakers =
        [
            .. document.Members.Select(
                (m, i) =>
                {
                    var first = scene
                        .Lines.Where(l => l.Line.Member == m.Id && !l.Line.IsOffStage && l.Speech is { Words.Count: > 0 })
                        .Select(l => (double?)(l.Start + l.Speech!.Words[0].Start))
                        .Min();
                    var faces = FacesAt(stage, (first ?? 0) + PictureText.NameDelay + 1, document.Width, document.Height);
                    return new NamedSpeaker(m.RoleName, m.Ink, first, faces[i].X + faces[i].Z <= width, faces);
                }
            ),
        ];
        return new PictureText(
            document.Lettering,
            speakers,
            Held(captions),
            document.Width,
            document.Height,
            letters,
            FacesAt(stage, PictureText.TitleMiddle, document.Width, document.Height),
            cards
        );
    }

    // One sees that somebody begins to speak; then there is the card, as long as it takes to read it (17 characters a second, common practice) where that
    // leaves the next line its time.
    private static SpokenCaption CardOf(EvaluatedScene scene, PlacedLine line, SpokenCaption[] said)
    {
        var text = WordSpacing.Join(said.Select(c => c.Text));
        var start = line.Start + Math.Min(0.8, 0.3 * (line.End - line.Start));
        var next = scene.Lines.Where(l => l.Start > line.Start + 1e-6).Select(l => l.Start).DefaultIfEmpty(scene.Duration).Min();
        return new SpokenCaption(start, Math.Min(next, Math.Max(line.End, start + Math.Max(1.2, text.Length / 17.0))), text, said[0].Speaker)
        {
            Line = line.Id,
        };
    }

    // Faces in picture units: left, top, right, bottom.
    private static Vector4[] FacesAt(StageScene stage, double t, int width, int height)
    {
        var frame = Math.Clamp(stage.Rate.FrameAt(t), 0, stage.FrameCount - 1);
        var view = stage.LookAt(frame, width, height).Near;
        var scale = PictureText.Height * width / height / view.Width;
        float left = view.X - view.Width / 2,
            top = view.Y - PictureText.Height / scale / 2;
        return [.. stage.HeadsAt(stage.Rate.TimeOf(frame)).Select(h => scale * new Vector4(h.Left - left, h.Top - top, h.Right - left, h.Chin - top))];
    }

    // How long a caption is there at the least, and after its last word, in seconds (common practice).
    private const double Least = 1,
        Stays = 0.35;

    // In a file several may be there at once, where several speak at once.
    private static IEnumerable<SpokenCaption> Kept(IReadOnlyList<SpokenCaption> captions) =>
        captions.Select((c, i) => c with { End = Math.Max(c.End, UntilNext(captions, i)) });

    private static double UntilNext(IReadOnlyList<SpokenCaption> captions, int i) =>
        Math.Min(i + 1 < captions.Count ? captions[i + 1].Start : double.MaxValue, Math.Max(captions[i].End + Stays, captions[i].Start + Least));

    // In the picture no two are there at once.
    private static SpokenCaption[] Held(IReadOnlyList<SpokenCaption> captions) => [.. captions.Select((c, i) => c with { End = UntilNext(captions, i) })];
}
