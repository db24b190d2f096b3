using System.Collections.Frozen;
using System.Numerics;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zamblo.Core.Stage.Props;

/// <summary>What a prop stands on by itself.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<PropGround>))]
public enum PropGround
{
    /// <summary>The floor, before everybody's feet.</summary>
    Floor,

    /// <summary>A counter or a table; where there is none, the lower edge of the picture.</summary>
    Table,

    /// <summary>It is on the wall or in the sky, behind everybody.</summary>
    Wall,

    /// <summary>It hangs from above.</summary>
    Hang,
}

/// <summary>How a prop moves by itself.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<PropMotion>))]
public enum PropMotion
{
    /// <summary>Not at all.</summary>
    Still,

    /// <summary>To and fro about its upper end, as what hangs.</summary>
    Swing,

    /// <summary>To and fro about its foot, as a tree in the wind.</summary>
    Sway,

    /// <summary>Round and round about its middle.</summary>
    Spin,

    /// <summary>Up and down.</summary>
    Bob,

    /// <summary>To a second place and back, again and again.</summary>
    BackAndForth,

    /// <summary>To a second place, and again from the first one.</summary>
    Across,
}

/// <summary>The look of a prop: its drawing about the middle of its foot (y is negative above it), in stage units.</summary>
/// <param name="Key">Names it.</param>
/// <param name="Name">As people call it.</param>
/// <param name="Kind">Heading under which it is offered.</param>
/// <param name="Width">In stage units.</param>
/// <param name="Height">In stage units.</param>
/// <param name="Stands">On what.</param>
public sealed record PropArt(string Key, string Name, string Kind, float Width, float Height, PropGround Stands)
{
    /// <summary>Where a hand takes it: right of and below the middle of its foot; null in its middle.</summary>
    public float[]? Grip { get; init; }

    /// <summary>How it moves unless a hand says otherwise.</summary>
    public PropMotion Motion { get; init; }

    /// <summary>How much, 0 to 1.</summary>
    public float Amount { get; init; } = 0.5f;

    /// <summary>Of its motion, in seconds.</summary>
    public float Period { get; init; } = 3;

    /// <summary>It lies flat: no shadow of its own.</summary>
    public bool Flat { get; init; }

    /// <summary>What is drawn.</summary>
    [JsonIgnore]
    public IReadOnlyList<DrawShape> Shapes { get; init; } = [];

    /// <summary>Where a hand takes it.</summary>
    [JsonIgnore]
    public Vector2 GripPoint => Grip is [var x, var y] ? new Vector2(x, y) : new Vector2(0, -Height / 2);
}

/// <summary>All props that come with the program, and pictures of one's own as props. Immutable.</summary>
public static class PropStock
{
    // A picture of one's own is so high at first, or so wide, whichever is less.
    private const float PictureHeight = 240,
        PictureWidth = 360;

    private static readonly Lazy<(IReadOnlyList<PropArt> All, FrozenDictionary<string, PropArt> ByKey)> Ours = new(Read);

    /// <summary>Those that come with the program, by their kinds.</summary>
    public static IReadOnlyList<PropArt> All => Ours.Value.All;

    /// <summary>A prop by its key: one of ours, or a picture of one's own (the key of a <see cref="PictureSet"/>); null where there is none.</summary>
    /// <param name="key">Names it.</param>
    public static PropArt? Find(string? key)
    {
        if (key == null)
            return null;
        if (Ours.Value.ByKey.TryGetValue(key, out var art))
            return art;
        return PictureSet.Read(key) is { Frames: 0 } picture ? Of(picture) : null;
    }

    private static PropArt Of(PictureSet picture)
    {
        var scale = Math.Min(PictureHeight / picture.Height, PictureWidth / picture.Width);
        float w = picture.Width * scale,
            h = picture.Height * scale;
        var box = new PathText().Move(-w / 2, -h).Line(w / 2, -h).Line(w / 2, 0).Line(-w / 2, 0).Close().ToString();
        return new PropArt(picture.Key, "A picture of your own", "Your own", w, h, PropGround.Table)
        {
            // Whether it stands anywhere nobody knows.
            Flat = true,
            Shapes = [new DrawShape(box, null) { Picture = picture.Hash }],
        };
    }

    private static (IReadOnlyList<PropArt>, FrozenDictionary<string, PropArt>) Read()
    {
        var library = typeof(PropStock).Assembly;
        Stream Open(string name) =>
            library.GetManifestResourceStream("Zamblo.Core.Stage.Props." + name)
            ?? throw new InvalidOperationException($"The program lacks its own file \"{name}\".");
        using var list = Open("props.json");
        using var drawing = Open("art.svg");
        var shapes = SvgArt.Read(drawing, "props").Shapes.ToLookup(s => s.Part);
        PropArt[] all =
        [
            .. JsonSerializer
                .Deserialize<PropArt[]>(list, JsonSerializerOptions.Web)!
                .Select(p => p with { Shapes = [.. shapes[p.Key].Select(CastLibrary.ToShape)] }),
        ];
        return (all, all.ToFrozenDictionary(p => p.Key));
    }
}
