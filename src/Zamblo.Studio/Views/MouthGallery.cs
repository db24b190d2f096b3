using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Text;
using Zamblo.Core.Mouth;
using Zamblo.Core.Stage;

namespace Zamblo.Studio.Views;

/// <summary>Small pictures of mouths for the lip strip: each shape of each character once per step of strength.</summary>
public sealed class MouthGallery
{
    /// <summary>Per key the paths, back to front, about the mouth's middle; a path with a clip is clipped by the path of that index.</summary>
    public Dictionary<string, RawJson> Pictures { get; } = [];

    // The same for every scene, so made once.
    private static readonly ConditionalWeakTable<Figure, ConcurrentDictionary<string, RawJson>> Made = [];

    /// <summary>Key of the picture of a cue.</summary>
    public static string KeyOf(string character, Cue cue) => FormattableString.Invariant($"{character}-{cue.Shape}-{Step(cue.Strength)}");

    private static float Step(float strength) => Math.Clamp(MathF.Round(strength * 4) / 4, 0.25f, 1.5f);

    /// <summary>Puts the picture of a cue among those that are told.</summary>
    public void Add(Figure figure, string key)
    {
        if (Pictures.ContainsKey(key))
            return;
        Pictures[key] = Made.GetValue(figure, _ => new())
            .GetOrAdd(
                key,
                k =>
                {
                    var parts = k.Split('-');
                    var (shapes, paths, width, height) = figure.MouthPicture(
                        MouthShapes.TargetOf(Enum.Parse<MouthShape>(parts[^2]), float.Parse(parts[^1], System.Globalization.CultureInfo.InvariantCulture))
                    );
                    return RawJson.Of(
                        new
                        {
                            width,
                            height,
                            paths = shapes
                                .Select(
                                    (s, i) =>
                                        new
                                        {
                                            d = paths[i],
                                            s.Fill,
                                            s.Stroke,
                                            s.Width,
                                            s.Clip,
                                            s.Picture,
                                        }
                                )
                                .ToArray(),
                        }
                    );
                }
            );
    }

    /// <summary>One mouth of a character as an SVG picture of its own.</summary>
    public static string Svg(Figure figure, MouthShape shape, float strength)
    {
        var (shapes, paths, width, height) = figure.MouthPicture(MouthShapes.TargetOf(shape, strength));
        // Drawn mouths lie about their middle; others open downwards from where the lips meet.
        var above = figure.Rig.Mouth.Style is MouthStyle.Drawn or MouthStyle.Stretched ? 0.56f : 0.42f;
        var svg = new StringBuilder(
            FormattableString.Invariant(
                $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"{-width * 0.56f} {-height * above} {width * 1.12f} {height * 1.12f}\">"
            )
        );
        for (var i = 0; i < shapes.Count; i++)
        {
            if (paths[i] == null)
                continue;
            var s = shapes[i];
            if (s.Clip >= 0)
            {
                if (paths[s.Clip] == null)
                    continue;
                svg.Append(FormattableString.Invariant($"<clipPath id=\"c{i}\"><path d=\"{paths[s.Clip]}\"/></clipPath>"));
            }
            svg.Append(FormattableString.Invariant($"<path d=\"{paths[i]}\" fill=\"{s.Fill ?? "none"}\""));
            if (s.Stroke != null)
                svg.Append(
                    FormattableString.Invariant($" stroke=\"{s.Stroke}\" stroke-width=\"{s.Width}\" stroke-linecap=\"round\" stroke-linejoin=\"round\"")
                );
            if (s.Clip >= 0)
                svg.Append(FormattableString.Invariant($" clip-path=\"url(#c{i})\""));
            svg.Append("/>");
        }
        return svg.Append("</svg>").ToString();
    }
}
