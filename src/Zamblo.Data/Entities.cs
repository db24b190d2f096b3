using Zamblo.Core.Scenes;
using Zamblo.Core.Score;

namespace Zamblo.Data;

/// <summary>A whole film.</summary>
public sealed class Production
{
    public Guid Id { get; set; }
    public string Title { get; set; } = "";

    /// <summary>Width of the picture in pixels.</summary>
    public int Width { get; set; } = 1280;

    /// <summary>Height of the picture in pixels.</summary>
    public int Height { get; set; } = 720;

    /// <summary>Frame rate as people write it: "25", "30000/1001".</summary>
    public string Rate { get; set; } = "25";

    /// <summary>Tag of the language that is spoken in it, where it is one of several versions; empty where nobody has said.</summary>
    public string Language { get; set; } = "";

    /// <summary>The production that this one is another language of; it may be gone.</summary>
    public Guid? OriginalId { get; set; }

    /// <summary>The team that it belongs to; null where it is everybody's.</summary>
    public Guid? TeamId { get; set; }

    /// <summary>What is written in the picture, as JSON; empty for nothing.</summary>
    public string Lettering { get; set; } = "";

    /// <summary>Places on the floors of its sets that have names, as JSON; empty for none.</summary>
    public string Marks { get; set; } = "";

    /// <summary>What the review has found and somebody has called fine, as JSON.</summary>
    public string Fine { get; set; } = "";

    /// <summary>Grows with every edit, undo and redo; an edit names the revision that it was made on.</summary>
    public long Revision { get; set; }

    /// <summary>Number of history entries that are in effect; those above it can be redone.</summary>
    public int HistoryPosition { get; set; }
    public DateTime Created { get; set; }
    public DateTime Modified { get; set; }

    /// <summary>Set while the production lies in the bin.</summary>
    public DateTime? DeletedAt { get; set; }
}

/// <summary>One continuous stretch with one backdrop.</summary>
public sealed class Scene
{
    public Guid Id { get; set; }
    public Guid ProductionId { get; set; }
    public int Order { get; set; }
    public string Title { get; set; } = "";
    public string Backdrop { get; set; } = "bakery";

    /// <summary>The picture that the backdrop is made of; null for one that comes with the program.</summary>
    public string? BackdropHash { get; set; }

    /// <summary>What the camera does by itself, as JSON; empty for one picture of everybody.</summary>
    public string Camera { get; set; } = "";

    /// <summary>Light and air, as JSON; empty as the set is drawn.</summary>
    public string Light { get; set; } = "";

    /// <summary>Stillness before the first line, in seconds.</summary>
    public double LeadIn { get; set; } = 0.5;

    /// <summary>Stillness after the last line, in seconds.</summary>
    public double LeadOut { get; set; } = 0.8;

    /// <summary>Pause between a line and the next one that follows it, in seconds; about 200 ms in conversation (Stivers et al. 2009; from memory).</summary>
    public double Gap { get; set; } = 0.2;
}

/// <summary>A character in a production, under a role name.</summary>
public sealed class CastMember
{
    public Guid Id { get; set; }
    public Guid ProductionId { get; set; }
    public int Order { get; set; }
    public string RoleName { get; set; } = "";
    public string Character { get; set; } = "maro";
    public string Voice { get; set; } = "espeak:en-us";

    /// <summary>Own colour on script and score, "#rrggbb".</summary>
    public string Ink { get; set; } = "#1E2430";

    /// <summary>Dials of the mouth pass as JSON; empty for the defaults.</summary>
    public string MouthDials { get; set; } = "";

    /// <summary>Dials of the performance passes as JSON; empty for the defaults.</summary>
    public string PerformanceDials { get; set; } = "";
}

/// <summary>Where a hand has put a cast member in a scene.</summary>
public sealed class Standing
{
    public Guid Id { get; set; }
    public Guid SceneId { get; set; }
    public Guid CastMemberId { get; set; }

    /// <summary>In stage units; null where it stands by itself.</summary>
    public double? X { get; set; }

    /// <summary>Above its own ground, in stage units.</summary>
    public double Lift { get; set; }

    /// <summary>1 is the character's own.</summary>
    public double Size { get; set; } = 1;

    /// <summary>More is further in front.</summary>
    public int Depth { get; set; }

    /// <summary>To which side it is turned when it looks at nobody: -1 to the picture's left, 0 to the camera, 1 to the right.</summary>
    public double Facing { get; set; }
}

/// <summary>A thing that stands in a scene, or is held.</summary>
public sealed class SceneProp
{
    public Guid Id { get; set; }
    public Guid SceneId { get; set; }

    /// <summary>Key of its look.</summary>
    public string Art { get; set; } = "";

    /// <summary>The picture that it is made of; null for one that comes with the program.</summary>
    public string? PictureHash { get; set; }

    /// <summary>Where and how it stands, as JSON.</summary>
    public string Place { get; set; } = "";
}

/// <summary>What one cast member says in one go.</summary>
public sealed class Line
{
    public Guid Id { get; set; }
    public Guid SceneId { get; set; }
    public Guid CastMemberId { get; set; }
    public int Order { get; set; }

    /// <summary>What is said; may be empty for a voice without a script.</summary>
    public string Text { get; set; } = "";

    /// <summary>BCP 47 tag of what is said in it, where somebody said so; empty for the language of who says it.</summary>
    public string Language { get; set; } = "";

    /// <summary>Heard, but nobody's mouth moves: a narrator off stage.</summary>
    public bool IsOffStage { get; set; }

    /// <summary>Seen, but not heard: a pantomime.</summary>
    public bool IsMute { get; set; }

    /// <summary>What captions have in place of what is said, by language, as JSON; empty for nothing.</summary>
    public string Captions { get; set; } = "";

    /// <summary>The line that this one is in another language, in the production that this one is a version of; it may be gone.</summary>
    public Guid? OriginalId { get; set; }

    /// <summary>How a synthesis voice says it, as JSON; empty for plainly.</summary>
    public string Delivery { get; set; } = "";

    /// <summary>How much moves over it, as JSON; empty for whatever moves anyway.</summary>
    public string Acting { get; set; } = "";

    /// <summary>In seconds of the scene; null follows the line before.</summary>
    public double? Start
    {
        get;
        set
        {
            field = value;
            IsTogether &= value == null;
        }
    }

    /// <summary>For a line that follows: seconds after the end of the line before, in place of the scene's gap; less than 0 comes in before it ends.</summary>
    public double? Pause
    {
        get;
        set
        {
            field = value;
            IsTogether &= value == null;
        }
    }

    /// <summary>Begins with the line before, not after it: two who speak at once. A start or a pause of its own ends that.</summary>
    public bool IsTogether { get; set; }

    /// <summary>The take in use.</summary>
    public Guid? TakeId { get; set; }
}

/// <summary>Somebody else who says a line, in unison.</summary>
public sealed class LineVoice
{
    public Guid Id { get; set; }
    public Guid LineId { get; set; }
    public Guid CastMemberId { get; set; }
}

/// <summary>Where a take comes from.</summary>
public enum TakeKind
{
    File,
    Recording,
    Synthesis,
}

/// <summary>One recording of a line. The sound is never changed.</summary>
public sealed class Take
{
    public Guid Id { get; set; }
    public Guid LineId { get; set; }
    public TakeKind Kind { get; set; }

    /// <summary>Hash of the sound as it came.</summary>
    public string AssetHash { get; set; } = "";

    /// <summary>File name, or the voice.</summary>
    public string Name { get; set; } = "";

    /// <summary>In seconds.</summary>
    public double Duration { get; set; }

    /// <summary>For synthesis: the engine's own words and phones, as an asset; null where sound is listened to.</summary>
    public string? SpeechHash { get; set; }

    /// <summary>Sound that drives the mouth without being heard, such as the clean vocal of a song; null where the take does it itself.</summary>
    public string? GuideHash { get; set; }

    /// <summary>
    /// The part of the sound that this take is, in seconds; null for all of it. A recording of several people is cut into takes without being copied.
    /// </summary>
    public double? PartStart { get; set; }
    public double? PartEnd { get; set; }

    /// <summary>What is done to the sound, as JSON; empty leaves it as it is.</summary>
    public string Care { get; set; } = "";

    /// <summary>For synthesis: what was spoken, and how (JSON); empty where it was made before that was kept.</summary>
    public string SpokenText { get; set; } = "";
    public string SpokenDelivery { get; set; } = "";

    /// <summary>For synthesis: words of it that were said in their own way, "word=PH PH;" each; empty for none.</summary>
    public string SpokenSounds { get; set; } = "";

    /// <summary>Spoken in a voice of its own, not in the member's.</summary>
    public bool IsOwnVoice { get; set; }

    /// <summary>One that somebody liked.</summary>
    public bool IsStarred { get; set; }

    /// <summary>What somebody wrote about it.</summary>
    public string Note { get; set; } = "";

    /// <summary>File name of the guide.</summary>
    public string GuideName { get; set; } = "";
    public DateTime Created { get; set; }
}

/// <summary>A change of the mouth made by hand. It hangs on the line's words and phones, so it outlives the take that it was made on.</summary>
public sealed class LineTouch
{
    public Guid Id { get; set; }
    public Guid LineId { get; set; }

    /// <summary>Later ones lie over earlier ones.</summary>
    public int Order { get; set; }

    /// <summary>Off to compare with what was there before.</summary>
    public bool IsOn { get; set; } = true;

    /// <summary>What people read: "oven: Open becomes Round".</summary>
    public string Title { get; set; } = "";

    /// <summary>The change, as JSON.</summary>
    public string Data { get; set; } = "{}";
}

/// <summary>A mood or a gesture of a cast member. On a line it hangs on the words and moves with them; else it stands in the scene.</summary>
public sealed class ScoreClip
{
    private static long _last;

    public Guid Id { get; set; }
    public Guid SceneId { get; set; }
    public Guid CastMemberId { get; set; }

    /// <summary>Of two that lie over each other the later one is on top, also when it was taken back and made again: grows with each that is made.</summary>
    public long Order { get; set; } = Next();

    // By the clock, so that it grows over all starts; two within the same tick still follow each other.
    private static long Next()
    {
        while (true)
        {
            var last = Volatile.Read(ref _last);
            var next = Math.Max(last + 1, DateTime.UtcNow.Ticks);
            if (Interlocked.CompareExchange(ref _last, next, last) == last)
                return next;
        }
    }

    /// <summary>The line that it hangs on, or null.</summary>
    public Guid? LineId { get; set; }
    public ClipKind Kind { get; set; }

    /// <summary>Of the mood or the gesture; of a look "camera", a direction, or "member".</summary>
    public string Name { get; set; } = "";

    /// <summary>For a look at somebody: at whom.</summary>
    public Guid? TargetId { get; set; }

    /// <summary>The prop that is held; null for all else.</summary>
    public Guid? PropId { get; set; }

    /// <summary>Intensity or strength, 0 to 2.</summary>
    public double Strength { get; set; } = 1;

    /// <summary>Place and manner, as JSON.</summary>
    public string Data { get; set; } = "{}";
}

/// <summary>Music, room tone or an effect in a scene. No mouth moves to it.</summary>
public sealed class SceneSound
{
    public Guid Id { get; set; }
    public Guid SceneId { get; set; }
    public SoundKind Kind { get; set; }
    public string AssetHash { get; set; } = "";

    /// <summary>File name.</summary>
    public string Name { get; set; } = "";

    /// <summary>Of the file, in seconds.</summary>
    public double Duration { get; set; }

    /// <summary>In seconds of the scene.</summary>
    public double Start { get; set; }

    /// <summary>The line that an effect hangs on, or null.</summary>
    public Guid? LineId { get; set; }

    /// <summary>Where in that line, as JSON; empty without a line.</summary>
    public string Anchor { get; set; } = "";

    /// <summary>How much of the file is cut off in front, in seconds.</summary>
    public double From { get; set; }

    /// <summary>How long it is heard, in seconds; null to the end of the scene, or of the file where it does not loop.</summary>
    public double? Length { get; set; }

    /// <summary>In dB.</summary>
    public double Gain { get; set; }

    /// <summary>In seconds.</summary>
    public double FadeIn { get; set; }

    /// <summary>In seconds.</summary>
    public double FadeOut { get; set; }

    /// <summary>How far it goes down while somebody speaks, in dB, 0 and more.</summary>
    public double Duck { get; set; }
    public bool Loops { get; set; }
}

/// <summary>A stretch of a take that is voice, or is not, because somebody says so.</summary>
public sealed class TakeMark
{
    public Guid Id { get; set; }
    public Guid TakeId { get; set; }

    /// <summary>In seconds of the take.</summary>
    public double Start { get; set; }

    /// <summary>In seconds of the take.</summary>
    public double End { get; set; }
    public bool IsVoice { get; set; }

    /// <summary>What is heard there in place of speech (<c>Laugh</c>, <c>Sob</c> and so on); empty for nothing of the kind.</summary>
    public string Sound { get; set; } = "";
}

/// <summary>A boundary of a word or phone that somebody has put in its place.</summary>
public sealed class TakePin
{
    public Guid Id { get; set; }
    public Guid TakeId { get; set; }
    public string Word { get; set; } = "";

    /// <summary>Where it was before, in seconds of the take.</summary>
    public double Near { get; set; }

    /// <summary>Before this phone of the word; the number of phones for its end.</summary>
    public int Phone { get; set; }

    /// <summary>In seconds of the take.</summary>
    public double Time { get; set; }
}

/// <summary>How a word is said in this production.</summary>
public sealed class Respelling
{
    public Guid Id { get; set; }
    public Guid ProductionId { get; set; }

    /// <summary>In lower case.</summary>
    public string Word { get; set; } = "";

    /// <summary>As it was written: ARPAbet, IPA in slashes, or a spelling.</summary>
    public string Written { get; set; } = "";

    /// <summary>ARPAbet, with spaces between.</summary>
    public string Phones { get; set; } = "";
}

/// <summary>
/// A character of one's own. Its recipe never changes: a changed one is another row, so that productions keep the one that they were made with.
/// </summary>
public sealed class OwnCharacter
{
    /// <summary>"own-" and the beginning of the recipe's hash.</summary>
    [System.ComponentModel.DataAnnotations.Key]
    public string Key { get; set; } = "";
    public string Name { get; set; } = "";

    /// <summary>"person", "creature", "thing" or "machine".</summary>
    public string Kind { get; set; } = "person";

    /// <summary>The recipe, as JSON.</summary>
    public string Recipe { get; set; } = "{}";

    /// <summary>Shown in Casting; one that is deleted stays for the productions that have it.</summary>
    public bool IsListed { get; set; } = true;

    /// <summary>Key of the one that it was changed into, which is offered wherever it is cast; null where nobody has changed it.</summary>
    public string? ReplacedBy { get; set; }
    public DateTime Created { get; set; }
}

/// <summary>A motion that was performed or joined by hand and saved, to be used by any cast member of any production.</summary>
public sealed class SavedGesture
{
    public Guid Id { get; set; }
    public string Name { get; set; } = "";

    /// <summary>The gesture, as JSON.</summary>
    public string Data { get; set; } = "{}";
    public DateTime Created { get; set; }
}

/// <summary>Mouth motion of a line that was saved, to be laid on any other line of any production.</summary>
public sealed class MouthMotion
{
    public Guid Id { get; set; }
    public string Name { get; set; } = "";

    /// <summary>In seconds.</summary>
    public double Duration { get; set; }

    /// <summary>Cues from 0 on, as JSON.</summary>
    public string Cues { get; set; } = "[]";
    public DateTime Created { get; set; }
}

/// <summary>A file in the store, under the hash of its contents.</summary>
public sealed class Asset
{
    /// <summary>SHA-256 in lower-case hexadecimal.</summary>
    public string Hash { get; set; } = "";
    public long Length { get; set; }
    public string Name { get; set; } = "";
    public DateTime Created { get; set; }

    /// <summary>Who was first to bring it; null where nobody has to say who it is.</summary>
    public string? By { get; set; }
}
