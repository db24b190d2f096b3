using System.Runtime.InteropServices;
using System.Text;

namespace Zamblo.Media.Tests;

/// <summary>
/// Writes small graphs in the open format of ONNX (onnx.proto, IR version 8, operators 17), as protocol buffers by hand: so much of both as the tests
/// need. Field numbers are those of onnx.proto.
/// </summary>
internal sealed class OnnxFile
{
    private const int Floats = 1,
        Longs = 7;

    private readonly Message _graph = new();

    public OnnxFile() => _graph.Put(2, "voice");

    public OnnxFile Input(string name, bool isFloat, params long?[] shape) => Value(11, name, isFloat, shape);

    public OnnxFile Output(string name, params long?[] shape) => Value(12, name, true, shape);

    public OnnxFile Constant(string name, float[] values, params long[] shape) => Tensor(name, Floats, MemoryMarshal.AsBytes<float>(values), shape);

    public OnnxFile Constant(string name, params long[] values) => Tensor(name, Longs, MemoryMarshal.AsBytes<long>(values), [values.Length]);

    public OnnxFile Node(string type, string[] inputs, string output, params (string Name, long Value)[] attributes)
    {
        var node = new Message();
        foreach (var input in inputs)
            node.Put(1, input);
        node.Put(2, output);
        node.Put(4, type);
        foreach (var (name, value) in attributes)
            node.Put(5, new Message().Put(1, name).Put(3, value).Put(20, 2));
        _graph.Put(1, node);
        return this;
    }

    public byte[] Bytes() => new Message().Put(1, 8).Put(7, _graph).Put(8, new Message().Put(1, "").Put(2, 17)).Bytes();

    private OnnxFile Value(int field, string name, bool isFloat, long?[] shape)
    {
        var dims = new Message();
        for (var i = 0; i < shape.Length; i++)
            dims.Put(1, shape[i] is { } n ? new Message().Put(1, n) : new Message().Put(2, $"{name}{i}"));
        _graph.Put(field, new Message().Put(1, name).Put(2, new Message().Put(1, new Message().Put(1, isFloat ? Floats : Longs).Put(2, dims))));
        return this;
    }

    private OnnxFile Tensor(string name, int type, ReadOnlySpan<byte> raw, long[] shape)
    {
        var tensor = new Message();
        foreach (var n in shape)
            tensor.Put(1, n);
        _graph.Put(5, tensor.Put(2, type).Put(8, name).Put(9, raw));
        return this;
    }

    // Protocol buffers: a varint of field and wire type, then a varint or a length and bytes.
    private sealed class Message
    {
        private readonly MemoryStream _bytes = new();

        public byte[] Bytes() => _bytes.ToArray();

        public Message Put(int field, long value)
        {
            Varint((ulong)field << 3);
            Varint((ulong)value);
            return this;
        }

        public Message Put(int field, string text) => Put(field, (ReadOnlySpan<byte>)Encoding.UTF8.GetBytes(text));

        public Message Put(int field, Message inner) => Put(field, (ReadOnlySpan<byte>)inner.Bytes());

        public Message Put(int field, ReadOnlySpan<byte> bytes)
        {
            Varint(((ulong)field << 3) | 2);
            Varint((ulong)bytes.Length);
            _bytes.Write(bytes);
            return this;
        }

        private void Varint(ulong value)
        {
            for (; value >= 0x80; value >>= 7)
                _bytes.WriteByte((byte)(value | 0x80));
            _bytes.WriteByte((byte)value);
        }
    }
}
