namespace Zamblo.Web.Services;

/// <summary>Where everything is kept.</summary>
public sealed class DataFolder
{
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        foreach (var folder in new[] { Root, Cache, Renders }) Directory.CreateDirectory(folder);
    }

    public string Root { get; }
    public string Database => Path.Combine(Root, "zamblo.db");
    public string Assets => Path.Combine(Root, "assets");
    /// <summary>What can be made again; may be emptied at any time while the program does not run.</summary>
    public string Cache => Path.Combine(Root, "cache");
    public string Renders => Path.Combine(Root, "renders");

    /// <summary>The folder that is used when none is named.</summary>
    public static string Default => Path.Combine(
        Environment.GetEnvironmentVariable("XDG_DATA_HOME") is { Length: > 0 } xdg ? xdg : Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".local", "share"), "zamblo");
}
