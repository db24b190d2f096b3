using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Data;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>Music, room tone or an effect is brought into a scene.</summary>
public sealed record AddSound(string? Hash, string? Name, SoundKind? Kind, double? Start) : SceneEdit;

/// <summary>A change of a sound; a length less than 0 goes to the end of the scene.</summary>
public sealed record ChangeSound(
    SoundKind? Kind,
    double? Start,
    double? From,
    double? Length,
    double? Gain,
    double? FadeIn,
    double? FadeOut,
    double? Duck,
    bool? Loops
) : Edit
{
    [JsonIgnore]
    public Guid Sound { get; init; }
    public override EditTarget Target => new(TargetKind.Sound, Sound);
}

/// <summary>A sound is taken out.</summary>
public sealed record RemoveSound : Edit
{
    [JsonIgnore]
    public Guid Sound { get; init; }
    public override EditTarget Target => new(TargetKind.Sound, Sound);
}

internal sealed class SoundEdits(VoiceStore voices, IDbContextFactory<ZambloContext> contexts)
    : IEditHandler<AddSound>,
        IEditHandler<ChangeSound>,
        IEditHandler<RemoveSound>
{
    // Decoded before it is filed: a broken file changes nothing.
    public async Task<object?> PrepareAsync(AddSound edit, CancellationToken cancel)
    {
        await using (var db = await contexts.CreateDbContextAsync(cancel))
            await Takes.UploadedAsync(db, edit.Hash);
        return await voices.MasterAsync(edit.Hash!, Check.FileName(edit.Name, "sound"), cancel);
    }

    public async Task ApplyAsync(AddSound edit, EditScope scope)
    {
        var duration = scope.Prepared<AudioBuffer>().Duration;
        var kind = Check.Known(edit.Kind ?? (duration > 8 ? SoundKind.Music : SoundKind.Effect), "kind of sound");
        var isEffect = kind == SoundKind.Effect;
        var sound = new SceneSound
        {
            Id = Guid.NewGuid(),
            SceneId = edit.Scene,
            Kind = kind,
            AssetHash = edit.Hash!,
            Name = Check.FileName(edit.Name, "sound"),
            Duration = duration,
            // An effect is heard once and as it is; what lies under speech gives way to it.
            Gain = isEffect ? 0 : -12,
            Duck = kind == SoundKind.Music ? 9 : 0,
            Loops = !isEffect,
            FadeIn = isEffect ? 0 : 0.5,
            FadeOut = isEffect ? 0 : 1,
        };
        scope.Name = $"Bring in {sound.Name}";
        // What goes on and on begins with the scene, unless somebody says what it is and where.
        Place(await scope.SceneAsync(edit.Scene), sound, edit.Kind == null && !isEffect ? 0 : Check.Range(edit.Start ?? 0, 0, 7200, "A start"));
        scope.Db.Sounds.Add(sound);
        scope.Answer = new EditAnswer { Id = sound.Id };
    }

    public async Task ApplyAsync(ChangeSound edit, EditScope scope)
    {
        scope.Name = edit.Start != null ? "Move a sound" : "Change a sound";
        var sound = await scope.Db.Sounds.FirstAsync(s => s.Id == edit.Sound);
        var scene = await scope.SceneAsync(sound.SceneId);
        var there = scene.Evaluated.Sounds.First(s => s.Id.Value == sound.Id).Start;
        sound.Kind = edit.Kind is { } kind ? Check.Known(kind, "kind of sound") : sound.Kind;
        sound.From = Check.Range(edit.From ?? sound.From, 0, Math.Max(0, sound.Duration - 0.05), "A cut");
        if (edit.Length is { } length)
            sound.Length = length < 0 ? null : Check.Range(length, 0.05, 7200, "A length");
        sound.Gain = Check.Range(edit.Gain ?? sound.Gain, -60, 12, "A gain");
        sound.FadeIn = Check.Range(edit.FadeIn ?? sound.FadeIn, 0, 60, "A fade");
        sound.FadeOut = Check.Range(edit.FadeOut ?? sound.FadeOut, 0, 60, "A fade");
        sound.Duck = Check.Range(edit.Duck ?? sound.Duck, 0, 60, "A duck");
        sound.Loops = edit.Loops ?? sound.Loops;
        if (edit.Start != null || edit.Kind != null)
            Place(scene, sound, Check.Range(edit.Start ?? there, 0, 7200, "A start"));
    }

    public async Task ApplyAsync(RemoveSound edit, EditScope scope)
    {
        scope.Name = "Take out a sound";
        scope.Db.Sounds.Remove(await scope.Db.Sounds.FirstAsync(s => s.Id == edit.Sound));
    }

    // An effect hangs on the word that it is laid on.
    private static void Place(LoadedScene scene, SceneSound sound, double start)
    {
        var laid = scene.Evaluated.Lay(SceneReader.SoundOf(sound), start);
        (sound.Start, sound.LineId, sound.Anchor) = (start, laid.Line?.Value, laid.Anchor == null ? "" : Column.Write(laid.Anchor));
    }
}
