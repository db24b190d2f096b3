namespace Zamblo.Studio.Jobs;

/// <summary>
/// How long work will take yet, from how fast it has gone of late: the pace of the last half minute, so that neither a slow start nor what was done before
/// is taken for the pace. Says nothing before it knows. Asked from any thread: frames are drawn on several.
/// </summary>
public sealed class Pace
{
    // In seconds: what is looked back at, and what has to be seen before anything is said.
    private const double Window = 30,
        Least = 2;
    private readonly Queue<(double At, double Done)> _seen = new();

    /// <summary>Notes how far the work is.</summary>
    /// <param name="at">Now, in seconds of any clock that does not go back.</param>
    /// <param name="done">So much is done.</param>
    /// <param name="all">Of so much.</param>
    /// <returns>Seconds left; null while nothing can be said.</returns>
    public double? Left(double at, double done, double all)
    {
        lock (_seen)
        {
            _seen.Enqueue((at, done));
            while (_seen.Count > 2 && at - _seen.Peek().At > Window)
                _seen.Dequeue();
            var (from, before) = _seen.Peek();
            return at - from < Least || done <= before ? null : (all - done) * (at - from) / (done - before);
        }
    }

    /// <summary>Seconds as people say them; none where nothing can be said.</summary>
    public static string Said(double? seconds) =>
        seconds switch
        {
            null => "",
            < 10 => ", a few seconds left",
            < 55 => $", {5 * Math.Round(seconds.Value / 5):0} s left",
            < 90 => ", a minute left",
            < 3600 => $", {Math.Round(seconds.Value / 60):0} min left",
            _ => $", {seconds.Value / 3600:0.0} h left",
        };
}
