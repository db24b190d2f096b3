using System.CommandLine;
using Zamblo.Data;
using Zamblo.Studio.Assets;
using Zamblo.Web;

// No text from outside keeps a core busy for longer, whatever expression looks at it.
AppDomain.CurrentDomain.SetData("REGEX_DEFAULT_MATCH_TIMEOUT", TimeSpan.FromSeconds(5));

var data = new Option<string>("--data") { Description = "Folder of everything that is kept.", DefaultValueFactory = _ => DataFolder.Default };
var urls = new Option<string>("--urls") { Description = "Where to listen.", DefaultValueFactory = _ => "http://127.0.0.1:5170" };
var hosts = new Option<string[]>("--host")
{
    Description = "Names under which this machine is reached, where it listens on all addresses.",
    AllowMultipleArgumentsPerToken = true,
};
var quota = new Option<double?>("--quota") { Description = "So many gigabytes the data folder may take at the most." };
var database = new Option<string?>("--database")
{
    Description = "A PostgreSQL database in place of a file: postgresql://NAME@HOST/DATABASE.",
    DefaultValueFactory = _ => DatabaseAddress.OfEnvironment,
};
var noDemo = new Option<bool>("--no-demo") { Description = "Do not place the demo." };
var people = new Option<bool>("--people") { Description = "People sign in; so they do in any case where it listens on more than this machine." };
var logs = new Option<string>("--logs") { Description = "How it says what happens: in words, or a line of JSON each.", DefaultValueFactory = _ => "plain" };
logs.AcceptOnlyFromAmong("plain", "json");
urls.Validators.Add(r =>
{
    if (StartProblem.OfUrls(r.GetValueOrDefault<string>() ?? "") is { } problem)
        r.AddError(problem);
});
database.Validators.Add(r =>
{
    try
    {
        if (r.GetValueOrDefault<string?>() is { } address)
            DatabaseAddress.OfServer(address);
    }
    catch (FormatException e)
    {
        r.AddError(e.Message);
    }
});
quota.Validators.Add(r =>
{
    if (r.Tokens.Count > 0 && !(double.TryParse(r.Tokens[0].Value, out var gigabytes) && gigabytes is > 0 and < 1e9))
        r.AddError("The quota is a number of gigabytes.");
});
var root = new RootCommand("Zamblo's studio, on this machine.") { data, database, urls, hosts, quota, noDemo, people, logs };
var parsed = root.Parse(args);
if (parsed.Errors.Count > 0)
{
    Console.Error.WriteLine(
        $"{string.Join(" ", parsed.Errors.Select(e => e.Message))} usage: start [--urls URL] [--data DIR] [--database URI] [--host NAME] "
            + "[--quota GB] [--no-demo] [--people] [--logs json]"
    );
    return 2;
}
root.SetAction(
    (result, cancel) =>
        ZambloServer.RunAsync(
            new ServerOptions(
                Path.Combine(Environment.GetEnvironmentVariable("ZAMBLO_CALLED_FROM") ?? ".", result.GetValue(data)!),
                result.GetValue(urls)!,
                !result.GetValue(noDemo)
            )
            {
                Hosts = result.GetValue(hosts) ?? [],
                HasDoor = result.GetValue(people) || ServerOptions.IsReachedFromElsewhere(result.GetValue(urls)!),
                Database = result.GetValue(database) is { } address ? DatabaseAddress.OfServer(address) : null,
                LogsAsJson = result.GetValue(logs) == "json",
                QuotaBytes = result.GetValue(quota) is { } gigabytes ? (long)(gigabytes * (1L << 30)) : null,
            },
            cancel
        )
);
return await parsed.InvokeAsync();

/// <summary>Visible to tests.</summary>
public partial class Program;
