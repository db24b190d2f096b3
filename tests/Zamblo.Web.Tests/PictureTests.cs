using System.Net;
using SkiaSharp;

namespace Zamblo.Web.Tests;

/// <summary>Single frames as pictures: in other sizes, and of the whole set with the place of a shot in it.</summary>
public class PictureTests(SharedHost host) : SceneTests(host), IClassFixture<SharedHost>
{
    private string Frame(int frame) => $"/api/scenes/{Scene}/frames/{frame}";

    private async Task<SKBitmap> PictureAsync(string query, int frame = 5) => SKBitmap.Decode(await Server.Client.GetByteArrayAsync(Frame(frame) + query));

    // How much two pictures differ, 0 to 255.
    private static double Difference(SKBitmap a, SKBitmap b) => a.Bytes.Zip(b.Bytes).Average(p => Math.Abs(p.First - p.Second));

    [Fact]
    public async Task Any_size_is_shown_before_it_is_chosen_and_then_it_is_that_picture()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        using var tall = await PictureAsync("?size=1080x1920&width=270");
        Assert.Equal((270, 480), (tall.Width, tall.Height));
        await Server.PatchAsync($"/api/productions/{Production}", new { revision = Revision(await StateAsync()), size = "1080x1920" });
        using var chosen = await PictureAsync("?width=270");
        Assert.True(Difference(tall, chosen) < 0.01);
        foreach (var bad in new[] { "?size=1081x1920", "?size=9000x9000", "?size=x", "?size=640x360&width=5" })
            Assert.Equal(HttpStatusCode.BadRequest, (await Server.Client.GetAsync(Frame(5) + bad)).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await Server.Client.GetAsync(Frame(100_000) + "/place")).StatusCode);
    }

    [Fact]
    public async Task The_place_of_a_shot_in_the_whole_set_holds_what_the_shot_shows()
    {
        await Server.SpeakAsync(Production, Scene, Member, "The oven is hot.");
        await Server.PostAsync(
            $"/api/scenes/{Scene}/clips",
            new
            {
                member = Member,
                kind = "Shot",
                name = "Close",
                start = 0.0,
                end = 1.0,
            }
        );
        var place = await Server.GetAsync(Frame(5) + "/place");
        double left = place.GetProperty("left").GetDouble(),
            top = place.GetProperty("top").GetDouble(),
            share = place.GetProperty("share").GetDouble();
        Assert.InRange(share, 0.1, 0.8);
        Assert.InRange(left, 0, 1 - share);
        Assert.InRange(top, 0, 1 - share);
        // Cut out of the whole it is the shot itself, but for what lies behind, which goes less of the way, and the grain.
        using var whole = await PictureAsync("?whole=true&width=1280");
        using var shot = await PictureAsync("?width=320");
        using var cut = new SKBitmap(320, 180);
        using (var canvas = new SKCanvas(cut))
            canvas.DrawBitmap(
                whole,
                new SKRect((float)left * 1280, (float)top * 720, (float)(left + share) * 1280, (float)(top + share) * 720),
                new SKRect(0, 0, 320, 180),
                new SKSamplingOptions(SKFilterMode.Linear)
            );
        using var other = await PictureAsync("?whole=true&width=320");
        Assert.True(Difference(cut, shot) < 0.5 * Difference(other, shot), $"{Difference(cut, shot)} of {Difference(other, shot)}");
    }
}
