using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Web.People;

namespace Zamblo.Web.Pages.People;

/// <summary>Somebody comes in with an invitation.</summary>
[OpenToAll]
[EnableRateLimiting(Door.Knocks)]
internal sealed class JoinModel(SignInManager<Person> entrance, PeopleDesk desk) : PageModel
{
    /// <summary>As what; null where the link is not good any more.</summary>
    public PersonRole? Role { get; private set; }

    /// <summary>In which team; null for the studio as a whole.</summary>
    public string? Team { get; private set; }

    /// <summary>Why it did not work.</summary>
    public string? Error { get; private set; }

    /// <summary>As it was typed.</summary>
    public string Name { get; private set; } = "";

    public Task OnGetAsync(string token) => LookAsync(token);

    private async Task LookAsync(string token)
    {
        var offer = await desk.OfferAsync(token);
        (Role, Team) = (offer?.Role, offer?.Team);
    }

    public async Task<IActionResult> OnPostAsync(string token, string? name, string? password)
    {
        Name = (name ?? "").Trim();
        try
        {
            await entrance.SignInAsync(await desk.JoinAsync(token, name, password), isPersistent: true);
            return LocalRedirect("/");
        }
        catch (RequestException e)
        {
            Error = e.Message;
            await LookAsync(token);
            Response.StatusCode = StatusCodes.Status400BadRequest;
            return Page();
        }
    }
}
