// The page of Casting: all characters, one's own to be changed, deleted, brought in and sent out.
import Alpine from "@alpinejs/csp";
import { applyTheme, call, post, remove } from "./api.js";
import { castingGrid } from "./casting-grid.js";

applyTheme();
Alpine.data("casting", () =>
  Object.defineProperties(
    {
      chosen: null,
      offer: "About",
      async init() {
        this.kind = new URLSearchParams(location.search).get("kind") ?? "";
        await this.loadCharacters();
      },
      pickCard(card) {
        this.chosen = card;
        this.$refs.about.showModal();
      },
      closeAbout() {
        this.$refs.about.close();
      },
      openDrawing() {
        this.castError = "";
        this.$refs.drawing.showModal();
      },
      closeDrawing() {
        this.$refs.drawing.close();
      },
      async dropOwn() {
        const { key } = this.chosen;
        this.closeAbout();
        try {
          await remove(`/api/characters/${key}`);
          await this.loadCharacters();
        } catch (e) {
          this.castError = e.message;
        }
      },
      async bringFile(event) {
        const [file] = event.target.files;
        event.target.value = "";
        if (!file) return;
        try {
          // A drawing gets a rig by the names of its groups: it is looked at on the rig bench at once.
          if (/\.svg$/i.test(file.name)) {
            const bare = file.name
              .replace(/\.svg$/i, "")
              .replace(/[-_]+/g, " ")
              .trim()
              .slice(0, 60);
            const name = bare.charAt(0).toUpperCase() + bare.slice(1);
            const { key, warnings } = await call("POST", `/api/characters/rigged?name=${encodeURIComponent(name)}`, file);
            sessionStorage.setItem(`warnings/${key}`, JSON.stringify(warnings));
            location.assign(`/rig/${key}`);
            return;
          }
          if (file.name.toLowerCase().endsWith(".zip")) await call("POST", "/api/characters/drawings", file);
          else await post("/api/characters", { recipe: JSON.parse(await file.text()) });
          await this.loadCharacters();
          this.castError = "";
        } catch (e) {
          this.castError = e instanceof SyntaxError ? `"${file.name}" is not a character's file.` : e.message;
        }
      },
      // The file's name is the character's, unless it is what it was called before.
      async bringDrawing(event) {
        const [file] = event.target.files;
        event.target.value = "";
        if (!file) return;
        const name = file.name.replace(/\.svg$/i, "");
        const { key } = this.chosen;
        this.closeAbout();
        try {
          await call("POST", `/api/characters/${key}/drawing?name=${name === "art" ? "" : encodeURIComponent(name)}`, file);
          await this.loadCharacters();
          this.castError = "";
        } catch (e) {
          this.castError = e.message;
        }
      },
    },
    Object.getOwnPropertyDescriptors(castingGrid()),
  ),
);
Alpine.start();
