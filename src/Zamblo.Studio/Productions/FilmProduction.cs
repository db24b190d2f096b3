using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>A film that was made without a production becomes one, so that all of it can be changed.</summary>
public sealed class FilmProduction(
    IDbContextFactory<ZambloContext> contexts,
    AssetStore assets,
    VoiceStore voices,
    CharacterStore characters,
    CastLibrary library
)
{
    /// <summary>Files it.</summary>
    /// <param name="parts">Its scenes; all have the same members.</param>
    /// <param name="title">Of the production.</param>
    /// <param name="headings">Titles of its scenes, as far as there are any.</param>
    /// <param name="cast">Where its characters are from: those that are not known here are filed with it.</param>
    /// <param name="cancel">Stops; nothing is filed.</param>
    /// <returns>Id of the production.</returns>
    public async Task<Guid> AddAsync(
        IReadOnlyList<FilmPart> parts,
        string title,
        IReadOnlyList<string> headings,
        CastLibrary cast,
        CancellationToken cancel = default
    )
    {
        var keys = await FileCharactersAsync(parts[0].Reviewed!.Scene.Document.Members.Select(m => m.Character), cast, cancel);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        EvaluatedScene[] scenes = [.. parts.Select(p => p.Reviewed!.Scene)];
        var first = scenes[0].Document;
        var production = new Production
        {
            Id = Guid.NewGuid(),
            Title = await ProductionList.FreeTitleAsync(db, title),
            Width = first.Width,
            Height = first.Height,
            Rate = first.Rate.ToString(),
            Lettering = Column.Write(first.Lettering),
            Created = DateTime.UtcNow,
            Modified = DateTime.UtcNow,
        };
        db.Productions.Add(production);
        var members = first.Members.ToDictionary(m => m.Id, _ => Guid.NewGuid());
        for (var i = 0; i < first.Members.Count; i++)
        {
            var m = first.Members[i];
            db.CastMembers.Add(
                new CastMember
                {
                    Id = members[m.Id],
                    ProductionId = production.Id,
                    Order = i + 1,
                    RoleName = m.RoleName,
                    Character = keys.GetValueOrDefault(m.Character, m.Character),
                    Voice = m.Voice.Length > 0 ? m.Voice : new CastMember().Voice,
                    Ink = m.Ink,
                    MouthDials = Column.Write(m.Mouth),
                    PerformanceDials = Column.Write(m.Performance),
                }
            );
        }
        for (var s = 0; s < scenes.Length; s++)
        {
            var document = scenes[s].Document;
            var scene = new Scene
            {
                Id = Guid.NewGuid(),
                ProductionId = production.Id,
                Order = s + 1,
                Title = headings.ElementAtOrDefault(s) is { Length: > 0 } heading ? heading[..Math.Min(120, heading.Length)] : $"Scene {s + 1}",
                Backdrop = document.Backdrop,
                BackdropHash =
                    PictureSet.Read(document.Backdrop) is { } own && PictureShelf.HeldBytes(own.Hash) is { } picture
                        ? await KeepAsync(db, picture, "picture", cancel)
                        : null,
                Camera = Column.Write(document.Camera),
                Light = Column.Write(document.Light),
                LeadIn = document.LeadIn,
                LeadOut = document.LeadOut,
                Gap = document.Gap,
            };
            db.Scenes.Add(scene);
            var ids = document.Lines.ToDictionary(l => l.Id, _ => Guid.NewGuid());
            for (var i = 0; i < document.Lines.Count; i++)
                await AddLineAsync(db, parts[s], scenes[s].Lines[i], parts[s].Texts.ElementAtOrDefault(i) ?? "", scene.Id, i + 1, ids, members, cancel);
            foreach (var clip in document.Clips)
            {
                var row = ClipRows.New(clip, scene.Id);
                (row.Id, row.CastMemberId) = (Guid.NewGuid(), members[clip.Member]);
                row.LineId = clip.Line is { } line ? ids[line] : null;
                row.TargetId = row.TargetId is { } target ? members[new Core.MemberId(target)] : null;
                db.Clips.Add(row);
            }
        }
        await db.SaveChangesAsync(cancel);
        return production.Id;
    }

    // What each is called here.
    private async Task<Dictionary<string, string>> FileCharactersAsync(IEnumerable<string> played, CastLibrary cast, CancellationToken cancel)
    {
        var keys = new Dictionary<string, string>();
        foreach (var key in played.Where(k => !library.Has(k)).Distinct())
            if (cast.PortraitOf(key) is { } portrait)
            {
                await KeepAsync(portrait.Hashes, "part of a portrait", cancel);
                keys[key] = await characters.SaveAsync(portrait, null);
            }
            else if (cast.RecipeOf(key) is { } recipe)
                keys[key] = await characters.SaveAsync(new NewCharacter(recipe, null, null));
            else if (cast.DrawingOf(key) is { } drawing)
            {
                await KeepAsync(drawing.Hashes, "a drawn mouth", cancel);
                keys[key] = await characters.SaveAsync(drawing, null);
            }
        return keys;
    }

    // What was read of files and is held in memory.
    private async Task KeepAsync(IEnumerable<string> hashes, string name, CancellationToken cancel)
    {
        foreach (var hash in hashes)
            if (PictureShelf.HeldBytes(hash) is { } picture)
                await assets.KeepAsync(contexts, picture, name, cancel);
    }

    private async Task AddLineAsync(
        ZambloContext db,
        FilmPart part,
        PlacedLine line,
        string text,
        Guid scene,
        int order,
        Dictionary<Core.LineId, Guid> ids,
        Dictionary<Core.MemberId, Guid> members,
        CancellationToken cancel
    )
    {
        var speech = line.Speech!;
        var isSpoken = speech.Source == SpeechSource.Engine;
        var name = part.Reviewed!.Scene.Document.Members.First(m => m.Id == line.Line.Member).Voice;
        var delivery = Column.Write(Delivery.FromDirection(Directions.Leading(text)));
        using var sound = new MemoryStream();
        WavFile.Write(sound, [part.Reviewed.SoundOf(line)!.Samples], AudioFiles.MasterRate);
        var hash = await KeepAsync(db, sound.ToArray(), isSpoken ? name : "voice.wav", cancel);
        var take = new Take
        {
            Id = Guid.NewGuid(),
            LineId = ids[line.Id],
            Kind = isSpoken ? TakeKind.Synthesis : TakeKind.File,
            AssetHash = hash,
            SpeechHash = isSpoken ? await KeepAsync(db, JsonSerializer.SerializeToUtf8Bytes(speech), "times", cancel) : null,
            Name = isSpoken ? name : "voice.wav",
            Duration = speech.Duration,
            SpokenText = isSpoken ? text : "",
            SpokenDelivery = isSpoken ? delivery : "",
            Created = DateTime.UtcNow,
        };
        db.Lines.Add(
            new Line
            {
                Id = ids[line.Id],
                SceneId = scene,
                CastMemberId = members[line.Line.Member],
                Order = order,
                Text = text,
                Delivery = delivery,
                Start = line.Line.Start,
                Pause = line.Line.Pause,
                IsTogether = line.Line.IsTogether,
                IsOffStage = line.Line.IsOffStage,
                Acting = line.Line.Acting == new Core.Performance.LineActing() ? "" : Column.Write(line.Line.Acting),
                Captions = Edits.CaptionEdits.Write(line.Line.Captions),
                TakeId = take.Id,
            }
        );
        db.Takes.Add(take);
        if (!isSpoken)
            // What was heard goes along, under the name that it has for a line with these words.
            await voices.TakeAsync(VoiceStore.KeyOf(hash, line.Line.Query), JsonSerializer.SerializeToUtf8Bytes(speech));
    }

    private async Task<string> KeepAsync(ZambloContext db, byte[] bytes, string name, CancellationToken cancel)
    {
        using var stream = new MemoryStream(bytes);
        var (hash, length) = await assets.SaveAsync(stream, cancel: cancel);
        await db.KeepAssetAsync(hash, length, name);
        return hash;
    }
}
