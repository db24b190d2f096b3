using System.Buffers.Binary;
using System.Text;
using Zamblo.Core.Audio;

namespace Zamblo.Storm;

/// <summary>
/// Files that are not what they say, made from good ones with a seed (OWASP ASVS 4.0.3, chapter 12: size, type by content, names).
/// </summary>
public static class HostileFiles
{
    /// <summary>A good recording: a hum of so many seconds, different for each seed.</summary>
    public static byte[] Good(int seed, double seconds = 1)
    {
        using var wav = new MemoryStream();
        WavFile.Write(
            wav,
            [
                [.. Enumerable.Range(0, (int)(seconds * 16000)).Select(i => 0.3f * MathF.Sin(i / (9f + seed % 50)))],
            ],
            16000
        );
        return wav.ToArray();
    }

    /// <summary>Hostile ones without end: a name, and what is in it.</summary>
    public static IEnumerable<(string Name, byte[] Bytes)> Make(int seed)
    {
        var random = new Random(seed);
        foreach (var (name, text) in Texts)
            yield return (name, Encoding.UTF8.GetBytes(text));
        yield return ("nothing.wav", []);
        yield return ("one.wav", [82]);
        for (var n = 0; ; n++)
        {
            var bytes = Good(n, 0.3);
            switch (n % 6)
            {
                case 0:
                    // One field of the header is something else: RIFF size, format, channels, rate, bits, size of the data.
                    var (at, size) = ((int, int)[])[(4, 4), (16, 4), (20, 2), (22, 2), (24, 4), (28, 4), (32, 2), (34, 2), (40, 4)] is var fields
                        ? fields[random.Next(fields.Length)]
                        : default;
                    long[] values = [0, 1, 3, 7, 999, 65535, 0x7FFFFFFF, 0xFFFFFFFF, random.NextInt64(1L << 32)];
                    var value = values[random.Next(values.Length)];
                    if (size == 2)
                        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(at), (ushort)value);
                    else
                        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(at), (uint)value);
                    break;
                case 1:
                    bytes = bytes[..random.Next(1, 60)];
                    break;
                case 2:
                    for (var i = 0; i < 12; i++)
                        bytes[random.Next(44)] = (byte)random.Next(256);
                    break;
                case 3:
                    random.NextBytes(bytes.AsSpan(12));
                    break;
                case 4:
                    random.NextBytes(bytes);
                    break;
                default:
                    bytes = [.. Magic[random.Next(Magic.Length)], .. bytes[..random.Next(200)]];
                    break;
            }
            string[] names = ["hum.wav", "../../hum.wav", "hum.mp3", "a\u0001b.ogg", new string('n', 3000) + ".flac", "hum.svg", ""];
            yield return (names[random.Next(names.Length)], bytes);
        }
    }

    // The first bytes of what ffmpeg would like to open.
    private static readonly byte[][] Magic =
    [
        "ID3\u0004\0\0\u007f\u007f\u007f\u007f"u8.ToArray(),
        "OggS\0\u0002"u8.ToArray(),
        "fLaC\0\0\0\""u8.ToArray(),
        [0, 0, 0, 24, .. "ftypisom"u8],
        [0x1A, 0x45, 0xDF, 0xA3],
        "FORM\0\0\0\0AIFF"u8.ToArray(),
        "RIFF\0\0\0\0AVI "u8.ToArray(),
        "\u0089PNG\r\n"u8.ToArray(),
    ];

    private static readonly (string Name, string Text)[] Texts =
    [
        ("list.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:10,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"),
        ("list.wav", "ffconcat version 1.0\nfile /etc/passwd\n"),
        ("session.sdp", "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nm=audio 5004 RTP/AVP 0\n"),
        ("letter.wav", "Dear Maro, the flour is late again."),
        ("state.json", "{\"lines\":[{}]}"),
        ("picture.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"><script>alert(1)</script></svg>"),
        ("page.html", "<!doctype html><script>alert(1)</script>"),
        ("subtitles.srt", "1\n00:00:00,000 --> 00:00:01,000\nHello\n"),
    ];
}
