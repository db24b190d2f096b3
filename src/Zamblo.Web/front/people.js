// The page of people: who comes in, as what, and what happened.
import Alpine from "@alpinejs/csp";
import { applyTheme, call, get, patch, post, remove } from "./api.js";
import { teamsPanel } from "./teams.js";
import { canUsePasskeys, makePasskey } from "./passkeys.js";

applyTheme();
const roles = [
  { key: "Enters", name: "sees what its teams have" },
  { key: "Looks", name: "looks at productions and films" },
  { key: "Comments", name: "looks, and says something about them" },
  { key: "Acts", name: "works on productions" },
  { key: "Owns", name: "works, and lets people in" },
];
const wordsOf = (role) => roles.find((r) => r.key === role)?.name ?? role;
const shownFor = 2000;
const gigabyte = 2 ** 30;
const brought = (bytes) => (bytes < gigabyte ? `${Math.round(bytes / 2 ** 20)} MB` : `${(bytes / gigabyte).toFixed(1)} GB`);

Alpine.data("peoplePage", () => ({
  roles,
  role: "Acts",
  people: [],
  invitations: [],
  audit: [],
  link: "",
  copied: false,
  error: "",
  told: "",
  isOwner: false,
  passkeys: [],
  passkeyName: "",
  canUsePasskeys: canUsePasskeys(),
  async init() {
    this.isOwner = this.$el.dataset.owner === "yes";
    if (this.$el.dataset.door === "yes") await this.loadPasskeys();
    if (this.isOwner) await this.load();
  },
  async loadPasskeys() {
    const all = await get("/api/me/passkeys");
    this.passkeys = all.map((k) => ({ ...k, text: `${k.name}, since ${new Date(k.created).toLocaleDateString()}` }));
  },
  addPasskey() {
    return this.tell(async () => {
      try {
        const credential = await makePasskey(await post("/api/me/passkeys/options"));
        await post("/api/me/passkeys", { name: this.passkeyName, credential });
        this.passkeyName = "";
      } catch (e) {
        // Whoever closes the device's dialog has changed their mind.
        if (e.name !== "NotAllowedError") throw e;
      }
      await this.loadPasskeys();
    });
  },
  dropPasskey(key) {
    return this.tell(async () => {
      await remove(`/api/me/passkeys/${key.id}`);
      await this.loadPasskeys();
    });
  },
  async load() {
    const view = await get("/api/people");
    this.people = view.people.map((p) => ({
      ...p,
      quota: p.quotaBytes === null ? "" : String(Math.round((10 * p.quotaBytes) / gigabyte) / 10),
      brought: brought(p.broughtBytes),
    }));
    this.invitations = view.invitations.map((i) => ({
      ...i,
      text: `Somebody who ${wordsOf(i.role)}${i.team ? ` in the team "${i.team}"` : ""}, invited by ${i.by}, until ${new Date(i.expires).toLocaleString()}`,
    }));
    this.audit = view.audit.map((a, n) => ({ ...a, key: n, when: new Date(a.at).toLocaleString() }));
  },
  reload() {
    if (this.isOwner) return this.load();
  },
  async tell(work) {
    this.error = "";
    try {
      await work();
    } catch (e) {
      this.error = e.message;
    }
    if (this.isOwner) await this.load();
    this.$dispatch("people-changed");
  },
  invite() {
    return this.tell(async () => {
      this.link = location.origin + (await post("/api/people/invitations", { role: this.role })).path;
    });
  },
  async copy() {
    await navigator.clipboard.writeText(this.link);
    this.copied = true;
    setTimeout(() => (this.copied = false), shownFor);
  },
  revoke(invitation) {
    return this.tell(() => remove(`/api/people/invitations/${invitation.id}`));
  },
  change(person, event) {
    return this.tell(() => patch(`/api/people/${person.id}`, { role: event.target.value }));
  },
  allow(person, event) {
    return this.tell(() => patch(`/api/people/${person.id}`, { quotaBytes: gigabyte * (Number(event.target.value) || 0) }));
  },
  takeOut(person) {
    if (!confirm(`${person.name} does not come in any more; what was done stays. Take ${person.name} out?`)) return;
    return this.tell(() => remove(`/api/people/${person.id}`));
  },
  changePassword(event) {
    const form = event.target;
    return this.tell(async () => {
      this.told = "";
      await call("PUT", "/api/me/password", { old: form.elements.old.value, now: form.elements.now.value });
      form.reset();
      this.told = "Changed. Your other browsers have to sign in again.";
    });
  },
}));
Alpine.data("teamsPanel", teamsPanel(roles));
Alpine.start();
