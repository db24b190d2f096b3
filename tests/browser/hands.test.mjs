// Hand work on the score, with pointer and keys as a person would.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import AxeBuilder from "@axe-core/playwright";
import { drag, newProduction, openPage, scorePoint, sceneState, startBrowser, startServer, typeLine, until, waitForLines } from "./harness.mjs";

let server, browser;

before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const check = (page) => assert.deepEqual(page.problems, []);
// On a server that other tests use, too, a take may wait for thirty others.
const settled = (page, test) => page.waitForFunction(test);
// The cues of a word, as the score has them.
const cuesOf = (line, word, n = 0) => {
  const [, start, end] = line.words.filter((w) => w[0] === word)[n];
  return line.cues.filter((c) => (c[1] + c[2]) / 2 >= start && (c[1] + c[2]) / 2 < end);
};
test("a word is fixed in two clicks, applied wherever it is said, and found again in another take", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot.");
  await typeLine(page, "Mind the oven, the other oven.");
  await settled(page, () => window.zamblo.score().scene.lines.length === 2 && window.zamblo.score().scene.lines.every((l) => l.cues?.length));
  // One click on the mouth, one on the shape.
  const first = (await sceneState(page)).lines[0];
  const vowel = cuesOf(first, "oven").find((c) => c[4] === "Open");
  const at = await scorePoint(page, 0, (vowel[1] + vowel[2]) / 2, "mouth");
  await page.mouse.click(at.x, at.y);
  await page.locator("#picked").getByRole("button", { name: "Pucker", exact: true }).click();
  await page.getByText("oven: Pucker").first().waitFor();
  assert.ok(cuesOf((await sceneState(page)).lines[0], "oven").some((c) => c[4] === "Pucker" && c[6]));
  await page.locator("#picked").getByRole("button", { name: "Wherever it is said" }).click();
  await page.getByText("is said 2 more times").waitFor();
  const axe = await new AxeBuilder({ page }).include("dialog[open]").analyze();
  assert.deepEqual(
    axe.violations.map((v) => v.id),
    [],
  );
  await page.getByRole("button", { name: "Apply in 2" }).click();
  await page.getByText("Applied in 2 places.").waitFor();
  const second = (await sceneState(page)).lines[1];
  for (const n of [0, 1]) assert.ok(cuesOf(second, "oven", n).some((c) => c[4] === "Pucker"));

  // Another take of the first line.
  await page.locator("article").first().getByRole("button", { name: "Another take" }).click();
  await page.locator("#words").fill("Careful: the oven is very hot.");
  await page.keyboard.press("Control+Enter");
  await settled(page, () => window.zamblo.score().scene.lines[0].words?.some((w) => w[0] === "very"));
  const again = (await sceneState(page)).lines[0];
  assert.ok(cuesOf(again, "oven").some((c) => c[4] === "Pucker" && c[6]));
  // Off and on, to compare.
  await page.locator("article").first().click();
  await page.getByRole("checkbox", { name: "In use: oven: Pucker" }).click();
  await settled(page, () => window.zamblo.score().scene.lines[0].cues.every((c) => !c[6]));
  await page.keyboard.press("Control+z");
  await settled(page, () => window.zamblo.score().scene.lines[0].cues.some((c) => c[6]));
  check(page);
  await page.context().close();
});

test("mouths are moved, stretched, strengthened, shut and taken out with pointer and keys", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is finally hot.");
  await settled(page, () => window.zamblo.score().scene.lines[0]?.cues?.length);
  await page.locator("article .said", { hasText: "hot" }).click();
  await page.keyboard.press("-");
  await page.keyboard.press("Escape");
  const cue = cuesOf((await sceneState(page)).lines[0], "finally").find((c) => c[4] === "Open");
  const middle = (cue[1] + cue[2]) / 2;
  // Moved by two frames: it snaps to frames of the scene.
  await drag(page, await scorePoint(page, 0, middle, "mouth"), await scorePoint(page, 0, middle + 0.085, "mouth"));
  await page.getByText("finally: Open, moved").first().waitFor();
  const moved = (await sceneState(page)).lines[0].cues.find((c) => c[6]);
  assert.ok(Math.abs(moved[1] - cue[1] - 0.08) < 0.045, `${cue} ${moved}`);
  assert.ok(Math.abs(moved[2] - moved[1] - (cue[2] - cue[1])) < 0.003, `${cue} became ${moved}`);
  // Its end, stretched.
  await drag(page, await scorePoint(page, 0, moved[2] - 0.002, "mouth"), await scorePoint(page, 0, moved[2] + 0.08, "mouth"));
  await settled(page, () => window.zamblo.score().scene.lines[0].cues.some((c) => c[6] && c[2] - c[1] > 0.11));
  const stretched = (await sceneState(page)).lines[0].cues.find((c) => c[6]);
  assert.ok(stretched[2] > moved[2] + 0.03 && Math.abs(stretched[1] - moved[1]) < 0.002);
  // Weaker, by key.
  await page.keyboard.press("ArrowDown");
  await page.waitForFunction((s) => window.zamblo.score().scene.lines[0].cues.some((c) => c[6] && c[3] < s), stretched[3] - 0.05);
  // Out, and back.
  await page.keyboard.press("Delete");
  await page.getByText("finally: taken out").first().waitFor();
  await page.keyboard.press("Control+z");
  await settled(page, () => window.zamblo.score().scene.lines[0].cues.some((c) => c[6]));
  // Shut over a stretch of the voice.
  const word = (await sceneState(page)).lines[0].words.find((w) => w[0] === "finally");
  await drag(page, await scorePoint(page, 0, word[1] + 0.08, "voice"), await scorePoint(page, 0, word[2] - 0.05, "voice"));
  await page.keyboard.press("m");
  await page.getByText("finally: closed").first().waitFor();
  // Copied onto another word.
  await page.keyboard.press("Control+c");
  // Back to automatic, all of it.
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Backspace");
  await settled(page, () => window.zamblo.score().scene.lines[0].cues.every((c) => !c[6]));
  // Nothing was picked: the stage plays on, slowly, with its pitch.
  await page.keyboard.press("Escape");
  await page.locator("#speed").selectOption("0.5");
  await page.waitForFunction(() => window.zamblo.player.speed === 0.5);
  await page.keyboard.press("Home");
  await page.evaluate(() => document.activeElement.blur());
  await page.keyboard.press("Space");
  const start = Date.now();
  await page.waitForFunction(() => window.zamblo.player.time > 0.6);
  assert.ok(Date.now() - start > 900, "half speed takes twice the time");
  check(page);
  await page.context().close();
});

test("words are corrected and said otherwise; stretches are no voice; nothing is overwritten from a second tab", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is finally hot.");
  await settled(page, () => window.zamblo.score().scene.lines[0]?.cues?.length);
  const url = page.url();
  const other = await page.context().newPage();
  await other.goto(url);
  await other.locator("#stage[data-frame]").waitFor();

  await page.locator("article .said", { hasText: "finally" }).click();
  await page.locator("#word-sound").fill("F IH N AH L IY");
  await page.getByRole("button", { name: "Hear it" }).click();
  await page.locator("#picked").getByText("F IH N AH L IY").waitFor();
  const word = (await sceneState(page)).lines[0].words.find((w) => w[0] === "hot");
  await drag(page, await scorePoint(page, 0, word[1] + 0.02, "voice"), await scorePoint(page, 0, word[2], "voice"));
  await page.getByRole("button", { name: "Not voice" }).click();
  await page.getByText("Not voice,").waitFor();
  assert.deepEqual(
    cuesOf((await sceneState(page)).lines[0], "hot").filter((c) => c[1] > word[1] + 0.06),
    [],
  );

  // The second tab has seen it by itself, and an edit made there is seen here.
  await other.waitForFunction(() => window.zamblo.score().scene.lines[0].marks.length === 1);
  await other.locator("article .said", { hasText: "oven" }).click();
  await other.locator("#picked").getByRole("button", { name: "Pucker", exact: true }).click();
  await settled(page, () => window.zamblo.score().scene.lines[0].cues.some((c) => c[4] === "Pucker" && c[6]));
  await other.close();

  // It is a laugh: named in one choice, picked again by one click, made nothing of by another choice.
  await drag(page, await scorePoint(page, 0, word[1] + 0.02, "voice"), await scorePoint(page, 0, word[2], "voice"));
  await page.getByLabel("Somebody here").selectOption("laughs");
  await page.getByText("Somebody laughs,").waitFor();
  await settled(page, () => window.zamblo.score().scene.lines[0].sounds?.[0]?.[4] === "Laugh");
  assert.ok((await sceneState(page)).lines[0].cues.some((c) => c[1] >= word[1] - 0.01 && ["Open", "Mid"].includes(c[4])));
  await page.keyboard.press("Escape");
  const inside = await scorePoint(page, 0, (word[1] + word[2]) / 2, "voice");
  await page.mouse.click(inside.x, inside.y);
  await until(async () => (await page.getByLabel("Somebody here").inputValue()) === "Laugh", "the laugh is picked");

  await page.getByRole("button", { name: "Lift off the mark" }).click();
  await settled(page, () => window.zamblo.score().scene.lines[0].marks.length === 0);
  await page.locator("article .said", { hasText: "hot" }).click();
  await page.locator("#word-text").fill("cold");
  await page.keyboard.press("Enter");
  await settled(page, () => window.zamblo.score().scene.lines[0].words?.some((w) => w[0] === "cold"));
  await waitForLines(page, 1);
  check(page);
  await page.context().close();
});

test("the mouth sheet shows every shape and speaks", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/character/tock`);
  assert.equal(await page.locator("table img").count(), 42);
  for (const img of await page.locator("table img").all()) assert.ok(await img.evaluate(async (i) => (await i.decode(), i.naturalWidth > 0)));
  await page.getByRole("button", { name: "Play" }).click();
  await page.waitForFunction(() => /frame [1-9]\d/.test(document.body.innerText));
  const axe = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    axe.violations.map((v) => v.id),
    [],
  );
  check(page);
  await page.context().close();
});
