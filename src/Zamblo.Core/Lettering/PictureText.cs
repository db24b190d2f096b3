using System.Globalization;
using System.Numerics;
using System.Text;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Lettering;

/// <summary>What is written in the picture.</summary>
public sealed record LetteringDials
{
    /// <summary>What is said, below.</summary>
    public bool HasCaptions { get; init; }

    /// <summary>Each word of a caption lights up as it is said.</summary>
    public bool HasLitWords { get; init; }

    /// <summary>Captions tell what else is heard, in brackets.</summary>
    public bool HasSounds { get; init; }

    /// <summary>Of captions: the tag of a language, or empty for the one that is spoken. A line without words in it has those that are said.</summary>
    public string Language { get; init; } = "";

    /// <summary>Who it is that speaks, when somebody does for the first time.</summary>
    public bool HasNames { get; init; }

    /// <summary>What is said without sound stands on cards in place of the picture, as in silent films.</summary>
    public bool HasCards { get; init; }

    /// <summary>A title over the first seconds; empty for none.</summary>
    public string Title { get; init; } = "";

    /// <summary>Whether anything is written.</summary>
    public bool IsEmpty => !HasCaptions && !HasNames && !HasCards && Title.Length == 0;
}

/// <summary>Somebody who speaks.</summary>
/// <param name="Name">As people read it.</param>
/// <param name="Ink">Own colour, "#rrggbb".</param>
/// <param name="FirstWord">When, in seconds of the scene; null for who says nothing.</param>
/// <param name="IsLeft">Is seen in the left half.</param>
/// <param name="Faces">Where faces are while the name is there, in picture units: left, top, right, bottom.</param>
public sealed record NamedSpeaker(string Name, string Ink, double? FirstWord, bool IsLeft, IReadOnlyList<Vector4> Faces);

/// <summary>A caption with its speaker.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">The words.</param>
/// <param name="Speaker">Index of who says it; -1 for nobody on stage.</param>
public readonly record struct SpokenCaption(double Start, double End, string Text, int Speaker)
{
    /// <summary>The words of the text, with spaces between, and when each is said, in seconds of the scene; null where nobody knows.</summary>
    public IReadOnlyList<WordSegment>? Words { get; init; }

    /// <summary>The line that it is of.</summary>
    public LineId Line { get; init; }
}

/// <summary>Something written that has no room in the picture.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">The words.</param>
/// <param name="Over">So much wider than the title-safe area, as a share of it; 0 for more rows than there is room for.</param>
public readonly record struct UnseenText(double Start, double End, string Text, float Over);

/// <summary>
/// Words over the picture: captions, name plates, a title. In picture units: 720 high, whatever the format; all lies inside the title-safe area (90 % of
/// width and height: SMPTE ST 2046-1, from memory). Immutable.
/// </summary>
public sealed class PictureText
{
    /// <summary>Height of the picture in its own units.</summary>
    public const float Height = 720;

    // Of the picture, at each side.
    private const float Safe = 0.05f;

    // Words come and go in so many seconds; plates and titles take their time.
    private const double Fade = 0.08,
        Slide = 0.32;

    // A name stays for so long, a title too, in seconds (chosen by eye).
    private const double NameSeconds = 2.8,
        TitleSeconds = 3.2,
        TitleStart = 0.35;

    /// <summary>The middle of the time that the title is there, in seconds of the scene.</summary>
    public const double TitleMiddle = TitleStart + TitleSeconds / 2;

    /// <summary>A name comes so long after its first word, in seconds.</summary>
    public const double NameDelay = 0.25;

    private const string Paper = "#FAF3E3",
        Ink = "#171C28E0",
        Solid = "#171C28";

    private sealed record Plate(int First, double Start, double End, float From);

    private sealed record Page(double Start, double End, string Words, string Box, int Speaker, string Bar)
    {
        // As words are said: from when on, what has been said before, and the word itself; empty where all stands at once.
        public IReadOnlyList<(double Start, string Said, string Now)> Lit { get; init; } = [];
    }

    private readonly List<UnseenText> _unseen = [];
    private readonly List<DrawShape> _shapes = [];
    private readonly List<Plate> _plates = [];
    private readonly Page[] _pages = [];
    private readonly int _bars,
        _words;

    // Words that are still to be said, and the one that is said, in a picture with lit words.
    private const float Waiting = 0.5f;
    private const string Light = "#FFC94D";

    // Three shapes of a plate: its ground, its mark, its words.
    private const int PlateShapes = 3;

    /// <summary>Lays out what is written.</summary>
    /// <param name="dials">What.</param>
    /// <param name="speakers">The members, in their order.</param>
    /// <param name="captions">In order of their start.</param>
    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    /// <param name="typesetter">Makes outlines.</param>
    /// <param name="faces">Where faces are while the title is there, in picture units: left, top, right, bottom; null for none.</param>
    /// <param name="cards">What stands in place of the picture, in order of their start.</param>
    public PictureText(
        LetteringDials dials,
        IReadOnlyList<NamedSpeaker> speakers,
        IReadOnlyList<SpokenCaption> captions,
        int width,
        int height,
        ITypesetter typesetter,
        IReadOnlyList<Vector4>? faces = null,
        IReadOnlyList<SpokenCaption>? cards = null
    )
    {
        Width = Height * width / height;
        var size = SizeFor(Width);
        if (dials.HasCaptions)
        {
            _pages = [.. captions.SelectMany(c => Pages(dials.HasLitWords ? c : c with { Words = null }, size, typesetter))];
            _shapes.Add(new DrawShape(null, Ink));
            _bars = _shapes.Count;
            foreach (var speaker in speakers)
                _shapes.Add(new DrawShape(null, speaker.Ink));
            _words = _shapes.Count;
            _shapes.Add(new DrawShape(null, Paper));
            if (dials.HasLitWords)
                _shapes.AddRange([new DrawShape(null, Paper), new DrawShape(null, Light)]);
        }
        if (dials.HasNames)
            foreach (var speaker in speakers)
                if (speaker is { FirstWord: { } first, Name.Length: > 0 })
                    AddName(speaker, first, size, typesetter, dials.HasCaptions);
        foreach (var card in cards ?? [])
            AddCard(card, size, typesetter);
        if (dials.Title.Length > 0)
            AddTitle(dials.Title, size, typesetter, faces ?? []);
    }

    /// <summary>Width of the picture in its units.</summary>
    public float Width { get; }

    /// <summary>What has no room within the title-safe area.</summary>
    public IReadOnlyList<UnseenText> Unseen => _unseen;

    // Rows that are wider than the safe area: one word that is too long.
    private void Look(IEnumerable<(string Text, float Width)> rows, double start, double end)
    {
        foreach (var (text, wide) in rows)
            if (wide > Width * (1 - 2 * Safe) + 0.5f)
                _unseen.Add(new UnseenText(start, end, text, wide / (Width * (1 - 2 * Safe)) - 1));
    }

    /// <summary>What stays the same about it, back to front.</summary>
    public IReadOnlyList<DrawShape> Shapes => _shapes;

    /// <summary>
    /// The em of captions for a picture so wide: 42 characters a row where there is room for them (common practice), large enough to be read where not.
    /// </summary>
    public static float SizeFor(float width) => Math.Clamp(width * 0.029f, 27, 37);

    /// <summary>So many characters of a caption fit into two rows of such a picture, at most 84 (two rows of 42: common practice).</summary>
    /// <param name="width">Of the picture, in its units.</param>
    public static int CharactersFor(float width) => Math.Clamp((int)(2 * 0.86f * width / (0.55f * SizeFor(width))), 24, 74);

    /// <summary>All that decides what is to be seen, beside the shapes.</summary>
    public IReadOnlyList<string> Contents =>
        [
            .. _pages.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Start:R} {p.End:R} {p.Speaker} {p.Words}")),
            .. _pages.SelectMany(p => p.Lit).Select(l => string.Create(CultureInfo.InvariantCulture, $"{l.Start:R} {l.Now}")),
            .. _plates.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.First} {p.Start:R} {p.End:R} {p.From:R}")),
        ];

    /// <summary>What is to be seen at a moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="items">One for each shape.</param>
    public void Draw(double t, Span<DrawItem> items)
    {
        items.Fill(new DrawItem(Matrix3x2.Identity, 0));
        foreach (var page in _pages)
        {
            if (page.Start > t)
                break;
            if (t >= page.End)
                continue;
            var opacity = (float)Math.Clamp(Math.Min((t - page.Start) / Fade, (page.End - t) / Fade) + 0.34, 0, 1);
            items[0] = new DrawItem(Matrix3x2.Identity, opacity, page.Box);
            if (page.Speaker >= 0)
                items[_bars + page.Speaker] = new DrawItem(Matrix3x2.Identity, opacity, page.Bar);
            items[_words] = new DrawItem(Matrix3x2.Identity, opacity * (page.Lit.Count > 0 ? Waiting : 1), page.Words);
            foreach (var (start, said, now) in page.Lit)
            {
                if (start > t)
                    break;
                items[_words + 1] = new DrawItem(Matrix3x2.Identity, said.Length > 0 ? opacity : 0, said.Length > 0 ? said : null);
                items[_words + 2] = new DrawItem(Matrix3x2.Identity, opacity, now);
            }
        }
        foreach (var plate in _plates)
        {
            if (t < plate.Start || t >= plate.End)
                continue;
            var way = Ease(Math.Clamp(Math.Min((t - plate.Start) / Slide, (plate.End - t) / Slide), 0, 1));
            var place = Matrix3x2.CreateTranslation(plate.From * (1 - (float)way), 0);
            for (var i = 0; i < PlateShapes; i++)
                items[plate.First + i] = new DrawItem(place, (float)way);
        }
    }

    private static double Ease(double x) => x * x * (3 - 2 * x);

    // A caption that needs more than two rows in this picture becomes several, each with its share of the time.
    private IEnumerable<Page> Pages(SpokenCaption caption, float size, ITypesetter typesetter)
    {
        var room = Width * (1 - 2 * Safe) - 2.2f * size;
        var rows = CaptionRows.Break(caption.Text, room, s => typesetter.Set(s, size).Width);
        var letters = Math.Max(1, rows.Sum(r => r.Length));
        double at = caption.Start;
        // Word by word, for each of the rows' words; what runs both ways is not taken apart.
        var times =
            caption.Words is { } said && rows.All(r => BidiText.Runs(r).Count == 1)
                ? said.SelectMany(w => WordSpacing.Split(w.Text).Select(_ => w.Start)).ToArray()
                : [];
        var told = 0;
        for (var i = 0; i < rows.Count; i += 2)
        {
            string[] own = [.. rows.Skip(i).Take(2)];
            var end = i + 2 >= rows.Count ? caption.End : at + (caption.End - caption.Start) * own.Sum(r => r.Length) / letters;
            var count = own.Sum(r => WordSpacing.Split(r).Count);
            yield return PageOf(own, at, end, caption.Speaker, size, typesetter, times.Skip(told).Take(count).ToArray());
            told += count;
            at = end;
        }
    }

    private Page PageOf(string[] rows, double start, double end, int speaker, float size, ITypesetter typesetter, double[] times)
    {
        var set = rows.Select(r => typesetter.Set(r, size)).ToArray();
        Look(rows.Zip(set, (r, s) => (r, s.Width)), start, end);
        float leading = size * 1.26f,
            wide = set.Max(s => s.Width) + 1.5f * size,
            tall = leading * rows.Length + 0.62f * size,
            bottom = Height * (1 - Safe),
            left = (Width - wide) / 2;
        var words = new StringBuilder();
        var lit = new List<(double, string, string)>();
        for (var i = 0; i < set.Length; i++)
        {
            var (x, y) = ((Width - set[i].Width) / 2, bottom - tall + 0.31f * size + (i + 0.76f) * leading);
            words.Append(Moved(set[i].Path, x, y));
            var isFromRight = BidiText.Runs(rows[i]) is [{ IsFromRight: true }, ..];
            var before = "";
            foreach (var word in times.Length == 0 ? [] : WordSpacing.Split(rows[i]).Select(w => w.Text))
            {
                before += WordSpacing.HasSpace(before, word) ? " " : "";
                var gone = typesetter.Set(isFromRight ? before + word : before, size).Width;
                var own = Moved(typesetter.Set(word, size).Path, isFromRight ? x + set[i].Width - gone : x + gone, y);
                var said = lit.Count == 0 ? "" : lit[^1].Item2 + lit[^1].Item3;
                lit.Add((times[Math.Min(lit.Count, times.Length - 1)], said, own));
                before += word;
            }
        }
        return new Page(
            start,
            end,
            words.ToString(),
            new PathText().RoundRect(left, bottom - tall, wide, tall, 0.28f * size).ToString(),
            speaker,
            new PathText().RoundRect(left - 0.3f * size, bottom - tall, 0.2f * size, tall, 0.1f * size).ToString()
        )
        {
            Lit = lit,
        };
    }

    private void AddName(NamedSpeaker speaker, double first, float size, ITypesetter typesetter, bool hasCaptions)
    {
        size *= 1.12f;
        var set = typesetter.Set(speaker.Name, size);
        float wide = set.Width + 1.5f * size,
            tall = 1.72f * size,
            least = Width * Safe,
            most = Width * (1 - Safe) - wide,
            low = Height * (1 - Safe) - tall - (hasCaptions ? 3.3f * size : 0);
        // On its own side below, where it covers no face; else wherever it covers the least.
        var (own, other) = speaker.IsLeft ? (least, most) : (most, least);
        var (left, top) = new (float X, float Y)[] { (own, low), (other, low), (own, Height * Safe), (other, Height * Safe), (own, Height * 0.5f) }.MinBy(p =>
            speaker.Faces.Sum(f => Covered(f, new Vector4(p.X, p.Y, p.X + wide, p.Y + tall)))
            // Beside somebody else it would be their name.
            + wide * tall * ((p.X == own ? 0 : 0.8f) + (p.Y == low ? 0 : 0.2f))
        );
        Look([(speaker.Name, wide)], first + NameDelay, first + NameDelay + NameSeconds);
        var isLeft = left == least;
        _plates.Add(new Plate(_shapes.Count, first + NameDelay, first + NameDelay + NameSeconds, (isLeft ? -1 : 1) * (wide + 60)));
        _shapes.Add(new DrawShape(new PathText().RoundRect(left, top, wide, tall, 0.16f * size).ToString(), Paper, Solid, 3, 1.5f));
        var bar = isLeft ? left : left + wide - 0.34f * size;
        _shapes.Add(new DrawShape(new PathText().RoundRect(bar, top, 0.34f * size, tall, 0.16f * size).ToString(), speaker.Ink));
        _shapes.Add(new DrawShape(Moved(set.Path, left + (wide - set.Width) / 2, top + 1.2f * size), Solid));
    }

    private static float Covered(Vector4 a, Vector4 b) =>
        Math.Max(0, Math.Min(a.Z, b.Z) - Math.Max(a.X, b.X)) * Math.Max(0, Math.Min(a.W, b.W) - Math.Max(a.Y, b.Y));

    // Letters of a card by those of captions: as large as all of it finds room.
    private static readonly float[] CardSizes = [1.7f, 1.4f, 1.15f, 0.95f];

    // In place of the picture: a ground over all of it, a frame within the title-safe area, and the words in its middle.
    private void AddCard(SpokenCaption card, float size, ITypesetter typesetter)
    {
        var room = Width * (1 - 5 * Safe);
        var (em, rows) = CardSizes
            .Select(s => (Em: s * size, Rows: CaptionRows.Break(card.Text, room, text => typesetter.Set(text, s * size).Width)))
            .FirstOrDefault(s => s.Rows.Count * 1.35f * s.Em < Height * (1 - 5 * Safe));
        if (rows == null)
        {
            _unseen.Add(new UnseenText(card.Start, card.End, card.Text, 0));
            return;
        }
        var set = rows.Select(r => typesetter.Set(r, em)).ToArray();
        Look(rows.Zip(set, (r, s) => (r, s.Width)), card.Start, card.End);
        _plates.Add(new Plate(_shapes.Count, card.Start, card.End, 0));
        _shapes.Add(new DrawShape(new PathText().RoundRect(-40, -40, Width + 80, Height + 80, 1).ToString(), Solid));
        var (left, top) = (Width * Safe, Height * Safe);
        var frame = new PathText().RoundRect(left, top, Width - 2 * left, Height - 2 * top, 0.7f * size);
        frame.RoundRect(left + 9, top + 9, Width - 2 * left - 18, Height - 2 * top - 18, 0.5f * size);
        _shapes.Add(new DrawShape(frame.ToString(), null, Paper, 2.5f));
        var words = new StringBuilder();
        for (var i = 0; i < set.Length; i++)
            words.Append(Moved(set[i].Path, (Width - set[i].Width) / 2, Height / 2 + (i - set.Length / 2f + 0.72f) * 1.35f * em));
        _shapes.Add(new DrawShape(words.ToString(), Paper));
    }

    private void AddTitle(string title, float size, ITypesetter typesetter, IReadOnlyList<Vector4> faces)
    {
        size *= 1.9f;
        var room = Width * (1 - 4 * Safe);
        var all = CaptionRows.Break(title, room, s => typesetter.Set(s, size).Width);
        var rows = all.Take(3).ToArray();
        var set = rows.Select(r => typesetter.Set(r, size)).ToArray();
        Look(rows.Zip(set, (r, s) => (r, s.Width)), TitleStart, TitleStart + TitleSeconds);
        if (all.Count > rows.Length)
            _unseen.Add(new UnseenText(TitleStart, TitleStart + TitleSeconds, title, 0));
        float wide = Math.Min(Width, set.Max(s => s.Width) + 1.6f * size),
            tall = rows.Length * size * 1.2f + 0.9f * size,
            left = (Width - wide) / 2;
        // High, where it covers no face; else where it covers the least.
        var top = new[] { 0.2f * Height, Safe * Height, (1 - Safe) * Height - tall, 0.62f * Height - tall / 2 }.MinBy(y =>
            faces.Sum(f => Covered(f, new Vector4(left, y, left + wide, y + tall)))
        );
        _plates.Add(new Plate(_shapes.Count, TitleStart, TitleStart + TitleSeconds, 0));
        _shapes.Add(new DrawShape(new PathText().RoundRect(left, top, wide, tall, 0.14f * size).ToString(), Paper, Solid, 4, 2));
        _shapes.Add(new DrawShape(new PathText().RoundRect(left + 0.5f * size, top + tall - 0.42f * size, wide - size, 4, 2).ToString(), Solid));
        var words = new StringBuilder();
        for (var i = 0; i < set.Length; i++)
            words.Append(Moved(set[i].Path, (Width - set[i].Width) / 2, top + 0.3f * size + (i + 0.86f) * size * 1.2f));
        _shapes.Add(new DrawShape(words.ToString(), Solid));
    }

    /// <summary>Path data of absolute commands, elsewhere.</summary>
    internal static string Moved(string path, float dx, float dy)
    {
        var text = new StringBuilder(path.Length + 16);
        var isX = true;
        for (var i = 0; i < path.Length; )
        {
            var c = path[i];
            if (char.IsAsciiLetter(c))
            {
                if (c is not ('M' or 'L' or 'Q' or 'C' or 'Z'))
                    throw new ArgumentException($"Outlines are of M, L, Q, C and Z, not of {c}.", nameof(path));
                text.Append(c);
                isX = true;
                i++;
                continue;
            }
            if (c is ' ' or ',')
            {
                i++;
                continue;
            }
            var end = i + 1;
            while (end < path.Length && (char.IsAsciiDigit(path[end]) || path[end] is '.' or 'e' || path[end] == '-' && path[end - 1] == 'e'))
                end++;
            var value = float.Parse(path.AsSpan(i, end - i), NumberStyles.Float, CultureInfo.InvariantCulture) + (isX ? dx : dy);
            if (text.Length > 0 && !char.IsAsciiLetter(text[^1]))
                text.Append(' ');
            text.Append(MathF.Round(value, 2).ToString("0.##", CultureInfo.InvariantCulture));
            isX = !isX;
            i = end;
        }
        return text.ToString();
    }
}
