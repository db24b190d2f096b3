// Moods, gestures and the timing of lines, with pointer and keys as a person would.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import AxeBuilder from "@axe-core/playwright";
import { drag, newProduction, openPage, sceneState, scorePoint, startBrowser, startServer, turnTo, typeLine } from "./harness.mjs";

let server, browser;

before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const until = (page, test, value) => page.waitForFunction(test, value);
const clips = async (page) => (await sceneState(page)).clips;

test("a mood on a word and a gesture on the playhead are laid, stretched, shaped and undone", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot, and the bread will not wait.");
  await until(page, () => window.zamblo.score().scene.lines[0]?.words?.length);
  const line = (await sceneState(page)).lines[0];
  const [, start, end] = line.words.find((w) => w[0] === "oven");
  const word = await scorePoint(page, 0, (start + end) / 2, "voice");
  await page.mouse.click(word.x, word.y);
  await turnTo(page, "Acting");
  await page.getByText("on “oven”").waitFor();
  await page.locator("#acting").getByRole("button", { name: "Anger" }).click();
  await page.locator("#clip").getByText("Anger,").waitFor();
  let [mood] = await clips(page);
  assert.ok(Math.abs(mood.start - line.start - start) < 0.01 && Math.abs(mood.end - line.start - end) < 0.01);

  // Its end is drawn to the end of the line.
  const lane = (clip, t) =>
    page.evaluate(
      ([kind, t]) => {
        const score = window.zamblo.score();
        const staff = score.staves.find((s) => s.lanes[kind] >= 0);
        return [score.x(t), staff.y + staff.lanes[kind] + 7];
      },
      [clip.kind, t],
    );
  const box = await page.locator("#score").boundingBox();
  const point = async (t) => {
    const [x, y] = await lane(mood, t);
    return { x: box.x + x, y: box.y + y };
  };
  const last = line.start + line.words.at(-1)[2];
  await drag(page, await point(mood.end - 0.005), await point(last));
  await until(page, (e) => Math.abs(window.zamblo.score().scene.clips[0].end - e) < 0.02, last);
  await page.keyboard.press("ArrowUp");
  await until(page, () => window.zamblo.score().scene.clips[0].strength > 0.75);

  // A gesture: shown while the pointer rests on it, then laid with its stroke at the playhead.
  await turnTo(page, "Acting");
  await page.locator("#acting summary", { hasText: "Gestures" }).click();
  await page.locator("#gesture-part").selectOption("hands");
  const wave = page.locator("#acting").getByRole("button", { name: "Wave", exact: true });
  await wave.hover();
  const picture = () => page.locator("#acting canvas").evaluate((c) => c.toDataURL());
  const before = await picture();
  await page.waitForTimeout(700);
  assert.notEqual(await picture(), before);
  await page.keyboard.press("Escape");
  await page.evaluate(() => (window.zamblo.player.position = 1.5));
  await wave.click();
  await page.locator("#clip").getByText("Wave,").waitFor();
  const gesture = (await clips(page)).find((c) => c.kind === "gesture");
  assert.ok(Math.abs(gesture.start + 0.5 - 1.5) < 0.02, `${gesture.start}`);
  const axe = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    axe.violations.map((v) => `${v.id}: ${v.nodes[0].html}`),
    [],
  );
  await page.keyboard.press("Delete");
  await until(page, () => window.zamblo.score().scene.clips.length === 1);
  for (let n = 1; n <= 5; n++) await page.keyboard.press("Control+z").then(() => page.waitForTimeout(400));
  await until(page, () => window.zamblo.score().scene.clips.length === 0);

  // The head is held still over this line, and comes back.
  const handle = await scorePoint(page, 0, 0.6, "line");
  await page.mouse.click(handle.x, handle.y);
  await page.locator("#line-acting summary").click();
  await page.getByLabel("Head", { exact: true }).fill("0");
  await until(page, () => window.zamblo.score().scene.lines[0].acting.head === 0);
  await page.getByRole("button", { name: "As in all lines" }).click();
  await until(page, () => window.zamblo.score().scene.lines[0].acting.head === 1);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("a line is drawn earlier so that it interrupts, and what follows goes along", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  for (const text of ["Three in the morning, and the oven is hot.", "Nine minutes.", "Ten minutes."]) await typeLine(page, text);
  await until(page, () => window.zamblo.score().scene.lines.every((l) => l.words?.length) && window.zamblo.score().scene.lines.length === 3);
  const starts = async () => (await sceneState(page)).lines.map((l) => l.start);
  const was = await starts();
  // All of one member lie on one staff; the handle is the bar over the line.
  const held = await scorePoint(page, 1, 0.2, "line");
  const perSecond = await page.evaluate(() => window.zamblo.score().pixelsPerSecond);
  await page.keyboard.down("Alt");
  await drag(page, held, { x: held.x - 0.8 * perSecond, y: held.y });
  await page.keyboard.up("Alt");
  await page.getByText("Line moved; what follows").waitFor();
  const now = await starts();
  assert.ok(Math.abs(now[1] - was[1] + 0.8) < 0.03, `${was} ${now}`);
  assert.ok(Math.abs(now[2] - was[2] + 0.8) < 0.03);
  await page.keyboard.press("Alt+ArrowRight");
  await until(page, (s) => Math.abs(window.zamblo.score().scene.lines[1].start - s - 0.04) < 0.002, now[1]);
  await page.locator("article").nth(1).getByRole("button", { name: "Up in the script" }).click();
  await until(page, () => window.zamblo.score().scene.lines[0].text === "Nine minutes.");
  for (let n = 0; n < 3; n++) await page.keyboard.press("Control+z").then(() => page.waitForTimeout(400));
  await until(page, (s) => Math.abs(window.zamblo.score().scene.lines[1].start - s) < 0.002, was[1]);

  // The end of a line with Alt: slower, all of it is still heard, and what follows goes along.
  const [line, later] = (await sceneState(page)).lines;
  const end = await scorePoint(page, 0, line.duration - 1 / perSecond, "line");
  await page.keyboard.down("Alt");
  await drag(page, end, { x: end.x + 0.5 * perSecond, y: end.y });
  await page.keyboard.up("Alt");
  await page.getByText("Tempo: 1.00 to").waitFor();
  await until(page, (s) => window.zamblo.score().scene.lines[0].duration > s + 0.4, line.duration);
  const [slow, after] = (await sceneState(page)).lines;
  assert.ok(Math.abs(slow.duration - line.duration - 0.5) < 0.05 && Math.abs(slow.care.speed * slow.duration - line.duration) < 0.02, `${slow.duration}`);
  assert.ok(Math.abs(after.start - later.start - 0.5) < 0.2, `${after.start} from ${later.start}`);
  // Takes show how they sound.
  await turnTo(page, "Voice");
  await until(page, () => document.querySelector("#take li svg[preserveAspectRatio] path")?.getAttribute("d")?.length > 200);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
