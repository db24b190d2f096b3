using Zamblo.Core.Interchange;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Media;
using Zamblo.Media.Portraits;

namespace Zamblo.Cli;

/// <summary>What a film is made of: its scenes, and its script.</summary>
/// <param name="Title">Of the film.</param>
/// <param name="Parts">Its scenes.</param>
/// <param name="Script">What is said in it.</param>
internal sealed record FilmSource(string Title, IReadOnlyList<FilmPart> Parts, Screenplay Script) : IAsyncDisposable
{
    private ArchiveFilm? _kept;

    /// <summary>Where its characters are from.</summary>
    public CastLibrary Cast { get; private init; } = CastLibrary.Shipped();

    /// <summary>A screenplay, spoken.</summary>
    /// <param name="path">Of the screenplay.</param>
    /// <param name="cast">Who plays whom, or null.</param>
    /// <param name="style">How the film is made.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">Nobody says anything in it.</exception>
    public static async Task<FilmSource> OfPlayAsync(string path, string? cast, FilmStyle style, CancellationToken cancel)
    {
        var read = Screenplay.Read(await File.ReadAllTextAsync(path, cancel));
        foreach (var problem in read.Problems)
            Console.Error.WriteLine($"{path}: {problem}");
        if (read.Lines.Count == 0)
            throw new MediaException($"\"{path}\" has no dialogue to film.");
        var actors = new Actors();
        var playing = actors.Of(cast, read);
        var parts = await SceneBuilder.FromScreenplayAsync(actors.Library, read, playing, style, Terminal.Progress("Speaking"), cancel);
        return new FilmSource(read.Title is { Length: > 0 } title ? title : Path.GetFileNameWithoutExtension(path), parts, read) { Cast = actors.Library };
    }

    /// <summary>A production's file.</summary>
    /// <param name="path">Of the file.</param>
    /// <param name="change">What is to be another way than it was kept; null leaves all as it is.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task<FilmSource> OfArchiveAsync(string path, Func<SceneDocument, SceneDocument>? change, CancellationToken cancel)
    {
        var kept = await ArchiveFilm.OpenAsync(path, cancel);
        try
        {
            var parts = await kept.PartsAsync(change, Terminal.Progress("Listening"), cancel);
            var script = await kept.ScriptAsync();
            return new FilmSource(script.Title ?? "", parts, script) { _kept = kept };
        }
        catch
        {
            await kept.DisposeAsync();
            throw;
        }
    }

    /// <summary>A character and a voice.</summary>
    /// <param name="character">A key, or a character's file.</param>
    /// <param name="voice">A sound file.</param>
    /// <param name="said">What it says, as far as somebody told.</param>
    /// <param name="style">How the film is made.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task<FilmSource> OfVoiceAsync(string character, string voice, Said said, FilmStyle style, CancellationToken cancel)
    {
        var actors = new Actors();
        var who = actors.KeyOf(character);
        return await OfVoiceAsync(actors, who, voice, said, style, cancel);
    }

    /// <summary>A picture and a voice.</summary>
    /// <param name="picture">A file.</param>
    /// <param name="face">Where the face is, or null.</param>
    /// <param name="voice">A sound file.</param>
    /// <param name="said">What it says, as far as somebody told.</param>
    /// <param name="style">How the film is made, for the set that it plays on: null is what was behind the face.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task<FilmSource> OfPictureAsync(string picture, float[]? face, string voice, Said said, FilmStyle style, CancellationToken cancel)
    {
        var actors = new Actors();
        var who = actors.KeyOfPicture(picture, face);
        return await OfVoiceAsync(actors, who, voice, said, style, cancel);
    }

    /// <summary>A clip and a voice.</summary>
    /// <param name="clip">A file.</param>
    /// <param name="voice">A sound file.</param>
    /// <param name="said">What it says, as far as somebody told.</param>
    /// <param name="style">How the film is made.</param>
    /// <param name="cancel">Stops.</param>
    public static async Task<FilmSource> OfPlateAsync(string clip, string voice, Said said, FilmStyle style, CancellationToken cancel)
    {
        var frames = Directory.CreateTempSubdirectory("zamblo-plate-").FullName;
        try
        {
            var name = Path.GetFileName(clip);
            var length = (await AudioFiles.ProbeAsync(voice, Path.GetFileName(voice), cancel)).Duration is { } seconds
                ? seconds + AroundVoice
                : PlateFollower.Longest;
            var plate = await PlateFollower.FollowAsync(clip, name, style.Rate, length, frames, Terminal.Progress("Following the face"), cancel);
            foreach (var note in plate.Notes())
                Console.Error.WriteLine($"{name}: {note}");
            var actors = new Actors();
            var who = actors.KeyOfPlate(clip, plate);
            var size = style.IsSizeGiven ? style.Size : FrameSize.Of(plate.Track.Width, plate.Track.Height);
            style = style with { Backdrop = style.Backdrop ?? CastLibrary.Clear, Size = size };
            return await OfVoiceAsync(actors, who, voice, said, style, cancel) with { _frames = frames };
        }
        catch
        {
            Directory.Delete(frames, true);
            throw;
        }
    }

    // Stillness before and after a voice, and something over, in seconds.
    private const double AroundVoice = 4;

    private string? _frames;

    private static async Task<FilmSource> OfVoiceAsync(Actors actors, string who, string voice, Said said, FilmStyle style, CancellationToken cancel)
    {
        if (actors.Library.PortraitOf(who) is { } portrait)
            style = style with
            {
                Backdrop = style.Backdrop ?? portrait.Behind,
                Size = style.IsSizeGiven ? style.Size : FrameSize.Like(portrait.Width, portrait.Height),
            };
        var part = await SceneBuilder.FromVoiceAsync(actors.Library, who, voice, said, style, Terminal.Progress("Listening"), cancel);
        // What was heard, as a screenplay of one role.
        var heard = new ScreenplayLine(part.Names[0].ToUpperInvariant(), string.Join(' ', part.Captions.Select(c => c.Text)), null, 0, 0, false);
        return new FilmSource(Path.GetFileNameWithoutExtension(voice), [part], new Screenplay(null, [], [heard], [])) { Cast = actors.Library };
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (_kept != null)
            await _kept.DisposeAsync();
        if (_frames != null)
            Directory.Delete(_frames, true);
    }
}
