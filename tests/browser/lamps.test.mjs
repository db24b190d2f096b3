// Lamps on the stage: hung, dragged, dialled, dimmed by a change of the light; and figures in the shade, the same on the canvas and in the film.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { alike, check, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until, violations, waitForLines } from "./harness.mjs";

let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

test("a lamp is hung, dragged and dialled, goes out on a word; canvas and film show the same light and shade", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, and not a second more.");
  await waitForLines(page, 1);
  await turnTo(page, "Set");
  const lamps = async () => (await sceneState(page)).scene.light.lamps;
  await page.getByRole("button", { name: "Lamp", exact: true }).click();
  await until(async () => (await lamps()).length === 1, "the lamp");
  const [{ x, y, reach }] = await lamps();

  // Dragged by its bulb, made to reach farther by its ring and by a key, moved by keys.
  const drag = async (target, dx, dy) => {
    const box = await target.boundingBox();
    const at = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(...at);
    await page.mouse.down();
    await page.mouse.move(at[0] + dx, at[1] + dy, { steps: 5 });
    await page.mouse.up();
  };
  await drag(page.locator(".lamp button"), -80, 30);
  await until(async () => (await lamps())[0].x < x - 80 && (await lamps())[0].y > y + 20, "the lamp elsewhere");
  await drag(page.locator(".lamp-ring i"), 40, 0);
  await until(async () => (await lamps())[0].reach > reach + 40, "its light to reach farther");
  const [far] = await lamps();
  await page.locator(".lamp button").focus();
  await page.keyboard.press("-");
  await page.keyboard.press("ArrowUp");
  await until(async () => (await lamps())[0].y === far.y - 4 && (await lamps())[0].reach < far.reach, "both keys");

  // Dials of the one that is picked.
  await page.getByLabel("Flicker").fill("0.6");
  await until(async () => (await lamps())[0].flicker === 0.6, "the flicker");
  await page.getByLabel("Colour of Lamp 1").fill("#ff8040");
  await until(async () => (await lamps())[0].color === "#ff8040", "its colour");
  assert.deepEqual(await violations(page), []);

  // The light changes, and with it the shade; the lamp goes out.
  await page.getByLabel("Light", { exact: true }).selectOption("Morning");
  await page.getByLabel("The light becomes").selectOption("Dusk");
  await page.keyboard.press("Home");
  await page.getByRole("button", { name: /From .* on/ }).click();
  const steps = async () => (await sceneState(page)).clips.filter((c) => c.kind === "light");
  await until(async () => (await steps()).length === 1, "the change");
  await page.getByLabel(/Per cent of the lamps from/).fill("0");
  await page.keyboard.press("Tab");
  await until(async () => (await steps())[0].lamps === 0, "the lamp to go out");
  const id = await page.evaluate(() => window.zamblo.score().scene.id);
  for (const frame of [0, 12, 50]) await alike(page, id, frame);

  await page.locator(".lamp button").focus();
  await page.keyboard.press("Delete");
  await until(async () => (await lamps()).length === 0, "it to be gone");
  await page.keyboard.press("Control+z");
  await until(async () => (await lamps()).length === 1, "it to be back");
  check(page);
});
