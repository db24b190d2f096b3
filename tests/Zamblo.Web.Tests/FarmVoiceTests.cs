using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;

namespace Zamblo.Web.Tests;

/// <summary>Workers of other machines: they speak what waits for it here.</summary>
public sealed class FarmVoiceTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private static readonly string[] Texts = [.. Enumerable.Range(1, 8).Select(n => $"Tray number {n} is ready, and (pause) nobody *wants* it.")];

    private FarmKey Key => Services.GetRequiredService<FarmKey>();
    private ErrandBoard Board => Services.GetRequiredService<ErrandBoard>();

    private async Task<string[]> OrderAsync(IEnumerable<string> texts)
    {
        var jobs = new List<string>();
        foreach (var text in texts)
            jobs.Add(
                Text(
                    await Server.PostAsync(
                        $"/api/scenes/{Scene}/lines",
                        new
                        {
                            member = Member,
                            text,
                            kind = "synthesis",
                        }
                    ),
                    "job"
                )
            );
        return [.. jobs];
    }

    private async Task WaitForVoiceAsync()
    {
        for (var i = 0; i < 200 && !Board.HasFreeVoice; i++)
            await Task.Delay(50);
        Assert.True(Board.HasFreeVoice);
    }

    [Fact]
    public async Task A_worker_speaks_along_with_a_voice_of_the_studio_s_folder_and_nobody_can_tell_which()
    {
        // A voice that is nowhere but in the studio's folder.
        var voices = new DataFolder(Data).Voices;
        Directory.CreateDirectory(voices);
        foreach (var ending in new[] { ".onnx", ".onnx.json" })
            File.Copy(VoiceWebTests.PathOf("night_owl" + ending), Path.Combine(voices, "farm_owl" + ending), overwrite: true);
        var voice = NeuralVoices.KeysIn(voices)[0];
        await Server.PatchAsync($"/api/members/{Member}", new { revision = Revision(await StateAsync()), voice });
        var own = Directory.CreateTempSubdirectory("zamblo-mouth-");
        using var stop = new CancellationTokenSource();
        var said = new List<string>();
        var worker = new FarmWorker(Server.Client.BaseAddress!, Key, new DataFolder(own.FullName), "Mouth", 1, said.Add);
        var work = worker.RunAsync(stop.Token);
        try
        {
            await WaitForVoiceAsync();
            foreach (var job in await OrderAsync(Texts))
                Assert.Equal("done", Text(await Server.WaitAsync(Production, job), "state"));
            Assert.True(worker.Spoken > 0, string.Join(" ", said));
            var view = (await Server.GetAsync("/api/workers")).EnumerateArray().Single(w => Text(w, "name") == "Mouth");
            Assert.Equal((worker.Spoken, 0), (view.GetProperty("texts").GetInt32(), view.GetProperty("failures").GetInt32()));
            Assert.True(File.Exists(Path.Combine(own.FullName, "voices", "farm_owl.onnx")));
        }
        finally
        {
            await stop.CancelAsync();
            await work;
        }
        // In the order in which they were typed, each as it is when it is spoken alone.
        var lines = (await StateAsync()).GetProperty("lines").EnumerateArray().ToArray();
        Assert.Equal(Texts, lines.Select(l => Text(l, "text")));
        var assets = Services.GetRequiredService<AssetStore>();
        foreach (var line in lines)
        {
            var alone = await Synthesis.SpeakAsync(voice, Text(line, "text"), new Delivery());
            using var wav = File.OpenRead(assets.PathOf(Text(line.GetProperty("take"), "hash")));
            var kept = WavFile.ReadMono(wav);
            Assert.Equal((alone.Audio.SampleRate, alone.Audio.Samples.Length), (kept.SampleRate, kept.Samples.Length));
            for (var i = 0; i < kept.Samples.Length; i++)
                Assert.True(Math.Abs(alone.Audio.Samples[i] - kept.Samples[i]) < 1e-4, $"sample {i} of \"{Text(line, "text")}\"");
        }
        own.Delete(true);
    }

    [Fact]
    public async Task What_a_worker_brings_instead_of_speech_is_refused_and_another_s_voices_are_not_asked_for()
    {
        using var line = new FarmLine(Server.Client.BaseAddress!, Key);
        var hello = new WorkerHello("Mute", FilmChunks.Version, 1, SpeechModels.Identity, "other voices");
        var mute = (await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", hello, default))!.Worker;
        hello = hello with { Name = "Hoarse", Voices = await Synthesis.IdentityAsync() };
        var id = (await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", hello, default))!.Worker;
        using var leave = new CancellationTokenSource();
        var none = line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{mute}/work", null, leave.Token);
        var asked = line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{id}/work", null, default);
        await WaitForVoiceAsync();
        var jobs = await OrderAsync(Texts.Select(t => "Again. " + t));
        var loan = (await asked)!.Errand!;
        Assert.Null(loan.Listening);
        Assert.Empty(loan.Speaking!.Files);
        var place = $"/pieces/crew/{id}/errands/{loan.Id}";
        var part = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N"));
        try
        {
            await Assert.ThrowsAsync<LoanOverException>(() => line.FetchAsync(place + "/sound", part, default));
            await Assert.ThrowsAsync<LoanOverException>(() => line.FetchAsync($"{place}/voice/{new string('a', 64)}", part, default));
            var speech = """{"Duration":1,"Phones":[],"Words":[],"LevelsDb":[],"PitchHz":[]}""";
            foreach (var wrong in new[] { "flour", "{}", speech, $$"""{"Rate":16000,"Samples":"AADAfw==","Speech":{{speech}}}""" })
            {
                await File.WriteAllTextAsync(part, wrong);
                await Assert.ThrowsAsync<MediaException>(() => line.BringAsync(place + "/made", part, default));
            }
            await line.AskAsync<object>(HttpMethod.Post, place + "/failure", new ChunkFailure("The mouth is full of flour."), default);
        }
        finally
        {
            File.Delete(part);
        }
        await line.AskAsync<object>(HttpMethod.Delete, $"/pieces/crew/{id}", null, default);
        foreach (var job in jobs)
            Assert.Equal("done", Text(await Server.WaitAsync(Production, job), "state"));
        Assert.False(none.IsCompleted && (await none)?.Errand != null);
        await leave.CancelAsync();
        await line.AskAsync<object>(HttpMethod.Delete, $"/pieces/crew/{mute}", null, default);
    }

    [Fact]
    public async Task What_was_spoken_for_other_words_or_came_to_nothing_is_not_taken()
    {
        var board = new ErrandBoard { Patience = TimeSpan.FromSeconds(0.3) };
        var ahead = new SpokenAhead(board);
        var what = new Speaking("espeak:en-us", "Two rolls.", new Delivery(), new Dictionary<string, Lexeme>());
        var (first, second) = (Guid.NewGuid(), Guid.NewGuid());
        Assert.Null(await ahead.TakeAsync(first, what, default));
        // Nobody speaks: whoever wanted it does so.
        using (board.TakeSeat())
            await ahead.SpeakAsync(first, what, default);
        Assert.Null(await ahead.TakeAsync(first, what, default));
        using (board.TakeSeat())
        {
            var asked = ahead.SpeakAsync(second, what, default);
            Assert.Null(board.Lend(Guid.NewGuid(), false));
            var worker = Guid.NewGuid();
            var loan = board.Lend(worker, true)!;
            Assert.True(loan.Speaking!.IsSame(what));
            var spoken = await what.SpeakAsync(default);
            var body = new MemoryStream(Speaking.Write(spoken));
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(body.ToArray()));
            Assert.True((await board.TakeAsync(worker, loan.Id, body, hash, new DataFolder(Data), default)).IsSpoken);
            await asked;
            // Respelled meanwhile.
            var other = what with
            {
                Lexicon = new Dictionary<string, Lexeme> { ["rolls"] = new("rows", ["R", "OW", "Z"]) },
            };
            Assert.Null(await ahead.TakeAsync(second, other, default));
            Assert.Null(await ahead.TakeAsync(second, what, default));
        }
    }
}
