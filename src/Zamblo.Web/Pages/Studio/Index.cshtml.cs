using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;

namespace Zamblo.Web.Pages.Studio;

/// <summary>The studio of a scene: the one that is asked for, or a production's first.</summary>
public sealed class IndexModel(IDbContextFactory<ZambloContext> contexts) : PageModel
{
    public string Title { get; private set; } = "";
    public Guid ProductionId { get; private set; }
    public Guid SceneId { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid id, Guid? scene)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var production = await db.Productions.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id);
        if (production == null)
            return RedirectToPage("/Index");
        (Title, ProductionId) = (production.Title, id);
        SceneId = await db.Scenes.Where(s => s.ProductionId == id).OrderByDescending(s => s.Id == scene).ThenBy(s => s.Order).Select(s => s.Id).FirstAsync();
        return Page();
    }
}
