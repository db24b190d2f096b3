namespace Zamblo.Bench;

/// <summary>Standard MIDI Files of format 0 (MIDI 1.0 specification, from memory), 96 ticks a beat.</summary>
internal static class MidiFile
{
    /// <summary>One voice that plays a row of keys, one after the other.</summary>
    /// <param name="program">Of General MIDI, from 0.</param>
    /// <param name="keys">Numbers of keys; 60 is middle C.</param>
    /// <param name="ticks">Of each key.</param>
    public static byte[] OneVoice(int program, int[] keys, int ticks)
    {
        var events = new List<(int Tick, byte[] Bytes)> { (0, [0xC0, (byte)program]) };
        for (var i = 0; i < keys.Length; i++)
        {
            events.Add((i * ticks, [0x90, (byte)keys[i], 90]));
            events.Add((i * ticks + ticks - 1, [0x80, (byte)keys[i], 0]));
        }
        return Of(events, 100);
    }

    /// <summary>The bytes of a file.</summary>
    /// <param name="events">Messages of channels and when, in ticks.</param>
    /// <param name="bpm">Beats a minute.</param>
    public static byte[] Of(IEnumerable<(int Tick, byte[] Bytes)> events, int bpm)
    {
        var track = new List<byte>();
        var last = 0;
        void Add(int tick, byte[] bytes)
        {
            var delta = tick - last;
            last = tick;
            var length = new Stack<byte>([(byte)(delta & 0x7f)]);
            for (delta >>= 7; delta > 0; delta >>= 7)
                length.Push((byte)(delta & 0x7f | 0x80));
            track.AddRange(length);
            track.AddRange(bytes);
        }
        var tempo = 60_000_000 / bpm;
        Add(0, [0xFF, 0x51, 3, (byte)(tempo >> 16), (byte)(tempo >> 8), (byte)tempo]);
        foreach (var (tick, bytes) in events.OrderBy(e => e.Tick))
            Add(tick, bytes);
        Add(last, [0xFF, 0x2F, 0]);
        return
        [
            .. "MThd"u8,
            0,
            0,
            0,
            6,
            0,
            0,
            0,
            1,
            0,
            96,
            .. "MTrk"u8,
            (byte)(track.Count >> 24),
            (byte)(track.Count >> 16),
            (byte)(track.Count >> 8),
            (byte)track.Count,
            .. track,
        ];
    }
}
