using System.Reflection;
using NetArchTest.Rules;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;

namespace Zamblo.Web.Tests;

/// <summary>Which room knows of which.</summary>
public class ArchitectureTests
{
    private static void Free(Assembly of, params string[] from)
    {
        var result = Types.InAssembly(of).ShouldNot().HaveDependencyOnAny(from).GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void Each_room_knows_only_those_below_it()
    {
        Free(typeof(AudioFiles).Assembly, "Zamblo.Data", "Zamblo.Studio", "Zamblo.Web", "Microsoft.EntityFrameworkCore", "Microsoft.AspNetCore");
        Free(typeof(ZambloContext).Assembly, "Zamblo.Media", "Zamblo.Studio", "Zamblo.Web", "Microsoft.AspNetCore");
        Free(typeof(EditRunner).Assembly, "Zamblo.Web", "Microsoft.AspNetCore", "SkiaSharp");
    }

    [Fact]
    public void Routes_hand_on_and_change_no_rows_themselves()
    {
        // An edit goes through the runner, which asks for the revision and files a step of undo.
        var writes = Types
            .InAssembly(typeof(ZambloServer).Assembly)
            .That()
            .ResideInNamespace("Zamblo.Web.Routes")
            .ShouldNot()
            .HaveDependencyOn("Zamblo.Data.ProductionStore")
            .GetResult();
        Assert.True(writes.IsSuccessful, string.Join(", ", writes.FailingTypeNames ?? []));
    }

    [Fact]
    public void Every_kind_of_edit_has_one_handler()
    {
        var types = typeof(EditRunner).Assembly.GetTypes();
        var handled = types
            .Where(t => !t.IsAbstract)
            .SelectMany(t => t.GetInterfaces())
            .Where(i => i.IsGenericType && i.GetGenericTypeDefinition() == typeof(IEditHandler<>))
            .Select(i => i.GenericTypeArguments[0])
            .ToArray();
        var edits = types.Where(t => !t.IsAbstract && typeof(Edit).IsAssignableFrom(t)).ToArray();
        Assert.NotEmpty(edits);
        Assert.Equal(edits.OrderBy(t => t.Name), handled.OrderBy(t => t.Name));
    }
}
