using Zamblo.Data;
using Zamblo.Studio.Productions;

namespace Zamblo.Web.People;

/// <summary>Who calls, where people sign in.</summary>
/// <param name="Id">Of the person.</param>
/// <param name="Name">That others see.</param>
/// <param name="Role">What the person may do with what is asked for: in its team where it is a team's, else the most that the person may anywhere.</param>
/// <param name="Studio">What the person may do with what is everybody's, and with the studio itself.</param>
/// <param name="Teams">What the person may do in each team that has the person in.</param>
internal sealed record Caller(Guid Id, string Name, PersonRole Role, PersonRole Studio, IReadOnlyDictionary<Guid, PersonRole> Teams)
{
    /// <summary>Of a request; null where nobody has to sign in.</summary>
    public static Caller? Of(HttpContext http) => http.Items[typeof(Caller)] as Caller;

    /// <summary>Name for what is written down.</summary>
    public static string NameOf(HttpContext http) => Of(http)?.Name ?? "this machine";

    /// <summary>Whether whoever asks may do so much with what belongs to a team; null for what is everybody's.</summary>
    public static bool May(HttpContext http, Guid? team, PersonRole needed) => Of(http) is not { } me || me.In(team) >= needed;

    /// <summary>What whoever asks sees of the shelf.</summary>
    public static ShelfSight Sight(HttpContext http) => Of(http)?.Seen ?? ShelfSight.Everything;

    /// <summary>The most that the person may anywhere, but for the studio itself.</summary>
    public PersonRole Most => (PersonRole)Teams.Values.Select(r => (int)r).Append((int)Studio).Max();

    /// <summary>What the person may do with what belongs to a team; null for what is everybody's. Nothing where it is not even seen.</summary>
    public PersonRole? In(Guid? team) =>
        team is not { } id || Studio == PersonRole.Owns ? (Studio >= PersonRole.Looks ? Studio : null)
        : Teams.TryGetValue(id, out var role) ? role
        : null;

    /// <summary>Whose a production is that the person makes without saying more.</summary>
    public Guid? Home => Studio >= PersonRole.Acts ? null : Teams.Where(t => t.Value >= PersonRole.Acts).Select(t => (Guid?)t.Key).Order().FirstOrDefault();

    private ShelfSight Seen => new(Studio == PersonRole.Owns, Studio >= PersonRole.Looks, [.. Teams.Keys]);
}
