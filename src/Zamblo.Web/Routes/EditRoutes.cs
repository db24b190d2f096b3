using Zamblo.Studio;
using Zamblo.Studio.Edits;

namespace Zamblo.Web.Routes;

/// <summary>Routes of edits: the body is the command, the address says what it is aimed at.</summary>
internal static class EditRoutes
{
    /// <summary>A route whose body is an edit.</summary>
    /// <param name="api">The group.</param>
    /// <param name="method">POST, PATCH or PUT.</param>
    /// <param name="pattern">With an id named "id".</param>
    /// <param name="aim">Puts the id into the edit.</param>
    public static void MapEdit<T>(this RouteGroupBuilder api, string method, string pattern, Func<T, Guid, T> aim)
        where T : Edit =>
        api.MapMethods(
            pattern,
            [method],
            async (Guid id, T? body, EditRunner edits, CancellationToken cancel) =>
                await AnswerAsync(edits, aim(body ?? throw new RequestException("This request has no body."), id), cancel)
        );

    /// <summary>A route without a body; the revision is in the address.</summary>
    public static void MapRemoval<T>(this RouteGroupBuilder api, string pattern, Func<Guid, long?, T> edit)
        where T : Edit =>
        api.MapDelete(
            pattern,
            async (Guid id, long? revision, EditRunner edits, CancellationToken cancel) => await AnswerAsync(edits, edit(id, revision), cancel)
        );

    /// <summary>Makes an edit and tells what came of it.</summary>
    public static async Task<IResult> AnswerAsync<T>(EditRunner edits, T edit, CancellationToken cancel)
        where T : Edit => Results.Json(await edits.RunAsync(edit, cancel));
}
