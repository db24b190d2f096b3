// The score: pointer work on its lanes, which of them are shown, and how near.
import { patch, post } from "../../front/api.js";
import { laneNames, Score } from "../../front/score.js";
import { act, onKey, player, score } from "./shared.js";

export const scorePanel = () => ({
  listen() {
    const canvas = this.$refs.score;
    let scrubbing = false;
    let last = 0;
    const scrub = (e) => {
      const t = Math.max(0, Math.min(score.view.timeAt(e.offsetX), this.scene.duration - 1e-3));
      player.pause();
      player.position = t;
      if (performance.now() - last > 55) {
        last = performance.now();
        player.grain(t);
      }
    };
    canvas.addEventListener("pointerdown", (e) => {
      if (!this.scene || e.button !== 0) return;
      canvas.focus();
      const hit = score.view.hit(e.offsetX, e.offsetY);
      if (hit?.member) this.selectedMember = hit.member.id;
      if (hit?.line || e.offsetY > 26) this.selectedLine = hit?.line?.id ?? null;
      if (hit?.line) this.$dispatch("reveal-line", hit.line);
      if (e.offsetX < 116) return;
      canvas.setPointerCapture(e.pointerId);
      player.pause();
      score.view.drag = this.takeActing(hit, e) ?? this.takeHold(hit, e);
      if (score.view.drag) return;
      this.unpick();
      scrubbing = true;
      scrub(e);
    });
    canvas.addEventListener("pointermove", (e) => {
      if (score.view.drag?.acting) return this.dragActing(score.view.drag, score.view.timeAt(e.offsetX), e);
      if (score.view.drag) return score.view.drag.done ? null : this.dragTo(score.view.drag, score.view.timeAt(e.offsetX), e);
      if (scrubbing) return scrub(e);
      const hit = score.view.hit(e.offsetX, e.offsetY);
      canvas.style.cursor =
        hit?.edge || hit?.boundary ? "ew-resize" : (hit?.lane === "mouth" && hit.item) || hit?.clip || hit?.sound || hit?.lane === "line" ? "grab" : "default";
    });
    const drop = (e) => {
      scrubbing = false;
      const { drag } = score.view;
      if (!drag || drag.done) return void (score.view.drag = null);
      const done = drag.acting ? this.dropActing(drag) : this.drop(drag, score.view.timeAt(e.offsetX));
      done.finally(() => (score.view.drag = null));
    };
    canvas.addEventListener("pointerup", drop);
    canvas.addEventListener("pointercancel", () => {
      scrubbing = false;
      score.view.drag = null;
    });
    canvas.addEventListener("dblclick", (e) => {
      const hit = score.view.hit(e.offsetX, e.offsetY);
      if (!hit?.item) return;
      this.setLoop({ start: Math.max(0, hit.line.start + hit.item[1] - 0.05), end: hit.line.start + hit.item[2] + 0.05 });
      player.position = this.loop.start;
      player.play();
    });
    canvas.addEventListener(
      "wheel",
      (e) => {
        if (!this.scene) return;
        if (e.ctrlKey) {
          e.preventDefault();
          score.view.zoom(e.deltaY < 0 ? 1.2 : 1 / 1.2, score.view.timeAt(e.offsetX));
        } else if (Math.abs(e.deltaX) > Math.abs(e.deltaY) || e.shiftKey) {
          e.preventDefault();
          score.view.scroll += (e.deltaX || e.deltaY) / score.view.pixelsPerSecond;
          score.view.clampScroll();
        }
      },
      { passive: false },
    );
  },
  // What a drag from here does; null where the score has nothing to take.
  takeHold(hit, e) {
    if (!hit?.line) return null;
    const from = hit.local;
    if (hit.lane === "mouth" && hit.item && !e.shiftKey && !e.ctrlKey) {
      if (!this.picked.cues.includes(hit.item[5]) || this.picked.line !== hit.line.id) this.pickCue(hit.line, hit.item);
      return { cues: true, edge: hit.edge, line: hit.line.id, from, dx: 0 };
    }
    if (hit.lane === "mouth" && hit.item) {
      this.pickCue(hit.line, hit.item, e.ctrlKey, e.shiftKey);
      return { done: true };
    }
    if (hit.boundary) return { pin: hit.boundary, line: hit.line.id, from, dx: 0 };
    score.view.drag = null;
    return { range: true, line: hit.line.id, from, dx: 0 };
  },
  // Frames and words' edges attract, unless Alt is held.
  snap(line, t, e) {
    if (e.altKey) return t;
    const edges = [...(line.words ?? []), ...(score.view.showsPhones(line) ? line.phones : [])].flatMap((w) => [w[1], w[2]]);
    const near = edges.reduce((best, x) => (Math.abs(x - t) < Math.abs(best - t) ? x : best), Infinity);
    if (Math.abs(near - t) * score.view.pixelsPerSecond < 6) return near;
    return Math.round((line.start + t) * this.scene.fps) / this.scene.fps - line.start;
  },
  dragTo(drag, t, e) {
    const line = this.scene.lines.find((l) => l.id === drag.line);
    if (!line) return;
    const local = Math.max(0, Math.min(line.duration, t - line.start));
    if (Math.abs(local - drag.from) * score.view.pixelsPerSecond < 4 && !drag.moved) return;
    drag.moved = true;
    if (drag.range) {
      const a = this.snap(line, drag.from, e);
      const b = this.snap(line, local, e);
      const range = { start: Math.min(a, b), end: Math.max(a, b) };
      this.pick({ line: line.id, range, cues: this.cuesIn(line, range.start, range.end) });
      return;
    }
    if (drag.pin) drag.dx = this.snap({ ...line, words: [], phones: [] }, local, e) - drag.pin.time;
    else {
      const cue = this.pickedCues[0];
      const anchor = drag.edge === "End" ? cue[2] : cue[1];
      drag.dx = this.snap(line, anchor + local - drag.from, e) - anchor;
    }
  },
  async drop(drag, t) {
    const line = this.scene.lines.find((l) => l.id === drag.line);
    if (!line) return;
    if (!drag.moved) {
      this.goTo(Math.max(0, drag.cues ? line.start + (this.pickedCues[0][1] + this.pickedCues[0][2]) / 2 : t));
      if (drag.range || drag.pin) {
        const word = (line.words ?? []).findIndex((w) => drag.from >= w[1] && drag.from < w[2]);
        if (word >= 0) this.pickWord(line, word);
        else this.unpick();
      }
      return;
    }
    if (drag.pin) await this.pinBoundary(line, drag.pin, drag.pin.time + drag.dx);
    else if (drag.cues && drag.dx) await this.moveCues(drag.edge || "Move", drag.dx);
  },
  pinBoundary(line, boundary, time) {
    const { index, at, isPhone } = boundary;
    const place = isPhone ? { phoneOfLine: index, atEnd: at === "end" } : { word: index, phone: at === "start" ? 0 : 999 };
    return this.touch(() => post(`/api/lines/${line.id}/pins`, { revision: this.revision, ...place, time }), "Boundary set; its neighbours are aligned again.");
  },
  // What a drag of a clip or of a line's handle does; null leaves it to others.
  takeActing(hit, e) {
    if (hit?.clip) {
      this.unpick();
      this.pickClip(hit.clip.id, e.ctrlKey || e.metaKey);
      if (e.ctrlKey || e.metaKey) return { acting: "none" };
      return { acting: "clip", clip: hit.clip, edge: hit.edge, from: hit.time, dx: 0 };
    }
    this.pickClip(null);
    if (hit?.sound) {
      this.soundId = hit.sound.id;
      return { acting: "sound", sound: hit.sound, from: hit.time, dx: 0 };
    }
    if (hit?.lane === "line") {
      this.unpick();
      return { acting: "line", line: hit.line.id, moving: hit.line, side: hit.edge, from: hit.time, dx: 0 };
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
      const to = this.snapScene(place + by, e, drag.moving.id);
      drag.dx = drag.side === "start" ? Math.min(to - place, drag.moving.duration - 0.1) : Math.max(to - place, 0.1 - drag.moving.duration);
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
    if (drag.acting === "none") return;
    if (!drag.moved) {
      this.goTo(drag.from);
      return;
    }
    if (!drag.dx) return;
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
  moveLine(line, at, alone) {
    return this.edit(
      () => patch(`/api/lines/${line.id}`, { revision: this.revision, at: Math.max(0, at), alone }),
      alone ? "Line moved alone." : "Line moved; what follows goes along.",
    );
  },
  // Which clips the score shows, and which lanes are folded away.
  filterClips(event) {
    score.view.filter = event.target.value || null;
    this.pickClip(null);
  },
  foldLane(kind) {
    const { folded } = score.view;
    if (!folded.delete(kind)) folded.add(kind);
    this.foldedLanes = [...folded];
  },
  foldedLanes: [],
  get laneKinds() {
    return Object.entries(laneNames).map(([key, name]) => ({ key, name, isFolded: this.foldedLanes.includes(key) }));
  },
  get moodsInUse() {
    return [...new Set((this.scene?.clips ?? []).filter((c) => c.kind === "mood").map((c) => c.name))];
  },
  get loopText() {
    return this.loop ? `${this.loop.start.toFixed(2)} to ${this.loop.end.toFixed(2)} s` : "Loop off";
  },
  zoomIn() {
    score.view.zoom(1.5);
  },
  zoomOut() {
    score.view.zoom(1 / 1.5);
  },
  fit() {
    score.view.fit();
  },
  init() {
    score.view = new Score(this.$refs.score);
    this.listen();
    onKey(
      60,
      ({ name, control }) => !control && act({ "+": () => this.zoomIn(), "=": () => this.zoomIn(), "-": () => this.zoomOut(), f: () => this.fit() }, name),
    );
  },
  change(url, change) {
    return this.edit(() => patch(url, { revision: this.revision, ...change }));
  },
  moveCues(operation, by) {
    return this.touch(() => {
      const { line, cues } = this.picked;
      return post(`/api/lines/${line}/cues`, { revision: this.revision, operation, cues: [...cues], by });
    });
  },
});
