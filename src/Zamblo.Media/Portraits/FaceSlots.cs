using System.Numerics;
using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>The faces of a clip, frame after frame: each is followed from where it was; who is lost is looked for again, newcomers are taken in.</summary>
/// <param name="count">Frames of the clip.</param>
internal sealed class FaceSlots(int count)
{
    // A face that is lost is looked for thoroughly in every so many frames: that takes as long as to follow ten of them.
    private const int Again = 12;

    // Most faces that are followed, and until which frame others come in; those much smaller than the largest are passers-by.
    private const int Most = 4,
        Newcomers = 50;
    private const float LeastOfLargest = 0.4f;

    // Turned further than that to a side, the mouth is no longer one (about 30 degrees, chosen by eye, and some room for the model's error).
    private const float MostTurned = 36;

    // Of the frames: a face that is seen in fewer is none of the clip's.
    private const double LeastSeen = 0.25;

    private sealed class Slot(int count)
    {
        public FoundFace? Now { get; set; }
        public Vector2 Last { get; set; }
        public float Width { get; set; }
        public PortraitMarks?[] Marks { get; } = new PortraitMarks?[count];
        public bool[] Turned { get; } = new bool[count];
        public FaceSights Sights { get; } = new(count);
    }

    private readonly List<Slot> _slots = [];

    /// <summary>Whether anybody was turned away.</summary>
    public bool IsTurned => _slots.Exists(s => Array.Exists(s.Turned, t => t));

    /// <summary>Looks at the next frame.</summary>
    /// <param name="frame">Three channels, blue first.</param>
    /// <param name="i">Its number.</param>
    /// <param name="cancel">Stops.</param>
    public void Look(Mat frame, int i, CancellationToken cancel)
    {
        foreach (var slot in _slots)
            if (slot.Now != null)
                slot.Now = FaceFinder.Again(frame, slot.Now);
        Apart();
        var isThorough = i % Again == 0;
        if (_slots.Count == 0 || _slots.Exists(s => s.Now == null) || isThorough && i < Newcomers)
            foreach (var found in FaceFinder.Find(frame, cancel, isThorough))
                Take(found, i);
        foreach (var slot in _slots)
        {
            if (slot.Now is not { } face)
                continue;
            (slot.Last, slot.Width) = (MiddleOf(face), face.Box.Width);
            slot.Turned[i] = MathF.Abs(YawOf(face.Points)) > MostTurned;
            var own = MarksGuess.FromFace(face.Points);
            if (!slot.Turned[i] && own.ErrorFor(frame.Cols, frame.Rows) == null)
            {
                slot.Marks[i] = own;
                slot.Sights.Look(frame, i, own);
            }
        }
    }

    // Two that have come to follow one face: the one that was lost last looks for its own again.
    private void Apart()
    {
        for (var a = 0; a < _slots.Count; a++)
        for (var b = a + 1; b < _slots.Count; b++)
            if (_slots[a].Now is { } first && _slots[b].Now is { } second && AreOne(first, second))
                (Vector2.Distance(MiddleOf(first), _slots[a].Last) <= Vector2.Distance(MiddleOf(second), _slots[b].Last) ? _slots[b] : _slots[a]).Now = null;
    }

    private void Take(FoundFace found, int i)
    {
        if (_slots.Exists(s => s.Now is { } known && AreOne(known, found)))
            return;
        // Alone in its clip a face is that one wherever it is, also after a cut; of several it is the one that was nearest.
        var lost = _slots.Where(s => s.Now == null).MinBy(s => Vector2.Distance(s.Last, MiddleOf(found)));
        if (lost != null && (_slots.Count == 1 || Vector2.Distance(lost.Last, MiddleOf(found)) < 1.5f * lost.Width))
        {
            lost.Now = found;
            return;
        }
        var largest = _slots.Count == 0 ? 0 : _slots.Max(s => s.Width);
        if (_slots.Count < Most && i < Newcomers && found.Box.Width >= LeastOfLargest * largest)
            _slots.Add(
                new Slot(count)
                {
                    Now = found,
                    Last = MiddleOf(found),
                    Width = found.Box.Width,
                }
            );
    }

    private static bool AreOne(FoundFace a, FoundFace b) => Vector2.Distance(MiddleOf(a), MiddleOf(b)) < 0.5f * Math.Min(a.Box.Width, b.Box.Width);

    private static Vector2 MiddleOf(FoundFace face) => new(face.Box.X + face.Box.Width / 2, face.Box.Y + face.Box.Height / 2);

    // In degrees, by the depth of the two edges of the face.
    private static float YawOf(Vector3[] points)
    {
        var across = points[454] - points[234];
        return MathF.Atan2(across.Z, new Vector2(across.X, across.Y).Length()) * 180 / MathF.PI;
    }

    /// <summary>A face that the clip has.</summary>
    /// <param name="Marks">In each frame; null where it is not seen, or not well enough.</param>
    /// <param name="Turned">Where it is turned away.</param>
    /// <param name="Sights">How well it is seen.</param>
    public sealed record Face(PortraitMarks?[] Marks, bool[] Turned, FaceSights Sights);

    /// <summary>The faces that the clip has, in the order that they were found in.</summary>
    public IReadOnlyList<Face> All()
    {
        var seen = _slots.Where(s => Array.Exists(s.Marks, m => m != null)).ToArray();
        int Frames(Slot s) => s.Marks.Count(m => m != null);
        var most = seen.Length == 0 ? 0 : seen.Max(Frames);
        return [.. seen.Where(s => Frames(s) == most || Frames(s) >= LeastSeen * count).Select(s => new Face(s.Marks, s.Turned, s.Sights))];
    }
}
