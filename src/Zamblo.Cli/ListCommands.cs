using System.CommandLine;
using System.Text.Encodings.Web;
using System.Text.Json;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Media;

namespace Zamblo.Cli;

/// <summary>What there is to choose from, and how a script is understood: as rows of text, or as JSON.</summary>
internal static class ListCommands
{
    private static readonly JsonSerializerOptions Readable = new(JsonSerializerOptions.Web)
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private static Option<bool> AsJson() => new("--json") { Description = "As JSON." };

    public static void Print<T>(IReadOnlyList<T> rows, bool json, Func<T, string?[]> columns)
    {
        if (json)
            Console.WriteLine(JsonSerializer.Serialize(rows, Readable));
        else
            foreach (var row in rows)
                Console.WriteLine(string.Join('\t', columns(row)));
    }

    public static Command CreateVoices()
    {
        var json = AsJson();
        var command = new Command("voices", "Lists the voices: key, language, name, character.") { json };
        command.SetAction(
            async (result, cancel) =>
            {
                Print([.. await Synthesis.VoicesAsync(cancel)], result.GetValue(json), v => [v.Key, v.Language, v.Name, v.Character]);
                return 0;
            }
        );
        return command;
    }

    public static Command CreateCharacters()
    {
        var json = AsJson();
        var command = new Command("characters", "Lists the characters: key, name, kind, suggested voice, description.") { json };
        command.SetAction(result =>
        {
            var library = CastLibrary.Shipped();
            var rows = library
                .CharacterKeys.Select(k => (Key: k, library.Character(k).Rig))
                .Select(c => new
                {
                    c.Key,
                    c.Rig.Name,
                    Kind = library.KindOf(c.Key),
                    c.Rig.Voice,
                    c.Rig.Description,
                });
            Print([.. rows], result.GetValue(json), c => [c.Key, c.Name, c.Kind, c.Voice, c.Description]);
        });
        return command;
    }

    public static Command CreateSets()
    {
        var json = AsJson();
        var command = new Command("sets", "Lists the sets that a scene can play in: key, name.") { json };
        command.SetAction(result =>
            Print(
                [.. CastLibrary.Shipped().BackdropKeys.Select(k => new { Key = k, Name = CastLibrary.BackdropName(k) })],
                result.GetValue(json),
                s => [s.Key, s.Name]
            )
        );
        return command;
    }

    public static Command CreateScript()
    {
        var file = new Argument<string>("file") { Description = "Fountain, \"NAME: words\", WebVTT or SubRip; - reads standard input." };
        var json = AsJson();
        var command = new Command("script", "How a screenplay is understood, line by line, and what is not.") { file, json };
        command.SetAction(result =>
        {
            var play = Screenplay.Read(Terminal.Script(result.GetValue(file)!)!);
            if (result.GetValue(json))
                Console.WriteLine(JsonSerializer.Serialize(Understood(play), Readable));
            else
                Write(play);
            return play.Lines.Count == 0 ? 1 : 0;
        });
        return command;
    }

    private static object Understood(Screenplay play) =>
        new
        {
            play.Title,
            play.Scenes,
            Lines = play.Lines.Select(l => new
            {
                l.Row,
                l.Scene,
                Heading = play.Scenes.ElementAtOrDefault(l.Scene),
                l.Role,
                Name = RoleNames.Of(l.Role),
                Words = Spoken(l),
                Direction = Directions.Leading(l.WithDirection),
                Mood = Directions.Leading(l.WithDirection) is { } how ? MoodSuggestions.FromDirection(how)?.ToString() : null,
                Delivery = Delivery.NameOf(Directions.Leading(l.WithDirection)),
                Within = Directions.In(l.Text).Select(d => d.Text),
                Gestures = DirectedGestures.In(l.WithDirection).Select(g => g.Gesture),
                Looks = DirectedLooks.In(play, l),
                OffStage = l.IsOffStage,
                Together = l.IsTogether,
            }),
            play.Unspoken,
            play.Problems,
        };

    private static string Spoken(ScreenplayLine line) =>
        string.Join(' ', Directions.Spoken(line.Text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));

    private static void Write(Screenplay play)
    {
        var scene = -1;
        foreach (var line in play.Lines)
        {
            if (line.Scene != scene && play.Scenes.ElementAtOrDefault(scene = line.Scene) is { Length: > 0 } heading)
                Console.WriteLine($"scene\t{heading}");
            var how = Directions.Leading(line.WithDirection);
            string?[] marks =
            [
                how,
                how == null ? null : MoodSuggestions.FromDirection(how)?.ToString(),
                Delivery.NameOf(how),
                line.IsOffStage ? "off stage" : null,
                line.IsTogether ? "at once with the one before" : null,
            ];
            Console.WriteLine($"{line.Row}\t{RoleNames.Of(line.Role)}\t{Spoken(line)}\t{string.Join(", ", marks.Where(m => m != null))}");
        }
        foreach (var row in play.Unspoken)
            Console.Error.WriteLine($"line {row.Row}: not spoken ({row.Kind}): {row.Text}");
        foreach (var problem in play.Problems)
            Console.Error.WriteLine(problem);
    }
}
