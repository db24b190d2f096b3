using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio.Views;

namespace Zamblo.Web.Pages.Review;

/// <summary>The review of a production on paper.</summary>
public sealed class IndexModel(IDbContextFactory<ZambloContext> contexts, ReviewDesk reviews) : PageModel
{
    public string Title { get; private set; } = "";
    public IReadOnlyList<FlagCard> Flags { get; private set; } = [];

    public string Summary
    {
        get
        {
            var (open, serious, fine) = (Flags.Count(f => !f.IsFine), Flags.Count(f => f is { IsFine: false, IsSerious: true }), Flags.Count(f => f.IsFine));
            return Flags.Count == 0 ? "Nothing that an audience would stumble over." : $"{open} open, {serious} of them serious, {fine} called fine.";
        }
    }

    public static string PlaceOf(FlagCard flag) => string.Create(CultureInfo.InvariantCulture, $"{flag.SceneTitle}, {flag.Start:0.0} s");

    public async Task<IActionResult> OnGetAsync(Guid id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await db.Productions.Where(p => p.Id == id).Select(p => p.Title).FirstOrDefaultAsync(cancel) is not { } title)
            return NotFound();
        Title = title;
        Flags = [.. (await reviews.OfAsync(id, cancel)).OrderBy(f => f.IsFine).ThenByDescending(f => f.IsSerious)];
        return Page();
    }
}
