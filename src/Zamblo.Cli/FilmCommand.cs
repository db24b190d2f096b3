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
        var character = new Option<string?>("--character") { Description = "Who speaks: " + string.Join(", ", library.CharacterKeys) + "." };
        character.AcceptOnlyFromAmong([.. library.CharacterKeys]);
        var voice = new Option<string?>("--voice") { Description = "Sound file of the voice." };
        var script = new Option<string?>("--script") { Description = "Text file of what the voice says." };
        var size = new Option<string>("--size") { Description = "Picture size.", DefaultValueFactory = _ => "1280x720" };
        var fps = new Option<string>("--fps") { Description = "Frames per second.", DefaultValueFactory = _ => "25" };
        var output = new Option<string>("-o", "--output") { Description = "MP4 file to write.", Required = true };
        var command = new Command("film", "The whole way in one go: a screenplay, or a character and a voice, to an MP4.")
        {
            play,
            character,
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
                var target = result.GetValue(output)!;
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
                    parts = await SceneBuilder.FromScreenplayAsync(library, read, rate, Terminal.Progress("Speaking"), cancel);
                }
                else
                {
                    if (result.GetValue(character) is not { } who || result.GetValue(voice) is not { } audio)
                        throw new UsageException("Give either a screenplay, or --character and --voice.");
                    parts =
                    [
                        await SceneBuilder.FromVoiceAsync(
                            library,
                            who,
                            Terminal.ExistingFile(audio),
                            Terminal.Script(result.GetValue(script)),
                            rate,
                            Terminal.Progress("Listening"),
                            cancel
                        ),
                    ];
                }
                var frames = parts.Sum(p => p.Scene.FrameCount);
                var show = Terminal.Progress("Rendering");
                var work = target + ".work";
                await FilmRenderer.RenderAsync(parts, frame, target, work, null, f => show((double)f / frames), cancel);
                Console.Error.WriteLine($"{parts.Sum(p => p.Scene.Duration):0.00} s, {frames} frames written to {target}");
                return 0;
            }
        );
        return command;
    }
}
