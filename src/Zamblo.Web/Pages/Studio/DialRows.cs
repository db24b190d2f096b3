namespace Zamblo.Web.Pages.Studio;

/// <summary>Dials one under the other, as a panel's script gives them.</summary>
/// <param name="Rows">The member of the script that has the rows.</param>
/// <param name="Prefix">Begins the ids of the inputs, so that none is there twice.</param>
/// <param name="OnInput">Called with the event while a dial is turned.</param>
/// <param name="OnChange">Called with the event when it is let go.</param>
public sealed record DialRows(string Rows, string Prefix, string OnInput, string OnChange);
