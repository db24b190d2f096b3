using System.Buffers.Binary;
using System.Text;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>The acoustic model's scores against those of libpocketsphinx (Debian package pocketsphinx), which wrote the model's format.</summary>
public class ReferenceEngineTests : InFolder
{
    [Fact]
    public async Task Senone_scores_follow_libpocketsphinx_on_every_frame()
    {
        var model = Path.Combine(SpeechModels.Folder, "en-us");
        await File.WriteAllTextAsync(PathOf("files"), "goforward\n");
        var run = await OutsideProgram.RunAsync(
            "pocketsphinx_batch",
            [
                "-hmm",
                model,
                "-dict",
                Path.Combine(SpeechModels.Folder, "cmudict-en-us.dict"),
                "-jsgf",
                Recordings + "goforward.gram",
                "-adcin",
                "yes",
                "-cepdir",
                Recordings,
                "-cepext",
                ".raw",
                "-ctl",
                PathOf("files"),
                "-senlogdir",
                Folder,
                "-compallsen",
                "yes",
                "-topn",
                "128",
                "-cmn",
                "batch",
                "-hyp",
                PathOf("hyp"),
                "-logfn",
                "/dev/null",
            ]
        );
        Assert.Equal(0, run.ExitCode);
        var bytes = await File.ReadAllBytesAsync(PathOf("000000000.sen"));
        // A text header, a mark of the byte order, then per frame the number of senones and their scores: negative logarithms in steps of 1024 x ln 1.0001 nats
        // under the best of the frame.
        var at = Encoding.ASCII.GetString(bytes, 0, 400).IndexOf("endhdr\n", StringComparison.Ordinal) + 7 + 4;
        var acoustic = SpeechModels.Analyzer.Model;
        int senones = acoustic.SenoneCount,
            frames = (bytes.Length - at) / (2 + 2 * senones);
        // Its own cepstra of the same sound, so that only the scores are compared (the front end has a test of its own).
        var mfc = await File.ReadAllBytesAsync(Recordings + "goforward.mfc");
        var features = Features.FromCepstra([.. Enumerable.Range(0, BitConverter.ToInt32(mfc)).Select(i => BitConverter.ToSingle(mfc, 4 + 4 * i))]);
        Assert.Equal(frames, features.Length / Features.Length);
        var scorer = new SenoneScorer(acoustic);
        double difference = 0;
        for (var f = 0; f < frames; f++)
        {
            scorer.SetFrame(features.AsSpan(f * Features.Length, Features.Length));
            var ours = new double[senones];
            var theirs = new double[senones];
            for (var s = 0; s < senones; s++)
            {
                ours[s] = scorer.Score(s);
                theirs[s] = -BinaryPrimitives.ReadInt16LittleEndian(bytes.AsSpan(at + f * (2 + 2 * senones) + 2 + 2 * s)) * 1024 * Math.Log(1.0001);
            }
            // Far from the best it rounds to its 8-bit weights; what a search sees are the best.
            var top = Enumerable.Range(0, senones).OrderByDescending(s => theirs[s]).Take(50).ToArray();
            difference += top.Average(s => Math.Abs(ours[s] - ours.Max() - (theirs[s] - theirs.Max())));
            Assert.Contains(Array.IndexOf(ours, ours.Max()), top.Take(10));
        }
        // Two or three of its steps of 0.1 nats, one a stream.
        Assert.InRange(difference / frames, 0, 0.3);
    }
}
