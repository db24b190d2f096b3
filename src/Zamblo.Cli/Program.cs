using System.CommandLine;
using Zamblo.Cli;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;

var root = new RootCommand("Zamblo: from a voice to a talking character film.")
{
    AnalyzeCommand.Create(),
    AnalyzeCommand.CreateTurns(),
    SpeakCommand.Create(),
    ListCommands.CreateVoices(),
    ListCommands.CreateCharacters(),
    ListCommands.CreateSets(),
    ListCommands.CreateScript(),
    FilmCommand.Create(),
    ReviewCommand.Create(),
    KeepCommands.CreateBackup(),
    KeepCommands.CreateRestore(),
    WorkerCommand.Create(),
};

// The voices that were brought to the studio speak here too, and its recognisers listen.
NeuralVoices.Watch(Path.Combine(DataFolder.Default, "voices"));
Recognisers.Watch(Path.Combine(DataFolder.Default, "recognisers"));

using var cancel = new CancellationTokenSource();
Console.CancelKeyPress += (_, e) =>
{
    e.Cancel = true;
    cancel.Cancel();
};
var parsed = root.Parse(args);
if (parsed.Errors.Count > 0)
{
    foreach (var error in parsed.Errors)
        Console.Error.WriteLine(error.Message);
    return 2;
}
try
{
    return await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false }, cancel.Token);
}
catch (UsageException e)
{
    Console.Error.WriteLine(e.Message);
    return 2;
}
catch (Exception e) when (e is MediaException or RequestException)
{
    Console.Error.WriteLine(e.Message);
    return 1;
}
catch (Exception e) when (e is IOException or UnauthorizedAccessException)
{
    Console.Error.WriteLine(e.Message);
    return 1;
}
catch (OperationCanceledException)
{
    Console.Error.WriteLine("Cancelled.");
    return 1;
}
