using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>A line as it is heard.</summary>
/// <param name="Member">Index of who says it.</param>
/// <param name="Audio">At 48 kHz.</param>
/// <param name="Speech">What was heard in it.</param>
public sealed record HeardLine(int Member, AudioBuffer Audio, SpeechAnalysis Speech)
{
    /// <summary>How it feels, over which part of the line, in seconds of the line.</summary>
    public MoodSuggestion? Mood { get; init; }

    /// <summary>What is said, with directions; empty where nobody wrote it.</summary>
    public string Text { get; init; } = "";

    /// <summary>Who says it, as captions name it; null names nobody.</summary>
    public string? Role { get; init; }

    /// <summary>Where its sound starts, in seconds of the scene; null follows the line before from sound to sound.</summary>
    public double? Start { get; init; }

    /// <summary>Begins with the line before.</summary>
    public bool IsTogether { get; init; }

    /// <summary>Heard, not seen.</summary>
    public bool IsOffStage { get; init; }
}

/// <summary>How a film is made that has no production.</summary>
/// <param name="Rate">Frame rate.</param>
/// <param name="Size">Of the picture.</param>
public sealed record FilmStyle(FrameRate Rate, FrameSize Size)
{
    /// <summary>Somebody has said how large the picture is; else a film of a picture is as that is.</summary>
    public bool IsSizeGiven { get; init; } = true;

    /// <summary>Where it plays; null goes by the scene headings.</summary>
    public string? Backdrop { get; init; }

    /// <summary>Another number gives another way of the same motion and the same kind of shots.</summary>
    public int Seed { get; init; } = 1;

    /// <summary>What the camera does.</summary>
    public CameraDials Camera { get; init; } = CameraDials.Fixed;

    /// <summary>Light and air.</summary>
    public LightDials Light { get; init; } = new();

    /// <summary>What is written in the picture.</summary>
    public LetteringDials Lettering { get; init; } = new();
}

/// <summary>From a voice or a screenplay straight to a scene, without a production: for the command line.</summary>
public static class SceneBuilder
{
    /// <summary>
    /// Colours of members, in their order: dark enough on paper (4.5:1) and apart for colour-blind eyes, after Okabe and Ito, "Color Universal Design",
    /// 2008, darkened.
    /// </summary>
    public static IReadOnlyList<string> Inks { get; } = ["#0B6A8A", "#A34A00", "#00694E", "#8A3E72", "#6B5B00", "#3D3D8F"];

    // Stillness before a recording, in seconds.
    private const double LeadIn = 0.5;

    /// <summary>One character and one voice.</summary>
    public static async Task<FilmPart> FromVoiceAsync(
        CastLibrary library,
        string character,
        string audioPath,
        Said said,
        FilmStyle style,
        Action<double>? progress,
        CancellationToken cancel
    )
    {
        var audio = await AudioFiles.DecodeAsync(audioPath, Path.GetFileName(audioPath), AudioFiles.MasterRate, cancel);
        var heard = await AudioFiles.ResampleAsync(audio, CepstralFrontEnd.SampleRate, cancel);
        (var speech, said) = await said.HearAsync(heard, [], progress, cancel);
        return Assemble(
            library,
            [(character, style.Seed, "")],
            [new HeardLine(0, audio, speech) { Start = LeadIn, Text = said.Script ?? speech.Draft }],
            style,
            style.Backdrop ?? library.BackdropKeys[0]
        );
    }

    /// <summary>Every role of a screenplay, spoken by synthesis; a part of the film for each scene in which somebody speaks.</summary>
    public static async Task<IReadOnlyList<FilmPart>> FromScreenplayAsync(
        CastLibrary library,
        Screenplay play,
        IReadOnlyDictionary<string, string> playing,
        FilmStyle style,
        Action<double>? progress,
        CancellationToken cancel
    )
    {
        var roles = play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
        var cast = Casting(library, roles, []);
        for (var i = 0; i < roles.Length; i++)
            if (playing.TryGetValue(roles[i], out var who))
                cast[i] = (who, cast[i].Voice);
        // Two of one character tell apart.
        for (var i = 1; i < cast.Length; i++)
            cast[i].Character = library.Apart(cast[i].Character, [.. cast.Take(i).Select(c => c.Character)]);
        var spoken = new List<HeardLine>();
        for (var i = 0; i < play.Lines.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var line = play.Lines[i];
            var member = Array.FindIndex(roles, r => r.Equals(line.Role, StringComparison.OrdinalIgnoreCase));
            var said = await Synthesis.SpeakAsync(cast[member].Voice, line.Text, Delivery.FromDirection(Directions.Leading(line.WithDirection)), cancel);
            spoken.Add(
                new HeardLine(member, await AudioFiles.ResampleAsync(said.Audio, AudioFiles.MasterRate, cancel), said.Speech)
                {
                    Text = line.WithDirection,
                    Role = RoleNames.Of(line.Role),
                    IsTogether = line.IsTogether,
                    IsOffStage = line.IsOffStage,
                }
            );
            progress?.Invoke((double)(i + 1) / play.Lines.Count);
        }
        for (var i = 0; i < spoken.Count; i++)
        {
            var line = play.Lines[i];
            SpeechAnalysis[] others = [.. spoken.Where((l, k) => k != i && l.Member == spoken[i].Member).Select(l => l.Speech)];
            spoken[i] = spoken[i] with { Mood = MoodSuggestions.For(line.WithDirection, spoken[i].Speech, others) };
        }
        return
        [
            .. Enumerable
                .Range(0, spoken.Count)
                .GroupBy(i => play.Lines[i].Scene)
                .Select(scene =>
                    Assemble(
                        library,
                        [.. cast.Select((c, i) => (c.Character, i + style.Seed, c.Voice))],
                        [.. scene.Select(i => spoken[i])],
                        style with
                        {
                            Camera = style.Camera.Faded(play.Fades.GetValueOrDefault(scene.Key)),
                        },
                        style.Backdrop ?? SetOf(play, scene.Key)
                    )
                ),
        ];
    }

    // Where a scene plays: as its heading says, else as the last one that said so.
    private static string SetOf(Screenplay play, int scene) =>
        Enumerable.Range(0, scene + 1).Reverse().Select(i => SetWords.SetOf(play.Scenes.ElementAtOrDefault(i) ?? "")).FirstOrDefault(s => s != null)
        ?? "bakery";

    /// <summary>Writes the document of a scene and puts it on the stage; lines follow each other.</summary>
    public static FilmPart Assemble(
        CastLibrary library,
        IReadOnlyList<(string Character, int Seed, string Voice)> cast,
        IReadOnlyList<HeardLine> lines,
        FilmStyle style,
        string backdrop
    )
    {
        SceneMember[] members =
        [
            .. cast.Select(
                (c, i) =>
                    new SceneMember(
                        new MemberId(Number(i)),
                        lines.FirstOrDefault(l => l.Member == i)?.Role ?? library.Character(c.Character).Rig.Name,
                        c.Character,
                        c.Voice,
                        Inks[i % Inks.Count],
                        new MouthDials(),
                        new PerformanceDials { Seed = c.Seed }
                    )
            ),
        ];
        var document = new SceneDocument(backdrop, style.Rate, style.Size.Width, style.Size.Height)
        {
            Light = style.Light,
            Camera = style.Camera with { Seed = style.Seed },
            Lettering = style.Lettering,
            Members = members,
            Lines =
            [
                .. lines.Select(
                    (l, i) =>
                        new SceneLine(
                            new LineId(Number(i)),
                            members[l.Member].Id,
                            new TakeId(Number(i)),
                            l.Speech.Duration,
                            "",
                            "",
                            SpeechQuery.Of(l.Text, "en")
                        )
                        {
                            Start = l.Start,
                            IsTogether = l.IsTogether,
                            IsOffStage = l.IsOffStage,
                            Written = l.Text,
                        }
                ),
            ],
        };
        var byId = document.Lines.Zip(lines).ToDictionary(p => p.First.Id, p => p.Second);
        SpeechAnalysis? Heard(SceneLine line) => byId[line.Id].Speech;
        var placed = SceneEvaluator.Evaluate(document, Heard, library, Typesetter.Shared).Lines;
        var clips = new List<LaneClip>();
        for (var i = 0; i < lines.Count; i++)
            if (lines[i].Mood is { } m)
                clips.Add(
                    new MoodClip(
                        new ClipId(Number(i)),
                        placed[i].Line.Member,
                        placed[i].Id,
                        m.Mood,
                        (float)m.Intensity,
                        WordAnchor.At(lines[i].Speech, m.Start),
                        WordAnchor.At(lines[i].Speech, m.End)
                    )
                );
        for (var i = 0; i < lines.Count; i++)
            foreach (var gesture in DirectedGestures.In(lines[i].Text))
                clips.Add(DirectedClips.Of(new ClipId(Number(lines.Count + clips.Count)), placed[i].Line.Member, placed[i].Id, lines[i].Text, gesture));
        var next = lines.Count + clips.Count;
        (string Name, MemberId Id)[] named = [.. lines.Where(l => l.Role != null).Select(l => (l.Role!, members[l.Member].Id)).Distinct()];
        for (var i = 0; i < lines.Count; i++)
        {
            var member = placed[i].Line.Member;
            clips.AddRange(DirectedClips.Looks(() => new ClipId(Number(next++)), member, placed[i].Id, lines[i].Text, [.. named.Where(n => n.Id != member)]));
        }
        var scene = SceneEvaluator.Evaluate(document with { Clips = clips }, Heard, library, Typesetter.Shared);
        return FilmPart.Of(
            scene,
            _ => Task.FromResult(Mixer.Mix(lines.Zip(placed, (l, p) => new Mixer.Placed(l.Audio, p.Start)), scene.Stage.Duration, AudioFiles.MasterRate)),
            line => byId[line.Id].Audio
        ) with
        {
            Texts = [.. lines.Select(l => l.Text)],
            Stems = [.. members.Where((_, i) => lines.Any(l => l.Member == i)).Select(m => new Stem(m.RoleName, _ => Task.FromResult(StemOf(m.Id))))],
        };
        // The voices of one of them.
        AudioBuffer StemOf(MemberId who)
        {
            var own = lines
                .Zip(placed, (l, p) => (Line: l, Place: p))
                .Where(x => x.Place.Line.Member == who)
                .Select(x => new Mixer.Placed(x.Line.Audio, x.Place.Start));
            return Mixer.MixPart(own, 0, scene.Stage.Duration, AudioFiles.MasterRate, isLimited: false);
        }
    }

    // Ids that are the same in every run.
    private static Guid Number(int i) => new(i + 1, 0, 0, new byte[8]);

    /// <summary>
    /// A character and a voice for each role, as different from each other as there are: a role that is called like a character gets it,
    /// others take turns; two who share a character get voices of their own.
    /// </summary>
    /// <param name="library">Characters.</param>
    /// <param name="roles">Role names.</param>
    /// <param name="taken">Voices that are in use already.</param>
    public static (string Character, string Voice)[] Casting(CastLibrary library, IReadOnlyList<string> roles, IReadOnlyCollection<string> taken)
    {
        string[] others =
        [
            "espeak:en-us+m1",
            "espeak:en-gb+f2",
            "espeak:en-us+m7",
            "espeak:en-gb-scotland",
            "espeak:en-us+f5",
            "espeak:en-gb+m5",
            "espeak:en-us+f2",
            "espeak:en-gb-x-rp+m2",
        ];
        var used = taken.ToHashSet();
        // A role whose name says nothing is a person's; each its own, as long as there are enough.
        string[] people = [.. library.CharacterKeys.Where(k => library.KindOf(k) == "person")];
        string? Named(string role) => library.CharacterKeys.FirstOrDefault(k => k.Equals(role, StringComparison.OrdinalIgnoreCase));
        var free = new Queue<string>(people.Except(roles.Select(Named).OfType<string>()));
        return
        [
            .. roles.Select(
                (role, i) =>
                {
                    var character = Named(role) ?? (free.TryDequeue(out var next) ? next : people[i % people.Length]);
                    var voice = others.Prepend(library.Character(character).Rig.Voice).FirstOrDefault(v => !used.Contains(v)) ?? others[i % others.Length];
                    used.Add(voice);
                    return (character, voice);
                }
            ),
        ];
    }
}
