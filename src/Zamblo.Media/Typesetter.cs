using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using System.Text;
using HarfBuzzSharp;
using SkiaSharp;
using Zamblo.Core.Lettering;

namespace Zamblo.Media;

/// <summary>
/// Words as outlines: shaped by HarfBuzz, drawn from Figtree (which ships) and, for scripts that it lacks, from the fonts of the machine (Noto, Droid). Letters
/// that no font has are left out. One instance serves all; safe from several threads.
/// </summary>
public sealed class Typesetter : ITypesetter
{
    private static readonly string[] Ours = ["figtree-latin-700-normal.woff", "figtree-latin-ext-700-normal.woff"];

    // Where Debian puts them; the first that has a letter is taken, so plain ones come first.
    private static readonly string[] Folders = ["/usr/share/fonts/truetype/noto", "/usr/share/fonts/opentype/noto", "/usr/share/fonts/truetype/dejavu"];

    // Chinese, Japanese and Korean in one small file, of one weight: made bold as it is drawn.
    private const string Ideographs = "/usr/share/fonts/truetype/droid/DroidSansFallbackFull.ttf";

    private const int Kept = 4096;

    // Positions of letters come in so many steps of an em.
    private const int Steps = 4096;

    private sealed record Face(SKTypeface Typeface, SKFont Font, HarfBuzzSharp.Font Shaper);

    private readonly Lock _lock = new();
    private readonly List<Face> _faces = [];
    private readonly Queue<string> _files = new(
        Folders
            .Where(Directory.Exists)
            .SelectMany(f => Directory.EnumerateFiles(f, "*-Bold.*"))
            .Where(f => !f.Contains("Mono", StringComparison.Ordinal) && !f.Contains("Condensed", StringComparison.Ordinal))
            .OrderBy(f => !f.Contains("NotoSans", StringComparison.Ordinal))
            .ThenBy(f => f.Length)
            .ThenBy(f => f, StringComparer.Ordinal)
            .Concat(File.Exists(Ideographs) ? [Ideographs] : [])
    );
    private readonly ConcurrentDictionary<int, Face?> _faceOf = new();
    private readonly ConcurrentDictionary<(string, float), SetText> _set = new();

    private Typesetter()
    {
        foreach (var name in Ours)
        {
            using var stream = typeof(Typesetter).Assembly.GetManifestResourceStream(name)!;
            Take(SKTypeface.FromStream(stream));
        }
    }

    private static readonly Lazy<Typesetter> One = new(() => new Typesetter());

    /// <summary>The one for all.</summary>
    public static Typesetter Shared => One.Value;

    /// <inheritdoc/>
    public SetText Set(string text, float size)
    {
        if (_set.Count > Kept)
            _set.Clear();
        return _set.GetOrAdd(
            (text, size),
            _ =>
            {
                lock (_lock)
                    return SetNow(text, size);
            }
        );
    }

    private SetText SetNow(string text, float size)
    {
        // Stretches of one direction as they are seen, and in each those of one font.
        var runs = new List<(string Text, Face Face, bool IsFromRight)>();
        foreach (var run in BidiText.Runs(text))
        {
            var own = RunsOf(text.Substring(run.Start, run.Length)).Select(r => (r.Text, r.Face, run.IsFromRight));
            runs.AddRange(run.IsFromRight ? own.Reverse() : own);
        }
        using var all = new SKPathBuilder();
        float pen = 0;
        foreach (var (part, face, isFromRight) in runs)
        {
            using var font = new SKFont(face.Typeface, size)
            {
                Hinting = SKFontHinting.None,
                Subpixel = true,
                Embolden = !face.Typeface.IsBold,
            };
            using var buffer = new HarfBuzzSharp.Buffer();
            buffer.AddUtf16(part);
            buffer.GuessSegmentProperties();
            buffer.Direction = isFromRight ? Direction.RightToLeft : Direction.LeftToRight;
            face.Shaper.Shape(buffer);
            var glyphs = buffer.GetGlyphInfoSpan();
            var places = buffer.GetGlyphPositionSpan();
            for (var i = 0; i < glyphs.Length; i++)
            {
                using var glyph = font.GetGlyphPath((ushort)glyphs[i].Codepoint);
                if (glyph != null)
                    all.AddPath(glyph, pen + places[i].XOffset * size / Steps, -places[i].YOffset * size / Steps, SKPathAddMode.Append);
                pen += places[i].XAdvance * size / Steps;
            }
        }
        using var path = all.Detach();
        return new SetText(path.ToSvgPathData(), pen);
    }

    // Stretches of one font; spaces and marks go with what is before them.
    private List<(string Text, Face Face)> RunsOf(string text)
    {
        var runs = new List<(StringBuilder Text, Face Face)>();
        foreach (var rune in text.EnumerateRunes())
        {
            var goesAlong =
                Rune.IsWhiteSpace(rune)
                || Rune.IsPunctuation(rune)
                || Rune.GetUnicodeCategory(rune) is System.Globalization.UnicodeCategory.NonSpacingMark or System.Globalization.UnicodeCategory.Format;
            if (runs.Count > 0 && goesAlong && runs[^1].Face.Font.ContainsGlyph(rune.Value))
                runs[^1].Text.Append(rune.ToString());
            else if (FaceFor(rune.Value) is { } face)
                if (runs.Count > 0 && runs[^1].Face == face)
                    runs[^1].Text.Append(rune.ToString());
                else
                    runs.Add((new StringBuilder(rune.ToString()), face));
        }
        return [.. runs.Select(r => (r.Text.ToString(), r.Face))];
    }

    private Face? FaceFor(int letter) =>
        _faceOf.GetOrAdd(
            letter,
            _ =>
            {
                if (_faces.Find(f => f.Font.ContainsGlyph(letter)) is { } known)
                    return known;
                // Fonts are opened one after another until one has it; they stay open for the next letters.
                while (_files.TryDequeue(out var file))
                    if (Take(SKTypeface.FromFile(file)) is { } face && face.Font.ContainsGlyph(letter))
                        return face;
                return null;
            }
        );

    private Face? Take(SKTypeface? typeface)
    {
        if (typeface == null)
            return null;
        // Table by table: the file may be compressed, the tables are not.
        var shaper = new HarfBuzzSharp.Font(new HarfBuzzSharp.Face((_, tag) => TableOf(typeface, tag)));
        shaper.SetFunctionsOpenType();
        shaper.SetScale(Steps, Steps);
        var face = new Face(typeface, new SKFont(typeface), shaper);
        _faces.Add(face);
        return face;
    }

    private static Blob TableOf(SKTypeface typeface, Tag tag)
    {
        if (!typeface.TryGetTableData(tag, out var data) || data.Length == 0)
            return Blob.Empty;
        var memory = Marshal.AllocHGlobal(data.Length);
        Marshal.Copy(data, 0, memory, data.Length);
        return new Blob(memory, data.Length, MemoryMode.ReadOnly, () => Marshal.FreeHGlobal(memory));
    }
}
