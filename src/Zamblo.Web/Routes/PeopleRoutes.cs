using Microsoft.AspNetCore.Identity;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>Who may come in, for the page of people.</summary>
internal static class PeopleRoutes
{
    internal sealed record NewInvitation(PersonRole Role);

    // One of them, or both.
    internal sealed record PersonChange(PersonRole? Role, double? QuotaBytes);

    internal sealed record NewPassword(string Old, string Now);

    internal sealed record NewPasskey(string? Name, string? Credential);

    public static void Map(RouteGroupBuilder api)
    {
        var anybody = new NeedsAttribute(PersonRole.Enters);
        api.MapGet("/me", (HttpContext http) => Me(http)).WithMetadata(anybody);
        api.MapPut("/me/password", ChangePasswordAsync).WithMetadata(anybody);
        var keys = api.MapGroup("/me/passkeys").WithMetadata(anybody);
        keys.MapGet("", (HttpContext http, PasskeyDesk desk) => desk.ListAsync(Caller.Of(http)));
        keys.MapPost("/options", async (HttpContext http, PasskeyDesk desk) => Results.Text(await desk.OptionsAsync(Caller.Of(http)), "application/json"));
        keys.MapPost(
            "",
            async (NewPasskey body, HttpContext http, PasskeyDesk desk) =>
            {
                await desk.AddAsync(Caller.Of(http), body.Name, body.Credential);
                return Results.NoContent();
            }
        );
        keys.MapDelete(
            "/{id}",
            async (string id, HttpContext http, PasskeyDesk desk) =>
            {
                await desk.RemoveAsync(Caller.Of(http), id);
                return Results.NoContent();
            }
        );
        var people = api.MapGroup("/people").WithMetadata(new NeedsAttribute(PersonRole.Owns));
        people.MapGet("", (PeopleDesk desk) => desk.ViewAsync());
        people.MapPost(
            "/invitations",
            async (NewInvitation body, HttpContext http, PeopleDesk desk) =>
                Results.Json(new { path = $"/join/{await desk.InviteAsync(body.Role, Caller.NameOf(http))}" }, statusCode: 201)
        );
        people.MapDelete(
            "/invitations/{id:guid}",
            async (Guid id, HttpContext http, PeopleDesk desk) =>
            {
                await desk.RevokeAsync(id, Caller.NameOf(http));
                return Results.NoContent();
            }
        );
        people.MapPatch(
            "/{id:guid}",
            async (Guid id, PersonChange body, HttpContext http, PeopleDesk desk) =>
            {
                if (body.Role is { } role)
                    await desk.ChangeRoleAsync(id, role, Caller.NameOf(http));
                if (body.QuotaBytes is { } quota)
                    await desk.ChangeQuotaAsync(id, quota, Caller.NameOf(http));
                return Results.NoContent();
            }
        );
        people.MapDelete(
            "/{id:guid}",
            async (Guid id, HttpContext http, PeopleDesk desk) =>
            {
                await desk.RemoveAsync(id, Caller.NameOf(http));
                return Results.NoContent();
            }
        );
    }

    /// <summary>Whoever asks, with what the person may do with what is asked for.</summary>
    public static object Me(HttpContext http) =>
        new
        {
            name = Caller.Of(http)?.Name ?? "",
            role = (Caller.Of(http)?.Role ?? PersonRole.Owns).ToString(),
            hasDoor = Caller.Of(http) != null,
        };

    private static async Task<IResult> ChangePasswordAsync(NewPassword body, HttpContext http, PeopleDesk desk, SignInManager<Person> entrance)
    {
        var me = Caller.Of(http) ?? throw new RequestException("Nobody signs in here.");
        await desk.ChangePasswordAsync(me.Id, body.Old, body.Now);
        // Whoever has changed it stays.
        if (await desk.FindAsync(me.Id) is { } person)
            await entrance.SignInAsync(person, isPersistent: true);
        return Results.NoContent();
    }
}
