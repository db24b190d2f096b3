using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Media;

namespace Zamblo.Web.Services;

/// <summary>A scene frozen at one moment: everything that preview and film need, sound by hash, no database.</summary>
/// <param name="Backdrop">Key of the backdrop.</param>
/// <param name="Rate">Frame rate as people write it.</param>
/// <param name="Width">Of the picture in pixels.</param>
/// <param name="Height">Of the picture in pixels.</param>
/// <param name="Duration">In seconds.</param>
/// <param name="Members">Left to right.</param>
/// <param name="Lines">In order of the script.</param>
public sealed record SceneTicket(string Backdrop, string Rate, int Width, int Height, double Duration, IReadOnlyList<TicketMember> Members, IReadOnlyList<TicketLine> Lines)
{
    /// <summary>Puts it on the stage.</summary>
    /// <param name="speechOf">What was heard in a line; null counts as silence.</param>
    public StageScene ToScene(Func<TicketLine, SpeechAnalysis?> speechOf)
    {
        var members = Members.Select((m, i) =>
        {
            var stage = Cast.Character(m.Character).Rig.Stage;
            var lines = Lines.Where(l => l.Member == m.Id).OrderBy(l => l.Start)
                .Select(l => speechOf(l) is { } s ? new PlacedSpeech(s, l.Start, m.Mouth) : null).OfType<PlacedSpeech>().ToArray();
            return new StageMember(m.Character, StageScene.SpreadX(i, Members.Count), stage.Y, stage.Scale, stage.BeforeFront, lines, m.Performance);
        }).ToArray();
        return new StageScene(Backdrop, members, FrameRate.Parse(Rate), Duration);
    }

    /// <summary>The sound of the whole scene at 48 kHz, exactly as long as its frames.</summary>
    public async Task<AudioBuffer> MixAsync(VoiceStore voices, double duration, CancellationToken cancel)
    {
        var placed = new List<Mixer.Placed>();
        foreach (var line in Lines) placed.Add(new Mixer.Placed(await voices.MasterAsync(line.AssetHash, line.TakeName, cancel), line.Start));
        return Mixer.Mix(placed, duration, AudioFiles.MasterRate);
    }
}

/// <summary>Someone on stage.</summary>
public sealed record TicketMember(Guid Id, string RoleName, string Character, string Voice, string Ink, MouthDials Mouth, PerformanceDials Performance);

/// <summary>A line that has a take.</summary>
/// <param name="Id">Of the line.</param>
/// <param name="Member">Who says it.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="Duration">In seconds.</param>
/// <param name="AssetHash">The sound.</param>
/// <param name="TakeName">For messages.</param>
/// <param name="SpeechKey">Key of the analysis, or hash of the engine's times.</param>
/// <param name="IsEngine">Whether the times are the engine's.</param>
public sealed record TicketLine(Guid Id, Guid Member, double Start, double Duration, string AssetHash, string TakeName, string SpeechKey, bool IsEngine);
