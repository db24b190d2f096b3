using System.Text.Json;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.Extensions.Options;
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
        where T : Edit
    {
        // What reads a request is made by the compiler, not at every start; it knows no type that is given only here.
        var read = Read<T>;
        api.MapMethods(
            pattern,
            [method],
            async (Guid id, JsonElement body, IOptions<JsonOptions> json, EditRunner edits, CancellationToken cancel) =>
                await AnswerAsync(edits, aim(read(body, json.Value.SerializerOptions), id), cancel)
        );
    }

    /// <summary>A route without a body; the revision is in the address.</summary>
    public static void MapRemoval<T>(this RouteGroupBuilder api, string pattern, Func<Guid, long?, T> edit)
        where T : Edit =>
        api.MapDelete(
            pattern,
            async (Guid id, long? revision, EditRunner edits, CancellationToken cancel) => await AnswerAsync(edits, edit(id, revision), cancel)
        );

    private static T Read<T>(JsonElement body, JsonSerializerOptions options)
    {
        try
        {
            var edit = body.Deserialize<T>(options) ?? throw new RequestException("This request has no body.");
            RequestShape.Check(edit);
            return edit;
        }
        catch (JsonException e)
        {
            throw new BadHttpRequestException("unreadable", e);
        }
    }

    /// <summary>Makes an edit and tells what came of it.</summary>
    public static async Task<IResult> AnswerAsync<T>(EditRunner edits, T edit, CancellationToken cancel)
        where T : Edit => Results.Json(await edits.RunAsync(edit, cancel));
}
