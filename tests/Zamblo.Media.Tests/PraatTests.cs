using System.Globalization;
using System.Text;
using Zamblo.Core.Audio;

namespace Zamblo.Media.Tests;

/// <summary>Pitch and level against Praat (Boersma and Weenink; Debian's package), on people reading.</summary>
[Collection("ffmpeg")]
public class PraatTests : InFolder
{
    [Fact]
    public async Task Pitch_and_level_are_those_of_Praat()
    {
        await File.WriteAllTextAsync(
            PathOf("measure.praat"),
            """
            form Measure
                sentence file
            endform
            sound = Read from file: file$
            pitch = To Pitch (ac): 0.01, 60, 15, "no", 0.03, 0.45, 0.01, 0.35, 0.14, 500
            selectObject: sound
            intensity = To Intensity: 75, 0.01, "no"
            selectObject: sound
            seconds = Get total duration
            n = floor (seconds * 100)
            for i from 0 to n - 1
                t = i / 100 + 0.005
                selectObject: pitch
                f = Get value at time: t, "Hertz", "linear"
                selectObject: intensity
                d = Get value at time: t, "cubic"
                appendFileLine: "OUT", f, " ", d
            endfor
            """.Replace("OUT", PathOf("values.txt"))
        );
        int both = 0,
            gross = 0,
            agree = 0,
            all = 0,
            only = 0;
        var fine = new List<double>();
        var levels = new List<(double A, double B)>();
        foreach (var file in (string[])["0870", "0880", "0890", "0930"])
        {
            var path = Recordings + $"librivox/sense_and_sensibility_01_austen_64kb-{file}.wav";
            File.Delete(PathOf("values.txt"));
            await OutsideProgram.RunAsync("praat", ["--run", PathOf("measure.praat"), path]);
            using var sound = File.OpenRead(path);
            var audio = WavFile.ReadMono(sound);
            var pitch = PitchTracker.Track(audio);
            var level = LoudnessEnvelope.LevelsDb(audio);
            var rows = await File.ReadAllLinesAsync(PathOf("values.txt"), Encoding.UTF8);
            for (var i = 0; i < Math.Min(rows.Length, pitch.Length); i++)
            {
                var parts = rows[i].Split(' ');
                var theirs = double.TryParse(parts[0], NumberStyles.Float, CultureInfo.InvariantCulture, out var f) ? f : 0;
                all++;
                if (theirs > 0 == pitch[i] > 0)
                    agree++;
                if (theirs <= 0 && pitch[i] > 0)
                    only++;
                if (double.TryParse(parts[1], NumberStyles.Float, CultureInfo.InvariantCulture, out var db) && theirs > 0)
                    levels.Add((db, level[i]));
                if (theirs <= 0 || pitch[i] <= 0)
                    continue;
                both++;
                var off = Math.Abs(pitch[i] / theirs - 1);
                // A gross error is 20 % and more (Rabiner, Cheng, Rosenberg and McGonegal, IEEE Trans. ASSP 24, 1976, with 1 ms; as a share it is
                // common practice).
                if (off > 0.2)
                    gross++;
                else
                    fine.Add(off);
            }
        }
        Assert.True(both > 500, $"only {both} frames are voiced in both");
        Assert.True(gross < 0.02 * both, $"{gross} of {both} frames are grossly off");
        Assert.True(agree > 0.87 * all, $"voicing agrees in {agree} of {all} frames; {both} voiced in both, {only} in ours alone");
        fine.Sort();
        Assert.True(fine[fine.Count / 2] < 0.01, $"median {fine[fine.Count / 2]:0.000}");
        // Praat's level is above 20 micropascal: a constant apart from ours.
        var shift = levels.Average(l => l.A - l.B);
        Assert.Equal(94, shift, 1.0);
        Assert.True(Math.Sqrt(levels.Average(l => Math.Pow(l.A - l.B - shift, 2))) < 1.5);
    }
}
