// Motion by hand, walks, looks, several clips, several ways: as a person would use them.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { closeLook } from "../../src/Zamblo.Web/front/close-look.js";
import { check, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until, violations } from "./harness.mjs";

let server, browser;

before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const put = (page, t) => page.evaluate((t) => (window.zamblo.player.position = t), t);
const clips = async (page) => (await sceneState(page)).clips;
// Where the head of the only member is turned, as its drawn nose tells: in stage units.
const middle = (page, frame) =>
  page.evaluate(async (frame) => {
    const id = document.querySelector("[data-scene]").dataset.scene;
    const [shapes, frames] = await Promise.all(
      [fetch(`/api/scenes/${id}/shapes`), fetch(`/api/scenes/${id}/frames?from=${frame}&count=1`)].map(async (r) => (await r).json()),
    );
    const items = frames.frames[0].filter((i) => i[0] >= shapes.back && i[7] > 0);
    return items.reduce((sum, i) => sum + i[5], 0) / items.length;
  }, frame);

test("a head is performed with the pointer while the voice plays, kept, saved, and undone", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, Bubb, and not a second more, whatever the timer on the wall may say about it.");
  await until(() => page.evaluate(() => window.zamblo.score().scene.lines[0]?.words?.length && window.zamblo.player.isLoaded), "the voice");
  await turnTo(page, "Acting");
  await page.locator("#perform summary").click();
  await put(page, 0.4);
  await page.getByRole("button", { name: "Perform from the playhead" }).click();
  await page.getByText("Performing: Space keeps it").waitFor();
  const box = await page.locator("#stage").boundingBox();
  for (let i = 0; i < 30; i++) {
    await page.mouse.move(box.x + box.width * (0.5 + 0.45 * Math.sin(i / 4)), box.y + box.height * 0.6);
    await page.waitForTimeout(40);
  }
  await page.keyboard.press(" ");
  await until(async () => (await clips(page)).length === 1, "the clip");
  const [clip] = await clips(page);
  assert.equal(clip.title, "Performed: head");
  assert.ok(clip.isOwn && clip.replaces && Math.abs(clip.start - 0.4) < 0.1 && clip.end - clip.start > 1, `${clip.start} to ${clip.end}`);
  const motion = await page.evaluate((id) => fetch(`/api/clips/${id}/motion`).then((r) => r.json()), clip.id);
  const turns = motion.tracks.headTurn.map((k) => k[1]);
  // The pointer went to both sides and back; few keys tell it.
  assert.ok(Math.max(...turns) > 15 && Math.min(...turns) < -10, turns.join(" "));
  assert.ok(turns.length < 40, `${turns.length} keys`);
  const delays = await page.evaluate(() => performance.getEntriesByName("hand to picture").map((e) => e.duration));
  assert.ok(delays.length > 5);
  console.log(`# from the hand to the picture: median of ${delays.length}: ${Math.round(delays.sort((a, b) => a - b)[delays.length >> 1])} ms`);

  await page.locator("#clip-own").fill("Look about");
  await page.locator("#clip-own").press("Tab");
  await until(async () => (await clips(page))[0].title === "Look about", "the name");
  await page.getByRole("button", { name: "Library" }).click();
  await page.getByText("is in the library").waitFor();
  assert.deepEqual(await violations(page), []);
  await page.locator("#acting").getByText("Gestures", { exact: true }).click();
  await page.locator("#gesture-part").selectOption("own");
  await put(page, 3);
  await page.getByRole("button", { name: "Look about", exact: true }).click();
  await until(async () => (await clips(page)).length === 2, "the saved motion");

  // Copied into another production it moves as it did; out of the library, clips keep it.
  await page.getByRole("button", { name: "Copy", exact: true }).click();
  await page.getByRole("button", { name: "Out of the library: Look about" }).click();
  await page.getByText("is out of the library").waitFor();
  assert.equal(await page.getByRole("button", { name: "Look about", exact: true }).count(), 0);
  const address = page.url();
  await newProduction(page, server);
  await put(page, 0.5);
  await page.keyboard.press("Control+v");
  await until(async () => (await clips(page)).length === 1, "the motion in another production");
  const [copy] = await clips(page);
  const copied = await page.evaluate((id) => fetch(`/api/clips/${id}/motion`).then((r) => r.json()), copy.id);
  assert.deepEqual(copied.tracks, motion.tracks);
  await page.goto(address);
  await page.locator("#stage[data-frame]").waitFor();
  assert.equal((await clips(page)).length, 2);
  for (let i = 0; i < 3; i++) {
    await page.getByRole("button", { name: "Undo" }).first().click();
    await page.waitForTimeout(700);
  }
  await until(async () => (await clips(page)).length === 0, "three steps back");
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("a game controller performs: its stick turns the head, its button keeps it", async () => {
  const page = await openPage(browser, server);
  await page.addInitScript(() => {
    // A controller as the browser tells of one: four axes, buttons that are pressed or not (W3C Gamepad, "standard").
    const pad = { connected: true, mapping: "standard", axes: [0.05, 0, 0, 0], buttons: Array.from({ length: 17 }, () => ({ pressed: false, value: 0 })) };
    Object.assign(window, { pad });
    navigator.getGamepads = () => [null, pad];
  });
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, Bubb, and not a second more, whatever the timer on the wall may say about it.");
  await until(() => page.evaluate(() => window.zamblo.score().scene.lines[0]?.words?.length && window.zamblo.player.isLoaded), "the voice");
  await turnTo(page, "Acting");
  await page.locator("#perform summary").click();
  await put(page, 0.4);
  await page.getByRole("button", { name: "Perform from the playhead" }).click();
  await page.getByText("Performing: Space keeps it").waitFor();
  for (let i = 0; i < 24; i++) {
    await page.evaluate((x) => (window.pad.axes[0] = x), Math.sin(i / 3));
    await page.waitForTimeout(50);
  }
  await page.evaluate(() => (window.pad.buttons[0].pressed = true));
  await until(async () => (await clips(page)).length === 1, "the clip");
  const [clip] = await clips(page);
  const motion = await page.evaluate((id) => fetch(`/api/clips/${id}/motion`).then((r) => r.json()), clip.id);
  const turns = motion.tracks.headTurn.map((k) => k[1]);
  assert.ok(Math.max(...turns) > 15 && Math.min(...turns) < -15, turns.join(" "));
  check(page);
  await page.context().close();
});

test("a member enters, walks and looks where it is told; clips are picked together, lined up, joined and folded away", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, Bubb, and not a second more, whatever the timer on the wall may say about it.");
  await until(() => page.evaluate(() => window.zamblo.score().scene.lines[0]?.words?.length), "the voice");
  await turnTo(page, "Acting");
  await page.locator("#acting").getByText("Places on stage").click();
  await put(page, 0.2);
  await page.getByRole("button", { name: "Enters from the left" }).click();
  await until(async () => (await clips(page)).length === 1, "the entrance");
  const walk = (await clips(page))[0];
  assert.equal(walk.title, "Entrance");
  const [off, on] = [await middle(page, 1), await middle(page, Math.ceil(walk.end * 25) + 2)];
  assert.ok(on - off > 500, `it came from ${off} to ${on}`);

  await page.keyboard.press("Escape");
  await turnTo(page, "Acting");
  await page.locator("#acting").getByText("Looks", { exact: true }).click();
  await put(page, 3);
  await page.locator("#acting").getByRole("button", { name: "To the right", exact: true }).first().click();
  await until(async () => (await clips(page)).some((c) => c.kind === "look"), "the look");
  await page.keyboard.press("Escape");
  await page.locator("#acting").getByText("Gestures", { exact: true }).click();
  for (const [at, name] of [
    [1, "Brow flash"],
    [3.2, "Frown"],
  ]) {
    await put(page, at);
    await page.getByRole("button", { name, exact: true }).click();
    await until(async () => (await clips(page)).some((c) => c.title === name), name);
    await page.keyboard.press("Escape");
  }
  await until(() => page.evaluate(() => window.zamblo.score().scene.clips.length === 4), "the score");
  const score = await page.locator("#score").boundingBox();
  const place = (title) =>
    page.evaluate((title) => {
      const score = window.zamblo.score();
      const clip = score.scene.clips.find((c) => c.title === title);
      return [score.x((clip.start + clip.end) / 2), score.staves[0].y + score.staves[0].lanes.gesture + 8];
    }, title);
  const press = async (title, modifiers) => {
    const [x, y] = await place(title);
    if (modifiers) await page.keyboard.down("Control");
    await page.mouse.click(score.x + x, score.y + y);
    if (modifiers) await page.keyboard.up("Control");
  };
  await press("Brow flash");
  await press("Frown", true);
  await page.getByText("2 are picked").waitFor();
  await page.getByRole("button", { name: "Line up" }).click();
  await until(async () => {
    const list = await clips(page);
    return Math.abs(list.find((c) => c.title === "Frown").start - list.find((c) => c.title === "Brow flash").end) < 0.01;
  }, "one after the other");
  await page.getByRole("button", { name: "Join", exact: true }).click();
  await until(async () => (await clips(page)).filter((c) => c.kind === "gesture").length === 1, "one clip");
  assert.equal((await clips(page)).find((c) => c.kind === "gesture").title, "Brow flash, Frown");
  await until(() => page.evaluate(() => window.zamblo.score().scene.clips.length === 3), "the score");
  await page.getByRole("group", { name: "Lanes" }).getByRole("button", { name: "Stage" }).click();
  assert.deepEqual(await page.evaluate(() => Object.keys(window.zamblo.score().staves[0].lanes)), ["look", "gesture"]);
  await page.getByLabel("Which clips are shown").selectOption("own");
  assert.deepEqual(await page.evaluate(() => Object.keys(window.zamblo.score().staves[0].lanes)), ["gesture"]);
  assert.deepEqual(await violations(page), []);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("several ways lie side by side, and one of them, or a part of it, is taken", async () => {
  const page = await openPage(browser, server);
  // Looking at the canvases is what this test does, not what the page does.
  page.expected.push("willReadFrequently");
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, Bubb, and not a second more.");
  await until(() => page.evaluate(() => window.zamblo.score().scene.lines[0]?.words?.length), "the voice");
  // The dials are there, and answer.
  await turnTo(page, "Acting");
  await page.locator("#motion-expressiveness").fill("1.4");
  await until(async () => (await sceneState(page)).members[0].performance.expressiveness === 1.4, "the dial");
  await page.locator("#motion-expressiveness").fill("1");
  await until(async () => (await sceneState(page)).members[0].performance.expressiveness === 1, "the dial");
  await page.getByRole("button", { name: "Several ways side by side" }).click();
  await page.getByText("Way 2").waitFor();
  const painted = () =>
    page.evaluate(() =>
      [...document.querySelectorAll("dialog[open] canvas")].map(
        (c) => c.width > 300 && c.getContext("2d").getImageData(c.width / 2, c.height / 2, 1, 1).data[3] === 255,
      ),
    );
  await until(async () => (await painted()).every(Boolean) && (await painted()).length === 4, "four pictures");
  assert.deepEqual(await violations(page), []);
  await page.getByRole("button", { name: "only the eyes" }).nth(1).click();
  await until(async () => (await sceneState(page)).members[0].performance.eyesSeed === 3, "the eyes of the third way");
  assert.equal((await sceneState(page)).members[0].performance.seed, 1);
  // More can be taken of the others, looked at from near by.
  const sheet = page.getByRole("dialog", { name: "Several ways side by side" });
  await sheet.getByRole("button", { name: "Face", exact: true }).click();
  await until(async () => (await painted()).every(Boolean), "four faces");
  await sheet.getByRole("button", { name: "only the head" }).first().click();
  await until(async () => (await sceneState(page)).members[0].performance.headSeed === 2, "the head of the second way");
  await sheet.getByRole("button", { name: "Close" }).click();
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("the large view follows its figure, as wide as the face or the body", () => {
  const stands = { face: [90, 20, 20, 30], box: [80, 0, 40, 160], first: 3 };
  const at = (x) => [null, null, null, [3, 1, 0, 0, 1, x, 190, 0, 0]];
  const [x, y, wide] = closeLook({ stands }, at(100), 1.5, "face");
  assert.deepEqual([x, y, Math.round(wide)], [100, 35, 54]);
  assert.equal(closeLook({ stands }, at(700), 1.5, "face")[0], 700);
  assert.equal(Math.round(closeLook({ stands }, at(700), 1.5, "body")[2]), 259);
  assert.equal(closeLook({ stands }, [], 1.5, "face")[0], 100);
});

test("who is picked is seen large, face or figure, and runs when told to", async () => {
  const page = await openPage(browser, server);
  page.expected.push("willReadFrequently");
  await newProduction(page, server);
  await typeLine(page, "The oven is hot, and the bread will not wait.");
  await turnTo(page, "Acting");
  await page.keyboard.press("h");
  const painted = () =>
    page.evaluate(() => {
      const canvas = document.getElementById("face-view");
      const data = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height).data;
      let sum = 0;
      for (let i = 0; i < data.length; i += 97) sum = (sum * 31 + data[i]) % 1e9;
      return canvas.width > 100 ? sum : 0;
    });
  await page.waitForFunction(() => document.getElementById("face-view").width > 100);
  const face = await painted();
  await page.getByRole("button", { name: "Show all of the figure" }).click();
  assert.notEqual(await painted(), face);
  await page.getByRole("button", { name: "Show the face" }).click();
  assert.equal(await painted(), face);
  // It goes along with the playhead.
  await page.keyboard.press("Shift+ArrowRight");
  await page.waitForFunction(() => window.zamblo.player.position > 0.3);
  await until(async () => (await painted()) !== face, "another picture");
  await page.getByText("Places on stage").click();
  await page.getByRole("button", { name: "Off to the right", exact: true }).click();
  await page.locator("#clip-manner").waitFor();
  const walk = async () => (await sceneState(page)).clips.find((c) => c.kind === "walk");
  const slow = await walk();
  await page.locator("#clip-manner").selectOption("Runs");
  await until(async () => (await walk()).name === "run", "a run");
  const fast = await walk();
  assert.ok(fast.end - fast.start < slow.end - slow.start, `${slow.end - slow.start} ${fast.end - fast.start}`);
  await page.keyboard.press("h");
  await page.locator("#face-view").waitFor({ state: "hidden" });
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
