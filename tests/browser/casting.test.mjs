// Casting and the Wardrobe: a character is found, made, changed, saved and cast, as somebody would.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { check, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until, violations } from "./harness.mjs";

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser.close();
  server.stop();
});

const picture = (page) => page.locator("canvas").first().screenshot();

test("characters are found, come alive under the pointer and join the cast, two of one in other colours", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await turnTo(page, "Set");
  await page.getByRole("button", { name: "Add a cast member" }).click();
  const dialog = page.getByRole("dialog", { name: "Casting" });
  await dialog.locator("[data-character=ines]").waitFor();
  assert.ok((await dialog.locator("[data-character]").count()) >= 16);
  await dialog.getByRole("button", { name: "Creatures" }).click();
  assert.equal(await dialog.locator("[data-character=ines]").count(), 0);
  await dialog.getByLabel("Find a character").fill("mill");
  assert.equal(await dialog.locator("[data-character]").count(), 1);
  await dialog.getByRole("button", { name: "All", exact: true }).click();
  await dialog.getByLabel("Find a character").fill("");
  await dialog.getByRole("button", { name: "Favourite: Odo" }).click();
  assert.equal(await dialog.locator("[data-character]").first().getAttribute("data-character"), "odo");
  await dialog.getByRole("button", { name: "Add to the cast: Odo" }).hover();
  await dialog.locator("[data-character=odo] canvas").waitFor();
  assert.deepEqual(await violations(page), []);
  for (let i = 1; i <= 2; i++) {
    if (i > 1) await page.getByRole("button", { name: "Add a cast member" }).click();
    await dialog.getByRole("button", { name: "Add to the cast: Odo" }).click();
    await until(async () => (await sceneState(page)).members.length === 1 + i, "the member");
  }
  const { members } = await sceneState(page);
  assert.deepEqual(
    members.slice(1).map((m) => [m.roleName, m.character]),
    [
      ["Odo", "odo"],
      ["Odo 2", "odo~2"],
    ],
  );
  // Recast: the role keeps its name and its lines.
  await typeLine(page, "Never late and never early.");
  await page.locator("#character").click();
  await page.getByRole("button", { name: "Play the role with: Wick" }).click();
  await until(async () => (await sceneState(page)).members[2].character === "wick", "the other character");
  assert.equal((await sceneState(page)).members[2].roleName, "Odo 2");
  check(page);
  await page.context().close();
});

test("somebody is made in the Wardrobe, taken back step by step, saved, and says a line in a film", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/casting`);
  await page.locator("[data-character=juno]").waitFor();
  assert.deepEqual(await violations(page), []);
  await page.getByRole("button", { name: "About: Juno" }).click();
  await page.getByRole("link", { name: "Change in the Wardrobe" }).click();
  await page.locator("#name").waitFor();
  await until(() => page.evaluate(() => document.querySelectorAll("img[src*=thumb]").length > 10), "the parts");
  const part = (name) => page.getByRole("button", { name, exact: true });
  await part("Bun").click();
  await page.locator("button[aria-pressed=true] img[src*='part=bun']").waitFor();
  await part("Hat").click();
  await part("Beret").click();
  await page.locator("#colour-cloth1").fill("#4f6f4a");
  await page.locator("#measure-build").fill("1.2");
  await page.locator("#measure-build").dispatchEvent("change");
  await page.waitForTimeout(800);
  const before = await picture(page);
  // Chance changes all but what is locked; undo brings it back as it was.
  await page.getByLabel("stays as it is when").check();
  await page.getByRole("button", { name: "Surprise me" }).click();
  await page.waitForTimeout(800);
  assert.equal(await page.locator("button[aria-pressed=true] img[src*='part=beret']").count(), 1);
  assert.notDeepEqual(await picture(page), before);
  await page.getByRole("button", { name: "Undo" }).click();
  assert.equal(await page.locator("#measure-build").inputValue(), "1.2");
  assert.equal(await page.locator("#colour-cloth1").inputValue(), "#4f6f4a");
  await page.locator("#name").fill("Nightingale");
  await page.locator("#name").press("Tab");
  assert.deepEqual(await violations(page), []);
  await page.getByRole("button", { name: "Into Casting" }).click();
  await page.getByText("Nightingale is in Casting.").waitFor();
  await newProduction(page, server);
  await turnTo(page, "Set");
  await page.locator("#character").click();
  await page.getByRole("button", { name: "My own" }).click();
  await page.getByRole("button", { name: "Play the role with: Nightingale" }).click();
  await until(async () => (await sceneState(page)).members[0].character.startsWith("own-"), "the character");
  await typeLine(page, "Fresh rolls at six.");
  await turnTo(page, "Film");
  await page.getByRole("button", { name: "Render film" }).first().click();
  await page.locator("[data-film=done]").waitFor({ timeout: 60000 });
  check(page);
  await page.context().close();
});
