// The notes, the score and the tray as somebody works with them: by task, with the clicks that it takes at the most, and by keys alone.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import {
  check,
  counting,
  newProduction,
  openPage,
  sceneState,
  startBrowser,
  startServer,
  turnTo,
  typeLine,
  until,
  violations,
  waitForLines,
} from "./harness.mjs";

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser.close();
  server.stop();
});

const divider = (page) => page.locator("[role=tab][aria-selected=true]").textContent();
const heard = (page, count) =>
  until(async () => {
    const { lines } = await sceneState(page);
    return lines.length >= count && lines.every((l) => l.words?.length);
  }, "words");

test("what is picked turns to its divider, and each task takes the clicks that it should", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "(whispering) The oven [sighs] is finally hot.");
  await heard(page, 1);
  // The directions are there to be seen, and not said.
  assert.deepEqual(await page.locator(".direction").allTextContents(), ["(whispering)", "[sighs]"]);
  assert.deepEqual(
    (await sceneState(page)).lines[0].words.map((w) => w[0]),
    ["The", "oven", "is", "finally", "hot"],
  );
  let clicks = await counting(page);
  // A word is fixed: two clicks.
  await page.locator(".said", { hasText: "finally" }).click();
  assert.equal(await divider(page), "Face");
  await page.locator("#picked").getByRole("button", { name: "Round", exact: true }).click();
  await page.getByText("finally: Round").first().waitFor();
  assert.equal(await clicks(), 2);
  // A phrase gets a mood: two clicks and a turn; the phrase stays picked.
  await page.locator(".said", { hasText: "is" }).click();
  await page.locator(".said", { hasText: "hot" }).click({ modifiers: ["Shift"] });
  assert.match(await page.locator("#about").textContent(), /“is finally hot”/);
  assert.equal(
    await page.locator(".said.is-picked").count(),
    2 + 1 - (await page.locator(".said.lit").count()) + (await page.locator(".said.lit.is-picked").count()),
  );
  await turnTo(page, "Acting");
  await page.locator("#acting").getByRole("button", { name: "Pride" }).click();
  await page.locator("#clip").getByText("Pride,").waitFor();
  assert.equal(await clicks(), 6);
  const pride = (await sceneState(page)).clips.find((c) => c.name === "Pride");
  const words = (await sceneState(page)).lines[0].words;
  const start = (await sceneState(page)).lines[0].start;
  assert.ok(Math.abs(pride.start - start - words[2][1]) < 0.05 && Math.abs(pride.end - start - words[4][2]) < 0.05);
  // The clip that was laid is picked, and says so at the top.
  assert.match(await page.locator("#about").textContent(), /Pride\s*mood of Maro/);
  // A mood is dragged from the notes onto a word.
  await page
    .locator("#acting")
    .getByRole("button", { name: "Doubt" })
    .dragTo(page.locator(".said", { hasText: "oven" }));
  await page.locator("#clip").getByText("Doubt,").waitFor();
  const doubt = (await sceneState(page)).clips.find((c) => c.name === "Doubt");
  assert.ok(Math.abs(doubt.start - start - words[1][1]) < 0.05 && Math.abs(doubt.end - start - words[1][2]) < 0.05);
  // Dividers by keys; the place in each is found again; a dial says what it does.
  await page.keyboard.press("Escape");
  await page.locator("#stage").click();
  await page.keyboard.press("[");
  assert.equal(await divider(page), "Face");
  await page.locator("#dial-density").hover();
  await page.locator("#says", { hasText: "Applies to all lines of Maro" }).waitFor();
  for (const name of ["Voice", "Face", "Acting", "Set", "Camera", "Sound", "Film"]) {
    await turnTo(page, name);
    // No more than one screen of scrolling in any.
    const [room, all] = await page.locator("#notes").evaluate((e) => [e.clientHeight, e.scrollHeight]);
    assert.ok(all <= 2 * room + 40, `${name}: ${all} of ${room}`);
  }
  check(page);
  await page.context().close();
});

test("a two-line film is made by keys alone", async () => {
  const page = await openPage(browser, server);
  await page.goto(server.url);
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  // Tab until the control that is wanted has the focus.
  const tabTo = async (name, most = 60) => {
    for (let i = 0; i < most; i++) {
      await press("Tab");
      if (await page.evaluate((n) => (document.activeElement.ariaLabel ?? document.activeElement.textContent).trim().startsWith(n), name)) return;
    }
    throw new Error(`Tab does not lead to ${name}.`);
  };
  await tabTo("New production");
  await press("Enter");
  await page.waitForURL(/\/production\//);
  await page.locator("#stage[data-frame]").waitFor();
  for (const [i, text] of ["Fresh rolls at six.", "Not a minute later."].entries()) {
    await press("n");
    await page.keyboard.type(text);
    await press("Control+Enter");
    await heard(page, i + 1);
  }
  // On the score: to the second line, its second word, its mouths; another shape; a clip is moved; the end of a word is set.
  await tabTo("Score:");
  await press("ArrowRight", "ArrowDown", "ArrowRight");
  await page.locator("#cell-text", { hasText: /^Word / }).waitFor();
  const before = (await sceneState(page)).lines[1];
  await press("Shift+Alt+ArrowRight");
  await until(async () => (await sceneState(page)).lines[1].pins === 1, "the boundary");
  assert.notEqual((await sceneState(page)).lines[1].words[1][2], before.words[1][2]);
  await press("ArrowDown");
  await page.locator("#cell-text", { hasText: /s$/ }).waitFor();
  await press("r");
  await until(async () => (await sceneState(page)).lines[1].touches.length === 1, "the touch-up");
  // Found again by its words.
  await press("Control+f");
  await page.keyboard.type("fresh");
  await press("Enter");
  await until(async () => /“Fresh”/.test(await page.locator("#about").textContent()), "the word");
  await press("Escape");
  // A mood on it, and the film.
  await press("]");
  await tabTo("Joy", 120);
  await press("Enter");
  await until(async () => (await sceneState(page)).clips.length === 1, "the mood");
  await tabTo("Render film", 200);
  await press("Enter");
  await page.locator("[data-film=done]").waitFor();
  assert.match(await page.locator("[data-film=done]").textContent(), /1280x720, 0:0\d/);
  // One more change, and the film says that it is out of date.
  await page.locator("#stage").click();
  await press("Control+z");
  await page.locator("[data-film=done]").getByText("Out of date: one change since").waitFor();
  check(page);
  await page.context().close();
});

test("thirty lines are one card in the tray, and letters can be switched off", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.getByRole("button", { name: "Bring a script" }).click();
  const lines = Array.from({ length: 30 }, (_, i) => `MARO: Tray ${i + 1} is ready, and ${i + 2} is not.`);
  await page.locator("#words").fill(lines.join("\n"));
  await page.getByRole("button", { name: "Look it through" }).click();
  // One line is left out, one is somebody else's who is new.
  await page.getByLabel("Take row 30").click();
  await page.getByLabel("Role of row 2", { exact: true }).fill("O'NEIL");
  await page.getByLabel("Role of row 2", { exact: true }).press("Tab");
  assert.deepEqual(await violations(page), []);
  await page.getByRole("button", { name: "Make 29 lines" }).click();
  await page.getByRole("button", { name: /at work/ }).click();
  const card = page.locator("#tray [data-job=speak]");
  await card.waitFor();
  assert.equal(await page.locator("#tray [data-job=speak]").count(), 1);
  await card.getByText(/\d+ of \d+ done/).waitFor();
  await heard(page, 29);
  const state = await sceneState(page);
  assert.deepEqual(
    state.members.map((m) => m.roleName),
    ["Maro", "O'Neil"],
  );
  await page.locator("#stage").click();
  await page.keyboard.press("?");
  await page.getByLabel("Find a key").fill("divider");
  await page.getByText("Turn the dividers of the notes").waitFor();
  assert.deepEqual(await violations(page), []);
  await page.getByLabel("Single letters do something").uncheck();
  await page.getByRole("dialog", { name: "Keys" }).getByRole("button", { name: "Close" }).click();
  await page.keyboard.press("n");
  await page.waitForTimeout(200);
  assert.equal(await page.getByRole("dialog", { name: "Add a voice" }).isVisible(), false);
  await page.keyboard.press("Control+f");
  await page.getByLabel("Find a line or a word", { exact: true }).last().waitFor();
  check(page);
  await page.context().close();
});

test("no panel takes a name that the page has: it would be another thing within it", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Look at this.");
  await waitForLines(page, 1);
  const [panels, hidden] = await page.evaluate(() => {
    const all = [...document.querySelectorAll("[x-data]")].map((e) => [e.getAttribute("x-data"), ...e._x_dataStack]);
    const namesOf = (o) => Object.keys(Object.getOwnPropertyDescriptors(o)).filter((n) => n !== "init" && !n.startsWith("$"));
    return [
      all.length,
      all.flatMap(([name, own, ...outer]) =>
        namesOf(own)
          .filter((n) => outer.some((o) => n in o))
          .map((n) => `${name}.${n}`),
      ),
    ];
  });
  assert.ok(panels > 30, `${panels}`);
  assert.deepEqual(hidden, []);
  await page.context().close();
});
