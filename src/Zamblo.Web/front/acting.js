// Moods and gestures on the score, and the timing of whole lines.
import { get, patch, post, remove } from "./api.js";
import { laneNames } from "./score.js";
import { StagePainter } from "./stage.js";

// tools: the score and the player.
export function acting(tools) {
  // Kept out of the component: Alpine would wrap frames in proxies.
  const preview = { painter: null, frames: new Map(), shapesOf: "", timer: 0 };

  return {
    clipId: null,
    clipIds: [],
    // Kept by the browser, so that what was copied can be laid in another scene or production as well.
    clipCopy: JSON.parse(localStorage.getItem("clip") ?? "null"),
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
    // With Ctrl held a clip joins those that are picked already.
    pickClip(id, more = false) {
      const ids = !id ? [] : !more ? [id] : this.clipIds.includes(id) ? this.clipIds.filter((i) => i !== id) : [...this.clipIds, id];
      this.clipIds = ids;
      this.clipId = ids.at(-1) ?? null;
      tools.score.clip = this.clipId;
      tools.score.clips = new Set(ids);
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
    setClipReplaces(event) {
      return this.changeClip({ replaces: event.target.checked });
    },
    setBlend(key, event) {
      return this.changeClip({ [key]: Number(event.target.value) });
    },
    setWalkTo(event) {
      return this.changeClip({ walkTo: Number(event.target.value) });
    },
    get walkText() {
      const x = this.clip?.walkTo ?? 0;
      return x < 0 ? "off to the left" : x > 1280 ? "off to the right" : `${Math.round((100 * x) / 1280)} % across`;
    },
    saveGesture() {
      return this.attempt(async () => {
        await post(`/api/clips/${this.clip.id}/save`, { name: this.clip.title });
        this.gestures = await get("/api/gestures");
        this.say(`${this.clip.title} is in the library, for any character.`, false);
      });
    },
    // ---- looks and places

    get lookChoices() {
      const others = (this.scene?.members ?? []).filter((m) => m.id !== this.selectedMember).map((m) => ({ key: m.id, name: m.roleName }));
      return [
        { key: "camera", name: "The camera" },
        ...others,
        { key: "left", name: "To the left" },
        { key: "right", name: "To the right" },
        { key: "up", name: "Up" },
        { key: "down", name: "Down" },
      ];
    },
    layLook(look) {
      const { member, start, end } = this.target;
      return this.layClip({ member, kind: "Look", name: look.key, start, end }, `Looks to ${look.name.replace(/^The|^To the/, (x) => x.toLowerCase())}.`);
    },
    get walkChoices() {
      return [
        { name: "To the left", to: 240 },
        { name: "To the middle", to: 640 },
        { name: "To the right", to: 1040 },
        { name: "Enters from the left", from: -240 },
        { name: "Enters from the right", from: 1520 },
        { name: "Off to the left", to: -240 },
        { name: "Off to the right", to: 1520 },
      ];
    },
    layWalk(walk) {
      // How long it takes, and where the member's own place is, the server knows.
      const order = { member: this.selectedMember, kind: "Walk", name: "walk", start: tools.player.position };
      return this.layClip({ ...order, walkTo: walk.to ?? null, walkFrom: walk.from ?? null }, `${walk.name}.`);
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
    deleteClips() {
      const { title } = this.clip;
      const ids = this.clipIds;
      return this.edit(
        async () => {
          await post(`/api/scenes/${this.sceneId}/clips/delete`, { revision: this.revision, ids });
          this.pickClip(null);
        },
        ids.length > 1 ? `${ids.length} clips deleted.` : `${title} deleted.`,
      );
    },
    joinClips() {
      return this.edit(async () => {
        const { id } = await post(`/api/scenes/${this.sceneId}/clips/join`, { revision: this.revision, ids: this.clipIds });
        this.pickClip(id);
      }, "Joined into one.");
    },
    lineUpClips() {
      return this.edit(
        () => post(`/api/scenes/${this.sceneId}/clips/line-up`, { revision: this.revision, ids: this.clipIds, gapFrames: Number(this.clipGap) }),
        "One after the other.",
      );
    },
    clipGap: 0,
    // Which clips the score shows, and which lanes are folded away.
    filterClips(event) {
      tools.score.filter = event.target.value || null;
      this.pickClip(null);
    },
    foldLane(kind) {
      const { folded } = tools.score;
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
    async copyClip() {
      const copied = { ...this.clip };
      if (copied.isOwn) copied.motion = await this.attempt(() => get(`/api/clips/${copied.id}/motion`));
      localStorage.setItem("clip", JSON.stringify(copied));
      this.clipCopy = copied;
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
          kind: c.kind[0].toUpperCase() + c.kind.slice(1),
          name: c.name,
          own: c.motion ?? null,
          replaces: c.replaces,
          walkTo: c.walkTo,
          walkFrom: c.walkFrom,
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
    dropGesture(gesture) {
      return this.attempt(async () => {
        await remove(`/api/gestures/${gesture.key.slice("saved:".length)}`);
        this.gestures = await get("/api/gestures");
        this.say(`${gesture.name} is out of the library; clips that have it keep it.`, false);
      });
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
    joinLine() {
      return this.edit(() => post(`/api/lines/${this.line.id}/join`, { revision: this.revision }), "Joined with the next line.");
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
      if (Math.abs(near - t) * tools.score.pixelsPerSecond < 7) return near;
      return Math.round(t * this.scene.fps) / this.scene.fps;
    },
    dragActing(drag, t, e) {
      if (drag.acting === "none") return;
      const by = t - drag.from;
      if (Math.abs(by) * tools.score.pixelsPerSecond < 4 && !drag.moved) return;
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
          Delete: () => this.deleteClips(),
          Backspace: () => this.deleteClips(),
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
