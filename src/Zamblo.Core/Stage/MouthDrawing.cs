using Zamblo.Core.Mouth;

namespace Zamblo.Core.Stage;

/// <summary>
/// Draws a mouth from its channels, in units of the character's drawing about the mouth's middle. The list of shapes is fixed for a
/// rig; each frame gives every shape its path, or none to hide it.
/// </summary>
internal sealed class MouthDrawing
{
    private readonly RigMouth _rig;
    private readonly string _ink;
    private readonly List<DrawShape> _shapes = [];
    private readonly List<(string Mouth, string Path)> _drawn = [];

    public MouthDrawing(RigMouth rig, string ink, int firstIndex)
    {
        _rig = rig;
        _ink = ink;
        switch (rig.Style)
        {
            case MouthStyle.Lips:
            case MouthStyle.Muzzle:
                _shapes.Add(new DrawShape(null, rig.Inside));
                _shapes.Add(new DrawShape(null, rig.Teeth ?? rig.Inside, Clip: firstIndex));
                _shapes.Add(new DrawShape(null, rig.Teeth ?? rig.Inside, Shade(rig.Inside), 1.5f, Clip: firstIndex));
                _shapes.Add(new DrawShape(null, rig.Tongue, Shade(rig.Tongue), rig.Line * 0.4f, Clip: firstIndex));
                _shapes.Add(new DrawShape(null, rig.LipColor));
                _shapes.Add(new DrawShape(null, rig.LipColor));
                _shapes.Add(new DrawShape(null, null, ink, rig.Line, rig.Line * 0.35f));
                _shapes.Add(new DrawShape(null, null, ink, rig.Line * 0.55f));
                break;
            case MouthStyle.Slot:
                _shapes.Add(new DrawShape(null, rig.Inside, ink, rig.Line, rig.Line * 0.35f));
                _shapes.Add(new DrawShape(null, rig.Tongue, Clip: firstIndex));
                _shapes.Add(new DrawShape(null, rig.Teeth ?? rig.LipColor, ink, rig.Line * 0.6f, Clip: firstIndex));
                _shapes.Add(new DrawShape(null, rig.Teeth ?? rig.LipColor, ink, rig.Line * 0.6f, Clip: firstIndex));
                break;
            case MouthStyle.Beak:
                _shapes.Add(new DrawShape(null, rig.Inside));
                _shapes.Add(new DrawShape(null, rig.Tongue, Clip: firstIndex));
                _shapes.Add(new DrawShape(null, rig.LipColor, ink, rig.Line, rig.Line * 0.3f));
                _shapes.Add(new DrawShape(null, rig.LipColor, ink, rig.Line, rig.Line * 0.3f));
                break;
            case MouthStyle.Drawn:
            case MouthStyle.Stretched:
                foreach (var mouth in MouthShapes.All.Select(rig.DrawnFor).OfType<string>().Distinct())
                foreach (var path in rig.Drawn[mouth])
                {
                    // A picture always fills the same box.
                    _shapes.Add(new DrawShape(path.Picture == null ? null : path.D, path.Fill, path.Stroke, path.Width) { Picture = path.Picture });
                    _drawn.Add((mouth, path.D));
                }
                break;
        }
    }

    public IReadOnlyList<DrawShape> Shapes => _shapes;

    /// <summary>Paths of one frame, one per shape; null hides it.</summary>
    public void Draw(in MouthChannels m, Span<string?> paths)
    {
        switch (_rig.Style)
        {
            case MouthStyle.Slot:
                Slot(m, paths);
                break;
            case MouthStyle.Beak:
                Beak(m, paths);
                break;
            case MouthStyle.Drawn:
                var nearest = _rig.DrawnFor(MouthShapes.Nearest(m));
                for (var i = 0; i < _drawn.Count; i++)
                    paths[i] = _drawn[i].Mouth == nearest ? _drawn[i].Path : null;
                break;
            case MouthStyle.Stretched:
                var stretch = new MouthStretch(m, _rig.Width, _rig.Height);
                for (var i = 0; i < _drawn.Count; i++)
                    paths[i] = stretch.Of(_drawn[i].Path);
                break;
            default:
                Soft(m, paths, _rig.Style == MouthStyle.Lips);
                break;
        }
    }

    private void Soft(in MouthChannels m, Span<string?> paths, bool lips)
    {
        float jaw = m[MouthChannel.Jaw],
            part = m[MouthChannel.Part],
            spread = m[MouthChannel.Spread],
            push = m[MouthChannel.Protrusion];
        float press = m[MouthChannel.Press],
            tuck = m[MouthChannel.Tuck],
            gate = Math.Min(1, part * 4);
        float h = _rig.Height;
        // Spread lips are wider, puckered ones much narrower; a wide-open jaw draws the corners in a little.
        var w = _rig.Width / 2 * (spread >= 0 ? 1 + 0.2f * spread : 1 + 0.56f * spread) * (1 - 0.1f * jaw) * (1 - 0.06f * push);
        var opening = h * part * (0.36f + 0.64f * jaw);
        var top = -0.34f * opening - 0.07f * h * m[MouthChannel.UpperRaise] * gate - 0.05f * h * push * gate;
        var bottom = 0.66f * opening + 0.09f * h * m[MouthChannel.LowerDrop] * gate + 0.05f * h * push * gate;
        // The lower lip tucked under the teeth leaves a narrow band of teeth.
        top -= 0.1f * h * tuck;
        bottom = bottom * (1 - tuck) + 0.03f * h * tuck;
        // Corners that go down take the smile away that the mouth has at rest; the middle goes a little against them.
        float left = m[MouthChannel.CornerLeft],
            right = m[MouthChannel.CornerRight],
            both = (left + right) / 2;
        float smile = _rig.Smile * (1 - 0.65f * Math.Max(0, -spread)) * (1 + Math.Clamp(both * 1.2f, -1, 0));
        float cl = -h * (0.2f * smile + 0.24f * left),
            cr = -h * (0.2f * smile + 0.24f * right);
        // The rounder the lips, the fuller the curves.
        var full = 0.52f + 0.4f * Math.Clamp(-spread, 0, 1) + 0.12f * jaw;
        var sag = h * (0.07f * smile + 0.1f * both);
        float ty = (top + sag * (1 - gate)) * 1.333f,
            by = (bottom + sag * (1 - gate)) * 1.333f;
        var closed = part < 0.03f && tuck < 0.5f;
        string Opening() => new PathText().Move(-w, cl).Curve(-w * full, ty, w * full, ty, w, cr).Curve(w * full, by, -w * full, by, -w, cl).Close().ToString();
        var open = closed ? null : Opening();
        paths[0] = open;
        paths[1] = paths[2] = paths[3] = null;
        if (open != null)
        {
            // Upper teeth stay with the skull, lower teeth and tongue go with the jaw. Lips that are pushed forward cover the upper ones ("oo"),
            // unless they are raised off them ("sh").
            var covered = Math.Clamp(2 * push - 1, 0, 1) * Math.Clamp(1 - 3 * m[MouthChannel.UpperRaise], 0, 1);
            float upperEdge = (0.05f - 0.2f * covered) * h,
                lowerEdge = 0.1f * h + jaw * 0.6f * h;
            if (_rig.Teeth != null)
            {
                paths[1] = new PathText()
                    .Move(-w, -h)
                    .Line(w, -h)
                    .Line(w, upperEdge - 0.05f * h)
                    .Quad(0, upperEdge + 0.05f * h, -w, upperEdge - 0.05f * h)
                    .Close()
                    .ToString();
                paths[2] = new PathText()
                    .Move(-w * 0.9f, h * 1.6f)
                    .Line(w * 0.9f, h * 1.6f)
                    .Line(w * 0.9f, lowerEdge)
                    .Quad(0, lowerEdge + 0.06f * h, -w * 0.9f, lowerEdge)
                    .Close()
                    .ToString();
            }
            float tip = m[MouthChannel.TongueTip],
                back = m[MouthChannel.TongueBack];
            var tongueTop = bottom - 0.3f * h * Math.Min(1, opening / (0.4f * h)) - tip * 0.36f * h - back * 0.08f * h;
            if (tip > 0.85f)
                tongueTop = Math.Min(tongueTop, 0.02f * h);
            var tw = w * (tip > 0.5f ? 0.62f : 0.78f);
            if (jaw > 0.08f || tip > 0.85f)
                paths[3] = new PathText()
                    .Move(-tw, h * 1.6f)
                    .Curve(-tw, tongueTop - 0.02f * h, -tw * 0.35f, tongueTop, 0, tongueTop + 0.05f * h)
                    .Curve(tw * 0.35f, tongueTop, tw, tongueTop - 0.02f * h, tw, h * 1.6f)
                    .Close()
                    .ToString();
        }
        var lip = _rig.Lip * (1 - 0.45f * press) * (1 + 0.3f * push);
        if (lips)
        {
            // Upper lip with its bow; lower lip fuller. Both thin out towards the corners.
            float utop = ty - lip * 1.5f,
                bow = ty - lip * 0.9f;
            paths[4] = new PathText()
                .Move(-w - 1, cl)
                .Curve(-w * 0.62f, utop, -w * 0.3f, utop, 0, (bow * 3 + cl) / 4 + 0.5f)
                .Curve(w * 0.3f, utop, w * 0.62f, utop, w + 1, cr)
                .Curve(w * full, ty, -w * full, ty, -w - 1, cl)
                .Close()
                .ToString();
            var drop = by + lip * 1.9f;
            paths[5] = new PathText()
                .Move(-w - 1, cl)
                .Curve(-w * full, by, w * full, by, w + 1, cr)
                .Curve(w * full, drop, -w * full, drop, -w - 1, cl)
                .Close()
                .ToString();
        }
        else
            paths[4] = paths[5] = null;
        paths[6] = open ?? new PathText().Move(-w, cl).Curve(-w * full, ty, w * full, ty, w, cr).ToString();
        var chin = (lips ? by * 0.75f + lip * 2f : bottom + h * 0.16f) + 0.07f * h;
        paths[7] = press > 0.4f || spread < -0.5f || lips ? new PathText().Move(-w * 0.28f, chin).Quad(0, chin + h * 0.05f, w * 0.28f, chin).ToString() : null;
    }

    private void Slot(in MouthChannels m, Span<string?> paths)
    {
        float jaw = m[MouthChannel.Jaw],
            part = m[MouthChannel.Part],
            spread = m[MouthChannel.Spread],
            tuck = m[MouthChannel.Tuck],
            press = m[MouthChannel.Press];
        float h = _rig.Height,
            least = _rig.Line * 0.7f;
        var w = _rig.Width / 2 * (spread >= 0 ? 1 + 0.16f * spread : 1 + 0.5f * spread);
        var opening = Math.Max(least * (1 - 0.4f * press), h * part * (0.38f + 0.62f * jaw) + 0.16f * h * tuck);
        var y = -opening * 0.4f;
        paths[0] = Bent(
            w,
            y,
            opening,
            Math.Min(opening / 2, 0.16f * h + 0.3f * h * Math.Max(0, -spread)),
            0.2f * h * m[MouthChannel.CornerLeft],
            0.2f * h * m[MouthChannel.CornerRight]
        );
        if (opening < least * 1.8f)
        {
            paths[1] = paths[2] = paths[3] = null;
            return;
        }
        var tongue = y + opening * (0.72f - 0.45f * m[MouthChannel.TongueTip] - 0.12f * m[MouthChannel.TongueBack]);
        paths[1] = new PathText().RoundRect(-w * 0.6f, tongue, w * 1.2f, h, h * 0.14f).ToString();
        // Two shutters behind the edge: the upper one hangs, the lower one rises for F and V and meets it for S.
        float upper = Math.Min(0.15f * h, opening * 0.42f),
            lower = Math.Min(opening * 0.45f, 0.1f * h + 0.12f * h * tuck);
        var teeth = jaw < 0.13f && press < 0.3f ? Math.Max(lower, opening - upper) : lower;
        paths[2] = new PathText().RoundRect(-w - 4, y - h, 2 * w + 8, h + upper, 3).ToString();
        paths[3] = jaw < 0.13f || tuck > 0.5f ? new PathText().RoundRect(-w - 4, y + opening - teeth, 2 * w + 8, h, 3).ToString() : null;
    }

    // A rounded box whose ends are raised: along a parabola, and slanted where they differ.
    private static string Bent(float w, float y, float height, float r, float left, float right)
    {
        float bend = (left + right) / 2,
            slant = (right - left) / 2;
        float Off(float x) => -bend * (x * x / (w * w) - 0.35f) - slant * x / w;
        float inner = w - r,
            middle = 2 * Off(0) - (Off(inner) + Off(-inner)) / 2;
        return new PathText()
            .Move(-inner, y + Off(-inner))
            .Quad(0, y + middle, inner, y + Off(inner))
            .Quad(w, y + Off(w), w, y + r + Off(w))
            .Line(w, y + height - r + Off(w))
            .Quad(w, y + height + Off(w), inner, y + height + Off(inner))
            .Quad(0, y + height + middle, -inner, y + height + Off(-inner))
            .Quad(-w, y + height + Off(-w), -w, y + height - r + Off(-w))
            .Line(-w, y + r + Off(-w))
            .Quad(-w, y + Off(-w), -inner, y + Off(-inner))
            .Close()
            .ToString();
    }

    private void Beak(in MouthChannels m, Span<string?> paths)
    {
        float jaw = m[MouthChannel.Jaw],
            part = m[MouthChannel.Part],
            spread = m[MouthChannel.Spread],
            h = _rig.Height;
        var w = _rig.Width / 2 * (1 + 0.15f * spread);
        var opening = h * part * (0.2f + 0.8f * jaw) + 0.12f * h * m[MouthChannel.Tuck];
        float top = -0.2f * opening,
            bottom = 0.8f * opening,
            beak = h * 0.34f;
        paths[0] = opening < 2 ? null : new PathText().Move(-w, 0).Quad(0, top * 2, w, 0).Quad(0, bottom * 2.2f, -w, 0).Close().ToString();
        paths[1] = opening < 6 ? null : new PathText().Ellipse(0, bottom * (1 - 0.45f * m[MouthChannel.TongueTip]), w * 0.45f, opening * 0.35f).ToString();
        paths[2] = new PathText()
            .Move(-w, 0)
            .Curve(-w * 0.7f, -beak * 1.3f, w * 0.7f, -beak * 1.3f, w, 0)
            .Quad(w * 0.3f, top * 2 + 2, 0, top * 2 + beak * 0.5f)
            .Quad(-w * 0.3f, top * 2 + 2, -w, 0)
            .Close()
            .ToString();
        paths[3] = new PathText()
            .Move(-w * 0.8f, 2)
            .Quad(0, bottom * 2 + beak * 0.2f, w * 0.8f, 2)
            .Curve(w * 0.5f, bottom + beak, -w * 0.5f, bottom + beak, -w * 0.8f, 2)
            .Close()
            .ToString();
    }

    private static string Shade(string color)
    {
        var rgb = Convert.ToInt32(color[1..], 16);
        static int Darker(int v) => v * 7 / 10;
        return $"#{Darker(rgb >> 16 & 255):X2}{Darker(rgb >> 8 & 255):X2}{Darker(rgb & 255):X2}";
    }
}
