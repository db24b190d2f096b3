// The tasks of a day, each with the clicks that it may take at the most.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { mkdtempSync, rmSync } from "node:fs";
import { spawnSync } from "node:child_process";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { check, counting, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until } from "./harness.mjs";

let server, browser, folder;
before(async () => {
  folder = mkdtempSync(join(tmpdir(), "zamblo-tasks-"));
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser.close();
  server.stop();
  rmSync(folder, { recursive: true, force: true });
});

const heard = (page, count) =>
  until(async () => {
    const { lines } = await sceneState(page);
    return lines.length >= count && lines.every((l) => l.words?.length);
  }, "words");

test("a script becomes lines, a line gets another take, other voices are compared, and a film is made", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  let clicks = await counting(page);
  const within = async (most, what) => {
    const took = await clicks();
    assert.ok(took <= most, `${what} took ${took} clicks`);
    clicks = await counting(page);
  };
  await page.getByRole("button", { name: "Bring a script" }).click();
  await page.locator("#words").fill("MARO: The rolls are ready.\n\nBUBB (sleepy): So am I.");
  await page.getByRole("button", { name: "Look it through" }).click();
  await page.getByRole("button", { name: "Make 2 lines" }).click();
  await within(3, "A script");
  await heard(page, 2);
  // Another take: the words are there.
  clicks = await counting(page);
  await page.locator("article").first().getByRole("button", { name: "Another take" }).click();
  assert.equal(await page.locator("#words").inputValue(), "The rolls are ready.");
  await page.keyboard.press("Control+Enter");
  await within(1, "Another take");
  await until(async () => (await sceneState(page)).lines[0].takes.length === 2, "the other take");
  await heard(page, 2);
  // The same words in other voices, and one of them kept.
  clicks = await counting(page);
  await page.locator("article").nth(1).click();
  await page.getByRole("button", { name: "Hear this line in…" }).click();
  await page.getByRole("dialog", { name: "Hear this line in" }).waitFor();
  await within(2, "To compare voices");
  await page.keyboard.press("Escape");
  // A mood on a line: the line, the divider, the mood.
  clicks = await counting(page);
  await page.locator("article").nth(1).click();
  await turnTo(page, "Acting");
  await page.locator("#acting").getByRole("button", { name: "Joy" }).click();
  await page.locator("#clip").getByText("Joy,").waitFor();
  await within(3, "A mood");
  // Another size of picture, and a film of it.
  await turnTo(page, "Film");
  await page.locator("#size").selectOption("1080x1080");
  await until(async () => (await sceneState(page)).production.width === 1080, "the size");
  await page.getByRole("button", { name: "Render film" }).first().click();
  await page.locator("[data-film=done]").waitFor();
  await within(2, "Another size and a film");
  check(page);
  await page.context().close();
});

test("a boundary between two turns is moved by a click on a word, by dragging it, and by keys", async () => {
  const files = [
    ["slt", "We have rolls and butter. And then"],
    ["rms", "somebody came in from the rain."],
  ].map(([voice, words], i) => {
    const path = join(folder, `${i}.wav`);
    assert.equal(spawnSync("flite", ["-voice", voice, "-t", words, "-o", path]).status, 0);
    return path;
  });
  const talk = join(folder, "talk.wav");
  const join2 = ["-filter_complex", "[0][1]concat=n=2:v=0:a=1", "-ar", "16000", "-ac", "1"];
  assert.equal(spawnSync("ffmpeg", ["-v", "error", "-i", files[0], "-i", files[1], ...join2, talk]).status, 0);
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a file" }).first().click();
  await page.locator("#speakers").selectOption("2");
  await page.getByLabel("Choose a sound file").setInputFiles(talk);
  await until(async () => (await sceneState(page)).lines.length >= 2, "the turns", 90);
  await until(async () => (await sceneState(page)).lines.every((l) => !l.listening && l.words?.length), "the hearing", 90);
  const said = async () => (await sceneState(page)).lines.map((l) => (l.words ?? []).map((w) => w[0].toLowerCase().replace(/\W/g, "")).join(" "));
  const settled = (texts) =>
    until(async () => {
      const { lines } = await sceneState(page);
      return lines.every((l) => !l.listening && l.words?.length) && JSON.stringify(await said()) === JSON.stringify(texts);
    }, texts.join(" | "));
  const [first, second] = await said();
  assert.match(first, / and then$/);
  const words = first.split(" ");
  const clicks = await counting(page);
  // "And then" is the other's: the word, then whose it is.
  await page
    .locator("article")
    .first()
    .locator(".said")
    .nth(words.length - 2)
    .click();
  await page
    .locator("#picked")
    .getByRole("button", { name: /^From here: / })
    .click();
  await settled([words.slice(0, -2).join(" "), `and then ${second}`]);
  assert.equal(await clicks(), 2);
  await page.getByText(/Boundary moved by -\d\.\d\d s: “.*” went to /).waitFor();
  // Dragged back by the grip on the score; the words that go over are told meanwhile.
  const { lines } = await sceneState(page);
  const at = lines[1].words[1][2] + 0.02;
  const box = await page.locator("#score").boundingBox();
  const [x0, x1, y] = await page.evaluate(
    ([start, to]) => {
      const score = window.zamblo.score();
      const staff = score.staves.find((s) => s.member.id === score.scene.lines[1].member);
      return [score.x(start), score.x(start + to), staff.y + 6];
    },
    [lines[1].start, at],
  );
  await page.mouse.move(box.x + x0 + 2, box.y + y);
  assert.equal(await page.locator("#score").evaluate((c) => c.style.cursor), "col-resize");
  await page.mouse.down();
  await page.mouse.move(box.x + (x0 + x1) / 2, box.y + y, { steps: 4 });
  await page.mouse.move(box.x + x1, box.y + y, { steps: 4 });
  await page.mouse.up();
  await settled([first, second]);
  // By keys: the end of the line that has the cursor, a word at a time.
  await page.locator("article").first().click();
  await page.locator('[aria-label^="Score:"]').focus();
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("Shift+Alt+ArrowLeft");
  await settled([words.slice(0, -1).join(" "), `then ${second}`]);
  await page.keyboard.press("Control+z");
  await settled([first, second]);
  check(page);
  await page.context().close();
});

test("a gesture is laid on a word in four clicks, the next in three", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Fresh rolls at six.");
  await heard(page, 1);
  const clicks = await counting(page);
  await page.locator("article .said", { hasText: "six" }).click();
  await turnTo(page, "Acting");
  await page.locator("#acting summary", { hasText: "Gestures" }).click();
  await page.locator("#acting").getByRole("button", { name: "Nod", exact: true }).click();
  await page.locator("#clip").getByText("Nod,").waitFor();
  assert.ok((await clicks()) <= 4);
  // The divider and its gestures stay open.
  const more = await counting(page);
  await page.locator("article .said", { hasText: "Fresh" }).click();
  await turnTo(page, "Acting");
  await page.locator("#acting").getByRole("button", { name: "Nod", exact: true }).click();
  await until(async () => (await sceneState(page)).clips.length === 2, "the other gesture");
  assert.ok((await more()) <= 3);
  check(page);
  await page.context().close();
});
