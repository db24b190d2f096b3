// A script with two scenes, the way between them, and cutting one in two.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { newProduction, openPage, sceneState, startBrowser, startServer, waitForLines } from "./harness.mjs";

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const play = `INT. BAKERY - NIGHT

MARO
The oven is hot.

BUBB
I am hungry.

INT. PROVING ROOM - LATER

TOCK
Ten minutes.
`;
// The page's policy forbids what waitForFunction does.
async function until(page, told, value) {
  for (let i = 0; i < 150; i++) {
    if (await page.evaluate(told, value)) return;
    await page.waitForTimeout(100);
  }
  assert.fail(`never: ${told}`);
}
const titles = (state) => state.scenes.map((s) => s.title);

test("headings make scenes, keys go between them, and one is cut at the playhead and joined again by undo", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a script" }).click();
  await page.fill("#words", play);
  await page.getByRole("button", { name: "Make its lines" }).click();
  await waitForLines(page, 2);
  assert.deepEqual(titles(await sceneState(page)), ["INT. BAKERY - NIGHT", "INT. PROVING ROOM - LATER"]);
  await page.locator("#stage").click();
  await page.keyboard.press("PageDown");
  await page.getByText("Ten minutes.").waitFor();
  assert.match(page.url(), /scene=/);
  // The address opens the same scene.
  await page.reload();
  await page.getByText("Ten minutes.").waitFor();
  await page.locator("#scene").selectOption({ index: 0 });
  await waitForLines(page, 2);
  await page.locator("article .said", { hasText: "hungry" }).waitFor();

  const second = (await sceneState(page)).lines[1];
  await page.evaluate((t) => (window.zamblo.player.position = t), second.start - 0.01);
  await page.getByRole("button", { name: "Cut here" }).click();
  await until(page, () => document.querySelectorAll("article").length === 1);
  assert.equal((await sceneState(page)).scenes.length, 3);
  await page.keyboard.press("Control+z");
  await waitForLines(page, 2);

  // Stillness before the second line, and gone again.
  await page.evaluate((t) => (window.zamblo.player.position = t), second.start - 0.01);
  await page.getByRole("button", { name: "Beat here" }).click();
  await until(page, (start) => Math.abs(window.zamblo.score().scene.lines[1].start - start - 0.5) < 0.01, second.start);
  await page.getByRole("button", { name: "Even", exact: true }).click();
  await until(page, (start) => Math.abs(window.zamblo.score().scene.lines[1].start - start) < 0.01, second.start);
  assert.deepEqual(page.problems, []);
});
