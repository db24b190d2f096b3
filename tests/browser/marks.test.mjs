// Marks on the floor, walks to them, who faces whom, over the shoulder, the light's lane, and a scene that carries on.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { check, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until, violations, waitForLines } from "./harness.mjs";

let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

test("a mark is laid, dragged and walked to; everybody turns to whoever stands next; the next scene carries on", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await turnTo(page, "Set");
  await page.getByRole("button", { name: "Add a cast member" }).click();
  await page.getByRole("button", { name: "Add to the cast: Wick" }).first().click();
  await until(async () => (await sceneState(page)).members.length === 2, "two on stage");
  await typeLine(page, "Nine minutes, and not a second more.");
  await waitForLines(page, 1);
  await turnTo(page, "Set");

  // Laid where whoever is picked stands, named, dragged, moved by keys.
  const marks = async () => (await sceneState(page)).scene.marks;
  await page.getByRole("button", { name: "Mark", exact: true }).click();
  await until(async () => (await marks()).length === 1, "the mark");
  await page.getByLabel("Name of Mark 1").fill("Oven");
  await page.keyboard.press("Tab");
  await until(async () => (await marks())[0].name === "Oven", "its name");
  const [{ x: from }] = await marks();
  const mark = page.locator(".floor-mark");
  const box = await mark.boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 60, box.y + 4, { steps: 5 });
  await page.mouse.up();
  await until(async () => (await marks())[0].x < from - 60, "the mark elsewhere");
  const [{ x: put }] = await marks();
  await mark.focus();
  await page.keyboard.press("Shift+ArrowLeft");
  await until(async () => (await marks())[0].x === put - 24, "a step to the left");
  assert.deepEqual(await violations(page), []);

  // One command; a dial for each.
  await page.getByRole("button", { name: "Face each other" }).click();
  const facing = async () => (await sceneState(page)).members.map((m) => m.stands.facing);
  await until(async () => (await facing()).join() === "1,-1", "both to face each other");
  await page.getByRole("button", { name: "Face the camera" }).click();
  await until(async () => (await facing()).join() === "0,0", "both to face the camera");

  // Two clicks from anywhere in Acting: a walk there, that goes along when the mark is moved.
  await page.evaluate(() => (window.zamblo.player.position = 0.8));
  await turnTo(page, "Acting");
  await page.locator("#acting").getByText("Places on stage").click();
  await page.getByRole("button", { name: "To Oven" }).click();
  const walk = async () => (await sceneState(page)).clips.find((c) => c.kind === "walk");
  await until(async () => (await walk())?.walkTo === put - 24, "the walk");
  assert.equal(await page.locator("#clip-mark").inputValue(), (await marks())[0].id);

  // Over the shoulder, and whose.
  await turnTo(page, "Camera");
  await page.locator("#shot").waitFor();
  await page.locator("[data-framing=Shoulder]").click();
  await until(async () => (await sceneState(page)).shots.some((s) => s.framing === "Shoulder" && s.other), "the shot");
  assert.ok(await page.locator("#shot-past").isVisible());

  // A change of the light lies on a lane, where it is picked.
  await turnTo(page, "Set");
  await page.locator("#light").getByRole("button", { name: /^From/ }).click();
  await until(async () => (await sceneState(page)).clips.some((c) => c.kind === "light"), "the light");
  await turnTo(page, "Film");
  const at = await page.evaluate(() => {
    const score = window.zamblo.score();
    const light = score.lights[0];
    const { x, y } = score.canvas.getBoundingClientRect();
    return { id: light.id, x: x + score.x((light.start + light.end) / 2), y: y + score.under + score.shotsHeight + 8 };
  });
  await page.mouse.click(at.x, at.y);
  await until(() => page.evaluate((id) => window.zamblo.score().clip === id, at.id), "the change of the light to be picked");
  await page.locator("#light-steps").waitFor();
  await until(() => page.evaluate(() => document.getElementById("light").getBoundingClientRect().top < innerHeight / 2), "the light in sight");

  // The next scene begins as this one ended, and does so anew when this one was changed.
  const first = await sceneState(page);
  const { member } = await walk();
  await page.getByRole("button", { name: "Scene", exact: true }).click();
  await until(async () => (await sceneState(page)).scenes.length === 2 && (await sceneState(page)).id !== first.id, "the second scene");
  assert.equal((await sceneState(page)).scene.light.light, "Night");
  assert.equal(Math.round((await sceneState(page)).members.find((m) => m.id === member).stands.x), put - 24);
  await turnTo(page, "Film");
  await page.locator("#carry-on").click();
  await page.getByText("Carried on").waitFor();
  check(page);
  await page.context().close();
});
