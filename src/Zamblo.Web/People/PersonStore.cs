using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;

namespace Zamblo.Web.People;

/// <summary>Keeps people for ASP.NET Core Identity, which hashes their passwords and counts wrong ones.</summary>
internal sealed class PersonStore(IDbContextFactory<ZambloContext> contexts)
    : IUserPasswordStore<Person>,
        IUserLockoutStore<Person>,
        IUserSecurityStampStore<Person>,
        IUserPasskeyStore<Person>
{
    public void Dispose() { }

    private async Task<IdentityResult> SaveAsync(Action<ZambloContext> change, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        change(db);
        try
        {
            await db.SaveChangesAsync(cancel);
            return IdentityResult.Success;
        }
        catch (DbUpdateConcurrencyException)
        {
            return IdentityResult.Failed(new IdentityErrorDescriber().ConcurrencyFailure());
        }
    }

    public Task<IdentityResult> CreateAsync(Person user, CancellationToken cancel) => SaveAsync(db => db.People.Add(user), cancel);

    public Task<IdentityResult> UpdateAsync(Person user, CancellationToken cancel) => SaveAsync(db => db.People.Update(user), cancel);

    public Task<IdentityResult> DeleteAsync(Person user, CancellationToken cancel) => SaveAsync(db => db.People.Remove(user), cancel);

    public async Task<Person?> FindByIdAsync(string userId, CancellationToken cancel)
    {
        if (!Guid.TryParse(userId, out var id))
            return null;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, cancel);
    }

    public async Task<Person?> FindByNameAsync(string normalizedUserName, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.NormalizedName == normalizedUserName, cancel);
    }

    public Task<string> GetUserIdAsync(Person user, CancellationToken cancel) => Task.FromResult(user.Id.ToString());

    public Task<string?> GetUserNameAsync(Person user, CancellationToken cancel) => Task.FromResult<string?>(user.Name);

    public Task<string?> GetNormalizedUserNameAsync(Person user, CancellationToken cancel) => Task.FromResult<string?>(user.NormalizedName);

    public Task<string?> GetPasswordHashAsync(Person user, CancellationToken cancel) => Task.FromResult<string?>(user.PasswordHash);

    public Task<bool> HasPasswordAsync(Person user, CancellationToken cancel) => Task.FromResult(user.PasswordHash.Length > 0);

    public Task<string?> GetSecurityStampAsync(Person user, CancellationToken cancel) => Task.FromResult<string?>(user.SecurityStamp);

    public Task<int> GetAccessFailedCountAsync(Person user, CancellationToken cancel) => Task.FromResult(user.Failures);

    public Task<bool> GetLockoutEnabledAsync(Person user, CancellationToken cancel) => Task.FromResult(true);

    public Task<DateTimeOffset?> GetLockoutEndDateAsync(Person user, CancellationToken cancel) =>
        Task.FromResult(user.LockedUntil is { } until ? new DateTimeOffset(DateTime.SpecifyKind(until, DateTimeKind.Utc)) : (DateTimeOffset?)null);

    private static Task Set(Action set)
    {
        set();
        return Task.CompletedTask;
    }

    public Task SetUserNameAsync(Person user, string? userName, CancellationToken cancel) => Set(() => user.Name = userName ?? "");

    public Task SetNormalizedUserNameAsync(Person user, string? normalizedName, CancellationToken cancel) =>
        Set(() => user.NormalizedName = normalizedName ?? "");

    public Task SetPasswordHashAsync(Person user, string? passwordHash, CancellationToken cancel) => Set(() => user.PasswordHash = passwordHash ?? "");

    public Task SetSecurityStampAsync(Person user, string stamp, CancellationToken cancel) => Set(() => user.SecurityStamp = stamp);

    public Task SetLockoutEnabledAsync(Person user, bool enabled, CancellationToken cancel) => Task.CompletedTask;

    public Task SetLockoutEndDateAsync(Person user, DateTimeOffset? lockoutEnd, CancellationToken cancel) =>
        Set(() => user.LockedUntil = lockoutEnd?.UtcDateTime);

    public Task<int> IncrementAccessFailedCountAsync(Person user, CancellationToken cancel) => Task.FromResult(++user.Failures);

    public Task ResetAccessFailedCountAsync(Person user, CancellationToken cancel) => Set(() => user.Failures = 0);

    public async Task AddOrUpdatePasskeyAsync(Person user, UserPasskeyInfo passkey, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await db.Passkeys.FirstOrDefaultAsync(k => k.CredentialId == passkey.CredentialId && k.PersonId == user.Id, cancel);
        if (row == null)
            db.Passkeys.Add(
                row = new Passkey
                {
                    Id = Guid.NewGuid(),
                    PersonId = user.Id,
                    CredentialId = passkey.CredentialId,
                    PublicKey = passkey.PublicKey,
                    Created = passkey.CreatedAt.UtcDateTime,
                    Transports = string.Join(',', passkey.Transports ?? []),
                    IsBackupEligible = passkey.IsBackupEligible,
                    AttestationObject = passkey.AttestationObject,
                    ClientDataJson = passkey.ClientDataJson,
                }
            );
        (row.Name, row.SignCount, row.IsBackedUp, row.IsUserVerified) = (passkey.Name ?? "", passkey.SignCount, passkey.IsBackedUp, passkey.IsUserVerified);
        await db.SaveChangesAsync(cancel);
    }

    private static UserPasskeyInfo InfoOf(Passkey k) =>
        new(
            k.CredentialId,
            k.PublicKey,
            new DateTimeOffset(DateTime.SpecifyKind(k.Created, DateTimeKind.Utc)),
            (uint)k.SignCount,
            k.Transports.Split(',', StringSplitOptions.RemoveEmptyEntries),
            k.IsUserVerified,
            k.IsBackupEligible,
            k.IsBackedUp,
            k.AttestationObject,
            k.ClientDataJson
        )
        {
            Name = k.Name,
        };

    public async Task<IList<UserPasskeyInfo>> GetPasskeysAsync(Person user, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return [.. (await db.Passkeys.AsNoTracking().Where(k => k.PersonId == user.Id).OrderBy(k => k.Created).ToListAsync(cancel)).Select(InfoOf)];
    }

    public async Task<Person?> FindByPasskeyIdAsync(byte[] credentialId, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var owners = db.Passkeys.Where(k => k.CredentialId == credentialId).Select(k => k.PersonId);
        return await db.People.AsNoTracking().FirstOrDefaultAsync(p => owners.Contains(p.Id), cancel);
    }

    public async Task<UserPasskeyInfo?> FindPasskeyAsync(Person user, byte[] credentialId, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Passkeys.AsNoTracking().FirstOrDefaultAsync(k => k.CredentialId == credentialId && k.PersonId == user.Id, cancel) is { } found
            ? InfoOf(found)
            : null;
    }

    public async Task RemovePasskeyAsync(Person user, byte[] credentialId, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.Passkeys.Where(k => k.CredentialId == credentialId && k.PersonId == user.Id).ExecuteDeleteAsync(cancel);
    }
}
