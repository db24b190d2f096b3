using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;

namespace Zamblo.Core.Stage;

/// <summary>Names everything that is seen in a scene.</summary>
internal static class StageManifest
{
    /// <summary>Of a scene.</summary>
    /// <param name="scene">Which.</param>
    /// <param name="front">First shape of the front layer, and how many it has.</param>
    /// <param name="text">What is written in the picture.</param>
    /// <param name="air">Light and weather.</param>
    /// <param name="fade">Out of black and into it, in seconds.</param>
    public static string Of(StageScene scene, (int First, int Count) front, IReadOnlyList<string> text, string air, (double In, double Out) fade)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        void Put<T>(T value) => hash.AppendData(JsonSerializer.SerializeToUtf8Bytes(value));
        Put(
            new
            {
                scene.Rate,
                scene.FrameCount,
                front.First,
                front.Count,
            }
        );
        Put(scene.Shapes);
        Put(scene.Shots.Shots);
        Put(scene.Shots.Drift);
        Put(text);
        Put(string.Create(CultureInfo.InvariantCulture, $"{air} {fade.In} {fade.Out}"));
        if (scene.OrderKey.Length > 0)
            Put(scene.OrderKey);
        foreach (var prop in scene.Props)
            Put(prop);
        foreach (var m in scene.Cast)
        {
            Put(m.Figure.Rig);
            Put(
                new
                {
                    m.X,
                    m.Y,
                    m.Scale,
                    m.BeforeFront,
                    m.Dials,
                    m.Moods,
                    m.Gestures,
                    m.Looks,
                    m.Walks,
                    m.RestCorners,
                    m.Facing,
                }
            );
            if (m.Footage.Runs.Count > 0)
                Put(m.Footage.Runs);
            foreach (var line in m.Lines)
                Put(
                    new
                    {
                        line.Start,
                        line.Speech,
                        line.Mouth,
                        line.Touches,
                        line.Acting,
                    }
                );
        }
        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
