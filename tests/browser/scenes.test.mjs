// Scenes: made by a script, gone between, cut in two; and what sounds in them beside the voices.
import assert from "node:assert/strict";
import { spawnSync } from "node:child_process";
import { after, before, test } from "node:test";
import { drag, newProduction, openPage, recordings, sceneState, startBrowser, startServer, turnTo, typeLine, until, waitForLines } from "./harness.mjs";

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
const untilSo = (page, look, value) => until(() => page.evaluate(look, value), String(look));
// Sound that is still arriving puts the playhead back.
async function seek(page, t) {
  for (let i = 0; i < 100; i++) {
    await page.evaluate((at) => (window.zamblo.player.position = at), t);
    await page.waitForTimeout(400);
    if (Math.abs((await page.evaluate(() => window.zamblo.player.position)) - t) < 0.001) return;
  }
  assert.fail("the playhead does not stay");
}
const titles = (state) => state.scenes.map((s) => s.title);

test("headings make scenes, keys go between them, and one is cut at the playhead and joined again by undo", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a script" }).click();
  await page.fill("#words", play);
  await page.getByRole("button", { name: "Look it through" }).click();
  await page.getByRole("button", { name: /^Make \d+ lines$/ }).click();
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

  // What is still being spoken would change the production under an edit.
  await untilSo(page, async () => {
    const { production } = window.zamblo.score().scene;
    const jobs = await (await fetch(`/api/productions/${production.id}/jobs`)).json();
    return jobs.every((j) => j.state === "done");
  });
  await untilSo(page, () => window.zamblo.score().scene.lines.length === 2 && window.zamblo.score().scene.lines.every((l) => l.words));
  const second = (await sceneState(page)).lines[1];
  await seek(page, second.start - 0.01);
  await turnTo(page, "Film");
  await page.getByRole("button", { name: "Cut here" }).click();
  await untilSo(page, () => document.querySelectorAll("article").length === 1);
  assert.equal((await sceneState(page)).scenes.length, 3);
  await page.keyboard.press("Control+z");
  await waitForLines(page, 2);

  // Stillness before the second line, and gone again; takes begin with a frame.
  await seek(page, second.start - 0.01);
  await turnTo(page, "Film");
  await page.getByRole("button", { name: "Beat here" }).click();
  await untilSo(page, (start) => Math.abs(window.zamblo.score().scene.lines[1].start - start - 0.5) < 0.025, second.start);
  await page.getByRole("button", { name: "Even", exact: true }).click();
  await untilSo(page, (start) => Math.abs(window.zamblo.score().scene.lines[1].start - start) < 0.025, second.start);

  // The film has both, one after the other, and its sound is as long as its picture.
  const lengths = await page.evaluate(async () => {
    const { scenes } = window.zamblo.score().scene;
    return Promise.all(scenes.map(async (s) => (await (await fetch(`/api/scenes/${s.id}`)).json()).duration));
  });
  await page.getByRole("button", { name: "Render film" }).first().click();
  const link = page.getByRole("link", { name: "Download" });
  await link.waitFor();
  const [download] = await Promise.all([page.waitForEvent("download"), link.click()]);
  // Its scenes are chapters, for which an MP4 has a track of text, and it has a poster; picture and sound are what is compared.
  const entries = "stream=codec_type,duration:stream_disposition=attached_pic";
  const asked = ["-v", "error", "-show_entries", entries, "-of", "csv=p=0", await download.path()];
  const told = spawnSync("ffprobe", asked, { encoding: "utf8" }).stdout;
  const streams = told
    .trim()
    .split("\n")
    .filter((s) => /^(video|audio).*,0$/.test(s))
    .map((s) => Number(s.split(",")[1]));
  assert.equal(streams.length, 2);
  for (const length of streams) assert.ok(Math.abs(length - lengths[0] - lengths[1]) < 0.05, `${told} for ${lengths}`);
  assert.deepEqual(page.problems, []);
});

test("music is brought in, lies on a lane of its own, is dragged, and the whole is measured", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot, and the flour is on the scale.");
  await waitForLines(page, 1);
  await turnTo(page, "Sound");
  await page.getByLabel("Bring music or an effect").setInputFiles(`${recordings}/librivox/sense_and_sensibility_01_austen_64kb-0870.wav`);
  await page.locator("#sounds li").waitFor();
  const before = (await sceneState(page)).sounds[0];
  assert.equal(before.start, 0);
  await page.getByRole("button", { name: "How loud is all of it?" }).click();
  await page.locator("#loudness", { hasText: /-\d+\.\d LUFS, peak -\d+\.\d dBTP/ }).waitFor();
  // Its lane lies under the staves.
  const from = await page.evaluate(() => {
    const score = window.zamblo.score();
    const box = score.canvas.getBoundingClientRect();
    return { x: box.left + score.x(0.5), y: box.top + Math.max(...score.staves.map((s) => s.y + s.height)) + 8, by: score.x(1) - score.x(0) };
  });
  await drag(page, from, { x: from.x + from.by, y: from.y });
  await untilSo(page, (t) => Math.abs(window.zamblo.score().scene.sounds[0].start - t) < 0.06, 1);
  await page.getByLabel("Take the sound out").click();
  await page.getByText("Nothing sounds beside the voices.").waitFor();
  await page.keyboard.press("Control+z");
  await page.locator("#sounds li").waitFor();
  assert.deepEqual(page.problems, []);
});
