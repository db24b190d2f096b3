using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Stage.Rigging;

/// <summary>
/// Gives a drawing whose groups have names a rig: what is what follows from the names, left and right, joints and sizes from where things lie. What is
/// missing has a stand-in: eyes and a mouth are drawn on the face, a figure without a head moves as one, eyes without lids are squeezed, one mouth is
/// stretched, several serve the shapes that are nearest.
/// </summary>
public static class AutoRig
{
    /// <summary>Height that a drawing is scaled to before it gets its rig, in units: what is drawn anew is written in tenths of them.</summary>
    public const float Height = 1000;

    /// <summary>Makes the rig.</summary>
    /// <param name="name">Of the character.</param>
    /// <param name="pieces">The drawing's shapes, back to front, in units of a drawing that is <see cref="Height"/> high.</param>
    /// <exception cref="ArtException">There is nothing in the drawing, or a mouth that cannot be used.</exception>
    public static RiggedArt Make(string name, IReadOnlyList<ArtPiece> pieces)
    {
        if (!pieces.Any(p => p.IsSeen))
            throw new ArtException("There is nothing in this drawing.");
        var warnings = new List<string>();
        var sorting = new PartSorting(pieces);
        var all = ArtBox.Of(pieces.Where((p, i) => p.IsSeen && sorting.PartOf[i] != null).Select(p => p.Box))!.Value;
        var plan = new RigPlan(pieces, sorting, all);
        var mouth = MouthOf(plan, pieces, sorting, warnings);
        var parts = plan.Parts();
        var groups = GroupsOf(plan, sorting, parts);
        if (parts.Count > MostParts)
            throw new ArtException($"The drawing has more than {MostParts} parts.");
        var face = plan.Face;
        var hasLegs = sorting.The(PartKind.Leg) != null;
        var portrait = plan.Portrait.Grown(0.12f);
        var stands = hasLegs ? (Tall: 640f, Y: 790f) : (Tall: 420f, Y: 700f);
        var rig = new Rig
        {
            Key = "own",
            Name = name,
            Anchor = Point(new Vector2(plan.Body.Centre.X, all.Bottom)),
            Portrait = [Round(portrait.Left), Round(portrait.Top), Round(portrait.Width), Round(portrait.Height)],
            Stage = new RigStage
            {
                Scale = MathF.Round(stands.Tall / all.Height, 3),
                Y = stands.Y,
                Gait = hasLegs ? Gait.Step : Gait.Hop,
                Stride = hasLegs ? 0.16f : 0.2f,
            },
            Ink = plan.Ink,
            Parts = [.. parts],
            Head = new RigHead
            {
                Centre = Point(face.Centre),
                Radius = [Round(Math.Max(1, face.Width / 2)), Round(Math.Max(1, face.Height / 2))],
                // A whole body turns less than a head does.
                TurnLimit = plan.HasHead ? 26 : 20,
                NodLimit = plan.HasHead ? 18 : 12,
                TiltLimit = plan.HasHead ? 16 : 10,
            },
            Eyes = [.. plan.DrawnEyes()],
            Mouth = mouth,
        };
        return new RiggedArt(rig, groups, warnings);
    }

    private const int MostParts = 200;

    internal static float Round(float x) => MathF.Round(x, 1);

    internal static float[] Point(Vector2 p) => [Round(p.X), Round(p.Y)];

    // Parts in paint order; what comes again after something else is a part that hangs on the first.
    private static List<(string Id, IReadOnlyList<int> Pieces)> GroupsOf(RigPlan plan, PartSorting sorting, List<RigPart> parts)
    {
        var groups = new List<(string Id, IReadOnlyList<int> Pieces)>();
        groups.AddRange(plan.Empty.Select(id => (id, (IReadOnlyList<int>)[])));
        var times = new Dictionary<string, int>();
        FoundPart? last = null;
        List<int>? run = null;
        for (var i = 0; i < sorting.PartOf.Length; i++)
        {
            if (sorting.PartOf[i] is not { } part)
                continue;
            if (part != last)
            {
                var time = times[part.Id] = times.GetValueOrDefault(part.Id) + 1;
                var isMouth = part.Kind == PartKind.Mouth;
                if (!isMouth || time == 1)
                {
                    var id = time == 1 ? part.Id : $"{part.Id}.{time}";
                    run = [];
                    groups.Add((id, run));
                    if (time > 1)
                        parts.Insert(parts.FindIndex(p => p.Id == part.Id) + 1, new RigPart { Id = id, Parent = part.Id });
                }
                last = part;
            }
            if (part.Kind != PartKind.Mouth)
                run!.Add(i);
        }
        // What is drawn anew on the face lies on what is drawn of the head itself.
        var at = groups.FindLastIndex(g => g.Id.Split('.')[0] is var id && (id == plan.HeadId || id.StartsWith("cheek"))) + 1;
        foreach (var id in plan.Anew().Where(id => !groups.Exists(g => g.Id == id)))
            groups.Insert(at++, (id, []));
        return groups;
    }

    private static RigMouth MouthOf(RigPlan plan, IReadOnlyList<ArtPiece> pieces, PartSorting sorting, List<string> warnings)
    {
        var place = plan.MouthPlace;
        var width = Round(0.72f * plan.Face.Width / 2);
        var anew = new RigMouth
        {
            Style = MouthStyle.Muzzle,
            Width = width,
            Height = Round(0.8f * width),
            Line = Round(Math.Clamp(0.045f * width, 2, 8)),
        };
        if (sorting.The(PartKind.Mouth) is not { } mouth)
            return anew;
        // What bears no name of a sound, among mouths that do, is the mouth at rest.
        var named = mouth.Pieces.Select(i => sorting.ShapeOf[i]).OfType<MouthShape>().Distinct().Count();
        var shapes = mouth.Pieces.GroupBy(i => sorting.ShapeOf[i] ?? MouthShape.Rest).ToArray();
        DrawnPath[] Paths(IEnumerable<int> of) =>
            [.. of.Select(i => pieces[i]).Select(p => new DrawnPath(PathPoints.Map(p.Path, q => q - place), p.Fill, p.Stroke, Round(p.Width)))];
        if (named > 0 && shapes.Length >= 2)
        {
            var drawn = shapes.ToDictionary(s => s.Key, s => Paths(s));
            if (!drawn.ContainsKey(MouthShape.Rest) && !drawn.ContainsKey(MouthShape.Closed))
            {
                var least = shapes.MinBy(s => ArtBox.Of(s.Select(i => pieces[i].Box))!.Value.Height)!;
                drawn[MouthShape.Rest] = Paths(least);
                warnings.Add($"No mouth is called rest or closed: \"{MouthNames.Of(least.Key)}\", the lowest, serves for it.");
            }
            return anew with
            {
                Style = MouthStyle.Drawn,
                Width = Round(mouth.Box.Width),
                Height = Round(mouth.Box.Height),
                Otherwise = MouthStyle.Muzzle,
                Drawn = drawn.ToDictionary(d => MouthNames.Of(d.Key), d => d.Value),
                Serves = MouthNames.Serving(drawn.Keys).ToDictionary(s => MouthNames.Of(s.Key), s => MouthNames.Of(s.Value)),
            };
        }
        // A line opens no further by being stretched: in its place a mouth is drawn anew.
        if (mouth.Box.Height < Flat * mouth.Box.Width)
        {
            var line = pieces[mouth.Pieces[0]];
            return anew with
            {
                Width = Round(mouth.Box.Width),
                Height = Round(0.8f * mouth.Box.Width),
                Line = line.Stroke != null ? Math.Max(1, Round(line.Width)) : anew.Line,
            };
        }
        return anew with
        {
            Style = MouthStyle.Stretched,
            Width = Round(mouth.Box.Width),
            Height = Round(mouth.Box.Height),
            Otherwise = MouthStyle.Muzzle,
            Drawn = new Dictionary<string, DrawnPath[]> { ["open"] = Paths(mouth.Pieces) },
        };
    }

    // Height by width under which a mouth is a line.
    private const float Flat = 0.24f;
}
