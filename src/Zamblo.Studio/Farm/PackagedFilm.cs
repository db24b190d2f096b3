using System.Text.Json;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;

namespace Zamblo.Studio.Farm;

/// <summary>A film on a worker: its chunks, by their names.</summary>
internal sealed class PackagedFilm
{
    private readonly Dictionary<string, FilmChunk> _chunks;

    private PackagedFilm(Dictionary<string, FilmChunk> chunks) => _chunks = chunks;

    /// <summary>A chunk; null where this worker would draw another picture than the studio.</summary>
    public FilmChunk? Find(string name) => _chunks.GetValueOrDefault(name);

    /// <summary>Fetches what the worker does not have yet, and makes the film ready to be drawn.</summary>
    /// <param name="line">To the studio.</param>
    /// <param name="id">Of the film.</param>
    /// <param name="folder">The worker's own.</param>
    /// <param name="cancel">Stops; what has come stays.</param>
    /// <exception cref="MediaException">Something of it is missing or damaged.</exception>
    public static async Task<PackagedFilm> FetchAsync(FarmLine line, Guid id, DataFolder folder, CancellationToken cancel)
    {
        var package =
            await line.AskAsync<FilmPackage>(HttpMethod.Get, $"/pieces/films/{id}", null, cancel) ?? throw new MediaException("The studio says nothing of it.");
        var assets = new AssetStore(folder.Assets);
        foreach (var hash in package.Files)
            await FetchedFile.GetAsync(line, $"/pieces/films/{id}/files/{hash}", hash, assets.PathOf(hash), cancel);
        var voices = new VoiceStore(folder, assets);
        foreach (var key in package.Speech.Where(k => !voices.IsThere(k)))
        {
            var path = Path.Combine(folder.Temporary, key + ".json");
            await line.FetchAsync($"/pieces/films/{id}/speech/{key}", path, cancel);
            await voices.TakeAsync(key, await File.ReadAllBytesAsync(path, cancel));
            File.Delete(path);
        }
        var plates = new PlateStore(assets, folder);
        var parts = TicketParts.Of(package.Film, voices, LibraryOf(package.Characters, assets, plates), assets, plates);
        var first = package.Film.Scenes[0];
        var form = FilmForm.Find(package.Film.Order.Form) ?? FilmForm.Usual;
        var codec = FilmCodec.Of(form.Ending, form.Codec);
        Directory.CreateDirectory(folder.Chunks);
        var chunks = FilmChunks.Of(parts, new FrameSize(first.Width, first.Height), folder.Chunks, codec);
        return new PackagedFilm(chunks.DistinctBy(c => c.Name).ToDictionary(c => c.Name));
    }

    private static CastLibrary LibraryOf(IReadOnlyDictionary<string, string> characters, AssetStore assets, PlateStore plates)
    {
        var figures = new Dictionary<string, PlateFigure>();
        var portraits = new Dictionary<string, PortraitRecipe>();
        var drawings = new Dictionary<string, DrawnRecipe>();
        var dressed = new Dictionary<string, WardrobeRecipe>();
        foreach (var (key, json) in characters)
            if (PortraitRecipe.Read(json) is { } portrait)
            {
                portraits[key] = portrait;
                foreach (var hash in portrait.Hashes)
                    PictureShelf.Know(hash, assets.PathOf(hash));
            }
            else if (PlateRecipe.Read(json) is { } plate)
            {
                if (plates.FigureOf(plate, key) is { } figure)
                    figures[key] = figure;
            }
            else if (DrawnRecipe.Read(json) is { } drawing)
            {
                drawings[key] = drawing;
                foreach (var hash in drawing.Hashes)
                    PictureShelf.Know(hash, assets.PathOf(hash));
            }
            else if (JsonSerializer.Deserialize<WardrobeRecipe>(json, JsonSerializerOptions.Web) is { } recipe)
                dressed[key] = recipe;
        return CastLibrary.With(dressed.GetValueOrDefault, portraits.GetValueOrDefault, figures.GetValueOrDefault, drawings.GetValueOrDefault);
    }
}
