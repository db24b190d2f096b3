using System.Buffers.Binary;
using System.Numerics;
using System.Text.Json;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Interchange;

/// <summary>
/// The acting of a film as binary glTF 2.0 (Khronos, ISO/IEC 12113:2022): for each member a node with a plain face whose morph targets are
/// <see cref="FaceTargets"/>, and one animation: weights and the rotation of the head, a key for each frame.
/// </summary>
public static class Gltf
{
    // Rows and columns of the plain face.
    private const int Rows = 13,
        Columns = 11;

    private const int Float = 5126,
        Short = 5123;

    /// <summary>Writes it.</summary>
    /// <param name="output">Where to.</param>
    /// <param name="members">Name, and a pose for each frame.</param>
    /// <param name="rate">Of the poses.</param>
    /// <param name="names">Of the morph targets.</param>
    public static void WriteBinary(
        Stream output,
        IReadOnlyList<(string Name, IReadOnlyList<Pose> Poses)> members,
        FrameRate rate,
        FaceNames names = FaceNames.Zamblo
    )
    {
        var face = FaceTargets.By(names);
        var file = new Builder();
        var (points, normals, triangles) = Face();
        var position = file.Add(points.SelectMany(p => new[] { p.X, p.Y, p.Z }).ToArray(), "VEC3", hasBounds: true, target: 34962);
        var normal = file.Add(normals.SelectMany(p => new[] { p.X, p.Y, p.Z }).ToArray(), "VEC3", target: 34962);
        var indices = file.Add(triangles);
        int[] targets = [.. face.Select(t => file.Add(points.SelectMany(p => Moved(p, t)).ToArray(), "VEC3", hasBounds: true, target: 34962))];
        var frames = members.Count == 0 ? 0 : members.Max(m => m.Poses.Count);
        var times = file.Add([.. Enumerable.Range(0, Math.Max(1, frames)).Select(f => (float)rate.TimeOf(f))], "SCALAR", hasBounds: true);
        var channels = new List<object>();
        var samplers = new List<object>();
        for (var m = 0; m < members.Count; m++)
        {
            var poses = Enumerable.Range(0, Math.Max(1, frames)).Select(f => f < members[m].Poses.Count ? members[m].Poses[f] : Pose.Neutral).ToArray();
            Animate(m, "weights", file.Add([.. poses.SelectMany(p => face.Select(t => t.Weight(p)))], "SCALAR"));
            Animate(m, "rotation", file.Add([.. poses.Select(FaceTargets.HeadOf).SelectMany(q => new[] { q.X, q.Y, q.Z, q.W })], "VEC4"));
        }
        void Animate(int node, string path, int values)
        {
            channels.Add(new { sampler = samplers.Count, target = new { node, path } });
            samplers.Add(
                new
                {
                    input = times,
                    interpolation = "LINEAR",
                    output = values,
                }
            );
        }
        file.Write(
            output,
            new Dictionary<string, object>
            {
                ["asset"] = new { version = "2.0", generator = "Zamblo" },
                ["scene"] = 0,
                ["scenes"] = new[] { new { nodes = Enumerable.Range(0, members.Count) } },
                ["nodes"] = members.Select(
                    (m, i) =>
                        new
                        {
                            name = m.Name,
                            mesh = 0,
                            translation = new[] { 2.4f * (i - (members.Count - 1) / 2f), 0, 0 },
                        }
                ),
                ["meshes"] = new[]
                {
                    new
                    {
                        name = "Face",
                        primitives = new[]
                        {
                            new
                            {
                                attributes = new { POSITION = position, NORMAL = normal },
                                indices,
                                targets = targets.Select(t => new { POSITION = t }),
                            },
                        },
                        weights = face.Select(_ => 0f),
                        extras = new { targetNames = face.Select(t => t.Name) },
                    },
                },
                ["animations"] = new[]
                {
                    new
                    {
                        name = "Acting",
                        channels,
                        samplers,
                    },
                },
            }
        );
    }

    // The front half of an egg.
    private static (Vector3[] Points, Vector3[] Normals, ushort[] Triangles) Face()
    {
        var points = new Vector3[Rows * Columns];
        var normals = new Vector3[Rows * Columns];
        for (var r = 0; r < Rows; r++)
        for (var c = 0; c < Columns; c++)
        {
            double up = Math.PI * (0.5 - (r + 0.5) / Rows),
                across = Math.PI * (0.9 * c / (Columns - 1) - 0.45);
            var n = new Vector3((float)(Math.Cos(up) * Math.Sin(across)), (float)Math.Sin(up), (float)(Math.Cos(up) * Math.Cos(across)));
            points[r * Columns + c] = n * new Vector3(0.85f, 1.1f, 0.8f);
            normals[r * Columns + c] = Vector3.Normalize(n / new Vector3(0.85f, 1.1f, 0.8f));
        }
        var triangles = new List<ushort>();
        for (var r = 0; r + 1 < Rows; r++)
        for (var c = 0; c + 1 < Columns; c++)
        {
            ushort a = (ushort)(r * Columns + c),
                b = (ushort)(a + 1),
                d = (ushort)(a + Columns),
                e = (ushort)(d + 1);
            triangles.AddRange([a, d, b, b, d, e]);
        }
        return (points, normals, [.. triangles]);
    }

    // A soft dent about its place; what is at one corner or brow only and not named for a side goes the mirrored way at the other.
    private static IEnumerable<float> Moved(Vector3 point, FaceTargets.Target target)
    {
        float Near(Vector2 place) => MathF.Exp(-8 * Vector2.DistanceSquared(new Vector2(point.X, point.Y), place));
        var way = Near(target.Place) * target.Way;
        var isOneSided =
            target.Name.Contains("left", StringComparison.OrdinalIgnoreCase)
            || target.Name.Contains("right", StringComparison.OrdinalIgnoreCase)
            || target.Name.Contains("_l_")
            || target.Name.Contains("_r_");
        if (target.Place.X != 0 && !isOneSided)
            way += Near(target.Place * new Vector2(-1, 1)) * target.Way * new Vector3(-1, 1, 1);
        return [way.X, way.Y, way.Z];
    }

    private sealed class Builder
    {
        private readonly MemoryStream _data = new();
        private readonly List<object> _views = [],
            _accessors = [];

        public int Add(float[] values, string type, bool hasBounds = false, int? target = null)
        {
            var parts = type switch
            {
                "VEC3" => 3,
                "VEC4" => 4,
                _ => 1,
            };
            var bytes = new byte[4 * values.Length];
            for (var i = 0; i < values.Length; i++)
                BinaryPrimitives.WriteSingleLittleEndian(bytes.AsSpan(4 * i), values[i]);
            float[] Bound(Func<IEnumerable<float>, float> of) => [.. Enumerable.Range(0, parts).Select(p => of(values.Where((_, i) => i % parts == p)))];
            var accessor = new Dictionary<string, object>
            {
                ["bufferView"] = View(bytes, target),
                ["componentType"] = Float,
                ["count"] = values.Length / parts,
                ["type"] = type,
            };
            if (hasBounds)
                (accessor["min"], accessor["max"]) = (Bound(v => v.Min()), Bound(v => v.Max()));
            _accessors.Add(accessor);
            return _accessors.Count - 1;
        }

        public int Add(ushort[] indices)
        {
            var bytes = new byte[2 * indices.Length];
            for (var i = 0; i < indices.Length; i++)
                BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(2 * i), indices[i]);
            _accessors.Add(
                new
                {
                    bufferView = View(bytes, 34963),
                    componentType = Short,
                    count = indices.Length,
                    type = "SCALAR",
                }
            );
            return _accessors.Count - 1;
        }

        private int View(byte[] bytes, int? target)
        {
            while (_data.Length % 4 != 0)
                _data.WriteByte(0);
            var view = new Dictionary<string, object>
            {
                ["buffer"] = 0,
                ["byteOffset"] = _data.Length,
                ["byteLength"] = bytes.Length,
            };
            if (target is { } t)
                view["target"] = t;
            _views.Add(view);
            _data.Write(bytes);
            return _views.Count - 1;
        }

        // glTF 2.0, 4.4: header, a chunk of JSON, a chunk of bytes, each filled up to four bytes.
        public void Write(Stream output, Dictionary<string, object> root)
        {
            while (_data.Length % 4 != 0)
                _data.WriteByte(0);
            root["buffers"] = new[] { new { byteLength = _data.Length } };
            root["bufferViews"] = _views;
            root["accessors"] = _accessors;
            var json = JsonSerializer.SerializeToUtf8Bytes(root).ToList();
            while (json.Count % 4 != 0)
                json.Add((byte)' ');
            void Number(uint value)
            {
                Span<byte> bytes = stackalloc byte[4];
                BinaryPrimitives.WriteUInt32LittleEndian(bytes, value);
                output.Write(bytes);
            }
            Number(0x46546C67);
            Number(2);
            Number((uint)(12 + 8 + json.Count + 8 + _data.Length));
            Number((uint)json.Count);
            Number(0x4E4F534A);
            output.Write(json.ToArray());
            Number((uint)_data.Length);
            Number(0x004E4942);
            _data.Position = 0;
            _data.CopyTo(output);
        }
    }
}
