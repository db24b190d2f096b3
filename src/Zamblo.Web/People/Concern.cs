using System.Globalization;
using Microsoft.AspNetCore.Routing.Patterns;
using Zamblo.Data;

namespace Zamblo.Web.People;

/// <summary>
/// What a request is about: an address of a thing that is part of a production names its kind, then its id, "/api/lines/{id}/takes". So whoever may
/// not see the production is kept out in one place, and no address can forget it.
/// </summary>
internal static class Concern
{
    /// <summary>The kind and the id of it; null where the address is about nothing of a production's.</summary>
    public static (string Kind, Guid Id)? Of(HttpContext http) =>
        http.GetEndpoint() is RouteEndpoint endpoint
        && KindOf(endpoint.RoutePattern) is { } kind
        && http.Request.RouteValues.TryGetValue("id", out var value)
        && Guid.TryParse(Convert.ToString(value, CultureInfo.InvariantCulture), out var id)
            ? (kind, id)
            : null;

    /// <summary>The kind of thing that stands first in an address, where it is part of a production.</summary>
    public static string? KindOf(RoutePattern pattern)
    {
        var names = pattern.PathSegments.Where(s => s.IsSimple).Select(s => s.Parts[0]).ToArray();
        var first = names.FirstOrDefault() is RoutePatternLiteralPart { Content: "api" } ? 1 : 0;
        if (names.Length < first + 2 || names[first] is not RoutePatternLiteralPart { Content: var kind } || names[first + 1] is not RoutePatternParameterPart)
            return null;
        kind = kind == "production" ? "productions" : kind;
        return Belonging.Knows(kind) ? kind : null;
    }
}
