using System.CommandLine;
using System.Text;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Media;

namespace Zamblo.Cli;

internal static class SpeakCommand
{
    public static Command Create()
    {
        var voice = new Option<string>("--voice") { Description = "A voice from \"voices\".", Required = true };
        var text = new Option<string?>("--text") { Description = "What to say." };
        var script = new Option<string?>("--script") { Description = "Text file of what to say; - reads standard input." };
        var speed = new Option<double>("--speed") { Description = "0.5 to 2.", DefaultValueFactory = _ => 1 };
        var output = new Option<string>("-o", "--output") { Description = "WAV file to write.", Required = true };
        var grid = new Option<string?>("--textgrid") { Description = "TextGrid file for the engine's word and phone times." };
        var command = new Command("speak", "Speaks a text into a WAV file.") { voice, text, script, speed, output, grid };
        command.SetAction(
            async (result, cancel) =>
            {
                var said = result.GetValue(text);
                var file = result.GetValue(script);
                if (said == null == (file == null))
                    throw new UsageException("Give either --text or --script.");
                if (result.GetValue(speed) is < 0.5 or > 2)
                    throw new UsageException("--speed goes from 0.5 to 2.");
                var spoken = await Synthesis.SpeakAsync(result.GetValue(voice)!, said ?? Terminal.Script(file)!, new Delivery(result.GetValue(speed)), cancel);
                await using (var wav = File.Create(result.GetValue(output)!))
                    WavFile.Write(wav, [spoken.Audio.Samples], spoken.Audio.SampleRate);
                if (result.GetValue(grid) is { } path)
                {
                    await using var writer = new StreamWriter(path, false, new UTF8Encoding(false));
                    TextGrid.Write(writer, spoken.Speech);
                }
                Console.Error.WriteLine($"{spoken.Audio.Duration:0.00} s written to {result.GetValue(output)}");
                return 0;
            }
        );
        return command;
    }
}
