using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>A model file is missing, cut short or of another kind.</summary>
public sealed class AcousticModelException(string message) : Exception(message);

/// <summary>Where a phone stands in its word; part of what a context-dependent model is keyed by.</summary>
public enum WordPosition : byte
{
    /// <summary>Inside.</summary>
    Inside = 0,

    /// <summary>First of several.</summary>
    Begin = 1,

    /// <summary>Last of several.</summary>
    End = 2,

    /// <summary>The only one.</summary>
    Single = 3,
}

/// <summary>
/// A hidden-Markov acoustic model in the open Sphinx file layouts (CMU Sphinx documentation, "Acoustic model format"):
/// 3-state phone models whose states ("senones") are phonetically tied mixtures, that is, all states of one base phone share
/// that phone's codebook of Gaussians and differ in their mixture weights only.
/// Everything is read from streams; immutable afterwards and safe to share between threads.
/// </summary>
public sealed class AcousticModel
{
    /// <summary>States per phone model.</summary>
    public const int States = 3;

    // Mixture weights are stored as negated logarithms to this base, shifted right by ten bits.
    private static readonly double MixtureUnit = 1024 * Math.Log(1.0001);

    private readonly Dictionary<(int Base, int Left, int Right, WordPosition Position), int> _contexts = [];
    private readonly int[] _ssid,
        _tmat;
    private readonly ushort[] _senones;

    private AcousticModel(MdefFile mdef)
    {
        PhoneNames = mdef.Names;
        _ssid = mdef.Ssid;
        _tmat = mdef.Tmat;
        _senones = mdef.Senones;
        SenoneCount = mdef.SenoneCount;
        CodebookOfSenone = new int[SenoneCount];
        for (var p = 0; p < _ssid.Length; p++)
        {
            var basePhone = p < PhoneNames.Length ? p : mdef.Context[p].Base;
            for (var s = 0; s < States; s++)
                CodebookOfSenone[_senones[_ssid[p] * States + s]] = basePhone;
            if (p >= PhoneNames.Length)
            {
                var (b, l, r, w) = mdef.Context[p];
                _contexts[(b, l, r, w)] = p;
            }
        }
        for (var i = 0; i < PhoneNames.Length; i++)
            _index[PhoneNames[i]] = i;
    }

    private readonly Dictionary<string, int> _index = [];

    /// <summary>Names of the base phones; an index into this array is a phone number.</summary>
    public string[] PhoneNames { get; }

    /// <summary>Number of tied states.</summary>
    public int SenoneCount { get; }

    /// <summary>For each senone the base phone whose codebook it uses.</summary>
    public int[] CodebookOfSenone { get; }

    /// <summary>Gaussians per codebook and stream.</summary>
    public int Densities { get; private init; }

    /// <summary>Number of feature streams.</summary>
    public int Streams { get; private init; }

    /// <summary>Length of one stream's vectors.</summary>
    public int StreamLength { get; private init; }

    /// <summary>Means, [codebook][stream][dimension][density].</summary>
    public float[] Means { get; private init; } = [];

    /// <summary>Half the inverse variances, laid out like <see cref="Means"/>.</summary>
    public float[] HalfPrecisions { get; private init; } = [];

    /// <summary>Logarithm of each Gaussian's normalising constant, [codebook][stream][density].</summary>
    public float[] LogNormalisers { get; private init; } = [];

    /// <summary>Mixture weights as probabilities, [senone][stream][density].</summary>
    public float[] MixtureWeights { get; private init; } = [];

    /// <summary>Transition logarithms, [matrix][from 0..2][to 0..3].</summary>
    public float[] Transitions { get; private init; } = [];

    /// <summary>What the front end has to do.</summary>
    public CepstralOptions FrontEnd { get; private init; } = new();

    /// <summary>Number of a phone by name.</summary>
    /// <exception cref="KeyNotFoundException">The model has no such phone.</exception>
    public int PhoneIndex(string name) => _index[name];

    /// <summary>Whether the model knows a phone.</summary>
    public bool HasPhone(string name) => _index.ContainsKey(name);

    /// <summary>
    /// The model of a phone between two others. Where training had no such context the search backs off: other word position,
    /// silence for an unseen neighbour at a word's edge, at last the phone without context.
    /// </summary>
    public int ContextPhone(int phone, int left, int right, WordPosition position)
    {
        if (_contexts.TryGetValue((phone, left, right, position), out var p))
            return p;
        foreach (var other in (ReadOnlySpan<WordPosition>)[WordPosition.Inside, WordPosition.Begin, WordPosition.End, WordPosition.Single])
            if (_contexts.TryGetValue((phone, left, right, other), out p))
                return p;
        var sil = _index.GetValueOrDefault(Arpabet.Silence, -1);
        if (position is WordPosition.Begin or WordPosition.Single && _contexts.TryGetValue((phone, sil, right, position), out p))
            return p;
        if (position is WordPosition.End or WordPosition.Single && _contexts.TryGetValue((phone, left, sil, position), out p))
            return p;
        return phone;
    }

    /// <summary>The senones of a phone model's three states.</summary>
    public ReadOnlySpan<ushort> SenonesOf(int model) => _senones.AsSpan(_ssid[model] * States, States);

    /// <summary>Transition logarithms of a phone model: 3 x 4, row by row.</summary>
    public ReadOnlySpan<float> TransitionsOf(int model) => Transitions.AsSpan(_tmat[model] * States * (States + 1), States * (States + 1));

    /// <summary>Reads a model; <paramref name="open"/> gives each file of it by name, or null where it is missing.</summary>
    /// <exception cref="AcousticModelException">A file is missing, cut short or of another kind; the message names it.</exception>
    public static AcousticModel Read(Func<string, Stream?> open)
    {
        byte[] Load(string name)
        {
            using var stream = open(name) ?? throw new AcousticModelException($"The acoustic model lacks its file \"{name}\".");
            using var memory = new MemoryStream();
            stream.CopyTo(memory);
            return memory.ToArray();
        }
        T Parse<T>(string name, Func<byte[], T> read)
        {
            var bytes = Load(name);
            try
            {
                return read(bytes);
            }
            catch (Exception e) when (e is ArgumentException or IndexOutOfRangeException or EndOfStreamException or OverflowException or FormatException)
            {
                throw new AcousticModelException($"The acoustic model's file \"{name}\" is cut short or of another kind.");
            }
        }

        var options = Parse("feat.params", ReadFeatParams);
        var mdef = Parse("mdef", MdefFile.Read);
        var means = Parse("means", b => GaussianFile.Read(b, "means"));
        var variances = Parse("variances", b => GaussianFile.Read(b, "variances"));
        if (means.Codebooks != mdef.Names.Length || variances.Data.Length != means.Data.Length)
            throw new AcousticModelException(
                "The acoustic model's files \"mdef\", \"means\" and \"variances\" do not belong together: this is not a phonetically tied model of one set."
            );
        var weights = Parse("sendump", b => ReadSendump(b, mdef.SenoneCount, means.Streams, means.Densities));
        var transitions = Parse("transition_matrices", ReadTransitions);

        int nc = means.Codebooks,
            ns = means.Streams,
            nd = means.Densities,
            dim = means.StreamLength;
        var m = new float[means.Data.Length];
        var h = new float[means.Data.Length];
        var norm = new float[nc * ns * nd];
        for (var cs = 0; cs < nc * ns; cs++)
        for (var d = 0; d < nd; d++)
        {
            double log = 0;
            for (var k = 0; k < dim; k++)
            {
                var variance = Math.Max(variances.Data[(cs * nd + d) * dim + k], 1e-4f);
                m[(cs * dim + k) * nd + d] = means.Data[(cs * nd + d) * dim + k];
                h[(cs * dim + k) * nd + d] = 0.5f / variance;
                log -= 0.5 * Math.Log(2 * Math.PI * variance);
            }
            norm[cs * nd + d] = (float)log;
        }
        return new AcousticModel(mdef)
        {
            Densities = nd,
            Streams = ns,
            StreamLength = dim,
            Means = m,
            HalfPrecisions = h,
            LogNormalisers = norm,
            MixtureWeights = weights,
            Transitions = transitions,
            FrontEnd = options,
        };
    }

    private static CepstralOptions ReadFeatParams(byte[] bytes)
    {
        var values = Encoding
            .ASCII.GetString(bytes)
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(l => l.Split((char[]?)null, 2, StringSplitOptions.RemoveEmptyEntries))
            .Where(p => p.Length == 2)
            .ToDictionary(p => p[0], p => p[1]);
        double Number(string name, double otherwise) =>
            values.TryGetValue(name, out var v) ? double.Parse(v, System.Globalization.CultureInfo.InvariantCulture) : otherwise;
        if (values.GetValueOrDefault("-transform") != "dct" || values.GetValueOrDefault("-feat") != "1s_c_d_dd")
            throw new AcousticModelException(
                "The acoustic model's file \"feat.params\" asks for features that this program does not make (it makes -transform dct, -feat 1s_c_d_dd)."
            );
        return new CepstralOptions
        {
            LowerHz = Number("-lowerf", 133.33334),
            UpperHz = Number("-upperf", 6855.4976),
            Filters = (int)Number("-nfilt", 40),
            Lifter = (int)Number("-lifter", 0),
            // The models are trained behind noise suppression unless they say otherwise.
            SuppressNoise = values.GetValueOrDefault("-remove_noise") != "no",
        };
    }

    private static float[] ReadSendump(byte[] bytes, int senones, int streams, int densities)
    {
        var at = 0;
        int Int()
        {
            var v = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at));
            at += 4;
            return v;
        }
        int clusters = 0,
            bits = 8;
        for (var length = Int(); length != 0; length = Int())
        {
            if (length is < 0 or > 999)
                throw new FormatException();
            var text = Encoding.ASCII.GetString(bytes, at, length).TrimEnd('\0');
            at += length;
            var parts = text.Split(' ');
            if (parts.Length < 2)
                continue;
            if (parts[0] == "cluster_count")
                clusters = int.Parse(parts[1]);
            if (parts[0] == "cluster_bits")
                bits = int.Parse(parts[1]);
        }
        if (clusters != 0 || bits != 8)
            throw new AcousticModelException("The acoustic model's file \"sendump\" keeps its weights clustered; this program reads plain 8-bit weights.");
        int rows = Int(),
            columns = Int();
        if (rows != densities || columns < senones)
            throw new FormatException();
        var table = new float[256];
        for (var i = 0; i < 256; i++)
            table[i] = (float)Math.Exp(-i * MixtureUnit);
        var weights = new float[senones * streams * densities];
        for (var f = 0; f < streams; f++)
        for (var d = 0; d < densities; d++, at += columns)
        for (var s = 0; s < senones; s++)
            weights[(s * streams + f) * densities + d] = table[bytes[at + s]];
        return weights;
    }

    private static float[] ReadTransitions(byte[] bytes)
    {
        var (at, _) = GaussianFile.Header(bytes);
        int Int()
        {
            var v = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at));
            at += 4;
            return v;
        }
        int matrices = Int(),
            from = Int(),
            to = Int(),
            total = Int();
        if (from != States || to != States + 1 || total != matrices * from * to)
            throw new FormatException();
        var values = MemoryMarshal.Cast<byte, float>(bytes.AsSpan(at, total * 4)).ToArray();
        for (var row = 0; row < matrices * from; row++)
        {
            float sum = 0;
            for (var j = 0; j < to; j++)
                sum += values[row * to + j];
            for (var j = 0; j < to; j++)
                values[row * to + j] = values[row * to + j] <= 0 ? float.NegativeInfinity : MathF.Log(values[row * to + j] / sum);
        }
        return values;
    }

    private sealed record GaussianFile(int Codebooks, int Streams, int Densities, int StreamLength, float[] Data)
    {
        public static (int At, string Text) Header(byte[] bytes)
        {
            if (bytes.Length < 3 || bytes[0] != 's' || bytes[1] != '3')
                throw new FormatException();
            var end = bytes.AsSpan().IndexOf("endhdr\n"u8);
            if (end < 0)
                throw new FormatException();
            var at = end + 7;
            if (BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at)) != 0x11223344)
                throw new FormatException();
            return (at + 4, Encoding.ASCII.GetString(bytes, 0, end));
        }

        public static GaussianFile Read(byte[] bytes, string name)
        {
            var (at, _) = Header(bytes);
            int Int()
            {
                var v = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at));
                at += 4;
                return v;
            }
            int codebooks = Int(),
                streams = Int(),
                densities = Int();
            if (codebooks is <= 0 or > 1000 || streams is <= 0 or > 16 || densities is <= 0 or > 4096)
                throw new FormatException();
            var lengths = Enumerable.Range(0, streams).Select(_ => Int()).ToArray();
            if (lengths.Distinct().Count() != 1)
                throw new AcousticModelException($"The acoustic model's file \"{name}\" has streams of different lengths; this program reads equal ones.");
            var total = Int();
            if (total != codebooks * streams * densities * lengths[0])
                throw new FormatException();
            return new GaussianFile(codebooks, streams, densities, lengths[0], MemoryMarshal.Cast<byte, float>(bytes.AsSpan(at, total * 4)).ToArray());
        }
    }

    private sealed record MdefFile(
        string[] Names,
        int[] Ssid,
        int[] Tmat,
        (int Base, int Left, int Right, WordPosition Position)[] Context,
        ushort[] Senones,
        int SenoneCount
    )
    {
        // Layout: "BMDF", version, a described header, ten counts, names, context tree, 12-byte phone entries, senone sequences.
        public static MdefFile Read(byte[] bytes)
        {
            if (bytes.Length < 16 || !bytes.AsSpan(0, 4).SequenceEqual("BMDF"u8))
                throw new FormatException();
            var at = 4;
            int Int()
            {
                var v = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at));
                at += 4;
                return v;
            }
            if (Int() != 1)
                throw new FormatException();
            var description = Int();
            at += description;
            int ciPhones = Int(),
                phones = Int(),
                states = Int();
            Int();
            int senones = Int();
            Int();
            int sequences = Int();
            Int();
            int tree = Int();
            Int();
            if (states != States || ciPhones is <= 0 or > 255 || phones < ciPhones)
                throw new FormatException();
            var namesAt = at;
            var names = new string[ciPhones];
            for (var i = 0; i < ciPhones; i++)
            {
                var length = bytes.AsSpan(at).IndexOf((byte)0);
                names[i] = Encoding.ASCII.GetString(bytes, at, length);
                at += length + 1;
            }
            at = namesAt + (at - namesAt + 3) / 4 * 4;
            at += tree * 8;
            var ssid = new int[phones];
            var tmat = new int[phones];
            var context = new (int, int, int, WordPosition)[phones];
            for (var p = 0; p < phones; p++)
            {
                ssid[p] = Int();
                tmat[p] = Int();
                // For a phone in context the four bytes are: word position, base phone, left, right.
                context[p] = p < ciPhones ? default : (bytes[at + 1], bytes[at + 2], bytes[at + 3], (WordPosition)bytes[at]);
                at += 4;
            }
            var count = Int();
            if (count != sequences * States)
                throw new FormatException();
            return new MdefFile(names, ssid, tmat, context, MemoryMarshal.Cast<byte, ushort>(bytes.AsSpan(at, count * 2)).ToArray(), senones);
        }
    }
}
