#!/usr/bin/env python3
"""Learns src/Zamblo.Media/Models/speech_phones.onnx: which phone is said in each frame of speech.

    python3 learn.py FOLDER MINUTES [WEIGHTS]

Nothing but this needs it; the program ships the result. It learns from sentences of ours and from rows of common words. Half of them are spoken by four voices
of flite and festival, which tell their own times; the others by voices of espeak-ng, those of other languages in theirs, and the times of these are those that
the program itself finds (`zamblo analyze`, which has to be built). It hears them higher and lower, in rooms, in noise, over bands, with others who talk, and
through narrow microphones. The voices awb and kal, and the benchmark's sentences, it never hears. The shipped weights come of 25 minutes on two cores; another
run gives other weights. `./zamblo bench boundaries` has to learn its tables again with them.
Packages of Debian: flite, festival, festvox-kdlpc16k, festvox-us-slt-hts, espeak-ng, and those of ../songs/learn.py.
"""
import os, queue, random, re, subprocess, sys, threading, time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import scipy.fft as sf
import torch
import torch.nn as nn
from scipy.io import wavfile

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "songs"))
import learn as songs
import phones as sung

RATE, FFT, HOP, WINDOW, BANDS, TAKE = songs.RATE, songs.FFT, songs.HOP, songs.WINDOW, songs.BANDS_OF_MEL, songs.TAKE
PHONES, FINE = sung.PHONES, 4  # Phones are told so often in each frame: where one ends within it, it is partly the one, partly the other.
NATURAL = [("flite", "slt"), ("flite", "rms"), ("festival", "voice_cmu_us_slt_arctic_hts"), ("festival", "voice_ked_diphone")]
ENGLISH = [speaker for speaker in sung.SPEAKERS if speaker[0] == "espeak"]
LANGUAGES = "de es fr it nl pl pt ru".split()
CLIPS, FORMED, FOREIGN = 720, 540, 200  # Of the four voices, of espeak-ng's English and of its other languages.
SAME = {"AX": "AH", "AXR": "ER", "IX": "IH", "DX": "T", "EL": "L", "EM": "M", "EN": "N", "NX": "N", "HV": "HH"}


def told_by_engine(engine, voice, text, path):
    """Says a sentence. Returns its phones with their ends, in seconds."""
    if engine == "flite":
        command = ["flite", "-voice", voice, "-t", text, "-o", path + ".a.wav", "-psdur"]
        rows = re.findall(r"([a-z#]+):([\d.]+)", subprocess.run(command, check=True, capture_output=True, text=True).stdout)
        rows = [(float(end), name) for name, end in rows]
    else:
        say = f'(set! u (utt.synth (Utterance Text "{text}")))'
        songs.run("festival", "-b", f"({voice})", say, f'(utt.save.wave u "{path}.a.wav")', f'(utt.save.segs u "{path}.segs")')
        with open(path + ".segs") as f:
            rows = [row.split() for row in f.read().split("#\n", 1)[1].splitlines()]
        rows = [(float(end), name) for end, _, name in rows]
        os.remove(path + ".segs")
    songs.run("ffmpeg", "-v", "error", "-y", "-i", path + ".a.wav", "-ar", str(RATE), "-ac", "1", path + ".wav")
    os.remove(path + ".a.wav")
    return rows


def fine(rows, samples):
    """The phone of each quarter of a frame; a frame is about its number times 10 ms."""
    phones, at = np.zeros((samples // HOP + 1) * FINE, np.int8), 0
    for end, name in rows:
        name = SAME.get(name.upper(), name.upper())
        to = max(at, round(end * RATE / HOP * FINE + FINE / 2))
        phones[at:to] = PHONES.index(name) if name in PHONES else 0
        at = to
    return phones


def make_own(folder, i, texts):
    path = f"{folder}/spoken/{i}"
    if not os.path.exists(path + ".npy"):
        rows = told_by_engine(*NATURAL[i % len(NATURAL)], texts[i], path)
        np.save(path + ".npy", fine(rows, len(songs.read(path + ".wav"))))


def make_others(folder, first, speakers, count, texts, language=None):
    """Clips of espeak-ng, all of a speaker heard as one take by the program."""

    def one(s):
        own, path = range(s, count, len(speakers)), f"{folder}/told/{language or 'speech'}{s}"
        if all(os.path.exists(f"{folder}/spoken/{first + i}.npy") for i in own):
            return
        parts, starts = [], []
        for i in own:
            songs.speak(*speakers[s], texts[i], random.Random(first + i).randrange(120, 190), f"{folder}/spoken/{first + i}.wav")
            starts.append(sum(len(p) for p in parts))
            parts += [songs.read(f"{folder}/spoken/{first + i}.wav"), np.zeros(RATE // 2, np.float32)]
        wavfile.write(path + ".wav", RATE, (np.concatenate(parts) * 32767).astype(np.int16))
        with open(path + ".txt", "w") as f:
            f.write("\n".join(texts[i] for i in own))
        command = [f"{sung.ROOT}/zamblo", "analyze", path + ".wav", "--script", path + ".txt", "--format", "textgrid"]
        told = subprocess.run(command + (["--lang", language] if language else []), check=True, capture_output=True, text=True).stdout
        rows = re.findall(r'xmin = [\d.]+\s+xmax = ([\d.]+)\s+text = "(\w*)"', told[told.index('"phones"') :])
        for i, start, part in zip(own, starts, parts[::2]):
            ends = [(float(end) - start / RATE, name or "SIL") for end, name in rows if float(end) * RATE > start]
            np.save(f"{folder}/spoken/{first + i}.npy", fine(ends, len(part)))

    return [lambda s=s: one(s) for s in range(len(speakers))]


def common_words():
    """The words of each language that the program knows."""
    with open(os.path.join(sung.ROOT, "src", "Zamblo.Media", "common_words.txt")) as f:
        return {row.split()[0]: row.split()[1:] for row in f}


def make(folder):
    for kind in ("spoken", "told", "band"):
        os.makedirs(f"{folder}/{kind}", exist_ok=True)
    sentences, words, r = songs.own_sentences()[:72], list(sung.words_of_dictionary()), random.Random(1)

    def texts(count):
        return [r.choice(sentences) if r.random() < 0.25 else " ".join(r.choice(words) for _ in range(r.randrange(5, 11))) + "." for _ in range(count)]

    # The tables of boundaries learn from our sentences in the same four voices, and must not find what the network knows by heart: here their words are mixed.
    common, mixed = [word.strip(".,?!") for row in sentences for word in row.split()], random.Random(2)
    own = [" ".join(mixed.choice(common) for _ in range(9)) + "." if text in sentences else text for text in texts(CLIPS)]
    jobs = [lambda i=i: make_own(folder, i, own) for i in range(CLIPS)]
    jobs += make_others(folder, CLIPS, ENGLISH, FORMED, texts(FORMED))
    each, known = FOREIGN // len(LANGUAGES), common_words()
    for k, language in enumerate(LANGUAGES):
        rows = [" ".join(r.choice(known[language]) for _ in range(8)) + "." for _ in range(each)]
        speakers = [("espeak", f"{language}+{variant}") for variant in ("m4", "f4")]
        jobs += make_others(folder, CLIPS + FORMED + k * each, speakers, each, rows, language)
    jobs += [lambda i=i: os.path.exists(f"{folder}/band/{i}.wav") or songs.make_band(folder, i) for i in range(songs.BANDS)]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(lambda job: job(), jobs))


class Examples(songs.Examples):
    """Clips in all that may lie about them, with the phones of each frame."""

    def __init__(self, folder, seed):
        super().__init__(folder, kinds=())
        self.rng, self.clips = np.random.default_rng(seed), []
        for i in range(CLIPS + FORMED + FOREIGN):
            x = songs.read(f"{folder}/spoken/{i}.wav")
            self.clips.append((x / np.sqrt((x**2).mean() + 1e-9) * 0.08, np.load(f"{folder}/spoken/{i}.npy")))

    def clip(self):
        rng = self.rng
        first, count = [(0, CLIPS), (CLIPS, FORMED), (CLIPS + FORMED, FOREIGN)][rng.choice(3, p=[0.6, 0.28, 0.12])]
        x, phones = self.clips[first + rng.integers(count)]
        if rng.random() < 0.75:
            longer = rng.uniform(0.8, 1.25)
            x = songs.of_throat(x, longer)
            at = (np.arange((len(x) // HOP + 1) * FINE) - FINE / 2) / longer + FINE / 2
            phones = phones[np.clip(at, 0, len(phones) - 1).astype(int)]
        return x * np.float32(10 ** (rng.uniform(-3, 3) / 20)), phones

    def spoken(self, gap=40000):
        rng, voice, told = self.rng, np.zeros(TAKE, np.float32), np.zeros(TAKE // HOP * FINE, np.int64)
        at = int(rng.integers(-40000, 10000)) // HOP * HOP
        while at < TAKE:
            x, phones = self.clip()
            first = max(0, at)
            part, named = x[first - at :][: TAKE - first], phones[(first - at) // HOP * FINE :][: (TAKE - first) // HOP * FINE]
            voice[first : first + len(part)] += part
            told[first // HOP * FINE : first // HOP * FINE + len(named)] = named
            at += (len(x) + int(rng.integers(0, gap if rng.random() < 0.3 else 4000))) // HOP * HOP
        return voice, told

    def room(self, voice):
        """Noise that decays, its energy up to that of the voice's own and 2 dB more."""
        n = int(self.rng.uniform(0.15, 1.1) * RATE)
        echo = self.rng.standard_normal(n, dtype=np.float32) * 10 ** (-3 * np.arange(n) / n)
        echo[:40] = 0
        echo = (echo * self.rng.uniform(0.2, 1.3) / np.sqrt((echo**2).sum())).astype(np.float32)
        size = 1 << int(np.ceil(np.log2(len(voice) + n)))
        return (voice + sf.irfft(sf.rfft(voice, size) * sf.rfft(echo, size), size)[: len(voice)]).astype(np.float32)

    def narrow(self, x):
        """As a telephone, a worn microphone or a lossy file has it."""
        f = sf.rfftfreq(len(x), 1 / RATE)
        low, high = self.rng.choice([20, 100, 300]), self.rng.choice([3400, 5000, 6500])
        return sf.irfft(sf.rfft(x) / (1 + (low / (f + 1)) ** 8) / (1 + (f / high) ** 16), len(x)).astype(np.float32)

    def one(self):
        rng, (voice, told) = self.rng, self.spoken()
        if rng.random() < 0.5:
            voice = self.coloured(voice)
        if rng.random() < 0.25:
            voice = self.room(voice)
        kind = rng.random()
        if kind < 0.3:
            voice = voice + self.noise() * 10 ** (rng.uniform(-25, -3) / 20)
        elif kind < 0.42:
            x = self.bands[rng.integers(len(self.bands))]
            start = int(rng.integers(0, len(x) - TAKE))
            voice = voice + x[start : start + TAKE] * 10 ** (rng.uniform(-20, -2) / 20)
        elif kind < 0.52:
            voice = voice + self.spoken()[0] * 10 ** (rng.uniform(-20, -7) / 20)
        elif kind < 0.6:
            voice = voice + sum(self.spoken(4000)[0] for _ in range(4)) * 0.5 * 10 ** (rng.uniform(-15, -4) / 20)
        voice = voice + self.noise() * 10 ** (rng.uniform(-70, -30) / 20)
        if rng.random() < 0.15:
            voice = self.narrow(voice)
        return voice * np.float32(10 ** (rng.uniform(-14, 6) / 20)), told


class Net(nn.Module):
    """Logarithms of mel bands to what speaks for each phone, frame by frame."""

    def __init__(self, c=112):
        super().__init__()
        self.i = nn.Conv1d(BANDS, c, 5, padding=2)
        self.b = nn.Sequential(*[songs.Block(c, d) for d in (1, 2, 4, 8, 1, 2, 4, 8)])
        self.d, self.o = nn.Dropout(0.1), nn.Conv1d(c, len(PHONES), 1)

    def forward(self, logs):
        return self.o(self.d(torch.relu(self.b(self.i(logs)))))


def learn(net, folder, minutes):
    filters, window, begun, ready, step, losses, rights = songs.mel_bands(), torch.hann_window(WINDOW), time.time(), queue.Queue(4), 0, None, 0.0
    adam = torch.optim.AdamW(net.parameters(), 2e-3, weight_decay=1e-3)

    def prepare():
        examples = Examples(folder, int(begun))
        while True:
            rows, told = zip(*[examples.one() for _ in range(12)])
            x = torch.stft(torch.from_numpy(np.stack(rows)).float(), FFT, HOP, WINDOW, window, return_complex=True).abs()
            ready.put((songs.mel_logs(x.pow(2), filters)[:, :, : TAKE // HOP], torch.from_numpy(np.stack(told))))

    threading.Thread(target=prepare, daemon=True).start()
    while (share := (time.time() - begun) / (60 * minutes)) < 1:
        for group in adam.param_groups:
            group["lr"] = 5e-4 if step < 50 else 2e-3 * max(0.02, 1 - share)
        logs, told = ready.get()
        # Parts of the spectrum are left out now and then: nothing is known by one mark alone.
        for k in range(len(logs)):
            at = np.random.randint(0, BANDS - 10)
            logs[k, at : at + np.random.randint(1, 10)] = 0
        answer = net(logs)
        loss = sum(nn.functional.cross_entropy(answer, told[:, k::FINE], label_smoothing=0.02) for k in range(FINE)) / FINE
        adam.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(net.parameters(), 1)
        adam.step()
        right = (answer.argmax(1) == told[:, FINE // 2 :: FINE]).float().mean().item()
        step, losses, rights = step + 1, loss.item() if losses is None else 0.98 * losses + 0.02 * loss.item(), 0.98 * rights + 0.02 * right
        if step % 50 == 0:
            print(f"{step} steps, {time.time() - begun:.0f} s, loss {losses:.4f}, right {rights:.3f}", flush=True)


def main():
    folder, minutes = sys.argv[1], float(sys.argv[2])
    torch.manual_seed(1)
    make(folder)
    net = Net()
    if len(sys.argv) > 3:
        net.load_state_dict(torch.load(sys.argv[3]))
    learn(net, folder, minutes)
    net.eval()
    torch.save(net.state_dict(), f"{folder}/speech.pt")
    counts = sum(np.bincount(np.load(f"{folder}/spoken/{i}.npy"), minlength=len(PHONES)) for i in range(CLIPS + FORMED + FOREIGN))
    usual = torch.log(torch.from_numpy(counts / counts.sum()).float())
    songs.export(sung.Told(net, usual), torch.randn(1, BANDS, 200), f"{folder}/speech_phones.onnx", ["phones"])


if __name__ == "__main__":
    main()
