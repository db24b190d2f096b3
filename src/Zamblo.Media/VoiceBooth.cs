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
        audio = await ThroughAsync(audio, Throat(care), cancel);
        var plain = audio;
        audio = await ThroughAsync(audio, Colour(care), cancel);
        // The size of a throat has its own measure; of every other colour less is more of the voice without it.
        if (care.ColourAmount < 1 && care.Colour is not (VoiceColour.Small or VoiceColour.Giant))
            audio = Blend(plain, audio, (float)care.ColourAmount);
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

    private static List<string> Throat(VoiceCare care)
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
        return filters;
    }

    private static List<string> Colour(VoiceCare care)
    {
        string Of(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);
        var filters = care.Colour switch
        {
            VoiceColour.Small => Of($"rubberband=pitch={Ratio(4 * care.ColourAmount):0.00000}:formant=shifted:pitchq=quality"),
            VoiceColour.Giant => Of(
                $"rubberband=pitch={Ratio(-5 * care.ColourAmount):0.00000}:formant=shifted:pitchq=quality,bass=g={3 * care.ColourAmount:0.00}:f=120"
            ),
            // The phases of all bins set to nought in every window: one tone at the rate of the windows.
            VoiceColour.Machine => "afftfilt=real='hypot(re,im)*sin(0)':imag='hypot(re,im)*cos(0)':win_size=512:overlap=0.75,highpass=f=120,volume=4",
            // The phases of all bins by chance: no tone is left. A whisper has little under the first formant (common practice).
            VoiceColour.Whisper => "afftfilt=real='hypot(re,im)*cos(random(0)*2*PI)':imag='hypot(re,im)*sin(random(0)*2*PI)':win_size=512:overlap=0.75,"
                + "highpass=f=400:poles=1,treble=g=5:f=3000,volume=2",
            // Voices that come a little after, each wavering by itself.
            VoiceColour.Crowd => "chorus=0.7:0.9:23|37|52|68:0.42|0.38|0.34|0.3:0.35|0.5|0.42|0.6:2.2|1.6|2.8|2",
            // What wood lets through, and a little of the room behind it.
            VoiceColour.Door => "lowpass=f=700:poles=2,lowpass=f=1400:poles=1,aecho=0.9:0.8:13|29:0.2|0.14,volume=1.3",
            // The band of telephony (ITU-T G.711: 300 to 3400 Hz).
            VoiceColour.Telephone => "highpass=f=300:poles=2,lowpass=f=3400:poles=2,acompressor=threshold=0.1:ratio=4:makeup=1.6",
            VoiceColour.Radio => "highpass=f=220,lowpass=f=5200,acompressor=threshold=0.08:ratio=6:makeup=2,asoftclip=type=tanh:threshold=0.7",
            VoiceColour.Room => "aecho=0.9:0.75:17|29|43|61:0.28|0.22|0.16|0.1",
            VoiceColour.Hall => "aecho=0.85:0.7:90|170|290|430:0.34|0.26|0.18|0.12",
            _ => "",
        };
        return filters.Length == 0 ? [] : [filters];
    }

    private static AudioBuffer Blend(AudioBuffer plain, AudioBuffer coloured, float share)
    {
        var mixed = new float[plain.Samples.Length];
        for (var i = 0; i < mixed.Length; i++)
            mixed[i] = (1 - share) * plain.Samples[i] + share * (i < coloured.Samples.Length ? coloured.Samples[i] : 0);
        return new AudioBuffer(mixed, plain.SampleRate);
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
