// Everything again: a changed script over lines that are there, another language line beside line, a film that is paused.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until, violations } from "./harness.mjs";

let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

const texts = async (page) => (await sceneState(page)).lines.map((l) => l.text);

test("another version of a script shows what changes, and a line that is not ticked stays", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot and the street is dark.");
  await typeLine(page, "I heard steps on the roof.");
  const lines = (await sceneState(page)).lines.map((l) => l.id);
  await page.keyboard.press("n");
  await page.getByRole("button", { name: "A script" }).click();
  await page.locator("#words").fill("MARO\nThe oven is cold and the street is dark.\n\nMARO\nListen.\n");
  await page.getByRole("button", { name: "Look it through" }).click();
  await page.getByRole("button", { name: "Compare with what is there" }).click();
  await page.locator("#changes-head", { hasText: "changed" }).waitFor();
  const head = await page.locator("#changes-head").textContent();
  // Two speeches of one role over two lines: the second is the same line, written anew.
  assert.equal(head, "2 changed");
  const row = page.getByRole("row", { name: /oven/ });
  assert.equal(await row.locator(".line-through").last().textContent(), "hot");
  assert.deepEqual(await violations(page), []);
  await page.getByRole("checkbox", { name: /Listen/ }).uncheck();
  await page.getByRole("button", { name: "Make the change" }).click();
  await until(async () => (await texts(page))[0] === "The oven is cold and the street is dark.", "the changed line");
  assert.deepEqual(
    (await sceneState(page)).lines.map((l) => l.id),
    lines,
  );
  assert.equal((await texts(page))[1], "I heard steps on the roof.");
  assert.equal(await page.locator("dialog[open]").count(), 0);
  assert.deepEqual(page.problems, []);
});

test("a version in another language lies beside the original, is corrected, fitted and played by its keys and buttons", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot.");
  await typeLine(page, "And the bread is not.");
  await page.keyboard.press("d");
  page.expected = ["400"];
  await page.getByLabel("Tag of another language").fill("de");
  await page.getByRole("button", { name: "Make it" }).click();
  await page.getByText("Nothing is written in that language yet").waitFor();
  await page.getByLabel("Script in that language").setInputFiles({
    name: "play.de.fountain",
    mimeType: "text/plain",
    buffer: Buffer.from("MARO\nDer Ofen ist jetzt wirklich sehr heiß.\n\nMARO\nDas Brot nicht.\n"),
  });
  await page.getByRole("button", { name: "Make it" }).click();
  await page.locator("#dubbing").getByRole("link", { name: "Open" }).click();
  await page.locator("h1", { hasText: "(de)" }).waitFor({ state: "attached" });
  await page.locator("#stage[data-frame]").waitFor();
  await until(async () => (await sceneState(page)).lines.every((l) => !l.isStale && l.start !== null), "all lines are spoken");
  await page.keyboard.press("d");
  const rows = page.locator("#dubbing li");
  await rows.nth(1).waitFor();
  assert.match(await rows.first().textContent(), /The oven is hot\./);
  assert.equal(await rows.first().locator("textarea").inputValue(), "Der Ofen ist jetzt wirklich sehr heiß.");
  assert.deepEqual(await violations(page), []);

  // Too long for its place: a word less, then as fast as it has to be.
  const field = rows.first().locator("textarea");
  await field.fill("Der Ofen ist sehr heiß.");
  await field.press("Tab");
  await until(async () => (await texts(page))[0] === "Der Ofen ist sehr heiß.", "the shorter words");
  // What is fitted is the take with these words, not the one before it.
  await until(async () => (await sceneState(page)).lines.every((l) => !l.isStale), "the shorter words are spoken");
  await until(async () => /\d s for \d/.test(await rows.first().textContent()), "both lengths");
  await page.getByRole("button", { name: "Fit all" }).click();
  await until(async () => /\d\.\d\dx/.test(await page.locator("#dubbing ul").textContent()), "a line at another speed");
  await rows.first().getByRole("button", { name: "Hear the other language, Maro" }).click();
  await rows.first().getByRole("button", { name: "Play this line, Maro" }).click();
  await until(() => page.evaluate(() => window.zamblo.player.playing), "it plays");
  await until(() => page.evaluate(() => !window.zamblo.player.playing), "it stops at the end of the line");
  await page.keyboard.press("Escape");
  await until(async () => !(await page.locator("#dubbing").isVisible()), "the panel is closed");
  assert.deepEqual(page.problems, []);
});

test("a film is paused and goes on", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "The oven is hot, and the bread is not. ".repeat(6).trim());
  await turnTo(page, "Film");
  await page.locator("#films").getByRole("button", { name: "Render film" }).click();
  await page.getByRole("button", { name: "Pause the film" }).click();
  await page.getByText("Paused; what was drawn is kept.").waitFor();
  await page.getByRole("button", { name: "Go on with the film" }).click();
  await page.locator("[data-film=done]").waitFor();
  assert.deepEqual(page.problems, []);
});
