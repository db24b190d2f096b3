using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Studio.Hearings;

/// <summary>Names and words of a production's own that may be said in it: those of its cast, of its list of pronunciations, and of its script.</summary>
internal static class SpokenNames
{
    private const int Most = 120;

    /// <summary>What is known about a sound, with the names; where somebody has written the words nothing is drafted, and nobody looks for them.</summary>
    /// <param name="db">The database.</param>
    /// <param name="production">Whose.</param>
    /// <param name="query">What else is known.</param>
    public static async Task<SpeechQuery> WithAsync(ZambloContext db, Guid production, SpeechQuery query) =>
        query.Script != null || !query.IsNative ? query : query with { Names = await OfAsync(db, production) };

    private static async Task<IReadOnlyList<string>> OfAsync(ZambloContext db, Guid production)
    {
        var cast = await db.CastMembers.Where(m => m.ProductionId == production).Select(m => m.RoleName).ToListAsync();
        var scenes = db.Scenes.Where(s => s.ProductionId == production).Select(s => s.Id);
        var texts = await db.Lines.Where(l => scenes.Contains(l.SceneId) && l.Text != "").Select(l => l.Text).ToListAsync();
        var said = await db.Respellings.Where(r => r.ProductionId == production).Select(r => r.Word).ToListAsync();
        // Written with a capital wherever it stands, and in no dictionary: somebody's name, or a place's.
        var dictionary = SpeechModels.Analyzer.Dictionary;
        var own = texts
            .SelectMany(t => Directions.Spoken(t).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries))
            .Select(w => w.Trim().Trim('.', ',', '!', '?', ';', ':', '"', '\'', '(', ')', '\u2019', '\u201c', '\u201d', '\u2026'))
            .Where(w => w.Length > 2 && char.IsUpper(w[0]) && w.All(char.IsLetter) && dictionary.Lookup(w.ToLowerInvariant()).Count == 0);
        return [.. cast.Concat(said.Select(w => char.ToUpperInvariant(w[0]) + w[1..])).Concat(own).Distinct().Take(Most)];
    }
}
