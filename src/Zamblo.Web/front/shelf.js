import Alpine from "@alpinejs/csp";
import { applyTheme, call, get, patch, post, remove, toggleTheme } from "./api.js";

applyTheme();

// So many come at a time: the next ones when the end is in sight.
const page = 60;
// With so many, somebody looks for one by its name.
const many = 12;
// Stands for no team.
const everybody = "00000000-0000-0000-0000-000000000000";
const lastTeam = "shelf-team";
const roles = ["Enters", "Looks", "Comments", "Acts", "Owns"];
const works = (role, least) => roles.indexOf(role) >= roles.indexOf(least);

Alpine.data("shelf", () => ({
  cards: [],
  total: 0,
  wanted: page,
  find: "",
  loaded: false,
  error: "",
  renaming: null,
  title: "",
  toast: null,
  // Those that one is in, and what one may do with what is everybody's.
  teams: [],
  studio: "Owns",
  team: "",

  async init() {
    Object.assign(this, await get("/api/teams").catch(() => ({})));
    // Where one was last, if one still is.
    const last = localStorage.getItem(lastTeam) ?? "";
    this.team = this.whose.some((w) => w.id === last) ? last : "";
    await this.reload();
    this.loaded = true;
    new IntersectionObserver((seen) => seen.some((s) => s.isIntersecting) && this.hasMore && this.more(), { rootMargin: "600px" }).observe(this.$refs.end);
    // The demo's voices arrive a moment after the first start.
    this.timer = setInterval(() => this.renaming === null && this.reload(), 4000);
  },
  async reload() {
    try {
      const { find: found, team } = this;
      const cards = [];
      let total = 1;
      while (cards.length < Math.min(this.wanted, total)) {
        const count = Math.min(this.wanted - cards.length, 500);
        const part = await get(`/api/productions?from=${cards.length}&count=${count}&find=${encodeURIComponent(found)}${team && `&team=${team}`}`);
        total = part.total;
        if (part.cards.length === 0) break;
        cards.push(...part.cards);
      }
      // What was asked for meanwhile is on its way.
      if (found !== this.find || team !== this.team) return;
      for (const card of cards) {
        card.picture = `/api/productions/${card.id}/picture?r=${card.revision}`;
        card.address = `/production/${card.id}`;
        card.about = `${card.members === 1 ? "1 cast member" : `${card.members} cast members`}, ${card.lines === 1 ? "1 line" : `${card.lines} lines`}`;
        card.team ??= everybody;
        // Who owns where it is gives it to where they work.
        card.mayGive = this.whose.length > 1 && works(this.roleIn(card.team), "Owns");
        card.whose = this.whose.length > 1 ? (this.whose.find((w) => w.id === card.team)?.name ?? "") : "";
      }
      Object.assign(this, { total, cards, error: "" });
    } catch (e) {
      this.error = e.message;
    }
  },
  roleIn(team) {
    return team === everybody ? this.studio : this.teams.find((t) => t.id === team)?.role;
  },
  // Whose productions there may be: everybody's, and each team's.
  get whose() {
    const own = this.teams.map((t) => ({ id: t.id, name: t.name }));
    return this.studio === "Enters" ? own : [{ id: everybody, name: "Everybody" }, ...own];
  },
  get hasTeams() {
    return this.teams.length > 0;
  },
  get hasNoTeam() {
    return this.studio === "Enters" && this.teams.length === 0;
  },
  chooseTeam(event) {
    this.team = event.target.value;
    localStorage.setItem(lastTeam, this.team);
    return this.look();
  },
  give(card, event) {
    const to = event.target.value;
    return this.attempt(async () => {
      await call("PUT", `/api/productions/${card.id}/team`, { team: to === everybody ? null : to });
      await this.reload();
    });
  },
  get hasMore() {
    return this.cards.length < this.total;
  },
  get isEmpty() {
    return this.loaded && this.cards.length === 0 && !this.find && !this.hasNoTeam;
  },
  get isNotFound() {
    return this.loaded && this.cards.length === 0 && this.find !== "";
  },
  get canFind() {
    return this.total > many || this.find !== "";
  },
  get moreText() {
    return `Show more (${this.cards.length} of ${this.total})`;
  },
  more() {
    this.wanted = this.cards.length + page;
    return this.reload();
  },
  look() {
    this.wanted = page;
    return this.reload();
  },
  async attempt(work) {
    try {
      this.error = "";
      await work();
    } catch (e) {
      this.error = e.message;
    }
  },
  create() {
    return this.attempt(async () => {
      const { id } = await post("/api/productions", { team: this.team || null });
      location.href = `/production/${id}`;
    });
  },
  isOpening: false,
  openFile(event) {
    const [file] = event.target.files;
    if (!file) return;
    event.target.value = "";
    return this.attempt(async () => {
      this.isOpening = true;
      try {
        const { id } = await post(`/api/archives${this.team && `?team=${this.team}`}`, file);
        location.href = `/production/${id}`;
      } finally {
        this.isOpening = false;
      }
    });
  },
  startRename(card) {
    this.renaming = card.id;
    this.title = card.title;
    this.$nextTick(() => document.getElementById(`title-${card.id}`)?.select());
  },
  rename(card) {
    if (this.renaming !== card.id) return;
    this.renaming = null;
    const title = this.title.trim();
    if (!title || title === card.title) return;
    return this.attempt(async () => {
      await patch(`/api/productions/${card.id}`, { title });
      await this.reload();
    });
  },
  stopRename() {
    this.renaming = null;
  },
  duplicate(card) {
    return this.attempt(async () => {
      await post(`/api/productions/${card.id}/duplicate`);
      await this.reload();
    });
  },
  bin(card) {
    return this.attempt(async () => {
      await remove(`/api/productions/${card.id}`);
      await this.reload();
      this.toast = { id: card.id, text: `"${card.title}" is off the shelf.` };
    });
  },
  restore() {
    const { id } = this.toast;
    this.toast = null;
    return this.attempt(async () => {
      await post(`/api/productions/${id}/restore`);
      await this.reload();
    });
  },
  closeToast() {
    this.toast = null;
  },
  theme() {
    toggleTheme();
  },
}));

Alpine.start();
