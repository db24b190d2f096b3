// Files that become voices: chosen, or dropped anywhere on the page.
import { post, upload } from "../../front/api.js";

export const boothFiles = () => ({
  // A file that is dropped anywhere.
  over: false,
  listenToFiles() {
    for (const name of ["dragenter", "dragover"])
      document.addEventListener(name, (e) => {
        if (!e.dataTransfer?.types.includes("Files")) return;
        e.preventDefault();
        this.over = true;
      });
    document.addEventListener("dragleave", (e) => !e.relatedTarget && (this.over = false));
    document.addEventListener("drop", (e) => {
      e.preventDefault();
      this.over = false;
      const files = [...(e.dataTransfer?.files ?? [])];
      if (files.length) this.openBooth({ mode: "file", files });
    });
  },
  // A scene whose lines have words can be found in a recording of all of them.
  get canReadAnew() {
    return (this.scene?.lines ?? []).some((l) => l.parts.length > 0);
  },
  get fileText() {
    if (this.booth.speakers === "hand") return "Drag over its waveform.";
    return this.booth.speakers === "anew" ? "A new take for each line." : "Becomes a line for each turn or stretch.";
  },
  chooseFile(event) {
    const files = [...event.target.files];
    event.target.value = "";
    if (files.length) return this.takeFiles(files);
  },
  // Each file becomes a line; a role's name in the file's name says whose.
  takeFiles(files) {
    return this.tryBooth(async () => {
      const { line, member, text } = this.booth;
      const list = line ? files.slice(0, 1) : files;
      if (!line && this.booth.speakers === "hand") {
        const { hash, name, seconds } = await upload(list[0], list[0].name, (p) => (this.booth.progress = p));
        this.booth.busy = false;
        this.closeBooth();
        return this.$dispatch("open-cutter", { hash, name, seconds, member });
      }
      if (!line && this.booth.speakers !== "one") {
        for (const [n, file] of list.entries()) {
          const { hash, name } = await upload(file, file.name, (p) => (this.booth.progress = (n + p) / list.length));
          if (this.booth.speakers === "anew") await post(`/api/scenes/${this.sceneId}/reading`, { hash, name });
          else await post(`/api/scenes/${this.sceneId}/turns`, { hash, name, speakers: this.booth.speakers === "find" ? null : Number(this.booth.speakers) });
        }
        this.booth.busy = false;
        this.closeBooth();
        return;
      }
      for (const [n, file] of list.entries()) {
        const { hash, name } = await upload(file, file.name, (p) => (this.booth.progress = (n + p) / list.length));
        const order = { kind: "file", hash, name, text: list.length === 1 ? text : "" };
        const named = list.length > 1 ? this.scene.members.find((m) => name.toLowerCase().includes(m.roleName.toLowerCase())) : null;
        if (line) await post(`/api/lines/${line.id}/takes`, order);
        else await post(`/api/scenes/${this.sceneId}/lines`, { member: named?.id ?? member, ...order });
      }
      this.booth.busy = false;
      this.closeBooth();
    });
  },
});
