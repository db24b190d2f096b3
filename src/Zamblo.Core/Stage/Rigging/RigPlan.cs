using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Rigging;

/// <summary>What hangs on what, where it turns, and how it moves, for the parts that were found.</summary>
internal sealed class RigPlan
{
    // Of the head's globe: flatter than in the characters that ship, whose faces were drawn for it.
    private const float OnFace = 0.7f;

    private readonly IReadOnlyList<ArtPiece> _pieces;
    private readonly PartSorting _sorting;
    private readonly ArtBox _all;
    private readonly FoundPart? _body,
        _head;

    public RigPlan(IReadOnlyList<ArtPiece> pieces, PartSorting sorting, ArtBox all)
    {
        (_pieces, _sorting, _all) = (pieces, sorting, all);
        _head = sorting.The(PartKind.Head);
        _body = sorting.The(PartKind.Body);
        HasHead = _head != null;
        Body = _body?.Box ?? all;
        var features = ArtBox.Of(sorting.Parts.Where(p => p.Kind is PartKind.Eye or PartKind.Mouth).Select(p => p.Box));
        if (_head != null)
            Face = _head.Box;
        else if (features is { } f)
            // About what is there of a face; the mouth lies lower than the eyes.
            Face = new ArtBox(f.Left, f.Top, f.Right, f.Bottom).Grown(0.3f);
        else
            Face = new ArtBox(
                Body.Centre.X - 0.34f * Body.Width,
                Body.Top + 0.12f * Body.Height,
                Body.Centre.X + 0.34f * Body.Width,
                Body.Top + 0.12f * Body.Height + 0.68f * Math.Min(Body.Width, Body.Height)
            );
    }

    public bool HasHead { get; }

    /// <summary>Box of the body.</summary>
    public ArtBox Body { get; }

    /// <summary>Box of the face: the globe of the head.</summary>
    public ArtBox Face { get; }

    /// <summary>Part that eyes and mouth hang on.</summary>
    public string HeadId => _head?.Id ?? _body?.Id ?? "body";

    /// <summary>What a small portrait shows.</summary>
    public ArtBox Portrait => _head == null ? _all : ArtBox.Of(_sorting.Parts.Where(p => PartNames.IsOnHead(p.Kind)).Select(p => p.Box))!.Value;

    /// <summary>Names of groups that only hold what hangs on them.</summary>
    public IReadOnlyList<string> Empty =>
        [
            .. _sorting.The(PartKind.Leg) != null && _sorting.The(PartKind.Hips) == null ? ["hips"] : Array.Empty<string>(),
            .. _body == null || !HasHead ? [Trunk] : Array.Empty<string>(),
            .. _body == null && _head == null ? [HeadId] : Array.Empty<string>(),
        ];

    // What leans and breathes; a figure without a head is its own head, and hangs on nothing that is seen.
    private string Trunk => HasHead ? _body?.Id ?? "body" : "trunk";

    /// <summary>The most usual colour of its lines.</summary>
    public string Ink => _pieces.Where(p => p is { IsSeen: true, Stroke: not null }).GroupBy(p => p.Stroke!).MaxBy(g => g.Count())?.Key ?? "#1E2430";

    /// <summary>Where the mouth is.</summary>
    public Vector2 MouthPlace => _sorting.The(PartKind.Mouth)?.Box.Centre ?? new Vector2(Face.Centre.X, Face.Centre.Y + 0.24f * Face.Height);

    private bool HasEyes => _sorting.The(PartKind.Eye) != null;

    /// <summary>Groups of what is drawn anew in every frame.</summary>
    public IEnumerable<string> Anew() => HasEyes ? ["mouth"] : ["mouth", "eye-left", "eye-right"];

    /// <summary>Eyes that stand in for those that are not drawn.</summary>
    public IEnumerable<RigEye> DrawnEyes()
    {
        if (HasEyes)
            yield break;
        var r = 0.105f * Math.Min(Face.Width, Face.Height);
        foreach (var right in new[] { false, true })
            yield return new RigEye
            {
                Part = right ? "eye-right" : "eye-left",
                Radius = [AutoRig.Round(r), AutoRig.Round(1.1f * r)],
                Pupil = AutoRig.Round(0.58f * r),
                Lash = AutoRig.Round(Math.Clamp(0.24f * r, 2, 8)),
                IsRight = right,
            };
    }

    /// <summary>All parts, each after what it hangs on.</summary>
    public List<RigPart> Parts()
    {
        var parts = new List<RigPart>();
        var hips = _sorting.The(PartKind.Hips)?.Id ?? (_sorting.The(PartKind.Leg) != null ? "hips" : null);
        if (hips != null)
            parts.Add(new RigPart { Id = hips, Motion = RigMotion.Hips });
        foreach (var right in new[] { false, true })
            Limb(parts, hips, right, PartKind.Leg, PartKind.Shin, PartKind.Foot, new Vector2(Body.Centre.X, Body.Bottom));
        var foot = new Vector2(Body.Centre.X, Body.Bottom);
        parts.Add(
            new RigPart
            {
                Id = Trunk,
                Parent = hips,
                Motion = RigMotion.Body,
                Pivot = AutoRig.Point(foot),
            }
        );
        foreach (var part in _sorting.All(PartKind.Tail))
            parts.Add(Dangling(part, Trunk, Body.Centre));
        foreach (var right in new[] { false, true })
            Limb(parts, Trunk, right, PartKind.Arm, PartKind.Forearm, PartKind.Hand, new Vector2(Body.Centre.X, Body.Top + 0.15f * Body.Height));
        foreach (var part in _sorting.All(PartKind.Wing))
            parts.Add(Wing(part));
        if (_sorting.The(PartKind.Neck) is { } neck)
            parts.Add(new RigPart { Id = neck.Id, Parent = Trunk });
        parts.Add(
            new RigPart
            {
                Id = HeadId,
                Parent = Trunk,
                Motion = RigMotion.Head,
                Pivot = AutoRig.Point(HasHead ? new Vector2(Face.Centre.X, Face.Bottom - 0.06f * Face.Height) : foot),
            }
        );
        foreach (var part in _sorting.Parts.Where(p => PartNames.IsOnHead(p.Kind) && p.Kind is not (PartKind.Head or PartKind.Pupil)).OrderBy(p => p.Kind))
            parts.Add(OnHead(part));
        foreach (var pupil in _sorting.All(PartKind.Pupil))
            parts.Add(Pupil(pupil));
        if (_sorting.The(PartKind.Mouth) == null)
            parts.Add(OnGlobe("mouth", MouthPlace, OnFace));
        foreach (var eye in DrawnEyes())
        {
            var aside = (eye.IsRight ? 1 : -1) * 0.2f * Face.Width;
            parts.Add(OnGlobe(eye.Part, new Vector2(Face.Centre.X + aside, Face.Centre.Y - 0.06f * Face.Height), OnFace));
        }
        // A third leg, a hand without an arm: whatever has no place of its own goes with the body.
        foreach (var part in _sorting.Parts.Where(p => p.Kind != PartKind.Other && !parts.Exists(r => r.Id == p.Id)).ToArray())
            parts.Add(
                new RigPart
                {
                    Id = part.Id,
                    Parent = part.Kind is PartKind.Leg or PartKind.Shin or PartKind.Foot ? hips : Trunk,
                    Pivot = AutoRig.Point(part.Box.Centre),
                }
            );
        foreach (var part in _sorting.All(PartKind.Other))
            parts.Add(
                new RigPart
                {
                    Id = part.Id,
                    Parent = HasHead && !_head!.Box.Grown(0.1f).Has(part.Box.Centre) ? Trunk : HeadId,
                    Pivot = AutoRig.Point(part.Box.Centre),
                }
            );
        return parts;
    }

    private RigPart OnGlobe(string id, Vector2 at, float surface) =>
        new()
        {
            Id = id,
            Parent = HeadId,
            Pivot = AutoRig.Point(at),
            Surface = surface,
        };

    private RigPart OnHead(FoundPart part)
    {
        var plain = OnGlobe(part.Id, part.Box.Centre, 0);
        var isLeft = part.Side == PartSide.Left;
        switch (part.Kind)
        {
            case PartKind.Eye:
                // A pair in one group goes as one; eyes that are dots slide a little where they look.
                var hasLid = _sorting.All(PartKind.Lid).Any(l => l.Side == part.Side);
                var hasPupil = _sorting.All(PartKind.Pupil).Any(p => part.Box.Grown(0.2f).Has(p.Box.Centre));
                return plain with
                {
                    Motion =
                        hasLid ? RigMotion.None
                        : isLeft ? RigMotion.EyeLeft
                        : RigMotion.EyeRight,
                    Surface = OnFace,
                    Reach = hasPupil || hasLid ? null : [AutoRig.Round(0.03f * Face.Width), AutoRig.Round(0.02f * Face.Height)],
                };
            case PartKind.Lid:
                return plain with
                {
                    Motion = isLeft ? RigMotion.LidLeft : RigMotion.LidRight,
                    Pivot = AutoRig.Point(new Vector2(part.Box.Centre.X, part.Box.Top)),
                    Surface = OnFace,
                };
            case PartKind.Brow:
                return plain with
                {
                    Motion = isLeft ? RigMotion.BrowLeft : RigMotion.BrowRight,
                    Surface = OnFace,
                    Reach = [AutoRig.Round(0.02f * Face.Width), AutoRig.Round(0.055f * Face.Height)],
                };
            case PartKind.Mouth:
                return plain with { Surface = OnFace };
            case PartKind.Nose:
                return plain with { Surface = 1.08f };
            case PartKind.Cheek:
                return plain with { Surface = 0.8f };
            case PartKind.Glasses or PartKind.Beard:
                return plain with { Surface = 0.95f };
            case PartKind.Hair:
                var isBehind = part.IsBack || (HasHead && part.Pieces[0] < _head!.Pieces[0]);
                return isBehind
                    ? plain with
                    {
                        Shift = -0.18f,
                    }
                    : plain with
                    {
                        Shift = 0.1f,
                        Spring = new RigSpring
                        {
                            Frequency = 3.2f,
                            Damping = 0.35f,
                            Slide = 0.8f,
                        },
                    };
            case PartKind.Hat:
                return plain with
                {
                    Pivot = AutoRig.Point(new Vector2(part.Box.Centre.X, part.Box.Bottom)),
                    Shift = 0.06f,
                    Spring = new RigSpring
                    {
                        Frequency = 2.4f,
                        Damping = 0.28f,
                        Turn = 10,
                    },
                };
            case PartKind.Ear or PartKind.Horn:
                return Dangling(part, HeadId, Face.Centre) with { Shift = part.Kind == PartKind.Ear ? -0.12f : -0.04f };
            default:
                return plain;
        }
    }

    private RigPart Pupil(FoundPart pupil)
    {
        var eye = _sorting.All(PartKind.Eye).OrderBy(e => Vector2.Distance(e.Box.Centre, pupil.Box.Centre)).FirstOrDefault();
        // As far as it stays in its eye.
        var room =
            eye == null
                ? new Vector2(0.03f * Face.Width, 0.02f * Face.Height)
                : new Vector2(eye.Box.Width - pupil.Box.Width, eye.Box.Height - pupil.Box.Height) / 2;
        return new RigPart
        {
            Id = pupil.Id,
            Parent = eye?.Id ?? HeadId,
            Pivot = AutoRig.Point(pupil.Box.Centre),
            Motion = RigMotion.Pupil,
            Reach = [AutoRig.Round(0.75f * Math.Max(0, room.X)), AutoRig.Round(0.6f * Math.Max(0, room.Y))],
        };
    }

    private RigPart Dangling(FoundPart part, string parent, Vector2 middle)
    {
        var (root, tip) = Ends(part, middle);
        // More than 0 for what stands up, less for what hangs down.
        var up = Math.Clamp((root.Y - tip.Y) / Math.Max(1, part.Box.Height), -1, 1);
        return new RigPart
        {
            Id = part.Id,
            Parent = parent,
            Pivot = AutoRig.Point(root),
            Spring = new RigSpring
            {
                Frequency = 2.2f,
                Damping = 0.25f,
                Turn = AutoRig.Round(12 * (up == 0 ? 1 : up)),
            },
        };
    }

    // Wings do what arms do, where there are none.
    private RigPart Wing(FoundPart wing)
    {
        if (_sorting.The(PartKind.Arm) != null)
            return Dangling(wing, Trunk, Body.Centre);
        var (root, tip) = Ends(wing, Body.Centre);
        return new RigPart
        {
            Id = wing.Id,
            Parent = Trunk,
            Motion = wing.Side == PartSide.Left ? RigMotion.ArmLeft : RigMotion.ArmRight,
            Pivot = AutoRig.Point(root),
            Tip = AutoRig.Point(tip),
        };
    }

    // Upper bone, lower bone and end of an arm or a leg: the end goes along, a foot keeps level.
    private void Limb(List<RigPart> parts, string? parent, bool right, PartKind upper, PartKind lower, PartKind end, Vector2 hungAt)
    {
        var side = right ? PartSide.Right : PartSide.Left;
        var isLeg = upper == PartKind.Leg;
        FoundPart? a = _sorting.The(upper, side),
            b = _sorting.The(lower, side),
            c = _sorting.All(end).FirstOrDefault(p => p.Side == side && p.Fingers == HandShape.Relaxed);
        // A forearm alone is the arm.
        if (a == null)
            (a, b) = (b ?? c, null);
        if (a == c)
            c = null;
        if (a == null)
            return;
        var (root, elbow) = Ends(a, hungAt);
        var joint = elbow;
        var last = elbow;
        if (b != null)
        {
            (joint, last) = Ends(b, elbow);
        }
        var wrist = last;
        if (c != null)
        {
            (wrist, var far) = Ends(c, last);
            last = isLeg ? wrist : Vector2.Lerp(wrist, far, 0.5f);
        }
        parts.Add(
            new RigPart
            {
                Id = a.Id,
                Parent = parent,
                Motion = (isLeg, right) switch
                {
                    (true, false) => RigMotion.LegLeft,
                    (true, true) => RigMotion.LegRight,
                    (false, false) => RigMotion.ArmLeft,
                    _ => RigMotion.ArmRight,
                },
                Pivot = AutoRig.Point(root),
                Tip = b == null ? AutoRig.Point(last) : null,
            }
        );
        if (b != null)
            parts.Add(
                new RigPart
                {
                    Id = b.Id,
                    Parent = a.Id,
                    Motion = (isLeg, right) switch
                    {
                        (true, false) => RigMotion.KneeLeft,
                        (true, true) => RigMotion.KneeRight,
                        (false, false) => RigMotion.ElbowLeft,
                        _ => RigMotion.ElbowRight,
                    },
                    Pivot = AutoRig.Point(joint),
                    Tip = AutoRig.Point(last),
                }
            );
        if (c != null)
            parts.Add(
                new RigPart
                {
                    Id = c.Id,
                    Parent = (b ?? a).Id,
                    Motion = isLeg ? RigMotion.Level : RigMotion.None,
                    Pivot = AutoRig.Point(wrist),
                    Hand = isLeg ? null : new RigHand(HandShape.Relaxed, right),
                }
            );
        foreach (var hand in isLeg ? [] : _sorting.All(PartKind.Hand).Where(h => h.Side == side && h.Fingers != HandShape.Relaxed))
            parts.Add(
                new RigPart
                {
                    Id = hand.Id,
                    Parent = (b ?? a).Id,
                    Pivot = AutoRig.Point(wrist),
                    Hand = new RigHand(hand.Fingers, right),
                }
            );
    }

    // Both ends of a long part, the one at a place first: its points there, not its box, for limbs are seldom upright.
    private (Vector2 Near, Vector2 Far) Ends(FoundPart part, Vector2 place)
    {
        var box = part.Box;
        var points = part.Pieces.SelectMany(i => _pieces[i].Points).ToArray();
        var tall = box.Height >= box.Width;
        // Of its length: how far from the end a joint lies.
        const float inside = 0.08f;
        Vector2 End(bool first)
        {
            var from = tall ? (first ? box.Top : box.Bottom) : (first ? box.Left : box.Right);
            var reach = 0.2f * (tall ? box.Height : box.Width);
            var there = points.Where(p => Math.Abs((tall ? p.Y : p.X) - from) <= reach).Select(p => tall ? p.X : p.Y).ToArray();
            var across =
                there.Length > 0 ? (there.Min() + there.Max()) / 2
                : tall ? box.Centre.X
                : box.Centre.Y;
            var along = from + (first ? 1 : -1) * inside * (tall ? box.Height : box.Width);
            return tall ? new Vector2(Math.Clamp(across, box.Left, box.Right), along) : new Vector2(along, Math.Clamp(across, box.Top, box.Bottom));
        }
        var (one, other) = (End(true), End(false));
        return Vector2.DistanceSquared(one, place) <= Vector2.DistanceSquared(other, place) ? (one, other) : (other, one);
    }
}
