namespace Zamblo.Media.Tests;

/// <summary>Who speaks for whom in another language.</summary>
public class VoicesOfLanguageTests
{
    private static readonly Voice[] All =
    [
        new("neural:de:amber", "de", "Amber", "female"),
        new("flite:slt", "en-us", "American woman", "female"),
        new("flite:rms", "en-us", "American man", "male"),
        new("espeak:en-us", "en-us", "English (America)", "male"),
        new("espeak:de", "de", "German", "male"),
        new("espeak:fr-be", "fr-be", "French (Belgium)", "male"),
        new("espeak:fr-fr", "fr-fr", "French (France)", "male"),
        new("espeak:pt", "pt", "Portuguese", "male"),
        new("espeak:pt-br", "pt-br", "Portuguese (Brazil)", "male"),
        new("espeak:cmn", "cmn", "Chinese", "male"),
    ];

    [Fact]
    public void Everybody_keeps_the_kind_of_voice_and_no_two_have_the_same()
    {
        Assert.Equal(
            ["espeak:fr-fr+m3", "espeak:fr-fr+f2", "espeak:fr-fr+m1"],
            VoicesOfLanguage.For(All, ["espeak:en-us+m3", "flite:slt", "espeak:en-us+m3"], "fr")
        );
        // A voice that was learned speaks for the first whom it fits.
        Assert.Equal(
            ["espeak:de+m5", "neural:de:amber", "espeak:de+f5"],
            VoicesOfLanguage.For(All, ["espeak:en-us+m5", "espeak:en-us+f1", "espeak:en-us+f5"], "de")
        );
        var many = VoicesOfLanguage.For(All, [.. Enumerable.Repeat("espeak:en-us", 8)], "fr")!;
        Assert.Equal(8, many.Distinct().Count());
    }

    [Fact]
    public void The_tag_is_met_exactly_or_by_its_kin()
    {
        Assert.Equal("espeak:pt-br", VoicesOfLanguage.Of(All, "pt-BR")[0].Key);
        Assert.Equal("espeak:pt", VoicesOfLanguage.Of(All, "pt-AO")[0].Key);
        Assert.Equal("espeak:fr-fr", VoicesOfLanguage.Of(All, "fr")[0].Key);
        Assert.Equal("espeak:cmn", VoicesOfLanguage.Of(All, "zh")[0].Key);
        Assert.Empty(VoicesOfLanguage.Of(All, "tlh"));
        Assert.Null(VoicesOfLanguage.For(All, ["flite:slt"], "tlh"));
    }
}
