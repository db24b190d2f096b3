namespace Zamblo.Core;

/// <summary>Places in lists that are in order of a number, by halving.</summary>
internal static class Sorted
{
    /// <summary>How many lie before a limit: the index of the first one at it or after it.</summary>
    /// <param name="list">In order of the number, least first.</param>
    /// <param name="limit">Of the number.</param>
    /// <param name="of">The number of one.</param>
    public static int Below<T>(IReadOnlyList<T> list, double limit, Func<T, double> of) => Count(list, limit, of, isWith: false);

    /// <summary>How many lie before a limit or at it: the index of the first one after it.</summary>
    /// <param name="list">In order of the number, least first.</param>
    /// <param name="limit">Of the number.</param>
    /// <param name="of">The number of one.</param>
    public static int UpTo<T>(IReadOnlyList<T> list, double limit, Func<T, double> of) => Count(list, limit, of, isWith: true);

    private static int Count<T>(IReadOnlyList<T> list, double limit, Func<T, double> of, bool isWith)
    {
        int low = 0,
            high = list.Count;
        while (low < high)
        {
            var middle = (low + high) / 2;
            var value = of(list[middle]);
            if (value < limit || isWith && value == limit)
                low = middle + 1;
            else
                high = middle;
        }
        return low;
    }
}
