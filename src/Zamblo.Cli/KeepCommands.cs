using System.CommandLine;
using System.IO.Compression;
using Microsoft.Data.Sqlite;
using Zamblo.Core;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;

namespace Zamblo.Cli;

/// <summary>All productions of a data folder in one file, and back.</summary>
internal static class KeepCommands
{
    private const string Database = "zamblo.db";

    // No backup of ours is larger.
    private const long Largest = 1L << 40;

    public static Command CreateBackup()
    {
        var output = new Argument<string>("file") { Description = "The backup: a zip." };
        var data = new Option<string?>("--data") { Description = "The data folder; the usual one where none is named." };
        var command = new Command("backup", "Every production with its sounds, and your characters, in one file; also while the program runs.")
        {
            output,
            data,
        };
        command.SetAction(
            async (result, cancel) =>
            {
                var folder = Existing(result.GetValue(data));
                var target = result.GetValue(output)!;
                var part = $"{target}.{Guid.NewGuid():N}.part";
                var copy = Path.Combine(Path.GetTempPath(), $"zamblo-{Guid.NewGuid():N}.db");
                try
                {
                    // A copy as of one moment, whoever writes meanwhile (sqlite.org/lang_vacuum.html).
                    await using (var source = new SqliteConnection($"Data Source={folder.Database};Mode=ReadOnly;Pooling=False"))
                    {
                        await source.OpenAsync(cancel);
                        await using var vacuum = source.CreateCommand();
                        vacuum.CommandText = "VACUUM INTO $copy";
                        vacuum.Parameters.AddWithValue("$copy", copy);
                        await vacuum.ExecuteNonQueryAsync(cancel);
                    }
                    var count = 0;
                    await using (var file = File.Create(part))
                    using (var zip = new ZipArchive(file, ZipArchiveMode.Create))
                    {
                        zip.CreateEntryFromFile(copy, Database, CompressionLevel.Fastest);
                        foreach (var path in Directory.EnumerateFiles(folder.Assets, "*", SearchOption.AllDirectories))
                        {
                            cancel.ThrowIfCancellationRequested();
                            if (!AssetStore.IsHash(Path.GetFileName(path)))
                                continue;
                            zip.CreateEntryFromFile(path, "assets/" + Path.GetFileName(path), CompressionLevel.Fastest);
                            count++;
                        }
                    }
                    File.Move(part, target, overwrite: true);
                    Console.Error.WriteLine(
                        $"{target}: the database and {count} {(count == 1 ? "sound" : "sounds")}, {new FileInfo(target).Length / 1e6:0.0} MB"
                    );
                    return 0;
                }
                finally
                {
                    File.Delete(part);
                    File.Delete(copy);
                }
            }
        );
        return command;
    }

    public static Command CreateRestore()
    {
        var input = new Argument<string>("file") { Description = "A backup." };
        var data = new Option<string?>("--data") { Description = "The data folder; it must be empty. The usual one where none is named." };
        var command = new Command("restore", "A backup into an empty data folder.") { input, data };
        command.SetAction(
            async (result, cancel) =>
            {
                var path = Terminal.ExistingFile(result.GetValue(input)!);
                var root = result.GetValue(data) ?? DataFolder.Default;
                if (File.Exists(Path.Combine(root, Database)))
                    throw new MediaException($"\"{root}\" has productions already: name an empty folder with --data, or move them away first.");
                var folder = new DataFolder(root);
                try
                {
                    using var zip = ZipFile.OpenRead(path);
                    if (zip.GetEntry(Database) is not { } database || zip.Entries.Sum(e => e.Length) > Largest)
                        throw new MediaException($"\"{path}\" is no backup.");
                    folder.CheckRoom(zip.Entries.Sum(e => e.Length));
                    var assets = new AssetStore(folder.Assets);
                    var count = 0;
                    foreach (var entry in zip.Entries.Where(e => e.FullName.StartsWith("assets/", StringComparison.Ordinal)))
                    {
                        await using var stream = entry.Open();
                        if ((await assets.SaveAsync(stream, entry.Length, cancel)).Hash != entry.Name)
                            throw new MediaException($"\"{path}\" is damaged: \"{entry.Name}\" is not what its name says.");
                        count++;
                    }
                    // Last: without it the folder is as good as empty.
                    var part = folder.Database + ".part";
                    database.ExtractToFile(part, overwrite: true);
                    await CheckAsync(part, path, cancel);
                    File.Move(part, folder.Database);
                    Console.Error.WriteLine($"{root}: the database and {count} {(count == 1 ? "sound" : "sounds")}");
                    return 0;
                }
                catch (InvalidDataException)
                {
                    throw new MediaException($"\"{path}\" is no backup, or it is damaged.");
                }
            }
        );
        return command;
    }

    private static async Task CheckAsync(string database, string path, CancellationToken cancel)
    {
        try
        {
            await using var connection = new SqliteConnection($"Data Source={database};Mode=ReadOnly;Pooling=False");
            await connection.OpenAsync(cancel);
            await using var check = connection.CreateCommand();
            check.CommandText = "PRAGMA integrity_check";
            if (await check.ExecuteScalarAsync(cancel) is not "ok")
                throw new MediaException($"\"{path}\" is damaged: its database does not hold together.");
        }
        catch (SqliteException)
        {
            throw new MediaException($"\"{path}\" is damaged: its database cannot be read.");
        }
    }

    private static DataFolder Existing(string? named)
    {
        var root = named ?? DataFolder.Default;
        return File.Exists(Path.Combine(root, Database)) ? new DataFolder(root) : throw new MediaException($"There are no productions in \"{root}\".");
    }
}
