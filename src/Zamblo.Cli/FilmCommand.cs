using System.CommandLine;
using Zamblo.Core.Lettering;
using Zamblo.Core.Scenes;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Media;

namespace Zamblo.Cli;

internal static class FilmCommand
{
    // Sizes that pages and players take as they are (common practice).
    private static readonly Dictionary<string, string> Formats = new()
    {
        ["16:9"] = "1280x720",
        ["9:16"] = "720x1280",
        ["1:1"] = "1080x1080",
        ["4:5"] = "1080x1350",
        ["21:9"] = "1680x720",
    };

    public static Command Create()
    {
        var library = CastLibrary.Shipped();
        var play = new Argument<string?>("screenplay")
        {
            Description = "Fountain, \"NAME: words\", WebVTT or SubRip file; or a production (.zamblo).",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var character = new Option<string?>("--character") { Description = "Who speaks: a key from \"characters\", or a character's file (.json)." };
        var cast = new Option<string?>("--cast") { Description = "Who plays whom: ROLE=CHARACTER,... ; keys or files, as for --character." };
        var set = new Option<string?>("--set")
        {
            Description = "Where it plays: a key from \"sets\", or a picture (JPEG, PNG, WebP); else as the scene headings say.",
        };
        var voice = new Option<string?>("--voice") { Description = "Sound file of the voice." };
        var script = new Option<string?>("--script") { Description = "Text file of what the voice says." };
        var size = new Option<string?>("--size") { Description = "Picture size; 1280x720 where neither it nor --format is given." };
        var format = new Option<string?>("--format") { Description = "Shape of the picture, in place of --size." };
        format.AcceptOnlyFromAmong([.. Formats.Keys]);
        var seed = new Option<int>("--seed") { Description = "Another number gives another way of the same motion.", DefaultValueFactory = _ => 1 };
        var camera = new Option<string>("--camera")
        {
            Description = "One picture for all of it, or shots of who speaks: few and still, or many and moving.",
            DefaultValueFactory = _ => "fixed",
        };
        camera.AcceptOnlyFromAmong("fixed", "calm", "lively");
        var captions = new Option<string>("--captions")
        {
            Description = "What is said: in the picture, or as a WebVTT file beside the film.",
            DefaultValueFactory = _ => "none",
        };
        captions.AcceptOnlyFromAmong("none", "picture", "file");
        var names = new Option<bool>("--names") { Description = "Name plates for those who speak for the first time." };
        var fps = new Option<string>("--fps") { Description = "Frames per second.", DefaultValueFactory = _ => "25" };
        var output = new Option<string[]>("-o", "--output")
        {
            Description = $"What to write; the ending says what it is: {FilmOutputs.Known}, fountain, zamblo (png makes a folder). May be given several times.",
            Required = true,
        };
        var command = new Command("film", "The whole way in one go: a screenplay, or a character and a voice, to a film.")
        {
            play,
            character,
            cast,
            set,
            camera,
            captions,
            names,
            voice,
            script,
            size,
            format,
            fps,
            seed,
            output,
        };
        command.SetAction(
            async (result, cancel) =>
            {
                FrameSize frame;
                try
                {
                    if (result.GetValue(size) != null && result.GetValue(format) != null)
                        throw new UsageException("Give either --size or --format.");
                    frame = FrameSize.Parse(result.GetValue(size) ?? Formats[result.GetValue(format) ?? "16:9"]);
                }
                catch (FormatException e)
                {
                    throw new UsageException(e.Message);
                }
                var rate = Terminal.Rate(result.GetValue(fps)!);
                var style = new FilmStyle(rate, frame)
                {
                    Backdrop = SetOf(result.GetValue(set), library),
                    Seed = result.GetValue(seed),
                    Camera = CameraDials.Named(result.GetValue(camera)!)!,
                    Lettering = new LetteringDials { HasCaptions = result.GetValue(captions) == "picture", HasNames = result.GetValue(names) },
                };
                bool IsGiven(Option option) => result.GetResult(option) is { Implicit: false };
                string[] all = result.GetValue(output)!;
                if (result.GetValue(captions) == "file")
                    all = [.. all, Path.ChangeExtension(all[0].TrimEnd('/'), ".vtt")];
                var scripts = all.Where(IsScript).ToArray();
                var archives = all.Where(ArchiveFilm.Is).ToArray();
                var targets = all.Where(t => !IsScript(t) && !ArchiveFilm.Is(t)).ToArray();
                if (targets.FirstOrDefault(t => !FilmOutputs.Knows(t)) is { } strange)
                    throw new UsageException($"\"{strange}\" has no ending that says what it is: {FilmOutputs.Known}, fountain, zamblo.");
                await using var source = await SourceAsync();
                var parts = source.Parts;
                if (parts[0].Reviewed is { } first)
                    frame = new FrameSize(first.Scene.Document.Width, first.Scene.Document.Height);
                foreach (var target in scripts)
                {
                    await using var writer = new StreamWriter(target);
                    source.Script.WriteFountain(writer);
                }
                foreach (var target in archives)
                    await ArchiveFilm.WriteAsync(parts, source.Title, source.Script.Scenes, target, cancel);
                var frames = parts.Sum(p => p.Scene.FrameCount);
                var show = Terminal.Progress("Rendering");
                await FilmOutputs.WriteAsync(parts, frame, targets, all[0].TrimEnd('/') + ".work", f => show((double)f / frames), cancel);
                Console.Error.WriteLine($"{parts.Sum(p => p.Scene.Duration):0.00} s, {frames} frames written to {string.Join(", ", all)}");
                return 0;

                async Task<FilmSource> SourceAsync()
                {
                    var (path, who, audio) = (result.GetValue(play), result.GetValue(character), result.GetValue(voice));
                    if (path == null ? who == null || audio == null : who != null || audio != null)
                        throw new UsageException("Give either a screenplay, or --character and --voice.");
                    if (path == null)
                        return await FilmSource.OfVoiceAsync(who!, Terminal.ExistingFile(audio!), Terminal.Script(result.GetValue(script)), style, cancel);
                    Terminal.ExistingFile(path);
                    if (!ArchiveFilm.Is(path))
                        return await FilmSource.OfPlayAsync(path, result.GetValue(cast), style, cancel);
                    if (result.GetValue(cast) != null)
                        throw new UsageException("A production has its cast: --cast is for screenplays.");
                    // Takes, touch-ups and history are in the file, not in the film.
                    if (archives.Length > 0)
                        throw new UsageException("A production's file is not written from another one: copy it.");
                    return await FilmSource.OfArchiveAsync(path, Changed, cancel);
                }

                // What was kept stays as it was, but for what is asked for.
                SceneDocument Changed(SceneDocument document) =>
                    document with
                    {
                        Backdrop = style.Backdrop ?? document.Backdrop,
                        Rate = IsGiven(fps) ? rate : document.Rate,
                        Width = IsGiven(size) || IsGiven(format) ? style.Size.Width : document.Width,
                        Height = IsGiven(size) || IsGiven(format) ? style.Size.Height : document.Height,
                        Camera = IsGiven(camera) ? style.Camera with { Seed = style.Seed } : document.Camera,
                        Lettering = document.Lettering with
                        {
                            HasCaptions = IsGiven(captions) ? style.Lettering.HasCaptions : document.Lettering.HasCaptions,
                            HasNames = style.Lettering.HasNames || document.Lettering.HasNames,
                        },
                    };
            }
        );
        return command;
    }

    // A key, or a picture that is made one.
    private static string? SetOf(string? named, CastLibrary library)
    {
        if (named == null || library.BackdropKeys.Contains(named))
            return named;
        if (!File.Exists(named))
            throw new UsageException($"There is no set \"{named}\", nor a picture of that name: \"sets\" lists the sets.");
        if (new FileInfo(named).Length > PictureFiles.Largest)
            throw new MediaException($"\"{named}\" is larger than a picture can be.");
        var picture = PictureFiles.Take(File.ReadAllBytes(named), named);
        var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(picture.Bytes));
        PictureShelf.Hold(hash, picture.Bytes);
        return new PictureSet(hash, picture.Width, picture.Height, picture.Edge).Key;
    }

    private static bool IsScript(string target) => target.EndsWith(".fountain", StringComparison.OrdinalIgnoreCase);
}
