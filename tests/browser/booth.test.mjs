// Takes, deliveries, sound and scripts, as a person would use them.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import AxeBuilder from "@axe-core/playwright";
import { newProduction, openPage, sceneState, startBrowser, startServer, typeLine, waitForLines } from "./harness.mjs";

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
const line = async (page, n = 0) => (await sceneState(page)).lines[n];

test("a line is delivered in another way, its takes compared with one key, its sound coloured and brought back", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, Bubb, and not a second more.");
  await until(page, () => window.zamblo.score().scene.lines[0]?.words?.length);
  await page.locator("article h3").first().click();
  await page.locator("#delivery").selectOption("Sad");
  await page.getByText("Stale:").waitFor();
  await page.locator("#take").getByRole("button", { name: "Speak it again" }).click();
  await until(page, () => window.zamblo.score().scene.lines[0].takes.length === 2 && !window.zamblo.score().scene.lines[0].isStale);
  const sad = await line(page);
  assert.ok(sad.takes[1].isUsed && sad.takes[1].duration > sad.takes[0].duration);

  // One key: the other take, and back again.
  await page.locator("#score").focus();
  await page.keyboard.press("t");
  await until(page, () => window.zamblo.score().scene.lines[0].takes[0].isUsed);
  await page.keyboard.press("t");
  await until(page, () => window.zamblo.score().scene.lines[0].takes[1].isUsed);

  const cues = JSON.stringify((await line(page)).cues);
  await page.locator("#take summary").click();
  await page.locator("#colour").selectOption("Telephone");
  await until(page, () => window.zamblo.score().scene.lines[0].care.colour === "Telephone");
  assert.equal(JSON.stringify((await line(page)).cues), cues);
  await page.locator("#score").focus();
  await page.keyboard.press("b");
  await page.getByText("As it came (B").waitFor();
  const length = (await line(page)).duration;
  await page.locator("#care-speed").fill("1.25");
  await until(page, (was) => Math.abs(window.zamblo.score().scene.lines[0].duration - was / 1.25) < 0.01, length);
  const axe = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    axe.violations.map((v) => `${v.id}: ${v.nodes[0].html}`),
    [],
  );
  await page.locator("#take").getByRole("button", { name: "All of it off" }).click();
  await until(page, () => window.zamblo.score().scene.lines[0].care.colour === "Plain" && window.zamblo.score().scene.lines[0].care.speed === 1);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("a script with three roles becomes cast and lines that are spoken", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a script" }).click();
  await page.locator("#words").fill("MARO\nThe oven is hot.\n\nBUBB\n(sadly)\nNobody listens to dough.\n\nTOCK\nNine minutes.\n");
  await page.getByRole("button", { name: "Look it through" }).click();
  await page.getByRole("button", { name: /^Make \d+ lines$/ }).click();
  await page.getByText("3 lines, 2 new in the cast.").waitFor();
  await waitForLines(page, 3);
  await until(page, () => window.zamblo.score().scene.lines.every((l) => l.words?.length));
  const state = await sceneState(page);
  assert.deepEqual(
    state.members.map((m) => m.character),
    ["maro", "bubb", "tock"],
  );
  assert.equal(state.clips[0].name, "Sadness");
  const starts = state.lines.map((l) => l.start);
  assert.ok(starts[0] < starts[1] && starts[1] < starts[2]);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("how a word is said is written down once, heard, and spoken by every line that has it", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Good night, Bubb.");
  await until(page, () => window.zamblo.score().scene.lines[0]?.phones?.length);
  await page.getByRole("tab", { name: "Voice" }).click();
  await page.locator("#lexicon summary").click();
  await page.getByLabel("Word", { exact: true }).fill("Bubb");
  await page.getByLabel("How it is said").fill("B UW B");
  const heard = page.waitForResponse((r) => r.url().endsWith("/api/hear"));
  await page.getByRole("button", { name: "Hear the new word" }).click();
  assert.equal((await heard).status(), 200);
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await page.getByLabel("How bubb is said").waitFor();
  await page.getByRole("button", { name: "Speak the stale line" }).click();
  await until(page, () =>
    window.zamblo
      .score()
      .scene.lines[0].phones?.map((p) => p[0])
      .join(" ")
      .includes("B UW B"),
  );
  await page.getByRole("button", { name: "Say bubb as usual again" }).click();
  await page.getByRole("button", { name: "Speak the stale line" }).waitFor();
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
