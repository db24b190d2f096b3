using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Edits;

namespace Zamblo.Studio.Productions;

/// <summary>Begins a production with everybody of one picture in their place, the picture behind them.</summary>
public sealed class PortraitProduction(IDbContextFactory<ZambloContext> contexts, CastLibrary library)
{
    /// <summary>Begins one; gives its id.</summary>
    /// <param name="title">Of the production.</param>
    /// <param name="made">What was made of the picture.</param>
    /// <exception cref="RequestException">There is no such character or set.</exception>
    public async Task<Guid> BeginAsync(string? title, MadeOfPicture made)
    {
        if (made.Keys.Count is 0 or > 20 || made.Keys.FirstOrDefault(k => !library.Has(k)) is { } || made.Set == null || !library.HasBackdrop(made.Set))
            throw new RequestException("These characters are not in Casting any more: make them once again.");
        await using var db = await contexts.CreateDbContextAsync();
        var named = Check.Name(string.IsNullOrWhiteSpace(title) ? "From a picture" : title, ProductionEdits.LongestTitle - 10, "A title");
        var production = ProductionList.Add(db, library, await ProductionList.FreeTitleAsync(db, named));
        try
        {
            (production.Width, production.Height) = FrameSize.Parse(made.Size);
        }
        catch (FormatException e)
        {
            throw new RequestException(e.Message);
        }
        var scene = db.Scenes.Local.Single();
        (scene.Backdrop, scene.BackdropHash) = (made.Set, await SceneEdits.PictureOfAsync(db, made.Set));
        db.CastMembers.Remove(db.CastMembers.Local.Single());
        for (var i = 0; i < made.Keys.Count; i++)
            db.CastMembers.Add(ProductionList.Member(library, production.Id, i + 1, made.Keys[i]));
        await db.SaveChangesAsync();
        return production.Id;
    }
}
