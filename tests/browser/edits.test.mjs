// No edit is lost: quick fingers, slow answers, other tabs, refused edits, and words that were only begun.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { check, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until } from "./harness.mjs";

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const heard = (page) => until(() => page.evaluate(() => window.zamblo.score().scene.lines[0]?.words?.length), "the voice");
const quiet = (page) => until(() => page.evaluate(() => window.zamblo.waiting() === 0), "the edits");
// Answers to edits come late, as over a slow line.
const slow = (page, what = "**/api/**") =>
  page.route(what, async (route) => {
    if (route.request().method() !== "GET") await new Promise((r) => setTimeout(r, 250));
    await route.continue();
  });

test("four quick presses are four steps, whatever the answers take", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot, and the flour is on the scale.");
  await heard(page);
  await slow(page);
  const { start, fps } = await page.evaluate(() => ({ start: window.zamblo.score().scene.lines[0].start, fps: window.zamblo.score().scene.fps }));
  await page.locator("article h3").first().click();
  for (let i = 0; i < 4; i++) await page.keyboard.press("Alt+ArrowRight");
  await quiet(page);
  assert.ok(Math.abs((await sceneState(page)).lines[0].start - start - 4 / fps) < 0.002);
  // Stronger four times: each from what the one before has made.
  await page.locator("article .said", { hasText: "oven" }).click();
  const strength = () =>
    page.evaluate(() => {
      const { cues, words } = window.zamblo.score().scene.lines[0];
      const oven = words.find((w) => w[0] === "oven");
      return cues.find((c) => (c[1] + c[2]) / 2 >= oven[1] && (c[1] + c[2]) / 2 < oven[2] && c[4] !== "Rest")[3];
    });
  const was = await strength();
  for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowDown");
  await quiet(page);
  assert.ok(Math.abs((await strength()) - was / 1.15 ** 4) < 0.03, `${was} became ${await strength()}`);
  // And undo goes as many steps back, pressed as quickly.
  for (let i = 0; i < 8; i++) await page.keyboard.press("Control+z");
  await quiet(page);
  assert.ok(Math.abs((await sceneState(page)).lines[0].start - start) < 0.002);
  assert.equal(await strength(), was);
  check(page);
  await page.context().close();
});

test("a dial that is turned while an answer is on the way ends where it was let go", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await slow(page);
  await turnTo(page, "Face");
  const dial = page.locator("#dial-strength");
  const set = (value, end) =>
    dial.evaluate(
      (e, [value, end]) => {
        e.value = value;
        e.dispatchEvent(new Event("input", { bubbles: true }));
        if (end) e.dispatchEvent(new Event("change", { bubbles: true }));
      },
      [value, end],
    );
  await set(0.5, true);
  await page.waitForTimeout(120);
  // The first answer comes in the middle of this.
  for (const value of [0.6, 0.7, 0.8, 0.9]) {
    await set(value, false);
    await page.waitForTimeout(150);
    assert.equal(Number(await dial.inputValue()), value);
  }
  await set(1.2, true);
  await quiet(page);
  assert.equal((await sceneState(page)).members[0].mouth.strength, 1.2);
  assert.equal(Number(await dial.inputValue()), 1.2);
  check(page);
  await page.context().close();
});

test("tabs see each other's edits at once; what has changed is refused, with what it is now, and what was typed stays", async () => {
  const page = await openPage(browser, server);
  page.expected.push("409", "ERR_FAILED");
  await newProduction(page, server);
  const other = await page.context().newPage();
  await other.goto(page.url());
  await other.locator("#stage[data-frame]").waitFor();
  await turnTo(other, "Set");
  await other.locator("#role").fill("Night baker");
  await other.keyboard.press("Enter");
  await page.getByRole("button", { name: "Night baker" }).waitFor();
  // A tab that hears no news: the other's change is not known here.
  const deaf = await page.context().newPage();
  await deaf.route("**/news*", (route) => route.abort());
  await deaf.goto(page.url());
  await deaf.locator("#stage[data-frame]").waitFor();
  await other.locator("#role").fill("Early baker");
  await other.keyboard.press("Enter");
  await page.getByRole("button", { name: "Early baker" }).waitFor();
  // Something else is no quarrel.
  await turnTo(deaf, "Film");
  await deaf.getByLabel("Title of the scene").fill("Before dawn");
  await deaf.keyboard.press("Enter");
  await until(async () => (await sceneState(page)).scene.title === "Before dawn", "the title");
  await other.locator("#role").fill("Late baker");
  await other.keyboard.press("Enter");
  await until(async () => (await sceneState(page)).members[0].roleName === "Late baker", "the name");
  await turnTo(deaf, "Set");
  await deaf.locator("#role").fill("Day baker");
  await deaf.keyboard.press("Enter");
  await deaf
    .getByRole("alert")
    .filter({ hasText: "“Late baker” now" })
    .or(deaf.getByRole("alert").filter({ hasText: '"Late baker" now' }))
    .first()
    .waitFor();
  assert.equal(await deaf.locator("#role").inputValue(), "Day baker");
  assert.equal((await sceneState(page)).members[0].roleName, "Late baker");
  // Now that it is known, it can be done.
  await deaf.locator("#role").fill("Day baker ");
  await deaf.keyboard.press("Enter");
  await until(async () => (await sceneState(page)).members[0].roleName === "Day baker", "the name");
  check(page);
  await page.context().close();
});

test("words that were begun survive Escape, a reload and a refused edit, until they are used or thrown away", async () => {
  const page = await openPage(browser, server);
  page.expected.push("500");
  await newProduction(page, server);
  await page.keyboard.press("n");
  await page.locator("#words").fill("Forty rolls, one baker.");
  await page.keyboard.press("Escape");
  await page.reload();
  await page.locator("#stage[data-frame]").waitFor();
  await page.keyboard.press("n");
  assert.equal(await page.locator("#words").inputValue(), "Forty rolls, one baker.");
  await page.keyboard.press("Control+Enter");
  await heard(page);
  await page.keyboard.press("n");
  assert.equal(await page.locator("#words").inputValue(), "");
  await page.keyboard.press("Escape");
  // In the editor of a line.
  await page.getByRole("button", { name: "Change the words" }).click();
  await page.getByLabel("Words of the line").fill("Forty rolls and one baker.");
  await page.keyboard.press("Escape");
  await page.reload();
  await page.locator("#stage[data-frame]").waitFor();
  await page.getByRole("button", { name: "Go on with the words that you began" }).click();
  assert.equal(await page.getByLabel("Words of the line").inputValue(), "Forty rolls and one baker.");
  await page.route("**/api/lines/*", (route) => route.fulfill({ status: 500, json: { error: "The disk is full." } }));
  await page.getByRole("button", { name: "Keep" }).click();
  await page.getByRole("alert").filter({ hasText: "The disk is full" }).waitFor();
  assert.equal(await page.getByLabel("Words of the line").inputValue(), "Forty rolls and one baker.");
  await page.unroute("**/api/lines/*");
  await page.getByRole("button", { name: "Keep" }).click();
  await until(async () => (await sceneState(page)).lines[0].text === "Forty rolls and one baker.", "the words");
  await page.getByRole("button", { name: "Change the words" }).click();
  await page.getByLabel("Words of the line").fill("Nothing.");
  await page.getByRole("button", { name: "Leave as it was" }).click();
  assert.equal(await page.getByRole("button", { name: "Go on with the words that you began" }).isVisible(), false);
  check(page);
  await page.context().close();
});

test("a box that has been ticked stays ticked while its edit is on the way, whatever other tabs do meanwhile", async () => {
  const page = await openPage(browser, server);
  const { id } = (await newProduction(page, server), await sceneState(page)).production;
  const other = await page.context().newPage();
  await other.goto(page.url());
  await turnTo(page, "Film");
  const names = page.getByLabel("Names, when somebody first speaks");
  await names.waitFor();
  // The state as it was before is still on its way when the box is ticked.
  const gates = ["state", id].map((end) => {
    const gate = {};
    gate.opened = new Promise((r) => (gate.open = r));
    gate.asked = page.route(`**/${end}`, async (route) => {
      const answer = end === id ? null : await route.fetch();
      gate.came?.();
      await gate.opened;
      await (answer ? route.fulfill({ response: answer }) : route.continue());
    });
    return gate;
  });
  await Promise.all(gates.map((g) => g.asked));
  const underWay = new Promise((r) => (gates[0].came = r));
  await turnTo(other, "Film");
  await other.locator("#size").selectOption("1080x1080");
  await underWay;
  await names.click();
  gates[0].open();
  await page.waitForFunction(() => window.zamblo.score().scene.production.height === 1080);
  assert.equal(await names.isChecked(), true);
  gates[1].open();
  await quiet(page);
  const { lettering, height } = (await sceneState(page)).production;
  assert.deepEqual([lettering.hasNames, height, await names.isChecked()], [true, 1080, true]);
  check(page);
  await page.context().close();
});
