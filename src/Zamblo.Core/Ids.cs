using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zamblo.Core;

/// <summary>An id of one kind of thing: ids of different things cannot be taken for one another.</summary>
/// <typeparam name="T">The id's own type.</typeparam>
public interface IId<T>
    where T : struct, IId<T>
{
    /// <summary>The id itself.</summary>
    Guid Value { get; }

    /// <summary>Makes one of a bare id.</summary>
    static abstract T From(Guid value);
}

/// <summary>Writes an id as the text of its value.</summary>
public sealed class IdConverter<T> : JsonConverter<T>
    where T : struct, IId<T>
{
    /// <inheritdoc/>
    public override T Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) => T.From(reader.GetGuid());

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, T value, JsonSerializerOptions options) => writer.WriteStringValue(value.Value);
}

/// <summary>Of a scene.</summary>
[JsonConverter(typeof(IdConverter<SceneId>))]
public readonly record struct SceneId(Guid Value) : IId<SceneId>
{
    /// <inheritdoc/>
    public static SceneId From(Guid value) => new(value);
}

/// <summary>Of a cast member.</summary>
[JsonConverter(typeof(IdConverter<MemberId>))]
public readonly record struct MemberId(Guid Value) : IId<MemberId>
{
    /// <inheritdoc/>
    public static MemberId From(Guid value) => new(value);
}

/// <summary>Of a line.</summary>
[JsonConverter(typeof(IdConverter<LineId>))]
public readonly record struct LineId(Guid Value) : IId<LineId>
{
    /// <inheritdoc/>
    public static LineId From(Guid value) => new(value);
}

/// <summary>Of a take.</summary>
[JsonConverter(typeof(IdConverter<TakeId>))]
public readonly record struct TakeId(Guid Value) : IId<TakeId>
{
    /// <inheritdoc/>
    public static TakeId From(Guid value) => new(value);
}

/// <summary>Of a clip on the lanes of the score.</summary>
[JsonConverter(typeof(IdConverter<ClipId>))]
public readonly record struct ClipId(Guid Value) : IId<ClipId>
{
    /// <inheritdoc/>
    public static ClipId From(Guid value) => new(value);
}

/// <summary>Of a prop in a scene.</summary>
[JsonConverter(typeof(IdConverter<PropId>))]
public readonly record struct PropId(Guid Value) : IId<PropId>
{
    /// <inheritdoc/>
    public static PropId From(Guid value) => new(value);
}

/// <summary>Of a sound beside the voices.</summary>
[JsonConverter(typeof(IdConverter<SoundId>))]
public readonly record struct SoundId(Guid Value) : IId<SoundId>
{
    /// <inheritdoc/>
    public static SoundId From(Guid value) => new(value);
}
