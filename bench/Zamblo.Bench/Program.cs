using Zamblo.Bench;
using Zamblo.Media;

// Benchmarks, as ratios: "hearing" (accuracy against engines' own times, and speed), "film" (times real time), or both.
var what = args.FirstOrDefault() ?? "all";
var folder = Directory.CreateTempSubdirectory("zamblo-bench-").FullName;
try
{
    if (what is "all" or "hearing") await HearingBench.RunAsync(folder, args.Contains("--quick"), args.SkipWhile(a => a != "--only").Skip(1).FirstOrDefault());
    if (what is "all" or "film") await FilmBench.RunAsync(folder);
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
