namespace Zamblo.Data;

/// <summary>What somebody may do, each with all before it.</summary>
public enum PersonRole
{
    /// <summary>Comes in; sees nothing but what a team has it in for.</summary>
    Enters = -1,

    /// <summary>Looks at productions and films.</summary>
    Looks,

    /// <summary>Says something about them.</summary>
    Comments,

    /// <summary>Changes them.</summary>
    Acts,

    /// <summary>Lets people in.</summary>
    Owns,
}

/// <summary>Somebody who may come in.</summary>
public sealed class Person
{
    public Guid Id { get; set; }

    /// <summary>Signs in with it, and others see it.</summary>
    public string Name { get; set; } = "";

    /// <summary>The same in capitals: no two are the same.</summary>
    public string NormalizedName { get; set; } = "";
    public string PasswordHash { get; set; } = "";

    /// <summary>Changes when whoever signed in before has to sign in again.</summary>
    public string SecurityStamp { get; set; } = "";

    /// <summary>What the person may do with what is everybody's, and with the studio itself.</summary>
    public PersonRole Role { get; set; }

    /// <summary>Wrong passwords one after another.</summary>
    public int Failures { get; set; }

    /// <summary>No password is right before (UTC).</summary>
    public DateTime? LockedUntil { get; set; }
    public DateTime Created { get; set; }

    /// <summary>So many bytes of files and recordings may be brought; null for as many as there is room for.</summary>
    public long? QuotaBytes { get; set; }
}

/// <summary>A link with which one person comes in; it is good once. Only its hash is kept.</summary>
public sealed class Invitation
{
    public Guid Id { get; set; }

    /// <summary>SHA-256 of what stands in the link.</summary>
    public string TokenHash { get; set; } = "";

    /// <summary>What the person may do: in the team, where one is named.</summary>
    public PersonRole Role { get; set; }

    /// <summary>Into which team; null for the studio as a whole.</summary>
    public Guid? TeamId { get; set; }

    /// <summary>Who has invited.</summary>
    public string By { get; set; } = "";
    public DateTime Created { get; set; }
    public DateTime Expires { get; set; }
}

/// <summary>A key with which somebody signs in without a password (W3C Web Authentication, level 3): the secret stays on the person's device.</summary>
public sealed class Passkey
{
    public Guid Id { get; set; }

    /// <summary>Whose.</summary>
    public Guid PersonId { get; set; }

    /// <summary>Which one it is, as the device says.</summary>
    public byte[] CredentialId { get; set; } = [];

    /// <summary>With which what the device signs is checked (COSE).</summary>
    public byte[] PublicKey { get; set; } = [];

    /// <summary>As the person calls it.</summary>
    public string Name { get; set; } = "";
    public DateTime Created { get; set; }

    /// <summary>How often it has signed, where the device counts.</summary>
    public long SignCount { get; set; }

    /// <summary>How it is reached, with commas between.</summary>
    public string Transports { get; set; } = "";
    public bool IsUserVerified { get; set; }
    public bool IsBackupEligible { get; set; }
    public bool IsBackedUp { get; set; }
    public byte[] AttestationObject { get; set; } = [];
    public byte[] ClientDataJson { get; set; } = [];
}

/// <summary>A link with which anybody looks at one film, or at one production as it is, for a while. Only its hash is kept.</summary>
public sealed class LookLink
{
    public Guid Id { get; set; }

    /// <summary>SHA-256 of what stands in the link.</summary>
    public string TokenHash { get; set; } = "";

    /// <summary>The job that made the film; the link goes with it. Null where it leads to a production.</summary>
    public Guid? JobId { get; set; }

    /// <summary>The production; null where it leads to a film.</summary>
    public Guid? ProductionId { get; set; }
    public string By { get; set; } = "";
    public DateTime Created { get; set; }
    public DateTime Expires { get; set; }
}

/// <summary>Something that matters to who may do what.</summary>
public sealed class AuditEntry
{
    public long Id { get; set; }
    public DateTime At { get; set; }
    public string Who { get; set; } = "";

    /// <summary>As a sentence without its subject.</summary>
    public string What { get; set; } = "";
}

/// <summary>Whoever does what is being done now, for the history; nobody where nobody has to say who it is. Flows with the work that is awaited.</summary>
public static class ActingPerson
{
    private static readonly AsyncLocal<string?> Current = new();
    private static readonly AsyncLocal<Guid?> CurrentTeam = new();

    /// <summary>The name, or null.</summary>
    public static string? Name
    {
        get => Current.Value;
        set => Current.Value = value;
    }

    /// <summary>The team that a new production belongs to; null for everybody.</summary>
    public static Guid? Team
    {
        get => CurrentTeam.Value;
        set => CurrentTeam.Value = value;
    }
}

/// <summary>Something that somebody has to say about a place of a scene; no part of the film, so no part of its history.</summary>
public sealed class Remark
{
    public Guid Id { get; set; }
    public Guid ProductionId { get; set; }
    public Guid SceneId { get; set; }

    /// <summary>The line that it is about; null where nobody speaks.</summary>
    public Guid? LineId { get; set; }

    /// <summary>Seconds after the line's start, where there is one: it goes with the line.</summary>
    public double Offset { get; set; }

    /// <summary>Seconds of the scene as they were.</summary>
    public double At { get; set; }
    public string Text { get; set; } = "";
    public string By { get; set; } = "";
    public DateTime Created { get; set; }
    public bool IsDone { get; set; }
}
