#!/usr/bin/env python3
"""Learns src/Zamblo.Media/Models/song_phones.onnx: which phone is sung in each frame of a song.

    python3 phones.py FOLDER MINUTES [WEIGHTS]

Nothing but this needs it; the program ships the result. It learns from sentences of ours and from rows of common words, spoken by the voices of learn.py and
laid on notes in two ways (as there, and by Praat with a note for each vowel), over its bands, in its rooms; the times of their phones are those that the
program itself finds in what is spoken, before it is sung (`zamblo analyze`, which has to be built). A third is sung by festival's singing mode in the voice
kal, which tells its own. All of them now and then with a longer or a shorter throat. It hears what the program does: the song, and the voice that
song_voice.onnx takes out of it. The shipped weights come of 25 minutes without singing mode, 32 with a third of it, and 60 with all of this, on two cores that
had other work, too. Another run gives other weights.
"""
import os, queue, random, re, subprocess, sys, threading, time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import torch
import torch.nn as nn
from scipy.io import wavfile

import learn as songs

RATE, FFT, HOP, WINDOW, BANDS = songs.RATE, songs.FFT, songs.HOP, songs.WINDOW, songs.BANDS_OF_MEL  # As PhoneEvidence has them.
ROOT = os.path.join(songs.HERE, "..", "..")
CLIPS, INTONED, PAUSE = 780, 400, RATE // 2  # Clips are sung twice, in two ways.
KINDS = [range(CLIPS), range(CLIPS, CLIPS + INTONED), range(CLIPS + INTONED, 2 * CLIPS + INTONED)]
# As Arpabet.Phones has them, behind silence.
VOWELS = "AA AE AH AO AW AY EH ER EY IH IY OW OY UH UW".split()
PHONES = "SIL AA AE AH AO AW AY B CH D DH EH ER EY F G HH IH IY JH K L M N NG OW OY P R S SH T TH UH UW V W Y Z ZH".split()
SPEAKERS = songs.SPEAKERS + [("espeak", v) for v in "en-us+f5 en-gb+m6 en-us+m8 en-029+f1 en-gb-x-rp+m2 en-us-nyc+m4 en-gb-x-gbclan+f2".split()]


def words_of_dictionary():
    """Words, and how many syllables each has."""
    with open("/usr/share/pocketsphinx/model/en-us/cmudict-en-us.dict") as f:
        rows = [line.split() for line in f]
    return {r[0]: sum(p[0] in "AEIOU" for p in r[1:]) for r in rows if re.fullmatch("[a-z]{2,9}", r[0])}


def text_of(r, sentences, words):
    if r.random() < 0.4:
        return r.choice(sentences)
    return " ".join(r.choice(words) for _ in range(r.randrange(4, 8)))


def label(folder, speaker, clips):
    """When each clip of a speaker says which phone: all of them are heard as one take."""
    path = f"{folder}/told/{speaker}"
    if not os.path.exists(path + ".TextGrid"):
        parts, at = [], []
        for i, _ in clips:
            at.append(sum(len(p) for p in parts))
            parts += [songs.read(f"{folder}/said/{i}.wav"), np.zeros(PAUSE, np.float32)]
        wavfile.write(path + ".wav", RATE, (np.concatenate(parts) * 32767).astype(np.int16))
        np.save(path + ".npy", np.array(at))
        with open(path + ".txt", "w") as f:
            f.write("\n".join(text for _, text in clips))
        told = subprocess.run(
            [f"{ROOT}/zamblo", "analyze", path + ".wav", "--script", path + ".txt", "--format", "textgrid"], check=True, capture_output=True, text=True
        ).stdout
        with open(path + ".TextGrid", "w") as f:
            f.write(told)
    told = open(path + ".TextGrid").read()
    tier = told[told.index('"phones"') :]
    rows = re.findall(r'xmin = ([\d.]+)\s+xmax = ([\d.]+)\s+text = "(\w*)"', tier)
    for (i, _), start in zip(clips, np.load(path + ".npy") / RATE):
        # A clip's own end is that of its sound; what is told in the pause behind it is silence.
        yield i, [(float(a) - start, float(b) - start, p or "SIL") for a, b, p in rows if float(b) > start and float(a) < start + 30]


def intone(folder, i, words):
    """A row of words, sung by festival's singing mode, which tells its own times; as it is, or by somebody with a higher voice."""
    path, r = f"{folder}/sung/{CLIPS + i}", random.Random(5500 + i)
    if os.path.exists(path + ".npy"):
        return
    key, rows = r.randrange(-5, 12), []
    for word in [r.choice(list(words)) for _ in range(r.randrange(4, 8))]:
        notes = [key + r.choice([0, 2, 4, 5, 7, 9, 11, 12]) for _ in range(max(1, words[word]))]
        names = ",".join("C C# D D# E F F# G G# A A# B".split()[n % 12] + str(3 + n // 12) for n in notes)
        beats = ",".join(str(r.choice([0.25, 0.5, 0.5, 0.5, 1, 1.5])) for _ in notes)
        rows.append(f'<PITCH NOTE="{names}"><DURATION BEATS="{beats}">{word}</DURATION></PITCH>')
    with open(path + ".xml", "w") as f:
        f.write('<?xml version="1.0"?>\n<!DOCTYPE SINGING PUBLIC "-//SINGING//DTD SINGING mark up//EN" "Singing.v0_1.dtd" []>\n')
        f.write(f'<SINGING BPM="{r.randrange(80, 130)}">\n' + "\n".join(rows) + "\n</SINGING>\n")
    keep = f'(define (keep u) (utt.save.wave u "{path}.b.wav") (utt.save.segs u "{path}.segs") u)'
    songs.run("festival", "-b", "(voice_kal_diphone)", keep, "(set! tts_hooks (list utt.synth keep))", f"(tts_file \"{path}.xml\" 'singing)")
    higher = r.choice([1, 1, 1, 1.3, 1.5, 1.7, 2, 2.3])
    change = f"rubberband=pitch={higher}:formant=preserved," if higher > 1 else ""
    # The first milliseconds of vibrato are whatever was in memory: they are cut off.
    trembles = f"adelay=10:all=1,vibrato=f={r.uniform(4.5, 6.5):.2f}:d={r.uniform(0.03, 0.25):.2f},atrim=start=0.01,asetpts=PTS-STARTPTS"
    songs.run("ffmpeg", "-v", "error", "-y", "-i", path + ".b.wav", "-af", change + trembles, "-ar", str(RATE), "-ac", "1", path + ".wav")
    phones, at = np.zeros(len(songs.read(path + ".wav")) // HOP + 1, np.int64), 0
    for row in open(path + ".segs").read().split("#\n", 1)[1].splitlines():
        end, _, name = row.split()
        phone = {"AX": "AH", "AXR": "ER", "PAU": "SIL", "DX": "D", "EL": "L", "EM": "M", "EN": "N", "NX": "N", "HV": "HH"}.get(name.upper(), name.upper())
        end = max(at, round(float(end) * RATE / HOP))
        phones[at:end] = PHONES.index(phone)
        at = end
    np.save(path + ".npy", phones)
    for suffix in (".xml", ".segs", ".b.wav"):
        os.remove(path + suffix)


CHANT = """form Sing
    sentence path
endform
sound = Read from file: path$ + ".b.wav"
singing = To Manipulation: 0.01, 60, 500
notes = Read from file: path$ + ".PitchTier"
selectObject: singing, notes
Replace pitch tier
times = Read from file: path$ + ".DurationTier"
selectObject: singing, times
Replace duration tier
selectObject: singing
Get resynthesis (overlap-add)
Save as WAV file: path$ + ".wav"
"""


def tier(path, kind, length, points):
    with open(f"{path}.{kind}", "w") as f:
        f.write(f'File type = "ooTextFile"\nObject class = "{kind}"\n\n0\n{length}\n{len(points)}\n' + "\n".join(f"{t:.6f}\n{v:.5f}" for t, v in points) + "\n")


def chant(folder, i, rows):
    """A clip that was said, with a note for each of its vowels: they are held, and consonants stay about as they were."""
    path, r = f"{folder}/sung/{KINDS[2][i]}", random.Random(9000 + i)
    if os.path.exists(path + ".npy"):
        return
    x = songs.read(f"{folder}/said/{i}.wav")
    length, hz = len(x) / RATE, songs.pitch_of(x)
    middle = np.median(hz[hz > 0]) if (hz > 0).any() else 120
    higher = r.choice([1, 1, 1.25, 1.5, 1.8, 2.2, 2.8] if middle < 160 else [0.7, 1, 1, 1.3, 1.6, 2])
    beat, slower, keeps_edges = 60 / r.randrange(75, 130), r.uniform(1, 1.6), r.random() < 0.6
    # Pieces of a said clip: start, end, phone, times as long, semitones.
    pieces, at, note = [], 0.0, 0
    rows = [(max(0.0, a), min(length, b), p) for a, b, p in rows if b > 0 and a < length]
    for k, (a, b, p) in enumerate(rows):
        a = max(a, at)
        if b - a < 0.002:
            continue
        if a > at:
            pieces.append((at, a, "SIL", 1, note))
        at = b
        if p not in VOWELS:
            # A consonant is on the note of the vowel to come.
            held = r.uniform(1, 3) if p in ("M", "N", "NG", "L", "R", "V", "Z") and r.random() < 0.2 else slower
            pieces.append((a, b, p, 1 if p == "SIL" else held, None))
            continue
        note = r.choice([0, 2, 4, 5, 7, 9, 11, 12]) - 5
        behind = 0
        for c, d, q in rows[k + 1 :]:
            if q in VOWELS or q == "SIL":
                break
            behind += slower * (d - c)
        wanted = beat * r.choice([0.5, 0.5, 0.5, 0.5, 1, 1, 1.5, 2, 3]) - behind
        edge = (b - a) * (0.2 if keeps_edges else 0)
        inner = b - a - 2 * edge
        longer = min(12, max(0.7, (wanted - 2 * edge) / inner))
        pieces += [(c, d, p, f, note) for c, d, f in ((a, a + edge, 1), (a + edge, b - edge, longer), (b - edge, b, 1)) if d > c]
    if at < length:
        pieces.append((at, length, "SIL", 1, note))
    for k in reversed(range(len(pieces))):
        if pieces[k][4] is None:
            pieces[k] = (*pieces[k][:4], pieces[k + 1][4] if k + 1 < len(pieces) else note)
    starts = np.cumsum([0.0] + [(b - a) * f for a, b, _, f, _ in pieces])
    deep, often, phase, now, points = r.choice([0, 0.15, 0.3, 0.5]), r.uniform(4.5, 6.5), r.random() * 6, pieces[0][4], []
    for (a, b, _, f, n), start in zip(pieces, starts):
        for t in np.arange(0, (b - a) * f, 0.01):
            now += 0.3 * (n - now)
            tone = now + deep * np.sin(2 * np.pi * often * (start + t) + phase)
            points.append((a + t / f, max(60, middle * higher * 2 ** (tone / 12))))
    wavfile.write(path + ".b.wav", RATE, (x * 32767).astype(np.int16))
    tier(path, "PitchTier", length, points)
    tier(path, "DurationTier", length, [(t, f) for a, b, _, f, _ in pieces for t in (a + (b - a) * 0.001, b - (b - a) * 0.001)])
    songs.run("praat", "--run", f"{folder}/chant.praat", path)
    frames = np.arange(len(songs.read(path + ".wav")) // HOP + 1) * HOP / RATE
    of = np.array([PHONES.index(p) for _, _, p, _, _ in pieces])
    np.save(path + ".npy", of[np.clip(np.searchsorted(starts, frames, "right") - 1, 0, len(of) - 1)])
    for suffix in (".b.wav", ".PitchTier", ".DurationTier"):
        os.remove(path + suffix)


def make(folder):
    """Clips, sung, and the phone of each 10 ms of them."""
    for kind in ("said", "told", "sung", "band"):
        os.makedirs(f"{folder}/{kind}", exist_ok=True)
    with open(f"{folder}/chant.praat", "w") as f:
        f.write(CHANT)
    sentences, words = songs.own_sentences()[:72], words_of_dictionary()
    texts = [text_of(random.Random(300 + i), sentences, list(words)) for i in range(CLIPS)]

    def said(i):
        if not os.path.exists(f"{folder}/said/{i}.wav"):
            songs.speak(*SPEAKERS[i % len(SPEAKERS)], texts[i], random.Random(i).randrange(120, 170), f"{folder}/said/{i}.wav")

    def sung(job):
        i, rows = job
        path, r = f"{folder}/sung/{i}", random.Random(700 + i)
        if os.path.exists(path + ".npy"):
            return
        x = songs.read(f"{folder}/said/{i}.wav")
        if r.random() < 0.15:
            times = np.arange(len(x) // HOP + 1) * HOP
            wavfile.write(path + ".wav", RATE, (x * 32767).astype(np.int16))
        else:
            times = songs.sing(r, x, path)
        frames = np.arange(times[-1] // HOP + 1)
        # When a frame of what is sung was said.
        when = np.interp(frames * HOP, times, np.arange(len(times)) * HOP) / RATE
        phones = np.zeros(len(frames), np.int64)
        for a, b, p in rows:
            phones[(when >= a) & (when < b)] = PHONES.index(p)
        np.save(path + ".npy", phones)

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(lambda i: os.path.exists(f"{folder}/band/{i}.wav") or songs.make_band(folder, i), range(songs.BANDS)))
        list(pool.map(said, range(CLIPS)))
        of = [[(i, texts[i]) for i in range(s, CLIPS, len(SPEAKERS))] for s in range(len(SPEAKERS))]
        told = list(pool.map(lambda s: list(label(folder, s, of[s])), range(len(SPEAKERS))))
        list(pool.map(sung, [job for rows in told for job in rows]))
        list(pool.map(lambda i: intone(folder, i, words), range(INTONED)))
        list(pool.map(lambda job: chant(folder, *job), [job for rows in told for job in rows]))


class Examples(songs.Examples):
    """Sung clips over bands, with the phone of each frame."""

    def __init__(self, folder, seed):
        super().__init__(folder, kinds=())
        self.rng = np.random.default_rng(seed)
        self.clips = []
        for i in range(2 * CLIPS + INTONED):
            x, phones = songs.read(f"{folder}/sung/{i}.wav"), np.load(f"{folder}/sung/{i}.npy")
            self.clips.append((x / np.sqrt((x**2).mean() + 1e-9) * 0.08, phones))

    def one(self):
        rng, voice, told = self.rng, np.zeros(songs.TAKE, np.float32), np.zeros(songs.TAKE // HOP, np.int64)
        at = int(rng.integers(-40000, 12000)) // HOP * HOP if rng.random() > 0.1 else songs.TAKE
        while at < songs.TAKE:
            x, phones = self.clips[rng.choice(KINDS[rng.choice(3, p=[0.25, 0.35, 0.4])])]
            if rng.random() < 0.6:
                longer = rng.uniform(0.83, 1.2)
                x = songs.of_throat(x, longer)
                phones = phones[np.minimum(np.arange(len(x) // HOP + 1) / longer, len(phones) - 1).astype(int)]
            x = x * 10 ** (rng.uniform(-2, 2) / 20)
            first = max(0, at)
            part, named = x[first - at :][: songs.TAKE - first], phones[(first - at) // HOP :][: (songs.TAKE - first) // HOP]
            voice[first : first + len(part)] += part
            told[first // HOP : first // HOP + len(named)] = named
            at += (len(x) + int(rng.integers(0, 32000 if rng.random() < 0.4 else 3000))) // HOP * HOP
        return self.mixed(voice)[0], told


class Net(nn.Module):
    """Logarithms of mel bands, of the song and of its voice, to what speaks for each phone, frame by frame."""

    def __init__(self, c=144):
        super().__init__()
        self.i = nn.Conv1d(2 * BANDS, c, 5, padding=2)
        self.b = nn.Sequential(*[songs.Block(c, d) for d in (1, 2, 4, 8, 1, 2, 4, 8)])
        self.d, self.o = nn.Dropout(0.1), nn.Conv1d(c, len(PHONES), 1)

    def forward(self, logs):
        return self.o(self.d(torch.relu(self.b(self.i(logs)))))


class Told(nn.Module):
    """The network as it is shipped: logarithms of how much likelier than usual each phone is."""

    def __init__(self, net, usual):
        super().__init__()
        self.net, self.usual = net, usual[:, None]

    def forward(self, logs):
        return torch.log_softmax(self.net(logs), 1) - self.usual


class Voice:
    """song_voice.onnx, run by torch."""

    def __init__(self, path):
        import onnx
        from onnx import numpy_helper

        self.graph = onnx.load(path).graph
        self.values = {t.name: torch.from_numpy(numpy_helper.to_array(t).copy()) for t in self.graph.initializer}

    def mask(self, logs):
        values, run = dict(self.values), nn.functional
        values["logs"] = logs
        for node in self.graph.node:
            x = [values[name] for name in node.input]
            marks = {a.name: a for a in node.attribute}
            if node.op_type == "Cast":
                y = x[0].float()
            elif node.op_type == "Conv":
                y = run.conv1d(x[0], x[1], x[2], padding=marks["pads"].ints[0], dilation=marks["dilations"].ints[0])
            elif node.op_type == "BatchNormalization":
                y = run.batch_norm(x[0], x[3], x[4], x[1], x[2], eps=marks["epsilon"].f)
            else:
                y = {"Relu": torch.relu, "Sigmoid": torch.sigmoid, "Add": torch.add, "Identity": lambda v: v}[node.op_type](*x)
            values[node.output[0]] = y
        return values["voice"]


def heard(rows, voice, filters, window):
    """Song and voice, each in 80 bands."""
    spectrum = torch.stft(torch.from_numpy(np.stack(rows)).float(), FFT, HOP, WINDOW, window, return_complex=True)
    x = spectrum.abs()
    logs = torch.log(x / (x.pow(2).mean((1, 2), keepdim=True).sqrt() + 1e-6) + 1e-4)
    mask = voice.mask((logs - logs.mean((1, 2), keepdim=True)) / 3)
    alone = torch.istft(spectrum * mask, FFT, HOP, WINDOW, window, length=songs.TAKE)
    again = torch.stft(alone, FFT, HOP, WINDOW, window, return_complex=True).abs()
    return torch.cat([songs.mel_logs(x.pow(2), filters), songs.mel_logs(again.pow(2), filters)], 1)[:, :, : songs.TAKE // HOP]


def learn(net, folder, minutes):
    voice = Voice(os.path.join(ROOT, "src", "Zamblo.Media", "Models", "song_voice.onnx"))
    filters, window, begun, ready, step, losses, rights = songs.mel_bands(), torch.hann_window(WINDOW), time.time(), queue.Queue(4), 0, None, 0.0
    adam = torch.optim.AdamW(net.parameters(), 2e-3, weight_decay=1e-3)

    def prepare():
        examples = Examples(folder, int(begun))
        while True:
            rows, told = zip(*[examples.one() for _ in range(12)])
            with torch.no_grad():
                ready.put((heard(rows, voice, filters, window), torch.from_numpy(np.stack(told))))

    threading.Thread(target=prepare, daemon=True).start()
    while (share := (time.time() - begun) / (60 * minutes)) < 1:
        for group in adam.param_groups:
            group["lr"] = 5e-4 if step < 50 else 2e-3 * max(0.02, 1 - share)
        logs, told = ready.get()
        # Parts of the spectrum are left out now and then: nothing is known by one mark alone.
        for k in range(len(logs)):
            at = np.random.randint(0, 2 * BANDS - 12)
            logs[k, at : at + np.random.randint(2, 12)] = 0
        answer = net(logs)
        loss = nn.functional.cross_entropy(answer, told, label_smoothing=0.02)
        adam.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(net.parameters(), 1)
        adam.step()
        right = (answer.argmax(1) == told).float().mean().item()
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
    torch.save(net.state_dict(), f"{folder}/net.pt")
    counts = sum(np.bincount(np.load(f"{folder}/sung/{i}.npy"), minlength=len(PHONES)) for i in range(2 * CLIPS + INTONED))
    usual = torch.log(torch.from_numpy(counts / counts.sum()).float())
    songs.export(Told(net, usual), torch.randn(1, 2 * BANDS, 200), f"{folder}/song_phones.onnx", ["phones"])


if __name__ == "__main__":
    main()
