using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Props;

/// <summary>
/// The props of a scene among its shapes. One that is held has its shapes a second time behind those of whoever holds it, and the hand once more over
/// them: what is in a hand is drawn with it, wherever the prop stands by itself.
/// </summary>
internal sealed class StageProps(IReadOnlyList<StageProp> props)
{
    /// <summary>A stretch of a prop's shapes: its own (-1), or those in somebody's hand.</summary>
    /// <param name="Prop">Index of the prop.</param>
    /// <param name="Hold">Index among its holds; -1 for its own.</param>
    /// <param name="First">First of its shapes.</param>
    /// <param name="Hand">The hand's shapes among those of the figure; drawn once more behind the prop's.</param>
    private sealed record Slot(int Prop, int Hold, int First, IReadOnlyList<int> Hand)
    {
        // First shape of the figure.
        public int Figure { get; init; }
    }

    private readonly List<Slot> _slots = [];
    private readonly Dictionary<int, int> _shadows = [];

    // A prop that is put down and taken again within so long goes from hand to hand, in seconds; over half of that on both sides.
    private const double HandedOver = 0.5;
    private const double Handing = 0.2;

    /// <summary>All of them.</summary>
    public IReadOnlyList<StageProp> All => props;

    /// <summary>Which shapes are a prop's: its own, then those in hands.</summary>
    public IEnumerable<(int First, int Count)> ShapesOf(int prop) =>
        _slots.Where(s => s.Prop == prop).OrderBy(s => s.Hold).Select(s => (s.First, props[prop].Art.Shapes.Count));

    /// <summary>Adds a prop where it stands.</summary>
    public void AddOwn(int prop, List<DrawShape> shapes, Func<StageProp, DrawShape, DrawShape> lit)
    {
        var p = props[prop];
        if (p.HasShadow)
        {
            _shadows[prop] = shapes.Count;
            shapes.Add(new DrawShape(new PathText().Ellipse(0, 0, 1, 0.14f).ToString(), "#10141f"));
        }
        _slots.Add(new Slot(prop, -1, shapes.Count, []));
        shapes.AddRange(p.Art.Shapes.Select(s => lit(p, s)));
    }

    /// <summary>Adds what a member holds at any time, behind its own shapes.</summary>
    /// <param name="member">Index of the member.</param>
    /// <param name="figure">Its figure.</param>
    /// <param name="first">First of its shapes.</param>
    /// <param name="shapes">Grows.</param>
    /// <param name="lit">A shape of a prop in the scene's light.</param>
    public void AddHeld(int member, Figure figure, int first, List<DrawShape> shapes, Func<StageProp, DrawShape, DrawShape> lit)
    {
        for (var p = 0; p < props.Count; p++)
        for (var h = 0; h < props[p].Holds.Count; h++)
        {
            var hold = props[p].Holds[h];
            if (hold.Member != member || !figure.HasArm(hold.Right))
                continue;
            _slots.Add(new Slot(p, h, shapes.Count, figure.HandShapes(hold.Right)) { Figure = first });
            shapes.AddRange(props[p].Art.Shapes.Select(s => lit(props[p], s)));
            shapes.AddRange(figure.HandShapes(hold.Right).Select(i => shapes[first + i]));
        }
    }

    /// <summary>What a member's hands have to do with props.</summary>
    /// <param name="member">Index of the member.</param>
    /// <param name="figure">Its figure.</param>
    /// <param name="toDrawing">From a place on the stage to its drawing, at a moment.</param>
    public IReadOnlyList<CarrySpan> CarriesOf(int member, Figure figure, Func<double, Vector2, Vector2> toDrawing)
    {
        var carries = new List<CarrySpan>();
        foreach (var prop in props)
        foreach (var hold in prop.Holds.Where(h => h.Member == member && figure.HasArm(h.Right)))
        {
            // Where it stands when it is taken or put down; out of reach it comes by itself.
            Vector2? At(double t)
            {
                var arm = figure.ToArm(hold.Right, toDrawing(t, Vector2.Transform(prop.Art.GripPoint, prop.StandsAt(t))));
                return arm.Length() <= Reach ? arm : null;
            }
            var side = hold.Right ? 1 : -1;
            // What is taken at its top hangs from the hand; all else is held before the body, where it is seen.
            var hangs = prop.Art.Stands == PropGround.Floor && prop.Art.GripPoint.Y < -0.8f * prop.Art.Height;
            var rest =
                hangs ? new Vector2(0.02f * side, 0.97f)
                // What is tall would hide the face.
                : prop.Place.Size * (prop.Art.Height + prop.Art.GripPoint.Y) > Tall ? new Vector2(0.5f * side, 0.5f)
                : new Vector2(0.1f * side, 0.54f);
            carries.Add(new CarrySpan(hold.Start, hold.End, hold.Right, rest, At(hold.Start), At(hold.End)));
        }
        return carries;
    }

    // What reaches so high above the hand is held away from the body, in stage units.
    private const float Tall = 130;

    // Farthest that a hand is sent for a prop, in lengths of the arm.
    private const float Reach = 1.05f;

    /// <summary>Draws the props of one frame, when everybody else has been drawn.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="items">Of the frame.</param>
    /// <param name="shadow">How dark shadows are, 0 to 1.</param>
    /// <param name="hands">A hand, in stage units: of a member, at the picture's right or left.</param>
    public void Draw(double t, DrawItem[] items, float shadow, Func<int, bool, Vector2?> hands)
    {
        for (var p = 0; p < props.Count; p++)
        {
            var prop = props[p];
            var (place, holder, sum) = At(prop, t, hands);
            if (_shadows.TryGetValue(p, out var at))
                items[at] = ShadowOf(prop, shadow * (1 - Math.Min(1, sum)));
            foreach (var slot in _slots)
            {
                if (slot.Prop != p)
                    continue;
                var isSeen = slot.Hold == holder;
                for (var i = 0; i < prop.Art.Shapes.Count; i++)
                    items[slot.First + i] = new DrawItem(place, isSeen ? 1 : 0);
                for (var i = 0; i < slot.Hand.Count; i++)
                {
                    var own = items[slot.Figure + slot.Hand[i]];
                    items[slot.First + prop.Art.Shapes.Count + i] = isSeen ? own : own with { Opacity = 0 };
                }
            }
        }
    }

    // Where it is, index of the hold that has it (-1 for none), and how much of it is in hands.
    private static (Matrix3x2 Place, int Holder, float Held) At(StageProp prop, double t, Func<int, bool, Vector2?> hands)
    {
        var place = prop.StandsAt(t);
        var holder = -1;
        float most = 0,
            sum = 0;
        var there = Vector2.Zero;
        for (var h = 0; h < prop.Holds.Count; h++)
        {
            var share = ShareOf(prop.Holds, h, t);
            if (share <= 0 || hands(prop.Holds[h].Member, prop.Holds[h].Right) is not { } hand)
                continue;
            (sum, there) = (sum + share, there + share * hand);
            if (share > most)
                (most, holder) = (share, h);
        }
        return (holder < 0 ? place : Matrix3x2.Lerp(place, prop.HeldAt(there / sum), Math.Min(1, sum)), holder, sum);
    }

    /// <summary>Where a prop is at a moment.</summary>
    /// <param name="prop">Its index.</param>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="hands">A hand, in stage units: of a member, at the picture's right or left.</param>
    public StageBox BoxAt(int prop, double t, Func<int, bool, Vector2?> hands)
    {
        var art = props[prop].Art;
        var place = At(props[prop], t, hands).Place;
        StageBox Corner(float x, float y) => Vector2.Transform(new Vector2(x, y), place) is var at ? new StageBox(at.X, at.Y, at.X, at.Y) : default;
        var half = art.Width / 2;
        return Corner(-half, 0).With(Corner(half, 0)).With(Corner(-half, -art.Height)).With(Corner(half, -art.Height));
    }

    // Handed from one to another it does not go back to its place in between.
    private static float ShareOf(IReadOnlyList<PropHold> holds, int index, double t)
    {
        var own = holds[index];
        if (t < own.Start - HandedOver || t > own.End + HandedOver)
            return 0;
        float from = -1,
            to = -1;
        for (var i = 0; i < holds.Count; i++)
        {
            if (i == index)
                continue;
            if (Math.Abs(holds[i].End - own.Start) < HandedOver && holds[i].Start < own.Start)
                from = Handed((holds[i].End + own.Start) / 2, t);
            if (Math.Abs(holds[i].Start - own.End) < HandedOver && holds[i].Start > own.Start)
                to = 1 - Handed((holds[i].Start + own.End) / 2, t);
        }
        if (from < 0 && to < 0)
            return StageProp.HeldShare(own, t);
        var whole = own with { Start = from < 0 ? own.Start : double.NegativeInfinity, End = to < 0 ? own.End : double.PositiveInfinity };
        return (from < 0 ? 1 : from) * (to < 0 ? 1 : to) * StageProp.HeldShare(whole, t);
    }

    private static float Handed(double middle, double t) => (float)Ease.Smooth((t - middle + Handing) / (2 * Handing));

    private static DrawItem ShadowOf(StageProp prop, float dark)
    {
        var p = prop.Place;
        var wide = 0.5f * prop.Art.Width * p.Size;
        return new DrawItem(Matrix3x2.CreateScale(wide) * Matrix3x2.CreateTranslation(p.X, p.Y - 0.02f * wide), p.Turn == 0 ? dark : 0);
    }
}
