// The page of voices: to hear, to star, to bring neural ones, to take them away.
import Alpine from "@alpinejs/csp";
import { applyTheme, get, patch, post, remove, upload } from "./api.js";
import { favouriteVoices, withToggled } from "./favourite-voices.js";

applyTheme();
const shown = 120;
const names = new Intl.DisplayNames(["en"], { type: "language", fallback: "none" });
// Engines have tags that are none by the book: then the language alone is named.
function languageName(tag) {
  for (const known of [tag.split("-x-")[0], tag.split("-").slice(0, 2).join("-"), tag.split("-")[0]])
    try {
      const name = names.of(known);
      if (name) return name;
    } catch {
      /* the next, shorter one */
    }
  return tag;
}

// Files that belong together by their name: a model with its description.
function pairs(files) {
  const models = files.filter((f) => f.name.endsWith(".onnx"));
  const others = files.filter((f) => f.name.endsWith(".json"));
  return models.map((model) => {
    const name = model.name.slice(0, -".onnx".length);
    const named = others.find((f) => f.name === `${model.name}.json`);
    return { name, model, description: named ?? (models.length === 1 && others.length === 1 ? others[0] : null) };
  });
}

Alpine.data("voicesPage", () => ({
  voices: [],
  own: [],
  problems: [],
  engines: [],
  recognisers: [],
  sought: "",
  language: "",
  engine: "",
  words: "",
  error: "",
  hearing: "",
  bringing: null,
  isOver: false,
  stars: favouriteVoices(),
  audio: null,
  async init() {
    await this.load();
  },
  async load() {
    try {
      const [voices, own] = await Promise.all([get("/api/voices"), get("/api/voices/own")]);
      Object.assign(this, { voices, own: own.keys, problems: own.problems, engines: own.engines });
      this.recognisers = own.recognisers.map((r) => ({ ...r, name: languageName(r.language) }));
    } catch (e) {
      this.error = e.message;
    }
  },
  get writtenIn() {
    const names = ["English", ...this.recognisers.filter((r) => !r.problem).map((r) => r.name)];
    return new Intl.ListFormat("en").format(names) + ".";
  },
  get spoilt() {
    return this.recognisers.filter((r) => r.problem);
  },
  get missing() {
    return this.engines.filter((e) => !e.isThere);
  },
  get languages() {
    const keys = [...new Set(this.voices.map((v) => v.language.split("-")[0]))];
    return keys.map((key) => ({ key, name: languageName(key) })).sort((a, b) => a.name.localeCompare(b.name));
  },
  get fitting() {
    const sought = this.sought.trim().toLowerCase();
    const fits = (v) =>
      (!this.engine || v.key.startsWith(`${this.engine}:`)) &&
      (!this.language || v.language.split("-")[0] === this.language) &&
      (!sought || `${v.name} ${v.language} ${languageName(v.language)}`.toLowerCase().includes(sought));
    return this.voices.filter(fits);
  },
  // One's own first, then those with a star.
  get rows() {
    const rank = (v) => (this.own.includes(v.key) ? 0 : this.stars.includes(v.key) ? 1 : 2);
    return [...this.fitting]
      .sort((a, b) => rank(a) - rank(b))
      .slice(0, shown)
      .map((v) => ({
        ...v,
        isOwn: this.own.includes(v.key),
        isStarred: this.stars.includes(v.key),
        languageName: languageName(v.language),
        engineName: this.engines.find((e) => v.key.startsWith(`${e.key}:`))?.name ?? "",
      }));
  },
  get hidden() {
    return this.fitting.length - Math.min(shown, this.fitting.length);
  },
  get isEmpty() {
    return this.voices.length > 0 && this.fitting.length === 0;
  },
  star(voice) {
    this.stars = withToggled(this.stars, voice.key);
  },
  async hear(voice) {
    this.audio?.pause();
    // A second press is silence.
    if (this.hearing === voice.key) {
      this.hearing = "";
      return;
    }
    this.hearing = voice.key;
    this.error = "";
    try {
      const words = this.words.trim() ? `&text=${encodeURIComponent(this.words.trim())}` : "";
      const answer = await fetch(`/api/voices/sample?key=${encodeURIComponent(voice.key)}${words}`);
      if (!answer.ok) throw new Error((await answer.json()).error);
      if (this.hearing !== voice.key) return;
      this.audio = new Audio(URL.createObjectURL(await answer.blob()));
      this.audio.onended = () => (this.hearing = "");
      await this.audio.play();
    } catch (e) {
      this.hearing = "";
      this.error = e.message;
    }
  },
  pickFiles(event) {
    const files = [...event.target.files];
    event.target.value = "";
    return this.bring(files);
  },
  dropFiles(event) {
    this.isOver = false;
    return this.bring([...event.dataTransfer.files]);
  },
  async bring(files) {
    this.error = "";
    const found = pairs(files);
    if (this.bringing || files.length === 0) return;
    if (found.length === 0) this.error = "A voice's model ends in .onnx: bring it together with its .onnx.json.";
    for (const { name, model, description } of found)
      try {
        if (!description) throw new Error(`"${model.name}" came without "${model.name}.json": bring both together.`);
        const { ticket } = await post("/api/voices", { name, description: await description.text(), licence: null });
        this.bringing = { text: `${model.name} comes in and is tried…`, share: 0 };
        await upload(model, model.name, (share) => (this.bringing.share = share), `/api/voices/models?ticket=${ticket}`);
      } catch (e) {
        this.error = e.message;
      } finally {
        this.bringing = null;
      }
    await this.load();
  },
  async license(voice, licence) {
    try {
      await patch("/api/voices/licence", { key: voice.key, licence });
      await this.load();
    } catch (e) {
      this.error = e.message;
    }
  },
  async takeAway(voice) {
    const together = this.own.filter((k) => k.split(":").slice(0, 3).join(":") === voice.key.split(":").slice(0, 3).join(":")).length;
    const what = together > 1 ? `all ${together} voices of its file` : `"${voice.name}"`;
    if (!confirm(`Delete ${what}? What was said with it stays; new lines need another voice.`)) return;
    try {
      await remove(`/api/voices?key=${encodeURIComponent(voice.key)}`);
      await this.load();
    } catch (e) {
      this.error = e.message;
    }
  },
}));
Alpine.start();
