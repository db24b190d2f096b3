using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;
using Zamblo.Studio.Hearings;

namespace Zamblo.Web.Tests;

/// <summary>Workers of other machines: they listen to what waits for it here.</summary>
public sealed class FarmHearingTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private static readonly string[] Texts =
    [
        "Batch one: the oven is hot, and the bread is in it.",
        "Batch two: nobody but us is awake in the whole street.",
        "Batch three: the timer rings, and nobody can hear it.",
        "Batch four: every measure of rye gives a darker crust.",
        "Batch five: put the plum cake beside the window, please.",
    ];

    private DataFolder Folder => Services.GetRequiredService<DataFolder>();
    private FarmKey Key => Services.GetRequiredService<FarmKey>();

    // Files that bring no times of their own: somebody has to listen to them.
    private async Task<string[]> BringAsync(params string[] texts)
    {
        var hashes = new List<string>();
        foreach (var text in texts)
        {
            var spoken = await Synthesis.SpeakAsync("flite:slt", text, new Delivery());
            using var wav = new MemoryStream();
            WavFile.Write(wav, [spoken.Audio.Samples], spoken.Audio.SampleRate);
            hashes.Add(Text(await Server.PostAsync("/api/uploads?name=batch.wav", wav.ToArray()), "hash"));
        }
        var jobs = new List<string>();
        foreach (var (hash, text) in hashes.Zip(texts))
            jobs.Add(
                Text(
                    await Server.PostAsync(
                        $"/api/scenes/{Scene}/lines",
                        new
                        {
                            member = Member,
                            text,
                            hash,
                            name = "batch.wav",
                            kind = "file",
                        }
                    ),
                    "job"
                )
            );
        return [.. jobs];
    }

    private async Task DoneAsync(IEnumerable<string> jobs)
    {
        foreach (var job in jobs)
            Assert.Equal("done", Text(await Server.WaitAsync(Production, job), "state"));
    }

    private static async Task WaitForEarAsync(ErrandBoard board)
    {
        for (var i = 0; i < 100 && !board.HasFree; i++)
            await Task.Delay(50);
        Assert.True(board.HasFree);
    }

    [Fact]
    public async Task A_worker_listens_along_and_nobody_can_tell_to_which()
    {
        var own = Directory.CreateTempSubdirectory("zamblo-ears-");
        using var stop = new CancellationTokenSource();
        var said = new List<string>();
        var worker = new FarmWorker(Server.Client.BaseAddress!, Key, new DataFolder(own.FullName), "Ear", 1, said.Add);
        var work = worker.RunAsync(stop.Token);
        try
        {
            await WaitForEarAsync(Services.GetRequiredService<ErrandBoard>());
            await DoneAsync(await BringAsync(Texts));
            Assert.True(worker.Heard > 0, string.Join(" ", said));
            var view = (await Server.GetAsync("/api/workers")).EnumerateArray().Single(w => Text(w, "name") == "Ear");
            Assert.Equal(worker.Heard, view.GetProperty("sounds").GetInt32());
            Assert.True(Number(view, "soundSeconds") > 1);
            Assert.Equal(0, view.GetProperty("failures").GetInt32());
        }
        finally
        {
            await stop.CancelAsync();
            await work;
        }
        // In the order in which they came, whoever was ready first.
        var state = await HeardAsync();
        Assert.Equal(Texts, state.GetProperty("lines").EnumerateArray().Select(l => Text(l, "text")));
        // What is heard alone is the same, to the last digit.
        foreach (var file in Directory.EnumerateFiles(Folder.Cache, "*-speech.json").ToArray())
        {
            var there = JsonSerializer.Deserialize<SpeechAnalysis>(await File.ReadAllBytesAsync(file))!;
            var line = Texts.Single(t => t.StartsWith(string.Join(' ', there.Words.Take(2).Select(w => w.Text)), StringComparison.OrdinalIgnoreCase));
            var spoken = await Synthesis.SpeakAsync("flite:slt", line, new Delivery());
            var path = Path.Combine(own.FullName, "alone.wav");
            await using (var wav = File.Create(path))
                WavFile.Write(wav, [spoken.Audio.Samples], spoken.Audio.SampleRate);
            var query = await QueryAsync(line);
            var alone = await Ears.ListenAsync(path, new Listening("", "alone.wav", query), null, default);
            Assert.Equal(JsonSerializer.Serialize(alone), JsonSerializer.Serialize(there));
        }
        Assert.Empty(Directory.EnumerateFiles(own.FullName, "*-errand.*", SearchOption.AllDirectories));
        own.Delete(true);
    }

    // As the studio asks for it.
    private async Task<SpeechQuery> QueryAsync(string text)
    {
        var line = (await StateAsync()).GetProperty("lines").EnumerateArray().First(l => Text(l, "text") == text);
        await using var db = await Services
            .GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<Zamblo.Data.ZambloContext>>()
            .CreateDbContextAsync();
        var found = await Studio.Scenes.SceneReader.LinesAsync(db, Guid.Parse(Production), new HashSet<Guid> { Guid.Parse(Id(line)) });
        return await SpokenNames.WithAsync(db, Guid.Parse(Production), found[0].Query);
    }

    [Fact]
    public async Task What_a_worker_says_that_it_heard_is_looked_at_and_one_that_fails_or_goes_costs_nothing()
    {
        using var line = new FarmLine(Server.Client.BaseAddress!, Key);
        // One with other ears draws only.
        var deaf = new WorkerHello("Deaf", FilmChunks.Version, 1, "other");
        var hello = new WorkerHello("Doubtful", FilmChunks.Version, 1, SpeechModels.Identity);
        var other = (await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", deaf, default))!.Worker;
        var id = (await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", hello, default))!.Worker;
        using var leave = new CancellationTokenSource();
        var none = line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{other}/work", null, leave.Token);
        var asked = line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{id}/work", null, default);
        await WaitForEarAsync(Services.GetRequiredService<ErrandBoard>());
        var jobs = await BringAsync([.. Texts.Select(t => "Again. " + t)]);
        var loan = (await asked)!.Errand!;
        var place = $"/pieces/crew/{id}/errands/{loan.Id}";
        var part = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N"));
        try
        {
            // The sound, and no other; for this worker only.
            Assert.Equal(loan.Listening!.Hash, await line.FetchAsync(place + "/sound", part, default));
            await Assert.ThrowsAsync<LoanOverException>(() => line.FetchAsync($"/pieces/crew/{other}/errands/{loan.Id}/sound", part, default));
            await Assert.ThrowsAsync<LoanOverException>(() => line.FetchAsync($"/pieces/crew/{id}/errands/{Guid.NewGuid()}/sound", part, default));
            foreach (
                var wrong in new[] { "flour", "{}", """{"Duration":1,"Phones":[{"Phone":"AA","Start":0.5,"End":0.2}],"Words":[],"LevelsDb":[],"PitchHz":[]}""" }
            )
            {
                await File.WriteAllTextAsync(part, wrong);
                await Assert.ThrowsAsync<MediaException>(() => line.BringAsync(place + "/made", part, default));
            }
            await line.AskAsync<object>(HttpMethod.Post, place, new ErrandBeat(0.5), default);
            await line.AskAsync<object>(HttpMethod.Post, place + "/failure", new ChunkFailure("The ear is full of flour."), default);
            await Assert.ThrowsAsync<LoanOverException>(() => line.AskAsync<object>(HttpMethod.Post, place, new ErrandBeat(0.6), default));
        }
        finally
        {
            File.Delete(part);
        }
        var view = (await Server.GetAsync("/api/workers")).EnumerateArray().Single(w => Text(w, "name") == "Doubtful");
        Assert.Equal("The ear is full of flour.", Text(view, "error"));
        // It has another one, perhaps, and says goodbye over it.
        await line.AskAsync<object>(HttpMethod.Delete, $"/pieces/crew/{id}", null, default);
        await DoneAsync(jobs);
        Assert.False(none.IsCompleted && (await none)?.Errand != null);
        await leave.CancelAsync();
        Assert.Empty(Directory.EnumerateFiles(Folder.Temporary, "*-errand.part"));
    }

    [Fact]
    public async Task Nobody_waits_for_a_worker_that_does_not_come_or_falls_silent()
    {
        var board = new ErrandBoard { Silence = TimeSpan.FromSeconds(0.5), Patience = TimeSpan.FromSeconds(0.5) };
        var what = new Listening(new string('a', 64), "a.wav", new SpeechQuery(null, "en"));
        // Without a worker that was found nothing is offered.
        Assert.Null(await board.HearAsync(what, null, default));
        Assert.False(board.HasFree);
        Assert.Null(board.Lend(Guid.NewGuid(), false));
        Assert.True(board.HasFree);
        using (board.TakeSeat())
        {
            Assert.False(board.HasFree);
            Assert.Null(await board.HearAsync(what, null, default));
        }
        using (board.TakeSeat())
        {
            var shares = new List<double>();
            var heard = board.HearAsync(what, shares.Add, default);
            var worker = Guid.NewGuid();
            var loan = board.Lend(worker, false)!;
            // One sound at a time.
            Assert.Null(board.Lend(worker, false));
            board.Beat(worker, loan.Id, 0.25);
            Assert.Null(await heard);
            Assert.Equal([0.25], shares);
            Assert.Throws<LoanOverException>(() => board.Beat(worker, loan.Id, 0.5));
        }
        using (board.TakeSeat())
        {
            using var stop = new CancellationTokenSource();
            var heard = board.HearAsync(what, null, stop.Token);
            await stop.CancelAsync();
            await Assert.ThrowsAnyAsync<OperationCanceledException>(() => heard);
        }
    }
}
