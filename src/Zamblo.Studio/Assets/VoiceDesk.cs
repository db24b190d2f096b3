using Microsoft.Extensions.Caching.Memory;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Studio.Assets;

/// <summary>What is said of a neural voice before its model comes.</summary>
/// <param name="Name">Of its file, without ".onnx".</param>
/// <param name="Description">What stands in its .onnx.json.</param>
/// <param name="Licence">What its maker allows, or nothing.</param>
public sealed record NewVoice(string? Name, string? Description, string? Licence);

/// <summary>Other words for what a voice's maker allows.</summary>
public sealed record VoiceLicence(string? Key, string? Licence);

/// <summary>An engine that speaks.</summary>
/// <param name="Key">What the keys of its voices begin with.</param>
/// <param name="Install">The command that brings it where it is missing, or nothing.</param>
public sealed record EngineCard(string Key, string Name, bool IsThere, string Install);

/// <summary>Neural voices that are brought, licensed, taken away; they lie in a folder of the data, where anybody may put some too.</summary>
public sealed class VoiceDesk
{
    private const int LongestLicence = 400;

    private readonly DataFolder _folder;
    private readonly SemaphoreSlim _gate = new(1);

    /// <summary>From now on what lies in the folders can be used.</summary>
    public VoiceDesk(DataFolder folder)
    {
        _folder = folder;
        Directory.CreateDirectory(folder.Voices);
        NeuralVoices.Watch(folder.Voices);
        Recognisers.Watch(folder.Recognisers);
    }

    /// <summary>What speaks here, and how to get what does not.</summary>
    public static IReadOnlyList<EngineCard> Engines() =>
        [
            new("espeak", "eSpeak NG", OutsideProgram.IsThere("espeak-ng"), "sudo apt install espeak-ng"),
            new("flite", "Flite", OutsideProgram.IsThere("flite"), "sudo apt install flite"),
            new("festival", "Festival", OutsideProgram.IsThere("festival"), "sudo apt install festival festvox-us-slt-hts festvox-kallpc16k"),
            new("neural", "Neural", true, ""),
        ];

    // Voices whose model is on its way: a few, for a while.
    private static readonly TimeSpan Awaited = TimeSpan.FromHours(1);
    private const int MostAwaited = 20;
    private readonly MemoryCache _awaited = new(new MemoryCacheOptions { SizeLimit = MostAwaited });

    private sealed record Announced(string Name, string Description, string? Licence);

    /// <summary>A voice is about to come: what can be said against it is said before its model is sent.</summary>
    /// <returns>What the model is to be sent with.</returns>
    /// <exception cref="RequestException">There is a voice of that name, or a part is missing.</exception>
    /// <exception cref="MediaException">The description is none.</exception>
    public string Announce(NewVoice voice)
    {
        var name = NeuralVoice.Slug(Check.Name(voice.Name, 200, "The name of a voice"));
        if (name.Length == 0)
            throw new RequestException("Call the voice's file something with letters: its name becomes the voice's.");
        if (string.IsNullOrWhiteSpace(voice.Description) || voice.Description.Length > NeuralVoices.LargestDescription)
            throw new RequestException($"Bring the voice's description, {name}.onnx.json, together with its model.");
        NeuralVoice.Read(voice.Description);
        CheckFree(name);
        var ticket = Guid.NewGuid().ToString("N");
        _awaited.Set(
            ticket,
            new Announced(name, voice.Description, LicenceOf(voice.Licence)),
            new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = Awaited }
        );
        return ticket;
    }

    private string ModelOf(string name) => Path.Combine(_folder.Voices, name + ".onnx");

    private void CheckFree(string name)
    {
        // A model without a description is what a broken attempt has left: nobody sees it, so it stands in nobody's way.
        if (File.Exists(ModelOf(name) + ".json"))
            throw new RequestException($"There is a voice called \"{name}\" already: call this file something else, or take the other one away.");
    }

    /// <summary>Takes in a model, tries it, and keeps the voice.</summary>
    /// <param name="ticket">As <see cref="Announce"/> gave it.</param>
    /// <param name="body">The file.</param>
    /// <param name="claimed">How long it says it is, or null.</param>
    /// <param name="cancel">Stops; nothing is kept.</param>
    /// <exception cref="RequestException">It is too large, or there is no room.</exception>
    /// <exception cref="MediaException">It does not speak.</exception>
    public async Task TakeAsync(string? ticket, Stream body, long? claimed, CancellationToken cancel)
    {
        if (!_awaited.TryGetValue<Announced>(ticket ?? "", out var voice) || voice == null)
            throw new RequestException("Bring a voice's description first, then its model.");
        _folder.CheckRoom(claimed ?? 0);
        var path = Path.Combine(_folder.Temporary, $"voice-{Guid.NewGuid():N}.onnx");
        try
        {
            await using (var file = File.Create(path))
                await Incoming.CopyAsync(body, file, NeuralVoices.Largest, "A voice's model", cancel);
            await NeuralVoices.TryAsync(path, voice.Description, cancel);
            await KeepAsync(voice, path);
            _awaited.Remove(ticket!);
        }
        finally
        {
            File.Delete(path);
        }
    }

    private async Task KeepAsync(Announced voice, string model)
    {
        await _gate.WaitAsync();
        try
        {
            CheckFree(voice.Name);
            var path = ModelOf(voice.Name);
            await WriteLicenceAsync(Path.Combine(_folder.Voices, voice.Name + ".licence.txt"), voice.Licence);
            File.Move(model, path, true);
            // The description last: a voice is there when all of it is.
            var part = path + ".json.part";
            await File.WriteAllTextAsync(part, voice.Description);
            File.Move(part, path + ".json", true);
        }
        finally
        {
            _gate.Release();
        }
    }

    private static string? LicenceOf(string? text) =>
        string.IsNullOrWhiteSpace(text) ? null
        : text.Trim().Length > LongestLicence ? throw new RequestException($"The licence is said in at most {LongestLicence} characters; an address will do.")
        : text.Trim();

    // Only what lies in our own folder is changed: others may be shared with other programs.
    private IReadOnlyList<string> Own(string? key) =>
        NeuralVoices.FilesOf(key ?? "") is { } files && Path.GetDirectoryName(files[0]) == _folder.Voices
            ? files
            : throw new NotFoundException("such voice of your own");

    /// <summary>Says what a voice's maker allows.</summary>
    public Task LicenseAsync(VoiceLicence change) => WriteLicenceAsync(Own(change.Key)[2], LicenceOf(change.Licence));

    private static async Task WriteLicenceAsync(string path, string? text)
    {
        if (text != null)
            await File.WriteAllTextAsync(path, text);
        else
            File.Delete(path);
    }

    /// <summary>Takes a voice's files away; what it has said stays.</summary>
    public void Delete(string? key)
    {
        // The description first: nobody finds half a voice.
        foreach (var path in Own(key).OrderByDescending(p => p.EndsWith(".json", StringComparison.Ordinal)))
            File.Delete(path);
    }

    /// <summary>The keys of the voices that can be taken away here.</summary>
    public IReadOnlyList<string> OwnKeys() => NeuralVoices.KeysIn(_folder.Voices);
}
