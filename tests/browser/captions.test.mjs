// Captions in other words and in another language, written beside the film.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { newProduction, openPage, startBrowser, startServer, turnTo, typeLine, until, violations } from "./harness.mjs";

let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

const textOf = async (page, format, language = "") => {
  const scene = await page.locator("[data-scene]").getAttribute("data-scene");
  return page.evaluate(async (url) => (await fetch(url)).text(), `/api/scenes/${scene}/captions?format=${format}&language=${language}`);
};

test("a caption is shortened in two clicks, and a translated script goes into the picture", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await typeLine(page, "Well, you know, the oven is hot.");
  await turnTo(page, "Film");
  await page.locator("#open-captions").click();
  const caption = page.locator("#captions textarea");
  await caption.click();
  assert.equal(await caption.inputValue(), "Well, you know, the oven is hot.");
  await caption.fill("The oven\nis hot.");
  await caption.press("Tab");
  await page.locator("#captions li p").nth(1).filter({ hasText: "is hot." }).waitFor();
  assert.match(await textOf(page, "vtt"), /The oven\n/);
  assert.deepEqual(await violations(page), []);

  // A script whose name says its language; one with another number of speeches is refused, and nothing is lost.
  page.expected = ["400"];
  const bring = (text) =>
    page.locator("#captions input[type=file]").setInputFiles({ name: "play.de.fountain", mimeType: "text/plain", buffer: Buffer.from(text) });
  await bring("MARO\nEins.\n\nMARO\nZwei.\n");
  await page.getByText("has 2 speeches, the production has 1").waitFor();
  await bring("MARO\nDer Ofen ist heiß.\n");
  await page.locator("#captions select").filter({ hasText: "German (de)" }).waitFor();
  await until(async () => (await caption.inputValue()) === "Der Ofen ist heiß.", "the translation in its field");
  await page.getByLabel("In the picture").check();
  await until(async () => (await textOf(page, "srt", "de")).includes("heiß"), "German captions");
  await until(() => page.evaluate(() => document.querySelector("[aria-label='Picture'] input[type=checkbox]").checked), "captions in the picture");

  // Undo takes it out of the picture again; removed, the language is gone.
  await page.keyboard.press("Escape");
  await page.keyboard.press("Control+z");
  await until(() => page.evaluate(() => !document.querySelector("[aria-label='Picture'] input[type=checkbox]").checked), "no captions in the picture");
  await page.locator("#open-captions").click();
  await page.locator("#captions select").selectOption("de");
  await page.getByRole("button", { name: "Remove German" }).click();
  await until(async () => !(await textOf(page, "srt", "de")).includes("heiß"), "no German captions");
  assert.deepEqual(page.problems, []);
});
