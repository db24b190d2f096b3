using System.CommandLine;
using System.IO.Compression;
using Microsoft.Data.Sqlite;
using Zamblo.Core;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;

namespace Zamblo.Cli;

/// <summary>All productions of a data folder in one file, and back; rows of a server's database go in as the same file of SQLite's.</summary>
internal static class KeepCommands
{
    private const string Database = "zamblo.db";

    // No backup of ours is larger.
    private const long Largest = 1L << 40;

    public static Command CreateBackup()
    {
        var output = new Argument<string>("file") { Description = "The backup: a zip." };
        var data = new Option<string?>("--data") { Description = "The data folder; the usual one where none is named." };
        var server = ServerOption();
        var command = new Command("backup", "Every production with its sounds, and your characters, in one file; also while the program runs.")
        {
            output,
            data,
            server,
        };
        command.SetAction(
            async (result, cancel) =>
            {
                var address = AddressOf(result.GetValue(server));
                var folder = Existing(result.GetValue(data), address);
                var target = result.GetValue(output)!;
                var part = $"{target}.{Guid.NewGuid():N}.part";
                var copy = Path.Combine(Path.GetTempPath(), $"zamblo-{Guid.NewGuid():N}.db");
                try
                {
                    await (address == null ? CopyFileAsync(folder.Database, copy, cancel) : CopyRowsAsync(address, copy, cancel));
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
                    DeleteDatabase(copy);
                }
            }
        );
        return command;
    }

    // A copy as of one moment, whoever writes meanwhile (sqlite.org/lang_vacuum.html).
    private static async Task CopyFileAsync(string database, string copy, CancellationToken cancel)
    {
        await using var source = new SqliteConnection($"Data Source={database};Mode=ReadOnly;Pooling=False");
        await source.OpenAsync(cancel);
        await using var vacuum = source.CreateCommand();
        vacuum.CommandText = "VACUUM INTO $copy";
        vacuum.Parameters.AddWithValue("$copy", copy);
        await vacuum.ExecuteNonQueryAsync(cancel);
    }

    // The same of a server's database: all rows as of one moment, in a new file.
    private static Task CopyRowsAsync(DatabaseAddress address, string copy, CancellationToken cancel) =>
        AnsweringAsync(
            address,
            async () =>
            {
                var file = new ZambloContexts(DatabaseAddress.OfFile(copy));
                await using (var db = file.CreateDbContext())
                {
                    await DataUpgrade.RunAsync(db);
                    await DataCopy.RunAsync(new ZambloContexts(address), file, cancel);
                }
                // With its last connection the log of writes goes into the file.
                SqliteConnection.ClearAllPools();
            }
        );

    // With what lies beside it.
    private static void DeleteDatabase(string path)
    {
        SqliteConnection.ClearAllPools();
        foreach (var left in Directory.EnumerateFiles(Path.GetDirectoryName(path)!, Path.GetFileName(path) + "*").ToArray())
            File.Delete(left);
    }

    public static Command CreateRestore()
    {
        var input = new Argument<string>("file") { Description = "A backup." };
        var data = new Option<string?>("--data") { Description = "The data folder; it must be empty. The usual one where none is named." };
        var server = ServerOption();
        var command = new Command("restore", "A backup into an empty data folder, or into an empty database and its folder.") { input, data, server };
        command.SetAction(
            async (result, cancel) =>
            {
                var path = Terminal.ExistingFile(result.GetValue(input)!);
                var address = AddressOf(result.GetValue(server));
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
                    if (address == null)
                        File.Move(part, folder.Database);
                    else
                        await ToServerAsync(part, address, cancel);
                    Console.Error.WriteLine(
                        $"{root}{(address == null ? "" : $" and {address}")}: the database and {count} {(count == 1 ? "sound" : "sounds")}"
                    );
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

    // Rows of a file into a server's database, with nobody at work there meanwhile; the file is not needed any more.
    private static Task ToServerAsync(string file, DatabaseAddress address, CancellationToken cancel) =>
        AnsweringAsync(
            address,
            async () =>
            {
                try
                {
                    await using var hold = await DatabaseHold.TakeAsync(address, cancel);
                    var (from, to) = (new ZambloContexts(DatabaseAddress.OfFile(file)), new ZambloContexts(address));
                    foreach (var contexts in new[] { from, to })
                        await using (var db = contexts.CreateDbContext())
                            await DataUpgrade.RunAsync(db);
                    await DataCopy.RunAsync(from, to, cancel);
                }
                finally
                {
                    DeleteDatabase(file);
                }
            }
        );

    private static async Task AnsweringAsync(DatabaseAddress address, Func<Task> work)
    {
        try
        {
            await work();
        }
        catch (Exception e) when (e is DataNotEmptyException or DatabaseInUseException or DataTooOldException)
        {
            throw new MediaException(e.Message);
        }
        catch (Exception e) when (Databases.IsRefusal(e))
        {
            throw new MediaException($"{address} does not do that: {e.GetBaseException().Message}");
        }
    }

    private static Option<string?> ServerOption() =>
        new("--database")
        {
            Description = "The PostgreSQL database that rows are kept in: postgresql://NAME@HOST/DATABASE.",
            DefaultValueFactory = _ => DatabaseAddress.OfEnvironment,
        };

    private static DatabaseAddress? AddressOf(string? given)
    {
        try
        {
            return given == null ? null : DatabaseAddress.OfServer(given);
        }
        catch (FormatException e)
        {
            throw new MediaException(e.Message);
        }
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

    private static DataFolder Existing(string? named, DatabaseAddress? address)
    {
        var root = named ?? DataFolder.Default;
        var isThere = address == null ? File.Exists(Path.Combine(root, Database)) : Directory.Exists(root);
        return isThere ? new DataFolder(root) : throw new MediaException($"There are no productions in \"{root}\".");
    }
}
