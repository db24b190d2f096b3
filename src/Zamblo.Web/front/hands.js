// Hand work on the score: picking cues, words and stretches; what is done to them; touch-ups and saved motion.
import { call, get, patch, post, remove, upload } from "./api.js";

// Keys of the fourteen shapes, in the order of the picker.
const shapeKeys = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "a", "e", "w", "r", "u"];

// Adds members to a component, getters included.
export function mix(target, ...sources) {
  for (const source of sources)
    for (const [name, member] of Object.entries(Object.getOwnPropertyDescriptors(source))) {
      // One would silently take the other's place.
      if (Object.hasOwn(target, name)) throw new Error(`Two parts of the page have a member "${name}".`);
      Object.defineProperty(target, name, member);
    }
  return target;
}

// tools: the score, the player, and showing one frame that is not kept.
export function hands(tools) {
  return {
    picked: { line: null, cues: [], range: null, word: -1 },
    wordDraft: "",
    soundDraft: "",
    heardAs: "",
    clipboard: null,
    places: { open: false, text: "", list: [], line: null, word: -1 },
    savedMouths: [],
    motionName: "",
    strengthShown: 1,

    // ---- picking

    pick(change) {
      Object.assign(this.picked, { line: null, cues: [], range: null, word: -1 }, change);
      this.syncPick();
      const word = this.pickedWord;
      this.wordDraft = word?.[0] ?? "";
      this.soundDraft = this.respellingOf(this.wordDraft)?.written ?? "";
      this.heardAs = this.respellingOf(this.wordDraft)?.phones ?? this.phonesOfWord.map((p) => p[0]).join(" ");
      this.strengthShown = this.meanStrength;
    },
    syncPick() {
      const { line, cues, range, word } = this.picked;
      tools.score.selection = { line, cues: new Set(cues), range: range && { ...range }, word };
    },
    unpick() {
      this.pick({});
    },
    // After an edit: the same cues again, found by their touch-ups or their numbers.
    repick(touched) {
      const line = this.pickedLine;
      if (!line) return this.unpick();
      const cues = touched?.length
        ? line.cues.filter((c) => touched.includes(c[6])).map((c) => c[5])
        : this.picked.cues.filter((n) => line.cues.some((c) => c[5] === n));
      this.pick({ ...this.picked, cues, range: null });
    },
    get pickedLine() {
      return this.scene?.lines.find((l) => l.id === this.picked.line) ?? null;
    },
    get pickedCues() {
      return this.pickedLine?.cues?.filter((c) => this.picked.cues.includes(c[5])) ?? [];
    },
    get pickedWord() {
      return this.picked.word >= 0 ? (this.pickedLine?.words?.[this.picked.word] ?? null) : null;
    },
    get phonesOfWord() {
      const word = this.pickedWord;
      if (!word) return [];
      return this.pickedLine.phones.filter((p) => (p[1] + p[2]) / 2 >= word[1] && (p[1] + p[2]) / 2 < word[2]);
    },
    get hasPick() {
      return this.picked.cues.length > 0 || this.picked.word >= 0 || this.picked.range !== null;
    },
    get pickText() {
      const cues = this.pickedCues;
      const where = this.pickedWord ? `“${this.pickedWord[0]}”` : this.picked.range ? `${(this.picked.range.end - this.picked.range.start).toFixed(2)} s` : "";
      if (cues.length === 1) return `${where} ${cues[0][4]}`.trim();
      return cues.length > 1 ? `${where} ${cues.length} cues`.trim() : where;
    },
    cuesIn(line, start, end) {
      return (line.cues ?? []).filter((c) => (c[1] + c[2]) / 2 >= start && (c[1] + c[2]) / 2 < end).map((c) => c[5]);
    },
    pickWord(line, word) {
      const w = line.words?.[word];
      if (w) this.pick({ line: line.id, word, cues: this.cuesIn(line, w[1], w[2]) });
    },
    pickLine() {
      const line = this.line;
      if (line?.cues) this.pick({ line: line.id, cues: line.cues.map((c) => c[5]) });
    },
    pickCue(line, cue, add, extend) {
      const same = this.picked.line === line.id;
      let cues = [cue[5]];
      if (add && same) cues = this.picked.cues.includes(cue[5]) ? this.picked.cues.filter((n) => n !== cue[5]) : [...this.picked.cues, cue[5]];
      if (extend && same && this.picked.cues.length) {
        const first = Math.min(cue[5], ...this.picked.cues);
        const last = Math.max(cue[5], ...this.picked.cues);
        cues = line.cues.map((c) => c[5]).filter((n) => n >= first && n <= last);
      }
      const middle = (cue[1] + cue[2]) / 2;
      const word = cues.length === 1 ? (line.words ?? []).findIndex((w) => middle >= w[1] && middle < w[2]) : -1;
      this.pick({ line: line.id, cues, word });
    },
    stepCue(direction) {
      const line = this.pickedLine ?? this.line ?? this.scene.lines.find((l) => l.cues?.length);
      if (!line?.cues?.length) return;
      const local = tools.player.position - line.start;
      const at = this.picked.cues.length
        ? line.cues.findIndex((c) => c[5] === this.picked.cues[0]) + direction
        : direction > 0
          ? line.cues.findIndex((c) => c[1] >= local)
          : line.cues.findLastIndex((c) => c[2] <= local);
      const cue = line.cues[Math.max(0, Math.min(line.cues.length - 1, at))];
      this.pickCue(line, cue);
      this.goTo(line.start + (cue[1] + cue[2]) / 2);
    },
    playPick() {
      const line = this.pickedLine;
      if (!line) return;
      const spans = this.picked.range ? [[0, this.picked.range.start, this.picked.range.end]] : this.pickedWord ? [this.pickedWord] : this.pickedCues;
      if (!spans.length) return;
      const start = Math.min(...spans.map((s) => s[1]));
      const end = Math.max(...spans.map((s) => s[2]));
      this.setLoop({ start: Math.max(0, line.start + start - 0.05), end: line.start + end + 0.05 });
      tools.player.position = this.loop.start;
      tools.player.play();
    },

    // ---- cues

    get shapeChoices() {
      const character = this.scene?.members.find((m) => m.id === this.pickedLine?.member)?.character;
      const now = this.pickedCues;
      if (!character) return [];
      return this.scene.shapes.map((name, i) => ({
        name,
        key: shapeKeys[i].toUpperCase(),
        picture: `/api/characters/${character}/mouths/${name}`,
        isNow: now.length > 0 && now.every((c) => c[4] === name),
      }));
    },
    get meanStrength() {
      const cues = this.pickedCues.filter((c) => c[4] !== "Rest");
      return cues.length ? cues.reduce((sum, c) => sum + c[3], 0) / cues.length : 1;
    },
    get isTouched() {
      return this.pickedCues.some((c) => c[6]);
    },
    async editCues(operation, extra = {}) {
      const { line, cues } = this.picked;
      if (!line || !cues.length) return;
      await this.touch(() => post(`/api/lines/${line}/cues`, { revision: this.revision, operation, cues: [...cues], ...extra }));
    },
    // Runs an edit and finds what was picked again.
    async touch(work, say) {
      const done = await this.attempt(work);
      if (done === null) return;
      await this.reload();
      this.repick(done.touched);
      this.hurry();
      if (say) this.say(say);
    },
    setShape(name) {
      if (this.picked.cues.length) return this.editCues("Shape", { shape: name });
      return this.putShape(name);
    },
    // A shape, or a shut mouth, where a stretch is picked.
    putShape(shape) {
      const { line, range } = this.picked;
      if (!line || !range) return;
      return this.touch(() => post(`/api/lines/${line}/shape`, { revision: this.revision, shape, start: range.start, end: range.end }));
    },
    shutMouth() {
      if (this.picked.range) return this.putShape("Rest");
      const cues = this.pickedCues;
      if (!cues.length) return;
      const { line } = this.picked;
      return this.touch(() =>
        post(`/api/lines/${line}/shape`, {
          revision: this.revision,
          shape: "Rest",
          start: Math.min(...cues.map((c) => c[1])),
          end: Math.max(...cues.map((c) => c[2])),
        }),
      );
    },
    setStrength(event) {
      const by = Number(event.target.value) / Math.max(0.05, this.meanStrength);
      return this.editCues("Strength", { by });
    },
    strengthen() {
      return this.editCues("Strength", { by: 1.15 });
    },
    weaken() {
      return this.editCues("Strength", { by: 1 / 1.15 });
    },
    nudge(direction) {
      return this.editCues("Move", { by: direction / this.scene.fps });
    },
    takeOut() {
      return this.editCues("Remove");
    },
    resetCues() {
      return this.editCues("Reset");
    },
    get strengthText() {
      return `${Math.round(this.strengthShown * 100)} %`;
    },
    showStrength(event) {
      this.strengthShown = Number(event.target.value);
      this.tryEdit("Strength", { by: this.strengthShown / Math.max(0.05, this.meanStrength) });
    },
    tryShape(name) {
      return this.tryEdit("Shape", { shape: name });
    },
    // Shows on the stage what an edit would do in this frame; nothing is kept.
    tryEdit(operation, extra) {
      const { line, cues } = this.picked;
      if (line && cues.length) return this.tryFrame({ line, operation, cues: [...cues], ...extra });
    },
    async tryFrame(body) {
      const turn = (this.tryTurn = (this.tryTurn ?? 0) + 1);
      try {
        const answer = await post(`/api/scenes/${this.sceneId}/try`, { frame: this.frameToTry, ...body });
        if (turn === this.tryTurn) tools.showOnce(answer);
      } catch {
        /* a look that failed is no error to tell */
      }
    },
    // The frame on the stage, or where the playhead is elsewhere the middle of what is picked.
    get frameToTry() {
      const cues = this.pickedCues;
      if (!cues.length) return this.frame;
      const start = this.pickedLine.start + Math.min(...cues.map((c) => c[1]));
      const end = this.pickedLine.start + Math.max(...cues.map((c) => c[2]));
      const t = this.frame / this.scene.fps;
      return t >= start && t < end ? this.frame : Math.min(this.scene.frames - 1, Math.round(((start + end) / 2) * this.scene.fps));
    },
    endTry() {
      this.tryTurn = (this.tryTurn ?? 0) + 1;
      tools.showAgain();
    },

    // ---- copy and paste

    copyPick() {
      const cues = this.pickedCues;
      const { line, range } = this.picked;
      if (!cues.length && !range) return;
      const start = range ? range.start : Math.min(...cues.map((c) => c[1]));
      const end = range ? range.end : Math.max(...cues.map((c) => c[2]));
      this.clipboard = { line, start, end };
      this.clipCopy = null;
      this.say(`Copied: ${this.pickText}`, false);
    },
    paste() {
      if (!this.clipboard) return;
      const target = this.pickedLine ?? this.lineAtPlayhead ?? this.line;
      if (!target) return;
      // On a picked word, else at the playhead.
      const word = this.pickedWord;
      const at = word ? word[1] : this.pickedCues.length ? this.pickedCues[0][1] : tools.player.position - target.start;
      const { line: source, start, end } = this.clipboard;
      return this.touch(() => post(`/api/lines/${target.id}/paste`, { revision: this.revision, source, start, end, at: Math.max(0, at) }), "Pasted.");
    },
    get lineAtPlayhead() {
      const t = tools.player.position;
      return this.scene.lines.find((l) => l.start !== null && t >= l.start && t < l.start + l.duration) ?? null;
    },

    // ---- everywhere a word is said

    get canApplyEverywhere() {
      const word = this.pickedWord;
      return word !== null && this.pickedLine.cues.some((c) => c[6] && (c[1] + c[2]) / 2 >= word[1] && (c[1] + c[2]) / 2 < word[2]);
    },
    openPlaces() {
      const { line, word } = this.picked;
      return this.attempt(async () => {
        const { text, places } = await get(`/api/lines/${line}/words/${word}/elsewhere`);
        Object.assign(this.places, { open: true, text, line, word, list: places.map((p, i) => ({ ...p, key: i, chosen: true })) });
        this.$refs.places.showModal();
      });
    },
    closePlaces() {
      this.$refs.places.close();
    },
    togglePlace(place) {
      place.chosen = !place.chosen;
    },
    get chosenPlaces() {
      return this.places.list.filter((p) => p.chosen);
    },
    get placesText() {
      const n = this.places.list.length;
      return n === 0 ? `“${this.places.text}” is said nowhere else in this scene.` : `“${this.places.text}” is said ${n} more ${n === 1 ? "time" : "times"}.`;
    },
    applyEverywhere() {
      const { line, word } = this.places;
      const places = this.chosenPlaces.map((p) => ({ line: p.line, word: p.word }));
      this.closePlaces();
      return this.touch(
        () => post(`/api/lines/${line}/words/${word}/apply`, { revision: this.revision, places }),
        `Applied in ${places.length} ${places.length === 1 ? "place" : "places"}.`,
      );
    },

    // ---- touch-ups

    get touches() {
      return (this.pickedLine ?? this.line)?.touches ?? [];
    },
    switchTouch(touch) {
      return this.touch(() => post(`/api/scenes/${this.sceneId}/touches/switch`, { revision: this.revision, ids: [touch.id], on: !touch.on }));
    },
    switchAll() {
      const on = !this.touches.some((t) => t.on);
      return this.touch(() => post(`/api/scenes/${this.sceneId}/touches/switch`, { revision: this.revision, ids: this.touches.map((t) => t.id), on }));
    },
    get switchText() {
      return this.touches.some((t) => t.on) ? "All off" : "All on";
    },
    liftTouch(touch) {
      return this.touch(() => post(`/api/scenes/${this.sceneId}/touches/reset`, { revision: this.revision, ids: [touch.id] }), "Touch-up lifted off.");
    },
    goToTouch(touch) {
      const line = this.pickedLine ?? this.line;
      const cues = line.cues.filter((c) => c[6] === touch.id).map((c) => c[5]);
      this.pick({ line: line.id, cues });
      this.goTo(line.start + (touch.start + touch.end) / 2);
    },

    // ---- words

    respellingOf(word) {
      const plain = word?.toLowerCase().replace(/[^\p{L}\p{N}']/gu, "");
      return this.scene?.respellings.find((r) => r.word === plain) ?? null;
    },
    // The words of a line as text, with one of them, or two, written anew.
    textWith(line, word, text, count = 1) {
      const spans = line.parts.reduce(
        (list, part) => {
          const start = list.at;
          list.at += part.text.length;
          if (part.word >= 0) list.push({ word: part.word, start, end: list.at });
          return list;
        },
        Object.assign([], { at: 0 }),
      );
      const first = spans.find((s) => s.word === word);
      const last = spans.findLast((s) => s.word < word + count && s.word >= word);
      return first ? line.written.slice(0, first.start) + text + line.written.slice(last.end) : line.written;
    },
    saveWord() {
      const line = this.pickedLine;
      const text = this.wordDraft.trim();
      if (!line || text === this.pickedWord[0]) return;
      const whole = this.textWith(line, this.picked.word, text);
      return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, text: whole }), text ? "Word changed." : "Word taken out.");
    },
    joinWords() {
      const line = this.pickedLine;
      const { word } = this.picked;
      const next = line?.words[word + 1];
      if (!next) return;
      const whole = this.textWith(line, word, line.words[word][0] + next[0], 2);
      return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, text: whole }), "Words joined.");
    },
    saveSound() {
      if (!this.pickedWord) return;
      const written = this.soundDraft.trim();
      if (written === (this.respellingOf(this.pickedWord[0])?.written ?? "")) return;
      const word = this.pickedWord[0];
      return this.touch(
        () => call("PUT", `/api/productions/${this.scene.production.id}/respellings`, { revision: this.revision, word, written }),
        `“${word}” is listened to anew.`,
      );
    },
    hearSound() {
      const voice = this.scene.members.find((m) => m.id === this.pickedLine?.member)?.voice ?? "espeak:en-us";
      return this.attempt(async () => {
        const { phones, sound } = await post("/api/hear", {
          voice: voice.startsWith("espeak:") ? voice : "espeak:en-us",
          word: this.pickedWord[0],
          written: this.soundDraft,
        });
        this.heardAs = phones;
        tools.player.playBytes(Uint8Array.from(atob(sound), (c) => c.charCodeAt(0)).buffer);
      });
    },
    pinBoundary(line, boundary, time) {
      let { index: word, at } = boundary;
      let phone = at === "start" ? 0 : 999;
      if (boundary.isPhone) {
        // A phone's edge as the place of a phone within its word.
        const edge = line.phones[boundary.index];
        const middle = (edge[1] + edge[2]) / 2;
        word = line.words.findIndex((w) => middle >= w[1] && middle < w[2]);
        if (word < 0) return;
        const own = line.phones.filter((p) => (p[1] + p[2]) / 2 >= line.words[word][1] && (p[1] + p[2]) / 2 < line.words[word][2]);
        phone = own.indexOf(edge) + (at === "end" ? 1 : 0);
      }
      return this.touch(
        () => post(`/api/lines/${line.id}/pins`, { revision: this.revision, word, phone, time }),
        "Boundary set; its neighbours are aligned again.",
      );
    },
    liftPins() {
      const line = this.pickedLine ?? this.line;
      return this.touch(() => post(`/api/lines/${line.id}/pins/lift`, { revision: this.revision, ids: [], on: false }));
    },

    // ---- voice or not

    markRange(isVoice) {
      const line = this.pickedLine;
      const { range } = this.picked;
      if (!line?.take || !range) return;
      return this.touch(() => post(`/api/takes/${line.take.id}/marks`, { revision: this.revision, start: range.start, end: range.end, isVoice }));
    },
    markVoice() {
      return this.markRange(true);
    },
    markQuiet() {
      return this.markRange(false);
    },
    get marks() {
      return (
        (this.pickedLine ?? this.line)?.marks?.map((m) => ({
          ...m,
          text: `${m.isVoice ? "Voice" : "Not voice"}, ${m.start.toFixed(2)} to ${m.end.toFixed(2)} s`,
        })) ?? []
      );
    },
    liftMark(mark) {
      const line = this.pickedLine ?? this.line;
      return this.touch(() => post(`/api/takes/${line.take.id}/marks/${mark.id}/lift`, { revision: this.revision, ids: [], on: false }));
    },

    // ---- times in and out, motion of whole lines

    timesUrl(format) {
      return this.line ? `/api/lines/${this.line.id}/times?format=${format}` : "#";
    },
    bringTimes(event) {
      const file = event.target.files[0];
      event.target.value = "";
      if (!file || !this.line) return;
      return this.edit(() => call("POST", `/api/lines/${this.line.id}/times?revision=${this.revision}`, file), "The times of the file are in use.");
    },
    // Sound that drives the mouth and is not heard: the clean vocal of a song.
    bringGuide(event) {
      const file = event.target.files[0];
      event.target.value = "";
      if (!file || !this.line?.take) return;
      return this.edit(async () => {
        const { hash, name } = await upload(file, file.name, () => {});
        return post(`/api/takes/${this.line.take.id}/guide`, { revision: this.revision, hash, name });
      }, "The mouth follows the guide.");
    },
    dropGuide() {
      return this.edit(() => post(`/api/takes/${this.line.take.id}/guide`, { revision: this.revision }), "The mouth follows the take again.");
    },
    async loadMotions() {
      await this.attempt(async () => (this.savedMouths = await get("/api/motions")));
    },
    saveMotion() {
      const name = this.motionName.trim() || `${this.line.role}: ${(this.line.written || "line").slice(0, 30)}`;
      return this.attempt(async () => {
        await post("/api/motions", { line: this.line.id, name });
        this.motionName = "";
        await this.loadMotions();
        this.say("Mouth saved; it can be laid on any line.", false);
      });
    },
    layMotion(motion) {
      if (!this.line) return;
      this.picked.line = this.line.id;
      return this.touch(() => post(`/api/lines/${this.line.id}/lay`, { revision: this.revision, motion: motion.id }), `“${motion.name}” laid on the line.`);
    },
    dropMotion(motion) {
      return this.attempt(async () => {
        await remove(`/api/motions/${motion.id}`);
        await this.loadMotions();
      });
    },

    // ---- pointer

    // What a drag from here does; null where the score has nothing to take.
    takeHold(hit, e) {
      const { score } = tools;
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
      score.drag = null;
      return { range: true, line: hit.line.id, from, dx: 0 };
    },
    // Frames and words' edges attract, unless Alt is held.
    snap(line, t, e) {
      if (e.altKey) return t;
      const { score } = tools;
      const edges = [...(line.words ?? []), ...(score.showsPhones(line) ? line.phones : [])].flatMap((w) => [w[1], w[2]]);
      const near = edges.reduce((best, x) => (Math.abs(x - t) < Math.abs(best - t) ? x : best), Infinity);
      if (Math.abs(near - t) * score.pixelsPerSecond < 6) return near;
      return Math.round((line.start + t) * this.scene.fps) / this.scene.fps - line.start;
    },
    dragTo(drag, t, e) {
      const line = this.scene.lines.find((l) => l.id === drag.line);
      if (!line) return;
      const local = Math.max(0, Math.min(line.duration, t - line.start));
      if (Math.abs(local - drag.from) * tools.score.pixelsPerSecond < 4 && !drag.moved) return;
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
    async letGo(drag, t) {
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
      else if (drag.cues && drag.dx) await this.editCues(drag.edge || "Move", { by: drag.dx });
    },

    // ---- keys

    handKey(e) {
      const control = e.ctrlKey || e.metaKey;
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
      const picked = this.picked.cues.length > 0;
      if (control) {
        if (key === "a") return (this.pickLine(), true);
        if (key === "c" && this.hasPick) return (this.copyPick(), true);
        if (key === "v" && this.clipboard) return (this.paste(), true);
        return false;
      }
      if (key === "," || key === ".") return (this.stepCue(key === "." ? 1 : -1), true);
      if (key === "Escape" && this.hasPick) return (this.unpick(), true);
      if (!picked && !this.picked.range) return false;
      const shape = shapeKeys.indexOf(key);
      if (shape >= 0) return (this.setShape(this.scene.shapes[shape]), true);
      const map = {
        m: () => this.shutMouth(),
        Enter: () => this.playPick(),
        ...(picked
          ? {
              Delete: () => this.takeOut(),
              Backspace: () => this.resetCues(),
              ArrowUp: () => this.strengthen(),
              ArrowDown: () => this.weaken(),
              ...(e.altKey ? { ArrowLeft: () => this.nudge(-1), ArrowRight: () => this.nudge(1) } : {}),
            }
          : {}),
      };
      if (!map[key]) return false;
      map[key]();
      return true;
    },
  };
}
