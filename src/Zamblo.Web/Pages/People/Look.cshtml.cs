using System.Globalization;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio.Jobs;
using Zamblo.Web.People;
using Zamblo.Web.Routes;

namespace Zamblo.Web.Pages.People;

/// <summary>A film, or a production as it is, for whoever has its link.</summary>
[OpenToAll]
internal sealed class LookModel(IDbContextFactory<ZambloContext> contexts) : PageModel
{
    /// <summary>Of what is seen; null where the link is not good any more.</summary>
    public string? Title { get; private set; }

    /// <summary>Whether it is a production; else it is a film.</summary>
    public bool IsProduction { get; private set; }

    /// <summary>Whether a browser plays it.</summary>
    public bool IsWatched { get; private set; }

    /// <summary>When the link ends, as a sentence.</summary>
    public string Until { get; private set; } = "";

    /// <summary>Of the film's file.</summary>
    public string Film { get; private set; } = "";

    public async Task OnGetAsync(string token)
    {
        if (await LookRoutes.FindAsync(contexts, token) is not { } found)
        {
            Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }
        Title = found.Film?.Title ?? found.Production!.Title;
        IsProduction = found.Film == null;
        IsWatched = found.Film == null || (FilmShows.Of(found.Film)?.IsWatched ?? true);
        Until = string.Create(CultureInfo.InvariantCulture, $"This link is good until {found.Expires:d MMMM yyyy, HH:mm} UTC.");
        Film = $"/look/{Uri.EscapeDataString(token)}/film";
    }
}
