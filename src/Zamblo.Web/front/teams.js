// Teams on the page of people: who is in them, and as what.
import { call, get, patch, post, remove } from "./api.js";

export const teamsPanel = (roles) => () => ({
  // Whoever is in a team looks, at least.
  roles: roles.filter((r) => r.key !== "Enters").map((r) => (r.key === "Owns" ? { ...r, name: "works, and says who is in it" } : r)),
  teams: [],
  names: [],
  error: "",
  link: "",
  linkOf: "",
  init() {
    return this.load();
  },
  async load() {
    const { teams, studio } = await get("/api/teams");
    this.teams = teams
      .filter((t) => t.people)
      .map((t) => ({ ...t, about: t.productions === 1 ? "1 production" : t.productions ? `${t.productions} productions` : "nothing belongs to it yet" }));
    // Whoever owns the studio knows everybody's name.
    this.names = studio === "Owns" ? (await get("/api/people")).people.map((p) => p.name) : [];
  },
  async tell(work) {
    this.error = "";
    try {
      await work();
    } catch (e) {
      this.error = e.message;
    }
    await this.load();
    this.$dispatch("teams-changed");
  },
  make(event) {
    const form = event.target;
    return this.tell(async () => {
      await post("/api/teams", { name: form.elements.name.value });
      form.reset();
    });
  },
  rename(team, event) {
    return this.tell(() => patch(`/api/teams/${team.id}`, { name: event.target.value }));
  },
  end(team) {
    if (!confirm(`The team "${team.name}" ends; its people stay in the studio. End it?`)) return;
    return this.tell(() => remove(`/api/teams/${team.id}`));
  },
  put(team, name, event) {
    return this.tell(() => call("PUT", `/api/teams/${team.id}/people`, { name, role: event.target.value }));
  },
  add(team, event) {
    const form = event.target;
    return this.tell(async () => {
      await call("PUT", `/api/teams/${team.id}/people`, { name: form.elements.name.value, role: form.elements.role.value });
      form.reset();
    });
  },
  invite(team, event) {
    const role = event.target.closest("form").elements.role.value;
    return this.tell(async () => {
      this.link = location.origin + (await post(`/api/teams/${team.id}/invitations`, { role })).path;
      this.linkOf = team.id;
    });
  },
  takeOut(team, person) {
    return this.tell(() => remove(`/api/teams/${team.id}/people/${person.id}`));
  },
});
