#!/usr/bin/env python3
"""Learns src/Zamblo.Media/Models/song_voice.onnx: a mask that leaves the voice of a song, and whether a band plays.

    python3 learn.py FOLDER MINUTES [WEIGHTS]

Nothing but this needs it; the program ships the result. Everything it learns from it makes by itself, from Debian's packages (flite, festival with
festvox-kallpc16k, festvox-us-slt-hts, festvox-suopuhe-lj, festvox-suopuhe-mv, festvox-italp16k, festvox-itapc16k, festvox-ca-ona-hts, festvox-czech-dita,
festvox-czech-krb and festvox-czech-machac, espeak-ng, rubberband-cli, fluidsynth, fluid-soundfont-gm, csound-soundfont, opl3-soundfont, python3-torch,
python3-onnx, python3-scipy, libopenblas0-pthread): sentences of ours, spoken by thirteen voices, and syllables by eight of other languages, laid on notes and
stretched as a singer would; bands of random chords, lines and drums in three sets of sounds. The benchmark's songs have other words, other tunes, a fourth set
(TimGM6mb) and, in their held-out half, another voice (ked). What phones.py has sung into the same folder is taken along. The shipped weights come of several
runs, each from where the last one stopped: 50 minutes of an earlier form of this file, 24 with what phones.py sings, all over one set of sounds, and 30 as it
is now, on two cores that had other work, too. Another run gives other weights.
"""
import glob, os, queue, random, re, struct, subprocess, sys, threading, time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import scipy.fft as sf
import torch
import torch.nn as nn
from scipy.io import wavfile

HERE = os.path.dirname(os.path.abspath(__file__))
RATE, FFT, HOP, WINDOW = 16000, 1024, 160, 640  # As VoiceOfSong has them.
BINS = FFT // 2 + 1
VOICES, BANDS_OF_SOUNDS = 520, 110
# Sets of General MIDI sounds: a large one of recordings, a small one, and one of frequency modulation.
SOUNDS = [f"/usr/share/sounds/sf2/{name}.sf2" for name in ("FluidR3_GM", "sf_GMbank", "OPL-3_FM_128M")]
BANDS = BANDS_OF_SOUNDS * len(SOUNDS)
BANDS_OF_MEL = 80  # As MelLogs has them, for the networks that look at those.
TAKE = 160 * 256  # Samples of an example.
SPEAKERS = [("flite", "slt"), ("flite", "rms"), ("flite", "kal16"), ("festival", "voice_cmu_us_slt_arctic_hts"), ("festival", "voice_kal_diphone")] + [
    ("espeak", v) for v in "en-us+f2 en-us+f3 en-gb+f4 en-us+m1 en-gb+m3 en-us+m5 en-gb-scotland+m7 en-us".split()
]

# Voices of other languages, which sing syllables that mean nothing: somebody sings, whatever is said.
OTHERS = "suo_fi_lj_diphone hy_fi_mv_diphone pc_diphone lp_diphone upc_ca_ona_hts czech_dita czech_krb czech_machac".split()


def run(*arguments):
    subprocess.run(arguments, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def read(path):
    rate, x = wavfile.read(path)
    assert rate == RATE, path
    x = x.astype(np.float32) / (32768 if x.dtype == np.int16 else 1)
    return x.mean(1) if x.ndim > 1 else x


def pitch_of(x):
    """Pitch every 10 ms by the highest peak of the autocorrelation, 0 where there is none."""
    hz = np.zeros(len(x) // HOP)
    for i in range(len(hz)):
        part = x[max(0, i * HOP - 400) :][:960]
        if len(part) < 960 or np.sqrt((part**2).mean()) < 0.01:
            continue
        spectrum = np.fft.rfft((part - part.mean()) * np.hanning(960), 2048)
        again = np.fft.irfft(np.abs(spectrum) ** 2)
        least = RATE // 400
        lag = least + np.argmax(again[least : RATE // 70])
        if again[lag] > 0.45 * again[0]:
            hz[i] = RATE / lag
    return hz


def speak(engine, voice, text, words_a_minute, path):
    """A sentence into a WAV file of 16 kHz; only espeak-ng is told how fast."""
    if engine == "flite":
        run("flite", "-voice", voice, "-t", text, "-o", path + ".a.wav")
    elif engine == "festival":
        run("festival", "-b", f"({voice})", f'(utt.save.wave (utt.synth (Utterance Text "{text}")) "{path}.a.wav")')
    else:
        run("espeak-ng", "-v", voice, "-s", str(words_a_minute), "-w", path + ".a.wav", text)
    run("ffmpeg", "-v", "error", "-y", "-i", path + ".a.wav", "-ar", str(RATE), "-ac", "1", path)
    os.remove(path + ".a.wav")


def own_sentences():
    with open(os.path.join(HERE, "..", "Zamblo.Bench", "BoundaryLearning.cs")) as f:
        return re.findall(r'^        "(.*)",$', f.read(), re.M)


def make_voice(folder, i, sentences):
    """A sentence, or syllables, spoken; four of five are sung."""
    r = random.Random(100 + i)
    path = f"{folder}/voice/{i}"
    speaker = (SPEAKERS + [("festival", "voice_" + name) for name in OTHERS])[i % (len(SPEAKERS) + len(OTHERS))]
    text = sentences[r.randrange(len(sentences))]
    if speaker not in SPEAKERS:
        text = " ".join("".join(r.choice("bdfgklmnprstv") + r.choice("aeiou") for _ in range(r.randrange(1, 4))) for _ in range(r.randrange(6, 12)))
    speak(*speaker, text, r.randrange(120, 170), path + ".b.wav")
    if r.random() < 0.2:
        os.rename(path + ".b.wav", path + ".wav")
        return
    sing(r, read(path + ".b.wav"), path)


def sing(r, x, path):
    """Every voiced stretch is cut into notes, its loud parts are held, and the tone trembles. Returns where each 10 ms begin then, in samples."""
    hz = pitch_of(x)
    n = len(hz)
    x = x[: n * HOP]
    middle = np.median(hz[hz > 0]) if (hz > 0).any() else 120
    higher = r.choice([1, 1, 1.25, 1.5, 1.8, 2.2] if middle < 160 else [0.8, 1, 1, 1.3, 1.6, 2])
    loud = np.sqrt((x.reshape(n, HOP) ** 2).mean(1))
    stretch, note = np.ones(n), np.zeros(n)
    at = 0
    while at < n:
        if hz[at] == 0:
            at += 1
            continue
        end = at
        while end < n and hz[end] > 0:
            end += 1
        while at < end:
            to = min(end, at + r.randrange(12, 45))
            to = end if end - to < 6 else to
            note[at:to] = middle * higher * 2 ** ((r.choice([0, 2, 4, 5, 7, 9, 11, 12]) - 5) / 12)
            stretch[at:to] = np.where(loud[at:to] > 0.5 * loud[at:to].max(), r.choice([1, 1.3, 2, 3, 4.5]), 1.1)
            at = to
    times = np.concatenate([[0], np.cumsum(stretch * HOP)]).astype(int)
    trembles, phase, now = r.random() < 0.8, r.random() * 6, 0.0
    with open(path + ".pitch", "w") as f:
        for k in range(n):
            wanted = np.clip(12 * np.log2(note[k] / hz[k]), -14, 20) if hz[k] > 0 else now
            now += 0.5 * (wanted - now)
            f.write(f"{k * HOP} {now + trembles * 0.35 * np.sin(2 * np.pi * 5.6 * times[k] / RATE + phase):.3f}\n")
    with open(path + ".time", "w") as f:
        f.writelines(f"{k * HOP} {times[k]}\n" for k in [*range(0, n, 2), n])
    wavfile.write(path + ".b.wav", RATE, (x * 32767).astype(np.int16))
    run("rubberband", "-F", "-2", "--pitchmap", path + ".pitch", path + ".b.wav", path + ".c.wav")
    run("rubberband", "-2", "--duration", str(times[n] / RATE), "--timemap", path + ".time", path + ".c.wav", path + ".wav")
    for suffix in (".b.wav", ".c.wav", ".time", ".pitch"):
        os.remove(path + suffix)
    return times


def number(n):
    """A variable-length quantity of a MIDI file."""
    rest = [n & 127]
    while n := n >> 7:
        rest.insert(0, n & 127 | 128)
    return bytes(rest)


def make_band(folder, i):
    """34 seconds of chords, a bass, mostly drums, and often a line of its own: General MIDI programs, numbers from memory; no voices among them."""
    r = random.Random(5000 + i)
    tempo, events = r.randrange(70, 150), []

    def play(channel, key, start, length, velocity):
        events.append((start, bytes([0x90 | channel, key, velocity])))
        events.append((start + max(1, length - 1), bytes([0x80 | channel, key, 0])))

    pads = [0, 1, 4, 5, 16, 17, 18, 19, 48, 49, 50, 51, 89, 90, 91, 88, 25, 26, 27, 24, 21, 22]
    leads = [40, 41, 42, 56, 57, 60, 64, 65, 66, 67, 68, 71, 73, 74, 80, 81, 22, 26, 29, 30, 0, 11, 12]
    any_of = [*range(0, 52), *range(55, 80), *range(80, 96), 104, 105, 106]
    for channel, choice in enumerate((pads, range(32, 40), leads, any_of)):
        events.append((0, bytes([0xC0 | channel, r.choice(choice)])))
        events.append((0, bytes([0xB0 | channel, 10, 64 if channel == 1 else r.randrange(128)])))
    key, style = r.randrange(12), r.randrange(4)
    chords = [r.choice([[0, 4, 7], [2, 5, 9], [4, 7, 11], [5, 9, 12], [7, 11, 14], [9, 12, 16]]) for _ in range(4)]
    drums, line, more, velocity = r.random() < 0.65, r.random() < 0.5, r.random() < 0.4, r.randrange(50, 100)
    hits = [[r.random() < p for _ in range(16)] for p in (0.2, 0.15, 0.6)]
    for bar in range(int(34 / (240 / tempo)) + 1):
        chord, at = chords[bar % 4], bar * 384
        for step in range(8):
            if style == 2:
                play(0, 48 + key + chord[step % 3] + (12 if step % 4 == 3 else 0), at + 48 * step, 100, r.randrange(55, 90))
                continue
            every, length = ((8, 380), (2, 80), (8, 0), (1, 40))[style]
            if step % every == 0 and (style != 3 or r.random() < 0.6):
                for k in chord:
                    play(0, 48 + key + k, at + 48 * step, length, r.randrange(55, 95))
        for beat in range(4):
            play(1, 28 + (key + chord[0]) % 12, at + 96 * beat, 90, 85)
        tick = 0
        while line and bar // 4 % 2 == 0 and tick < 384:
            length = r.choice([48, 48, 96, 192])
            play(2, 60 + key + r.choice([0, 2, 4, 5, 7, 9, 11, 12]), at + tick, length, velocity)
            tick += length
        for step in range(16):
            if more and r.random() < 0.3:
                play(3, 60 + key + r.choice(chord), at + 24 * step, r.choice([24, 48]), 60)
            if drums and (hits[0][step] or step % 8 == 0):
                play(9, 36, at + 24 * step, 20, 90)
            if drums and (step % 8 == 4 or hits[1][step] and r.random() < 0.3):
                play(9, 38, at + 24 * step, 20, 80)
            if drums and hits[2][step]:
                play(9, r.choice([42, 42, 46, 51]), at + 24 * step, 20, r.randrange(40, 80))
    track, last = number(0) + b"\xff\x51\x03" + int(60e6 / tempo).to_bytes(3, "big"), 0
    for tick, event in sorted(events, key=lambda e: e[0]):
        track += number(tick - last) + event
        last = tick
    track += number(0) + b"\xff\x2f\x00"
    path = f"{folder}/band/{i}"
    with open(path + ".mid", "wb") as f:
        f.write(b"MThd" + struct.pack(">IHHH", 6, 0, 1, 96) + b"MTrk" + struct.pack(">I", len(track)) + track)
    run("fluidsynth", "-ni", "-q", "-g", "0.5", "-r", "32000", "-F", path + ".w.wav", SOUNDS[i // BANDS_OF_SOUNDS], path + ".mid")
    run("ffmpeg", "-v", "error", "-y", "-i", path + ".w.wav", "-ar", str(RATE), "-ac", "1", path + ".wav")
    os.remove(path + ".w.wav")


def of_throat(x, longer):
    """The same, played faster or slower: all of it is higher or lower then, as of another throat."""
    return np.interp(np.arange(0, len(x) - 1, 1 / longer), np.arange(len(x)), x).astype(np.float32)


class Examples:
    """Voices over bands: -12 to 8 dB, some in a room, some without a band or without a voice, some in noise that is no band. Some with another throat."""

    def __init__(self, folder, kinds=("voice", "sung")):
        self.rng = np.random.default_rng(1)

        def all_of(kind):
            found = [read(p) for p in sorted(glob.glob(f"{folder}/{kind}/*.wav")) if p.count(".") == 1]
            return [x / np.sqrt((x**2).mean() + 1e-9) * 0.08 for x in found if len(x) > 8000]

        self.voices, self.bands = [x for kind in kinds for x in all_of(kind)], all_of("band")

    def noise(self):
        f = sf.rfftfreq(TAKE, 1 / RATE)
        f[0] = f[1]
        x = sf.irfft((self.rng.standard_normal(len(f)) + 1j * self.rng.standard_normal(len(f))) / np.sqrt(f) ** self.rng.uniform(0, 1.4), TAKE)
        return (x / np.sqrt((x**2).mean()) * 0.08).astype(np.float32)

    def in_room(self, voice):
        n = int(self.rng.uniform(0.2, 1.2) * RATE)
        echo = self.rng.standard_normal(n, dtype=np.float32) * 10 ** (-3 * np.arange(n) / n)
        echo[: int(self.rng.uniform(100, 500))] = 0
        echo = (echo * self.rng.uniform(0.1, 0.5) / np.sqrt((echo**2).sum())).astype(np.float32)
        size = 1 << int(np.ceil(np.log2(len(voice) + n)))
        return (voice + sf.irfft(sf.rfft(voice, size) * sf.rfft(echo, size), size)[: len(voice)]).astype(np.float32)

    def coloured(self, x):
        f = np.linspace(0, 1, len(x) // 2 + 1)
        wave = self.rng.uniform(-3, 3) * np.sin(2 * np.pi * f * self.rng.uniform(0.5, 3) + self.rng.uniform(0, 6))
        gain = 10 ** ((self.rng.uniform(-6, 6) * (f - 0.3) + wave) / 20)
        return sf.irfft(sf.rfft(x) * gain.astype(np.float32), len(x)).astype(np.float32)

    def one(self):
        rng, voice = self.rng, np.zeros(TAKE, np.float32)
        at = int(rng.integers(-20000, 16000)) if rng.random() > 0.15 else TAKE
        while at < TAKE:
            x = self.voices[rng.integers(len(self.voices))] * 10 ** (rng.uniform(-2, 2) / 20)
            if rng.random() < 0.4:
                x = of_throat(x, rng.uniform(0.83, 1.2))
            first = max(0, at)
            part = x[first - at :][: TAKE - first]
            voice[first : first + len(part)] += part
            at += len(x) + int(rng.integers(0, 24000 if rng.random() < 0.5 else 3000))
        return self.mixed(voice)

    def mixed(self, voice):
        """A voice, which may have been in a room, over a band or what is there in its place; the voice alone; whether there is a band."""
        rng = self.rng
        dry, band, music, kind = voice, np.zeros(TAKE, np.float32), 0, rng.random()
        if rng.random() < 0.4:
            voice = self.in_room(voice)
        if kind < 0.82:
            x = self.bands[rng.integers(len(self.bands))]
            length = int(TAKE * rng.uniform(0.85, 1.18)) if rng.random() < 0.5 else TAKE
            start = int(rng.integers(0, max(1, len(x) - length)))
            x = x[start : start + length]
            x = np.interp(np.linspace(0, len(x) - 1, TAKE), np.arange(len(x)), x).astype(np.float32)
            band, music = (self.coloured(x) if rng.random() < 0.5 else x) * 10 ** (rng.uniform(-12, 8) / 20), 1
        elif kind < 0.92:
            band = self.noise() * 10 ** (rng.uniform(-25, 0) / 20)
        if rng.random() < 0.3:
            band = band + self.noise() * 10 ** (rng.uniform(-50, -25) / 20)
        gain = 10 ** (rng.uniform(-14, 6) / 20)
        return (voice + band) * gain, dry * gain, music


class Block(nn.Module):
    def __init__(self, c, dilation):
        super().__init__()
        self.n, self.c = nn.BatchNorm1d(c), nn.Conv1d(c, c, 5, padding=2 * dilation, dilation=dilation)
        self.n2, self.p = nn.BatchNorm1d(c), nn.Conv1d(c, c, 1)

    def forward(self, x):
        return x + self.p(torch.relu(self.n2(self.c(torch.relu(self.n(x))))))


class Net(nn.Module):
    """Logarithms of magnitudes to a mask and two heads: somebody sings, a band plays."""

    def __init__(self, c=128):
        super().__init__()
        self.i = nn.Conv1d(BINS, c, 3, padding=1)
        self.b = nn.Sequential(*[Block(c, d) for d in (1, 2, 4, 8, 16, 1, 4)])
        self.o, self.h = nn.Conv1d(c, BINS, 1), nn.Conv1d(c, 2, 1)

    def forward(self, logs):
        y = torch.relu(self.b(self.i(logs)))
        return torch.sigmoid(self.o(y)), torch.sigmoid(self.h(y))


def mel_filters():
    """The acoustic model's: 25 triangles from 130 to 6800 Hz."""
    edges = 700 * (10 ** (np.linspace(2595 * np.log10(1 + 130 / 700), 2595 * np.log10(1 + 6800 / 700), 27) / 2595) - 1)
    f = np.arange(BINS) * RATE / FFT
    rows = [np.clip(np.minimum((f - a) / (b - a), (c - f) / (c - b)), 0, None) for a, b, c in zip(edges, edges[1:], edges[2:])]
    return torch.tensor(np.stack(rows), dtype=torch.float32)


def mel_bands():
    """80 triangles from 60 to 7600 Hz, each of weight one; as MelLogs has them."""
    low, high = (2595 * np.log10(1 + f / 700) for f in (60, 7600))
    edges = 700 * (10 ** (np.linspace(low, high, BANDS_OF_MEL + 2) / 2595) - 1)
    f = np.arange(BINS) * RATE / FFT
    rows = [np.clip(np.minimum((f - a) / (b - a), (c - f) / (c - b)), 0, None) for a, b, c in zip(edges, edges[1:], edges[2:])]
    rows = [r / max(r.sum(), 1e-6) if r.sum() > 0 else np.eye(len(f))[int(round(c * FFT / RATE))] for r, c in zip(rows, edges[1:])]
    return torch.tensor(np.stack(rows)).float()


def mel_logs(power, bands):
    """As MelLogs makes them: the level is the amplitude of what is loud, whatever silence lies around it."""
    power = torch.matmul(bands, power)
    mean = power.mean(1) + 1e-12
    level = (mean.pow(1.5).sum(1) / mean.sum(1)).pow(2)[:, None, None] + 1e-9
    return torch.log(power / level + 1e-6) / 4 + 1


def learn(net, examples, minutes):
    window, filters, begun = torch.hann_window(WINDOW), mel_filters(), time.time()
    adam, ready, step, losses = torch.optim.Adam(net.parameters(), 2e-3), queue.Queue(4), 0, None

    def magnitudes(rows):
        return torch.stft(torch.from_numpy(np.stack(rows)).float(), FFT, HOP, WINDOW, window, return_complex=True).abs()

    def prepare():
        while True:
            ready.put(tuple(zip(*[examples.one() for _ in range(12)])))

    threading.Thread(target=prepare, daemon=True).start()
    while (share := (time.time() - begun) / (60 * minutes)) < 1:
        for group in adam.param_groups:
            group["lr"] = 5e-4 if step < 50 else 2e-3 * max(0.02, 1 - share)
        mixed, voice, music = ready.get()
        with torch.no_grad():
            x, y = magnitudes(mixed), magnitudes(voice)
            scale = x.pow(2).mean((1, 2), keepdim=True).sqrt() + 1e-6
            x, y = x / scale, y / scale
            logs = torch.log(x + 1e-4)
            logs = (logs - logs.mean((1, 2), keepdim=True)) / 3
            y = torch.minimum(y, x)
            sings = (y.pow(2).mean(1) > 1e-3 * y.pow(2).mean((1, 2))[:, None] + 1e-8).float()
            plays = torch.tensor(music).float()[:, None].expand(-1, x.shape[2])
        mask, heads = net(logs)
        left = mask * x
        heard = (left + 1e-4).pow(0.3) - (y + 1e-4).pow(0.3)
        mel = torch.log(torch.matmul(filters, left.pow(2)) + 0.02) - torch.log(torch.matmul(filters, y.pow(2)) + 0.02)
        told = nn.functional.binary_cross_entropy(heads[:, 0], sings) + nn.functional.binary_cross_entropy(heads[:, 1], plays)
        loss = heard.pow(2).mean() + 0.01 * mel.abs().mean() + 0.02 * told
        adam.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(net.parameters(), 1)
        adam.step()
        step, losses = step + 1, loss.item() if losses is None else 0.98 * losses + 0.02 * loss.item()
        if step % 50 == 0:
            print(f"{step} steps, {time.time() - begun:.0f} s, loss {losses:.5f}", flush=True)


def export(net, example, path, outputs):
    """Weights of 16 bits, which are made wider as they are loaded."""
    import onnx
    from onnx import TensorProto, helper, numpy_helper

    axes = {name: {2: "frames"} for name in ("logs", *outputs)}
    torch.onnx.export(net.eval(), example, path, input_names=["logs"], output_names=outputs, dynamic_axes=axes, opset_version=13)
    model = onnx.load(path)
    kept, casts = [], []
    for tensor in model.graph.initializer:
        values = numpy_helper.to_array(tensor)
        if values.dtype == np.float32 and values.size > 512:
            kept.append(numpy_helper.from_array(values.astype(np.float16), tensor.name + "_half"))
            casts.append(helper.make_node("Cast", [tensor.name + "_half"], [tensor.name], to=TensorProto.FLOAT))
        else:
            kept.append(tensor)
    nodes = list(model.graph.node)
    del model.graph.initializer[:], model.graph.node[:]
    model.graph.initializer.extend(kept)
    model.graph.node.extend(casts + nodes)
    onnx.save(model, path)


def main():
    folder, minutes = sys.argv[1], float(sys.argv[2])
    torch.manual_seed(1)
    sentences = own_sentences()[:72]
    for kind in ("voice", "band"):
        os.makedirs(f"{folder}/{kind}", exist_ok=True)
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(lambda i: os.path.exists(f"{folder}/voice/{i}.wav") or make_voice(folder, i, sentences), range(VOICES)))
        list(pool.map(lambda i: os.path.exists(f"{folder}/band/{i}.wav") or make_band(folder, i), range(BANDS)))
    net = Net()
    if len(sys.argv) > 3:
        net.load_state_dict(torch.load(sys.argv[3]))
    learn(net, Examples(folder), minutes)
    net.eval()
    torch.save(net.state_dict(), f"{folder}/net.pt")
    export(net, torch.randn(1, BINS, 200), f"{folder}/song_voice.onnx", ["voice", "heads"])


if __name__ == "__main__":
    main()
