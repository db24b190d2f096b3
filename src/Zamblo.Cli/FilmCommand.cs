using System.CommandLine;
using System.Globalization;
using Zamblo.Core.Interchange;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Scenes;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Media;
using Zamblo.Media.Portraits;

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

    // By its names, never by their numbers.
    private static Option<string> OneOf<T>(string name, T usual, string description)
        where T : struct, Enum
    {
        var option = new Option<string>(name) { Description = description, DefaultValueFactory = _ => usual.ToString().ToLowerInvariant() };
        option.AcceptOnlyFromAmong([.. Enum.GetNames<T>().Select(n => n.ToLowerInvariant())]);
        return option;
    }

    private static T Chosen<T>(ParseResult result, Option<string> option)
        where T : struct, Enum => Enum.Parse<T>(result.GetValue(option)!, ignoreCase: true);

    public static Command Create()
    {
        var library = CastLibrary.Shipped();
        var play = new Argument<string?>("screenplay")
        {
            Description = "Fountain, \"NAME: words\", WebVTT or SubRip file; or a production (.zamblo).",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var character = new Option<string?>("--character")
        {
            Description = "Who speaks: a key from \"characters\", or a character's file (.json, .svg, .zip).",
        };
        var picture = new Option<string?>("--picture")
        {
            Description = "Who speaks: the face in a picture (JPEG, PNG, WebP); the largest, where there are several.",
        };
        var plate = new Option<string?>("--plate")
        {
            Description =
                "Who speaks: somebody in a clip (MP4, MOV, WebM), whose mouth says what the voice says; longer than the clip, it goes forth and back.",
        };
        var face = new Option<string?>("--face") { Description = "Where the face is in the picture, if it is not found: LEFT,TOP,WIDTH,HEIGHT in pixels." };
        var cast = new Option<string?>("--cast") { Description = "Who plays whom: ROLE=CHARACTER,... ; keys, files as for --character, or pictures." };
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
        var light = OneOf("--light", LightKind.AsDrawn, "The light over every scene.");
        var weather = OneOf("--weather", WeatherKind.Clear, "What is in the air of every scene.");
        var captions = new Option<string>("--captions")
        {
            Description =
                "What is said: in the picture, there with each word lit as it is said, as a WebVTT file beside the film, or as a track in it (MP4, WebM).",
            DefaultValueFactory = _ => "none",
        };
        captions.AcceptOnlyFromAmong("none", "picture", "lit", "file", "track");
        var language = new Option<string>("--caption-language")
        {
            Description = "Of captions, as a tag (de, pt-BR): where a production (.zamblo) has some in it. The one that is spoken where nothing is given.",
            DefaultValueFactory = _ => "",
        };
        var spoken = new Option<string?>("--lang") { Description = "Language that --voice speaks, as \"voices\" names it: en, de, fr-fr, ja ..." };
        var sounds = new Option<bool>("--caption-sounds") { Description = "Captions tell what else is heard, in brackets: [laughs], [music]." };
        var names = new Option<bool>("--names") { Description = "Name plates for those who speak for the first time." };
        var cards = new Option<bool>("--cards") { Description = "What is said without sound stands on cards, as in silent films." };
        var fps = new Option<string>("--fps") { Description = "Frames per second.", DefaultValueFactory = _ => "25" };
        var from = new Option<double?>("--from") { Description = "Of a single scene only what comes after so many seconds." };
        var to = new Option<double?>("--to") { Description = "Of a single scene only what comes before so many seconds." };
        var loudness = new Option<double?>("--loudness")
        {
            Description = "Integrated loudness of the sound in LUFS: -23 (EBU R 128), -16 or -14 (the web); as it is where nothing is given.",
        };
        var codec = new Option<string>("--codec") { Description = "Of an MP4's picture.", DefaultValueFactory = _ => "h264" };
        codec.AcceptOnlyFromAmong([.. FilmFinish.Codecs]);
        var faceNames = OneOf(
            "--face-names",
            FaceNames.Zamblo,
            "Of the morph targets in a .glb: our own with VRM's mouths and blinks, VRM 1.0 alone, or MPEG-4's facial animation parameters."
        );
        var output = new Option<string[]>("-o", "--output")
        {
            Description = $"What to write; the ending says what it is: {FilmOutputs.Known}, fountain, zamblo (png makes a folder). May be given several times.",
            Required = true,
        };
        var command = new Command("film", "The whole way in one go: a screenplay, or a character and a voice, to a film.")
        {
            play,
            character,
            picture,
            plate,
            face,
            cast,
            set,
            camera,
            light,
            weather,
            captions,
            language,
            spoken,
            sounds,
            names,
            cards,
            voice,
            script,
            size,
            format,
            fps,
            seed,
            from,
            to,
            loudness,
            codec,
            faceNames,
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
                    IsSizeGiven = result.GetValue(size) != null || result.GetValue(format) != null,
                    Backdrop = SetOf(result.GetValue(set), library),
                    Seed = result.GetValue(seed),
                    Camera = CameraDials.Named(result.GetValue(camera)!)!,
                    Light = new LightDials { Light = Chosen<LightKind>(result, light), Weather = Chosen<WeatherKind>(result, weather) },
                    Lettering = new LetteringDials
                    {
                        HasCaptions = result.GetValue(captions) is "picture" or "lit",
                        HasLitWords = result.GetValue(captions) == "lit",
                        HasSounds = result.GetValue(sounds),
                        HasNames = result.GetValue(names),
                        HasCards = result.GetValue(cards),
                        Language = CaptionWording.IsLanguage(result.GetValue(language))
                            ? result.GetValue(language)!
                            : throw new UsageException($"\"{result.GetValue(language)}\" is no language: write a tag such as de or pt-BR."),
                    },
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
                if (result.GetValue(loudness) is { } level && level is not (>= FilmFinish.Softest and <= FilmFinish.Loudest))
                    throw new UsageException($"--loudness goes from {FilmFinish.Softest} to {FilmFinish.Loudest} LUFS.");
                var (start, end) = (result.GetValue(from) ?? 0, result.GetValue(to));
                if (!double.IsFinite(start) || start < 0 || end is { } e2 && !(e2 > start))
                    throw new UsageException("--from and --to are seconds, the one before the other.");
                await using var source = await SourceAsync();
                var parts = source.Parts;
                if (IsGiven(from) || IsGiven(to))
                {
                    if (parts.Count > 1)
                        throw new UsageException("--from and --to are for a film of one scene.");
                    if (start >= parts[0].Scene.Duration)
                        throw new UsageException($"The scene ends after {parts[0].Scene.Duration:0.00} s, before --from.");
                    parts = [parts[0].Between(start, end)];
                }
                if (parts[0].Reviewed is { } first)
                    frame = new FrameSize(first.Scene.Document.Width, first.Scene.Document.Height);
                foreach (var target in scripts)
                {
                    await using var writer = new StreamWriter(target);
                    source.Script.WriteFountain(writer);
                }
                foreach (var target in archives)
                    await ArchiveFilm.WriteAsync(parts, source.Title, source.Script.Scenes, source.Cast, target, cancel);
                if (source.Script.Scenes.Count == parts.Count)
                    parts = [.. parts.Select((p, i) => p with { Title = source.Script.Scenes[i] })];
                var frames = parts.Sum(p => p.Frames);
                var (track, named) = (result.GetValue(captions) == "track", Chosen<FaceNames>(result, faceNames));
                var finish = new FilmFinish(result.GetValue(codec)!, result.GetValue(loudness), track, source.Title, named);
                var show = Terminal.Progress("Rendering");
                await FilmOutputs.WriteAsync(parts, frame, targets, all[0].TrimEnd('/') + ".work", f => show((double)f / frames), cancel, finish);
                Console.Error.WriteLine($"{parts.Sum(p => p.Seconds):0.00} s, {frames} frames written to {string.Join(", ", all)}");
                return 0;

                async Task<FilmSource> SourceAsync()
                {
                    var (path, who, audio) = (result.GetValue(play), result.GetValue(character), result.GetValue(voice));
                    var shown = result.GetValue(picture);
                    var clip = result.GetValue(plate);
                    var said = new Said(Terminal.Script(result.GetValue(script)), result.GetValue(spoken));
                    var faces = new[] { who, shown, clip }.Count(f => f != null);
                    if (path == null ? faces != 1 || audio == null : faces > 0 || audio != null)
                        throw new UsageException("Give either a screenplay, or --voice with --character, --picture or --plate.");
                    if (clip != null && archives.Length > 0)
                        throw new UsageException("A clip does not go into a production's file yet.");
                    if (clip != null)
                        return await FilmSource.OfPlateAsync(Terminal.ExistingFile(clip), Terminal.ExistingFile(audio!), said, style, cancel);
                    if (shown != null)
                        return await FilmSource.OfPictureAsync(
                            Terminal.ExistingFile(shown),
                            BoxOf(result.GetValue(face)),
                            Terminal.ExistingFile(audio!),
                            said,
                            style,
                            cancel
                        );
                    if (path == null)
                        return await FilmSource.OfVoiceAsync(who!, Terminal.ExistingFile(audio!), said, style, cancel);
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
                        Camera = IsGiven(camera)
                            ? document.Camera with
                            {
                                IsFixed = style.Camera.IsFixed,
                                Pace = style.Camera.Pace,
                                Nearness = style.Camera.Nearness,
                                Reactions = style.Camera.Reactions,
                                Seed = style.Seed,
                            }
                            : document.Camera,
                        Light = document.Light with
                        {
                            Light = IsGiven(light) ? style.Light.Light : document.Light.Light,
                            Weather = IsGiven(weather) ? style.Light.Weather : document.Light.Weather,
                        },
                        Lettering = document.Lettering with
                        {
                            HasCaptions = IsGiven(captions) ? style.Lettering.HasCaptions : document.Lettering.HasCaptions,
                            HasLitWords = IsGiven(captions) ? style.Lettering.HasLitWords : document.Lettering.HasLitWords,
                            HasSounds = style.Lettering.HasSounds || document.Lettering.HasSounds,
                            HasNames = style.Lettering.HasNames || document.Lettering.HasNames,
                            HasCards = style.Lettering.HasCards || document.Lettering.HasCards,
                            Language = IsGiven(language) ? style.Lettering.Language : document.Lettering.Language,
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
        if (VideoFrames.Endings.Contains(Path.GetExtension(named).ToLowerInvariant()))
            return ClipOf(named).Key;
        if (new FileInfo(named).Length > PictureFiles.Largest)
            throw new MediaException($"\"{named}\" is larger than a picture can be.");
        var picture = PictureFiles.TakeAsync(File.ReadAllBytes(named), named).GetAwaiter().GetResult();
        var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(picture.Bytes));
        PictureShelf.Hold(hash, picture.Bytes);
        return new PictureSet(hash, picture.Width, picture.Height, picture.Edge).Key;
    }

    // Its frames are there as long as the program runs.
    private static PictureSet ClipOf(string path)
    {
        var frames = Directory.CreateTempSubdirectory("zamblo-set-").FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(frames, true);
        var count = VideoFrames
            .TakeApartAsync(path, path, PictureSet.FilmRate, PlateFollower.Longest, PlateFollower.LongestSide, frames, CancellationToken.None)
            .GetAwaiter()
            .GetResult();
        using var file = File.OpenRead(path);
        var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(file));
        PictureShelf.KnowFrames(hash, frame => VideoFrames.PathOf(frames, frame));
        var first = PictureFiles.Again(File.ReadAllBytes(VideoFrames.PathOf(frames, 0)));
        return new PictureSet(hash, first.Width, first.Height, first.Edge) { Frames = count };
    }

    private static float[]? BoxOf(string? face)
    {
        if (face == null)
            return null;
        float[] box = [.. face.Split(',').Select(v => float.TryParse(v, CultureInfo.InvariantCulture, out var x) ? x : -1)];
        return box.Length == 4 && box.All(v => float.IsFinite(v) && v >= 0) && box[2] > 0 && box[3] > 0
            ? box
            : throw new UsageException($"--face takes LEFT,TOP,WIDTH,HEIGHT in pixels; \"{face}\" is not that.");
    }

    private static bool IsScript(string target) => target.EndsWith(".fountain", StringComparison.OrdinalIgnoreCase);
}
