using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Rigging;

/// <summary>A part of a drawing as it was found.</summary>
internal sealed class FoundPart
{
    public required PartKind Kind { get; init; }

    /// <summary>As its name says.</summary>
    public PartSide Named { get; init; }

    /// <summary>For hair: behind the head.</summary>
    public bool IsBack { get; init; }

    /// <summary>For a hand: while its fingers have this shape.</summary>
    public HandShape Fingers { get; init; }

    /// <summary>For what has a name that says nothing.</summary>
    public string? Name { get; init; }

    /// <summary>Its shapes, back to front.</summary>
    public List<int> Pieces { get; } = [];

    /// <summary>In the picture.</summary>
    public PartSide Side { get; set; }

    /// <summary>Of its shapes.</summary>
    public ArtBox Box { get; set; }

    /// <summary>In the rig.</summary>
    public string Id { get; set; } = "";
}

/// <summary>Sorts the shapes of a drawing into the parts of a figure, by the names of their groups and by where they lie.</summary>
internal sealed class PartSorting
{
    private readonly IReadOnlyList<ArtPiece> _pieces;
    private readonly Dictionary<string, FoundPart> _parts = [];

    /// <summary>The part of each shape; null for what is left out.</summary>
    public FoundPart?[] PartOf { get; }

    /// <summary>For shapes of the mouth: which mouth; null for the one that has no name.</summary>
    public MouthShape?[] ShapeOf { get; }

    /// <summary>All parts.</summary>
    public IEnumerable<FoundPart> Parts => _parts.Values;

    public PartSorting(IReadOnlyList<ArtPiece> pieces)
    {
        _pieces = pieces;
        PartOf = new FoundPart?[pieces.Count];
        ShapeOf = new MouthShape?[pieces.Count];
        for (var i = 0; i < pieces.Count; i++)
            PartOf[i] = ByName(i);
        Measure();
        FindPupils();
        // What has no name lies on the head or on the body.
        for (var i = 0; i < pieces.Count; i++)
            if (PartOf[i] == null && pieces[i].IsSeen)
                Put(i, ByPlace(pieces[i].Box.Centre));
        Measure();
        SetSides();
        var number = 0;
        foreach (var part in Parts)
        {
            var name = part.Kind == PartKind.Other ? part.Name! : part.Kind.ToString().ToLowerInvariant() + (part.IsBack ? "-back" : "");
            part.Id = part.Side == PartSide.None ? name : $"{name}-{part.Side.ToString().ToLowerInvariant()}";
            if (part.Fingers != HandShape.Relaxed)
                part.Id += "-" + part.Fingers.ToString().ToLowerInvariant();
            while (Parts.Any(p => p != part && p.Id == part.Id))
                part.Id = $"{name}-{++number + 1}";
        }
    }

    /// <summary>The first of a kind; null for none.</summary>
    public FoundPart? The(PartKind kind, PartSide side = PartSide.None) =>
        Parts.FirstOrDefault(p => p.Kind == kind && (side == PartSide.None || p.Side == side));

    /// <summary>All of a kind.</summary>
    public IEnumerable<FoundPart> All(PartKind kind) => Parts.Where(p => p.Kind == kind);

    private FoundPart? ByName(int i)
    {
        var groups = _pieces[i].Groups;
        var names = groups.Select(g => PartNames.Of(g.Name)).ToArray();
        var mouth = Array.FindIndex(names, n => n?.Kind == PartKind.Mouth);
        if (mouth >= 0)
        {
            for (var g = groups.Count - 1; g >= mouth && ShapeOf[i] == null; g--)
                ShapeOf[i] = MouthNames.ShapeOf(groups[g].Name);
            return Part("mouth", new FoundPart { Kind = PartKind.Mouth }, i);
        }
        var at = Array.FindLastIndex(names, n => n?.Kind != null);
        if (at < 0)
        {
            // A name that says nothing here may still be a part that somebody wants to move.
            var own = groups.LastOrDefault(g => PartNames.IsOfPerson(g.Name) && PartNames.Of(g.Name) == null);
            return own == null || !_pieces[i].IsSeen ? null : Part($"other#{own.Number}", new FoundPart { Kind = PartKind.Other, Name = Written(own.Name) }, i);
        }
        var kind = names[at]!.Value.Kind!.Value;
        var fingers = kind == PartKind.Hand ? groups.Skip(at).Select(g => PartNames.FingersOf(g.Name)).Max() : HandShape.Relaxed;
        // Hidden mouths, lids and hands wait for their moment; the rest was meant to be hidden.
        if (!_pieces[i].IsSeen && kind != PartKind.Lid && fingers == HandShape.Relaxed)
            return null;
        var paired = PartNames.IsPaired(kind);
        var sided = Array.FindLastIndex(names, n => n is { Side: not PartSide.None });
        var side = paired && sided >= 0 ? names[sided]!.Value.Side : PartSide.None;
        var back = kind == PartKind.Hair && names[at]!.Value.IsBack;
        var key = !paired || side != PartSide.None ? $"{kind}:{side}:{back}" : $"{kind}#{groups[at].Number}";
        return Part(
            fingers == HandShape.Relaxed ? key : $"{key}:{fingers}",
            new FoundPart
            {
                Kind = kind,
                Named = side,
                IsBack = back,
                Fingers = fingers,
            },
            i
        );
    }

    private FoundPart Part(string key, FoundPart fresh, int piece)
    {
        if (!_parts.TryGetValue(key, out var part))
            _parts[key] = part = fresh;
        part.Pieces.Add(piece);
        return part;
    }

    private void Put(int piece, string key)
    {
        var kind = key == "head" ? PartKind.Head : PartKind.Body;
        PartOf[piece] = Part($"{kind}:{PartSide.None}:{false}", new FoundPart { Kind = kind }, piece);
        PartOf[piece]!.Pieces.Sort();
    }

    private string ByPlace(Vector2 at) => The(PartKind.Head) is { } head && (The(PartKind.Body) == null || head.Box.Grown(0.1f).Has(at)) ? "head" : "body";

    private void Measure()
    {
        foreach (var part in Parts)
            part.Box = ArtBox.Of(part.Pieces.Select(i => _pieces[i].Box))!.Value;
    }

    // In an eye without a pupil of its own: what lies wholly on its first shape, and is smaller.
    private void FindPupils()
    {
        foreach (var eye in All(PartKind.Eye).ToArray())
        {
            if (eye.Pieces.Count < 2 || All(PartKind.Pupil).Any(p => eye.Box.Has(p.Box.Centre)))
                continue;
            var white = _pieces[eye.Pieces[0]].Box;
            var inner = eye
                .Pieces.Skip(1)
                .Where(i => _pieces[i].Fill != null && _pieces[i].Box.Width < 0.75f * white.Width && white.Grown(0.04f).Has(_pieces[i].Box.Centre))
                .ToArray();
            foreach (var i in inner)
            {
                eye.Pieces.Remove(i);
                PartOf[i] = Part($"pupil in {eye.Pieces[0]}", new FoundPart { Kind = PartKind.Pupil, Named = eye.Named }, i);
            }
        }
        Measure();
    }

    // Left is the picture's left, whatever the names mean by it: where both are named, they are compared; else it is seen from the middle.
    private void SetSides()
    {
        var middle = (The(PartKind.Body) ?? The(PartKind.Head) ?? Parts.FirstOrDefault())?.Box.Centre.X ?? 0;
        var face = The(PartKind.Head)?.Box.Centre.X ?? middle;
        bool? isSwapped = null;
        foreach (var kind in (PartKind[])[PartKind.Arm, PartKind.Leg, PartKind.Eye, PartKind.Ear, PartKind.Brow])
            if (Named(kind, PartSide.Left) is { } l && Named(kind, PartSide.Right) is { } r)
                isSwapped ??= l.Box.Centre.X > r.Box.Centre.X;
        foreach (var part in Parts.Where(p => PartNames.IsPaired(p.Kind)))
        {
            var centre = PartNames.IsOnHead(part.Kind) ? face : middle;
            var isLeft = part.Named == PartSide.None || isSwapped == null ? part.Box.Centre.X <= centre : part.Named == PartSide.Left != isSwapped;
            part.Side = isLeft ? PartSide.Left : PartSide.Right;
        }
        // Two without names on one side of the middle are still two.
        foreach (var pair in Parts.Where(p => PartNames.IsPaired(p.Kind) && p.Named == PartSide.None).GroupBy(p => p.Kind))
            if (pair.Count() == 2 && pair.Select(p => p.Side).Distinct().Count() == 1 && pair.OrderBy(p => p.Box.Centre.X).ToArray() is [var first, var second])
                (first.Side, second.Side) = (PartSide.Left, PartSide.Right);

        FoundPart? Named(PartKind kind, PartSide side) => Parts.FirstOrDefault(p => p.Kind == kind && p.Named == side);
    }

    private static string Written(string name)
    {
        var text = string.Concat(name.Trim().Select(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' ? c : '-'));
        return text.Length == 0 || !char.IsAsciiLetter(text[0]) ? "part-" + text[..Math.Min(text.Length, 40)] : text[..Math.Min(text.Length, 40)];
    }
}
