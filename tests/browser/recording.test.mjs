// Recordings that go into a take, that outlive their tab, and files that are cut by hand.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { join } from "node:path";
import { tmpdir } from "node:os";
import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import {
  addFile,
  check,
  newProduction,
  openPage,
  recordings,
  sceneState,
  startBrowser,
  startServer,
  typeLine,
  waitForLines,
  until,
  violations,
} from "./harness.mjs";

let server, browser, folder, microphone;

before(async () => {
  folder = mkdtempSync(join(tmpdir(), "zamblo-mic-"));
  microphone = join(folder, "reading.wav");
  spawnSync("ffmpeg", [
    "-nostdin",
    "-v",
    "error",
    "-f",
    "s16le",
    "-ar",
    "16000",
    "-i",
    join(recordings, "goforward.raw"),
    "-af",
    "apad=whole_dur=4",
    "-ar",
    "48000",
    microphone,
  ]);
  server = await startServer();
  browser = await startBrowser({ microphone });
});
after(async () => {
  await browser?.close();
  server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

test("what was recorded when the tab was closed is there again, and becomes the line", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Record it" }).click();
  await page.locator("#words").fill("go forward ten meters");
  await page.getByRole("button", { name: "Record", exact: true }).click();
  await page.getByRole("button", { name: "Stop" }).waitFor();
  await page.waitForTimeout(4300);
  const address = page.url();
  const again = await page.context().newPage();
  await page.close({ runBeforeUnload: false });
  await again.waitForTimeout(4500);
  await again.goto(address);
  await again.locator("[data-left-over]").waitFor();
  assert.deepEqual(await violations(again), []);
  await again.getByRole("button", { name: "Listen and decide" }).click();
  await until(() => again.evaluate(() => document.querySelector("audio").duration > 2.5 || document.querySelector("audio").readyState > 0), "the recording");
  assert.equal(await again.locator("#words").inputValue(), "go forward ten meters");
  await again.getByRole("button", { name: "Keep" }).last().click();
  await waitForLines(again, 1);
  await until(async () => (await sceneState(again)).lines[0]?.words?.length === 4, "its words");
  const line = (await sceneState(again)).lines[0];
  assert.ok(line.duration > 2.5, `${line.duration} s were kept`);
  assert.equal(await again.locator("[data-left-over]").count(), 0);
  await again.context().close();
});

test("a recording goes into the take at the playhead, what comes after it stays", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Nine minutes, Bubb, and not a second more, whatever the timer on the wall may say about it.");
  const before = (await sceneState(page)).lines[0];
  await page.evaluate((at) => (window.zamblo.player.position = at), before.start + 1.5);
  await page.locator("article").first().getByRole("button", { name: "Another take" }).click();
  await page.getByRole("button", { name: "Record it" }).last().click();
  await page.getByText("Record into the take, from the playhead (1.50 s of the line)").click();
  assert.deepEqual(await violations(page), []);
  await page.getByRole("button", { name: "Record", exact: true }).click();
  await page.getByRole("button", { name: "Stop" }).waitFor();
  await page.waitForTimeout(1200);
  await page.getByRole("button", { name: "Stop" }).click();
  await page.getByRole("button", { name: "Keep" }).last().click();
  await until(async () => (await sceneState(page)).lines[0].takes.length === 2, "the take");
  const now = (await sceneState(page)).lines[0];
  assert.ok(now.takes[1].isUsed && now.take.kind === "recording");
  assert.ok(Math.abs(now.duration - before.duration) < 0.05, `${before.duration} s became ${now.duration} s`);
  // The playhead is where the recording began: nothing has run on underneath it.
  assert.ok(Math.abs((await page.evaluate(() => window.zamblo.player.position)) - before.start - 1.5) < 0.05);
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("a drag over the waveform of a file makes lines of it, and an edge is dragged on the score", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a file" }).first().click();
  await page.locator("#speakers").selectOption("hand");
  await page.getByLabel("Choose a sound file").setInputFiles(microphone);
  await page.locator("#wave").waitFor();
  await until(async () => (await page.locator("#wave").boundingBox()).width > 500, "the waveform");
  const box = await page.locator("#wave").boundingBox();
  for (const [from, to] of [
    [0.08, 0.33],
    [0.36, 0.66],
  ]) {
    await page.mouse.move(box.x + from * box.width, box.y + 60);
    await page.mouse.down();
    await page.mouse.move(box.x + to * box.width, box.y + 60, { steps: 4 });
    await page.mouse.up();
  }
  assert.deepEqual(await violations(page), []);
  await page.getByLabel("End of stretch 2 in seconds").fill("2.70");
  await page.getByLabel("End of stretch 2 in seconds").press("Tab");
  await page.getByRole("button", { name: "Make 2 lines" }).click();
  await waitForLines(page, 2);
  const [first, second] = (await sceneState(page)).lines;
  assert.ok(Math.abs(first.duration - 1) < 0.03 && Math.abs(second.duration - (2.7 - 0.36 * 4)) < 0.03, `${first.duration} and ${second.duration} s`);
  await until(async () => (await sceneState(page)).lines.every((l) => !l.listening), "the hearing");
  await until(() => page.evaluate(() => window.zamblo.score().scene.lines.every((l) => !l.listening)), "the score");
  const [x, y, width] = await page.evaluate(() => {
    const score = window.zamblo.score();
    const line = score.scene.lines[0];
    return [score.x(line.start), score.staves[0].y + 5, score.pixelsPerSecond];
  });
  const score = await page.locator("#score").boundingBox();
  await page.keyboard.down("Alt");
  await page.mouse.move(score.x + x + 2, score.y + y);
  await page.mouse.down();
  await page.mouse.move(score.x + x + 2 - 0.2 * width, score.y + y, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up("Alt");
  await until(async () => Math.abs((await sceneState(page)).lines[0].duration - 1.2) < 0.03, "a longer line");
  assert.deepEqual(page.problems, []);
  await page.context().close();
});

test("while somebody reads, keys go from sentence to sentence though a click began it, and the page behind stays", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Record it" }).click();
  const dialog = page.getByRole("dialog", { name: "Add a voice" });
  await page.locator("#words").fill("The oven is hot. The bread will wait. Nobody knows why.");
  await dialog.getByRole("button", { name: "Record", exact: true }).click();
  await dialog.getByRole("button", { name: "Pause" }).waitFor();
  const now = dialog.locator(".is-now");
  assert.match(await now.textContent(), /oven/);
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await until(async () => (await now.textContent()).includes("Nobody"), "the third sentence is the one to read");
  await page.keyboard.press("ArrowUp");
  await until(async () => (await now.textContent()).includes("bread"), "the second sentence is the one to read");
  // Space pauses.
  await page.keyboard.press("Space");
  await dialog.getByRole("button", { name: "Go on" }).waitFor();
  const { height, top } = await page.evaluate(() => ({ height: document.documentElement.scrollHeight, top: document.documentElement.scrollTop }));
  assert.deepEqual([height, top], [800, 0]);
  await page.context().close();
});

test("speech that is not English is asked about, and heard as what it is", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  const spoken = join(folder, "horno.wav");
  const said =
    "El horno está caliente y el pan todavía no está listo. Pon los panecillos en el estante antes de que llueva. ¿Quién tiene la llave de la casa del puerto?";
  spawnSync("espeak-ng", ["-v", "es", "-w", spoken, said]);
  await addFile(page, spoken);
  await waitForLines(page, 1);
  const line = page.locator("article").first();
  await line.getByText("This does not sound like English").waitFor();
  assert.deepEqual(await violations(page), []);
  await line.getByLabel("Which language Maro speaks here").selectOption({ label: "Spanish" });
  const told = async () => (await sceneState(page)).lines[0];
  await until(async () => (await told()).language === "es" && !(await told()).listening, "the line heard as Spanish");
  await line.getByText("The mouth follows the sounds.").waitFor();
  // The same in the inspector, where it is taken back; and by undo.
  await line.click();
  const choice = page.locator("#line-language");
  assert.equal(await choice.inputValue(), "es");
  await choice.selectOption("");
  await line.getByText("This does not sound like English").waitFor();
  await page.keyboard.press("Control+z");
  await line.getByText("The mouth follows the sounds.").waitFor();
  // Words of it are found as that language says them.
  await line.getByRole("button", { name: "Change the words" }).click();
  await line.getByLabel("Words of the line").fill(said);
  await page.keyboard.press("Control+Enter");
  await until(async () => (await told()).words?.length === said.split(" ").length, "its words");
  check(page);
  await page.context().close();
});
