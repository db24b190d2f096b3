using Microsoft.AspNetCore.Mvc.RazorPages;
using Zamblo.Data;
using Zamblo.Web.People;

namespace Zamblo.Web.Pages.People;

/// <summary>Oneself, and who else may come in.</summary>
[Needs(PersonRole.Enters)]
internal sealed class IndexModel(ServerOptions options) : PageModel
{
    /// <summary>Whether anybody signs in here.</summary>
    public bool HasDoor => options.HasDoor;

    /// <summary>Whoever looks at it.</summary>
    public string Name => Caller.Of(HttpContext)?.Name ?? "";

    /// <summary>Whether that is somebody who lets people in.</summary>
    public bool IsOwner => Caller.Of(HttpContext)?.Studio == PersonRole.Owns;

    /// <summary>Whether that is somebody who says who is in a team.</summary>
    public bool Leads => IsOwner || Caller.Of(HttpContext)?.Most == PersonRole.Owns;
}
