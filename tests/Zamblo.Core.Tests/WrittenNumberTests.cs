using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>
/// Numbers, money and measures in other languages. Names of units are those of the Unicode CLDR, "long" (as ICU in Node.js 20 writes them:
/// <c>new Intl.NumberFormat("de", { style: "unit", unit: "kilogram", unitDisplay: "long" })</c>); money by its short name (common practice).
/// </summary>
public class WrittenNumberTests
{
    [Theory]
    [InlineData("de", "5 kg", "5 Kilogramm")]
    [InlineData("de", "20°C", "20 Grad Celsius")]
    [InlineData("de-at", "3,5 %", "3,5 Prozent")]
    [InlineData("es", "3 km", "3 kilómetros")]
    [InlineData("fr-fr", "50%", "50 pour cent")]
    [InlineData("it", "2 cm", "2 centimetri")]
    [InlineData("pt", "10 min", "10 minutos")]
    [InlineData("nl", "€5", "5 euro")]
    [InlineData("pl", "250 g", "250 gramów")]
    [InlineData("hi", "5 €", "5 यूरो")]
    [InlineData("cmn", "50%", "百分之50")]
    [InlineData("cmn", "5kg", "5千克")]
    [InlineData("ja", "100 ml", "100 ミリリットル")]
    [InlineData("de", "1.000.000", "1.000.000")]
    [InlineData("de", "10:30", "10:30")]
    [InlineData("sv", "5 kg", "5 kg")]
    public void A_measure_is_read_in_words_of_its_language(string language, string written, string read)
    {
        var figure = Assert.Single(WrittenNumbers.In($"x {written}, y", language));
        Assert.Equal(read, figure.Reading.Replace(" 千克", "千克"));
        Assert.Equal(written, $"x {written}, y".Substring(figure.Start, figure.Length));
    }

    [Theory]
    [InlineData("de", "Um 10:30 kosten 3,5 kg Brot €5.", "Um|10:30|kosten|3,5|kg|Brot|€5", "Um|10:30|kosten|3,5|Kilogramm|Brot|5 Euro")]
    [InlineData("fr", "Le 12.03.2026, à 50% du prix", "Le|12.03.2026|à|50%|du|prix", "Le|12.03.2026|à|50 pour cent|du|prix")]
    [InlineData("nl", "geen getallen", "geen|getallen", "geen|getallen")]
    [InlineData("it", "5 grandi mele e 3 m di stoffa.", "5|grandi|mele|e|3|m|di|stoffa", "5|grandi|mele|e|3|metri|di|stoffa")]
    public void A_number_is_one_word_and_its_unit_another(string language, string script, string written, string read)
    {
        var words = WrittenNumbers.Words(script, language);
        Assert.Equal(written.Split('|'), words.Select(w => w.Text));
        Assert.Equal(read.Split('|'), words.Select(w => Assert.Single(w.Spoken)));
        Assert.All(words, w => Assert.Equal(w.Text, script.Substring(w.Offset, w.Text.Length)));
    }

    [Fact]
    public void Ten_languages_know_all_units()
    {
        Assert.Equal(10, WrittenNumbers.Languages.Count);
        foreach (var language in WrittenNumbers.Languages)
        foreach (var sign in (string[])["kg", "g", "km", "m", "cm", "mm", "l", "ml", "min", "h", "°C", "%", "€", "$", "£"])
            Assert.False(string.IsNullOrWhiteSpace(WrittenNumbers.NameOf(sign, language)));
    }
}
