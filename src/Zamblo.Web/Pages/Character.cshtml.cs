using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zamblo.Core.Mouth;
using Zamblo.Core.Stage;

namespace Zamblo.Web.Pages;

/// <summary>The mouth sheet of a character.</summary>
public sealed class CharacterModel(CastLibrary library) : PageModel
{
    public string Key { get; private set; } = "";
    public CastLibrary Library => library;
    public Rig Rig => library.Character(Key).Rig;
    public IReadOnlyList<float> Strengths { get; } = [0.5f, 1, 1.5f];

    /// <summary>Whether a hand has drawn it, so that it can have mouths that a hand has drawn, too.</summary>
    public bool IsDrawn => library.DrawingOf(Key) != null;

    /// <summary>Its drawn mouths, in the order of the shapes; none where the rig draws it.</summary>
    public IReadOnlyList<MouthShape> Mouths =>
        Rig.Mouth.Style == MouthStyle.Drawn ? [.. MouthShapes.All.Where(s => Rig.Mouth.Drawn.ContainsKey(s.ToString().ToLowerInvariant()))] : [];

    /// <summary>Whether its mouths were drawn by a hand and can be taken off again.</summary>
    public bool HasOwnMouths => IsDrawn && Rig.Mouth.Style is MouthStyle.Drawn or MouthStyle.Stretched;

    public IActionResult OnGet(string key)
    {
        if (!library.Has(key))
            return RedirectToPage("/Index");
        Key = key;
        return Page();
    }
}
