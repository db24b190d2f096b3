using System.Numerics;
using Zamblo.Core.Lettering;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Words in the picture.</summary>
public class LetteringTests
{
    // Every letter half an em wide: a box.
    private sealed class Boxes : ITypesetter
    {
        public SetText Set(string text, float size) =>
            new(new PathText().RoundRect(0, -0.7f * size, 0.5f * size * text.Length, 0.9f * size, 0).ToString(), 0.5f * size * text.Length);
    }

    private static readonly (int W, int H)[] Sizes = [(1280, 720), (1080, 1920), (1080, 1080), (1080, 1350), (2560, 1080)];

    private static (float Left, float Top, float Right, float Bottom) BoundsOf(string path, Matrix3x2 at)
    {
        var numbers = System.Text.RegularExpressions.Regex.Matches(path, @"-?\d+(\.\d+)?").Select(m => float.Parse(m.Value)).ToArray();
        var points = numbers.Chunk(2).Select(p => Vector2.Transform(new Vector2(p[0], p[1]), at)).ToArray();
        return (points.Min(p => p.X), points.Min(p => p.Y), points.Max(p => p.X), points.Max(p => p.Y));
    }

    [Fact]
    public void All_that_stands_lies_in_the_title_safe_area_of_every_format()
    {
        SpokenCaption[] captions =
        [
            new(1, 3, "Short.", 0),
            new(3, 7, "Patience? You fed me at noon, and that was a hundred years ago, you know!", 1),
            new(7, 11, "And a very long caption that does not find room in two rows of a picture which is as narrow as a telephone held upright.", -1),
        ];
        foreach (var (w, h) in Sizes)
        {
            var text = new PictureText(
                new LetteringDials
                {
                    HasCaptions = true,
                    HasNames = true,
                    Title = "A night in the bakery of the old town",
                },
                [new("Maro", "#0B6A8A", 1, true, []), new("The Second Clock", "#A34A00", 3, false, [new Vector4(300, 300, 500, 600)])],
                captions,
                w,
                h,
                new Boxes()
            );
            var items = new DrawItem[text.Shapes.Count];
            for (var t = 0.0; t < 12; t += 0.1)
            {
                text.Draw(t, items);
                for (var i = 0; i < items.Length; i++)
                    // What comes and goes slides in from the edge.
                    if (items[i].Opacity >= 1)
                    {
                        var b = BoundsOf(items[i].Path ?? text.Shapes[i].Path!, items[i].Transform);
                        Assert.True(b.Left >= 0.045f * text.Width && b.Right <= 0.955f * text.Width, $"{w}x{h} at {t:0.0}: {b} of {text.Width}");
                        Assert.True(b.Top >= 0.045f * 720 && b.Bottom <= 0.951f * 720, $"{w}x{h} at {t:0.0}: {b}");
                    }
            }
            // Before anybody speaks and after all is said nothing is there but the title.
            text.Draw(11.2, items);
            Assert.All(items, i => Assert.Equal(0, i.Opacity));
        }
    }

    [Fact]
    public void Each_word_lights_up_when_it_is_said_and_stands_where_it_stood()
    {
        WordSegment[] words = [new("Three", 1, 1.4), new("of", 1.5, 1.6), new("the bread", 1.7, 2.2), new("rolls.", 2.6, 3)];
        PictureText Made(bool isLit, params WordSegment[] said) =>
            new(
                new LetteringDials { HasCaptions = true, HasLitWords = isLit },
                [new("Maro", "#0B6A8A", 1, true, [])],
                [new SpokenCaption(1, 3.4, string.Join(' ', said.Select(w => w.Text)), 0) { Words = said }],
                // So narrow that the words need both rows.
                360,
                720,
                new Boxes()
            );
        var text = Made(true, words);
        var plain = Made(false, words);
        Assert.Equal(plain.Shapes.Count + 2, text.Shapes.Count);
        Assert.NotEqual(plain.Contents, text.Contents);
        var items = new DrawItem[text.Shapes.Count];
        // The words by their widths: half an em a letter. Times are those of the words; two words of one segment share it.
        var lefts = new List<float>();
        foreach (var (t, letters, before) in new[] { (1.2, 5, 0), (1.55, 2, 1), (1.65, 2, 1), (1.9, 5, 3), (2.4, 5, 3), (2.8, 6, 4) })
        {
            text.Draw(t, items);
            var now = BoundsOf(items[^1].Path!, Matrix3x2.Identity);
            Assert.Equal(letters * 0.5f * PictureText.SizeFor(360), now.Right - now.Left, 0.1f);
            Assert.Equal(before, items[^2].Path?.Count(c => c == 'Z') ?? 0);
            Assert.True(items[^3].Opacity < 0.6f && items[^1].Opacity >= 1);
            // Within what all the words take.
            var all = BoundsOf(items[^3].Path!, Matrix3x2.Identity);
            Assert.True(now.Left >= all.Left - 0.1f && now.Right <= all.Right + 0.1f && now.Top >= all.Top - 0.1f && now.Bottom <= all.Bottom + 0.1f);
        }
        // Before its caption nothing.
        text.Draw(0.9, items);
        Assert.All(items, i => Assert.Equal(0, i.Opacity));
        // From the right: the first word is at the right end. What runs both ways is not taken apart.
        var hebrew = Made(true, new WordSegment("שלום", 1, 2), new WordSegment("לכם", 2, 3));
        hebrew.Draw(1.5, items);
        var (whole, first) = (BoundsOf(items[^3].Path!, Matrix3x2.Identity), BoundsOf(items[^1].Path!, Matrix3x2.Identity));
        Assert.Equal(whole.Right, first.Right, 0.1f);
        hebrew.Draw(2.5, items);
        Assert.Equal(whole.Left, BoundsOf(items[^1].Path!, Matrix3x2.Identity).Left, 0.1f);
        var both = Made(true, new WordSegment("שלום", 1, 2), new WordSegment("Bubb", 2, 3));
        both.Draw(1.5, items);
        Assert.Equal((1, 0), (items[^3].Opacity, items[^1].Opacity));
    }

    [Fact]
    public void A_card_stands_in_place_of_the_picture_within_the_safe_area_as_large_as_it_finds_room()
    {
        SpokenCaption[] cards = [new(1, 3, "Nine minutes.", 0), new(4, 9, string.Join(' ', Enumerable.Repeat("And not a second more, Bubb.", 5)), 0)];
        foreach (var (w, h) in Sizes)
        {
            var text = new PictureText(new LetteringDials { HasCards = true }, [new("Maro", "#0B6A8A", 1, true, [])], [], w, h, new Boxes(), null, cards);
            Assert.Equal(6, text.Shapes.Count);
            Assert.Empty(text.Unseen);
            var items = new DrawItem[6];
            text.Draw(2, items);
            Assert.Equal([1, 1, 1, 0, 0, 0], items.Select(i => i.Opacity));
            text.Draw(3.5, items);
            Assert.All(items, i => Assert.Equal(0, i.Opacity));
            foreach (var at in (int[])[0, 3])
            {
                var ground = BoundsOf(text.Shapes[at].Path!, Matrix3x2.Identity);
                Assert.True(ground.Left < 0 && ground.Top < 0 && ground.Right > text.Width && ground.Bottom > PictureText.Height);
                foreach (var part in (int[])[1, 2])
                {
                    var b = BoundsOf(text.Shapes[at + part].Path!, Matrix3x2.Identity);
                    Assert.True(b.Left >= 0.045f * text.Width && b.Right <= 0.955f * text.Width, $"{w}x{h}: {b}");
                    Assert.True(b.Top >= 0.045f * PictureText.Height && b.Bottom <= 0.955f * PictureText.Height, $"{w}x{h}: {b}");
                }
            }
        }
        // What finds no room is told.
        var endless = new SpokenCaption(1, 3, string.Join(' ', Enumerable.Repeat("flour", 400)), 0);
        Assert.Single(new PictureText(new LetteringDials { HasCards = true }, [], [], 360, 720, new Boxes(), null, [endless]).Unseen);
    }

    [Fact]
    public void Rows_hold_the_words_and_are_even()
    {
        static float Width(string s) => s.Length;
        foreach (var room in new[] { 12, 20, 42 })
        {
            const string text = "Three in the morning and the oven is finally hot while the town sleeps";
            var rows = CaptionRows.Break(text, room, Width);
            Assert.Equal(text, string.Join(' ', rows));
            Assert.All(rows, r => Assert.True(r.Length <= room));
            // As few as there can be: greedy breaking is known to need the fewest rows (Knuth and Plass 1981, from memory).
            var greedy = new List<string> { "" };
            foreach (var word in text.Split(' '))
                if ((greedy[^1] + " " + word).Trim().Length <= room)
                    greedy[^1] = (greedy[^1] + " " + word).Trim();
                else
                    greedy.Add(word);
            Assert.Equal(greedy.Count, rows.Count);
            Assert.True(rows.Max(r => r.Length) <= greedy.Max(r => r.Length));
        }
        Assert.Equal(["Donaudampfschifffahrt", "is", "long"], CaptionRows.Break("Donaudampfschifffahrt is long", 6, Width));
        Assert.Empty(CaptionRows.Break("  ", 6, Width));
    }

    [Fact]
    public void Outlines_are_moved_number_by_number()
    {
        Assert.Equal("M11 22L13.5 19Z", PictureText.Moved("M1 2L3.5-1Z", 10, 20));
        Assert.Equal("M10 20Q10.5 20.25 9 21", PictureText.Moved("M0,0Q.5 .25-1 1", 10, 20));
        Assert.Throws<ArgumentException>(() => PictureText.Moved("m1 2", 1, 1));
    }
}
