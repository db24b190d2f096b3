using System.Collections.Concurrent;
using Microsoft.AspNetCore.Html;

namespace Zamblo.Web;

/// <summary>Icons from the open Lucide set, inline; always beside a label or on a control with an accessible name.</summary>
public sealed class Icons(IWebHostEnvironment environment)
{
    private readonly ConcurrentDictionary<string, IHtmlContent> _known = new();

    /// <summary>An icon by its name in the set.</summary>
    public IHtmlContent this[string name] =>
        _known.GetOrAdd(
            name,
            n =>
            {
                var svg = File.ReadAllText(Path.Combine(environment.WebRootPath, "icons", n + ".svg"));
                return new HtmlString(
                    "<svg aria-hidden=\"true\" class=\"icon\""
                        + svg[(svg.IndexOf("<svg", StringComparison.Ordinal) + 4)..].Replace($"class=\"lucide lucide-{n}\"", "")
                );
            }
        );
}
