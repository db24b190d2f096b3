// Moods and gestures on the score, and the timing of whole lines.
import { get, patch, post, remove } from "./api.js";
import { StagePainter } from "./stage.js";

// tools: the score and the player.
export function acting(tools) {
  // Kept out of the component: Alpine would wrap frames in proxies.
  const preview = { painter: null, frames: new Map(), shapesOf: "", timer: 0 };

  return {
    clipId: null,
    clipCopy: null,
    gestures: [],
    gesturePart: "all",
    previewOf: "",

    // ---- moods and gestures

    get clip() {
      return this.scene?.clips.find((c) => c.id === this.clipId) ?? null;
    },
    get clipText() {
      const c = this.clip;
      return c ? `${c.title}, ${(c.end - c.start).toFixed(2)} s` : "";
    },
    get clipSpeed() {
      const c = this.clip;
      return c?.kind === "gesture" ? `Speed ${Math.round(c.speed * 100)} %` : "";
    },
    pickClip(id) {
      this.clipId = id;
      tools.score.clip = id;
    },
    // Where something new goes: what is picked, else the selected line, else two seconds from the playhead.
    get target() {
      const line = this.pickedLine;
      if (line && this.picked.range) return { member: line.member, start: line.start + this.picked.range.start, end: line.start + this.picked.range.end };
      if (line && this.pickedWord) return { member: line.member, start: line.start + this.pickedWord[1], end: line.start + this.pickedWord[2], isWord: true };
      const whole = this.line;
      if (whole && whole.start !== null && whole.member === this.selectedMember) {
        const spoken = whole.phones?.length ? [whole.phones[0][1], whole.phones.at(-1)[2]] : [0, whole.duration];
        return { member: whole.member, start: whole.start + spoken[0], end: whole.start + spoken[1], isLine: true };
      }
      const t = tools.player.position;
      return { member: this.selectedMember, start: t, end: t + 2, isHere: true };
    },
    get targetText() {
      if (!this.member) return "";
      const t = this.target;
      const where = t.isHere ? "from the playhead" : t.isLine ? "on the line" : t.isWord ? `on “${this.pickedWord[0]}”` : "on the stretch";
      return `${this.member.roleName}, ${where}`;
    },
    async layClip(order, say) {
      const done = await this.attempt(() => post(`/api/scenes/${this.sceneId}/clips`, { revision: this.revision, ...order }));
      if (!done) return;
      await this.reload();
      this.unpick();
      this.pickClip(done.id);
      this.say(say);
    },
    layMood(name) {
      const { member, start, end } = this.target;
      return this.layClip({ member, kind: "Mood", name, start, end }, `${name} laid on the score.`);
    },
    layGesture(gesture) {
      const t = this.target;
      // On a word the stroke falls on its strongest syllable; else at the playhead.
      const line = this.scene.lines.find((l) => l.id === (this.pickedLine ?? this.line)?.id);
      const within = (line?.accents ?? []).map(([time, size]) => [line.start + time, size]).filter(([time]) => time >= t.start && time <= t.end);
      const accent = within.sort((a, b) => b[1] - a[1])[0]?.[0];
      const at = t.isWord ? (accent ?? (t.start + t.end) / 2) : tools.player.position;
      return this.layClip({ member: t.member, kind: "Gesture", name: gesture.key, start: at, at }, `${gesture.name} laid on the score.`);
    },
    changeClip(change, say) {
      const { id } = this.clip;
      return this.edit(() => patch(`/api/clips/${id}`, { revision: this.revision, ...change }), say);
    },
    setClipStrength(event) {
      return this.changeClip({ strength: Number(event.target.value) });
    },
    setClipEase(event) {
      return this.changeClip({ ease: Number(event.target.value) });
    },
    setClipLoops(event) {
      return this.changeClip({ loops: Number(event.target.value) });
    },
    setClipMirror(event) {
      return this.changeClip({ mirror: event.target.checked });
    },
    setClipName(event) {
      return this.changeClip({ name: event.target.value });
    },
    splitClip() {
      const { id } = this.clip;
      return this.edit(() => post(`/api/clips/${id}/split`, { revision: this.revision, at: tools.player.position }), "Split at the playhead.");
    },
    deleteClip() {
      const { id, title } = this.clip;
      return this.edit(async () => {
        await remove(`/api/clips/${id}?revision=${this.revision}`);
        this.pickClip(null);
      }, `${title} deleted.`);
    },
    copyClip() {
      this.clipCopy = { ...this.clip };
      // The newest copy is what Ctrl+V lays.
      this.clipboard = null;
      this.say(`${this.clip.title} copied; Ctrl+V lays it at the playhead of the selected member.`, false);
    },
    pasteClip() {
      const c = this.clipCopy;
      const start = tools.player.position;
      return this.layClip(
        {
          member: this.selectedMember,
          kind: c.kind === "mood" ? "Mood" : "Gesture",
          name: c.name,
          start,
          end: start + c.end - c.start,
          strength: c.strength,
          mirror: c.mirror,
          loops: c.loops,
          ease: c.ease,
          from: c.from,
          to: c.to,
        },
        `${c.title} laid on the score.`,
      );
    },
    unpickClip() {
      this.pickClip(null);
    },
    async suggestMoods() {
      const done = await this.attempt(() => post(`/api/scenes/${this.sceneId}/moods/suggest`, { revision: this.revision }));
      if (!done) return;
      await this.reload();
      this.say(
        done.count === 0 ? "Neither words nor voice suggest a mood where none is yet." : `${done.count} moods suggested; each can be changed or deleted.`,
        done.count > 0,
      );
    },

    // ---- the library

    async loadGestures() {
      if (!this.gestures.length) await this.attempt(async () => (this.gestures = await get("/api/gestures")));
    },
    get gestureChoices() {
      const mood = this.clip?.kind === "mood" ? this.clip.name.toLowerCase() : "";
      return this.gestures.filter(
        (g) => this.gesturePart === "all" || g.part === this.gesturePart || (this.gesturePart === "mood" && mood && g.moods.includes(mood)),
      );
    },
    // A gesture under the pointer is shown, again and again, by the member that it would go to.
    async showGesture(gesture) {
      const character = this.member?.character;
      const key = `${character}/${gesture.key}`;
      this.previewOf = key;
      const canvas = this.$refs.gesturePreview;
      preview.painter ??= new StagePainter(canvas);
      if (!preview.frames.has(key)) {
        const data = await this.attempt(() => get(`/api/characters/${character}/gestures/${gesture.key}`));
        if (!data) return;
        let items = [];
        preview.frames.set(
          key,
          data.frames.map((changes) => {
            items = items.slice();
            for (const change of changes) items[change[0]] = change;
            return items;
          }),
        );
      }
      if (preview.shapesOf !== character) {
        await preview.painter.load(`/api/characters/${character}/preview-shapes`);
        preview.shapesOf = character;
      }
      if (this.previewOf !== key) return;
      const list = preview.frames.get(key);
      const begun = performance.now();
      cancelAnimationFrame(preview.timer);
      const tick = () => {
        if (this.previewOf !== key) return;
        preview.painter.resize(Math.round(canvas.clientWidth * devicePixelRatio), Math.round(canvas.clientHeight * devicePixelRatio));
        preview.painter.draw(list[Math.floor(((performance.now() - begun) / 1000) * 25) % list.length]);
        preview.timer = requestAnimationFrame(tick);
      };
      tick();
    },
    hideGesture() {
      this.previewOf = "";
    },

    // ---- timing of lines

    moveLine(line, at, alone) {
      return this.edit(
        () => patch(`/api/lines/${line.id}`, { revision: this.revision, at: Math.max(0, at), alone }),
        alone ? "Line moved alone." : "Line moved; what follows goes along.",
      );
    },
    nudgeLine(frames) {
      const { line } = this;
      if (line?.start == null) return;
      return this.moveLine(line, line.start + frames / this.scene.fps, false);
    },
    // S with a line selected and nothing picked cuts the line at the playhead.
    splitLine() {
      return this.edit(() => post(`/api/lines/${this.line.id}/split`, { revision: this.revision, at: tools.player.position }), "Line split at the playhead.");
    },
    setOffStage(event) {
      return this.edit(() => patch(`/api/lines/${this.line.id}`, { revision: this.revision, offStage: event.target.checked }));
    },
    setMute(event) {
      return this.edit(() => patch(`/api/lines/${this.line.id}`, { revision: this.revision, mute: event.target.checked }));
    },
    get chorus() {
      return (this.scene?.members ?? [])
        .filter((m) => m.id !== this.line?.member)
        .map((m) => ({ id: m.id, name: m.roleName, isIn: this.line.also.includes(m.id) }));
    },
    joinChorus(member) {
      const also = member.isIn ? this.line.also.filter((id) => id !== member.id) : [...this.line.also, member.id];
      return this.edit(() => patch(`/api/lines/${this.line.id}`, { revision: this.revision, also }));
    },
    get otherMembers() {
      return (this.scene?.members ?? []).filter((m) => m.id !== this.selectedMember);
    },
    swapWith(event) {
      const second = event.target.value;
      event.target.value = "";
      if (second)
        return this.edit(
          () => post(`/api/scenes/${this.sceneId}/swap`, { revision: this.revision, first: this.selectedMember, second }),
          "Their lines are changed over.",
        );
    },
    setPause(event) {
      const pause = Number(event.target.value);
      if (event.target.value === "" || !Number.isFinite(pause)) return this.followAgain();
      return this.edit(() => patch(`/api/lines/${this.line.id}`, { revision: this.revision, pause }));
    },
    followAgain() {
      return this.edit(() => patch(`/api/lines/${this.line.id}`, { revision: this.revision, follow: true }), "The line follows at the scene's pause.");
    },
    get pauseValue() {
      return this.line?.pause === null || this.line?.pause === undefined ? "" : this.line.pause.toFixed(2);
    },
    lineUp(line) {
      return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, move: -1 }), "Line moved up.");
    },
    lineDown(line) {
      return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, move: 1 }), "Line moved down.");
    },
    setGap(event) {
      return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, gap: Number(event.target.value) }));
    },
    setLeadIn(event) {
      return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, leadIn: Number(event.target.value) }));
    },
    setLeadOut(event) {
      return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, leadOut: Number(event.target.value) }));
    },

    // ---- pointer and keys

    // What a drag of a clip or of a line's handle does; null leaves it to others.
    takeActing(hit) {
      if (hit?.clip) {
        this.unpick();
        this.pickClip(hit.clip.id);
        return { acting: "clip", clip: hit.clip, edge: hit.edge, from: hit.time, dx: 0 };
      }
      this.pickClip(null);
      if (hit?.sound) {
        this.soundId = hit.sound.id;
        return { acting: "sound", sound: hit.sound, from: hit.time, dx: 0 };
      }
      if (hit?.lane === "line") {
        this.unpick();
        return { acting: "line", line: hit.line.id, moving: hit.line, from: hit.time, dx: 0 };
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
      if (Math.abs(near - t) * tools.score.pixelsPerSecond < 7) return near;
      return Math.round(t * this.scene.fps) / this.scene.fps;
    },
    dragActing(drag, t, e) {
      const by = t - drag.from;
      if (Math.abs(by) * tools.score.pixelsPerSecond < 4 && !drag.moved) return;
      drag.moved = true;
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
      if (!drag.moved) {
        this.goTo(drag.from);
        return;
      }
      if (!drag.dx) return;
      if (drag.acting === "line") return this.moveLine(drag.moving, drag.moving.start + drag.dx, drag.alone);
      if (drag.acting === "sound") return this.changeSound({ start: drag.sound.start + drag.dx });
      const { clip, dx, edge } = drag;
      if (edge === "Start") return this.changeClip({ start: clip.start + dx, end: clip.end });
      if (edge === "End") return this.changeClip({ start: clip.start, end: clip.end + dx });
      return this.changeClip({ start: clip.start + dx, end: clip.end + dx });
    },
    actingKey(e) {
      const control = e.ctrlKey || e.metaKey;
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
      const frame = 1 / this.scene.fps;
      if (this.clip) {
        if (control && key === "c") return (this.copyClip(), true);
        if (control && key !== "v") return false;
        const { clip } = this;
        const most = clip.kind === "mood" ? 1 : 2;
        const map = {
          Delete: () => this.deleteClip(),
          Backspace: () => this.deleteClip(),
          s: () => this.splitClip(),
          Escape: () => this.pickClip(null),
          ArrowUp: () => this.changeClip({ strength: Math.min(most, clip.strength + 0.1) }),
          ArrowDown: () => this.changeClip({ strength: Math.max(0, clip.strength - 0.1) }),
          ...(e.altKey
            ? {
                ArrowLeft: () => this.changeClip({ start: clip.start - frame, end: clip.end - frame }),
                ArrowRight: () => this.changeClip({ start: clip.start + frame, end: clip.end + frame }),
              }
            : {}),
        };
        if (!control && map[key]) return (map[key](), true);
      }
      if (control && key === "v" && this.clipCopy) return (this.pasteClip(), true);
      if (!control && key === "s" && this.line && this.line.start !== null) return (this.splitLine(), true);
      if (e.altKey && !this.hasPick && this.line && (key === "ArrowLeft" || key === "ArrowRight")) return (this.nudgeLine(key === "ArrowRight" ? 1 : -1), true);
      return false;
    },
  };
}
