using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Lettering;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>A production in another language.</summary>
/// <param name="Language">Tag of the language.</param>
/// <param name="Text">A translated script, speech by speech; null takes the captions that are there in that language.</param>
public sealed record NewVersion(string? Language, string? Text = null);

/// <summary>What has come of it.</summary>
/// <param name="Id">Of the new production.</param>
/// <param name="Spoken">So many lines are spoken in the other language.</param>
/// <param name="Left">So many lines have no translation yet: they are as they were.</param>
/// <param name="HasVoices">Whether any voice here speaks the language; else everybody keeps the voice that they have.</param>
public sealed record VersionAnswer(Guid Id, int Spoken, int Left, bool HasVoices);

/// <summary>One of the languages that a production is there in.</summary>
/// <param name="Id">Of the production.</param>
/// <param name="Title">Its title.</param>
/// <param name="Language">Tag of its language; empty where nobody has said.</param>
/// <param name="IsOriginal">The others are versions of it.</param>
public sealed record VersionCard(Guid Id, string Title, string Language, bool IsOriginal);

/// <summary>
/// A production in several languages: each a production of its own, with its own takes and voices, whose lines know which line of the original they are.
/// Moods, gestures, looks, shots, light and touch-ups come along: what hangs on words that are not said any more keeps its part of the line.
/// </summary>
public sealed class LanguageVersions(IDbContextFactory<ZambloContext> contexts, SceneDesk scenes, HearingDesk hearings, JobDesk jobs)
{
    /// <summary>Makes a version.</summary>
    /// <param name="id">The production.</param>
    /// <param name="wish">How it is wanted.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="NotFoundException">There is no such production.</exception>
    /// <exception cref="RequestException">There is such a version already, or nothing to say in it.</exception>
    public async Task<VersionAnswer> AddAsync(Guid id, NewVersion wish, CancellationToken cancel)
    {
        var language = Check.Language(wish.Language ?? "");
        if (language.Length == 0)
            throw new RequestException("Say which language the version is in: its tag, such as de.");
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var source = await db.Productions.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, cancel) ?? throw new NotFoundException("such production");
        if ((await ListAsync(id)).FirstOrDefault(v => v.Language.Equals(language, StringComparison.OrdinalIgnoreCase)) is { } there)
            throw new RequestException($"There is a version in that language already: \"{there.Title}\".");
        var lines = await CaptionEdits.LinesAsync(db, id);
        var texts = wish.Text is { } script
            ? CaptionEdits.Translated(lines, script).ToDictionary(t => t.Line.Id, t => t.Speech.WithDirection)
            : lines.Where(l => CaptionEdits.Read(l).ContainsKey(language)).ToDictionary(l => l.Id, l => CaptionEdits.Read(l)[language].ReplaceLineEndings(" "));
        if (!texts.Values.Any(t => Directions.Spoken(t).Any(char.IsLetterOrDigit)))
            throw new RequestException("Nothing is written in that language yet: bring a translated script, or write captions in it first.");
        db.ChangeTracker.Clear();
        var loaded = new List<LoadedScene>();
        foreach (var card in await scenes.ScenesAsync(id))
            loaded.Add(await scenes.LoadAsync(card.Id));
        var copy = await ProductionRows.CopyAsync(db, id);
        copy.Title = await ProductionList.FreeTitleAsync(
            db,
            $"{copy.Title[..Math.Min(copy.Title.Length, ProductionEdits.LongestTitle - language.Length - 8)]} ({language})"
        );
        (copy.Revision, copy.HistoryPosition, copy.DeletedAt, copy.Created, copy.Modified) = (0, 0, null, DateTime.UtcNow, DateTime.UtcNow);
        (copy.Language, copy.OriginalId) = (language, source.OriginalId ?? source.Id);
        var lettering = Column.Read<LetteringDials>(copy.Lettering);
        if (lettering.Language.Equals(language, StringComparison.OrdinalIgnoreCase))
            copy.Lettering = Column.Write(lettering with { Language = "" });
        // Copies stand in the order of their originals.
        var order = db.Scenes.Local.Where(s => s.ProductionId == copy.Id).ToDictionary(s => s.Id, s => s.Order);
        var copies = db.Lines.Local.Where(l => order.ContainsKey(l.SceneId)).OrderBy(l => order[l.SceneId]).ThenBy(l => l.Order).ToArray();
        var copyOf = lines.Zip(copies).ToDictionary(p => p.First.Id, p => p.Second);
        foreach (var scene in loaded)
            LineTiming.Relax(scene, copyOf);
        var members = db.CastMembers.Local.Where(m => m.ProductionId == copy.Id).OrderBy(m => m.Order).ToArray();
        var were = members.ToDictionary(m => m.Id, m => Synthesis.LanguageOf(m.Voice));
        var spoken = were[members[0].Id].Split('-')[0];
        var voices = VoicesOfLanguage.For(await Synthesis.VoicesAsync(cancel), [.. members.Select(m => m.Voice)], language);
        for (var i = 0; voices != null && i < members.Length; i++)
            members[i].Voice = voices[i];
        var orders = new List<Job>();
        foreach (var line in lines)
        {
            var mine = copyOf[line.Id];
            mine.OriginalId = line.OriginalId ?? line.Id;
            var captions = CaptionEdits.Read(mine).ToDictionary();
            captions.Remove(language);
            // What captions had in place of the old words is in the old language.
            if (captions.Remove("", out var own))
                captions.TryAdd(spoken, own);
            if (texts.TryGetValue(line.Id, out var text) && Directions.Spoken(text).Any(char.IsLetterOrDigit))
            {
                (mine.Text, mine.Language) = (text.Trim(), "");
                orders.Add(
                    JobDesk.New(
                        TakeOrder.Speak,
                        copy.Id,
                        "Speak a line",
                        new TakeOrder(mine.SceneId, mine.Id, mine.CastMemberId, mine.Text, TakeKind.Synthesis, null, "", Takes.DeliveryOf(mine))
                    )
                );
            }
            // Who says it speaks another language now; this line is still in the old one.
            else if (mine.Language.Length == 0)
                mine.Language = were[mine.CastMemberId];
            mine.Captions = CaptionEdits.Write(captions);
        }
        db.Jobs.AddRange(orders);
        await db.SaveChangesAsync(cancel);
        foreach (var job in orders)
            jobs.Enqueue(job);
        await hearings.AskAsync(copy.Id);
        return new VersionAnswer(copy.Id, orders.Count, lines.Count - orders.Count, voices != null);
    }

    /// <summary>All languages that a production is there in, the original first; itself alone where there are no others.</summary>
    /// <exception cref="NotFoundException">There is no such production.</exception>
    public async Task<IReadOnlyList<VersionCard>> ListAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var own = await db.Productions.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id) ?? throw new NotFoundException("such production");
        var root = own.OriginalId ?? own.Id;
        var all = await db
            .Productions.AsNoTracking()
            // Those of another team are not for the eyes of this one.
            .Where(p => p.DeletedAt == null && (p.Id == root || p.OriginalId == root) && p.TeamId == own.TeamId || p.Id == id)
            .OrderBy(p => p.Id == root ? 0 : 1)
            .ThenBy(p => p.Language)
            .ThenBy(p => p.Title)
            .ToListAsync();
        return [.. all.Select(p => new VersionCard(p.Id, p.Title, p.Language, p.Id == root))];
    }
}
