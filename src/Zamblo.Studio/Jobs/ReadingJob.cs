using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Jobs;

/// <summary>A scene that was read anew in one go: its lines get their takes out of one recording.</summary>
public sealed record ReadingOrder(Guid SceneId, string Hash, string Name, double Seconds = 0)
{
    /// <summary>The kind of its job.</summary>
    public const string Kind = "reading";
}

/// <summary>Lines get the takes that were found in a recording, and the pauses between them.</summary>
/// <param name="Order">What was asked for.</param>
/// <param name="Lines">Where each line is; one that is missing stays as it is.</param>
/// <param name="Job">The job that found them: it ends in the same transaction.</param>
/// <param name="Result">What it has to say.</param>
public sealed record FileReading(ReadingOrder Order, IReadOnlyList<(Guid Line, ReadLine At)> Lines, Guid Job, string Result) : Edit
{
    public override EditTarget Target => new(TargetKind.Scene, Order.SceneId);
}

/// <summary>Finds the lines of a scene in a recording of all of them.</summary>
internal sealed class ReadingJob(SceneDesk scenes, VoiceStore voices, EditRunner edits) : IJobHandler
{
    public string Kind => ReadingOrder.Kind;

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<ReadingOrder>(job.Payload)!;
        context.Report(0, "Decoding");
        var length = await voices.LengthAsync(order.Hash, order.Name, context.Cancel);
        var scene = await scenes.LoadAsync(order.SceneId);
        var lines = scene
            .Lines.Select(l => (Row: l, Text: Directions.Spoken(scene.WrittenOf(l)).Trim()))
            .Where(l => l.Text.Any(char.IsLetterOrDigit))
            .ToArray();
        if (lines.Length == 0)
            throw new MediaException("No line of this scene has words to be found: write them first.");
        var script = string.Join("\n", lines.Select(l => l.Text));
        var heard = await voices.ListenAsync(
            order.Hash,
            order.Name,
            scene.Hand.QueryOf(script, Guid.Empty, scene.Member(lines[0].Row.CastMemberId).Voice, null, lines[0].Row.Language),
            null,
            p => context.Report(p, $"Finding {lines.Length} lines: {100 * p:0} %"),
            context.Cancel
        );
        var found = ReadThrough.Find([.. lines.Select(l => ScriptText.PlainWords(l.Text).Select(w => w.Text).ToArray())], heard.Words, length);
        var there = lines.Zip(found).Where(l => l.Second != null).Select(l => (l.First.Row.Id, l.Second!)).ToArray();
        if (there.Length == 0)
            throw new MediaException($"None of this scene's lines is said in \"{order.Name}\".");
        string[] missing = [.. lines.Zip(found).Where(l => l.Second == null).Select(l => Named(scene, l.First.Row, l.First.Text))];
        var named = $"{string.Join("; ", missing.Take(5))}{(missing.Length > 5 ? " and more" : "")}";
        var result =
            missing.Length == 0
                ? $"All {lines.Length} lines have a new take."
                : $"{there.Length} of {lines.Length} lines have a new take; not in the recording: {named}.";
        await edits.RunAsync(new FileReading(order, there, job.Id, result), context.Cancel);
        return result;
    }

    private static string Named(LoadedScene scene, Line line, string text)
    {
        var words = string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Take(4));
        return $"{scene.Member(line.CastMemberId).RoleName}, \"{(words.Length > 40 ? words[..40] : words)}…\"";
    }
}

internal sealed class ReadingEdits : IEditHandler<FileReading>
{
    public async Task ApplyAsync(FileReading edit, EditScope scope)
    {
        var (order, db) = (edit.Order, scope.Db);
        scope.Name = $"Takes from {order.Name}";
        var at = edit.Lines.ToDictionary(l => l.Line, l => l.At);
        ReadLine? before = null;
        foreach (var line in await db.Lines.Where(l => l.SceneId == order.SceneId).OrderBy(l => l.Order).ToListAsync())
        {
            if (!at.TryGetValue(line.Id, out var read))
            {
                before = null;
                continue;
            }
            var take = new Take
            {
                Id = Guid.NewGuid(),
                LineId = line.Id,
                Kind = TakeKind.File,
                AssetHash = order.Hash,
                Name = order.Name,
                Duration = read.End - read.Start,
                PartStart = read.Start,
                PartEnd = read.End,
                Created = DateTime.UtcNow,
            };
            db.Takes.Add(take);
            line.TakeId = take.Id;
            // The rhythm of the reading; where the line before is not in it, the pause that was.
            if (before != null)
                (line.Start, line.Pause) = (null, Math.Round(read.First - before.Last, 3));
            before = read;
        }
        await JobDesk.EndAsync(db, edit.Job, edit.Result);
    }
}
