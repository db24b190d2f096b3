// The camera: shots by themselves, changed in a click, cut live, seen in the film.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import {
  alike,
  check,
  newProduction,
  openPage,
  sceneState,
  shown,
  startBrowser,
  startServer,
  turnTo,
  typeLine,
  until,
  violations,
  waitForLines,
} from "./harness.mjs";

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const play = `MARO
The oven is hot, and the bread is asleep. Do not wake it before the clock says so.

BUBB
I am not asleep. I am thinking about flour, and about water, and about the night.
`;

const seek = async (page, t) => {
  await page.evaluate((at) => (window.zamblo.player.position = at), t);
  await page.waitForTimeout(300);
};
const looks = (page) => page.evaluate(() => window.zamblo.painter().shownLook);

test("shots are made by themselves, one is changed in one click, and the camera takes it back", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a script" }).click();
  await page.fill("#words", play);
  await page.getByRole("button", { name: "Look it through" }).click();
  await page.getByRole("button", { name: /^Make \d+ lines$/ }).click();
  await waitForLines(page, 2);
  await turnTo(page, "Camera");
  await until(async () => (await sceneState(page)).lines.every((l) => l.words), "the voices");
  let { shots } = await sceneState(page);
  await page.waitForTimeout(500);
  assert.ok(shots.length >= 2, JSON.stringify(shots));
  assert.ok(shots[0].framing === "Wide" && shots.every((s) => s.reason));
  // Nearer: one click.
  const at = shots.findIndex((s) => s.framing === "Medium" || s.framing === "Close");
  await seek(page, shots[at].start + 0.5);
  const before = await looks(page);
  const other = shots[at].framing === "Medium" ? "Close" : "Medium";
  await page.locator(`[data-framing=${other}]`).click();
  await page.locator(`[data-framing=${other}][aria-pressed=true]`).waitFor();
  ({ shots } = await sceneState(page));
  assert.equal(shots[at].framing, other);
  assert.ok(shots[at].clip);
  await page.waitForTimeout(500);
  const now = await looks(page);
  assert.ok(Math.abs(now[2] - before[2]) > 20, `${before} and ${now}`);
  // It begins out of the one before, through black, behind an edge: stage and film are the same in the middle of it.
  const { id, fps } = await sceneState(page);
  for (const change of ["Dissolve", "Dip", "Wipe", "Pass"]) {
    await page.locator("#shot-change").selectOption(change);
    await page.waitForFunction(([i, c]) => window.zamblo.score().scene.shots[i].change === c, [at, change]);
    const { start } = (await sceneState(page)).shots[at];
    await alike(page, id, Math.round(fps * (start + 0.12)));
  }
  await page.locator("#change-over").waitFor();
  await page.locator("#shot-change").selectOption("Cut");
  await page.waitForFunction((i) => window.zamblo.score().scene.shots[i].change === "Cut", at);
  await seek(page, shots[at].start + 0.5);
  // The light becomes another one from the playhead on: stage and film are the same before, meanwhile and after.
  await turnTo(page, "Set");
  await page.getByLabel("The light becomes").selectOption("Night");
  await page.locator("#light").getByRole("button", { name: /on$/ }).click();
  await page.waitForFunction(() => window.zamblo.score().scene.clips.some((c) => c.kind === "light"));
  const step = (await sceneState(page)).clips.find((c) => c.kind === "light");
  for (const t of [step.start - 0.2, (step.start + step.end) / 2, step.end + 0.2]) await alike(page, id, Math.max(0, Math.round(fps * t)));
  await page.getByRole("button", { name: "No change of the light here" }).click();
  await page.waitForFunction(() => !window.zamblo.score().scene.clips.some((c) => c.kind === "light"));
  await turnTo(page, "Camera");
  // The whole set while something is placed, and back.
  await page.getByRole("button", { name: "The whole set" }).click();
  await until(async () => `${await looks(page)}` !== `${now}`, "the whole set");
  await page.getByRole("button", { name: "The whole set" }).click();
  await page.getByRole("button", { name: "By itself", exact: true }).click();
  await page.locator(`[data-framing=${other}][aria-pressed=false]`).waitFor();
  assert.ok((await sceneState(page)).shots.every((s) => !s.clip));
  check(page);
  await page.context().close();
});

test("cut live by keys while it plays", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.keyboard.press("n");
  // Long enough that a slow machine is still playing at the last press.
  await page.locator("#words").fill("One two three four five six seven eight nine ten eleven twelve. ".repeat(3));
  await page.keyboard.press("Control+Enter");
  await waitForLines(page, 1);
  await turnTo(page, "Camera");
  await page.getByRole("button", { name: "Cut live" }).click();
  await page.locator("#cutting").waitFor();
  await page.waitForTimeout(500);
  await page.keyboard.press("2");
  await page.waitForTimeout(900);
  await page.keyboard.press("2");
  await page.waitForTimeout(900);
  await page.keyboard.press("1");
  await page.waitForTimeout(600);
  await page.keyboard.press("Enter");
  await page.waitForFunction(() => !window.zamblo.waiting());
  const own = (await sceneState(page)).shots.filter((s) => s.clip);
  assert.deepEqual(
    own.map((s) => s.framing),
    ["Medium", "Close", "Wide"],
  );
  assert.ok(own[1].start - own[0].start > 0.5 && own[1].start - own[0].start < 5);
  await page.keyboard.press("Control+z");
  await page.waitForFunction(() => !window.zamblo.waiting());
  assert.ok((await sceneState(page)).shots.every((s) => !s.clip));
  check(page);
  await page.context().close();
});

test("a marked stretch goes out as a loop of pictures, and the whole as sound: three clicks each from the notes", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.keyboard.press("n");
  await page.locator("#words").fill("The oven is hot, and the bread is asleep.");
  await page.keyboard.press("Control+Enter");
  await waitForLines(page, 1);
  await seek(page, 0.5);
  await page.keyboard.press("i");
  await seek(page, 1.5);
  await page.keyboard.press("o");
  await turnTo(page, "Film");
  await page.locator("#film-as summary").click();
  await page.locator("#film-what").selectOption("loop");
  await page.locator("#film-form").selectOption("gif");
  await page.getByRole("button", { name: "Make GIF" }).click();
  const made = page.locator("[data-film=done]");
  await made.filter({ hasText: "GIF, 1280x720, 0:01" }).waitFor();
  await page.locator("#film-what").selectOption("all");
  await page.locator("#film-form").selectOption("wav");
  await page.locator("#film-loudness").selectOption("-16");
  await page.getByRole("button", { name: "Make WAV" }).click();
  const sound = made.filter({ hasText: "WAV" });
  await sound.waitFor();
  // What no browser plays is only downloaded.
  assert.equal(await sound.getByText("Watch").isVisible(), false);
  const [file] = await Promise.all([page.waitForEvent("download"), sound.getByText("Download").click()]);
  assert.match(file.suggestedFilename(), /\.wav$/);
  check(page);
  await page.context().close();
});

test("all sizes are looked at side by side before one is chosen, and a held camera is alike on canvas and film", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot, and the bread is asleep.");
  await turnTo(page, "Camera");
  await page.locator("[data-framing=Close]").click();
  await page.locator("#shot-place img").waitFor();
  await page.getByLabel("Meanwhile").selectOption("Drift");
  await until(async () => (await sceneState(page)).shots.some((s) => s.move === "Drift"), "the drift");
  await shown(page);
  await seek(page, 1);
  const id = await page.evaluate(() => document.querySelector("[data-scene]").dataset.scene);
  for (const frame of [15, 30]) await alike(page, id, frame);

  await turnTo(page, "Film");
  await page.locator("#compare-sizes").click();
  await until(
    () => page.evaluate(() => [...document.querySelectorAll("#sizes img")].filter((i) => i.complete && i.naturalHeight > i.naturalWidth).length > 1),
    "tall pictures",
  );
  assert.deepEqual(await violations(page), []);
  await page.locator("[data-size='1080x1080']").click();
  await page.locator("[data-size='1080x1080'][aria-pressed=true]").waitFor();
  page.expected = ["400"];
  const own = page.locator("#sizes input");
  await own.fill("641 x 360");
  await own.press("Enter");
  await page.getByText("both numbers must be even").waitFor();
  await own.fill("3840 x 2160");
  await own.press("Enter");
  await page.locator("[data-size='3840x2160'][aria-pressed=true]").waitFor();
  await page.keyboard.press("Escape");
  await page.locator("#sizes").waitFor({ state: "hidden" });
  assert.deepEqual(page.problems, []);
});
