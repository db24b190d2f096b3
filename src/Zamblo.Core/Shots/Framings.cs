using Zamblo.Core.Stage;

namespace Zamblo.Core.Shots;

/// <summary>
/// From a framing to the part of the stage that it shows. Nothing is kept in pixels: another format, another cast, another place frames anew. Eyes lie on the
/// upper third, there is room above the head and in the direction in which somebody looks (common practice).
/// </summary>
public static class Framings
{
    // How many heads (with hair and hat) the picture is high.
    private const float CloseHeads = 1.4f,
        MediumHeads = 1.9f;

    // Above the head and beside it, as shares of the picture.
    private const float Headroom = 0.06f,
        Beside = 0.1f,
        EyeLine = 0.4f;

    // Towards whom somebody talks to, as a share of the picture's width.
    private const float LookingRoom = 0.09f;

    // How far shoulders and ears reach beyond a head, as a share of its width.
    private const float Shoulders = 0.3f;

    // A thing has half of the picture, and none is looked at from nearer than this, in stage units.
    private const float AroundThing = 1.9f,
        LeastThing = 130;

    // A view that is no nearer than this, measured by the wide one, is the wide one.
    private const float Nearer = 0.9f;

    /// <summary>The part of the stage that a shot shows.</summary>
    /// <param name="shot">Which.</param>
    /// <param name="heads">Of everybody, as they stand at that moment.</param>
    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    /// <param name="thing">Where the prop of an insert is; null where there is none.</param>
    public static StageView ViewOf(Shot shot, IReadOnlyList<HeadBox> heads, int width, int height, StageBox? thing = null)
    {
        var wide = StageView.For(heads, width, height);
        if (shot.Framing == Framing.Insert)
            return thing is { } box && Around(box, (float)width / height) is var near && near.Width < Nearer * wide.Width ? near : wide;
        if (shot.Framing == Framing.Wide || shot.Subject < 0 || shot.Subject >= heads.Count)
            return wide;
        var subject = heads[shot.Subject];
        var aspect = (float)width / height;
        if (shot.Framing == Framing.Shoulder && shot.Other >= 0 && shot.Other < heads.Count && shot.Other != shot.Subject)
        {
            // Where they are too far apart for it, or one is behind the other, the one that it is of alone.
            var past = Past(subject, heads[shot.Other], aspect);
            if (past is { } over && over.Width <= Nearer * wide.Width)
                return Within(over, aspect);
            shot = shot with { Framing = Framing.Medium };
        }
        var view =
            shot.Framing == Framing.Two && shot.Other >= 0 && shot.Other < heads.Count && shot.Other != shot.Subject
                ? Together(subject, heads[shot.Other], aspect)
                : Alone(shot.Framing, subject, heads, aspect);
        return view.Width > Nearer * wide.Width ? wide : Within(view, aspect);
    }

    private static StageView Around(StageBox box, float aspect)
    {
        var tall = AroundThing * Math.Max(LeastThing / AroundThing, Math.Max(box.Bottom - box.Top, (box.Right - box.Left) / aspect));
        return Within(new StageView((box.Left + box.Right) / 2, (box.Top + box.Bottom) / 2, tall * aspect), aspect);
    }

    private static StageView Together(HeadBox a, HeadBox b, float aspect)
    {
        float left = Math.Min(a.Left, b.Left),
            right = Math.Max(a.Right, b.Right),
            top = Math.Min(a.Top, b.Top),
            chin = Math.Max(a.Chin, b.Chin);
        var tall = Math.Max((right - left) * (1 + 2 * Beside) / aspect, (chin - top) * 1.35f / (1 - Headroom));
        return new StageView((left + right) / 2, Math.Min(top - Headroom * tall, (top + chin) / 2 - tall * 0.44f) + tall / 2, tall * aspect);
    }

    // The edge of the picture goes through the other one's head, and leaves the eyes out; whom it is of stands on the far third.
    private static StageView? Past(HeadBox subject, HeadBox other, float aspect)
    {
        float own = (subject.Left + subject.Right) / 2,
            middle = (other.Left + other.Right) / 2,
            head = subject.Chin - subject.Top;
        var side = Math.Sign(own - middle);
        var edge = middle + side * (1 - Seen) * (other.Right - other.Left) / 2;
        var far = (side > 0 ? subject.Right : subject.Left) + side * Beside * Math.Abs(own - edge);
        var across = Math.Max(Math.Abs(far - edge), head * CloseHeads * aspect);
        // With all the room before the face that the other one leaves.
        if (side == 0 || Math.Abs(own - edge) < Least * across)
            return null;
        var tall = across / aspect;
        var y = Math.Min(subject.Eyes - EyeLine * tall, subject.Top - Headroom * tall);
        return new StageView(edge + side * across / 2, y + tall / 2, across);
    }

    // Nearer to that edge, by the width of the picture, somebody is pressed against it.
    private const float Least = 0.26f;

    // Of half of a head, what is seen of it at the edge.
    private const float Seen = 0.62f;

    private static StageView Alone(Framing framing, HeadBox subject, IReadOnlyList<HeadBox> heads, float aspect)
    {
        var head = subject.Chin - subject.Top;
        var wide = subject.Right - subject.Left;
        // A face is never wider than the picture has room for.
        var tall = framing switch
        {
            Framing.Close => Math.Max(head * CloseHeads, wide * 1.3f / aspect),
            Framing.Full => Math.Max((Math.Min(StageScene.Height, subject.Floor) - subject.Top) * 1.2f, wide * 2.2f / aspect),
            _ => Math.Max(head * MediumHeads, wide * 1.7f / aspect),
        };
        var across = tall * aspect;
        var middle = (subject.Left + subject.Right) / 2;
        var x = middle;
        // Others: where they are there is something to look at.
        var others = heads.Where(h => h != subject).ToArray();
        if (others.Length > 0 && framing != Framing.Full)
            x += LookingRoom * across * Math.Sign(others.Average(h => (h.Left + h.Right) / 2) - middle);
        // Who is low and wide has its eyes lower than a third.
        var y = framing == Framing.Full ? subject.Top - tall * 0.1f : Math.Min(subject.Eyes - EyeLine * tall, subject.Top - Headroom * tall);
        return new StageView(Clear(x, y, across, tall, subject, others), y + tall / 2, across);
    }

    // As little as can be of others is cut by the edge, neither faces nor shoulders without one: of all steps aside that put somebody just in or just out,
    // the one that leaves the least cut and goes the least far.
    private static float Clear(float x, float top, float across, float tall, HeadBox subject, HeadBox[] others)
    {
        var half = across / 2;
        float least = subject.Right + Beside * half - half,
            most = subject.Left - Beside * half + half;
        if (least > most)
            return (subject.Left + subject.Right) / 2;
        var steps = new List<float> { x, least, most };
        foreach (var other in others)
        {
            var shoulder = Shoulders * (other.Right - other.Left);
            steps.AddRange([other.Right + shoulder + half, other.Left - shoulder - half, other.Left - 4 + half, other.Right + 4 - half]);
        }
        var wished = Math.Clamp(x, least, most);
        return steps
            .Select(s => Math.Clamp(s, least, most))
            .Distinct()
            .MinBy(s => others.Sum(o => Cut(o, s - half, top, across, tall)) + Far * Math.Abs(s - wished) / across);
    }

    // What a step aside costs by the width of the picture, against a face that is cut in two.
    private const float Far = 1.1f;

    // How much somebody at the edge disturbs: half a face the most, a body without a face nearly as much, nothing where all or none is seen.
    private static float Cut(HeadBox other, float left, float top, float across, float tall)
    {
        float Seen(float l, float t, float r, float b) =>
            Math.Max(0, Math.Min(r, left + across) - Math.Max(l, left))
            * Math.Max(0, Math.Min(b, top + tall) - Math.Max(t, top))
            / ((r - l) * Math.Max(1, b - t));
        var shoulder = Shoulders * (other.Right - other.Left);
        var face = Seen(other.Left, other.Top, other.Right, other.Chin);
        var body = Seen(other.Left - shoulder, other.Chin, other.Right + shoulder, other.Floor);
        return 2 * Math.Min(face, 1 - face) + (face < 0.3f ? body : 0);
    }

    // On the stage as far as it goes: what is small enough does not look beyond its edge.
    private static StageView Within(StageView view, float aspect)
    {
        var tall = view.Width / aspect;
        float Inside(float at, float size, float room) => size >= room ? room / 2 : Math.Clamp(at, size / 2, room - size / 2);
        return view with { X = Inside(view.X, view.Width, StageScene.Width), Y = Inside(view.Y, tall, StageScene.Height) };
    }
}
