using System.Collections.Concurrent;

namespace Zamblo.Media;

/// <summary>
/// Recognisers of other languages that whoever runs the program has put into a folder: one folder each, called as its language ("es", "ja"), with the files of
/// a <see cref="RecogniserModel"/>. They are run as the one is that comes with the program; nothing is fetched, and nobody can send one over the network.
/// </summary>
public static class Recognisers
{
    /// <summary>A recogniser that lies there.</summary>
    /// <param name="Language">As its folder is called.</param>
    /// <param name="Problem">Why it cannot be used; null where it can.</param>
    public sealed record Card(string Language, string? Problem);

    private sealed record Known(string Stamp, RecogniserModel? Model, string? Problem);

    private static readonly ConcurrentDictionary<string, byte> Folders = new();
    private static readonly ConcurrentDictionary<string, Known> Looked = new();

    /// <summary>Recognisers in this folder can be used from now on, and those that are put into it later.</summary>
    public static void Watch(string folder) => Folders.TryAdd(Path.GetFullPath(folder), 0);

    /// <summary>A language without its region: "es" of "es-419".</summary>
    public static string KeyOf(string language) => language.Split('-')[0].ToLowerInvariant();

    private static IEnumerable<string> Places() =>
        Folders
            .Keys.Concat(Environment.GetEnvironmentVariable("ZAMBLO_RECOGNISERS") is { Length: > 0 } own ? [own] : [])
            .SelectMany(f => In(f, d => d.GetDirectories()).Select(d => d.FullName))
            // A language has two or three letters (ISO 639).
            .Where(f => Path.GetFileName(f) is { Length: 2 or 3 } name && name.All(char.IsAsciiLetterLower))
            .OrderBy(f => f, StringComparer.Ordinal);

    // Folders come and go while the program runs.
    private static T[] In<T>(string folder, Func<DirectoryInfo, T[]> what)
    {
        try
        {
            return what(new DirectoryInfo(folder));
        }
        catch (DirectoryNotFoundException)
        {
            return [];
        }
    }

    // Reading one takes seconds: it is done once, and anew when its files are others.
    private static Known Look(string folder)
    {
        var stamp = string.Join(' ', StampsOf(folder));
        if (Looked.TryGetValue(folder, out var known) && known.Stamp == stamp)
            return known;
        lock (Looked)
        {
            if (Looked.TryGetValue(folder, out known) && known.Stamp == stamp)
                return known;
            try
            {
                known = new Known(stamp, RecogniserModel.Brought(folder), null);
            }
            catch (MediaException e)
            {
                known = new Known(stamp, null, e.Message);
            }
            return Looked[folder] = known;
        }
    }

    private static IEnumerable<string> StampsOf(string folder) =>
        In(folder, d => d.GetFiles()).OrderBy(f => f.Name, StringComparer.Ordinal).Select(f => $"{f.Name} {f.Length} {f.LastWriteTimeUtc.Ticks}");

    /// <summary>What of them tells two machines apart that have others: names and sizes.</summary>
    internal static IEnumerable<string> Identities() =>
        Places().SelectMany(p => In(p, d => d.GetFiles()).Select(f => $"{Path.GetFileName(p)}/{f.Name} {f.Length}"));

    /// <summary>All that lie there, English aside, which comes with the program.</summary>
    public static IReadOnlyList<Card> All() =>
        [.. Places().Select(p => new Card(Path.GetFileName(p), Look(p).Problem)).Where(c => c.Language != "en").DistinctBy(c => c.Language)];

    /// <summary>That of a language; null where there is none that works.</summary>
    /// <param name="language">BCP 47 tag.</param>
    internal static RecogniserModel? Of(string language)
    {
        var key = KeyOf(language);
        return Places().Where(p => Path.GetFileName(p) == key).Select(p => Look(p).Model).FirstOrDefault(m => m != null);
    }
}
