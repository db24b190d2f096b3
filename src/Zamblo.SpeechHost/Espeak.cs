using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;

namespace Zamblo.SpeechHost;

/// <summary>The C interface of espeak-ng (speak_lib.h), as far as it is used.</summary>
internal static unsafe partial class Espeak
{
    private const string Library = "libespeak-ng.so.1";

    [LibraryImport(Library)]
    private static partial int espeak_Initialize(int output, int bufferMs, nint path, int options);

    [LibraryImport(Library)]
    private static partial void espeak_SetSynthCallback(delegate* unmanaged<short*, int, Event*, int> callback);

    [LibraryImport(Library, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int espeak_SetVoiceByName(string name);

    [LibraryImport(Library)]
    private static partial int espeak_SetParameter(int parameter, int value, int relative);

    [LibraryImport(Library)]
    private static partial int espeak_Synth(byte* text, nuint size, uint position, int positionType, uint end, uint flags, uint* id, nint user);

    [LibraryImport(Library)]
    private static partial int espeak_Synchronize();

    [LibraryImport(Library)]
    private static partial nint espeak_TextToPhonemes(nint* text, int textMode, int phonemeMode);

    [LibraryImport(Library)]
    private static partial VoiceInfo** espeak_ListVoices(nint spec);

    [StructLayout(LayoutKind.Sequential)]
    private struct Event
    {
        public int Type;
        public uint Id;
        public int TextPosition;
        public int Length;
        public int AudioPosition;
        public int Sample;
        public nint User;
        public long Value;
    }

    [StructLayout(LayoutKind.Sequential)]
    private struct VoiceInfo
    {
        public byte* Name;
        public byte* Languages;
        public byte* Identifier;
        public byte Gender,
            Age,
            Variant,
            Reserved;
        public int Score;
        public nint Spare;
    }

    private sealed record Mark(string Kind, double Time, string? Phone, int Position, int Length);

    private static readonly List<short> Sound = [];
    private static readonly List<Mark> Marks = [];
    private static int _rate;

    private static int Initialize()
    {
        // Retrieval mode; phone events as IPA; report errors instead of ending the process.
        var rate = espeak_Initialize(1, 200, 0, 0x0001 | 0x0002 | 0x8000);
        if (rate <= 0)
            throw new InvalidOperationException("The speech engine espeak-ng did not start: its data files may be missing.");
        return _rate = rate;
    }

    private static void SetVoice(string voice)
    {
        var (language, variant) = voice.Split('+', 2) is [var l, var v] ? (l, "+" + v) : (voice, "");
        // A language tag is a name of its own only now and then ("en-gb" lies in a file "gmw/en"), and with a tag the engine drops the variant
        // without a word: so the file is looked up first.
        var file = FileOf(language);
        if (espeak_SetVoiceByName((file ?? language) + variant) != 0)
            throw new InvalidOperationException($"The speech engine espeak-ng has no voice \"{voice}\".");
    }

    private static string? FileOf(string language)
    {
        var list = espeak_ListVoices(0);
        string? found = null;
        for (var i = 0; list[i] != null; i++)
        {
            // A voice has several languages, each with a priority before it; the list ends with a nought.
            for (var at = list[i]->Languages; *at != 0; )
            {
                var tag = Marshal.PtrToStringUTF8((nint)(at + 1))!;
                if (tag.Equals(language, StringComparison.OrdinalIgnoreCase))
                {
                    var file = Marshal.PtrToStringUTF8((nint)list[i]->Identifier);
                    // Of several the one whose first language it is.
                    if (at == list[i]->Languages)
                        return file;
                    found ??= file;
                }
                at += 2 + Encoding.UTF8.GetByteCount(tag);
            }
        }
        return found;
    }

    public static void Speak(string voice, string text, string path, int? rate, int? pitch, int? range, int? volume, int? gap, bool ssml, TextWriter output)
    {
        Initialize();
        SetVoice(voice);
        // Parameter numbers: 1 rate, 2 volume, 3 pitch, 4 range, 7 word gap.
        foreach (var (number, value) in new (int, int?)[] { (1, rate), (2, volume), (3, pitch), (4, range), (7, gap) })
            if (value is { } v)
                _ = espeak_SetParameter(number, v, 0);
        espeak_SetSynthCallback(&OnSound);
        var bytes = Encoding.UTF8.GetBytes(text + "\0");
        fixed (byte* p = bytes)
        {
            // Flags: UTF-8, phone events on, SSML where asked for.
            var status = espeak_Synth(p, (nuint)bytes.Length, 0, 1, 0, 1u | 0x100u | (ssml ? 0x10u : 0u), null, 0);
            if (status != 0)
                throw new InvalidOperationException("The speech engine espeak-ng refused the text.");
        }
        _ = espeak_Synchronize();
        using (var file = File.Create(path))
            WriteWav(file);
        using var json = new Utf8JsonWriter(Console.OpenStandardOutput());
        json.WriteStartObject();
        json.WriteNumber("sampleRate", _rate);
        json.WriteNumber("duration", (double)Sound.Count / _rate);
        json.WriteStartArray("marks");
        foreach (var mark in Marks)
        {
            json.WriteStartObject();
            json.WriteString("kind", mark.Kind);
            json.WriteNumber("time", mark.Time);
            if (mark.Phone != null)
                json.WriteString("phone", mark.Phone);
            if (mark.Kind == "word")
            {
                json.WriteNumber("position", mark.Position);
                json.WriteNumber("length", mark.Length);
            }
            json.WriteEndObject();
        }
        json.WriteEndArray();
        json.WriteEndObject();
    }

    [UnmanagedCallersOnly]
    private static int OnSound(short* samples, int count, Event* events)
    {
        if (samples != null && count > 0)
            Sound.AddRange(new ReadOnlySpan<short>(samples, count));
        for (; events->Type != 0; events++)
        {
            var time = events->Sample > 0 ? (double)events->Sample / _rate : events->AudioPosition / 1000.0;
            if (events->Type == 1)
                Marks.Add(new Mark("word", time, null, events->TextPosition - 1, events->Length));
            else if (events->Type == 7)
            {
                var bytes = new ReadOnlySpan<byte>(&events->Value, 8);
                var zero = bytes.IndexOf((byte)0);
                Marks.Add(new Mark("phone", time, Encoding.UTF8.GetString(zero < 0 ? bytes : bytes[..zero]), 0, 0));
            }
            else if (events->Type == 5)
                Marks.Add(new Mark("end", time, null, 0, 0));
        }
        return 0;
    }

    public static void Phones(string voice, TextReader input, TextWriter output)
    {
        Initialize();
        SetVoice(voice);
        while (input.ReadLine() is { } line)
        {
            var bytes = Encoding.UTF8.GetBytes(line + "\0");
            var result = new StringBuilder();
            fixed (byte* p = bytes)
            {
                // Each call takes one clause and moves the pointer on; phoneme mode 0x02 is IPA, "_" between phones.
                nint at = (nint)p;
                while (at != 0)
                {
                    var text = espeak_TextToPhonemes(&at, 1, 0x02 | '_' << 8);
                    if (text != 0)
                        result.Append(Marshal.PtrToStringUTF8(text)).Append(' ');
                }
            }
            output.WriteLine(result.ToString().Trim());
            output.Flush();
        }
    }

    public static void Voices(TextWriter output)
    {
        Initialize();
        var list = espeak_ListVoices(0);
        for (var i = 0; list[i] != null; i++)
        {
            var v = list[i];
            var language = Marshal.PtrToStringUTF8((nint)(v->Languages + 1));
            var gender =
                v->Gender == 2 ? "female"
                : v->Gender == 1 ? "male"
                : "";
            output.WriteLine($"{language}\t{Marshal.PtrToStringUTF8((nint)v->Name)}\t{gender}\t{Marshal.PtrToStringUTF8((nint)v->Identifier)}");
        }
    }

    private static void WriteWav(Stream stream)
    {
        using var writer = new BinaryWriter(stream);
        writer.Write("RIFF"u8);
        writer.Write(36 + Sound.Count * 2);
        writer.Write("WAVEfmt "u8);
        writer.Write(16);
        writer.Write((short)1);
        writer.Write((short)1);
        writer.Write(_rate);
        writer.Write(_rate * 2);
        writer.Write((short)2);
        writer.Write((short)16);
        writer.Write("data"u8);
        writer.Write(Sound.Count * 2);
        foreach (var s in CollectionsMarshal.AsSpan(Sound))
            writer.Write(s);
    }
}
