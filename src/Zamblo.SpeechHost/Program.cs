// A synthesis engine in a process of its own: engines hold global state and may crash, and neither must reach the application.
// Text comes on standard input; sound goes to the file named, events to standard output as JSON.
//   speak VOICE OUT.wav [--rate WPM] [--pitch 0..99] [--range 0..99] [--volume 0..200] [--gap 10MS] [--ssml]
//   phones VOICE         one line of input, one line of IPA out
//   model VOICE.onnx OUT.f32      a neural voice: what is to be said comes as JSON (see ModelOrder)
//   voices
using System.Globalization;
using System.Text;
using Zamblo.SpeechHost;

Console.InputEncoding = Encoding.UTF8;
Console.OutputEncoding = new UTF8Encoding(false);
if (args.Length == 0)
    return Usage();
try
{
    switch (args[0])
    {
        case "speak" when args.Length >= 3:
            var options = new Dictionary<string, string>();
            for (var i = 3; i < args.Length; i++)
                if (args[i] == "--ssml")
                    options["ssml"] = "1";
                else if (args[i].StartsWith("--", StringComparison.Ordinal) && i + 1 < args.Length)
                    options[args[i][2..]] = args[++i];
                else
                    return Usage();
            int? Option(string name) => options.TryGetValue(name, out var v) ? int.Parse(v, CultureInfo.InvariantCulture) : null;
            Espeak.Speak(
                args[1],
                Console.In.ReadToEnd(),
                args[2],
                Option("rate"),
                Option("pitch"),
                Option("range"),
                Option("volume"),
                Option("gap"),
                options.ContainsKey("ssml"),
                Console.Out
            );
            return 0;
        case "phones" when args.Length == 2:
            Espeak.Phones(args[1], Console.In, Console.Out);
            return 0;
        case "model" when args.Length == 3:
            NeuralVoice.Speak(args[1], Console.In.ReadToEnd(), args[2]);
            return 0;
        case "voices":
            Espeak.Voices(Console.Out);
            return 0;
        default:
            return Usage();
    }
}
catch (DllNotFoundException)
{
    Console.Error.WriteLine("The speech engine espeak-ng is not installed: install the Debian package espeak-ng.");
    return 3;
}
catch (Exception e) when (e is InvalidOperationException or Microsoft.ML.OnnxRuntime.OnnxRuntimeException or System.Text.Json.JsonException)
{
    Console.Error.WriteLine(e.Message.ReplaceLineEndings(" "));
    return 1;
}

static int Usage()
{
    Console.Error.WriteLine("usage: speak VOICE OUT.wav [options] | phones VOICE | model VOICE.onnx OUT.f32 | voices");
    return 2;
}
