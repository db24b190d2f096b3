// Members are put where they stand: dragged on the stage, moved by keys, by dials; the film shows the same.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { alike, newProduction, openPage, startBrowser, startServer, turnTo, typeLine, until, waitForLines } from "./harness.mjs";

let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

test("somebody is dragged, made larger, moved by keys, and stands by itself again", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Here I stand.");
  await waitForLines(page, 1);
  const stands = () => page.evaluate(() => window.zamblo.score().scene.members[0].stands);
  const still = () => until(() => page.evaluate(() => window.zamblo.waiting() === 0), "edits to be through");
  const handles = page.locator(".stands");
  assert.equal(await handles.count(), 0, "handles are there while Set is open");
  await turnTo(page, "Set");
  await handles.waitFor();

  // The box lies over the figure, wherever the camera looks: its middle is dragged.
  const began = await stands();
  const box = await handles.boundingBox();
  const scale = box.width / began.box[2];
  const [x, y] = [box.x + box.width / 2, box.y + box.height * 0.45];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 40, y - 10, { steps: 3 });
  await page.mouse.move(x + 100 * scale, y - 60 * scale, { steps: 3 });
  await page.mouse.up();
  await until(async () => (await stands()).isPlaced, "the place to be kept");
  const put = await stands();
  assert.ok(Math.abs(put.x - began.x - 100) < 3, `${put.x} from ${began.x}`);
  assert.ok(Math.abs(put.lift - 60) < 3, `${put.lift}`);

  // The corner makes it larger.
  const corner = await page.locator(".stands-size").boundingBox();
  await page.mouse.move(corner.x + 8, corner.y + 8);
  await page.mouse.down();
  await page.mouse.move(corner.x + 40, corner.y - 20, { steps: 4 });
  await page.mouse.up();
  await until(async () => (await stands()).size > 1.05, "it to be larger");

  // Keys: several presses are one step back.
  await still();
  const { x: from } = await stands();
  await handles.focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press("ArrowRight");
  await until(async () => Math.abs((await stands()).x - from - 12) < 0.6, "three steps to the right");
  await still();
  await page.keyboard.press("Control+z");
  await until(async () => Math.abs((await stands()).x - from) < 0.6, "one step back");

  // Steps and size within one breath are both kept.
  const { x: here, size: large } = await stands();
  await handles.focus();
  for (const key of ["ArrowLeft", "-", "ArrowLeft"]) await page.keyboard.press(key);
  await until(async () => Math.abs((await stands()).x - here + 8) < 0.6 && (await stands()).size < 0.97 * large, "both to be kept");
  await still();

  // A click alone moves nobody.
  const now = await stands();
  const at = await handles.boundingBox();
  await page.mouse.click(at.x + at.width / 2, at.y + at.height * 0.45);
  await still();
  assert.deepEqual(await stands(), now);

  // Film and stage show the same.
  await alike(page, await page.evaluate(() => window.zamblo.score().scene.id), 5);

  // Guides lie over the picture, and stay until they are taken off.
  await page.locator("#score").focus();
  await page.keyboard.press("g");
  await page.locator(".guides").waitFor();
  const [guides, picture] = [await page.locator(".guides").boundingBox(), await page.locator("#stage").boundingBox()];
  assert.deepEqual(guides, picture);
  await page.keyboard.press("g");
  await page.locator(".guides").waitFor({ state: "hidden" });

  await page.getByRole("button", { name: "Own place" }).click();
  await until(async () => !(await stands()).isPlaced, "its own place");
  assert.ok(Math.abs((await stands()).x - began.x) < 0.01);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
