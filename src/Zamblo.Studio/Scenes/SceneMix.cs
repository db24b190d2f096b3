using System.Security.Cryptography;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Media;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Scenes;

/// <summary>What is heard of a scene.</summary>
public static class SceneMix
{
    /// <summary>The sound of a part of the scene at 48 kHz, to the last bit what the whole has there: only what sounds there is read.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="voices">Where sound is kept.</param>
    /// <param name="from">In seconds.</param>
    /// <param name="to">In seconds.</param>
    /// <param name="bare">A line that is heard without cleaning and colour, as loud as with them, to compare; or none.</param>
    /// <param name="cancel">Stops the work.</param>
    public static async Task<AudioBuffer> MixAsync(
        this EvaluatedScene scene,
        VoiceStore voices,
        double from,
        double to,
        Guid? bare,
        CancellationToken cancel
    ) => Mixer.MixPart(await scene.LaidAsync(voices, from, to, bare, _ => true, _ => true, cancel), from, to, AudioFiles.MasterRate);

    /// <summary>What is heard of a scene, taken apart: the voices of each member, then music, room tone and effects.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="voices">Where sound is kept.</param>
    public static IReadOnlyList<Stem> StemsOf(this EvaluatedScene scene, VoiceStore voices)
    {
        Stem Of(string name, Func<SceneLine, bool> isLine, Func<LaidSound, bool> isSound) =>
            new(
                name,
                async stop =>
                    Mixer.MixPart(
                        await scene.LaidAsync(voices, 0, scene.Stage.Duration, null, isLine, isSound, stop),
                        0,
                        scene.Stage.Duration,
                        AudioFiles.MasterRate,
                        isLimited: false
                    )
            );
        return
        [
            .. scene
                .Document.Members.Where(m => scene.Lines.Any(l => l.Line.Member == m.Id && !l.Line.IsMute))
                .Select(m => Of(m.RoleName, l => l.Member == m.Id, _ => false)),
            .. scene
                .Sounds.Select(s => s.Kind)
                .Distinct()
                .Order()
                .Select(kind =>
                    Of(
                        kind switch
                        {
                            SoundKind.Music => "Music",
                            SoundKind.Room => "Room tone",
                            _ => "Effects",
                        },
                        _ => false,
                        s => s.Kind == kind
                    )
                ),
        ];
    }

    // The sounds of a part, each where it lies.
    private static async Task<List<Mixer.Placed>> LaidAsync(
        this EvaluatedScene scene,
        VoiceStore voices,
        double from,
        double to,
        Guid? bare,
        Func<SceneLine, bool> isLine,
        Func<LaidSound, bool> isSound,
        CancellationToken cancel
    )
    {
        double first = from - Mixer.Margin,
            last = to + Mixer.Margin,
            end = scene.Stage.Duration;
        var placed = new List<Mixer.Placed>();
        foreach (var line in scene.Lines.Where(l => !l.Line.IsMute && isLine(l.Line) && l.Start < last && l.End + 1 > first))
        {
            Task<AudioBuffer> SoundAsync(VoiceCare care) => voices.CaredAsync(line.Line.SoundHash, line.Line.SoundName, line.Line.Query.Part, care, cancel);
            var sound = await SoundAsync(line.Line.Care);
            placed.Add(new Mixer.Placed(line.Id.Value == bare ? AsLoudAs(sound, await SoundAsync(line.Line.Care.Bare)) : sound, line.Start));
        }
        foreach (var sound in scene.Sounds.Where(s => isSound(s) && s.Reaches(first, last)))
        {
            var speech =
                sound.Duck <= 0
                    ? []
                    : scene
                        .Lines.Where(l => !l.Line.IsMute)
                        .SelectMany(l =>
                            l.Speech is { } s
                                ? s.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).Select(p => (Start: p.Start + l.Start, End: p.End + l.Start))
                                : [(l.Start, l.End)]
                        );
            if (sound.Lay(await voices.MasterAsync(sound.SoundHash, sound.Name, cancel), end, first, last, speech) is { } audio)
                placed.Add(audio);
        }
        return placed;
    }

    // Louder is taken for better: what is compared is as loud (ITU-R BS.1770-4, integrated), within so many dB.
    private const double MostMatched = 24;

    private static AudioBuffer AsLoudAs(AudioBuffer now, AudioBuffer before)
    {
        double wanted = Loudness.Integrated(now),
            own = Loudness.Integrated(before);
        if (wanted <= Loudness.Silence || own <= Loudness.Silence)
            return before;
        var factor = (float)Math.Pow(10, Math.Clamp(wanted - own, -MostMatched, MostMatched) / 20);
        return new AudioBuffer([.. before.Samples.Select(s => s * factor)], before.SampleRate);
    }

    /// <summary>Changes with whatever is heard of the scene, and with nothing else.</summary>
    public static string SoundKey(this EvaluatedScene scene) =>
        Convert.ToHexStringLower(
            SHA256.HashData(
                JsonSerializer.SerializeToUtf8Bytes(
                    new
                    {
                        scene.Duration,
                        lines = scene
                            .Lines.Where(l => !l.Line.IsMute)
                            .Select(l => new
                            {
                                l.Start,
                                l.Line.SoundHash,
                                l.Line.Query.Part,
                                l.Line.Care,
                            }),
                        scene.Sounds,
                        speech = scene.Sounds.Any(s => s.Duck > 0) ? scene.Lines.Select(l => VoiceStore.KeyOf(l.Line)) : null,
                    }
                )
            )
        )[..16];
}
