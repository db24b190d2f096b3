using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>Teams: who is in them, and what belongs to them.</summary>
internal static class TeamRoutes
{
    internal sealed record TeamName(string? Name);

    internal sealed record TeamPlace(string? Name, PersonRole Role);

    internal sealed record NewInvitation(PersonRole Role);

    internal sealed record Given(Guid? Team);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet(
                "/teams",
                async (HttpContext http, TeamDesk desk) =>
                    Results.Json(new { teams = await desk.ListAsync(Caller.Of(http)), studio = (Caller.Of(http)?.Studio ?? PersonRole.Owns).ToString() })
            )
            .WithMetadata(new NeedsAttribute(PersonRole.Enters));
        api.MapPut("/productions/{id:guid}/team", GiveAsync);
        var owner = new NeedsAttribute(PersonRole.Owns);
        api.MapPost(
                "/teams",
                async (TeamName body, HttpContext http, TeamDesk desk) =>
                    Results.Json(new { id = await desk.AddAsync(body.Name, Caller.NameOf(http)) }, statusCode: 201)
            )
            .WithMetadata(owner);
        var team = api.MapGroup("/teams/{id:guid}");
        team.MapPatch("", (Guid id, TeamName body, HttpContext http, TeamDesk desk) => DoneAsync(desk.RenameAsync(id, body.Name, Caller.NameOf(http))))
            .WithMetadata(owner);
        team.MapDelete("", (Guid id, HttpContext http, TeamDesk desk) => DoneAsync(desk.RemoveAsync(id, Caller.NameOf(http)))).WithMetadata(owner);
        // Whoever owns a team says who is in it. Whether that is so is asked there: it is no matter of the studio's.
        var looks = new NeedsAttribute(PersonRole.Looks);
        team.MapPut(
                "/people",
                (Guid id, TeamPlace body, HttpContext http, TeamDesk desk) => DoneAsync(desk.PutAsync(Led(http, id), body.Name, body.Role, Caller.NameOf(http)))
            )
            .WithMetadata(looks);
        team.MapDelete(
                "/people/{person:guid}",
                (Guid id, Guid person, HttpContext http, TeamDesk desk) => DoneAsync(desk.TakeOutAsync(Led(http, id), person, Caller.NameOf(http)))
            )
            .WithMetadata(looks);
        team.MapPost(
                "/invitations",
                async (Guid id, NewInvitation body, HttpContext http, PeopleDesk desk) =>
                    Results.Json(new { path = $"/join/{await desk.InviteAsync(body.Role, Caller.NameOf(http), Led(http, id))}" }, statusCode: 201)
            )
            .WithMetadata(looks);
    }

    private static Guid Led(HttpContext http, Guid team) =>
        Caller.May(http, team, PersonRole.Owns) ? team : throw new ForbiddenException("This is for whoever owns the team.");

    private static async Task<IResult> DoneAsync(Task work)
    {
        await work;
        return Results.NoContent();
    }

    // From where one owns to where one works.
    private static async Task<IResult> GiveAsync(Guid id, Given body, HttpContext http, PeopleDesk people, TeamDesk desk)
    {
        if (!Caller.May(http, await people.TeamOfAsync(id), PersonRole.Owns) || !Caller.May(http, body.Team, PersonRole.Acts))
            throw new ForbiddenException("Whoever owns a production's team gives it away, to a team where they work.");
        await desk.GiveAsync(id, body.Team, Caller.NameOf(http));
        return Results.NoContent();
    }
}
