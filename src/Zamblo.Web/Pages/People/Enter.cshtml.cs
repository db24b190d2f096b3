using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Zamblo.Data;
using Zamblo.Web.People;

namespace Zamblo.Web.Pages.People;

/// <summary>People sign in and out.</summary>
[OpenToAll]
[EnableRateLimiting(Door.Knocks)]
internal sealed class EnterModel(
    UserManager<Person> users,
    SignInManager<Person> entrance,
    PeopleDesk desk,
    PasskeyDesk passkeys,
    IPasswordHasher<Person> hasher
) : PageModel
{
    private static readonly Person Nobody = new();
    private static readonly Lazy<string> NoPassword = new(() => new PasswordHasher<Person>().HashPassword(Nobody, Guid.NewGuid().ToString()));

    /// <summary>Why it did not work.</summary>
    public string? Error { get; private set; }

    /// <summary>As it was typed.</summary>
    public string Name { get; private set; } = "";

    /// <summary>Where it goes on.</summary>
    public string To { get; private set; } = "/";

    private string Within(string? to) => Url.IsLocalUrl(to) ? to : "/";

    public void OnGet(string? to) => To = Within(to);

    public async Task<IActionResult> OnPostAsync(string? name, string? password, string? to)
    {
        (Name, To) = ((name ?? "").Trim(), Within(to));
        var person = Name.Length is > 0 and <= 40 ? await users.FindByNameAsync(Name) : null;
        // Nobody takes as long as somebody.
        if (person == null)
            hasher.VerifyHashedPassword(Nobody, NoPassword.Value, password ?? "");
        var result = person == null ? Microsoft.AspNetCore.Identity.SignInResult.Failed : await entrance.CheckPasswordSignInAsync(person, password ?? "", true);
        if (result.Succeeded)
        {
            await entrance.SignInAsync(person!, isPersistent: true);
            await desk.NoteAsync(person!.Name, "signs in");
            return LocalRedirect(To);
        }
        if (person != null)
            await desk.NoteAsync(person.Name, result.IsLockedOut ? "is locked out for a while: too many wrong passwords" : "gives a wrong password");
        Error = result.IsLockedOut ? "Too many wrong passwords: wait five minutes, then try again." : "Name and password do not fit together.";
        Response.StatusCode = StatusCodes.Status401Unauthorized;
        return Page();
    }

    /// <summary>What a device needs to sign somebody in.</summary>
    public async Task<IActionResult> OnPostAskAsync() => Content(await passkeys.RequestAsync(), "application/json");

    private const string NotKnown = "This passkey is not known here: sign in with your password, then make one on the page People.";

    /// <summary>Signs in by what a device says.</summary>
    public async Task<IActionResult> OnPostPasskeyAsync(string? credential, string? to) =>
        await passkeys.EnterAsync(credential) ? new JsonResult(new { to = Within(to) }) : new JsonResult(new { error = NotKnown }) { StatusCode = 401 };

    public async Task<IActionResult> OnPostLeaveAsync()
    {
        await entrance.SignOutAsync();
        return LocalRedirect("/enter");
    }
}
