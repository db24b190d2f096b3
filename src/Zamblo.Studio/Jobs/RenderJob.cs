using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Jobs;

/// <summary>
/// Scenes to be rendered one after another, frozen at one moment. A manifest: documents, and in them sounds and hearings by their hashes; it
/// needs no database.
/// </summary>
public sealed record FilmTicket(IReadOnlyList<SceneDocument> Scenes)
{
    /// <summary>The kind of its job.</summary>
    public const string Kind = "render";
}

/// <summary>Orders films.</summary>
public sealed class FilmDesk(IDbContextFactory<ZambloContext> contexts, SceneDesk scenes, JobDesk jobs)
{
    /// <summary>A film of one scene.</summary>
    /// <exception cref="RequestException">Nobody speaks in it.</exception>
    public async Task<Guid> RenderSceneAsync(Guid id)
    {
        var scene = await scenes.LoadAsync(id);
        if (scene.Document.Lines.Count == 0)
            throw new RequestException("There is nothing to render yet: add a voice first.");
        var title = (await scenes.ScenesAsync(scene.Production.Id)).Count > 1 ? $"{scene.Production.Title}, {scene.Scene.Title}" : scene.Production.Title;
        return await jobs.AddAsync(FilmTicket.Kind, scene.Production.Id, title, new FilmTicket([scene.Document]));
    }

    /// <summary>A film of all scenes; one in which nobody speaks yet is not part of it.</summary>
    /// <exception cref="RequestException">Nobody speaks in any.</exception>
    public async Task<Guid> RenderAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var documents = new List<SceneDocument>();
        foreach (var card in await scenes.ScenesAsync(production))
            if ((await scenes.LoadAsync(card.Id)).Document is { Lines.Count: > 0 } document)
                documents.Add(document);
        if (documents.Count == 0)
            throw new RequestException("There is nothing to render yet: add a voice first.");
        var title = await db.Productions.Where(p => p.Id == production).Select(p => p.Title).FirstAsync();
        return await jobs.AddAsync(FilmTicket.Kind, production, title, new FilmTicket(documents));
    }
}

/// <summary>Scenes become a film.</summary>
internal sealed class RenderJob(VoiceStore voices, DataFolder folder, CastLibrary library) : IJobHandler
{
    public string Kind => FilmTicket.Kind;

    // Pieces and the film that is joined of them, at twice what the liveliest of ours have taken: 0.1 bit a pixel.
    public long BytesOf(Job job) =>
        Read(job.Payload) is { } film
            ? (long)
                film.Scenes.Sum(s =>
                    2 * 0.1 / 8 * s.Width * s.Height * s.Rate.FramesPerSecond * (s.LeadIn + s.LeadOut + s.Lines.Sum(l => l.TakeDuration + s.Gap))
                )
            : 0;

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var film = Read(job.Payload) ?? throw new MediaException("This film was asked for by an earlier version of the program: render it anew.");
        foreach (var line in film.Scenes.SelectMany(s => s.Lines).Where(l => !voices.AtHand(l).IsFinal))
            throw new MediaException($"\"{line.SoundName}\" has not been listened to yet: wait for it, then render again.");
        var parts = film
            .Scenes.Select(document =>
            {
                var scene = SceneEvaluator.Evaluate(document, l => voices.AtHand(l).Speech, library);
                return new FilmPart(scene.Stage, stop => scene.MixAsync(voices, 0, scene.Stage.Duration, null, stop));
            })
            .ToArray();
        var frames = parts.Sum(p => p.Scene.FrameCount);
        var output = folder.FilmOf(job.Id);
        await FilmRenderer.RenderAsync(
            parts,
            new FrameSize(film.Scenes[0].Width, film.Scenes[0].Height),
            output,
            folder.WorkOf(job.Id),
            folder.Chunks,
            done => context.Report((double)done / frames, $"{done} of {frames} frames"),
            context.Cancel
        );
        return Path.GetFileName(output);
    }

    private static FilmTicket? Read(string payload)
    {
        try
        {
            return
                JsonSerializer.Deserialize<FilmTicket>(payload) is { Scenes: { Count: > 0 } scenes } film
                && scenes.All(s => s is { Width: > 0, Lines: not null, Members: not null } && s.Rate.Denominator > 0)
                ? film
                : null;
        }
        catch (Exception e) when (e is JsonException or NotSupportedException)
        {
            return null;
        }
    }
}
