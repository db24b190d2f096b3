using Zamblo.Data;
using Zamblo.Studio.Jobs;

namespace Zamblo.Studio.Views;

/// <summary>Work in the background, as pages see it.</summary>
/// <param name="Id">Of the job.</param>
/// <param name="Kind">"take", "speak", "listen", "turns", "reading" or "render".</param>
/// <param name="Title">What people read.</param>
/// <param name="State">"queued", "running", "done", "failed", "cancelled" or "paused".</param>
/// <param name="Progress">0 to 1.</param>
/// <param name="Detail">What is done and what is left, in words.</param>
/// <param name="Error">Why it failed, as a sentence.</param>
/// <param name="HasFilm">Whether there is a film to watch.</param>
/// <param name="News">Something worth telling when it is done.</param>
/// <param name="Shows">What a finished film shows.</param>
/// <param name="Created">When it was asked for.</param>
public sealed record JobView(
    Guid Id,
    string Kind,
    string Title,
    string State,
    double Progress,
    string Detail,
    string? Error,
    bool HasFilm,
    string? News,
    FilmShows? Shows,
    DateTime Created
)
{
    /// <summary>Of a row.</summary>
    public static JobView Of(Job j) =>
        new(
            j.Id,
            j.Kind,
            j.Title,
            j.State.ToString().ToLowerInvariant(),
            j.Progress,
            j.Detail,
            j.Error,
            j.Kind == "render" && j.State == JobState.Done,
            j.Kind is TakeOrder.Speak or ReadingOrder.Kind ? j.Result : null,
            FilmShows.Of(j),
            j.Created
        );
}
