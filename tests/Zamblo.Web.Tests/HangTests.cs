using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Audio;
using Zamblo.Data;
using Zamblo.Studio.Hearings;

namespace Zamblo.Web.Tests;

/// <summary>What hangs on what: walks and effects on lines, hearings on sounds, a copy on nothing of its original.</summary>
public sealed class HangTests(Host host) : SceneTests(host), IClassFixture<Host>
{
    private ZambloContext Db() => Services.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContext();

    private async Task<JsonElement> RecordedAsync()
    {
        var samples = await File.ReadAllBytesAsync("/usr/share/pocketsphinx/test/data/goforward.raw");
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. Enumerable.Range(0, samples.Length / 2).Select(i => BitConverter.ToInt16(samples, 2 * i) / 32768f)],
            ],
            16000
        );
        var hash = (await Server.PostAsync("/api/uploads?name=forward.wav", wav.ToArray())).GetProperty("hash").GetString();
        var job = (
            await Server.PostAsync(
                $"/api/scenes/{Scene}/lines",
                new
                {
                    member = Member,
                    kind = "file",
                    hash,
                    name = "forward.wav",
                    text = "go forward ten meters",
                }
            )
        ).GetProperty("job").GetString()!;
        await Server.WaitAsync(Production, job);
        return await StateAsync();
    }

    [Fact]
    public async Task Walks_and_effects_go_where_their_line_goes_and_music_stays()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "The oven is hot, and the bread will not wait.");
        var line = Id(Line(state));
        var start = Line(state).GetProperty("start").GetDouble();
        using var ding = new MemoryStream();
        WavFile.Write(
            ding,
            [
                [.. Enumerable.Range(0, 24000).Select(i => 0.3f * MathF.Sin(0.2f * i) * MathF.Exp(-i / 4000f))],
            ],
            48000
        );
        var hash = (await Server.PostAsync("/api/uploads?name=ding.wav", ding.ToArray())).GetProperty("hash").GetString();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Walk",
                name = "walk",
                start = start + 0.3,
                end = start + 1.1,
                walkTo = 0.3,
            }
        );
        var effect = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/sounds",
                new
                {
                    hash,
                    name = "ding.wav",
                    start = start + 0.8,
                }
            )
        );
        await Server.PatchAsync("/api/sounds/" + effect, new { kind = "Effect" });
        var music = Id(
            await Server.PostAsync(
                $"/api/scenes/{Scene}/sounds",
                new
                {
                    hash,
                    name = "ding.wav",
                    start = 0.0,
                }
            )
        );
        await Server.PatchAsync("/api/sounds/" + music, new { kind = "Music" });
        async Task<(double Line, double Walk, double Effect, double Music)> PlacesAsync()
        {
            var now = await StateAsync();
            double Of(string id) => now.GetProperty("sounds").EnumerateArray().First(s => Id(s) == id).GetProperty("start").GetDouble();
            return (Line(now).GetProperty("start").GetDouble(), now.GetProperty("clips")[0].GetProperty("start").GetDouble(), Of(effect), Of(music));
        }
        var before = await PlacesAsync();
        await Server.PatchAsync("/api/lines/" + line, new { by = 2.0 });
        var after = await PlacesAsync();
        Assert.Equal(before.Line + 2, after.Line, 0.02);
        Assert.Equal(before.Walk + 2, after.Walk, 0.02);
        Assert.Equal(before.Effect + 2, after.Effect, 0.02);
        Assert.Equal(before.Music, after.Music, 0.001);
        await Server.PostAsync($"/api/productions/{Production}/undo", new { });
        Assert.Equal(before, await PlacesAsync());
    }

    [Fact]
    public async Task A_copy_of_a_production_is_drawn_and_heard_as_its_original()
    {
        var state = await Server.SpeakAsync(Production, Scene, Member, "Ding! Three minutes.");
        var line = Line(state).GetProperty("start").GetDouble();
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Mood",
                name = "Joy",
                start = line,
                end = line + 1,
            }
        );
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Gesture",
                name = "wave",
                start = line,
            }
        );
        await Server.PostAsync(
            $"/api/lines/{Id(Line(state))}/shape",
            new
            {
                shape = "Open",
                start = 0.1,
                end = 0.4,
            }
        );
        var copy = (await Server.PostAsync($"/api/productions/{Production}/duplicate", new { })).GetProperty("id").GetGuid();
        await using var db = Db();
        var scene = await db.Scenes.Where(s => s.ProductionId == copy).Select(s => s.Id).SingleAsync();
        foreach (var what in new[] { "shapes", "frames?from=0&count=60", "sound" })
        {
            byte[] original = await Server.Client.GetByteArrayAsync($"/api/scenes/{Scene}/{what}"),
                copied = await Server.Client.GetByteArrayAsync($"/api/scenes/{scene}/{what}");
            Assert.True(original.AsSpan().SequenceEqual(copied), what);
        }
        // And what is done to the one is not done to the other.
        await Server.DeleteAsync("/api/lines/" + Id(Line(state)));
        Assert.Single((await Server.GetAsync("/api/scenes/" + scene)).GetProperty("lines").EnumerateArray());
    }

    [Fact]
    public async Task What_could_not_be_heard_says_so_and_is_asked_again_only_when_somebody_wants_it()
    {
        var state = await RecordedAsync();
        var line = Line(state).GetProperty("id").GetGuid();
        await using var db = Db();
        var production = Guid.Parse(Production);
        // Words are there before its hearing has ended.
        for (var i = 0; i < 300 && !await db.Hearings.AnyAsync(h => h.LineId == line && h.State == HearingState.There); i++)
            await Task.Delay(100);
        await db
            .Hearings.Where(h => h.LineId == line)
            .ExecuteUpdateAsync(u => u.SetProperty(h => h.State, HearingState.Failed).SetProperty(h => h.Error, "The sound could not be read."));
        Task<int> Asked() => db.Jobs.CountAsync(j => j.ProductionId == production && j.Kind == HearingDesk.Job);
        var asked = await Asked();
        var desk = Services.GetRequiredService<HearingDesk>();
        await desk.AskAsync(production);
        await Server.PatchAsync("/api/members/" + Member, new { roleName = "Night baker" });
        Assert.Equal(asked, await Asked());
        Assert.Equal("The sound could not be read.", Assert.Single(await desk.OpenAsync(production)).Value.Error);
        await Server.PostAsync($"/api/lines/{line}/hear", new { });
        for (var i = 0; i < 300 && (await desk.OpenAsync(production)).Count > 0; i++)
            await Task.Delay(100);
        Assert.Equal(HearingState.There, await db.Hearings.Where(h => h.LineId == line).Select(h => h.State).SingleAsync());
    }
}
