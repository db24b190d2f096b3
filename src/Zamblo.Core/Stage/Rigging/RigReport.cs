namespace Zamblo.Core.Stage.Rigging;

/// <summary>How it stands with one thing that a figure should have.</summary>
public enum RigState
{
    /// <summary>It is drawn, and moves.</summary>
    There,

    /// <summary>It is not drawn; something stands in for it.</summary>
    StandIn,

    /// <summary>It is not there, and nothing stands in for it.</summary>
    Missing,
}

/// <summary>One line of the list of what a figure has.</summary>
/// <param name="What">A word: "Eyes".</param>
/// <param name="State">How it stands with it.</param>
/// <param name="Says">What it does, or what stands in for it, in a few words.</param>
/// <param name="Parts">The parts of the rig that it is about.</param>
public sealed record RigFinding(string What, RigState State, string Says, IReadOnlyList<string> Parts);

/// <summary>What a figure has, what it lacks, and what stands in for that, read off its rig.</summary>
public static class RigReport
{
    /// <summary>The list, from the head down.</summary>
    public static IReadOnlyList<RigFinding> Of(Rig rig)
    {
        string[] With(params RigMotion[] motions) => [.. rig.Parts.Where(p => motions.Contains(p.Motion)).Select(p => p.Id)];
        var head = With(RigMotion.Head);
        var isWhole = head.Length > 0 && head[0].StartsWith("body", StringComparison.Ordinal);
        var eyes = With(RigMotion.EyeLeft, RigMotion.EyeRight);
        var lids = With(RigMotion.LidLeft, RigMotion.LidRight);
        var pupils = With(RigMotion.Pupil);
        var brows = With(RigMotion.BrowLeft, RigMotion.BrowRight);
        string[] anew = [.. rig.Eyes.Select(e => e.Part)];
        // Under drawn lids the eye itself only lies on the head.
        string[] open = [.. rig.Parts.Where(p => p.Id.StartsWith("eye", StringComparison.Ordinal) && !p.Id.Contains('.')).Select(p => p.Id)];
        var arms = With(RigMotion.ArmLeft, RigMotion.ArmRight);
        var elbows = With(RigMotion.ElbowLeft, RigMotion.ElbowRight);
        var legs = With(RigMotion.LegLeft, RigMotion.LegRight);
        var knees = With(RigMotion.KneeLeft, RigMotion.KneeRight);
        var dangling = rig.Parts.Where(p => p.Spring != null).Select(p => p.Id).ToArray();
        var findings = new List<RigFinding>
        {
            head.Length == 0 ? new("Head", RigState.Missing, "nothing nods or tilts", [])
            : isWhole ? new("Head", RigState.StandIn, "the whole figure nods and tilts", head)
            : new("Head", RigState.There, "turns, nods and tilts", head),
            anew.Length > 0 ? new("Eyes", RigState.StandIn, "drawn anew, with lids and pupils", anew)
            : open.Length > 0 ? new("Eyes", RigState.There, "as they are drawn", open)
            : new("Eyes", RigState.Missing, "none", []),
        };
        if (anew.Length == 0)
        {
            findings.Add(
                lids.Length > 0 ? new("Lids", RigState.There, "come down over the eyes", lids)
                : eyes.Length > 0 ? new("Lids", RigState.StandIn, "eyes are squeezed shut", eyes)
                : new("Lids", RigState.Missing, "the eyes stay open", [])
            );
            findings.Add(
                pupils.Length > 0 ? new("Pupils", RigState.There, "go where the eyes look", pupils)
                : eyes.Length > 0 ? new("Pupils", RigState.StandIn, "the eyes slide a little", eyes)
                : new("Pupils", RigState.Missing, "the eyes look ahead", [])
            );
        }
        findings.Add(
            brows.Length > 0 ? new("Brows", RigState.There, "go up, down and together", brows)
            : rig.Brows.Length > 0 ? new("Brows", RigState.StandIn, "drawn anew", [.. rig.Brows.Select(b => b.Part)])
            : new("Brows", RigState.Missing, "lids and mouth show moods alone", [])
        );
        findings.Add(Mouth(rig.Mouth));
        findings.Add(
            arms.Length == 0 ? new("Arms", RigState.Missing, "gestures of the hands become moves of the body", [])
            : elbows.Length == 0 ? new("Arms", RigState.There, "of one piece each", arms)
            : new("Arms", RigState.There, "bend and reach", [.. arms, .. elbows])
        );
        findings.Add(
            legs.Length == 0 ? new("Legs", RigState.Missing, "walks are hops", [])
            : knees.Length == 0 ? new("Legs", RigState.There, "of one piece each", legs)
            : new("Legs", RigState.There, "bend and step", [.. legs, .. knees])
        );
        if (dangling.Length > 0)
            findings.Add(new("Dangling", RigState.There, string.Join(", ", dangling.Select(Words)), dangling));
        return findings;
    }

    /// <summary>A part's name as people write it.</summary>
    public static string Words(string id) => id.Replace('-', ' ').Replace('_', ' ');

    private static RigFinding Mouth(RigMouth mouth)
    {
        string[] part = [mouth.Part];
        return mouth.Style switch
        {
            MouthStyle.Drawn => new("Mouth", RigState.There, $"{mouth.Drawn.Count} drawn mouths, the nearest for each shape", part),
            MouthStyle.Stretched => new("Mouth", RigState.StandIn, "the one drawn mouth is stretched", part),
            _ => new("Mouth", RigState.StandIn, "drawn anew for every sound", part),
        };
    }
}
