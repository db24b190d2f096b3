// The page's own edits go one after another, each on the state that the one before has left: four presses of a key are four steps, and nobody is
// told that somebody else was here when it was only quick fingers.
import { post } from "../../front/api.js";

export const edits = () => ({
  // How many wait or are on the way.
  waiting: 0,
  // What a hand has set and the server has not confirmed yet, by the name of the dial.
  held: {},

  get revision() {
    return this.scene.production.revision;
  },

  // A request that changes no scene, or waits for nothing.
  async attempt(work) {
    try {
      this.error = "";
      return await work();
    } catch (e) {
      this.error = e.message;
      return null;
    }
  },

  // work is called when its turn has come, and reads the scene as it is then. With a key it takes the place of one of the same key that still waits.
  // Gives what the server said, or null where it refused; a field keeps what was typed into it then.
  edit(work, say, { key = null, value = null, touched = false, field = null } = {}) {
    this.queue ??= [];
    const at = key === null ? -1 : this.queue.findIndex((e) => e.key === key);
    const entry = { work, say, key, value, touched, field, typed: field?.value };
    entry.done = new Promise((resolve) => (entry.resolve = resolve));
    if (at >= 0) {
      const [old] = this.queue.splice(at, 1, entry);
      entry.done.then(old.resolve);
    } else this.queue.push(entry);
    this.waiting = this.queue.length;
    this.draining ??= this.drain().finally(() => (this.draining = null));
    return entry.done;
  },
  // An edit of what is picked: it is found again afterwards.
  touch(work, say) {
    return this.edit(work, say, { touched: true });
  },
  async drain() {
    while (this.queue.length) {
      const entry = this.queue.shift();
      this.waiting = this.queue.length + 1;
      let done = null;
      try {
        done = (await entry.work()) ?? {};
      } catch (e) {
        this.refused = e.message;
      }
      await this.reload();
      if (entry.touched && done) this.repick(done.touched);
      // What the hand let go of is what is there now, or was refused; what it has turned further since is still the hand's.
      if (entry.key !== null && this.held[entry.key] === entry.value) delete this.held[entry.key];
      this.error = this.refused ?? "";
      this.refused = null;
      if (entry.say && done) this.say(done.said ?? entry.say);
      // What was typed and refused stays in its field.
      if (!done && entry.field) await this.$nextTick().then(() => (entry.field.value = entry.typed));
      entry.resolve(done);
    }
    this.waiting = 0;
    // News that came meanwhile.
    if (this.newest > this.revision) await this.reload();
  },

  // ---- dials: while one is turned its value is the hand's

  hold(key, value) {
    this.held[key] = value;
  },
  letGo(key, value, work, say) {
    this.held[key] = value;
    return this.edit(work, say, { key, value });
  },
  // Rows of dials: name, least, most, step, unit, what it does; scope tells the same dials of two members apart, whom says what it applies to.
  rows(texts, values, scope = "", whom = "") {
    if (!values) return [];
    return Object.entries(texts).map(([key, [name, min, max, step, unit, says]]) => {
      const held = `${scope}${key}`;
      const value = this.held[held] ?? values[key];
      const text = unit === "ms" ? `${Math.round(value * 1000)} ms` : unit ? `${value} ${unit}` : step >= 1 ? `${value}` : value.toFixed(2).replace(/0$/, "");
      return { key, held, name, min, max, step, value, text, says: says ? `${says} ${whom}`.trim() : "" };
    });
  },

  // ---- undo and redo wait for their turn like any edit

  undo() {
    return this.travel("undo", "Undone");
  },
  redo() {
    return this.travel("redo", "Done again");
  },
  travel(way, said) {
    return this.edit(async () => {
      if (!this.scene[way]) return {};
      const { name } = await post(`/api/productions/${this.scene.production.id}/${way}`, { revision: this.revision });
      if (name) this.say(`${said}: ${name}`, false);
      return {};
    });
  },

  // ---- what is told

  say(text, undo = true) {
    this.toast = { text, undo };
    clearTimeout(this.toastTimer);
    this.toastTimer = setTimeout(() => (this.toast = null), 7000);
  },
  closeToast() {
    this.toast = null;
  },
  dismissError() {
    this.error = "";
  },
});
