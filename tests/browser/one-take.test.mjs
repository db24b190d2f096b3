// One take: from the shelf to a film in at most four clicks, by mouse on a desk and by touch on a phone; and the review of what was made.
import assert from "node:assert/strict";
import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import AxeBuilder from "@axe-core/playwright";
import { check, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, until, waitForLines } from "./harness.mjs";

const reading = "/usr/share/pocketsphinx/test/data/librivox/sense_and_sensibility_01_austen_64kb-0870.wav";
const folder = mkdtempSync(join(tmpdir(), "zamblo-take-"));
let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser({ microphone: reading });
});
after(async () => {
  await browser?.close();
  server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

const seconds = (film) =>
  Number(spawnSync("ffprobe", ["-v", "error", "-show_entries", "format=duration", "-of", "csv=p=0", film], { encoding: "utf8" }).stdout);

test("recorded on a desk: four clicks from the shelf to the film", async () => {
  const page = await openPage(browser, server);
  await page.goto(server.url);
  let clicks = 0;
  const press = async (locator) => {
    clicks++;
    await locator.click();
  };
  await press(page.getByRole("link", { name: "One take" }).first());
  await press(page.locator("#take-record"));
  await page.locator("#take-stop").waitFor();
  await page.waitForTimeout(4000);
  await press(page.locator("#take-stop"));
  await page.locator("#take-stage[data-frame]").waitFor();
  await page.locator("#take-download[href]").waitFor();
  const [download] = await Promise.all([page.waitForEvent("download"), press(page.locator("#take-download"))]);
  const film = join(folder, "take.mp4");
  await download.saveAs(film);
  assert.ok(clicks <= 4, `${clicks} clicks`);
  assert.ok(seconds(film) > 3 && seconds(film) < 9, `${seconds(film)} s`);
  const { violations } = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(" ")}`),
    [],
  );
  check(page);
  await page.context().close();
});

test("typed on a phone, changed at once, trimmed, and into the studio with all of it", async () => {
  const page = await openPage(browser, server, { viewport: { width: 390, height: 844 }, hasTouch: true });
  await page.goto(server.url);
  let taps = 0;
  const tap = (locator) => {
    taps++;
    return locator.tap();
  };
  await tap(page.getByRole("link", { name: "One take" }).first());
  await page.locator("#take-text").fill("The bread is asleep, and the oven is hot, and nobody may wake either of them.");
  await tap(page.locator("#take-speak"));
  await page.locator("#take-stage[data-frame]").waitFor();
  // With the one on the download below it is a film.
  await page.locator("#take-download[href]").waitFor();
  assert.ok(taps + 1 <= 4, `${taps} taps`);
  const shape = () => page.evaluate(() => document.getElementById("take-stage").width / document.getElementById("take-stage").height);
  assert.ok((await shape()) > 1.7);
  await page.getByRole("button", { name: "Tall", exact: true }).tap();
  await until(async () => (await shape()) < 0.6, "a tall picture");
  await page.locator('[data-character="tock"]').tap();
  await page.getByLabel("Captions").check();
  await page.getByLabel("Each word lights up as it is said").check();
  await page.getByLabel("Mood").selectOption("Joy");
  // A second off the end.
  const end = page.getByRole("slider", { name: /^To/ });
  const whole = Number(await end.getAttribute("max"));
  await end.fill(String((whole - 1).toFixed(2)));
  await page.locator("#take-download[href]").waitFor();
  const [download] = await Promise.all([page.waitForEvent("download"), page.locator("#take-download").tap()]);
  const film = join(folder, "tall.mp4");
  await download.saveAs(film);
  const probe = spawnSync("ffprobe", ["-v", "error", "-show_entries", "stream=width,height", "-of", "csv=p=0", film], { encoding: "utf8" });
  assert.match(probe.stdout, /720,1280/);
  // As wide as the phone, no more.
  assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth));
  // The page holds the film and nothing else.
  const [sent] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "As a page" }).tap()]);
  await sent.saveAs(join(folder, "page.html"));
  assert.match(readFileSync(join(folder, "page.html"), "utf8"), /data:video\/mp4;base64,/);
  const address = await page.getByRole("link", { name: "Into the studio" }).getAttribute("href");
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(server.url + address);
  await page.locator("#stage[data-frame]").waitFor();
  const state = await sceneState(page);
  assert.equal(state.members[0].character, "tock");
  assert.equal(state.clips.find((c) => c.kind === "mood").name, "Joy");
  assert.ok(Math.abs(state.lines[0].duration - (whole - 1)) < 0.1);
  check(page);
  await page.context().close();
});

test("the review leads to what is wrong, mends it with a key, and a file of it opens again", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  for (const words of ["The oven is hot.", "The bread is asleep."]) {
    await page.keyboard.press("n");
    await page.locator("#words").fill(words);
    await page.keyboard.press("Control+Enter");
    await page.locator("article").filter({ hasText: words }).waitFor();
  }
  await waitForLines(page, 2);
  let state = await sceneState(page);
  await page.evaluate(
    async ([id, revision]) => {
      const token = document.querySelector('meta[name="csrf"]').content;
      const headers = { "X-Csrf-Token": token, "Content-Type": "application/json" };
      await fetch(`/api/lines/${id}`, { method: "PATCH", headers, body: JSON.stringify({ revision, at: 11 }) });
    },
    [state.lines[1].id, state.production.revision],
  );
  await turnTo(page, "Film");
  await page.getByRole("button", { name: "Review" }).click();
  const flag = page.locator("[data-flag=DeadAir]");
  await flag.waitFor();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowUp");
  const { violations } = await new AxeBuilder({ page }).include("#review").analyze();
  assert.deepEqual(
    violations.map((v) => v.id),
    [],
  );
  await flag.getByRole("button", { name: "The scene's pause" }).click();
  await flag.waitFor({ state: "detached" });
  state = await sceneState(page);
  assert.ok(state.lines[1].start < 6);
  await page.getByRole("button", { name: "Close the review" }).click();
  // Out as a file, and in again from the shelf.
  const [download] = await Promise.all([page.waitForEvent("download"), page.locator("#archive").click()]);
  const file = join(folder, "production.zamblo");
  await download.saveAs(file);
  await page.goto(server.url);
  await page.getByLabel("Open a production from a file").setInputFiles(file);
  await page.waitForURL(/\/production\//);
  await page.locator("#stage[data-frame]").waitFor();
  const again = await sceneState(page);
  assert.notEqual(again.production.id, state.production.id);
  assert.deepEqual(
    again.lines.map((l) => [l.text, l.start]),
    state.lines.map((l) => [l.text, l.start]),
  );
  check(page);
  await page.context().close();
});
