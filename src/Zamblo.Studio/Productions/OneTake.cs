using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Lettering;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>One character, one voice, one film: what is asked for in one go.</summary>
/// <param name="Character">Who speaks.</param>
/// <param name="Backdrop">Where.</param>
/// <param name="Size">Of the picture.</param>
/// <param name="Text">What is said; for a sound, what is known of it.</param>
/// <param name="Hash">A sound that came in, or null: then the text is spoken.</param>
/// <param name="Name">Of the sound.</param>
/// <param name="HasCaptions">Words in the picture.</param>
public sealed record OneTakeOrder(string? Character, string? Backdrop, string? Size, string? Text, string? Hash, string? Name, bool HasCaptions)
{
    /// <summary>Each of those words lights up as it is said.</summary>
    public bool HasLitWords { get; init; }
}

/// <summary>What was made of it.</summary>
/// <param name="Production">A production like any other.</param>
/// <param name="Scene">Its scene.</param>
/// <param name="Member">Who speaks.</param>
public sealed record OneTakeStart(Guid Production, Guid Scene, Guid Member);

/// <summary>Begins films of one take.</summary>
public sealed class OneTake(IDbContextFactory<ZambloContext> contexts, CastLibrary library, TakeDesk takes)
{
    private const int LongestText = 4000,
        LongestTitle = 48;

    /// <summary>Begins one: a production with its line under way.</summary>
    /// <exception cref="RequestException">There is nothing to say, or no such character or set.</exception>
    public async Task<OneTakeStart> BeginAsync(OneTakeOrder order)
    {
        var text = (order.Text ?? "").Trim();
        if (order.Hash == null && text.Length == 0)
            throw new RequestException("Say something: record it, bring a file, or type it.");
        if (text.Length > LongestText)
            throw new RequestException($"One take holds {LongestText} letters: longer scripts go into the studio.");
        var character = order.Character ?? library.CharacterKeys[0];
        if (!library.Has(character))
            throw new RequestException($"There is no character \"{character}\".");
        var backdrop = order.Backdrop ?? library.BackdropKeys[0];
        if (!library.HasBackdrop(backdrop))
            throw new RequestException($"There is no backdrop \"{backdrop}\".");
        await using var db = await contexts.CreateDbContextAsync();
        var production = ProductionList.Add(db, library, await ProductionList.FreeTitleAsync(db, TitleOf(text, order.Name)));
        (production.Width, production.Height) = FrameSize.Parse(order.Size ?? "1280x720");
        production.Lettering = Column.Write(new LetteringDials { HasCaptions = order.HasCaptions, HasLitWords = order.HasLitWords });
        var scene = db.Scenes.Local.Single();
        (scene.Backdrop, scene.Camera) = (backdrop, Column.Write(CameraDials.Calm));
        scene.BackdropHash = await SceneEdits.PictureOfAsync(db, backdrop);
        db.CastMembers.Remove(db.CastMembers.Local.Single());
        var member = ProductionList.Member(library, production.Id, 1, character);
        db.CastMembers.Add(member);
        await db.SaveChangesAsync();
        await takes.OrderLineAsync(
            scene.Id,
            new NewLine(member.Id, text, order.Hash == null ? TakeKind.Synthesis : TakeKind.Recording, order.Hash, order.Name, null)
        );
        return new OneTakeStart(production.Id, scene.Id, member.Id);
    }

    // The first words, or the file's name.
    private static string TitleOf(string text, string? name)
    {
        var title = text.Length > 0 ? text.ReplaceLineEndings(" ") : Path.GetFileNameWithoutExtension(name ?? "");
        title = title.Trim();
        if (title.Length > LongestTitle)
            title = title[..LongestTitle].LastIndexOf(' ') is var at and > 10 ? title[..at] + "…" : title[..LongestTitle] + "…";
        return title.Length == 0 ? "One take" : title;
    }
}
