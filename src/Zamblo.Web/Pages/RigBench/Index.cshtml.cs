using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zamblo.Core.Stage;

namespace Zamblo.Web.Pages.RigBench;

/// <summary>The rig bench of a drawn character.</summary>
public sealed class IndexModel(CastLibrary library) : PageModel
{
    public string Key { get; private set; } = "";

    public string Name { get; private set; } = "";

    public IActionResult OnGet(string key)
    {
        if (!library.Has(key) || library.DrawingOf(key) == null)
            return RedirectToPage("/Casting/Index");
        (Key, Name) = (key, library.Character(key).Rig.Name);
        return Page();
    }
}
