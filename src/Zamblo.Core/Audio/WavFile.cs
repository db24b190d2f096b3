using System.Buffers.Binary;
using System.Text;

namespace Zamblo.Core.Audio;

/// <summary>Reads and writes RIFF WAVE (IBM and Microsoft, "Multimedia Programming Interface and Data Specifications 1.0", 1991).</summary>
public static class WavFile
{
    /// <summary>Reads PCM of 8, 16, 24 or 32 bits or 32-bit float and mixes all channels to one.</summary>
    /// <exception cref="InvalidDataException">Not a WAVE file, or one of another encoding.</exception>
    public static AudioBuffer ReadMono(Stream stream)
    {
        var channels = Read(stream, out var rate);
        if (channels.Length == 1)
            return new AudioBuffer(channels[0], rate);
        var mono = new float[channels[0].Length];
        foreach (var channel in channels)
            for (var i = 0; i < mono.Length; i++)
                mono[i] += channel[i] / channels.Length;
        return new AudioBuffer(mono, rate);
    }

    /// <summary>Length in seconds of a file with one channel of 16-bit PCM, as <see cref="Write"/> makes it.</summary>
    /// <param name="stream">At its start; its length must be known.</param>
    /// <exception cref="InvalidDataException">Another kind of file.</exception>
    public static double Length(Stream stream)
    {
        var (rate, length) = Plain(stream);
        return (double)length / rate;
    }

    /// <summary>A part of such a file, without reading the rest.</summary>
    /// <param name="stream">That can seek.</param>
    /// <param name="start">In seconds.</param>
    /// <param name="end">In seconds; what lies beyond the end is left out.</param>
    /// <exception cref="InvalidDataException">Another kind of file.</exception>
    public static AudioBuffer ReadPart(Stream stream, double start, double end)
    {
        var (rate, length) = Plain(stream);
        var from = Math.Clamp((int)Math.Round(start * rate), 0, length);
        var to = Math.Clamp((int)Math.Round(end * rate), from, length);
        stream.Position = 44 + 2L * from;
        var bytes = new byte[2 * (to - from)];
        stream.ReadExactly(bytes);
        return new AudioBuffer(Decode(bytes, 1, 1, 16)[0], rate);
    }

    // Rate and number of samples of a file as it is written here.
    private static (int Rate, int Length) Plain(Stream stream)
    {
        Span<byte> header = stackalloc byte[44];
        stream.ReadExactly(header);
        if (
            !header[..4].SequenceEqual("RIFF"u8)
            || !header[36..40].SequenceEqual("data"u8)
            || BinaryPrimitives.ReadUInt16LittleEndian(header[22..]) != 1
            || BinaryPrimitives.ReadUInt16LittleEndian(header[34..]) != 16
        )
            throw new InvalidDataException("This is not a WAVE file of one channel of 16 bits.");
        return (BinaryPrimitives.ReadInt32LittleEndian(header[24..]), (int)((stream.Length - 44) / 2));
    }

    /// <summary>Reads every channel by itself.</summary>
    /// <exception cref="InvalidDataException">Not a WAVE file, or one of another encoding.</exception>
    public static float[][] Read(Stream stream, out int sampleRate)
    {
        using var reader = new BinaryReader(stream, Encoding.ASCII, leaveOpen: true);
        try
        {
            if (Tag(reader) != "RIFF")
                throw new InvalidDataException("This is not a WAVE file: it does not begin with RIFF.");
            reader.ReadUInt32();
            if (Tag(reader) != "WAVE")
                throw new InvalidDataException("This is not a WAVE file: the RIFF form is another one.");
            int format = 0,
                channels = 0,
                bits = 0;
            sampleRate = 0;
            while (true)
            {
                var tag = Tag(reader);
                var size = reader.ReadUInt32();
                if (tag == "fmt ")
                {
                    var header = reader.ReadBytes((int)size);
                    if (header.Length < 16)
                        throw new InvalidDataException("The WAVE file's format chunk is cut short.");
                    format = BinaryPrimitives.ReadUInt16LittleEndian(header);
                    channels = BinaryPrimitives.ReadUInt16LittleEndian(header.AsSpan(2));
                    sampleRate = BinaryPrimitives.ReadInt32LittleEndian(header.AsSpan(4));
                    bits = BinaryPrimitives.ReadUInt16LittleEndian(header.AsSpan(14));
                    // WAVE_FORMAT_EXTENSIBLE keeps the real format in the first two bytes of its GUID.
                    if (format == 0xFFFE && header.Length >= 26)
                        format = BinaryPrimitives.ReadUInt16LittleEndian(header.AsSpan(24));
                }
                else if (tag == "data")
                {
                    if (channels == 0)
                        throw new InvalidDataException("The WAVE file has its data before its format.");
                    // A stream writer that could not seek leaves 0 or 0xFFFFFFFF as the size: read to the end then.
                    var data = size is 0 or >= 0xFFFFFF00 ? ReadToEnd(stream) : reader.ReadBytes((int)Math.Min(size, int.MaxValue));
                    return Decode(data, format, channels, bits);
                }
                else
                    reader.BaseStream.Skip(size + (size & 1));
            }
        }
        catch (EndOfStreamException)
        {
            throw new InvalidDataException("The WAVE file is cut short.");
        }
    }

    /// <summary>Writes 16-bit PCM. Samples beyond -1 to 1 are clipped.</summary>
    /// <param name="stream">Where to; need not be able to seek.</param>
    /// <param name="channels">One array per channel, all of one length.</param>
    /// <param name="sampleRate">In Hz.</param>
    public static void Write(Stream stream, float[][] channels, int sampleRate)
    {
        using var writer = new WavWriter(stream, channels.Length, sampleRate, channels[0].Length);
        if (channels.Length == 1)
        {
            writer.Write(channels[0]);
            return;
        }
        var block = new float[16384 * channels.Length];
        for (var at = 0; at < channels[0].Length; at += 16384)
        {
            var n = Math.Min(16384, channels[0].Length - at);
            for (var i = 0; i < n; i++)
            for (var c = 0; c < channels.Length; c++)
                block[i * channels.Length + c] = channels[c][at + i];
            writer.Write(block.AsSpan(0, n * channels.Length));
        }
    }

    private static float[][] Decode(byte[] data, int format, int channels, int bits)
    {
        var bytes = bits / 8;
        if (!((format == 1 && bits is 8 or 16 or 24 or 32) || (format == 3 && bits == 32)))
            throw new InvalidDataException($"The WAVE file's encoding (format {format}, {bits} bits) is not plain PCM or 32-bit float.");
        var count = data.Length / (bytes * channels);
        var result = new float[channels][];
        for (var c = 0; c < channels; c++)
        {
            var samples = result[c] = new float[count];
            for (var i = 0; i < count; i++)
            {
                var at = data.AsSpan((i * channels + c) * bytes, bytes);
                var value = (format, bits) switch
                {
                    (3, _) => BinaryPrimitives.ReadSingleLittleEndian(at),
                    (_, 8) => (at[0] - 128) / 128f,
                    (_, 16) => BinaryPrimitives.ReadInt16LittleEndian(at) / 32768f,
                    (_, 24) => ((at[0] << 8 | at[1] << 16 | at[2] << 24) >> 8) / 8388608f,
                    _ => BinaryPrimitives.ReadInt32LittleEndian(at) / 2147483648f,
                };
                samples[i] = float.IsFinite(value) ? value : 0;
            }
        }
        return result;
    }

    private static string Tag(BinaryReader reader)
    {
        var bytes = reader.ReadBytes(4);
        return bytes.Length == 4 ? Encoding.ASCII.GetString(bytes) : throw new EndOfStreamException();
    }

    private static byte[] ReadToEnd(Stream stream)
    {
        using var all = new MemoryStream();
        stream.CopyTo(all);
        return all.ToArray();
    }

    private static void Skip(this Stream stream, long count)
    {
        Span<byte> scrap = stackalloc byte[256];
        while (count > 0)
        {
            var read = stream.Read(scrap[..(int)Math.Min(count, scrap.Length)]);
            if (read == 0)
                throw new EndOfStreamException();
            count -= read;
        }
    }
}
