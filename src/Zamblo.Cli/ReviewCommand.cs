using System.CommandLine;
using System.Globalization;
using System.Text.Json;
using Zamblo.Core;
using Zamblo.Core.Review;
using Zamblo.Core.Shots;
using Zamblo.Media;

namespace Zamblo.Cli;

internal static class ReviewCommand
{
    private sealed record Found(int Scene, ReviewFlag Flag);

    public static Command Create()
    {
        var play = new Argument<string>("film") { Description = "A screenplay, or a production's file (.zamblo)." };
        var camera = new Option<string>("--camera") { Description = "For a screenplay: as for \"film\".", DefaultValueFactory = _ => "fixed" };
        camera.AcceptOnlyFromAmong("fixed", "calm", "lively");
        var json = new Option<bool>("--json") { Description = "For programs." };
        var command = new Command("review", "What an audience would stumble over. Exit code 1 when some of it is serious.") { play, camera, json };
        command.SetAction(
            async (result, cancel) =>
            {
                var path = Terminal.ExistingFile(result.GetValue(play)!);
                var style = new FilmStyle(new FrameRate(25), new FrameSize(1280, 720)) { Camera = CameraDials.Named(result.GetValue(camera)!)! };
                await using var source = ArchiveFilm.Is(path)
                    ? await FilmSource.OfArchiveAsync(path, null, cancel)
                    : await FilmSource.OfPlayAsync(path, null, style, cancel);
                var found = Look(source.Parts, cancel);
                if (result.GetValue(json))
                    Console.WriteLine(JsonSerializer.Serialize(found.Select(Written), Options));
                else
                    foreach (var (scene, flag) in found)
                        Console.WriteLine(
                            string.Create(
                                CultureInfo.InvariantCulture,
                                $"scene {scene}, {flag.Start:0.00} s{(flag.IsSerious ? ", serious" : "")}: {flag.Text} ({flag.Measure})"
                            )
                        );
                var serious = found.Count(f => f.Flag.IsSerious);
                Console.Error.WriteLine($"{found.Count} {(found.Count == 1 ? "flag" : "flags")}, {serious} serious");
                return serious > 0 ? 1 : 0;
            }
        );
        return command;
    }

    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    private static List<Found> Look(IReadOnlyList<FilmPart> parts, CancellationToken cancel)
    {
        var found = new List<Found>();
        for (var i = 0; i < parts.Count; i++)
        {
            if (i > 0)
                found.AddRange(ReviewPass.Across(parts[i - 1].Reviewed!.Scene, parts[i].Reviewed!.Scene).Select(f => new Found(i + 1, f)));
            found.AddRange(ReviewPass.Of(parts[i].Reviewed!, cancel).Select(f => new Found(i + 1, f)));
        }
        found.AddRange(ReviewPass.Silent([.. parts.Select(p => p.Reviewed!.Scene)]).Select(f => new Found(1, f)));
        return found;
    }

    private static object Written(Found found) =>
        new
        {
            scene = found.Scene,
            kind = JsonNamingPolicy.CamelCase.ConvertName(found.Flag.Kind.ToString()),
            serious = found.Flag.IsSerious,
            start = Math.Round(found.Flag.Start, 3),
            end = Math.Round(found.Flag.End, 3),
            text = found.Flag.Text,
            measure = found.Flag.Measure,
        };
}
