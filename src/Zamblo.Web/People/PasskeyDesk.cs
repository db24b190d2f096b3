using System.Buffers.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Identity;
using Zamblo.Data;
using Zamblo.Studio;

namespace Zamblo.Web.People;

/// <summary>A passkey as its owner sees it.</summary>
/// <param name="Id">In base64url.</param>
/// <param name="Name">As the person calls it.</param>
/// <param name="Created">When.</param>
internal sealed record PasskeyView(string Id, string Name, DateTimeOffset Created);

/// <summary>
/// Signing in by a key that stays on one's device (W3C Web Authentication, by ASP.NET Core Identity). Browsers make them for names only, over HTTPS or on the
/// machine itself.
/// </summary>
internal sealed class PasskeyDesk(UserManager<Person> users, SignInManager<Person> entrance, PeopleDesk desk)
{
    // More devices than anybody has.
    private const int Most = 12;

    private async Task<Person> PersonOf(Caller? me) =>
        await users.FindByIdAsync((me ?? throw new RequestException("Nobody signs in here.")).Id.ToString()) ?? throw new NotFoundException("such person");

    /// <summary>One's own.</summary>
    public async Task<IEnumerable<PasskeyView>> ListAsync(Caller? me) =>
        (await users.GetPasskeysAsync(await PersonOf(me))).Select(k => new PasskeyView(Base64Url.EncodeToString(k.CredentialId), k.Name ?? "", k.CreatedAt));

    /// <summary>What a device needs to make one, as JSON.</summary>
    public async Task<string> OptionsAsync(Caller? me)
    {
        var person = await PersonOf(me);
        if ((await users.GetPasskeysAsync(person)).Count >= Most)
            throw new RequestException($"You have {Most} passkeys: take one away first.");
        return await entrance.MakePasskeyCreationOptionsAsync(
            new PasskeyUserEntity
            {
                Id = person.Id.ToString(),
                Name = person.Name,
                DisplayName = person.Name,
            }
        );
    }

    /// <summary>Takes in one that a device has made.</summary>
    /// <param name="me">Who is signed in.</param>
    /// <param name="name">As it shall be called.</param>
    /// <param name="credential">What the device says, as JSON.</param>
    /// <exception cref="RequestException">It is none.</exception>
    public async Task AddAsync(Caller? me, string? name, string? credential)
    {
        var person = await PersonOf(me);
        name = Check.Name(string.IsNullOrWhiteSpace(name) ? "Passkey" : name, 40, "A name");
        PasskeyAttestationResult made;
        try
        {
            made = await entrance.PerformPasskeyAttestationAsync(credential ?? "");
        }
        catch (Exception e) when (IsNone(e))
        {
            throw new RequestException("The device did not make a passkey that can be used here, or it took too long: try it again.");
        }
        if (!made.Succeeded || made.UserEntity.Id != person.Id.ToString())
            throw new RequestException("The device did not make a passkey that can be used here.");
        made.Passkey.Name = name;
        var kept = await users.AddOrUpdatePasskeyAsync(person, made.Passkey);
        if (!kept.Succeeded)
            throw new RequestException("The passkey could not be kept.");
        await desk.NoteAsync(person.Name, "has a new passkey");
    }

    /// <summary>Takes one away.</summary>
    public async Task RemoveAsync(Caller? me, string id)
    {
        var person = await PersonOf(me);
        if (!Base64Url.IsValid(id) || await users.GetPasskeyAsync(person, Base64Url.DecodeFromChars(id)) is not { } key)
            throw new NotFoundException("such passkey");
        await users.RemovePasskeyAsync(person, key.CredentialId);
        await desk.NoteAsync(person.Name, "takes a passkey away");
    }

    /// <summary>What a device needs to sign somebody in, as JSON.</summary>
    public Task<string> RequestAsync() => entrance.MakePasskeyRequestOptionsAsync(null);

    /// <summary>Signs in whoever holds the device; false where it is nobody's.</summary>
    /// <param name="credential">What the device says, as JSON.</param>
    public async Task<bool> EnterAsync(string? credential)
    {
        try
        {
            var shown = await entrance.PerformPasskeyAssertionAsync(credential ?? "");
            if (!shown.Succeeded)
                return false;
            // How often it has signed counts from now on.
            await users.AddOrUpdatePasskeyAsync(shown.User, shown.Passkey);
            await entrance.SignInAsync(shown.User, isPersistent: true);
            await desk.NoteAsync(shown.User.Name, "signs in by passkey");
            return true;
        }
        catch (Exception e) when (IsNone(e))
        {
            return false;
        }
    }

    // Nothing was asked for, or too long ago; or what came is nothing that a device says.
    private static bool IsNone(Exception e) => e is InvalidOperationException or ArgumentException or JsonException or FormatException or PasskeyException;
}
