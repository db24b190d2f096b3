namespace Zamblo.Web.Routes;

/// <summary>The answer to something that was kept: by what key it is asked for from now on.</summary>
internal sealed record Saved(string Key);
