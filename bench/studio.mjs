// How long a person waits for the studio: a talk of 20 minutes with four on stage beside one of a few lines, in one run.
import { newProduction, openPage, startBrowser, startServer, until } from "../tests/browser/harness.mjs";

const roles = ["MARO", "BUBB", "TOCK", "WICK"];
const said = [
  "The oven is hot and the loaves are ready to go in, one by one.",
  "You said that you would feed me at midnight, and now it is three in the morning.",
  "Ten minutes left. Nine minutes and fifty seconds left. I am only saying.",
  "The lamp is warm tonight, and nobody has asked the moth what it thinks.",
  "Flour on the floor, flour on the shelf, and none of it where I need it.",
  "I rise when I am ready. I have never been early, and I have never been sorry.",
  "That is the bell. That was the bell. There will be another bell quite soon.",
];
const play = (lines) =>
  "INT. BAKERY - NIGHT\n\n" +
  Array.from({ length: lines }, (_, i) => `${roles[(i * 3 + (i >> 2)) % 4]}\n${said[(i * 5) % 7]} ${said[(i * 2 + 3) % 7]}\n`).join("\n");
const median = (times) => times.toSorted((a, b) => a - b)[times.length >> 1];

async function typed(page, lines) {
  await newProduction(page, server);
  const production = await page.evaluate(async (text) => {
    const scene = document.querySelector("[data-scene]").dataset.scene;
    const csrf = document.querySelector('meta[name="csrf"]').content;
    const answer = await fetch(`/api/scenes/${scene}/script`, {
      method: "POST",
      headers: { "X-Csrf-Token": csrf, "Content-Type": "application/json" },
      body: JSON.stringify({ text }),
    });
    if (!answer.ok) throw new Error(await answer.text());
    return window.zamblo.score().scene.production.id;
  }, play(lines));
  await until(
    () =>
      page.evaluate(
        async (id) => !(await (await fetch(`/api/productions/${id}/jobs`)).json()).some((j) => j.state === "queued" || j.state === "running"),
        production,
      ),
    "the voices",
    900,
  );
  return page.url();
}

// Until the stage shows its first frame and everything answers.
async function open(browser, url) {
  const page = await openPage(browser, server);
  const from = performance.now();
  await page.goto(url);
  await page.locator("#stage[data-frame]").waitFor();
  await page.locator("article").first().waitFor();
  return [page, performance.now() - from];
}

// From a key until the stage shows the scene with the edit in it.
const edit = (page, key, line) =>
  page.evaluate(
    async ([key, line]) => {
      const { score, frames } = window.zamblo;
      if (line >= 0) document.querySelectorAll("article")[line].click();
      await new Promise((r) => setTimeout(r, 300));
      const [revision, shown] = [score().scene.production.revision, frames()];
      const from = performance.now();
      document.body.dispatchEvent(new KeyboardEvent("keydown", { bubbles: true, cancelable: true, ...key }));
      const looked = () => new Promise((r) => requestAnimationFrame(r));
      while (score().scene.production.revision === revision || frames() === shown) {
        await looked();
        if (performance.now() - from > 10000) throw new Error(`Nothing came of ${key.key}.`);
      }
      await looked();
      return performance.now() - from;
    },
    [key, line],
  );

const server = await startServer();
const browser = await startBrowser();
try {
  const setUp = await openPage(browser, server);
  const urls = [await typed(setUp, 4), await typed(setUp, Number(process.argv[2] ?? 135))];
  await setUp.close();
  const rows = [];
  for (const url of urls) {
    const [first, cold] = await open(browser, url);
    const scene = await first.evaluate(() => ({ lines: window.zamblo.score().scene.lines.length, minutes: window.zamblo.score().scene.duration / 60 }));
    await first.close();
    const [page, warm] = await open(browser, url);
    const edits = { delete: [], undo: [], redo: [], "undo again": [] };
    for (let i = 0; i < 7; i++) {
      edits.delete.push(await edit(page, { key: "Delete" }, 1));
      edits.undo.push(await edit(page, { key: "z", ctrlKey: true }, -1));
      edits.redo.push(await edit(page, { key: "z", ctrlKey: true, shiftKey: true }, -1));
      edits["undo again"].push(await edit(page, { key: "z", ctrlKey: true }, -1));
    }
    if (page.problems.length) throw new Error(page.problems.join("\n"));
    rows.push({ ...scene, cold, warm, edits: Object.fromEntries(Object.entries(edits).map(([name, times]) => [name, median(times)])) });
    await page.close();
  }
  const [short, long] = rows;
  const row = (name, a, b) =>
    console.log(`${name.padEnd(22)} ${a.toFixed(0).padStart(6)} ms ${b.toFixed(0).padStart(6)} ms ${(b / a).toFixed(2).padStart(7)} x`);
  console.log(`studio: ${short.lines} lines beside ${long.lines} lines, ${long.minutes.toFixed(1)} minutes`);
  row("first open", short.cold, long.cold);
  row("open again", short.warm, long.warm);
  for (const name of Object.keys(short.edits)) row(`edit: ${name}`, short.edits[name], long.edits[name]);
} finally {
  await browser.close();
  server.stop();
}
