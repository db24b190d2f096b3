using NetArchTest.Rules;

namespace Zamblo.Core.Tests;

public class ArchitectureTests
{
    [Fact]
    public void The_core_knows_nothing_of_the_outside_world()
    {
        var result = Types
            .InAssembly(typeof(FrameRate).Assembly)
            .ShouldNot()
            .HaveDependencyOnAny(
                "Microsoft.EntityFrameworkCore",
                "Microsoft.AspNetCore",
                "SkiaSharp",
                "System.Diagnostics.Process",
                "System.Net",
                "Zamblo.Media",
                "Zamblo.Data",
                "Zamblo.Studio",
                "Zamblo.Web"
            )
            .GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void The_core_opens_no_files()
    {
        var result = Types
            .InAssembly(typeof(FrameRate).Assembly)
            .ShouldNot()
            .HaveDependencyOnAny("System.IO.File", "System.IO.FileStream", "System.IO.Directory")
            .GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }
}
