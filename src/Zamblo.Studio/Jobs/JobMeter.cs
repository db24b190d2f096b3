using System.Diagnostics.Metrics;
using Zamblo.Data;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Jobs;

/// <summary>Measures what is worked on in the background. Names follow OpenTelemetry's rules; nothing in it is anybody's text.</summary>
public sealed class JobMeter : IDisposable
{
    /// <summary>Under which its figures are found.</summary>
    public const string Name = "Zamblo.Jobs";

    private readonly Meter _meter = new(Name);
    private readonly Histogram<double> _duration;
    private Func<IEnumerable<(string Queue, int Waiting)>> _waiting = () => [];

    /// <param name="folder">Of all data.</param>
    public JobMeter(DataFolder folder)
    {
        _duration = _meter.CreateHistogram<double>(
            "zamblo.jobs.duration",
            "s",
            "How long jobs took, by their kind and how they ended.",
            advice: new InstrumentAdvice<double> { HistogramBucketBoundaries = [0.1, 0.3, 1, 3, 10, 30, 100, 300, 1000, 3000] }
        );
        _meter.CreateObservableGauge(
            "zamblo.jobs.waiting",
            () => _waiting().Select(q => new Measurement<int>(q.Waiting, KeyValuePair.Create<string, object?>("queue", q.Queue))),
            "{job}",
            "Jobs that wait, by their queue."
        );
        _meter.CreateObservableGauge("zamblo.data.free", () => FreeOf(folder), "By", "Room that is left where the data lies.");
    }

    private static long FreeOf(DataFolder folder)
    {
        try
        {
            return folder.FreeBytes;
        }
        catch (IOException)
        {
            return 0;
        }
    }

    /// <summary>Says where the lengths of the queues are found.</summary>
    internal void Watch(Func<IEnumerable<(string Queue, int Waiting)>> waiting) => _waiting = waiting;

    /// <summary>A job has ended.</summary>
    /// <param name="kind">Of the job.</param>
    /// <param name="state">How.</param>
    /// <param name="seconds">That it ran.</param>
    internal void Ended(string kind, JobState state, double seconds)
    {
        var end = state.ToString().ToLowerInvariant();
        _duration.Record(seconds, KeyValuePair.Create<string, object?>("kind", kind), KeyValuePair.Create<string, object?>("state", end));
    }

    /// <inheritdoc/>
    public void Dispose() => _meter.Dispose();
}
