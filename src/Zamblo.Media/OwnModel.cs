using Microsoft.ML.OnnxRuntime;

namespace Zamblo.Media;

/// <summary>Networks that are part of the program.</summary>
internal static class OwnModel
{
    /// <summary>Makes one ready to run.</summary>
    /// <param name="name">Of its resource.</param>
    /// <param name="threads">How many it takes at most; 0 takes a core each.</param>
    public static InferenceSession Open(string name, int threads)
    {
        using var stream =
            typeof(OwnModel).Assembly.GetManifestResourceStream(name) ?? throw new InvalidOperationException($"The program lacks its own model {name}.");
        var bytes = new byte[stream.Length];
        stream.ReadExactly(bytes);
        return new InferenceSession(
            bytes,
            new SessionOptions
            {
                IntraOpNumThreads = threads,
                InterOpNumThreads = threads,
                LogSeverityLevel = OrtLoggingLevel.ORT_LOGGING_LEVEL_ERROR,
            }
        );
    }
}
