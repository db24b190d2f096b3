// Builds wwwroot: scripts (esbuild), styles (Tailwind), fonts and icons from npm packages. Everything is served from here.
import { build } from "esbuild";
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync, readdirSync, rmSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const web = join(dirname(fileURLToPath(import.meta.url)), "..");
const out = join(web, "wwwroot");
const modules = join(web, "node_modules");
rmSync(out, { recursive: true, force: true });
mkdirSync(join(out, "fonts"), { recursive: true });
mkdirSync(join(out, "icons"), { recursive: true });

for (const font of ["bricolage-grotesque", "figtree", "jetbrains-mono"]) {
  const files = join(modules, "@fontsource-variable", font, "files");
  for (const name of readdirSync(files).filter((f) => /-latin(-ext)?-wght-normal\.woff2$/.test(f))) cpSync(join(files, name), join(out, "fonts", name));
}

const icons = `
  play pause chevron-left chevron-right skip-back repeat undo-2 redo-2 plus trash-2 copy pencil mic upload type clapperboard
  download x rotate-cw zoom-in zoom-out maximize-2 moon sun keyboard square user-plus ear check layers layout-grid circle triangle-alert
  library-big minus clipboard rotate-ccw copy-check mic-off link volume-2 arrow-right chevron-up chevron-down scissors
  flip-horizontal-2 scan scan-eye printer folder-open switch-camera dices sparkles music star search image square-dashed frame hand message-square
  scan-face user-round lock move users`
  .trim()
  .split(/\s+/);
for (const icon of icons) cpSync(join(modules, "lucide-static", "icons", `${icon}.svg`), join(out, "icons", `${icon}.svg`));

execFileSync(
  process.execPath,
  [join(modules, "@tailwindcss", "cli", "dist", "index.mjs"), "-i", join(web, "front", "app.css"), "-o", join(out, "app.css"), "--minify"],
  { cwd: web, stdio: ["ignore", "ignore", "inherit"] },
);
await build({
  entryPoints: {
    ...Object.fromEntries(
      ["shelf", "character", "stage", "casting", "wardrobe", "portrait", "voices", "workers", "people", "enter", "look", "one-take", "rigging"].map((n) => [
        n,
        join(web, "front", `${n}.js`),
      ]),
    ),
    studio: join(web, "Pages", "Studio", "studio.js"),
  },
  outdir: out,
  bundle: true,
  splitting: true,
  format: "esm",
  target: "es2022",
  minify: true,
  legalComments: "none",
});
