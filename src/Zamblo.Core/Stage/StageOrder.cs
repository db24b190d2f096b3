using Zamblo.Core.Portraits;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Stage;

/// <summary>What is drawn as one.</summary>
internal enum PieceKind
{
    Member,
    Prop,

    /// <summary>The backdrop's front layer.</summary>
    Front,
}

/// <summary>One of the things on a stage.</summary>
/// <param name="Kind">What.</param>
/// <param name="Index">Among its kind.</param>
/// <param name="Order">Its place from back to front.</param>
internal readonly record struct StagePiece(PieceKind Kind, int Index, double Order);

/// <summary>Who and what is drawn after whom.</summary>
internal static class StageOrder
{
    // Members of one depth lie in their order: so much of a step for each.
    private const double Step = 0.001;

    /// <summary>All of a stage, back to front.</summary>
    public static IReadOnlyList<StagePiece> Of(IReadOnlyList<StageMember> members, IReadOnlyList<StageProp> props) =>
        [
            .. members
                .Select((m, i) => new StagePiece(PieceKind.Member, i, (m.BeforeFront ? PropPlace.Before : 0) + m.Depth + Step * i))
                .Append(new StagePiece(PieceKind.Front, 0, PropPlace.Counter))
                .Concat(props.Select((p, i) => new StagePiece(PieceKind.Prop, i, p.Place.Order)))
                .OrderBy(p => p.Order),
        ];

    /// <summary>Members whose clip somebody behind them has drawn already: their first shape is left out.</summary>
    /// <param name="members">As they were given.</param>
    /// <param name="pieces">All of the stage, back to front.</param>
    public static IReadOnlySet<int> InOthersClips(IReadOnlyList<StageMember> members, IReadOnlyList<StagePiece> pieces)
    {
        var drawn = new List<PlateFigure>();
        var later = new HashSet<int>();
        foreach (var piece in pieces)
            if (piece.Kind == PieceKind.Member && members[piece.Index].Figure is PlateFigure plate)
            {
                if (drawn.Exists(plate.IsOfOneClip))
                    later.Add(piece.Index);
                drawn.Add(plate);
            }
        return later;
    }

    /// <summary>The order of a prop that goes past its neighbour.</summary>
    /// <param name="pieces">All of a stage, back to front.</param>
    /// <param name="prop">Index of the prop.</param>
    /// <param name="step">1 to the front, -1 to the back.</param>
    public static double After(IReadOnlyList<StagePiece> pieces, int prop, int step)
    {
        var at = Enumerable.Range(0, pieces.Count).First(i => pieces[i].Kind == PieceKind.Prop && pieces[i].Index == prop);
        var next = at + step;
        if (next < 0 || next >= pieces.Count)
            return pieces[at].Order;
        // Between the neighbour and whatever comes then; at the end a step beyond.
        var then = next + step;
        return then < 0 || then >= pieces.Count ? pieces[next].Order + step : (pieces[next].Order + pieces[then].Order) / 2;
    }
}
