// The playhead: sound is the clock, and everything else reads it.
import { player, score } from "./shared.js";

export const playing = () => ({
  toggle() {
    if (player.playing) player.pause();
    else player.play();
    this.playing = player.playing;
  },
  goTo(t, sound = true) {
    player.seek(Math.max(0, Math.min(t, this.scene.duration - 1e-3)));
    score.view.follow(player.position);
    if (sound) player.grain(player.position);
  },
  step(n) {
    player.pause();
    const frame = Math.max(0, Math.min(this.scene.frames - 1, Math.floor(player.position * this.scene.fps + 1e-6) + n));
    player.position = (frame + 0.001) / this.scene.fps;
    score.view.follow(player.position);
    player.grain(player.position, 0.06);
  },
  stepWord(n) {
    const starts = this.scene.lines.filter((l) => l.start !== null).flatMap((l) => (l.words?.length ? l.words : (l.phones ?? [])).map((w) => l.start + w[1]));
    starts.sort((a, b) => a - b);
    const t = player.position;
    const target = n > 0 ? starts.find((s) => s > t + 0.002) : starts.findLast((s) => s < t - 0.002);
    if (target === undefined) return;
    player.pause();
    player.position = target + 0.0005;
    score.view.follow(target);
    player.grain(target, 0.18);
  },
  setLoop(loop) {
    this.loop = loop;
    player.setLoop(loop && { ...loop });
  },
  // A voice, saying a sentence of ours, or words of one's own.
  hearVoiceOf(key, words = "", delivery = "") {
    return this.attempt(async () => {
      const response = await fetch(`/api/voices/sample?key=${encodeURIComponent(key)}&text=${encodeURIComponent(words.slice(0, 400))}&delivery=${delivery}`);
      if (!response.ok) throw new Error((await response.json().catch(() => null))?.error ?? "The voice could not be heard.");
      await player.playBytes(await response.arrayBuffer());
    });
  },
  time: 0,
  frame: 0,
  playing: false,
  loop: null,
  speed: 1,
});
