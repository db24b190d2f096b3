using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio.Jobs;
using Zamblo.Web.People;
using Zamblo.Web.Routes;

namespace Zamblo.Web.Pages.People;

/// <summary>A film for whoever has its link.</summary>
[OpenToAll]
internal sealed class LookModel(IDbContextFactory<ZambloContext> contexts) : PageModel
{
    /// <summary>Of the film; null where the link is not good any more.</summary>
    public string? Title { get; private set; }

    /// <summary>Whether a browser plays it.</summary>
    public bool IsWatched { get; private set; }

    /// <summary>When the link ends.</summary>
    public DateTime Expires { get; private set; }

    /// <summary>Of the film's file.</summary>
    public string Film { get; private set; } = "";

    public async Task OnGetAsync(string token)
    {
        if (await FilmLinkRoutes.FindAsync(contexts, token) is not { } found)
        {
            Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }
        Title = found.Job.Title;
        IsWatched = FilmShows.Of(found.Job)?.IsWatched ?? true;
        Expires = found.Expires;
        Film = $"/look/{Uri.EscapeDataString(token)}/film";
    }
}
