using System.CommandLine;
using System.Text;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Cli;

internal static class AnalyzeCommand
{
    public static Command Create()
    {
        var audio = new Argument<string>("audio") { Description = "Sound file of any common kind." };
        var script = new Option<string?>("--script") { Description = "Text file of what is said; - reads standard input." };
        var lang = new Option<string?>("--lang")
        {
            Description =
                "Language of what is said, as \"voices\" names it: en, de, fr-fr, ja ... Where nothing is given, English as far as it sounds like it.",
        };
        var format = new Option<string>("--format") { Description = "What to print.", DefaultValueFactory = _ => "textgrid" };
        format.AcceptOnlyFromAmong("textgrid", "csv", "json", "vtt", "srt");
        var fps = new Option<string>("--fps") { Description = "Rows per second of csv.", DefaultValueFactory = _ => "25" };
        var names = new Option<string?>("--names") { Description = "Names that may be said, with commas between: words are drafted with them in mind." };
        var command = new Command("analyze", "Words and phones in time, or the mouth, of a recording.") { audio, script, lang, names, format, fps };
        command.SetAction(
            async (result, cancel) =>
            {
                var path = Terminal.ExistingFile(result.GetValue(audio)!);
                var rate = Terminal.Rate(result.GetValue(fps)!);
                var text = Terminal.Script(result.GetValue(script));
                var kind = result.GetValue(format)!;
                var sound = await AudioFiles.DecodeAsync(path, Path.GetFileName(path), CepstralFrontEnd.SampleRate, cancel);
                var known = new Said(text, result.GetValue(lang));
                var (speech, said) = await known.HearAsync(sound, result.GetValue(names)?.Split(',') ?? [], Terminal.Progress("Listening"), cancel);
                if (said != known)
                    Console.Error.WriteLine("Rows that are written once are sung again: they stand there, too.");
                if (speech.IsForeign)
                    Console.Error.WriteLine("This does not sound like English: say which language it is (--lang es).");
                if (kind is "vtt" or "srt" && speech.Words.Count == 0)
                    throw new MediaException($"\"{Path.GetFileName(path)}\" gives no captions: there are no words without a script (--script FILE).");
                using var output = Console.OpenStandardOutput();
                if (kind == "json")
                {
                    SpeechExports.WriteJson(output, speech, new MouthDials());
                    return 0;
                }
                using var writer = new StreamWriter(output, new UTF8Encoding(false));
                switch (kind)
                {
                    case "textgrid":
                        TextGrid.Write(writer, speech);
                        break;
                    case "csv":
                        SpeechExports.WriteCsv(writer, speech, rate, new MouthDials());
                        break;
                    case "vtt":
                        Captions.WriteVtt(writer, Captions.FromWords(speech.Words, said.Query.Script ?? speech.Draft));
                        break;
                    case "srt":
                        Captions.WriteSrt(writer, Captions.FromWords(speech.Words, said.Query.Script ?? speech.Draft));
                        break;
                }
                return 0;
            }
        );
        return command;
    }

    public static Command CreateTurns()
    {
        var audio = new Argument<string>("audio") { Description = "Sound file of any common kind." };
        var speakers = new Option<int?>("--speakers") { Description = "How many speak, 1 to 6; found where it is not given." };
        var format = new Option<string>("--format") { Description = "What to print.", DefaultValueFactory = _ => "rttm" };
        format.AcceptOnlyFromAmong("rttm", "json");
        var command = new Command("turns", "Who speaks when, as RTTM or JSON.") { audio, speakers, format };
        command.SetAction(
            async (result, cancel) =>
            {
                var path = Terminal.ExistingFile(result.GetValue(audio)!);
                var count = result.GetValue(speakers);
                if (count is < Turns.Fewest or > Turns.Most)
                    throw new UsageException($"--speakers goes from {Turns.Fewest} to {Turns.Most}.");
                var found = await TurnFinder.FindAsync(path, Path.GetFileName(path), count, Terminal.Progress("Listening"), cancel);
                var turns = found.Turns;
                if (turns.Count == 0)
                    throw new MediaException($"\"{Path.GetFileName(path)}\" has no voice in it.");
                using var output = Console.OpenStandardOutput();
                if (result.GetValue(format) == "json")
                {
                    JsonSerializer.Serialize(
                        output,
                        turns.Select(t => new
                        {
                            speaker = t.Speaker + 1,
                            start = Math.Round(t.Start, 3),
                            end = Math.Round(t.End, 3),
                        }),
                        new JsonSerializerOptions { WriteIndented = true }
                    );
                    output.WriteByte((byte)'\n');
                    return 0;
                }
                using var writer = new StreamWriter(output, new UTF8Encoding(false));
                Rttm.Write(writer, Path.GetFileNameWithoutExtension(path), turns);
                return 0;
            }
        );
        return command;
    }
}
