using System.Globalization;
using System.Net;
using System.Security.Claims;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Zamblo.Data;
using Zamblo.Web.Watching;

namespace Zamblo.Web.People;

/// <summary>What an address asks of whoever calls it; without it, who only looks may read, and who acts may write.</summary>
[AttributeUsage(AttributeTargets.Class)]
internal sealed class NeedsAttribute(PersonRole role) : Attribute
{
    /// <summary>The least that lets somebody through.</summary>
    public PersonRole Role => role;
}

/// <summary>Open to everybody who has the address.</summary>
[AttributeUsage(AttributeTargets.Class)]
internal sealed class OpenToAllAttribute : Attribute;

/// <summary>Marks addresses.</summary>
internal static class Needing
{
    /// <summary>Takes a body, but changes nothing: for whoever looks.</summary>
    public static void OnlyReads(this RouteHandlerBuilder route) => route.WithMetadata(new NeedsAttribute(PersonRole.Looks));
}

/// <summary>
/// The door of a studio that others reach: whoever comes signs in, and may do what the role says. On a machine of one's own there is none.
/// </summary>
internal static class Door
{
    /// <summary>Rate limit of addresses that take passwords or links.</summary>
    public const string Knocks = "knocks";

    private const string Scheme = "Identity.Application";

    // Longer is stronger than stranger (NIST SP 800-63B 5.1.1.2; OWASP ASVS 4.0.3, 2.1.1 and 2.1.9).
    private const int ShortestPassword = 12;
    private static readonly TimeSpan StaysSignedIn = TimeSpan.FromDays(14);

    /// <summary>What it needs.</summary>
    public static void Add(IServiceCollection services, ServerOptions options)
    {
        services.AddSingleton(options);
        services.AddSingleton<PeopleDesk>();
        services.AddSingleton<TeamDesk>();
        services.AddScoped<PasskeyDesk>();
        services.AddHttpContextAccessor();
        services
            .AddIdentityCore<Person>(o =>
            {
                o.User.AllowedUserNameCharacters = null!;
                o.Password.RequiredLength = ShortestPassword;
                o.Password.RequireDigit = o.Password.RequireLowercase = o.Password.RequireUppercase = o.Password.RequireNonAlphanumeric = false;
                o.Password.RequiredUniqueChars = 4;
            })
            .AddUserStore<PersonStore>()
            .AddSignInManager()
            .AddErrorDescriber<Sentences>();
        services
            .AddAuthentication(Scheme)
            .AddCookie(
                Scheme,
                o =>
                {
                    o.Cookie.Name = "zamblo-person";
                    o.Cookie.HttpOnly = true;
                    // A link from a letter opens signed in; writes need the page's token besides.
                    o.Cookie.SameSite = SameSiteMode.Lax;
                    o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
                    o.ExpireTimeSpan = StaysSignedIn;
                    o.SlidingExpiration = true;
                }
            );
        // What a device has to sign is remembered in the browser until it has, and no longer.
        services
            .AddAuthentication()
            .AddCookie(
                IdentityConstants.TwoFactorUserIdScheme,
                o =>
                {
                    o.Cookie.Name = "zamblo-passkey";
                    o.Cookie.HttpOnly = true;
                    o.Cookie.SameSite = SameSiteMode.Strict;
                    o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
                    o.ExpireTimeSpan = TimeSpan.FromMinutes(5);
                }
            );
        services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            o.OnRejected = async (context, cancel) =>
                await context.HttpContext.Response.WriteAsync("Too many tries from here: wait a minute, then try again.", cancel);
            o.AddPolicy(
                Knocks,
                http =>
                    HttpMethods.IsPost(http.Request.Method)
                        ? RateLimitPartition.GetFixedWindowLimiter(
                            http.Connection.RemoteIpAddress ?? IPAddress.None,
                            _ => new FixedWindowRateLimiterOptions { PermitLimit = 20, Window = TimeSpan.FromMinutes(1) }
                        )
                        : RateLimitPartition.GetNoLimiter(IPAddress.None)
            );
        });
        services.Configure<ForwardedHeadersOptions>(o => o.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto);
    }

    /// <summary>Stands in the way.</summary>
    public static void Use(WebApplication app, ServerOptions options)
    {
        if (!options.HasDoor)
        {
            // A proxy in front of a studio without a door would let everybody in.
            app.Use(
                (http, next) => IsForwarded(http) ? RefuseAsync(http, 403, "Start Zamblo with --people behind a proxy: nobody signs in else.") : next(http)
            );
            return;
        }
        app.UseRateLimiter();
        app.Use(
            async (http, next) =>
            {
                if (!await AdmitAsync(http))
                    return;
                // Set here: what is set further in does not come back out.
                (ActingPerson.Name, ActingPerson.Team) = (Caller.Of(http)?.Name, Caller.Of(http)?.Home);
                await next(http);
            }
        );
    }

    private static bool IsForwarded(HttpContext http) =>
        http.Request.Headers.ContainsKey("Forwarded") || http.Request.Headers.ContainsKey("X-Forwarded-For") || http.Request.Headers.ContainsKey("Via");

    private static async Task<bool> AdmitAsync(HttpContext http)
    {
        var endpoint = http.GetEndpoint();
        // Workers sign what they ask for.
        if (
            endpoint?.Metadata.GetMetadata<OpenToAllAttribute>() != null
            || http.Request.Path.StartsWithSegments("/pieces", StringComparison.Ordinal)
            || Watch.HoldsKey(http)
        )
            return true;
        var isPage = !http.Request.Path.StartsWithSegments("/api", StringComparison.Ordinal);
        var signed = await http.AuthenticateAsync(Scheme);
        var desk = http.RequestServices.GetRequiredService<PeopleDesk>();
        var person = signed.Succeeded && IdOf(signed.Principal) is { } id ? await desk.FindAsync(id) : null;
        // Taken out, or with another password since: as if nobody had signed in.
        if (person == null || person.SecurityStamp != signed.Principal!.FindFirstValue(new ClaimsIdentityOptions().SecurityStampClaimType))
        {
            if (isPage && HttpMethods.IsGet(http.Request.Method))
                http.Response.Redirect($"/enter?to={Uri.EscapeDataString(http.Request.Path + http.Request.QueryString)}");
            else
                await RefuseAsync(http, 401, "Sign in first.");
            return false;
        }
        http.User = signed.Principal!;
        var caller = new Caller(person.Id, person.Name, person.Role, person.Role, await desk.TeamsOfAsync(person.Id));
        var role = await RoleAsync(http, caller);
        http.Items[typeof(Caller)] = caller with { Role = role ?? caller.Most };
        if (role == null)
        {
            // What is not seen is not there.
            await RefuseAsync(http, 404, "There is nothing like that here any more.");
            return false;
        }
        var isRead = HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method);
        var needed = endpoint?.Metadata.GetMetadata<NeedsAttribute>()?.Role ?? (isRead ? PersonRole.Looks : PersonRole.Acts);
        // The studio itself is no team's.
        if ((needed == PersonRole.Owns && Concern.Of(http) == null ? caller.Studio : role) >= needed)
            return true;
        await RefuseAsync(
            http,
            403,
            needed == PersonRole.Owns ? "This is for whoever owns the studio."
                : role < PersonRole.Looks ? "No team has you in yet: ask whoever owns the studio."
                : "You may look at this, but not change it: ask whoever owns the studio."
        );
        return false;
    }

    // What somebody may do with what is asked for; null where it is not even seen. What is not there is told as that further in.
    private static async Task<PersonRole?> RoleAsync(HttpContext http, Caller caller) =>
        Concern.Of(http) is { } about && await http.RequestServices.GetRequiredService<TeamDesk>().PlaceOfAsync(about.Kind, about.Id) is { } place
            ? caller.In(place.Team)
            : caller.Most;

    private static Guid? IdOf(ClaimsPrincipal who) => Guid.TryParse(who.FindFirstValue(ClaimTypes.NameIdentifier), out var id) ? id : null;

    private static Task RefuseAsync(HttpContext http, int status, string error) =>
        http.Request.Path.StartsWithSegments("/api", StringComparison.Ordinal)
            ? Results.Json(new { error }, statusCode: status).ExecuteAsync(http)
            : Results.Text(error, "text/plain; charset=utf-8", statusCode: status).ExecuteAsync(http);

    // What goes wrong with names and passwords, in our words.
    private sealed class Sentences : IdentityErrorDescriber
    {
        private static IdentityError Of(string code, string sentence) => new() { Code = code, Description = sentence };

        public override IdentityError PasswordTooShort(int length) =>
            Of(nameof(PasswordTooShort), string.Create(CultureInfo.InvariantCulture, $"A password has at least {length} characters; a few words do well."));

        public override IdentityError PasswordRequiresUniqueChars(int uniqueChars) =>
            Of(nameof(PasswordRequiresUniqueChars), "This password says the same over and over.");

        public override IdentityError PasswordMismatch() => Of(nameof(PasswordMismatch), "The old password is another one.");

        public override IdentityError DuplicateUserName(string userName) => Of(nameof(DuplicateUserName), $"There is a {userName} already: take another name.");

        public override IdentityError InvalidUserName(string? userName) => Of(nameof(InvalidUserName), "This name cannot be used.");
    }
}
