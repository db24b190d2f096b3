using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zamblo.Core.Stage;

namespace Zamblo.Web.Pages;

/// <summary>The mouth sheet of a character.</summary>
public sealed class CharacterModel(CastLibrary library) : PageModel
{
    public string Key { get; private set; } = "";
    public CastLibrary Library => library;
    public Rig Rig => library.Character(Key).Rig;
    public IReadOnlyList<float> Strengths { get; } = [0.5f, 1, 1.5f];

    public IActionResult OnGet(string key)
    {
        if (!library.Has(key))
            return RedirectToPage("/Index");
        Key = key;
        return Page();
    }
}
