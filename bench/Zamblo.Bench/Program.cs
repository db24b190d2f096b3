using Zamblo.Bench;
using Zamblo.Media;

// Benchmarks, as ratios: "hearing" (accuracy against engines' own times, and speed), "film" (times real time), "stage" (frames a second), or all;
// "boundaries FILE" learns the weights by which boundaries are placed; "storm" tries to break the server;
// "arrivals" has people come until it is too many.
var what = args.FirstOrDefault() ?? "all";
string? Option(string name) => args.SkipWhile(a => a != name).Skip(1).FirstOrDefault();

// Some of them run for half an hour: nothing begins by a slip.
string[] options = ["--quick", "--only", "--plot", "--seed", "--minutes", "--database", "--workers"];
if (
    what is not ("all" or "hearing" or "boundaries" or "film" or "stage" or "arrivals" or "storm")
    || args.FirstOrDefault(a => a.StartsWith('-') && !options.Contains(a)) != null
)
{
    Console.Error.WriteLine(
        "usage: bench [hearing [--quick] [--only NAME] [--plot FILE] | boundaries FILE | film | stage | arrivals [--seed N] |\n"
            + "       storm [--minutes N] [--seed N] [--database postgres] [--workers N] [--only storm]]"
    );
    return 2;
}
var folder = Directory.CreateTempSubdirectory("zamblo-bench-").FullName;
try
{
    if (what is "all" or "hearing")
        await HearingBench.RunAsync(folder, args.Contains("--quick"), Option("--only"), Option("--plot"));
    if (what == "boundaries")
        await BoundaryLearning.RunAsync(folder, args.Skip(1).FirstOrDefault() ?? "boundaries.json");
    if (what is "all" or "film")
        await FilmBench.RunAsync(folder);
    if (what is "all" or "stage")
        await StageBench.RunAsync();
    if (what == "arrivals")
        await ArrivalsBench.RunAsync(folder, int.Parse(Option("--seed") ?? "1"));
    if (what == "storm")
        return await StormBench.RunAsync(
            folder,
            double.Parse(Option("--minutes") ?? "25"),
            int.Parse(Option("--seed") ?? $"{Environment.TickCount}"),
            Option("--database") == "postgres",
            int.Parse(Option("--workers") ?? "0"),
            Option("--only") == "storm"
        )
            ? 0
            : 1;
    return 0;
}
catch (MediaException e)
{
    Console.Error.WriteLine(e.Message);
    return 1;
}
finally
{
    Directory.Delete(folder, true);
}
