using System.Reflection;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Routing;

namespace Zamblo.Storm;

/// <summary>One address of the server's interface, as the program itself maps it.</summary>
/// <param name="Method">GET, POST, PATCH, PUT or DELETE.</param>
/// <param name="Pattern">With its parameters in braces.</param>
/// <param name="Body">What it takes, or null for none.</param>
/// <param name="Query">Names and types of what may stand behind the question mark.</param>
public sealed record ApiRoute(string Method, string Pattern, Type? Body, IReadOnlyList<(string Name, Type Type)> Query)
{
    private static readonly HashSet<Type> Simple =
    [
        typeof(string),
        typeof(int),
        typeof(long),
        typeof(double),
        typeof(float),
        typeof(bool),
        typeof(Guid),
        typeof(int?),
        typeof(long?),
        typeof(double?),
        typeof(float?),
        typeof(bool?),
        typeof(Guid?),
    ];

    /// <summary>All of them, in the order of their patterns.</summary>
    public static IReadOnlyList<ApiRoute> Of(IEnumerable<EndpointDataSource> sources) =>
        [
            .. sources
                .SelectMany(s => s.Endpoints)
                .OfType<RouteEndpoint>()
                .Where(e => e.RoutePattern.RawText?.StartsWith("/api", StringComparison.Ordinal) == true)
                .SelectMany(Methods)
                .DistinctBy(r => (r.Method, r.Pattern))
                .OrderBy(r => r.Pattern, StringComparer.Ordinal)
                .ThenBy(r => r.Method, StringComparer.Ordinal),
        ];

    private static IEnumerable<ApiRoute> Methods(RouteEndpoint endpoint)
    {
        var pattern = endpoint.RoutePattern.RawText!;
        var inPath = endpoint.RoutePattern.Parameters.Select(p => p.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var parameters = endpoint.Metadata.GetMetadata<MethodInfo>()?.GetParameters() ?? [];
        var query = parameters.Where(p => Simple.Contains(p.ParameterType) && !inPath.Contains(p.Name!)).Select(p => (p.Name!, p.ParameterType)).ToArray();
        var body = endpoint.Metadata.GetMetadata<IAcceptsMetadata>()?.RequestType;
        foreach (var method in endpoint.Metadata.GetMetadata<IHttpMethodMetadata>()?.HttpMethods ?? [])
            yield return new ApiRoute(method, pattern, body, query);
    }
}
