"""Sounds of a voice that are no speech, made from a source and a tract (Fant, Acoustic Theory of Speech Production, 1960): laughs, sobs, sighs, breaths,
coughs, hums, whistles, cheers. Rhythm and pitch of laughs are those that Bachorowski, Smoski and Owren report (J. Acoust. Soc. Am. 110, 2001: about four
calls a second, 272 Hz on average for men and 405 Hz for women; from memory), spread widely around them; the rest is common practice.
"""
import numpy as np

RATE = 16000
KINDS = ["laugh", "sob", "sigh", "breath", "cough", "hum", "whistle", "cheer"]


def smooth_noise(r, n, hz):
    """Random numbers that change so often a second, about -1 to 1."""
    points = r.standard_normal(max(2, int(n / RATE * hz) + 3)) * 0.6
    return np.interp(np.arange(n) * hz / RATE, np.arange(len(points)), points)


def harmonics(r, hz, tilt, top=RATE / 2):
    """A voice's source: all harmonics of a pitch in Hz, one value a sample, each weaker by tilt than the one before."""
    jitter = 1 + 0.006 * smooth_noise(r, len(hz), 90)
    phase = 2 * np.pi * np.cumsum(hz * jitter) / RATE + r.uniform(0, 6)
    x = np.zeros(len(hz))
    for k in range(1, min(70, int(top / max(60, hz.min())) + 1)):
        x += np.sin(k * phase + 0.3 * k) * k**-tilt * (k * hz < 0.95 * top)
    return x


def noise(r, n, slope=0):
    """White noise, or with so many dB an octave."""
    f = np.fft.rfftfreq(n, 1 / RATE)
    f[0] = f[1] if n > 1 else 1
    x = np.fft.irfft(np.fft.rfft(r.standard_normal(n)) * (f / 1000) ** (slope / 6.02), n)
    return x / (x.std() + 1e-9)


def tract(x, formants, widths, gains=None):
    """Puts a source through resonances. Formants: (frames, count) in Hz, a frame every 5 ms; widths: (count) in Hz; gains: dB each, for parallel ones."""
    size, hop = 512, 80
    frames = len(x) // hop + 1
    formants = formants[np.minimum(np.arange(frames), len(formants) - 1)]
    f = np.fft.rfftfreq(size, 1 / RATE)[None, :]
    if gains is None:
        shape = np.ones((frames, f.shape[1]))
        for k in range(formants.shape[1]):
            centre, b = formants[:, k : k + 1], widths[k]
            shape *= centre**2 / np.sqrt((centre**2 - f**2) ** 2 + (b * f) ** 2)
    else:
        shape = np.zeros((frames, f.shape[1]))
        for k in range(formants.shape[1]):
            shape += 10 ** (gains[k] / 20) / (1 + ((f - formants[:, k : k + 1]) / widths[k]) ** 2)
    window = np.hanning(size + 1)[:-1]
    padded = np.concatenate([np.zeros(size // 2), x, np.zeros(size)])
    at = np.arange(frames)[:, None] * hop + np.arange(size)
    parts = np.fft.irfft(np.fft.rfft(padded[at] * window) * np.minimum(shape, 30), size) * window
    out = np.zeros(len(padded) + size)
    for k in range(size // hop + 1):
        own = np.arange(k, frames, size // hop + 1)
        out_at = own[:, None] * hop + np.arange(size)
        np.add.at(out, out_at.ravel(), parts[own].ravel())
    return out[size // 2 : size // 2 + len(x)] * hop / size * 2.67


def vowel(r, frames, small, f1=(350, 950), f2=(950, 2100)):
    """Formants of one open tract, drifting a little."""
    centre = np.array([r.uniform(*f1), r.uniform(*f2), r.uniform(2400, 3200), r.uniform(3400, 4200), r.uniform(4600, 5600)]) * small
    return centre[None, :] * (1 + r.uniform(-0.06, 0.06, 5) * np.linspace(-1, 1, frames)[:, None])


def widths(r):
    return np.array([90, 110, 160, 220, 300]) * r.uniform(0.8, 2)


def rise_fall(n, rise, fall, hold=0.0):
    """0 to 1 and back; rise, hold and fall in seconds, the fall an exponential."""
    t = np.arange(n) / RATE
    return np.clip(t / max(1e-3, rise), 0, 1) * np.exp(-np.clip(t - rise - hold, 0, None) / max(1e-3, fall))


def speaker(r):
    """Middle pitch of a laugh in Hz, and how small the tract is."""
    kind = r.random()
    return (r.uniform(130, 380), r.uniform(0.9, 1.05)) if kind < 0.45 else (r.uniform(230, 600), r.uniform(1.03, 1.2)) if kind < 0.85 else (
        r.uniform(350, 800), r.uniform(1.15, 1.35))


def ends(x, ramp=0.008):
    n = min(len(x) // 2, int(ramp * RATE))
    if n:
        x[:n] *= np.linspace(0, 1, n)
        x[-n:] *= np.linspace(1, 0, n)
    return x


def inhaled(r, seconds, small=1.0):
    n = int(seconds * RATE)
    x = tract(noise(r, n, r.uniform(-3, 3)), vowel(r, n // 80 + 1, small), widths(r) * r.uniform(1.5, 3.5))
    return ends(x / (x.std() + 1e-9) * np.linspace(0.15, 1, n) ** r.uniform(0.5, 1.5), 0.03)


def laugh(r):
    pitch, small = speaker(r)
    calls, each = int(r.integers(2, 5) if r.random() < 0.35 else r.integers(4, 12)), 1 / r.uniform(3.6, 6.8)
    voiced = r.choice([1.0, 1.0, 1.0, 0.6, 0.3, 0.0])
    slower, softer, lower = r.uniform(1, 1.06), r.uniform(0.75, 1.0), r.uniform(0.93, 1.01)
    opened, parts, arch, tilt = r.uniform(0.3, 0.75), [], r.uniform(0, 0.5), r.uniform(0.9, 1.9)
    shape = vowel(r, 2, small)
    slope, gap = r.uniform(-4, 2), 10 ** (r.uniform(-28, -8) / 20)
    for k in range(calls):
        period = each * slower**k * r.uniform(0.9, 1.1)
        n = int(period * RATE)
        on = int(np.clip(opened * r.uniform(0.8, 1.25), 0.2, 0.9) * n)
        t = np.linspace(0, 1, on)
        hz = pitch * lower**k * (1 + arch * np.sin(np.pi * t ** r.uniform(0.5, 1.2)) - r.uniform(0, 0.2) * t)
        level = rise_fall(on, r.uniform(0.01, 0.05), r.uniform(0.05, 0.2), r.uniform(0, 0.06))
        tone = np.zeros(n)
        breath = noise(r, n, slope)
        if r.random() < voiced + 0.001 and voiced > 0:
            tone[:on] = harmonics(r, np.clip(hz, 70, 1100), tilt) * level
        breath_level = np.full(n, gap)
        # The h comes before the vowel: its noise is loudest at the end of the gap and as the call begins.
        breath_level[-int(0.3 * n) :] += np.linspace(0, r.uniform(0.05, 0.5), int(0.3 * n))
        breath_level[:on] += level * (r.uniform(0.03, 0.25) if tone.any() else r.uniform(0.7, 1.2))
        x = tone * 2 + breath * breath_level * 0.7
        parts.append(x * softer**k * 10 ** (r.uniform(-2, 2) / 20))
    x = np.concatenate(parts)
    moving = np.repeat(shape[:1], len(x) // 80 + 1, 0) * (1 + 0.08 * smooth_noise(r, len(x) // 80 + 1, RATE / 80 * 5)[:, None])
    x = tract(x, moving, widths(r))
    if r.random() < 0.25:
        x = np.concatenate([x, np.zeros(int(r.uniform(0, 0.1) * RATE)), inhaled(r, r.uniform(0.2, 0.6), small) * x.std() * r.uniform(0.15, 0.5)])
    return ends(x)


def laugh_of(r, spoken, pitches):
    """A laugh of what a speaking voice has: one open sound of it, again and again, higher and with h between."""
    voiced = np.flatnonzero(pitches > 0)
    if len(voiced) < 20:
        return laugh(r)
    for _ in range(20):
        at = int(r.choice(voiced))
        n = int(r.uniform(0.07, 0.16) * RATE)
        part = spoken[at * 160 : at * 160 + n]
        if len(part) == n and (pitches[at : at + n // 160] > 0).all() and part.std() > 0.5 * spoken.std():
            break
    else:
        return laugh(r)
    small, parts, each = r.uniform(1.1, 2.0), [], 1 / r.uniform(3.8, 6.5)
    fill, softer, lower = r.uniform(0.45, 0.85), r.uniform(0.8, 1), r.uniform(0.94, 1.01)
    rough = noise(r, RATE, r.uniform(-4, 0)) * part.std() * 10 ** (r.uniform(-26, -12) / 20)
    for k in range(int(r.integers(3, 9))):
        count = int(each * RATE * r.uniform(0.92, 1.08))
        on = min(int(fill * count), int(n / (small * lower**k)))
        x = rough[:count].copy() * r.uniform(0.6, 1)
        x[:on] += np.interp(np.arange(on) * small * lower**k, np.arange(n), part) * rise_fall(on, 0.02, r.uniform(0.06, 0.2), 0.03)
        parts.append(x * softer**k)
    return ends(np.concatenate(parts))


def sob(r):
    pitch, small = speaker(r)
    pitch, parts = pitch * r.uniform(1.0, 1.6), []
    for _ in range(int(r.integers(1, 5))):
        if r.random() < 0.6:
            for _ in range(int(r.integers(1, 5))):
                n = int(r.uniform(0.05, 0.13) * RATE)
                parts += [inhaled(r, n / RATE, small) * r.uniform(0.2, 0.6), np.zeros(int(r.uniform(0.02, 0.08) * RATE))]
        n = int(r.uniform(0.35, 1.5) * RATE)
        t = np.linspace(0, 1, n)
        drop = 2 ** (-r.uniform(2, 11) / 12 * t ** r.uniform(0.6, 2))
        tremble = 1 + r.uniform(0.01, 0.05) * np.sin(2 * np.pi * r.uniform(5, 9) * np.arange(n) / RATE)
        hz = np.clip(pitch * r.uniform(0.85, 1.2) * drop * tremble * (1 + 0.03 * smooth_noise(r, n, 12)), 80, 1100)
        creak = 1 + r.uniform(0, 0.6) * np.sin(np.pi * np.cumsum(hz) / RATE)
        level = rise_fall(n, r.uniform(0.03, 0.15), r.uniform(0.3, 1.2), 0.2) * (1 + 0.4 * smooth_noise(r, n, 8))
        x = harmonics(r, hz, r.uniform(0.9, 1.6)) * creak * level + noise(r, n, -2) * level * r.uniform(0.03, 0.5)
        x = tract(x, vowel(r, n // 80 + 1, small, (280, 750), (900, 2000)), widths(r))
        parts += [ends(x / (x.std() + 1e-9)), np.zeros(int(r.uniform(0.02, 0.35) * RATE))]
    return ends(np.concatenate(parts[:-1]))


def sigh(r):
    pitch, small = speaker(r)
    n = int(r.uniform(0.5, 1.9) * RATE)
    level = rise_fall(n, r.uniform(0.05, 0.2), r.uniform(0.25, 0.8), r.uniform(0, 0.2))
    x = noise(r, n, r.uniform(-7, -1)) * level
    if r.random() < 0.5:
        hz = np.clip(pitch * r.uniform(0.4, 0.8), 75, 500) * 2 ** (-r.uniform(3, 10) / 12 * np.linspace(0, 1, n))
        x = x * r.uniform(0.15, 0.6) + harmonics(r, hz, r.uniform(1.4, 2.2)) * rise_fall(n, 0.06, r.uniform(0.15, 0.5)) * r.uniform(0.3, 1.5)
    return ends(tract(x, vowel(r, n // 80 + 1, small, (400, 850), (950, 1700)), widths(r) * 1.5), 0.03)


def breath(r):
    return inhaled(r, r.uniform(0.25, 1.2), speaker(r)[1])


def cough(r):
    pitch, small = speaker(r)
    parts = []
    if r.random() < 0.3:
        # A throat is cleared.
        for _ in range(int(r.integers(1, 3))):
            n = int(r.uniform(0.2, 0.7) * RATE)
            rough = 0.5 + 0.5 * np.sin(2 * np.pi * np.cumsum(r.uniform(22, 60) * (1 + 0.2 * smooth_noise(r, n, 20))) / RATE)
            x = harmonics(r, np.clip(r.uniform(65, 150) * (1 + 0.1 * smooth_noise(r, n, 20)), 50, 300), 1.1) + noise(r, n, -3) * r.uniform(0.5, 2)
            x = x * (1 - r.uniform(0.4, 0.95) * rough) * rise_fall(n, 0.03, r.uniform(0.2, 0.6), 0.1)
            parts += [tract(x, vowel(r, n // 80 + 1, small, (250, 600), (900, 1500)), widths(r)), np.zeros(int(r.uniform(0.03, 0.25) * RATE))]
        return ends(np.concatenate(parts[:-1]))
    for _ in range(int(r.integers(1, 5))):
        burst, rest, last = int(r.uniform(0.015, 0.05) * RATE), int(r.uniform(0.08, 0.28) * RATE), int(r.uniform(0, 0.14) * RATE)
        first = noise(r, burst, r.uniform(-2, 2)) * np.exp(-np.linspace(0, r.uniform(0.5, 2.5), burst))
        middle = noise(r, rest, r.uniform(-5, 0)) * np.exp(-np.linspace(0, r.uniform(1, 4), rest)) * r.uniform(0.3, 0.8)
        x = np.concatenate([first, middle, np.zeros(last)])
        if last > 200 and r.random() < 0.6:
            hz = np.clip(pitch * r.uniform(0.7, 1.2) * np.linspace(1, 0.7, last), 80, 700)
            x[-last:] += (harmonics(r, hz, 1.2) + noise(r, last, -3) * 0.5) * np.sin(np.pi * np.linspace(0, 1, last)) * r.uniform(0.15, 0.7)
        if r.random() < 0.65:
            # The voice is in it from the burst on, rough, falling.
            n = burst + rest
            hz = np.clip(pitch * r.uniform(0.5, 1.3) * np.linspace(1, r.uniform(0.5, 0.9), n) * (1 + 0.06 * smooth_noise(r, n, 60)), 80, 800)
            x[:n] += harmonics(r, hz, r.uniform(0.8, 1.4)) * np.exp(-np.linspace(0, r.uniform(2, 5), n)) * r.uniform(0.3, 1.8)
        x = tract(x, vowel(r, len(x) // 80 + 1, small, (450, 900), (1000, 1800)), widths(r) * 1.6)
        parts += [ends(x, 0.002) * 10 ** (r.uniform(-4, 0) / 20), np.zeros(int(r.uniform(0.02, 0.35) * RATE))]
    return np.concatenate(parts[:-1])


def hum(r):
    pitch, small = speaker(r)
    pitch = np.clip(pitch * r.uniform(0.4, 1), 85, 480)
    keys, lengths = [0], []
    count = int(r.integers(1, 3) if r.random() < 0.4 else r.integers(3, 11))
    for _ in range(count):
        keys.append(int(np.clip(keys[-1] + r.choice([-5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5]), -9, 12)))
        lengths.append(int(r.uniform(0.14, 0.9) * RATE))
    n = sum(lengths)
    note = np.repeat(np.array(keys[1:], float), lengths)
    glide = max(1, int(r.uniform(0.02, 0.08) * RATE))
    note = np.convolve(np.pad(note, (glide, glide), "edge"), np.ones(2 * glide + 1) / (2 * glide + 1), "valid")[:n]
    hz = pitch * 2 ** ((note + r.uniform(0, 0.4) * np.sin(2 * np.pi * r.uniform(4.5, 6.5) * np.arange(n) / RATE)) / 12)
    level, dip, at = np.ones(n), r.uniform(0, 0.8), 0
    for k in lengths:
        m = min(k, int(0.05 * RATE))
        level[at : at + m] *= 1 - dip * np.linspace(1, 0, m)
        at += k
    x = harmonics(r, hz, r.uniform(1, 1.8)) * level + noise(r, n, -3) * 10 ** (r.uniform(-45, -28) / 20)
    places = np.array([r.uniform(220, 330), r.uniform(900, 1300), r.uniform(2000, 2600), r.uniform(3000, 3600)]) * small
    gains = [0, r.uniform(-30, -14), r.uniform(-38, -20), r.uniform(-46, -26)]
    return ends(tract(x, np.repeat(places[None], n // 80 + 1, 0), np.array([60, 120, 160, 200]) * r.uniform(0.8, 1.6), gains), 0.04)


def whistle(r):
    base, keys, lengths = r.uniform(600, 2200), [0], []
    for _ in range(int(r.integers(1, 9))):
        keys.append(int(np.clip(keys[-1] + r.integers(-7, 8), -8, 14)))
        lengths.append(int(r.uniform(0.1, 0.8) * RATE))
    n = sum(lengths)
    note = np.repeat(np.array(keys[1:], float), lengths)
    glide = max(1, int(r.uniform(0.01, 0.1) * RATE))
    note = np.convolve(np.pad(note, (glide, glide), "edge"), np.ones(2 * glide + 1) / (2 * glide + 1), "valid")[:n]
    hz = base * 2 ** ((note + r.uniform(0, 0.5) * np.sin(2 * np.pi * r.uniform(4, 7) * np.arange(n) / RATE)) / 12)
    phase = 2 * np.pi * np.cumsum(hz * (1 + 0.002 * smooth_noise(r, n, 60))) / RATE
    level, at = np.zeros(n), 0
    for k in lengths:
        level[at : at + k] = ends(np.ones(k), r.uniform(0.01, 0.06)) if r.random() < 0.7 else 1
        at += k
    level *= 1 + 0.2 * smooth_noise(r, n, 20)
    x = np.sin(phase) + 10 ** (r.uniform(-45, -22) / 20) * np.sin(2 * phase)
    hiss = noise(r, n, r.uniform(-2, 3)) * 10 ** (r.uniform(-40, -18) / 20)
    return ends((x + hiss) * level, 0.02)


def shout(r):
    pitch, small = speaker(r)
    n = int(r.uniform(0.35, 1.8) * RATE)
    t = np.linspace(0, 1, n)
    swing = r.uniform(-4, 10) * np.sin(np.pi * t ** r.uniform(0.5, 1.5)) - r.uniform(0, 6) * t
    hz = np.clip(pitch * r.uniform(0.9, 1.7) * 2 ** (swing / 12), 110, 1100)
    level = rise_fall(n, r.uniform(0.02, 0.12), r.uniform(0.3, 1), r.uniform(0.2, 1))
    x = harmonics(r, hz, r.uniform(0.6, 1.2)) * level * (1 + 0.15 * smooth_noise(r, n, 25)) + noise(r, n, -2) * level * r.uniform(0.02, 0.25)
    first, second = vowel(r, 1, small, (300, 950), (700, 2200)), vowel(r, 1, small, (350, 1000), (800, 2100))
    way = np.linspace(0, 1, n // 80 + 1)[:, None] ** r.uniform(0.4, 2)
    return ends(tract(x, first * (1 - way) + second * way, widths(r)), 0.02)


def claps(r, n):
    x, f = np.zeros(n), r.uniform(900, 1800)
    for _ in range(int(r.uniform(4, 60) * n / RATE)):
        m = int(r.uniform(0.005, 0.02) * RATE)
        at = int(r.integers(0, max(1, n - m)))
        x[at : at + m] += (noise(r, m) * np.exp(-np.linspace(0, 5, m)) * r.uniform(0.2, 1))[: n - at]
    return tract(x, np.array([[f, 2.3 * f]]), np.array([500, 900]), [0, -4])


def cheer(r):
    if r.random() < 0.45:
        # One: "woo", "yay", once or a few times.
        parts = []
        for _ in range(int(r.integers(1, 3))):
            x = shout(r)
            parts += [x / (x.std() + 1e-9), np.zeros(int(r.uniform(0.03, 0.25) * RATE))]
        return np.concatenate(parts[:-1])
    n = int(r.uniform(1.5, 4.5) * RATE)
    x = np.zeros(n)
    for _ in range(int(r.integers(6, 30))):
        one = shout(r)
        at = int(r.integers(-len(one) // 2, n - 2000))
        first = max(0, at)
        part = one[first - at :][: n - first]
        x[first : first + len(part)] += part / (one.std() + 1e-9) * 10 ** (r.uniform(-14, 0) / 20)
    if r.random() < 0.7:
        c = claps(r, n)
        x += c / (c.std() + 1e-9) * x.std() * 10 ** (r.uniform(-12, 6) / 20)
    return ends(x * rise_fall(n, r.uniform(0.05, 0.5), 2, 2), 0.1)


def make(kind, r):
    """One of a kind at a level of 1 (root of mean squares of its louder half)."""
    x = globals()[kind](r).astype(np.float32)
    loud = np.sort(np.abs(x))[len(x) // 2 :]
    return x / (np.sqrt((loud**2).mean()) + 1e-9)


def clutter(r, n):
    """What is neither voice nor noise of one kind: keys, knocks, slams, ticking, a hum of mains, beeps."""
    kind, x = int(r.integers(0, 5)), np.zeros(n)
    if kind == 0:
        for _ in range(int(r.integers(1, 14))):
            m = int(r.uniform(0.005, 0.03) * RATE)
            at = int(r.integers(0, max(1, n - m)))
            x[at : at + m] += noise(r, m, r.uniform(-3, 3)) * np.exp(-np.linspace(0, r.uniform(3, 7), m)) * r.uniform(0.2, 1)
    elif kind == 1:
        for _ in range(int(r.integers(1, 6))):
            m = int(r.uniform(0.05, 0.4) * RATE)
            at = int(r.integers(0, max(1, n - m)))
            tone = np.sin(2 * np.pi * r.uniform(60, 500) * np.arange(m) / RATE)
            x[at : at + m] += ((noise(r, m, -5) + tone) * np.exp(-np.linspace(0, r.uniform(4, 9), m)) * r.uniform(0.3, 1))[: n - at]
    elif kind == 2:
        every, m = int(r.uniform(0.1, 0.6) * RATE), int(r.uniform(0.01, 0.05) * RATE)
        for at in range(int(r.integers(0, every)), n - m, every):
            x[at : at + m] += noise(r, m, r.uniform(-3, 3)) * np.exp(-np.linspace(0, 6, m))
    elif kind == 3:
        x = harmonics(r, np.full(n, r.choice([50, 60, 100, 120])), r.uniform(0.6, 2), 2500)
    else:
        for _ in range(int(r.integers(1, 4))):
            m = int(r.uniform(0.08, 0.5) * RATE)
            at = int(r.integers(0, max(1, n - m)))
            x[at : at + m] += ends(np.sign(np.sin(2 * np.pi * r.uniform(300, 2500) * np.arange(m) / RATE)) * r.uniform(0.1, 0.5))[: n - at]
    return (x / (np.abs(x).max() + 1e-9)).astype(np.float32)
