// Props are brought in, put where they belong, moved, held by a word, and taken out: with the mouse, and by keys.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { alike, newProduction, openPage, scorePoint, startBrowser, startServer, turnTo, typeLine, until, violations, waitForLines } from "./harness.mjs";

let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

test("a prop comes in by three clicks, is dragged, held from a word on, put behind, and deleted", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Look at this letter, please.");
  await waitForLines(page, 1);
  const props = () => page.evaluate(() => window.zamblo.score().scene.props);
  const clips = () => page.evaluate(() => window.zamblo.score().scene.clips.filter((c) => c.kind === "hold"));
  const lineOf = () => page.evaluate(() => window.zamblo.score().scene.lines[0]);
  const id = await page.evaluate(() => window.zamblo.score().scene.id);

  // Three clicks: the divider, the stock, the thing.
  await turnTo(page, "Set");
  await page.locator("#props").getByRole("button", { name: "Bring one" }).click();
  const stock = page.getByRole("dialog", { name: "Props" });
  await stock.getByRole("button", { name: "Mug" }).waitFor();
  assert.deepEqual(await violations(page), []);
  await stock.getByLabel("Find a prop").fill("lett");
  assert.equal(await stock.getByRole("listitem").count(), 1);
  await stock.getByRole("button", { name: "Letter" }).click();
  await page.locator("#prop").waitFor();
  const [began] = await props();
  assert.equal(began.name, "Letter");

  // It is dragged by what is drawn of it; the member stays.
  const handles = page.locator(".stands");
  const box = await handles.boundingBox();
  const scale = box.width / began.box[2];
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 60, y - 30, { steps: 3 });
  await page.mouse.move(x + 150 * scale, y - 80 * scale, { steps: 3 });
  await page.mouse.up();
  await until(async () => Math.abs((await props())[0].place.x - began.place.x - 150) < 3, "it to be where it was dragged");
  assert.ok(Math.abs((await props())[0].place.y - began.place.y + 80) < 3);
  assert.equal(await page.evaluate(() => window.zamblo.score().scene.members[0].stands.isPlaced), false);

  // Keys move it further, and make it larger.
  const { x: here } = (await props())[0].place;
  await handles.focus();
  for (const key of ["ArrowLeft", "ArrowLeft", "+"]) await page.keyboard.press(key);
  await until(async () => {
    const { place } = (await props())[0];
    return Math.abs(place.x - here + 8) < 0.6 && place.size > 1.03;
  }, "steps and size to be kept");

  // Two clicks: the word from which on it is held, and the button that says so.
  const word = await scorePoint(
    page,
    0,
    (await lineOf()).words[3].slice(1, 3).reduce((a, b) => (a + b) / 2),
    "voice",
  );
  await page.mouse.click(word.x, word.y);
  await page
    .locator("#prop")
    .getByRole("button", { name: /Take it at “letter/ })
    .click();
  await until(async () => (await clips()).length === 1, "it to be in the hand");
  const [hold] = await clips();
  const line = await lineOf();
  assert.ok(Math.abs(hold.start - line.start - line.words[3][1]) < 0.05, `${hold.start}`);
  await alike(page, id, Math.round(25 * (hold.start + 0.3)));

  // What it does by itself.
  await page.locator("#prop-motion").selectOption("Swing");
  await until(async () => (await props())[0].place.motion === "Swing", "it to swing");
  await page.locator("#prop-motion-period").waitFor();

  // Behind whoever stands there.
  const { order } = (await props())[0].place;
  await page.locator("#prop").getByRole("button", { name: "To the back" }).click();
  await until(async () => (await props())[0].place.order < order, "it to be further behind");
  await alike(page, id, 3);
  assert.deepEqual(await violations(page), []);

  // Delete takes the prop, not the line; undone it is held again.
  // At the word it is in the hand: nothing on the stage to take hold of.
  await handles.waitFor({ state: "detached" });
  await page.locator("#props button[title=Letter]").focus();
  await page.keyboard.press("Delete");
  await until(async () => (await props()).length === 0, "it to be gone");
  assert.equal((await clips()).length, 0);
  assert.equal(await page.evaluate(() => window.zamblo.score().scene.lines.length), 1);
  await page.keyboard.press("Control+z");
  await until(async () => (await clips()).length === 1, "it to be held again");
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
