namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>Recipes of chance that hold together: colours that are seen against each other, beards on no snouts, one hat on one head.</summary>
internal static class TailorChance
{
    private static readonly string[] Skins = ["#F6D2B4", "#EDB993", "#DDA079", "#C58560", "#A5694A", "#835038", "#653C2B"];
    private static readonly string[] Furs = ["#D9813C", "#8A5B3C", "#B9A58C", "#6F7480", "#E6D9C2", "#E3A39B", "#4F4A4A"];
    private static readonly string[] Hairs = ["#2A2223", "#3B2B2A", "#5A3A26", "#8A5A30", "#C9943F", "#B4512B", "#8E8C8A", "#D9D5CC", "#4A5A8C"];
    private static readonly string[] Cloths =
    [
        "#3F7F86",
        "#C8452D",
        "#D9A93F",
        "#4F6F4A",
        "#4A5A8C",
        "#8C5A7A",
        "#E6D9C2",
        "#2F3A4C",
        "#B8743C",
        "#7FA6B5",
        "#A83F52",
        "#6E8C4A",
    ];
    private static readonly string[] Metals = ["#D9A93F", "#9AA3AD", "#B4713C"];
    private static readonly string[] FurEars = ["fox", "bear", "rabbit", "floppy"];

    public static WardrobeRecipe Draw(int seed)
    {
        // xoshiro of the runtime with a seed is not promised to stay the same: a generator of our own (Park and Miller 1988).
        var state = (uint)Math.Abs((long)seed * 48271 % 2147483646) + 1;
        double Next() => (state = (uint)((ulong)state * 48271 % 2147483647)) / 2147483647.0;
        for (var i = 0; i < 4; i++)
            Next();
        T One<T>(IReadOnlyList<T> list) => list[Math.Min(list.Count - 1, (int)(Next() * list.Count))];
        bool Chance(double p) => Next() < p;
        string Any(string kind, Func<WardrobePart, bool>? fits = null) => One([.. WardrobeStock.Of(kind).Where(p => fits?.Invoke(p) ?? true)]).Key;
        string Maybe(string kind, double p) => Chance(p) ? Any(kind, x => x.Key != "none") : "none";
        var isCreature = Chance(0.22);
        var skin = One(isCreature ? Furs : Skins);
        string Apart(IReadOnlyList<string> from, params string[] others)
        {
            for (var i = 0; ; i++)
                if (One(from) is var c && (i > 30 || others.All(o => Distance(c, o) > 70)))
                    return c;
        }
        var hair = Apart(Hairs, skin);
        var cloth1 = Apart(Cloths, skin);
        var cloth2 = Apart(Cloths, cloth1);
        var hatKey = Maybe("hat", 0.34);
        var parts = new Dictionary<string, string>
        {
            ["head"] = Any("head"),
            ["hair"] = isCreature ? "none" : Any("hair", p => p.Key != "none" || Chance(0.3)),
            ["beard"] = isCreature ? "none" : Maybe("beard", 0.28),
            ["brows"] = Any("brows"),
            ["eyes"] = Any("eyes"),
            ["nose"] = isCreature ? "none" : Any("nose", p => p.Key != "none"),
            ["mouth"] = isCreature ? "plain" : Any("mouth", p => p.Option("style") is "lips" or "muzzle"),
            ["ears"] = isCreature ? One(FurEars) : Any("ears", p => !FurEars.Contains(p.Key) && p.Key is not ("none" or "pointed")),
            ["snout"] = isCreature ? Any("snout", p => p.Key != "none") : "none",
            ["horns"] = isCreature ? "none" : Maybe("horns", 0.03),
            ["marks"] = Maybe("marks", 0.4),
            ["glasses"] = Maybe("glasses", 0.3),
            ["hat"] = hatKey,
            ["earrings"] = isCreature ? "none" : Maybe("earrings", 0.25),
            ["neckwear"] = Maybe("neckwear", 0.3),
            ["top"] = Any("top", p => p.Key != "fur" || isCreature),
            ["bottom"] = Any("bottom"),
            ["shoes"] = Any("shoes"),
            ["tool"] = Maybe("tool", 0.25),
        };
        // Ears on the crown need it bare; a tie and a scarf are one too many.
        if (isCreature && parts["ears"] is "fox" or "bear" or "rabbit" && hatKey is not ("bow" or "flower"))
            parts["hat"] = "none";
        if (parts["top"] is "blazer" or "waistcoat" or "turtleneck" or "hoodie")
            parts["neckwear"] = "none";
        if (parts["beard"] is "full" or "long" && parts["neckwear"] is "bow-tie" or "pearls" or "necklace")
            parts["neckwear"] = "none";
        return new WardrobeRecipe
        {
            Name = "Somebody",
            Parts = parts,
            Palette = new WardrobePalette
            {
                Skin = skin,
                Hair = hair,
                Cloth1 = cloth1,
                Cloth2 = cloth2,
                Cloth3 = Apart(Cloths, cloth1, cloth2, skin),
                Metal = One(Metals),
            },
            Height = 0.86f + 0.26f * (float)Next(),
            Build = 0.84f + 0.4f * (float)Next(),
            Head = 0.94f + 0.2f * (float)Next(),
            Body = 0.78f + 0.28f * (float)Next(),
        };
    }

    // In the space of the screen's bytes: enough to tell two flat colours apart.
    private static double Distance(string a, string b)
    {
        double sum = 0;
        for (var i = 1; i < 7; i += 2)
        {
            var d = Convert.ToInt32(a.Substring(i, 2), 16) - Convert.ToInt32(b.Substring(i, 2), 16);
            sum += d * d;
        }
        return Math.Sqrt(sum);
    }
}
