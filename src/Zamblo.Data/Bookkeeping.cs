namespace Zamblo.Data;

/// <summary>One edit: its name and the rows before and after.</summary>
public sealed class HistoryEntry
{
    public long Id { get; set; }
    public Guid ProductionId { get; set; }

    /// <summary>From 1.</summary>
    public int Position { get; set; }
    public string Name { get; set; } = "";

    /// <summary>A JSON list of changed rows.</summary>
    public string Changes { get; set; } = "[]";
    public DateTime At { get; set; }

    /// <summary>Who did it; null where nobody has to say who it is.</summary>
    public string? By { get; set; }
}

/// <summary>What an edit, an undo or a redo touched: whoever edits an older state is refused only where it touches the same.</summary>
public sealed class EditTrace
{
    public Guid ProductionId { get; set; }

    /// <summary>The revision that it made.</summary>
    public long Revision { get; set; }

    /// <summary>Which attempt it was: one whose end was not heard of is not made twice. Null in what was made before this was written down.</summary>
    public Guid? Attempt { get; set; }

    /// <summary>A JSON list of what was touched.</summary>
    public string Touched { get; set; } = "[]";
}

/// <summary>How far the hearing of a sound is.</summary>
public enum HearingState
{
    Asked,
    Running,
    There,
    Failed,
}

/// <summary>A sound with what is known about it that somebody wants to have heard. Its result lies in the cache, under the same key.</summary>
public sealed class Hearing
{
    /// <summary>Changes with the sound and with everything that is known about it.</summary>
    public string Key { get; set; } = "";
    public Guid ProductionId { get; set; }
    public Guid LineId { get; set; }

    /// <summary>What is known about the sound, as JSON: when words change, only what is new is listened to.</summary>
    public string Query { get; set; } = "";
    public HearingState State { get; set; }

    /// <summary>Why it failed, as a sentence.</summary>
    public string? Error { get; set; }
    public DateTime Asked { get; set; }
}

/// <summary>State of a job.</summary>
public enum JobState
{
    Queued,
    Running,
    Done,
    Failed,
    Cancelled,

    /// <summary>Stopped by somebody who lets it go on later.</summary>
    Paused,
}

/// <summary>Work in the background.</summary>
public sealed class Job
{
    public Guid Id { get; set; }
    public Guid ProductionId { get; set; }

    /// <summary>"take", "speak" or "render".</summary>
    public string Kind { get; set; } = "";

    /// <summary>What people read: "Render Night Shift".</summary>
    public string Title { get; set; } = "";
    public JobState State { get; set; }

    /// <summary>0 to 1.</summary>
    public double Progress { get; set; }

    /// <summary>What is done and what is left, in words.</summary>
    public string Detail { get; set; } = "";

    /// <summary>Why it failed, as a sentence.</summary>
    public string? Error { get; set; }

    /// <summary>What it needs to run again, as JSON.</summary>
    public string Payload { get; set; } = "{}";

    /// <summary>Where the result is, as the kind says.</summary>
    public string? Result { get; set; }

    /// <summary>Who has asked for it; null where nobody has to say who it is.</summary>
    public string? By { get; set; }
    public DateTime Created { get; set; }
    public DateTime? Finished { get; set; }
}
