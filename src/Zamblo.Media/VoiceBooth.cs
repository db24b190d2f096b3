using System.Globalization;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>Trims, cleans, colours and levels a take; the filters are ffmpeg's.</summary>
public static class VoiceBooth
{
    /// <summary>Peaks between samples stay under this, in dBTP (EBU R 128).</summary>
    public const double Ceiling = -1;

    /// <summary>The take as it is to be heard, exactly as long as the care says.</summary>
    /// <param name="original">At 48 kHz.</param>
    /// <param name="care">What is done.</param>
    /// <param name="cancel">Stops the program.</param>
    public static async Task<AudioBuffer> ApplyAsync(AudioBuffer original, VoiceCare care, CancellationToken cancel = default)
    {
        care = care.Clamped(original.Duration);
        var count = (int)Math.Round(care.DurationOf(original.Duration) * original.SampleRate);
        var audio = care.TrimStart > 0 || care.TrimEnd > 0 ? original.Slice(care.TrimStart, original.Duration - care.TrimEnd) : original;
        // Order: cleaning before anything that would smear what is to be cleaned; colour last.
        audio = await ThroughAsync(audio, Repairs(care), cancel);
        if (care.Hiss > 0)
            audio = LearnedSuppressor.Clean(audio, care.Hiss, cancel);
        audio = await ThroughAsync(audio, Colours(care), cancel);
        var samples = new float[count];
        audio.Samples.AsSpan(0, Math.Min(count, audio.Samples.Length)).CopyTo(samples);
        Scale(samples, original.SampleRate, care);
        Fade(samples, (int)(care.FadeIn * original.SampleRate), (int)(care.FadeOut * original.SampleRate));
        return new AudioBuffer(samples, original.SampleRate);
    }

    private static async Task<AudioBuffer> ThroughAsync(AudioBuffer audio, List<string> filters, CancellationToken cancel) =>
        filters.Count == 0 ? audio : await AudioFiles.FilterAsync(audio, string.Join(',', filters), audio.SampleRate, cancel);

    private static List<string> Repairs(VoiceCare care)
    {
        var filters = new List<string>();
        void Add(FormattableString text) => filters.Add(text.ToString(CultureInfo.InvariantCulture));
        if (care.Clicks)
            Add($"adeclick");
        if (care.Rumble)
            Add($"highpass=f=80:poles=2");
        if (care.Hum > 0)
            for (var k = 1; k <= 5; k++)
                Add($"bandreject=f={care.Hum * k}:width_type=h:w={4 + k}");
        return filters;
    }

    private static List<string> Colours(VoiceCare care)
    {
        var filters = new List<string>();
        void Add(FormattableString text) => filters.Add(text.ToString(CultureInfo.InvariantCulture));
        if (care.Gate)
            Add($"agate=threshold=0.012:ratio=4:range=0.06:attack=5:release=180");
        // Resonance alone is pitch and resonance together, then the pitch back.
        if (care.Resonance != 0)
        {
            Add($"rubberband=pitch={Ratio(care.Resonance):0.00000}:formant=shifted:pitchq=quality");
            Add($"rubberband=pitch={Ratio(-care.Resonance):0.00000}:formant=preserved:pitchq=quality");
        }
        if (care.Pitch != 0 || care.Speed != 1)
            Add($"rubberband=tempo={care.Speed:0.00000}:pitch={Ratio(care.Pitch):0.00000}:formant=preserved:pitchq=quality");
        switch (care.Colour)
        {
            case VoiceColour.Small:
                Add($"rubberband=pitch={Ratio(4):0.00000}:formant=shifted:pitchq=quality");
                break;
            case VoiceColour.Giant:
                Add($"rubberband=pitch={Ratio(-5):0.00000}:formant=shifted:pitchq=quality,bass=g=3:f=120");
                break;
            // The phases of all bins set to nought in every window: one tone at the rate of the windows.
            case VoiceColour.Machine:
                filters.Add("afftfilt=real='hypot(re,im)*sin(0)':imag='hypot(re,im)*cos(0)':win_size=512:overlap=0.75,highpass=f=120,volume=4");
                break;
            // The band of telephony (ITU-T G.711: 300 to 3400 Hz).
            case VoiceColour.Telephone:
                Add($"highpass=f=300:poles=2,lowpass=f=3400:poles=2,acompressor=threshold=0.1:ratio=4:makeup=1.6");
                break;
            case VoiceColour.Radio:
                Add($"highpass=f=220,lowpass=f=5200,acompressor=threshold=0.08:ratio=6:makeup=2,asoftclip=type=tanh:threshold=0.7");
                break;
            case VoiceColour.Room:
                Add($"aecho=0.9:0.75:17|29|43|61:0.28|0.22|0.16|0.1");
                break;
            case VoiceColour.Hall:
                Add($"aecho=0.85:0.7:90|170|290|430:0.34|0.26|0.18|0.12");
                break;
        }
        return filters;
    }

    private static double Ratio(double semitones) => Math.Pow(2, semitones / 12);

    private static void Scale(float[] samples, int rate, VoiceCare care)
    {
        var db = care.Gain;
        if (care.Level is { } target && Loudness.Integrated([samples], rate) is var now and > Loudness.Silence)
            db += target - now;
        if (db == 0)
            return;
        // Never louder than its peaks allow.
        if (db > 0)
            db = Math.Min(db, Math.Max(0, Ceiling - Loudness.TruePeakDb(samples)));
        var factor = (float)Math.Pow(10, db / 20);
        for (var i = 0; i < samples.Length; i++)
            samples[i] *= factor;
    }

    // Equal steps of a raised cosine.
    private static void Fade(float[] samples, int before, int after)
    {
        before = Math.Min(before, samples.Length);
        after = Math.Min(after, samples.Length);
        for (var i = 0; i < before; i++)
            samples[i] *= (float)(0.5 - 0.5 * Math.Cos(Math.PI * i / before));
        for (var i = 0; i < after; i++)
            samples[^(i + 1)] *= (float)(0.5 - 0.5 * Math.Cos(Math.PI * i / after));
    }
}
