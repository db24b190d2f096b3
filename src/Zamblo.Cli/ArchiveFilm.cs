using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Interchange;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Cli;

/// <summary>A production out of its file (.zamblo), in a data folder of its own that goes when it is disposed.</summary>
internal sealed class ArchiveFilm : IAsyncDisposable
{
    private readonly string _folder = Path.Combine(Path.GetTempPath(), "zamblo-" + Guid.NewGuid().ToString("N"));
    private readonly ServiceProvider _services;
    private Guid _production;

    private ArchiveFilm() => _services = new ServiceCollection().AddLogging().AddStudio(new DataFolder(_folder)).BuildServiceProvider();

    /// <summary>Whether a name is that of such a file.</summary>
    public static bool Is(string path) => path.EndsWith(".zamblo", StringComparison.OrdinalIgnoreCase);

    /// <summary>Opens one.</summary>
    /// <exception cref="RequestException">It is none.</exception>
    public static async Task<ArchiveFilm> OpenAsync(string path, CancellationToken cancel)
    {
        var film = new ArchiveFilm();
        try
        {
            await using (var db = await film.Contexts.CreateDbContextAsync(cancel))
                await DataUpgrade.RunAsync(db);
            await using var file = File.OpenRead(path);
            film._production = await film._services.GetRequiredService<ProductionArchive>().ReadAsync(file, cancel);
            return film;
        }
        catch
        {
            await film.DisposeAsync();
            throw;
        }
    }

    /// <summary>Writes a film as a production's file.</summary>
    /// <param name="parts">Its scenes.</param>
    /// <param name="title">Of the production.</param>
    /// <param name="headings">Titles of the scenes.</param>
    /// <param name="cast">Where its characters are from.</param>
    /// <param name="target">Written at the end, whole or not at all.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task WriteAsync(
        IReadOnlyList<FilmPart> parts,
        string title,
        IReadOnlyList<string> headings,
        CastLibrary cast,
        string target,
        CancellationToken cancel
    )
    {
        await using var film = new ArchiveFilm();
        await using (var db = await film.Contexts.CreateDbContextAsync(cancel))
            await DataUpgrade.RunAsync(db);
        var id = await film._services.GetRequiredService<FilmProduction>().AddAsync(parts, title, headings, cast, cancel);
        var part = $"{target}.{Guid.NewGuid():N}.part";
        try
        {
            await using (var file = File.Create(part))
                await film._services.GetRequiredService<ProductionArchive>().WriteAsync(id, file, cancel);
            File.Move(part, target, overwrite: true);
        }
        finally
        {
            File.Delete(part);
        }
    }

    private IDbContextFactory<ZambloContext> Contexts => _services.GetRequiredService<IDbContextFactory<ZambloContext>>();

    /// <summary>Its scenes, with what is missing of their hearing made up for.</summary>
    /// <param name="change">What is to be another way than it was kept; null leaves all as it is.</param>
    /// <param name="progress">Of listening, 0 to 1.</param>
    /// <param name="cancel">Stops.</param>
    public async Task<IReadOnlyList<FilmPart>> PartsAsync(Func<SceneDocument, SceneDocument>? change, Action<double>? progress, CancellationToken cancel)
    {
        var (scenes, voices) = (_services.GetRequiredService<SceneDesk>(), _services.GetRequiredService<VoiceStore>());
        var library = _services.GetRequiredService<CastLibrary>();
        var cards = await scenes.ScenesAsync(_production);
        var parts = new List<FilmPart>();
        for (var i = 0; i < cards.Count; i++)
        {
            var loaded = await scenes.LoadAsync(cards[i].Id);
            if (loaded.Document.Lines.Count == 0)
                continue;
            foreach (var line in loaded.Document.Lines.Where(l => !voices.AtHand(l).IsFinal))
                await voices.ListenAsync(line.DrivingHash, line.SoundName, line.Query, null, null, cancel);
            progress?.Invoke((double)(i + 1) / cards.Count);
            var document = change == null ? loaded.Document : change(loaded.Document);
            var scene = SceneEvaluator.Evaluate(document, l => voices.AtHand(l).Speech, library, Typesetter.Shared);
            parts.Add(
                FilmPart.Of(
                    scene,
                    stop => scene.MixAsync(voices, 0, scene.Stage.Duration, null, stop),
                    line => voices.CaredAsync(line.Line.SoundHash, line.Line.SoundName, line.Line.Query.Part, line.Line.Care).GetAwaiter().GetResult()
                ) with
                {
                    Stems = scene.StemsOf(voices),
                }
            );
        }
        return parts.Count > 0 ? parts : throw new MediaException("Nobody speaks in this production: there is nothing to film.");
    }

    /// <summary>The production's script, with its title.</summary>
    public async Task<Screenplay> ScriptAsync()
    {
        var scenes = _services.GetRequiredService<SceneDesk>();
        var first = await scenes.LoadAsync((await scenes.ScenesAsync(_production))[0].Id);
        return await ProductionScript.OfAsync(scenes, _production, first.Production.Title);
    }

    public async ValueTask DisposeAsync()
    {
        await _services.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        if (Directory.Exists(_folder))
            Directory.Delete(_folder, recursive: true);
    }
}
