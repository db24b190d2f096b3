// Work in the background, in a tray at the top: how much there is, how far it is, stop, run again. What belongs together is one card.
const called = {
  speak: ["Speaking a line", "Speaking lines"],
  take: ["Taking in a sound", "Taking in sounds"],
  listen: ["Listening to a line", "Listening to lines"],
  turns: ["Finding who speaks", "Finding who speaks"],
  reading: ["Finding lines", "Finding lines"],
  render: ["Making a film", "Making films"],
};

export const jobsPanel = () => ({
  isOpen: false,
  toggleTray() {
    this.isOpen = !this.isOpen;
  },
  closeTray() {
    if (!this.isOpen) return;
    this.isOpen = false;
    this.$refs.tray.focus();
  },
  leaveTray(event) {
    if (this.isOpen && !this.$root.contains(event.target)) this.isOpen = false;
  },
  get tray() {
    const all = this.jobs.filter((j) => j.kind !== "render" || j.active || j.failed);
    const cards = [...new Set(all.map((j) => j.kind))].map((kind) => this.card(kind, all));
    return cards.filter((c) => c.active.length || c.failed.length);
  },
  card(kind, all) {
    const own = all.filter((j) => j.kind === kind);
    const active = own.filter((j) => j.active);
    const failed = own.filter((j) => j.failed);
    // A burst is all that has been under way since this kind last had nothing to do.
    const total = active.length + (this.bursts[kind]?.ended ?? 0);
    const share = active.reduce((sum, j) => sum + j.progress, this.bursts[kind]?.ended ?? 0) / Math.max(1, total);
    const running = active.find((j) => j.state === "running");
    const several = total > 1;
    const title = several ? called[kind][1] : ((active[0] ?? failed[0])?.name ?? called[kind][0]);
    const reasons = [...new Set(failed.filter((j) => j.error).map((j) => j.error))];
    const detail = several ? `${total - active.length} of ${total} done${running?.detail ? `; ${running.detail}` : ""}` : (active[0]?.detail ?? "");
    const cancelled = failed.length > 0 && reasons.length === 0;
    const broken = failed.length > 1 ? `${failed.length} did not end well:` : "";
    return { kind, active, failed, percent: Math.round(share * 100), title, detail, reasons, cancelled, broken };
  },
  get trayText() {
    const active = this.tray.reduce((n, c) => n + c.active.length, 0);
    const failed = this.tray.reduce((n, c) => n + c.failed.filter((j) => j.error).length, 0);
    if (active) return active === 1 ? "1 at work" : `${active} at work`;
    return failed ? `${failed} failed` : "Stopped";
  },
  get trayPercent() {
    const busy = this.tray.filter((c) => c.active.length);
    return busy.length ? Math.min(...busy.map((c) => c.percent)) : 0;
  },
  get trayFailed() {
    return this.tray.some((c) => c.reasons.length > 0);
  },
  cancelAll(card) {
    return Promise.all(card.active.map((j) => this.cancelJob(j)));
  },
  retryAll(card) {
    return Promise.all(card.failed.map((j) => this.retryJob(j)));
  },
  clearAll(card) {
    return Promise.all(card.failed.map((j) => this.clearJob(j)));
  },
});
