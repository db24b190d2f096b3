using System.Diagnostics;
using System.Globalization;

namespace Zamblo.Storm;

/// <summary>How much of the cores a program takes (proc(5): /proc/PID/stat).</summary>
internal static class ProcessTimes
{
    // sysconf(_SC_CLK_TCK) is 100 on Linux.
    private const double Ticks = 100;

    /// <summary>Seconds of cores that a process has taken with all that it has started.</summary>
    public static double OfTree(Process process)
    {
        var (parents, times) = (new Dictionary<int, int>(), new Dictionary<int, double>());
        foreach (var folder in Directory.EnumerateDirectories("/proc"))
            if (int.TryParse(Path.GetFileName(folder), CultureInfo.InvariantCulture, out var id) && Read(folder) is { } stat)
            {
                parents[id] = int.Parse(stat[1], CultureInfo.InvariantCulture);
                // Of itself, and of those of its children that have ended: fields 14 to 17, of which the first two are cut off here.
                times[id] = stat[11..15].Sum(s => double.Parse(s, CultureInfo.InvariantCulture)) / Ticks;
            }
        var sum = times.GetValueOrDefault(process.Id);
        var left = new Queue<int>([process.Id]);
        while (left.TryDequeue(out var parent))
            foreach (var (child, _) in parents.Where(p => p.Value == parent))
            {
                sum += times[child];
                left.Enqueue(child);
            }
        return sum;
    }

    private static string[]? Read(string folder)
    {
        try
        {
            // The name stands in parentheses, and may hold anything.
            var text = File.ReadAllText(Path.Combine(folder, "stat"));
            return text[(text.LastIndexOf(')') + 2)..].Split(' ');
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
