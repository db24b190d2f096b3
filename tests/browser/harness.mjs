// Starts the real server and a headless Chromium; every test drives the interface as a person would.
import { inflateRawSync } from "node:zlib";
import { spawn, spawnSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import AxeBuilder from "@axe-core/playwright";
import { chromium } from "playwright-core";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..", "..");
export const recordings = "/usr/share/pocketsphinx/test/data";

// How long a test waits for what has to come, in seconds.
const patience = 120;

// One server is shared by all files that do not ask for an empty one of their own: every test makes its own production.
export async function startServer({ demo = false, people = false, own = demo || people } = {}) {
  const shared = globalThis.process.env.ZAMBLO_SERVER;
  if (shared && !own) return { url: shared, stop() {} };
  const data = mkdtempSync(join(tmpdir(), "zamblo-browser-"));
  const web = join(root, "src", "Zamblo.Web");
  const args = [join(web, "bin", "Release", "net10.0", "Zamblo.Web.dll"), "--urls", "http://127.0.0.1:0", "--data", data];
  if (!demo) args.push("--no-demo");
  if (people) args.push("--people");
  const process = spawn("dotnet", args, { cwd: web, stdio: ["ignore", "pipe", "inherit"] });
  let said = "";
  const url = await new Promise((resolve, reject) => {
    process.stdout.on("data", (d) => {
      said += d;
      const found = /Zamblo is on (http:\/\/[\d.:]+)/.exec(said);
      if (found) resolve(found[1]);
    });
    process.on("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
  return {
    url,
    data,
    // Where people sign in: how its owner comes in.
    door: /\/join\/[\w-]+/.exec(said)?.[0],
    stop() {
      process.removeAllListeners("exit");
      process.kill("SIGKILL");
      rmSync(data, { recursive: true, force: true });
    },
  };
}

// microphone: a WAV file that the fake device plays.
export async function startBrowser({ microphone } = {}) {
  const args = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
  ];
  if (microphone) args.push("--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream", `--use-file-for-fake-audio-capture=${microphone}`);
  return chromium.launch({ executablePath: "/usr/bin/chromium", args });
}

// A page that fails its test on any script error, policy violation or request to elsewhere.
export async function openPage(browser, server, { hints = false, ...options } = {}) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  // The hints of a first visit are looked at in their own test.
  if (!hints) await context.addInitScript(() => localStorage.setItem("hints-seen", "yes"));
  // A wait costs nothing where it ends: what is told by a limit is that something never comes, on a machine however slow.
  context.setDefaultTimeout(patience * 1000);
  const page = await context.newPage();
  page.problems = [];
  page.expected = [];
  page.on("pageerror", (e) => page.problems.push(`error: ${e.message}`));
  page.on("console", (m) => {
    if (["error", "warning"].includes(m.type()) && !page.expected.some((e) => m.text().includes(e))) page.problems.push(`console: ${m.text()}`);
  });
  page.on("request", (r) => {
    if (!r.url().startsWith(server.url) && !/^(blob|data):/.test(r.url())) page.problems.push(`request to ${r.url()}`);
  });
  return page;
}

export async function newProduction(page, server) {
  await page.goto(server.url);
  await page.getByRole("button", { name: "New production" }).first().click();
  await page.waitForURL(/\/production\//);
  await page.locator("#stage[data-frame]").waitFor();
}

export async function sceneState(page) {
  return page.evaluate(async () =>
    (await fetch(`/api/scenes/${new URLSearchParams(location.search).get("scene") ?? document.querySelector("[data-scene]").dataset.scene}`)).json(),
  );
}

export async function addFile(page, path, words = "") {
  await page.getByRole("button", { name: "Add a voice" }).click();
  await page.getByRole("button", { name: "Bring a file" }).last().click();
  await page.locator("#words").fill(words);
  await page.getByLabel("Choose a sound file").setInputFiles(path);
}

// Types a line as a person would.
export async function typeLine(page, text) {
  const before = await page.locator("article").count();
  await page.keyboard.press("n");
  await page.locator("#words").fill(text);
  await page.keyboard.press("Control+Enter");
  await waitForLines(page, before + 1);
}

export async function drag(page, from, to) {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, to.y, { steps: 4 });
  await page.mouse.move(to.x, to.y, { steps: 4 });
  await page.mouse.up();
}

// Where a moment of a line lies on the score: lane is "voice", "mouth" or "line" (its handle).
export async function scorePoint(page, line, seconds, lane) {
  const [x, y] = await page.evaluate(
    ([line, seconds, lane]) => {
      const score = window.zamblo.score();
      const l = score.scene.lines[line];
      const staff = score.staves.find((s) => s.member.id === l.member);
      return [score.x(l.start + seconds), staff.y + (lane === "mouth" ? staff.voice + staff.mouth / 2 : lane === "line" ? 5 : 26)];
    },
    [line, seconds, lane],
  );
  const box = await page.locator("#score").boundingBox();
  return { x: box.x + x, y: box.y + y };
}

export async function waitForLines(page, count) {
  await page
    .locator("article")
    .nth(count - 1)
    .waitFor();
}

// Structural similarity of two PNG files (Wang, Bovik, Sheikh and Simoncelli 2004), as ffmpeg computes it.
export function similarity(a, b) {
  const graph = "[0]format=gbrp[a];[1]format=gbrp[b];[a][b]ssim";
  const told = spawnSync("ffmpeg", ["-v", "info", "-i", a, "-i", b, "-lavfi", graph, "-f", "null", "-"], { encoding: "utf8" }).stderr;
  return Number(/All:([\d.]+)/.exec(told)[1]);
}

// The page shows the scene as the server has it now.
export async function shown(page) {
  const { production, heard } = await sceneState(page);
  await page.waitForFunction((r) => window.zamblo.frames().url(0, 1).includes(`r=${r}`), `${production.revision}.${heard}`);
}

// A frame of a scene is on the canvas what it is in the film.
export async function alike(page, id, frame, size = [1280, 720]) {
  const pictures = await page.evaluate(
    async ([id, frame, size]) => {
      const { StagePainter } = await import("/stage.js");
      const canvas = document.createElement("canvas");
      const painter = new StagePainter(canvas);
      const store = window.zamblo.frames();
      await painter.load(store.url(0, 1).replace(/frames\?from=\d+&count=\d+/, "shapes?x=1"));
      painter.resize(...size);
      await store.request(Math.floor(frame / store.chunk));
      // Frames of a clip come when they are asked for.
      const came = new Promise((r) => (painter.onPicture = r));
      painter.draw(store.get(frame));
      if (painter.shapes.some((s) => s.filmed)) await came;
      painter.draw(store.get(frame));
      const skia = new Uint8Array(await (await fetch(`/api/scenes/${id}/frames/${frame}`)).arrayBuffer());
      return [canvas.toDataURL("image/png").split(",")[1], btoa(Array.from(skia, (b) => String.fromCharCode(b)).join(""))];
    },
    [id, frame, size],
  );
  const folder = mkdtempSync(join(tmpdir(), "zamblo-alike-"));
  const files = pictures.map((picture, i) => {
    const file = join(folder, `${i}.png`);
    writeFileSync(file, Buffer.from(picture, "base64"));
    return file;
  });
  const found = similarity(...files);
  rmSync(folder, { recursive: true });
  if (!(found >= 0.97)) throw new Error(`frame ${frame}: canvas and film are alike by ${found}`);
}

// No script error, no broken policy, no request to elsewhere.
export const check = (page) => {
  if (page.problems.length) throw new Error(page.problems.join("\n"));
};

// Waits until something is so; the page's policy forbids waitForFunction to build functions of its own.
export async function until(look, what, seconds = patience) {
  for (let i = 0; i < seconds * 5; i++) {
    if (await look()) return;
    await new Promise((r) => setTimeout(r, 200));
  }
  throw new Error(`Waited in vain for ${what}.`);
}

// What keeps people out, as axe finds it.
export const violations = async (page) => (await new AxeBuilder({ page }).analyze()).violations.map((v) => `${v.id}: ${v.nodes[0].html}`);

// Turns to a divider of the notes.
// Counts what a hand does, from here on.
export async function counting(page) {
  await page.evaluate(() => {
    if (window.clicks === undefined) document.addEventListener("pointerdown", () => window.clicks++, true);
    window.clicks = 0;
  });
  return () => page.evaluate(() => window.clicks);
}

export const turnTo = (page, name) => page.getByRole("tab", { name }).click();

// One file of a zip (PKWARE, "APPNOTE.TXT", 4.3.12: its entry in the central directory, deflated).
export function entryOf(zip, name) {
  const at = zip.lastIndexOf(Buffer.from(name)) - 46;
  const [length, local] = [zip.readUInt32LE(at + 20), zip.readUInt32LE(at + 42)];
  const begin = local + 30 + zip.readUInt16LE(local + 26) + zip.readUInt16LE(local + 28);
  return inflateRawSync(zip.subarray(begin, begin + length)).toString("utf8");
}
