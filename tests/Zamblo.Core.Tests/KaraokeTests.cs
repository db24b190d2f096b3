using System.Globalization;
using System.Text.RegularExpressions;
using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public partial class KaraokeTests
{
    private static string[] Events(params KaraokeRow[] rows)
    {
        using var writer = new StringWriter();
        Karaoke.Write(writer, "A\nfilm", 1280, 720, rows);
        return [.. writer.ToString().Split('\n').Where(l => l.StartsWith("Dialogue:", StringComparison.Ordinal))];
    }

    // When each word is lit, in seconds, as a player adds it up.
    private static (double Start, double End, (string Word, double At)[] Words) Read(string row)
    {
        var fields = row["Dialogue: ".Length..].Split(',', 10);
        var start = TimeSpan.ParseExact(fields[1], @"h\:mm\:ss\.ff", CultureInfo.InvariantCulture).TotalSeconds;
        var end = TimeSpan.ParseExact(fields[2], @"h\:mm\:ss\.ff", CultureInfo.InvariantCulture).TotalSeconds;
        var at = start;
        var words = new List<(string, double)>();
        foreach (Match m in Beat().Matches(fields[9]))
        {
            if (m.Groups[2].Value.Trim() is { Length: > 0 } word)
                words.Add((word, at));
            at += int.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) / 100.0;
        }
        return (start, end, [.. words]);
    }

    [GeneratedRegex(@"\{\\k(\d+)\}([^{]*)")]
    private static partial Regex Beat();

    [Fact]
    public void Every_word_is_lit_when_it_is_said_however_long_the_row()
    {
        WordSegment[] words = [.. Enumerable.Range(0, 40).Select(i => new WordSegment($"w{i}", 1 + 0.3337 * i, 1.2 + 0.3337 * i))];
        var (start, end, lit) = Read(Assert.Single(Events(new KaraokeRow("Maro", "#0B6A8A", words))));
        Assert.True(start < 1 && end > words[^1].End);
        Assert.Equal(40, lit.Length);
        foreach (var (word, said) in lit.Zip(words))
        {
            Assert.Equal(said.Text, word.Word);
            Assert.Equal(said.Start, word.At, 0.011);
        }
    }

    [Fact]
    public void Rows_leave_each_other_their_time_and_words_are_no_commands()
    {
        var rows = Events(
            new KaraokeRow("Miss Crumb, baker", "#A34A00", [new("{\\b1}hot", 0.1, 0.5), new("pan", 0.5, 0.9)]),
            new KaraokeRow("Bubb", "#0B6A8A", [new("no", 1.0, 1.3)])
        );
        var (first, second) = (Read(rows[0]), Read(rows[1]));
        Assert.Equal(0, first.Start);
        Assert.True(first.End <= 1.0 && second.Start >= 0.9);
        Assert.Equal(["(/b1)hot", "pan"], first.Words.Select(w => w.Word));
        Assert.Contains(",Speaker1,Miss Crumb  baker,0,0,0,,", rows[0]);
        Assert.Contains(",Speaker2,Bubb,", rows[1]);
        using var writer = new StringWriter();
        Karaoke.Write(writer, "A\nfilm", 1280, 720, []);
        Assert.Contains("Title: A film\n", writer.ToString());
    }

    [Fact]
    public void Colours_are_written_blue_first()
    {
        using var writer = new StringWriter();
        Karaoke.Write(writer, "", 640, 360, [new KaraokeRow("A", "#0B6A8A", [new("hi", 0, 1)])]);
        Assert.Contains("Style: Speaker1,Sans,20,&H008A6A0B,", writer.ToString());
    }
}
