using System.Collections.Concurrent;
using System.Reflection;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;
using Zamblo.Data;

namespace Zamblo.Studio.Scenes;

/// <summary>A row that is not as it ought to be.</summary>
/// <param name="Row">As it is shown.</param>
/// <param name="Fields">What of it could not be shown as it stands; none where nothing of it can.</param>
public sealed record SpoiltRow(object Row, IReadOnlyList<string> Fields);

/// <summary>
/// Rows as they can be shown: what cannot be (a file system that wrote half, a hand in the database, an older or newer version) is the nearest that
/// can, so that a production always opens. Nothing is written back until somebody says so; what was found is told.
/// </summary>
/// <param name="library">Characters and sets that there are; null where none is asked about.</param>
internal sealed class RowMender(CastLibrary? library)
{
    // No scene of ours is longer, in seconds; sizes in pixels.
    private const double Longest = 4 * 3600,
        LongestPause = 600;
    private const int Smallest = 64,
        Largest = 7680;

    private static readonly ConcurrentDictionary<Type, PropertyInfo[]> Fields = new();
    private readonly List<SpoiltRow> _found = [];

    /// <summary>Rows that were not as they ought to be.</summary>
    public IReadOnlyList<SpoiltRow> Found => _found;

    /// <summary>Mends rows of any kind, and keeps what it found.</summary>
    public void Mend(IEnumerable<object> rows)
    {
        foreach (var row in rows)
        {
            var fields = Fields.GetOrAdd(row.GetType(), t => [.. t.GetProperties().Where(p => p is { CanRead: true, CanWrite: true })]);
            var before = Array.ConvertAll(fields, f => f.GetValue(row));
            Mend(row);
            if (fields.Where((f, i) => !Equals(f.GetValue(row), before[i])).Select(f => f.Name).ToArray() is { Length: > 0 } changed)
                _found.Add(new SpoiltRow(row, changed));
        }
    }

    /// <summary>Nothing of a row can be shown.</summary>
    public void GiveUp(object row) => _found.Add(new SpoiltRow(row, []));

    /// <summary>Mends a row.</summary>
    public void Mend(object row)
    {
        switch (row)
        {
            case Production production:
                Mend(production);
                break;
            case Scene scene:
                Mend(scene);
                break;
            case CastMember member:
                Mend(member);
                break;
            case Line line:
                Mend(line);
                break;
            case Take take:
                Mend(take);
                break;
            case SceneSound sound:
                Mend(sound);
                break;
            case SceneProp prop:
                // What nobody knows is a crate.
                if (PropStock.Find(prop.Art) == null)
                    prop.Art = "crate";
                prop.Place = Column.Mended<PropPlace>(prop.Place, p => p.Clamped());
                break;
            case ScoreClip clip:
                clip.Strength = In(clip.Strength, 0, 4, 1);
                break;
            case LineTouch touch:
                touch.Data = Column.Mended<TouchUp>(touch.Data);
                break;
            case TakeMark mark:
                (mark.Start, mark.End) = (In(mark.Start, 0, Longest, 0), In(mark.End, 0, Longest, 0));
                break;
            case TakePin pin:
                (pin.Near, pin.Time) = (In(pin.Near, 0, Longest, 0), In(pin.Time, 0, Longest, 0));
                break;
            default:
                throw new ArgumentException($"Nobody knows how to mend a {row.GetType().Name}.", nameof(row));
        }
    }

    private static void Mend(Production production)
    {
        (production.Width, production.Height) = (Math.Clamp(production.Width, Smallest, Largest) & ~1, Math.Clamp(production.Height, Smallest, Largest) & ~1);
        if (!FrameRate.TryParse(production.Rate, out _))
            production.Rate = new Production().Rate;
        production.Lettering = Column.Mended<LetteringDials>(production.Lettering);
        production.Marks = Column.Mended<FloorMarks>(production.Marks, m => m.Clamped());
    }

    private void Mend(Scene scene)
    {
        // Between all lines: the longest that there is would be no better than nonsense.
        var usual = new Scene();
        scene.LeadIn = scene.LeadIn is >= 0 and <= LongestPause ? scene.LeadIn : usual.LeadIn;
        scene.LeadOut = scene.LeadOut is >= 0 and <= LongestPause ? scene.LeadOut : usual.LeadOut;
        scene.Gap = scene.Gap is >= -LongestPause and <= LongestPause ? scene.Gap : usual.Gap;
        if (library?.HasBackdrop(scene.Backdrop) == false)
            scene.Backdrop = library.BackdropKeys[0];
        scene.Camera = Column.Mended<CameraDials>(scene.Camera, c => c.Clamped());
        scene.Light = Column.Mended<LightDials>(scene.Light, l => l.Clamped());
    }

    // A character that is not there has a stand-in.
    private void Mend(CastMember member)
    {
        if (library?.Has(member.Character) == false)
            member.Character = library.CharacterKeys[0];
        if (!IsInk(member.Ink))
            member.Ink = new CastMember().Ink;
        member.MouthDials = Column.Mended<MouthDials>(member.MouthDials, d => d.Clamped());
        member.PerformanceDials = Column.Mended<PerformanceDials>(member.PerformanceDials, d => d.Clamped());
    }

    private static void Mend(Line line)
    {
        line.Start = Or(line.Start, 0, Longest);
        line.Pause = Or(line.Pause, -LongestPause, LongestPause);
        line.Acting = Column.Mended<LineActing>(line.Acting, a => a.Clamped());
        line.Captions = Column.Mended<Dictionary<string, string>>(line.Captions);
    }

    private static void Mend(Take take)
    {
        if (!Enum.IsDefined(take.Kind))
            take.Kind = TakeKind.File;
        take.Duration = In(take.Duration, 0, Longest, 0);
        take.PartStart = Or(take.PartStart, 0, Longest);
        take.PartEnd = Or(take.PartEnd, 0, Longest);
        if (take.PartEnd <= take.PartStart)
            (take.PartStart, take.PartEnd) = (null, null);
        if (!AssetStore.IsHash(take.AssetHash))
            take.AssetHash = NoHash;
        take.SpeechHash = AssetStore.IsHash(take.SpeechHash) ? take.SpeechHash : null;
        take.GuideHash = AssetStore.IsHash(take.GuideHash) ? take.GuideHash : null;
        take.Care = Column.Mended<VoiceCare>(take.Care);
    }

    private static void Mend(SceneSound sound)
    {
        sound.Duration = In(sound.Duration, 0, Longest, 0);
        sound.Start = In(sound.Start, -Longest, Longest, 0);
        sound.From = In(sound.From, 0, Longest, 0);
        sound.Length = Or(sound.Length, 0, Longest);
        sound.Gain = In(sound.Gain, -60, 24, 0);
        sound.FadeIn = In(sound.FadeIn, 0, LongestPause, 0);
        sound.FadeOut = In(sound.FadeOut, 0, LongestPause, 0);
        sound.Duck = In(sound.Duck, 0, 60, 0);
        if (!Enum.IsDefined(sound.Kind))
            sound.Kind = SoundKind.Effect;
        if (!AssetStore.IsHash(sound.AssetHash))
            sound.AssetHash = NoHash;
        sound.Anchor = Column.Mended<WordAnchor>(sound.Anchor);
    }

    // A sound that is not there: it is asked for, and missed in a sentence.
    private static readonly string NoHash = new('0', 64);

    private static bool IsInk(string ink) => ink.Length == 7 && ink[0] == '#' && ink.Skip(1).All(char.IsAsciiHexDigit);

    private static double In(double value, double low, double high, double otherwise) => double.IsFinite(value) ? Math.Clamp(value, low, high) : otherwise;

    private static double? Or(double? value, double low, double high) => value is { } v && double.IsFinite(v) ? Math.Clamp(v, low, high) : null;
}
