using Microsoft.AspNetCore.Antiforgery;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Web.Api;

/// <summary>What a caller did wrong, as a sentence; answered with status 400.</summary>
public sealed class RequestException(string message) : Exception(message);

/// <summary>Around every endpoint: the antiforgery check on writes, and errors as sentences.</summary>
internal sealed class ApiFilter(IAntiforgery antiforgery) : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        if (!HttpMethods.IsGet(http.Request.Method) && !await antiforgery.IsRequestValidAsync(http))
            return Results.Json(new { error = "This page is out of date: reload it and try again." }, statusCode: 400);
        try
        {
            return await next(context);
        }
        catch (StaleRevisionException e)
        {
            return Results.Json(new { error = e.Message, revision = e.Current }, statusCode: 409);
        }
        catch (NotFoundException e)
        {
            return Results.Json(new { error = e.Message }, statusCode: 404);
        }
        catch (Exception e) when (e is RequestException or MediaException or InvalidDataException or FormatException)
        {
            return Results.Json(new { error = e.Message }, statusCode: 400);
        }
        catch (IOException e) when (e.Message.Contains("No space left", StringComparison.Ordinal))
        {
            return Results.Json(new { error = "The disk is full: free some space and try again; nothing that was there is lost." }, statusCode: 507);
        }
    }
}
