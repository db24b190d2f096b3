using System.Diagnostics;
using System.Globalization;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>Songs over a band as loud as the voice: is the mouth shut where it must be, and open where a note is held?</summary>
internal static class SongBench
{
    // A vowel that is held, and a part that the band has to itself, in seconds.
    private const double Held = 0.4,
        Alone = 1;

    internal sealed class Score
    {
        private int _closures,
            _shut,
            _held,
            _open,
            _band,
            _rest,
            _speech,
            _right;

        public void Add(IReadOnlyList<PhoneSegment> truth, IReadOnlyList<PhoneSegment> heard)
        {
            bool IsShut(PhoneSegment p) => p.Phone is "B" or "M" or "P";
            foreach (var p in truth.Where(IsShut))
            {
                _closures++;
                // A frame of a film to both sides (common practice: a closure shows when it is held for a frame within its time).
                if (heard.Any(h => IsShut(h) && h.Start < p.End + 0.02 && h.End > p.Start - 0.02))
                    _shut++;
            }
            foreach (var p in truth)
                for (var t = p.Start + 0.005; t < p.End; t += 0.01)
                {
                    var said = Scoring.At(heard, t);
                    if (p.Phone == Arpabet.Silence)
                    {
                        if (p.Duration < Alone || t < p.Start + 0.2 || t > p.End - 0.2)
                            continue;
                        _band++;
                        if (said == Arpabet.Silence)
                            _rest++;
                        continue;
                    }
                    _speech++;
                    if (MouthShapes.Of(said).First == MouthShapes.Of(p.Phone).First)
                        _right++;
                    if (!Arpabet.Vowels.Contains(p.Phone) || p.Duration < Held)
                        continue;
                    _held++;
                    if (Arpabet.Vowels.Contains(said))
                        _open++;
                }
        }

        public string Report() =>
            FormattableString.Invariant(
                $"closures shut {Share(_shut, _closures)} %  held vowels open {Share(_open, _held)} %  band alone shut {Share(_rest, _band)} %  "
            ) + FormattableString.Invariant($"speech frames right {Share(_right, _speech)} %");

        private static string Share(int part, int all) => (100.0 * part / Math.Max(1, all)).ToString("0.0", CultureInfo.InvariantCulture).PadLeft(5);
    }

    public static async Task RunAsync(string folder, string only)
    {
        var songs = await SongSets.MakeAsync(folder);
        Console.WriteLine($"{songs.Count} songs, {songs.Sum(s => s.Voice.Duration):0} s, of them {songs.Count(s => s.IsHeldOut)} held out");
        var own = SpeechModels.Analyzer;
        var whole = new SpeechAnalyzer(own.Model, own.Dictionary, voice: VoiceModel.Probabilities);
        Func<Song, HearingRequest> lyrics = s => own.Request(s.Lyrics),
            none = _ => own.Request(null),
            once = s => own.Request(string.Join('\n', s.Lyrics.Split('\n').Distinct())),
            timed = s => own.Request(s.Lyrics) with { Words = LyricTimes.Apply(ScriptText.Words(s.Lyrics), s.Times, 0) };
        foreach (
            var (name, listener, request, made) in new (string, SpeechAnalyzer, Func<Song, HearingRequest>, Func<Song, AudioBuffer>)[]
            {
                ("voice alone, lyrics", own, lyrics, s => s.Voice),
                ("voice alone, once", own, once, s => s.Voice),
                ("voice alone, none", own, none, s => s.Voice),
                ("band heard, lyrics", whole, lyrics, s => s.Mix),
                ("song, lyrics", own, lyrics, s => s.Mix),
                ("song, refrain once", own, once, s => s.Mix),
                ("timed song, lyrics", own, timed, s => s.Mix),
                ("song, none", own, none, s => s.Mix),
            }
        )
        {
            if (!name.StartsWith(only, StringComparison.Ordinal))
                continue;
            var rows = new List<string>();
            foreach (var isHeldOut in (bool[])[false, true])
            {
                var (score, seconds, again, clock) = (new Score(), 0.0, (Right: 0, Wrong: 0), Stopwatch.StartNew());
                foreach (var song in songs.Where(s => s.IsHeldOut == isHeldOut))
                {
                    var heard = listener.Analyze(made(song), request(song));
                    seconds += song.Voice.Duration;
                    score.Add(song.Truth, heard.Phones);
                    var (right, wrong) = Again(song, request == once, heard.Repeats ?? []);
                    again = (again.Right + right, again.Wrong + wrong);
                    var one = new Score();
                    one.Add(song.Truth, heard.Phones);
                    rows.Add($"  {song.Name, -20} {one.Report()}" + (right + wrong > 0 ? $"  sung again {right} right, {wrong} wrong" : ""));
                }
                var speed = FormattableString.Invariant($"{seconds / clock.Elapsed.TotalSeconds:0.0} x real time");
                var rowsAgain = $"rows sung again {again.Right} right, {again.Wrong} wrong";
                Console.WriteLine($"{name, -20} {(isHeldOut ? "held out" : "tuned"), -9} {score.Report()}  {rowsAgain}  {speed}");
            }
            rows.ForEach(Console.WriteLine);
        }
    }

    // Rows that are found to be sung again: right where one that came before begins within a second, and as many as go on like the lyrics.
    private static (int Right, int Wrong) Again(Song song, bool isWrittenOnce, IReadOnlyList<SungRepeat> repeats)
    {
        var sung = song.Lyrics.Split('\n');
        string[] written = isWrittenOnce ? [.. sung.Distinct()] : sung;
        var (all, right) = (0, 0);
        foreach (var repeat in repeats)
        {
            var rows = written[repeat.First..(repeat.Last + 1)];
            all += rows.Length;
            if (!isWrittenOnce)
                continue;
            var at = Enumerable.Range(0, sung.Length).MinBy(i => Math.Abs(song.Times[i].Time - repeat.Start));
            if (Math.Abs(song.Times[at].Time - repeat.Start) < 1)
                right += rows.Where((row, i) => at + i < sung.Length && sung[at + i] == row && Array.IndexOf(sung, row) < at + i).Count();
        }
        return (right, all - right);
    }
}
