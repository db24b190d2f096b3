// One recording of two people becomes a film in which each mouth moves only in its own turns: checked on the frames of the film.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { tmpdir } from "node:os";
import { newProduction, openPage, sceneState, startBrowser, startServer, turnTo, until } from "./harness.mjs";

let server, browser, folder;

before(async () => {
  folder = mkdtempSync(join(tmpdir(), "zamblo-talk-"));
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

const run = (...command) => {
  const done = spawnSync(command[0], command.slice(1), { maxBuffer: 1 << 30 });
  assert.equal(done.status, 0, `${command[0]}: ${done.stderr}`);
  return done.stdout;
};

// Where each of two figures has its mouth on the 1280 x 720 stage, what is to be seen while it is open, and
// how many pixels of that a shut one shows at most (its lips' edges), and by how much more while the head turns.
const mouths = [
  { x: 307, y: 366, half: [50, 44], colour: [0x5a, 0x1f, 0x27], shut: 60 },
  { x: 973, y: 547, half: [46, 40], colour: [0x6b, 0x3a, 0x22], shut: 20 },
];
const turned = 1.3;
// The inside of a mouth has a colour of its own. Counted in pixels.
const inside = (pixels, colour) => {
  let count = 0;
  for (let i = 0; i < pixels.length; i += 3) if (colour.every((c, k) => Math.abs(pixels[i + k] - c) < 22)) count++;
  return count;
};

test("from one recording of two people to a film in which each mouth moves in its own turns only", async () => {
  const said = [
    ["slt", "The oven is hot, and the flour has been on the scale for an hour."],
    ["rms", "Then somebody should take it off before the street wakes up."],
    ["slt", "I would, but my hands are full of butter and of yesterday's dough."],
    ["rms", "Nobody ever listens to the timer on the wall around here."],
    ["slt", "We all listen, because it rings at three and again at four."],
    ["rms", "And still the rolls come out too late every single morning."],
  ];
  const files = said.map(([voice, words], i) => {
    const path = join(folder, `${i}.wav`);
    run("flite", "-voice", voice, "-t", words, "-o", path);
    return path;
  });
  const list = join(folder, "list.txt");
  writeFileSync(list, files.map((f) => `file '${f}'`).join("\n"));
  const talk = join(folder, "talk.wav");
  run("ffmpeg", "-nostdin", "-v", "error", "-f", "concat", "-safe", "0", "-i", list, "-ar", "16000", "-ac", "1", talk);

  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a file" }).first().click();
  await page.locator("#speakers").selectOption("2");
  await page.getByLabel("Choose a sound file").setInputFiles(talk);
  await until(async () => (await sceneState(page)).lines.length >= 6, "the turns", 90);
  await until(async () => (await sceneState(page)).lines.every((l) => !l.listening && l.phones?.length), "the hearing", 150);
  const state = await sceneState(page);
  assert.equal(state.lines.length, 6);
  assert.deepEqual(
    state.lines.map((l) => state.members.findIndex((m) => m.id === l.member)),
    [0, 1, 0, 1, 0, 1],
  );
  await turnTo(page, "Voice");
  await page.locator("#voice-check summary").click();
  const first = page.locator("#voice-check li").first().locator("button");
  await first.nth(2).waitFor();
  assert.equal(await first.count(), 3);

  // Where the mouths are in the picture is known as long as the camera shows all of the stage.
  await turnTo(page, "Camera");
  await page.locator("[data-camera=fixed]").click();
  await page.locator("[data-camera=fixed][aria-pressed=true]").waitFor();
  await page.getByRole("button", { name: "Render film" }).first().click();
  const link = page.getByRole("link", { name: "Download" });
  await link.waitFor();
  const film = join(folder, "talk.mp4");
  const [download] = await Promise.all([page.waitForEvent("download"), link.click()]);
  await download.saveAs(film);

  const opened = mouths.map(({ x, y, half: [w, h], colour }) => {
    const pixels = run(
      "ffmpeg",
      "-nostdin",
      "-v",
      "error",
      "-i",
      film,
      "-vf",
      `crop=${2 * w}:${2 * h}:${x - w}:${y - h}`,
      "-f",
      "rawvideo",
      "-pix_fmt",
      "rgb24",
      "-",
    );
    const size = 4 * w * h * 3;
    return Array.from({ length: pixels.length / size }, (_, f) => inside(pixels.subarray(f * size, (f + 1) * size), colour));
  });
  assert.ok(opened[0].length === state.frames, `${opened[0].length} frames in the film, ${state.frames} in the scene`);
  for (const [i, line] of state.lines.entries()) {
    const own = i % 2;
    const from = Math.ceil((line.start + line.phones[0][1]) * state.fps);
    const to = Math.floor((line.start + line.phones.at(-1)[2]) * state.fps);
    const share = (who) => opened[who].slice(from, to).filter((n) => n > mouths[who].shut).length / (to - from);
    assert.ok(share(own) > 0.3, `line ${i}: its own mouth is open in ${share(own).toFixed(2)} of its frames`);
    // Not in one frame of it, but for the eased close of the line before.
    const other = opened[1 - own].slice(from + 6, to - 3);
    assert.ok(
      other.every((n) => n <= turned * mouths[1 - own].shut),
      `line ${i}: the other mouth opens in frame ${from + 6 + other.findIndex((n) => n > turned * mouths[1 - own].shut)}`,
    );
  }
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
