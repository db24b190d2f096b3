using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;

namespace Zamblo.Studio.Farm;

/// <summary>A worker says who it is.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="Version">Of the code that draws.</param>
/// <param name="Cores">So many chunks it draws at a time.</param>
/// <param name="Ears">Of what it listens with; where the studio's is another, it draws only.</param>
/// <param name="Voices">Of the engines that it speaks with; where the studio's are others, it does not speak.</param>
public sealed record WorkerHello(string Name, string Version, int Cores, string Ears = "", string Voices = "");

/// <summary>A worker is known.</summary>
/// <param name="Worker">Its id from now on.</param>
public sealed record WorkerWelcome(Guid Worker);

/// <summary>What a worker is to do: one of these.</summary>
/// <param name="Chunk">To draw.</param>
/// <param name="Errand">To listen to, or to speak.</param>
public sealed record WorkLoan(ChunkLoan? Chunk, ErrandLoan? Errand);

/// <summary>Something that a worker is at; it says now and then that it still is. One of both.</summary>
/// <param name="Id">Of the loan.</param>
/// <param name="Listening">A sound, with what is known about it.</param>
/// <param name="Speaking">A text, with how it is said.</param>
public sealed record ErrandLoan(Guid Id, Listening? Listening, Speaking? Speaking);

/// <summary>How far a worker is with it.</summary>
/// <param name="Share">0 to 1.</param>
public sealed record ErrandBeat(double Share);

/// <summary>A chunk that a worker draws; it says now and then that it still does.</summary>
/// <param name="Id">Of the loan.</param>
/// <param name="Film">Whose <see cref="FilmPackage"/> says what is seen.</param>
/// <param name="Name">Of the chunk: a worker that finds another name for it would draw another picture.</param>
public sealed record ChunkLoan(Guid Id, Guid Film, string Name);

/// <summary>How far a worker is with a chunk.</summary>
/// <param name="Frames">Drawn of it.</param>
public sealed record ChunkBeat(int Frames);

/// <summary>A worker cannot do what it was lent.</summary>
/// <param name="Reason">A sentence.</param>
public sealed record ChunkFailure(string Reason);

/// <summary>All that a film's picture is made of: with it, no database is needed.</summary>
/// <param name="Film">Documents of its scenes.</param>
/// <param name="Speech">Keys of what was heard in its lines.</param>
/// <param name="Characters">What characters of one's own are made of, as JSON, by their keys.</param>
/// <param name="Files">Hashes of pictures, clips and engines' times.</param>
public sealed record FilmPackage(FilmTicket Film, IReadOnlyList<string> Speech, IReadOnlyDictionary<string, string> Characters, IReadOnlyList<string> Files);

/// <summary>A worker as the page shows it.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="Cores">So many chunks it draws at a time.</param>
/// <param name="Since">It has been there.</param>
/// <param name="Seen">When it was heard of last.</param>
/// <param name="IsHere">Heard of within the last half minute.</param>
/// <param name="Doing">What it is at now: film by film, with the chunks of each, and the sound that it listens to.</param>
/// <param name="Chunks">That it has drawn.</param>
/// <param name="Frames">That it has drawn.</param>
/// <param name="FramesPerSecond">While it was drawing; 0 where it has not drawn yet.</param>
/// <param name="Sounds">That it has listened to.</param>
/// <param name="SoundSeconds">Of them together.</param>
/// <param name="Texts">That it has spoken.</param>
/// <param name="Failures">Chunks and sounds that it could not do.</param>
/// <param name="Error">Why the last of them failed.</param>
public sealed record WorkerView(
    string Name,
    int Cores,
    DateTime Since,
    DateTime Seen,
    bool IsHere,
    IReadOnlyList<string> Doing,
    int Chunks,
    long Frames,
    double FramesPerSecond,
    int Sounds,
    double SoundSeconds,
    int Texts,
    int Failures,
    string? Error
);

/// <summary>What was lent is not wanted any more: the film was cancelled, or somebody else was quicker.</summary>
public sealed class LoanOverException() : Exception("This is not wanted any more.");

/// <summary>A worker that is not known: it says hello again.</summary>
public sealed class UnknownWorkerException() : Exception("This worker is not known: it must say hello first.");
