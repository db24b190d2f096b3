namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>The body that every recipe wears its clothes on: arms and legs, drawn for the picture's left; the right mirrors it about 300.</summary>
internal static class TailorBody
{
    private const string Upper = "M204 436 C166 446 146 500 140 560 C137 590 140 606 146 618 L206 620 C214 588 224 552 236 512 C240 470 228 440 204 436 Z";
    private const string Fore = "M144 626 C138 664 138 700 146 742 L196 742 C204 704 208 664 204 630 C186 636 162 634 144 626 Z";
    private const string Hand =
        "M146 738 C134 752 130 776 138 796 C146 814 162 822 178 818 C196 814 206 798 206 778 C214 772 216 756 206 748 C200 742 196 740 194 738 Z";
    private const string Fingers = "M160 790 C160 802 164 810 170 816 M178 788 C180 800 180 808 178 816";
    private const string Cuff = "M138 596 C158 604 190 606 210 600 L206 632 C186 638 160 636 140 628 Z";

    // Round about the joint, so that an arm that bends has an elbow: with its outline behind both bones, without it over their ends.
    private const string Joint =
        "M143.5 616 C143.5 598.9 157.4 585 174.5 585 C191.6 585 205.5 598.9 205.5 616 C205.5 633.1 191.6 647 174.5 647 C157.4 647 143.5 633.1 143.5 616 Z";
    private const string Elbow =
        "M147.5 616 C147.5 601.1 159.6 589 174.5 589 C189.4 589 201.5 601.1 201.5 616 C201.5 630.9 189.4 643 174.5 643 C159.6 643 147.5 630.9 147.5 616 Z";
    private const string Wrist = "M142 720 C160 728 182 728 200 720 L198 746 C180 752 162 752 144 746 Z";
    private const string Thigh = "M232 800 C229 850 228 890 229 926 C238 944 284 944 293 926 L296 804 Z";
    private const string ThighLines = "M232 800 C229 850 228 890 229 926 M293 926 L296 804";
    private const string Shin = "M229 910 C229 960 230 1000 232 1036 L290 1036 L293 910 Z";
    private const string ShinLines = "M229 910 C229 960 230 1000 232 1036 M290 1036 L293 910";
    private const string Foot = "M226 1030 C206 1036 186 1048 184 1066 L290 1066 L292 1030 Z";
    private const string Neck = "M262 400 C262 420 258 430 252 438 C280 456 320 456 348 438 C342 430 338 420 338 400 Z";

    /// <summary>A hair line under a hat, where the hat hides all other hair above.</summary>
    public const string Fringe =
        "M192 212 C190 230 212 240 226 228 C236 242 260 240 268 226 C280 238 302 236 308 224 C320 236 344 234 350 222 C364 238 396 234 408 212 "
        + "C360 190 240 190 196 214 Z";

    private static StockPath Filled(string d, string fill, float width = 7) => new(d, fill, "ink", width, 3, 1);

    private static StockPath Bare(string d, string fill) => new(d, fill, null, 0, 0, 1);

    private static StockPath Line(string d, float width = 7) => new(d, null, "ink", width, width > 5 ? 3 : 0, 1);

    /// <summary>Paths of a part of the body.</summary>
    /// <param name="part">"upper", "fore", "hand", "wrist", "cuff", "thigh", "shin", "foot" or "neck".</param>
    /// <param name="top">What is worn above.</param>
    /// <param name="bottom">What is worn below.</param>
    /// <param name="shoes">On the feet.</param>
    public static IReadOnlyList<StockPath> Of(string part, WardrobePart top, WardrobePart bottom, WardrobePart shoes)
    {
        var sleeves = top.Option("sleeves") ?? "long";
        var (upper, fore) = sleeves switch
        {
            "short" or "rolled" => ("c1", "skin"),
            "bare" => ("skin", "skin"),
            "shirt" => ("white", "white"),
            "white" => ("#F4F1EA", "#F4F1EA"),
            _ => ("c1", "c1"),
        };
        var (thigh, shin) = bottom.Option("legs") switch
        {
            "shorts" => ("c2", "skin"),
            "skin" => ("skin", "skin"),
            { } cloth => (cloth, cloth),
            null => ("c2", "c2"),
        };
        return part switch
        {
            "upper" => [Filled(Joint, fore), Filled(Upper, upper)],
            "fore" => [Filled(Fore, fore)],
            "cuff" when sleeves is "short" or "rolled" => [Filled(Cuff, "c1dark", 6)],
            // One sleeve: the joint of the elbow is not seen.
            "cuff" when upper == fore => [Bare(Elbow, upper)],
            "hand" => [Filled(Hand, "skin"), Line(Fingers, 4)],
            "wrist" when top.Option("cuff") == "1" && sleeves is "long" or "shirt" => [Filled(Wrist, sleeves == "shirt" ? "white" : "c1dark", 6)],
            "thigh" => [Bare(Thigh, thigh), Line(ThighLines)],
            "shin" => [Bare(Shin, shin), Line(ShinLines)],
            "foot" => [Filled(Foot, shoes.Option("color") ?? "#6B4A3A")],
            "neck" => [Filled(Neck, "shade", 6)],
            _ => [],
        };
    }
}
