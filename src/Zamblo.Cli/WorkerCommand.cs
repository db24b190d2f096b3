using System.CommandLine;
using System.Globalization;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;

namespace Zamblo.Cli;

/// <summary>Draws, listens and speaks for a studio on another machine.</summary>
internal static class WorkerCommand
{
    private const string Variable = "ZAMBLO_WORKER_KEY";

    public static Command Create()
    {
        var studio = new Option<string>("--studio") { Description = "Address of the studio.", DefaultValueFactory = _ => "http://127.0.0.1:5170" };
        var key = new Option<string?>("--key")
        {
            Description = $"The file \"worker-key\" out of the studio's data folder; the key itself may stand in {Variable}.",
        };
        var name = new Option<string>("--name") { Description = "What people call it.", DefaultValueFactory = _ => Environment.MachineName };
        var cores = new Option<int>("--cores") { Description = "So many pieces it draws at a time.", DefaultValueFactory = _ => Environment.ProcessorCount };
        var data = new Option<string>("--data") { Description = "A folder of its own.", DefaultValueFactory = _ => DataFolder.Default + "-worker" };
        var command = new Command("worker", "Draws pieces of films, listens and speaks for a studio on another machine, until it is stopped.")
        {
            studio,
            key,
            name,
            cores,
            data,
        };
        command.SetAction(
            async (result, cancel) =>
            {
                if (!Uri.TryCreate(result.GetValue(studio), UriKind.Absolute, out var address) || address.Scheme is not ("http" or "https"))
                    throw new UsageException($"\"{result.GetValue(studio)}\" is no address of a studio: write for example http://studio:5170.");
                if (result.GetValue(cores) is < 1 or > 1024)
                    throw new UsageException("A worker draws 1 to 1024 pieces at a time.");
                var folder = new DataFolder(result.GetValue(data)!);
                using var hold = Hold(folder);
                Scratch.Folder = folder.Temporary;
                Recognisers.Watch(folder.Recognisers);
                SpeechModels.Drafts = new DraftShelf(folder.Drafts);
                var worker = new FarmWorker(
                    address,
                    KeyOf(result.GetValue(key)),
                    folder,
                    result.GetValue(name)!,
                    result.GetValue(cores),
                    sentence => Console.Error.WriteLine(sentence)
                );
                // Also when the system ends: what it has is given back.
                using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                using var ended = System.Runtime.InteropServices.PosixSignalRegistration.Create(
                    System.Runtime.InteropServices.PosixSignal.SIGTERM,
                    signal =>
                    {
                        signal.Cancel = true;
                        stop.Cancel();
                    }
                );
                await worker.RunAsync(stop.Token);
                Console.Error.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{worker.Brought} pieces were drawn, {worker.Heard} sounds were listened to, {worker.Spoken} lines were spoken."
                    )
                );
                return 0;
            }
        );
        return command;
    }

    private static DataLock Hold(DataFolder folder)
    {
        try
        {
            return DataLock.Take(folder);
        }
        catch (DataInUseException e)
        {
            throw new MediaException(e.Message);
        }
    }

    private static FarmKey KeyOf(string? path)
    {
        if (path == null && Environment.GetEnvironmentVariable(Variable) is { Length: > 0 } text)
            return FarmKey.Parse(text) ?? throw new UsageException($"{Variable} holds no key.");
        path ??= FarmKey.PathIn(new DataFolder(DataFolder.Default));
        if (!File.Exists(path))
            throw new UsageException($"There is no key at \"{path}\": copy \"worker-key\" out of the studio's data folder, and name it with --key.");
        return FarmKey.Parse(File.ReadAllText(path)) ?? throw new UsageException($"\"{path}\" holds no key.");
    }
}
