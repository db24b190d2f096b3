using System.Diagnostics;
using System.IO.Compression;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Farm;
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
    /// <summary>As what, and what of it.</summary>
    public FilmOrder Order { get; init; } = new();

    /// <summary>What the scenes are called.</summary>
    public IReadOnlyList<string> Titles { get; init; } = [];

    /// <summary>The kind of its job.</summary>
    public const string Kind = "render";
}

/// <summary>How a film is wanted.</summary>
/// <param name="Form">Key of a <see cref="FilmForm"/>; null for the usual one.</param>
/// <param name="Loudness">In LUFS; null as it is.</param>
/// <param name="Captions">What is said goes along as a track of text.</param>
/// <param name="From">Of a single scene: where it begins, in seconds; null for its start.</param>
/// <param name="To">Of a single scene: where it ends, in seconds; null for its end.</param>
public sealed record FilmOrder(string? Form = null, double? Loudness = null, bool Captions = false, double? From = null, double? To = null)
{
    /// <summary>The same.</summary>
    /// <exception cref="RequestException">It cannot be made.</exception>
    public FilmOrder Checked()
    {
        if (FilmForm.Find(Form) == null)
            throw new RequestException($"There is no form \"{Form}\" for a film.");
        if (Loudness is { } level && level is not (>= FilmFinish.Softest and <= FilmFinish.Loudest))
            throw new RequestException($"Loudness goes from {FilmFinish.Softest} to {FilmFinish.Loudest} LUFS.");
        if (From < 0 || To < 0 || To <= (From ?? 0))
            throw new RequestException("The stretch of a film begins before it ends.");
        return this;
    }
}

/// <summary>What a finished film shows.</summary>
/// <param name="Revision">Of the production when it was asked for.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Seconds">Its length.</param>
/// <param name="Bytes">Of the file.</param>
/// <param name="Form">Key of its <see cref="FilmForm"/>; null in films of an earlier version, which are the usual one.</param>
public sealed record FilmShows(long Revision, int Width, int Height, double Seconds, long Bytes, string? Form = null)
{
    /// <summary>So many seconds the sound comes later than the picture, measured on the film; null where that was not.</summary>
    public double? Offset { get; init; }

    /// <summary>As what it was made.</summary>
    public FilmForm Kind => FilmForm.Find(Form) ?? FilmForm.Usual;

    /// <summary>What people read of that.</summary>
    public string Made => Kind.Title;

    /// <summary>Whether a browser plays it.</summary>
    public bool IsWatched => Kind.IsWatched;

    /// <summary>Of its file.</summary>
    public string Ending => EndingOf(Kind);

    // A folder goes out as one file.
    internal static string EndingOf(FilmForm form) => form.Ending == ".png" ? ".zip" : form.Ending;

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
    /// <param name="id">Of the scene.</param>
    /// <param name="order">How it is wanted.</param>
    /// <exception cref="RequestException">Nobody speaks in it, or it cannot be made so.</exception>
    public async Task<Guid> RenderSceneAsync(Guid id, FilmOrder? order = null)
    {
        var scene = await scenes.LoadAsync(id);
        if (scene.Document.Lines.Count == 0)
            throw new RequestException("There is nothing to render yet: add a voice first.");
        var title = (await scenes.ScenesAsync(scene.Production.Id)).Count > 1 ? $"{scene.Production.Title}, {scene.Scene.Title}" : scene.Production.Title;
        var ticket = new FilmTicket([scene.Document], scene.Production.Revision) { Order = (order ?? new()).Checked(), Titles = [scene.Scene.Title] };
        return await jobs.AddAsync(FilmTicket.Kind, scene.Production.Id, title, ticket);
    }

    /// <summary>A film of all scenes; one in which nobody speaks yet is not part of it.</summary>
    /// <param name="production">Its id.</param>
    /// <param name="order">How it is wanted.</param>
    /// <exception cref="RequestException">Nobody speaks in any, or it cannot be made so.</exception>
    public async Task<Guid> RenderAsync(Guid production, FilmOrder? order = null)
    {
        order = (order ?? new()).Checked();
        if (order.From != null || order.To != null)
            throw new RequestException("A stretch is of one scene.");
        await using var db = await contexts.CreateDbContextAsync();
        var documents = new List<SceneDocument>();
        var titles = new List<string>();
        foreach (var card in await scenes.ScenesAsync(production))
            if ((await scenes.LoadAsync(card.Id)).Document is { Lines.Count: > 0 } document)
            {
                documents.Add(document);
                titles.Add(card.Title);
            }
        if (documents.Count == 0)
            throw new RequestException("There is nothing to render yet: add a voice first.");
        var about = await db.Productions.Where(p => p.Id == production).Select(p => new { p.Title, p.Revision }).FirstAsync();
        var ticket = new FilmTicket(documents, about.Revision) { Order = order, Titles = titles };
        return await jobs.AddAsync(FilmTicket.Kind, production, about.Title, ticket);
    }
}

/// <summary>Scenes become a film.</summary>
internal sealed class RenderJob(VoiceStore voices, DataFolder folder, CastLibrary library, AssetStore assets, PlateStore plates, FarmDesk farm) : IJobHandler
{
    public string Kind => FilmTicket.Kind;

    // Pieces and the film that is joined of them, at twice what the liveliest of ours have taken: 0.1 bit a pixel; what editors and compositors take is
    // hardly packed at all.
    public long BytesOf(Job job) =>
        Read(job.Payload) is { } film
            ? (long)
                film.Scenes.Sum(s =>
                    (film.Order.Form is "mov" or "png" ? 20 : 2)
                    * 0.1
                    / 8
                    * s.Width
                    * s.Height
                    * s.Rate.FramesPerSecond
                    * (s.LeadIn + s.LeadOut + s.Lines.Sum(l => l.TakeDuration + s.Gap))
                )
            : 0;

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var film = Read(job.Payload) ?? throw new MediaException("This film was asked for by an earlier version of the program: render it anew.");
        foreach (var line in film.Scenes.SelectMany(s => s.Lines).Where(l => !voices.AtHand(l).IsFinal))
            throw new MediaException($"\"{line.SoundName}\" has not been listened to yet: wait for it, then render again.");
        var form = FilmForm.Find(film.Order.Form) ?? FilmForm.Usual;
        var parts = TicketParts.Of(film, voices, library, assets, plates);
        var frames = parts.Sum(p => p.Frames);
        var first = film.Scenes[0];
        var output = folder.FilmOf(job.Id, form.Ending);
        var last = 0;
        var (pace, clock) = (new Pace(), Stopwatch.StartNew());
        await FilmOutputs.WriteAsync(
            parts,
            new FrameSize(first.Width, first.Height),
            [output],
            folder.WorkOf(job.Id),
            done =>
            {
                last = Math.Max(last, done);
                var left = Pace.Said(pace.Left(clock.Elapsed.TotalSeconds, last, frames));
                context.Report((double)last / frames, last < frames ? $"{last} of {frames} frames{farm.HelpOf(job.Id)}{left}" : $"Writing {form.Title}");
            },
            context.Cancel,
            new FilmFinish(form.Codec, film.Order.Loudness, film.Order.Captions, job.Title, form.Names),
            new ChunkKeep(folder.Chunks, board => farm.Share(job.Id, job.Title, film, board))
        );
        var offset = form.Ending is ".mp4" or ".webm" ? await FilmSync.MeasureAsync(parts, output, context.Cancel) : null;
        if (FilmShows.EndingOf(form) is var ending && ending != form.Ending)
            output = Zip(output, folder.FilmOf(job.Id, ending));
        var seconds = frames / first.Rate.FramesPerSecond;
        return JsonSerializer.Serialize(
            new
            {
                film.Revision,
                first.Width,
                first.Height,
                Seconds = seconds,
                Bytes = new FileInfo(output).Length,
                Form = form.Key,
                Offset = offset,
            }
        );
    }

    // Pictures are packed already.
    private static string Zip(string pictures, string target)
    {
        File.Delete(target);
        ZipFile.CreateFromDirectory(pictures, target, CompressionLevel.NoCompression, includeBaseDirectory: false);
        Directory.Delete(pictures, recursive: true);
        return target;
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
