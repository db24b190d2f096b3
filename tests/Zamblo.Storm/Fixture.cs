using System.Text.Json;
using System.Text.Json.Nodes;
using Zamblo.Core.Audio;

namespace Zamblo.Storm;

/// <summary>A production with a little of everything in it, and the ids of what is there.</summary>
public sealed class Fixture
{
    private static readonly TimeSpan Late = TimeSpan.FromSeconds(20);
    private Talk _talk;
    private JsonElement _state;
    private string _voice = "",
        _backdrop = "";

    private Fixture(Talk talk, string production) => (_talk, Production) = (talk, production);

    /// <summary>The production.</summary>
    public string Production { get; }

    /// <summary>Ids by what they are of: "scene", "line", "member", "take", "clip", "sound", "prop", "motion", "touch", "mark", "job".</summary>
    public Dictionary<string, string> Ids { get; } = [];

    /// <summary>A recording of a tone that was brought in.</summary>
    public string Hash { get; private set; } = "";

    /// <summary>From here on it is asked for at another server.</summary>
    public void MoveTo(Talk talk) => _talk = talk;

    /// <summary>Makes one: two members, two lines that are spoken, moods, gestures, a look, a walk, a motion, music, hand work.</summary>
    public static async Task<Fixture> MakeAsync(Talk talk)
    {
        var (production, scene, member) = await talk.NewProductionAsync();
        var made = new Fixture(talk, production) { Ids = { ["scene"] = scene, ["member"] = member } };
        await talk.PostAsync($"/api/scenes/{scene}/script", new { text = "MARO\nThe oven is hot.\n\nBUBB\nI am hungry, and nobody listens.\n" });
        for (var waited = 0; ; waited++)
        {
            var jobs = (await talk.GetAsync($"/api/productions/{production}/jobs")).EnumerateArray().ToArray();
            if (jobs.Length >= 2 && jobs.All(j => j.GetProperty("state").GetString() == "done"))
                break;
            if (waited > 600)
                throw new TimeoutException("The fixture's lines were not spoken.");
            await Task.Delay(100);
        }
        await made.LookAsync();
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. Enumerable.Range(0, 96000).Select(i => 0.2f * MathF.Sin(i / 17f))],
            ],
            48000
        );
        made.Hash = (await talk.PostAsync("/api/uploads?name=hum.wav", wav.ToArray())).GetProperty("hash").GetString()!;
        member = made.Ids["member"];
        var line = made.Ids["line"];
        await talk.PostAsync(
            $"/api/scenes/{scene}/sounds",
            new
            {
                hash = made.Hash,
                name = "hum.wav",
                kind = "Music",
                start = 0.0,
            }
        );
        foreach (var (kind, name) in ((string, string)[])[("Mood", "Joy"), ("Gesture", "wave"), ("Look", "camera"), ("Walk", "walk")])
            await talk.PostAsync(
                $"/api/scenes/{scene}/clips",
                new
                {
                    member,
                    kind,
                    name,
                    start = 0.6,
                    end = 1.4,
                    walkTo = 700.0,
                }
            );
        await talk.PostAsync(
            $"/api/lines/{line}/shape",
            new
            {
                shape = "Open",
                start = 0.2,
                end = 0.5,
            }
        );
        await talk.SendAsync(HttpMethod.Put, $"/api/productions/{production}/respellings", new { word = "hungry", written = "HH AH NG R IY" });
        await talk.PostAsync(
            $"/api/scenes/{scene}/places",
            new
            {
                member,
                x = 500.0,
                lift = 20.0,
                size = 1.2,
            }
        );
        await talk.PostAsync($"/api/scenes/{scene}/props", new { art = "mug", x = 400.0 });
        var word = (await talk.GetAsync("/api/scenes/" + scene)).GetProperty("lines")[0].GetProperty("words")[1];
        await talk.PostAsync(
            $"/api/lines/{line}/pins",
            new
            {
                word = 1,
                phone = 0,
                time = word[1].GetDouble() + 0.01,
            }
        );
        await talk.PostAsync(
            $"/api/takes/{made.Ids["take"]}/marks",
            new
            {
                start = 0.1,
                end = 0.2,
                isVoice = false,
            }
        );
        var points = Enumerable.Range(0, 30).Select(i => new[] { 0.5 + i / 30.0, 10 * Math.Sin(i / 4.0) }).ToArray();
        var samples = new { headTurn = points };
        var own = await talk.PostAsync(
            $"/api/scenes/{scene}/performances",
            new
            {
                member,
                part = "head",
                start = 0.5,
                end = 1.5,
                samples,
            }
        );
        await talk.PostAsync($"/api/clips/{own.GetProperty("id").GetString()}/save", new { name = "Nod of mine" });
        await made.LookAsync();
        return made;
    }

    /// <summary>An equal one with ids of its own.</summary>
    public async Task<Fixture> CopyAsync()
    {
        var id = (await _talk.PostAsync($"/api/productions/{Production}/duplicate", new { })).GetProperty("id").GetString()!;
        var copy = new Fixture(_talk, id) { Hash = Hash };
        copy.Ids["scene"] = await _talk.FirstSceneAsync(id);
        copy.Ids["job"] = Ids["job"];
        await copy.LookAsync();
        return copy;
    }

    /// <summary>Whether everything that a page of it asks for is answered, and by what not.</summary>
    public async Task<string?> TroubleAsync()
    {
        var scene = Ids["scene"];
        string[] reads = [$"/api/scenes/{scene}", $"/api/scenes/{scene}/frames?from=0&count=40", $"/api/scenes/{scene}/shapes", $"/production/{Production}"];
        foreach (var url in reads)
        {
            try
            {
                using var limit = new CancellationTokenSource(Late);
                using var response = await _talk.Client.GetAsync(url, limit.Token);
                if (!response.IsSuccessStatusCode)
                    return $"{url}: {(int)response.StatusCode}";
            }
            catch (OperationCanceledException)
            {
                return $"{url}: no answer in {Late.TotalSeconds} s";
            }
        }
        return null;
    }

    /// <summary>
    /// What properties of a good body, or words of an address, are to be, by their names in small letters; some are meant otherwise at some
    /// addresses.
    /// </summary>
    /// <param name="pattern">Of the address.</param>
    public IReadOnlyDictionary<string, JsonNode?> Known(string pattern)
    {
        var known = new Dictionary<string, JsonNode?>
        {
            ["revision"] = null,
            ["hash"] = Hash,
            ["start"] = 0.2,
            ["end"] = 0.6,
            ["from"] = 0,
            ["to"] = 1,
            ["columns"] = 4,
            ["count"] = 4,
            ["at"] = 1,
            ["edge"] = "start",
            ["text"] = "The oven is very hot.",
            ["ids"] = new JsonArray([.. All("clips").Select(id => (JsonNode)id)]),
            ["own"] = null,
            ["name"] = "Joy",
            ["samples"] = Motion(),
            ["values"] = new JsonObject { ["headTurn"] = 4 },
            ["part"] = "head",
            ["heard"] = new JsonArray(),
            ["character"] = "bubb",
            ["voice"] = _voice,
            ["key"] = _voice,
            ["source"] = Ids.GetValueOrDefault("line"),
            ["first"] = All("members").FirstOrDefault(),
            ["second"] = All("members").LastOrDefault(),
            ["parts"] = new JsonArray(
                new JsonObject
                {
                    ["member"] = All("members").FirstOrDefault(),
                    ["start"] = 0.1,
                    ["end"] = 0.9,
                    ["text"] = "Hum.",
                }
            ),
            ["art"] = "lamp",
            ["size"] = "1280x720",
            ["rate"] = "25",
            ["backdrop"] = _backdrop,
            ["format"] = "csv",
        };
        if (pattern.EndsWith("/captions", StringComparison.Ordinal))
            known["format"] = "vtt";
        if (pattern.EndsWith("/script", StringComparison.Ordinal))
            known["text"] = "MARO\nMore flour.\n";
        if (pattern.StartsWith("/api/lines", StringComparison.Ordinal))
            known["at"] = 0.5;
        if (pattern.EndsWith("/perform", StringComparison.Ordinal) || pattern.EndsWith("/performances", StringComparison.Ordinal))
            foreach (var other in (string[])["leftHand", "rightHand", "pointer"])
                known[other.ToLowerInvariant()] = null;
        foreach (var (name, id) in Ids)
            known.TryAdd(name, id);
        return known;

        IEnumerable<string> All(string list) => _state.GetProperty(list).EnumerateArray().Select(e => e.GetProperty("id").GetString()!);
    }

    private static JsonObject Motion() => new() { ["headTurn"] = new JsonArray(new JsonArray(0.3, 1), new JsonArray(0.5, 5), new JsonArray(0.6, 5)) };

    private async Task LookAsync()
    {
        var state = _state = await _talk.GetAsync("/api/scenes/" + Ids["scene"]);
        _backdrop = state.GetProperty("scene").GetProperty("backdrop").GetString()!;
        _voice = state.GetProperty("members")[0].GetProperty("voice").GetString()!;
        static string Id(JsonElement e) => e.GetProperty("id").GetString()!;
        void Note(string name, JsonElement list)
        {
            if (list.GetArrayLength() > 0)
                Ids[name] = Id(list[0]);
        }
        Note("member", state.GetProperty("members"));
        Note("line", state.GetProperty("lines"));
        foreach (var clip in state.GetProperty("clips").EnumerateArray().Where(c => c.GetProperty("kind").GetString() == "mood"))
            Ids["clip"] = Id(clip);
        Note("sound", state.GetProperty("sounds"));
        Note("prop", state.GetProperty("props"));
        if (state.GetProperty("lines").GetArrayLength() > 0)
        {
            var line = state.GetProperty("lines")[0];
            Note("take", line.GetProperty("takes"));
            Note("touch", line.GetProperty("touches"));
            Note("mark", line.GetProperty("marks"));
        }
        Note("motion", await _talk.GetAsync("/api/motions"));
        if ((await _talk.GetAsync($"/api/productions/{Production}/jobs")).EnumerateArray().ToArray() is { Length: > 0 } jobs)
            Ids["job"] = Id(jobs[0]);
    }
}
