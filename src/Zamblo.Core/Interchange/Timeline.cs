using System.Text.Json;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Interchange;

/// <summary>A line as an editor sees it.</summary>
/// <param name="Member">Index of who says it, among the members of the scene.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">What is said.</param>
public readonly record struct TimelineLine(int Member, double Start, double End, string Text);

/// <summary>A scene as an editor sees it.</summary>
/// <param name="Stage">What is seen.</param>
/// <param name="Names">What the members are called, in their order.</param>
/// <param name="Lines">What is said, in order of start.</param>
public sealed record TimelineScene(StageScene Stage, IReadOnlyList<string> Names, IReadOnlyList<TimelineLine> Lines);

/// <summary>
/// A film for an editor, in the JSON form of OpenTimelineIO (Academy Software Foundation; schemas Timeline.1, Stack.1, Track.1, Clip.2, Gap.1, Marker.2,
/// RationalTime.1, TimeRange.1, ExternalReference.1, MissingReference.1): a video track with a clip for each shot, an audio track for each member with a clip
/// for each line, and a marker at each scene.
/// </summary>
public static class Timeline
{
    private const string Key = "DEFAULT_MEDIA";

    /// <summary>Writes it.</summary>
    /// <param name="output">Where to.</param>
    /// <param name="name">Of the film.</param>
    /// <param name="scenes">One after another, of one frame rate.</param>
    /// <param name="film">The film's file as the timeline is to find it, or null for none.</param>
    public static void Write(Stream output, string name, IReadOnlyList<TimelineScene> scenes, string? film)
    {
        using var json = new Utf8JsonWriter(output, new JsonWriterOptions { Indented = true });
        var rate = scenes.Count == 0 ? new FrameRate(25) : scenes[0].Stage.Rate;
        var writer = new Writer(json, rate, scenes.Sum(s => s.Stage.FrameCount), film);
        writer.Timeline(name, scenes);
    }

    private sealed class Writer(Utf8JsonWriter json, FrameRate rate, int frames, string? film)
    {
        public void Timeline(string name, IReadOnlyList<TimelineScene> scenes)
        {
            json.WriteStartObject();
            Head("Timeline.1", name);
            json.WriteNull("global_start_time");
            json.WriteStartObject("tracks");
            Head("Stack.1", "tracks");
            Effects(() => Markers(scenes));
            json.WriteNull("source_range");
            json.WriteStartArray("children");
            Track("Shots", "Video", ShotsOf(scenes));
            foreach (var member in scenes.SelectMany(s => s.Names).Distinct())
                if (LinesOf(scenes, member) is { Count: > 0 } lines)
                    Track(member, "Audio", lines);
            json.WriteEndArray();
            json.WriteEndObject();
            json.WriteEndObject();
        }

        private sealed record Piece(string Name, int Start, int End, string? Note);

        private List<Piece> ShotsOf(IReadOnlyList<TimelineScene> scenes)
        {
            var pieces = new List<Piece>();
            var first = 0;
            foreach (var scene in scenes)
            {
                var (list, stage) = (scene.Stage.Shots, scene.Stage);
                for (var i = 0; i < list.Shots.Count; i++)
                {
                    var shot = list.Shots[i];
                    int start = list.FirstFrame(i, rate),
                        end = i + 1 < list.Shots.Count ? list.FirstFrame(i + 1, rate) : stage.FrameCount;
                    var who = shot.Framing != Framing.Wide && shot.Subject >= 0 && shot.Subject < scene.Names.Count ? " " + scene.Names[shot.Subject] : "";
                    if (end > start)
                        pieces.Add(new Piece(shot.Framing + who, first + start, first + end, shot.Reason));
                }
                first += stage.FrameCount;
            }
            return pieces;
        }

        private List<Piece> LinesOf(IReadOnlyList<TimelineScene> scenes, string member)
        {
            var pieces = new List<Piece>();
            int first = 0,
                at = 0;
            foreach (var scene in scenes)
            {
                foreach (var line in scene.Lines.Where(l => l.Member >= 0 && scene.Names[l.Member] == member).OrderBy(l => l.Start))
                {
                    // A track has one thing at a time: who begins before the own line before has ended begins after it.
                    int start = Math.Max(at, first + rate.FrameAt(line.Start)),
                        end = Math.Min(frames, first + rate.FramesFor(line.End));
                    if (end <= start)
                        continue;
                    pieces.Add(new Piece(line.Text.Length > 60 ? line.Text[..59] + "…" : line.Text, start, end, line.Text));
                    at = end;
                }
                first += scene.Stage.FrameCount;
            }
            return pieces;
        }

        private void Track(string name, string kind, List<Piece> pieces)
        {
            json.WriteStartObject();
            Head("Track.1", name);
            Effects(null);
            json.WriteNull("source_range");
            json.WriteString("kind", kind);
            json.WriteStartArray("children");
            var at = 0;
            foreach (var piece in pieces)
            {
                if (piece.Start > at)
                    Item("Gap.1", "", 0, piece.Start - at, null);
                Item("Clip.2", piece.Name, piece.Start, piece.End - piece.Start, piece.Note);
                at = piece.End;
            }
            json.WriteEndArray();
            json.WriteEndObject();
        }

        private void Item(string schema, string name, int start, int length, string? note)
        {
            json.WriteStartObject();
            Head(schema, name, note);
            Effects(null);
            Range("source_range", start, length);
            if (schema == "Clip.2")
            {
                json.WriteStartObject("media_references");
                json.WriteStartObject(Key);
                Head(film == null ? "MissingReference.1" : "ExternalReference.1", "");
                if (film != null)
                    json.WriteString("target_url", film);
                Range("available_range", 0, frames);
                json.WriteEndObject();
                json.WriteEndObject();
                json.WriteString("active_media_reference_key", Key);
            }
            json.WriteEndObject();
        }

        private void Markers(IReadOnlyList<TimelineScene> scenes)
        {
            var first = 0;
            for (var i = 0; i < scenes.Count; i++)
            {
                json.WriteStartObject();
                Head("Marker.2", $"Scene {i + 1}");
                json.WriteString("color", "RED");
                json.WriteString("comment", "");
                Range("marked_range", first, 0);
                json.WriteEndObject();
                first += scenes[i].Stage.FrameCount;
            }
        }

        private void Effects(Action? markers)
        {
            json.WriteStartArray("effects");
            json.WriteEndArray();
            json.WriteStartArray("markers");
            markers?.Invoke();
            json.WriteEndArray();
            json.WriteBoolean("enabled", true);
        }

        private void Head(string schema, string name, string? note = null)
        {
            json.WriteString("OTIO_SCHEMA", schema);
            json.WriteString("name", name);
            json.WriteStartObject("metadata");
            if (note != null)
            {
                json.WriteStartObject("zamblo");
                json.WriteString("note", note);
                json.WriteEndObject();
            }
            json.WriteEndObject();
        }

        private void Range(string name, int start, int length)
        {
            json.WriteStartObject(name);
            json.WriteString("OTIO_SCHEMA", "TimeRange.1");
            Time("start_time", start);
            Time("duration", length);
            json.WriteEndObject();
        }

        private void Time(string name, int frame)
        {
            json.WriteStartObject(name);
            json.WriteString("OTIO_SCHEMA", "RationalTime.1");
            json.WriteNumber("rate", rate.FramesPerSecond);
            json.WriteNumber("value", (double)frame);
            json.WriteEndObject();
        }
    }
}
