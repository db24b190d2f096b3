// Drags of clips, sounds and whole lines.
import { patch } from "../../front/api.js";
import { boundaryByWord, meets } from "../../front/turns.js";
import { score } from "./shared.js";

export const scoreActing = () => ({
  // What a drag of a clip or of a line's handle does; null leaves it to others.
  takeActing(hit, e) {
    if (hit?.shot && !hit.clip) {
      this.unpick();
      this.pickClip(null);
      this.turnFor("shot");
      return { acting: "none", from: hit.time };
    }
    if (hit?.clip) {
      this.unpick();
      this.pickClip(hit.clip.id, e.ctrlKey || e.metaKey);
      if (e.ctrlKey || e.metaKey) return { acting: "none" };
      // As with a line: with Alt the end of a filmed clip makes it slower or faster.
      const stretch = e.altKey && hit.edge === "End" && hit.clip.kind === "footage" && hit.clip.speed > 0;
      return { acting: "clip", clip: hit.clip, edge: hit.edge, stretch, from: hit.time, dx: 0 };
    }
    this.pickClip(null);
    if (hit?.sound) {
      this.soundId = hit.sound.id;
      this.turnFor("sound");
      return { acting: "sound", sound: hit.sound, from: hit.time, dx: 0 };
    }
    if (hit?.lane === "line") {
      this.unpick();
      // With Alt its end makes it slower or faster, in place of what is heard of it.
      const stretch = e.altKey && hit.edge === "end";
      return { acting: "line", line: hit.line.id, moving: hit.line, side: hit.edge, stretch, from: hit.time, dx: 0 };
    }
    return null;
  },
  // Frames attract, and the edges of all words and clips on stage, unless Alt is held.
  snapScene(t, e, own) {
    if (e.altKey) return t;
    const edges = this.scene.lines
      .filter((l) => l.start !== null && l.id !== own)
      .flatMap((l) => (l.words ?? []).flatMap((w) => [l.start + w[1], l.start + w[2]]));
    for (const c of this.scene.clips) if (c.id !== own) edges.push(c.start, c.end);
    const near = edges.reduce((best, x) => (Math.abs(x - t) < Math.abs(best - t) ? x : best), Infinity);
    if (Math.abs(near - t) * score.view.pixelsPerSecond < 7) return near;
    return Math.round(t * this.scene.fps) / this.scene.fps;
  },
  dragActing(drag, t, e) {
    if (drag.acting === "none") return;
    const by = t - drag.from;
    if (Math.abs(by) * score.view.pixelsPerSecond < 4 && !drag.moved) return;
    drag.moved = true;
    if (drag.acting === "line" && drag.side) {
      const place = drag.side === "start" ? drag.moving.start : drag.moving.start + drag.moving.duration;
      // Its own words stay where they are: they attract, too.
      const to = this.snapScene(place + by, e, null);
      const other = e.shiftKey ? null : meets(this.scene, drag.moving, drag.side);
      const room = (other?.duration ?? Infinity) - 0.1;
      drag.dx =
        drag.side === "start"
          ? Math.max(-room, Math.min(to - place, drag.moving.duration - 0.1))
          : Math.min(room, Math.max(to - place, 0.1 - drag.moving.duration));
      drag.alone = e.shiftKey;
      return;
    }
    if (drag.acting === "line") {
      // The first sound of the line is what snaps to another's word.
      const first = drag.moving.start + (drag.moving.phones?.[0]?.[1] ?? 0);
      drag.dx = Math.max(-drag.moving.start, this.snapScene(first + by, e, drag.moving.id) - first);
      drag.alone = e.shiftKey;
      return;
    }
    if (drag.acting === "sound") {
      drag.dx = Math.max(0, this.snapScene(drag.sound.start + by, e, drag.sound.id)) - drag.sound.start;
      return;
    }
    const { clip } = drag;
    if (drag.edge === "End") drag.dx = Math.max(clip.start + 0.1, this.snapScene(clip.end + by, e, clip.id)) - clip.end;
    else if (drag.edge === "Start") drag.dx = Math.min(clip.end - 0.1, this.snapScene(clip.start + by, e, clip.id)) - clip.start;
    else drag.dx = this.snapScene(clip.start + by, e, clip.id) - clip.start;
  },
  async dropActing(drag) {
    if (drag.acting === "none") return drag.from === undefined ? undefined : void this.goTo(drag.from);
    if (!drag.moved) {
      this.goTo(drag.from);
      return;
    }
    if (!drag.dx) return;
    if (drag.stretch) return drag.clip ? this.stretchFootage(drag.clip, drag.dx) : this.stretchLine(drag.moving, drag.dx);
    if (drag.acting === "line" && drag.side) {
      const at = drag.dx + drag.moving.start + (drag.side === "start" ? 0 : drag.moving.duration);
      return this.edit(
        () => patch(`/api/lines/${drag.moving.id}/edge`, { revision: this.revision, edge: drag.side, at, alone: drag.alone }),
        drag.side === "start" ? "The line begins elsewhere in its sound." : "The line ends elsewhere in its sound.",
      );
    }
    if (drag.acting === "line") return this.moveLine(drag.moving, drag.moving.start + drag.dx, drag.alone);
    if (drag.acting === "sound") return this.change(`/api/sounds/${drag.sound.id}`, { start: drag.sound.start + drag.dx });
    const { clip, dx, edge } = drag;
    if (edge === "Start") return this.change(`/api/clips/${clip.id}`, { start: clip.start + dx, end: clip.end });
    if (edge === "End") return this.change(`/api/clips/${clip.id}`, { start: clip.start, end: clip.end + dx });
    return this.change(`/api/clips/${clip.id}`, { start: clip.start + dx, end: clip.end + dx });
  },
  // The end of a line, by a frame, or by a word where another turn of its recording follows.
  moveLineEnd(line, frames) {
    const isTurn = meets(this.scene, line, "end") !== null;
    const at = isTurn ? boundaryByWord(this.scene, line, frames) : line.start + line.duration + frames / this.scene.fps;
    if (at === null) return null;
    return this.edit(() => patch(`/api/lines/${line.id}/edge`, { revision: this.revision, edge: "end", at }), "The end of the line is moved.");
  },
  // What is seen in it stays the same.
  stretchFootage(clip, by) {
    const length = clip.end - clip.start;
    const speed = Math.min(4, (clip.speed * length) / (length + by));
    return this.change(`/api/clips/${clip.id}`, { start: clip.start, end: clip.end + by, speed });
  },
  // Longer by so many seconds: slower or faster at the same pitch.
  stretchLine({ id, take, duration, care: { speed } }, by) {
    const tempo = Math.round(100 * Math.min(2, Math.max(0.5, (speed * duration) / (duration + by)))) / 100;
    return this.edit(
      () => {
        const { care } = this.scene.lines.find((l) => l.id === id);
        return patch(`/api/takes/${take.id}/care`, { revision: this.revision, care: { ...care, speed: tempo } });
      },
      `Tempo: ${speed.toFixed(2)} to ${tempo.toFixed(2)}. The line takes ${((duration * speed) / tempo).toFixed(2)} s; what follows goes along.`,
    );
  },
  moveLine(line, at, alone) {
    return this.edit(
      () => patch(`/api/lines/${line.id}`, { revision: this.revision, at: Math.max(0, at), alone }),
      alone ? "Line moved alone." : "Line moved; what follows goes along.",
    );
  },
  change(url, change) {
    return this.edit(() => patch(url, { revision: this.revision, ...change }));
  },
});
