using Zamblo.Core;
using Zamblo.Media;

namespace Zamblo.Studio.Edits;

/// <summary>Title, picture size or frame rate of a production.</summary>
public sealed record ChangeProduction(string? Title, string? Size, string? Rate) : Edit
{
    [System.Text.Json.Serialization.JsonIgnore]
    public Guid Id { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Id);
}

internal sealed class ProductionEdits : IEditHandler<ChangeProduction>
{
    public const int LongestTitle = 120;

    public Task ApplyAsync(ChangeProduction edit, EditScope scope)
    {
        scope.Name =
            edit.Title != null ? "Rename the production"
            : edit.Size != null ? "Change the picture size"
            : "Change the frame rate";
        if (edit.Title != null)
            scope.Production.Title = Check.Name(edit.Title, LongestTitle, "A title");
        if (edit.Size != null)
            (scope.Production.Width, scope.Production.Height) = FrameSize.Parse(edit.Size);
        if (edit.Rate != null)
            scope.Production.Rate = FrameRate.Parse(edit.Rate).ToString();
        return Task.CompletedTask;
    }
}
