using System.CommandLine;
using Zamblo.Core.Interchange;
using Zamblo.Core.Stage;
using Zamblo.Media;

namespace Zamblo.Cli;

internal static class FilmCommand
{
    public static Command Create()
    {
        var library = CastLibrary.Shipped();
        var play = new Argument<string?>("screenplay") { Description = "Fountain, \"NAME: words\", WebVTT or SubRip file.", Arity = ArgumentArity.ZeroOrOne };
        var character = new Option<string?>("--character") { Description = "Who speaks: a key from \"characters\", or a character's file (.json)." };
        var cast = new Option<string?>("--cast") { Description = "Who plays whom: ROLE=CHARACTER,... ; keys or files, as for --character." };
        var set = new Option<string?>("--set") { Description = "Where it plays: a key from \"sets\"; else as the scene headings say." };
        set.AcceptOnlyFromAmong([.. library.BackdropKeys]);
        var voice = new Option<string?>("--voice") { Description = "Sound file of the voice." };
        var script = new Option<string?>("--script") { Description = "Text file of what the voice says." };
        var size = new Option<string>("--size") { Description = "Picture size.", DefaultValueFactory = _ => "1280x720" };
        var fps = new Option<string>("--fps") { Description = "Frames per second.", DefaultValueFactory = _ => "25" };
        var output = new Option<string[]>("-o", "--output")
        {
            Description = $"What to write; the ending says what it is: {FilmOutputs.Known} (a folder). May be given several times.",
            Required = true,
        };
        var command = new Command("film", "The whole way in one go: a screenplay, or a character and a voice, to a film.")
        {
            play,
            character,
            cast,
            set,
            voice,
            script,
            size,
            fps,
            output,
        };
        command.SetAction(
            async (result, cancel) =>
            {
                FrameSize frame;
                try
                {
                    frame = FrameSize.Parse(result.GetValue(size)!);
                }
                catch (FormatException e)
                {
                    throw new UsageException(e.Message);
                }
                var rate = Terminal.Rate(result.GetValue(fps)!);
                var targets = result.GetValue(output)!;
                if (targets.FirstOrDefault(t => !FilmOutputs.Knows(t)) is { } strange)
                    throw new UsageException($"\"{strange}\" has no ending that says what it is: {FilmOutputs.Known}.");
                var actors = new Actors();
                IReadOnlyList<FilmPart> parts;
                if (result.GetValue(play) is { } path)
                {
                    if (result.GetValue(character) != null || result.GetValue(voice) != null)
                        throw new UsageException("Give either a screenplay, or --character and --voice.");
                    var read = Screenplay.Read(await File.ReadAllTextAsync(Terminal.ExistingFile(path), cancel));
                    foreach (var problem in read.Problems)
                        Console.Error.WriteLine($"{path}: {problem}");
                    if (read.Lines.Count == 0)
                        throw new MediaException($"\"{path}\" has no dialogue to film.");
                    var playing = actors.Of(result.GetValue(cast), read);
                    parts = await SceneBuilder.FromScreenplayAsync(
                        actors.Library,
                        read,
                        playing,
                        result.GetValue(set),
                        rate,
                        Terminal.Progress("Speaking"),
                        cancel
                    );
                }
                else
                {
                    if (result.GetValue(character) is not { } who || result.GetValue(voice) is not { } audio)
                        throw new UsageException("Give either a screenplay, or --character and --voice.");
                    parts =
                    [
                        await SceneBuilder.FromVoiceAsync(
                            actors.Library,
                            actors.KeyOf(who),
                            Terminal.ExistingFile(audio),
                            Terminal.Script(result.GetValue(script)),
                            result.GetValue(set) ?? library.BackdropKeys[0],
                            rate,
                            Terminal.Progress("Listening"),
                            cancel
                        ),
                    ];
                }
                var frames = parts.Sum(p => p.Scene.FrameCount);
                var show = Terminal.Progress("Rendering");
                await FilmOutputs.WriteAsync(parts, frame, targets, targets[0].TrimEnd('/') + ".work", f => show((double)f / frames), cancel);
                Console.Error.WriteLine($"{parts.Sum(p => p.Scene.Duration):0.00} s, {frames} frames written to {string.Join(", ", targets)}");
                return 0;
            }
        );
        return command;
    }
}
