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
/// <param name="Scenes">What they show.</param>
/// <param name="Revision">Of the production at that moment; 0 in tickets of an earlier version.</param>
public sealed record FilmTicket(IReadOnlyList<SceneDocument> Scenes, long Revision = 0)
{
    /// <summary>The kind of its job.</summary>
    public const string Kind = "render";
}

/// <summary>What a finished film shows.</summary>
/// <param name="Revision">Of the production when it was asked for.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Seconds">Its length.</param>
/// <param name="Bytes">Of the file.</param>
public sealed record FilmShows(long Revision, int Width, int Height, double Seconds, long Bytes)
{
    /// <summary>As the job keeps it; null where it is of an earlier version or not there.</summary>
    public static FilmShows? Of(Job job)
    {
        if (job.Kind != FilmTicket.Kind || job.Result is not { Length: > 0 } told || told[0] != '{')
            return null;
        try
        {
            return JsonSerializer.Deserialize<FilmShows>(told);
        }
        catch (JsonException)
        {
            return null;
        }
    }
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
        return await jobs.AddAsync(FilmTicket.Kind, scene.Production.Id, title, new FilmTicket([scene.Document], scene.Production.Revision));
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
        var about = await db.Productions.Where(p => p.Id == production).Select(p => new { p.Title, p.Revision }).FirstAsync();
        return await jobs.AddAsync(FilmTicket.Kind, production, about.Title, new FilmTicket(documents, about.Revision));
    }
}

/// <summary>Scenes become a film.</summary>
internal sealed class RenderJob(VoiceStore voices, DataFolder folder, CastLibrary library, AssetStore assets) : IJobHandler
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
        foreach (var picture in film.Scenes.Select(s => PictureSet.Read(s.Backdrop)).OfType<PictureSet>())
            PictureShelf.Know(picture.Hash, assets.PathOf(picture.Hash));
        var parts = film
            .Scenes.Select(document =>
            {
                var scene = SceneEvaluator.Evaluate(document, l => voices.AtHand(l).Speech, library, Typesetter.Shared);
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
        var first = film.Scenes[0];
        var seconds = frames / first.Rate.FramesPerSecond;
        return JsonSerializer.Serialize(new FilmShows(film.Revision, first.Width, first.Height, seconds, new FileInfo(output).Length));
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
