using System.Buffers.Binary;

namespace Zamblo.Core.Audio;

/// <summary>
/// Writes a WAVE file of 16-bit PCM piece by piece (Microsoft and IBM, "Multimedia Programming Interface and Data Specifications 1.0", 1991).
/// </summary>
public sealed class WavWriter : IDisposable
{
    private const int HeaderBytes = 44,
        Piece = 16384;

    private readonly Stream _stream;
    private readonly int _channels,
        _sampleRate;
    private readonly long _begin;
    private readonly bool _isKnown;
    private readonly byte[] _buffer = new byte[Piece * 2];
    private long _bytes;

    /// <param name="stream">Takes the file; it can seek unless the length is given. It stays open.</param>
    /// <param name="channels">1 or more; samples alternate.</param>
    /// <param name="sampleRate">In Hz.</param>
    /// <param name="length">In samples of a channel; null where it is not known yet: then it is written at the end.</param>
    public WavWriter(Stream stream, int channels, int sampleRate, long? length = null)
    {
        (_stream, _channels, _sampleRate, _isKnown) = (stream, channels, sampleRate, length != null);
        _begin = _isKnown ? 0 : stream.Position;
        WriteHeader((length ?? 0) * channels * 2);
    }

    /// <summary>Writes samples between -1 and 1, of all channels in turn.</summary>
    public void Write(ReadOnlySpan<float> samples)
    {
        while (samples.Length > 0)
        {
            var n = Math.Min(Piece, samples.Length);
            for (var i = 0; i < n; i++)
                BinaryPrimitives.WriteInt16LittleEndian(_buffer.AsSpan(2 * i), (short)Math.Clamp(MathF.Round(samples[i] * 32767f), -32768, 32767));
            _stream.Write(_buffer, 0, 2 * n);
            _bytes += 2 * n;
            samples = samples[n..];
        }
    }

    /// <summary>Ends the file.</summary>
    public void Dispose()
    {
        if (_isKnown)
            return;
        var end = _stream.Position;
        _stream.Position = _begin;
        WriteHeader(_bytes);
        _stream.Position = end;
    }

    private void WriteHeader(long bytes)
    {
        Span<byte> header = stackalloc byte[HeaderBytes];
        "RIFF"u8.CopyTo(header);
        BinaryPrimitives.WriteUInt32LittleEndian(header[4..], (uint)(HeaderBytes - 8 + bytes));
        "WAVEfmt "u8.CopyTo(header[8..]);
        BinaryPrimitives.WriteUInt32LittleEndian(header[16..], 16);
        BinaryPrimitives.WriteUInt16LittleEndian(header[20..], 1);
        BinaryPrimitives.WriteUInt16LittleEndian(header[22..], (ushort)_channels);
        BinaryPrimitives.WriteUInt32LittleEndian(header[24..], (uint)_sampleRate);
        BinaryPrimitives.WriteUInt32LittleEndian(header[28..], (uint)(_sampleRate * _channels * 2));
        BinaryPrimitives.WriteUInt16LittleEndian(header[32..], (ushort)(_channels * 2));
        BinaryPrimitives.WriteUInt16LittleEndian(header[34..], 16);
        "data"u8.CopyTo(header[36..]);
        BinaryPrimitives.WriteUInt32LittleEndian(header[40..], (uint)bytes);
        _stream.Write(header);
    }
}
