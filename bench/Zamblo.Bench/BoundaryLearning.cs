using System.Globalization;
using System.Text;
using System.Text.Json;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>
/// Learns which candidate a boundary should take: softmax over the candidates of each boundary against the engine's own time (soft, a Gaussian of
/// 4 ms about it), once in quiet, once in noise and once in rooms, weights shared by all pairs of phones plus parts of each pair of classes and of
/// kinds that are held small. Sentences of its own, in the voices that are not held out.
/// </summary>
internal static class BoundaryLearning
{
    private const int Values = BoundaryRefiner.FeatureCount;

    private sealed record Boundary(int Classes, int Kinds, int Count, float[] Features, double[] Wanted);

    // RT60, in seconds.
    private static readonly double[] Rooms = [0.25, 0.35, 0.5, 0.65, 0.8, 0.95];

    private static readonly string[] Sentences =
    [
        "Put the kettle on the back of the stove and wait until it sings.",
        "Nobody knew why the cellar door kept opening by itself.",
        "Five small cakes were cooling near the yellow window.",
        "He thought the ginger jar had moved a little to the left.",
        "Please bring me the sharp knife and two clean towels.",
        "The river froze last winter, so the boats stayed in the harbour.",
        "Every evening she counts the coins and locks the wooden box.",
        "A warm smell of cinnamon came through the open kitchen.",
        "Judge for yourself whether these apples are sour or sweet.",
        "My brother sings while he kneads, and the neighbours complain.",
        "They should have checked the thermometer before closing the lid.",
        "Vinegar and honey make a strange but pleasant drink.",
        "Six thick slices of toast are enough for both of us.",
        "The chimney sweeper left black footprints on the fresh snow.",
        "Would you mind turning the music down for a while?",
        "Old cheese and pears belong together like rain and umbrellas.",
        "The baker's daughter drew a map of the whole village.",
        "Grandfather keeps his pipe in a drawer below the clock.",
        "You can hear the mill wheel from the top of the hill.",
        "Nothing tastes better than soup after a long cold walk.",
        "Watch the butter, because it burns within a minute.",
        "Three of the dishes were chipped, and one was missing.",
        "We gave the stray goose a bowl of oats and water.",
        "The postman always rings twice before he shouts.",
        "Good dough needs time, patience, salt and a quiet corner.",
        "She pushed the heavy table against the green wall.",
        "Both engines failed, yet the ferry reached the shore.",
        "His voice was hoarse from shouting at the market all day.",
        "Their youngest child sleeps through thunder and trumpets.",
        "Measure the sugar twice and pour it in slowly.",
        "The judge laughed so loudly that the hat fell off the shelf.",
        "A purple ribbon was tied around the package of tea.",
        "Keep the matches dry and the candles in a cool place.",
        "Yellow lilies grew along the wall where the lawyer lived.",
        "Will you really weigh all the walnuts before we leave?",
        "Larry rowed slowly around the narrow island in the rain.",
        "Your uncle was unusually early for the royal wedding.",
        "The world is rarely as round as a well rolled pearl.",
        "Wild roses are lovelier than any wreath of laurel.",
        "Were you aware that the railway runs right through our yard?",
        "A loyal mule will carry wool all the way to the valley.",
        "You would hardly believe how weary the whole orchestra was.",
        "Allow the oil to warm while you roll out the yeast dough.",
        "Are there really hours when nobody wants to work?",
        "I owe Roy a new lure and a yard of yellow yarn.",
        "The choir usually tries the hour before a large dinner.",
        "Hear how the howling wind rattles every iron railing.",
        "The cook threw out the burnt rice and swept the tiles.",
        "Charlie chose cherries, cheese and a chunk of chocolate.",
        "She sells the finest shoes between here and the seashore.",
        "Those brothers breathe loudly whenever they bathe.",
        "Both of them thought that the third path was the shortest.",
        "Vivid violets cover the veranda every November.",
        "Fifty-five fish were found floating near the ferry.",
        "Keep calm, count to ten, and come back for the cake.",
        "Dad didn't do the dishes, so the dog did it instead.",
        "Big boys bang on the barn until the bats fly about.",
        "Going again and again to the garden gate is a good game.",
        "Mother makes marmalade every May in an enormous pan.",
        "Nine new nurses never knew what the night would bring.",
        "The singing king was wearing a ring on a long string.",
        "Peter put the paper cup up on top of the pump.",
        "Tell the two tall twins to take the train at ten.",
        "Zebras doze lazily because the breeze is pleasant.",
        "He has a whole house behind the hill and a horse as well.",
        "Eat each piece of meat before the beans get cold again.",
        "Out loud he counted the clouds and the brown cows below.",
        "The boy enjoyed the noise of coins in the oyster bowl.",
        "Far from the harbour, a dark star marked the start of March.",
        "Somebody must have eaten the last piece of plum pie.",
        "The tower bell rang eleven while the fog was rising.",
        "Which of these jars holds the pepper and which the cloves?",
    ];

    public static async Task RunAsync(string folder, string output)
    {
        var clean = await SpeechSets.OfAsync(folder, Sentences, heldOut: false);
        var logs = PhoneDurations.Learn(clean.SelectMany(u => u.Truth));
        var durations = new PhoneDurations(logs);
        (string Name, double[][] Table)[] tables =
        [
            ("quiet", Learn(Collect(clean, durations))),
            ("noise", Learn(Collect([.. clean.Select(u => SpeechSets.WithNoise(u, 12))], durations))),
            ("room", Learn(Collect([.. clean.SelectMany(InRooms)], durations))),
        ];
        var text = new StringBuilder("{\n");
        text.Append("  \"durations\": ").Append(JsonSerializer.Serialize(logs).Replace("],", "], ")).Append(",\n");
        foreach (var (name, table) in tables)
        {
            text.Append($"  \"{name}\": [\n");
            for (var p = 0; p < table.Length; p++)
                text.Append("    [")
                    .AppendJoin(", ", table[p].Select(w => Math.Round(w, 3).ToString(CultureInfo.InvariantCulture)))
                    .Append(p + 1 < table.Length ? "],\n" : "]\n");
            text.Append(name == tables[^1].Name ? "  ]\n" : "  ],\n");
        }
        await File.WriteAllTextAsync(output, text.Append("}\n").ToString());
        Console.WriteLine($"written to {output}");
    }

    // Two of them.
    private static IEnumerable<Utterance> InRooms(Utterance u, int number) =>
        [SpeechSets.InRoom(u, Rooms[number % Rooms.Length]), SpeechSets.InRoom(u, Rooms[(number + Rooms.Length / 2) % Rooms.Length])];

    private static List<Boundary> Collect(IReadOnlyList<Utterance> set, PhoneDurations durations)
    {
        var boundaries = new List<Boundary>();
        foreach (var u in set)
        {
            IReadOnlyList<PhoneSegment> raw = [];
            HeardSound? sound = null;
            var analyzer = new SpeechAnalyzer(
                SpeechModels.Analyzer.Model,
                SpeechModels.Analyzer.Dictionary,
                voice: VoiceModel.Probabilities,
                spoken: PhoneNets.Spoken
            )
            {
                Refining = (phones, heard) =>
                {
                    (raw, sound) = (phones, heard);
                    return [.. phones];
                },
            };
            analyzer.Analyze(u.Audio, u.Text);
            var truth = u.Truth.Where(p => p.Duration > 0).ToArray();
            foreach (var (i, low, count, features) in BoundaryRefiner.Candidates(raw, sound!.Audio, durations, sound.Evidence))
            {
                // The boundary of the truth between the same two phones, if there is one near.
                var near = Enumerable
                    .Range(1, truth.Length - 1)
                    .Where(k => truth[k].Phone == raw[i].Phone && truth[k - 1].Phone == raw[i - 1].Phone && Math.Abs(truth[k].Start - raw[i].Start) < 0.05)
                    .ToArray();
                if (near.Length == 0)
                    continue;
                var at = truth[near.MinBy(k => Math.Abs(truth[k].Start - raw[i].Start))].Start;
                var wanted = new double[count];
                for (var k = 0; k < count; k++)
                    wanted[k] = Math.Exp(-0.5 * Math.Pow((low + k * BoundaryRefiner.Step - at) / 0.004, 2));
                var sum = wanted.Sum();
                // One that lies outside would teach that edges are good places.
                if (sum < 0.5)
                    continue;
                for (var k = 0; k < count; k++)
                    wanted[k] /= sum;
                var pair = BoundaryRefiner.PairOf(raw[i - 1].Phone, raw[i].Phone);
                boundaries.Add(new Boundary(BoundaryRefiner.ClassPairOf(pair), pair, count, features, wanted));
            }
        }
        Console.WriteLine($"{boundaries.Count} boundaries of {set.Count} utterances");
        return boundaries;
    }

    private static double[][] Learn(List<Boundary> boundaries)
    {
        const int classes = BoundaryRefiner.Classes * BoundaryRefiner.Classes,
            kinds = BoundaryRefiner.Kinds * BoundaryRefiner.Kinds;
        const double all = 0.0005,
            ofClasses = 0.00125,
            ofKinds = 0.002,
            rate = 0.05;
        // One row for all, one for each pair of classes, one for each pair of kinds: what a boundary weighs is the sum of its three.
        var rows = new double[1 + classes + kinds][];
        for (var r = 0; r < rows.Length; r++)
            rows[r] = new double[Values];
        var of = boundaries.Select(b => (Classes: rows[1 + b.Classes], Kinds: rows[1 + classes + b.Kinds])).ToArray();
        var distinct = of.Distinct().ToArray();
        // Adam (Kingma and Ba 2015), all boundaries at a time.
        var size = Values * rows.Length;
        double[] m = new double[size],
            v = new double[size],
            gradient = new double[size],
            scores = new double[64],
            weights = new double[Values];
        for (var round = 1; round <= 600; round++)
        {
            Array.Clear(gradient);
            double loss = 0;
            for (var n = 0; n < boundaries.Count; n++)
            {
                var (classPair, kindPair, count, features, wanted) = boundaries[n];
                for (var f = 0; f < Values; f++)
                    weights[f] = rows[0][f] + of[n].Classes[f] + of[n].Kinds[f];
                double most = double.NegativeInfinity,
                    sum = 0;
                for (var k = 0; k < count; k++)
                {
                    double score = 0;
                    for (var f = 0; f < Values; f++)
                        score += weights[f] * features[k * Values + f];
                    most = Math.Max(most, scores[k] = score);
                }
                for (var k = 0; k < count; k++)
                    sum += scores[k] = Math.Exp(scores[k] - most);
                for (var k = 0; k < count; k++)
                {
                    var share = scores[k] / sum;
                    loss -= wanted[k] * Math.Log(share + 1e-12);
                    for (var f = 0; f < Values; f++)
                    {
                        var g = (share - wanted[k]) * features[k * Values + f];
                        gradient[f] += g;
                        gradient[Values * (1 + classPair) + f] += g;
                        gradient[Values * (1 + classes + kindPair) + f] += g;
                    }
                }
            }
            for (var i = 0; i < size; i++)
            {
                var r = i / Values;
                ref var w = ref rows[r][i % Values];
                var g =
                    gradient[i] / boundaries.Count
                    + (
                        r == 0 ? all
                        : r <= classes ? ofClasses
                        : ofKinds
                    ) * w;
                m[i] = 0.9 * m[i] + 0.1 * g;
                v[i] = 0.999 * v[i] + 0.001 * g * g;
                w -= rate * (m[i] / (1 - Math.Pow(0.9, round))) / (Math.Sqrt(v[i] / (1 - Math.Pow(0.999, round))) + 1e-8);
            }
            // However a pair came out: far from where it is expected, or of odd lengths, no boundary is the likelier. Else two places far apart are
            // nearly as good.
            for (var c = 0; c < classes; c++)
                foreach (var f in BoundaryRefiner.Against)
                    rows[1 + c][f] = Math.Min(rows[1 + c][f], -rows[0][f]);
            foreach (var (ofClass, ofKind) in distinct)
            foreach (var f in BoundaryRefiner.Against)
                ofKind[f] = Math.Min(ofKind[f], -rows[0][f] - ofClass[f]);
            if (round % 100 == 0)
                Console.WriteLine(FormattableString.Invariant($"round {round}: {loss / boundaries.Count:0.000} nats a boundary"));
        }
        return
        [
            .. Enumerable
                .Range(0, kinds)
                .Select(k =>
                    Enumerable.Range(0, Values).Select(f => rows[0][f] + rows[1 + BoundaryRefiner.ClassPairOf(k)][f] + rows[1 + classes + k][f]).ToArray()
                ),
        ];
    }
}
