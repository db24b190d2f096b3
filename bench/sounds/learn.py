#!/usr/bin/env python3
"""Learns src/Zamblo.Media/Models/vocal_sounds.onnx: where a voice laughs, sobs, sighs, breathes, coughs, hums, whistles or cheers.

    python3 learn.py FOLDER MINUTES [WEIGHTS]

Nothing but this needs it; the program ships the result. It learns from sounds that are made for it (made.py), between and over sentences of the voices and the
bands that ../songs/learn.py makes, with the same Debian packages. People and voices that it is measured on are not among them. The shipped weights come of
53 minutes on two cores that had other work, too: 12 without speech made higher, lower and livelier, 24 with it, 17 with more laughs. Ten more, with coughs of
speaking voices and other whistles, found no more of what people do and more that they do not.
"""
import glob, os, queue, random, sys, threading, time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import torch
import torch.nn as nn

HERE = os.path.dirname(os.path.abspath(__file__))
sys.path.insert(0, os.path.join(HERE, "..", "songs"))
import learn as songs  # noqa: E402
import made  # noqa: E402

RATE, FFT, HOP, WINDOW, BANDS = 16000, 1024, 160, 640, songs.BANDS_OF_MEL  # As VocalSounds has them.
TAKE = HOP * 700
SPOKEN, SUNG, MUSIC = 420, 120, 50
CLASSES = 2 + len(made.KINDS)  # Nothing, speech, and the kinds.
LAUGHS = ["ha ha ha ha", "heh heh heh", "hee hee hee hee", "ho ho ho", "muah ha ha ha ha", "aha ha ha ha ha"]


class Examples:
    """Speech with sounds between: in rooms, noise, bands, over a telephone, clipped."""

    def __init__(self, folder, seed):
        self.rng = np.random.default_rng(seed)
        self.songs = songs.Examples.__new__(songs.Examples)
        self.songs.rng = self.rng

        def all_of(kind):
            found = [songs.read(p) for p in sorted(glob.glob(f"{folder}/{kind}/*.wav")) if p.count(".") == 1]
            return [x / (np.sqrt((x**2).mean()) + 1e-9) * 0.08 for x in found if len(x) > 8000]

        self.spoken, self.sung, self.bands, self.laughs = all_of("spoken"), all_of("voice"), all_of("band"), all_of("laugh")
        self.pitches = [songs.pitch_of(x) for x in self.spoken]

    def sound(self):
        rng = self.rng
        kind = int(rng.choice(len(made.KINDS), p=[0.24, 0.12, 0.09, 0.09, 0.18, 0.1, 0.08, 0.1]))
        if kind == 0 and rng.random() < 0.6:
            if rng.random() < 0.5:
                i = int(rng.integers(len(self.spoken)))
                x = made.laugh_of(rng, self.spoken[i], self.pitches[i]).astype(np.float32)
            else:
                x = self.laughs[rng.integers(len(self.laughs))]
            x = self.bent(x)
            x = x / (np.sqrt((np.sort(np.abs(x))[len(x) // 2 :] ** 2).mean()) + 1e-9)
        else:
            x = made.make(made.KINDS[kind], rng)
            x = self.bent(x) if kind < 6 and rng.random() < 0.4 else x
        return kind, x * 0.1 * 10 ** (rng.uniform(*((-30, -8) if kind in (2, 3) else (-16, 6))) / 20)

    def one(self):
        rng, n = self.rng, TAKE
        x, told = np.zeros(n, np.float32), np.zeros(n // HOP, np.int64)
        at, share, wide = int(rng.integers(-12000, 8000)), rng.uniform(0.05, 0.65), rng.uniform(500, 16000)
        while at < n:
            if rng.random() < share:
                kind, part = self.sound()
            else:
                bank = self.spoken if rng.random() < 0.85 else self.sung
                part = bank[rng.integers(len(bank))]
                if rng.random() < 0.6:
                    start = int(rng.integers(0, len(part)))
                    part = part[start : start + int(rng.uniform(0.3, 3) * RATE)]
                kind, part = -1, self.bent(part) * 10 ** (rng.uniform(-8, 6) / 20)
            first, end = max(0, at), min(n, at + len(part))
            if end > first:
                x[first:end] += part[first - at : end - at]
                frames = slice((first + HOP // 2) // HOP, (end + HOP // 2) // HOP)
                if kind >= 0:
                    told[frames] = 2 + kind
                else:
                    # Pauses within a sentence are not speech.
                    own = x[first : max(end, first + HOP)]
                    loud = np.sqrt((own[: len(own) // HOP * HOP].reshape(-1, HOP) ** 2).mean(1) + 1e-12)
                    where = told[frames][: len(loud)]
                    where[loud[: len(where)] > 0.08 * loud.max(initial=0)] = 1
            at = end + int(rng.exponential(wide)) if rng.random() < 0.85 else end
        if rng.random() < 0.35:
            x = self.songs.in_room(x)
        if rng.random() < 0.5:
            x = self.songs.coloured(x)
        if rng.random() < 0.15:
            f = np.fft.rfftfreq(n, 1 / RATE)
            x = np.fft.irfft(np.fft.rfft(x) * ((f > rng.uniform(0, 300)) & (f < rng.uniform(3300, 7000))), n).astype(np.float32)
        if rng.random() < 0.1 and self.bands:
            band = self.bands[rng.integers(len(self.bands))]
            start = int(rng.integers(0, len(band) - n))
            x = x + band[start : start + n] * 10 ** (rng.uniform(-25, 0) / 20)
        if rng.random() < 0.3:
            x = x + made.clutter(rng, n) * 0.3 * 10 ** (rng.uniform(-20, 3) / 20)
        floor = rng.uniform(-75, -45) if rng.random() < 0.6 else rng.uniform(-45, -12)
        x = x + self.noise(n) * 10 ** (floor / 20)
        x = x * 10 ** (rng.uniform(-20, 6) / 20)
        if rng.random() < 0.06:
            x = np.clip(x, -0.4 * np.abs(x).max(), 0.4 * np.abs(x).max())
        return x.astype(np.float32), told

    def bent(self, part):
        """Speech as others have it: larger and smaller people, higher and lower, lively, excited."""
        rng = self.rng
        if len(part) < 800 or rng.random() < 0.25:
            return part
        base = np.exp(rng.uniform(np.log(0.75), np.log(1.9)))
        lively = rng.uniform(0, 0.25)
        rate = base * np.clip(1 + lively * made.smooth_noise(rng, int(len(part) / base), rng.uniform(1, 4)), 0.5, 1.8)
        at = np.cumsum(rate)
        return np.interp(at[at < len(part) - 1], np.arange(len(part)), part).astype(np.float32)

    def noise(self, n):
        return made.noise(self.rng, n, self.rng.uniform(-6, 0)).astype(np.float32)


class Net(nn.Module):
    """Logarithms of mel bands to the probability of each class, frame by frame."""

    def __init__(self, c=72):
        super().__init__()
        self.i = nn.Conv1d(BANDS, c, 5, padding=2)
        self.b = nn.Sequential(*[songs.Block(c, d) for d in (1, 2, 4, 8, 16, 24, 2, 8)])
        self.d, self.o = nn.Dropout(0.1), nn.Conv1d(c, CLASSES, 1)

    def forward(self, logs):
        return self.o(self.d(torch.relu(self.b(self.i(logs)))))


class Told(nn.Module):
    """The network as it is shipped: its answers as probabilities."""

    def __init__(self, net):
        super().__init__()
        self.net = net

    def forward(self, logs):
        return torch.softmax(self.net(logs), 1)


def logs_of(rows, filters):
    """As VocalSounds makes them."""
    power = torch.stft(torch.from_numpy(np.stack(rows)).float(), FFT, HOP, WINDOW, torch.hann_window(WINDOW), return_complex=True).abs().pow(2)
    return songs.mel_logs(power, filters)


def learn(net, folder, minutes):
    filters, begun, ready, step, losses = songs.mel_bands(), time.time(), queue.Queue(6), 0, None
    adam = torch.optim.Adam(net.parameters(), 2e-3)

    def prepare(seed):
        examples = Examples(folder, seed)
        while True:
            ready.put(tuple(zip(*[examples.one() for _ in range(16)])))

    threading.Thread(target=prepare, args=(1,), daemon=True).start()
    weights = torch.ones(CLASSES)
    weights[2 + made.KINDS.index("laugh")] = weights[2 + made.KINDS.index("cough")] = 1.5
    while (share := (time.time() - begun) / (60 * minutes)) < 1:
        for group in adam.param_groups:
            group["lr"] = 5e-4 if step < 50 else 2e-3 * max(0.02, 1 - share)
        rows, told = ready.get()
        with torch.no_grad():
            logs = logs_of(rows, filters)[:, :, : TAKE // HOP]
            # Parts of the spectrum and of the time are left out now and then: nothing is known by one mark alone.
            for k in range(len(logs)):
                if np.random.random() < 0.4:
                    at = np.random.randint(0, BANDS - 12)
                    logs[k, at : at + np.random.randint(2, 12)] = logs[k].mean()
            logs = logs + torch.randn(len(logs), 1, 1) * 0.1
        loss = nn.functional.cross_entropy(net(logs), torch.from_numpy(np.stack(told)), weights, label_smoothing=0.02)
        adam.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(net.parameters(), 1)
        adam.step()
        step, losses = step + 1, loss.item() if losses is None else 0.98 * losses + 0.02 * loss.item()
        if step % 50 == 0:
            print(f"{step} steps, {time.time() - begun:.0f} s, loss {losses:.4f}", flush=True)


def main():
    folder, minutes = sys.argv[1], float(sys.argv[2])
    torch.manual_seed(1)
    sentences = songs.own_sentences()
    for kind in ("voice", "band", "spoken", "laugh"):
        os.makedirs(f"{folder}/{kind}", exist_ok=True)

    def spoken(i):
        r, path = random.Random(900 + i), f"{folder}/spoken/{i}.wav"
        if not os.path.exists(path):
            songs.speak(*songs.SPEAKERS[i % len(songs.SPEAKERS)], sentences[r.randrange(len(sentences))], r.randrange(120, 210), path)

    def laughs(i):
        path = f"{folder}/laugh/{i}.wav"
        if not os.path.exists(path):
            songs.speak(*songs.SPEAKERS[i % len(songs.SPEAKERS)], LAUGHS[i // len(songs.SPEAKERS)], random.Random(i).randrange(150, 240), path)

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(laughs, range(len(LAUGHS) * len(songs.SPEAKERS))))
        list(pool.map(spoken, range(SPOKEN)))
        list(pool.map(lambda i: os.path.exists(f"{folder}/voice/{i}.wav") or songs.make_voice(folder, i, sentences[:72]), range(SUNG)))
        list(pool.map(lambda i: os.path.exists(f"{folder}/band/{i}.wav") or songs.make_band(folder, i), range(MUSIC)))
    net = Net()
    if len(sys.argv) > 3:
        net.load_state_dict(torch.load(sys.argv[3]))
    learn(net, folder, minutes)
    net.eval()
    torch.save(net.state_dict(), f"{folder}/net.pt")
    songs.export(Told(net), torch.randn(1, BANDS, 200), f"{folder}/vocal_sounds.onnx", ["told"])


if __name__ == "__main__":
    main()
