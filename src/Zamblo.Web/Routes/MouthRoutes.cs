using Zamblo.Core.Mouth;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Routes;

/// <summary>Hand work on mouths and words.</summary>
internal static class MouthRoutes
{
    internal sealed record Hear(string? Voice, string? Word, string? Written);

    internal sealed record SaveMouth(Guid Line, string? Name);

    internal sealed record ApplyBody(long? Revision, WordPlace[]? Places);

    internal sealed record CuePicture(string Name, string Picture);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapEdit<EditCues>("POST", "/lines/{id:guid}/cues", (e, id) => e with { Line = id });
        api.MapEdit<PutShape>("POST", "/lines/{id:guid}/shape", (e, id) => e with { Line = id });
        api.MapEdit<PasteMouth>("POST", "/lines/{id:guid}/paste", (e, id) => e with { Line = id });
        api.MapEdit<LayMouth>("POST", "/lines/{id:guid}/lay", (e, id) => e with { Line = id });
        api.MapEdit<PinBoundary>("POST", "/lines/{id:guid}/pins", (e, id) => e with { Line = id });
        api.MapEdit<LiftPins>("POST", "/lines/{id:guid}/pins/lift", (e, id) => e with { Line = id });
        api.MapEdit<LiftTouches>("POST", "/scenes/{id:guid}/touches/reset", (e, id) => e with { Scene = id });
        api.MapEdit<SwitchTouches>("POST", "/scenes/{id:guid}/touches/switch", (e, id) => e with { Scene = id });
        api.MapPost(
            "/lines/{id:guid}/words/{word:int}/apply",
            (Guid id, int word, ApplyBody body, EditRunner edits, CancellationToken cancel) =>
                EditRoutes.AnswerAsync(edits, new ApplyWord(word, body.Places ?? []) { Line = id, Revision = body.Revision }, cancel)
        );
        api.MapGet(
            "/lines/{id:guid}/words/{word:int}/elsewhere",
            async (Guid id, int word, SceneDesk scenes) =>
            {
                var work = MouthWork.Open(await scenes.LoadOfLineAsync(id), id);
                var text = work.Word(word).Text;
                return Results.Json(new { text, places = work.Elsewhere(word).Select(p => PlaceOf(work, word, p.Line, p.Word)).ToArray() });
            }
        );
        api.MapPost(
            "/hear",
            async (Hear body, CancellationToken cancel) =>
            {
                var written = body.Written?.Trim() is { Length: > 0 } w ? w : body.Word ?? "";
                if (written.Length > 200)
                    throw new RequestException("A pronunciation has at most 200 characters.");
                var phones = WrittenSounds.Read(written, SpeechModels.Analyzer.Say);
                if (phones.Length == 0)
                    throw new RequestException("There is nothing to hear in that.");
                // The word itself in the voice that will say it.
                var word = PhoneMap.Plain(body.Word ?? "") is { Length: > 0 and <= 60 } plain ? plain : "so";
                var lexicon = new Dictionary<string, Lexeme> { [word] = new(written, phones) };
                var spoken = await Synthesis.SpeakAsync(body.Voice ?? "", word, new Delivery(0.85), cancel, lexicon);
                return Results.Json(new { phones = string.Join(' ', phones), sound = Convert.ToBase64String(WaveAnswer.Of(spoken.Audio)) });
            }
        );
        api.MapGet("/motions", (MotionLibrary motions) => motions.MouthsAsync());
        api.MapPost(
            "/motions",
            async (SaveMouth body, MotionLibrary motions) => Results.Json(new { id = await motions.SaveMouthAsync(body.Line, body.Name) }, statusCode: 201)
        );
        api.MapDelete(
            "/motions/{id:guid}",
            async (Guid id, MotionLibrary motions) =>
            {
                await motions.DeleteMouthAsync(id);
                return Results.NoContent();
            }
        );
    }

    private static object PlaceOf(MouthWork work, int word, MouthWork line, int index)
    {
        var (before, after) = work.Preview(word, line, index);
        CuePicture[] Strip(IEnumerable<Cue> cues) =>
            [
                .. cues.Select(c => new CuePicture(
                    c.Shape.ToString(),
                    FormattableString.Invariant($"/api/characters/{line.Member.Character}/mouths/{c.Shape}?strength={c.Strength:0.0}")
                )),
            ];
        return new
        {
            line = line.Id,
            word = index,
            role = line.Member.RoleName,
            time = Math.Round(line.Placed.Start + line.Words[index].Start, 2),
            text = string.Join(' ', line.Words.Skip(Math.Max(0, index - 3)).Take(7).Select(w => w.Text)),
            before = Strip(before),
            after = Strip(after),
        };
    }
}
