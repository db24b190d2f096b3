using System.Text.Json.Nodes;
using Zamblo.Core;
using Zamblo.Core.Lettering;
using Zamblo.Media;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>Title, picture size, frame rate or lettering of a production. Of the lettering only what is named changes.</summary>
public sealed record ChangeProduction(string? Title, string? Size, string? Rate) : Edit
{
    [System.Text.Json.Serialization.JsonIgnore]
    public Guid Id { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Id);
    public JsonObject? Lettering { get; init; }
}

internal sealed class ProductionEdits : IEditHandler<ChangeProduction>
{
    public const int LongestTitle = 120;

    public Task ApplyAsync(ChangeProduction edit, EditScope scope)
    {
        scope.Name =
            edit.Title != null ? "Rename the production"
            : edit.Size != null ? "Change the picture size"
            : edit.Lettering != null ? "Change what is written in the picture"
            : "Change the frame rate";
        if (edit.Title != null)
            scope.Production.Title = Check.Name(edit.Title, LongestTitle, "A title");
        if (edit.Size != null)
            (scope.Production.Width, scope.Production.Height) = FrameSize.Parse(edit.Size);
        if (edit.Rate != null)
            scope.Production.Rate = FrameRate.Parse(edit.Rate).ToString();
        if (edit.Lettering != null)
        {
            var dials = Dials.Turned(Column.Read<LetteringDials>(scope.Production.Lettering), edit.Lettering);
            if ((dials.Title ?? "").Length > LongestTitle)
                throw new RequestException($"A title has up to {LongestTitle} letters.");
            Check.Language(dials.Language ?? throw new RequestException("A language is a tag, or empty."));
            scope.Production.Lettering = Column.Write(dials with { Title = (dials.Title ?? "").Trim() });
        }
        return Task.CompletedTask;
    }
}
