using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Diagnostics;
using Zamblo.Core.Interchange;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;

namespace Zamblo.Web.Routes;

/// <summary>Around every route: the antiforgery check on writes, and where reads come from.</summary>
internal sealed class ApiFilter(IAntiforgery antiforgery) : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        // Reads may start work, too: a page elsewhere does not get to ask for it (W3C Fetch Metadata).
        if (http.Request.Headers["Sec-Fetch-Site"].ToString() is "cross-site" or "same-site")
            return Problem(403, "This is only for Zamblo's own pages.");
        if (!HttpMethods.IsGet(http.Request.Method) && !await antiforgery.IsRequestValidAsync(http))
            return Problem(400, "This page is out of date: reload it and try again.");
        foreach (var argument in context.Arguments)
            if (IsFromOutside(argument))
                RequestShape.Check(argument);
        return await next(context);
    }

    // Bodies and words of the address; services are handed in beside them.
    private static bool IsFromOutside(object? argument) =>
        argument is string or double or float or IEnumerable<object> or Array
        || argument?.GetType() is { } type
            && type.Assembly.GetName().Name!.StartsWith("Zamblo", StringComparison.Ordinal)
            && type.GetMethod("<Clone>$") != null;

    private static IResult Problem(int status, string error) => Results.Json(new { error }, statusCode: status);
}

/// <summary>Whoever asks may not do that; the message is a sentence for a person.</summary>
internal sealed class ForbiddenException(string message) : Exception(message);

/// <summary>Errors as sentences: what went wrong, and what to do.</summary>
internal sealed class ProblemAnswers(ILogger<ProblemAnswers> log) : IExceptionHandler
{
    public async ValueTask<bool> TryHandleAsync(HttpContext http, Exception exception, CancellationToken cancel)
    {
        var (status, error, revision) = Of(exception, http);
        if (status == 500)
            log.LogError(exception, "{Method} {Path} failed", http.Request.Method, http.Request.Path);
        else if (status == 503)
            log.LogWarning("{Method} {Path} is refused: {Reason}", http.Request.Method, http.Request.Path, exception.GetBaseException().Message);
        http.Response.StatusCode = status;
        await http.Response.WriteAsJsonAsync(revision == null ? new { error } : (object)new { error, revision }, CancellationToken.None);
        return true;
    }

    private static (int Status, string Error, long? Revision) Of(Exception exception, HttpContext http) =>
        exception switch
        {
            StaleRevisionException e => (409, e.Message, e.Current),
            NotFoundException e => (404, e.Message, null),
            ForbiddenException e => (403, e.Message, null),
            LoanOverException => (410, exception.Message, null),
            UnknownWorkerException => (412, exception.Message, null),
            RequestException or MediaException or InvalidDataException or FormatException or Core.Stage.ArtException => (400, exception.Message, null),
            ArgumentException { ParamName: "hash" } => (400, "That is no sound of this studio.", null),
            BadHttpRequestException e => (
                e.StatusCode,
                e.StatusCode == 413 ? "That is too large." : "This request cannot be read: something is missing, or is not what it should be.",
                null
            ),
            System.Text.RegularExpressions.RegexMatchTimeoutException => (400, "This text takes too long to read: it says the same too often.", null),
            OperationCanceledException when http.RequestAborted.IsCancellationRequested => (499, "Cancelled.", null),
            _ when DiskFullException.Is(exception) => (507, new DiskFullException().Message, null),
            _ when Databases.IsAway(exception) => (503, "The database takes nothing in just now: try again in a moment; nothing that was there is lost.", null),
            _ => (500, "Something went wrong that should not have. What was there is kept; the program's output has the details.", null),
        };
}
