// Casting and the Wardrobe: a character is found, made, changed, saved and cast, as somebody would.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { after, before, test } from "node:test";
import { check, entryOf, newProduction, openPage, sceneState, startBrowser, startServer, turnTo, typeLine, until, violations } from "./harness.mjs";

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
  // Whoever was there before has gone without a word.
  await page.waitForFunction(() => !window.zamblo.waiting());
  assert.equal(await page.getByRole("alert").filter({ visible: true }).count(), 0);
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
  await page.locator("[data-film=done]").waitFor();
  check(page);
  await page.context().close();
});

test("one of ours is taken out as a drawing, drawn over, and plays", async () => {
  const page = await openPage(browser, server);
  page.expected = ["400"];
  await page.goto(`${server.url}/casting`);
  await page.locator("[data-character=sift]").waitFor();
  const about = page.getByRole("dialog", { name: "About the character" });
  await page.getByRole("button", { name: "About: Sift" }).click();
  const coming = page.waitForEvent("download");
  await about.getByRole("link", { name: "Its drawing, to draw over" }).click();
  const zip = await (await coming).path();
  const art = entryOf(readFileSync(zip), "art.svg");
  // As an artist would: the same parts, other colours.
  const painted = art.replace(/fill="#[0-9A-Fa-f]{6}"/g, 'fill="#88aa55"');
  const bring = about.getByLabel("Bring the drawing back, drawn over");
  await bring.setInputFiles({ name: "Green sieve.svg", mimeType: "image/svg+xml", buffer: Buffer.from(painted) });
  const card = page.locator("li").filter({ hasText: "Green sieve" });
  await card.waitFor();

  // A drawing that cannot be used says why; a zip with both is one, too.
  await page.getByRole("button", { name: "About: Sift" }).click();
  await bring.setInputFiles({ name: "bad.svg", mimeType: "image/svg+xml", buffer: Buffer.from("<svg viewBox='0 0 1 1'><image/></svg>") });
  await page.getByRole("alert").filter({ hasText: "<image>" }).waitFor();
  await page.getByLabel("Bring a character from a file").setInputFiles({ name: "sift.zip", mimeType: "application/zip", buffer: readFileSync(zip) });
  await until(async () => (await page.locator("li").filter({ hasText: "Sift" }).count()) === 2, "the character out of the zip");
  check(page);
  await page.context().close();
});

test("mouths drawn as pictures speak on the sheet, and another one serves a shape", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/character/tock`);
  const files = await page.evaluate(() =>
    [
      ["rest.png", 30, 4],
      ["open.png", 60, 44],
      ["round.png", 34, 40],
    ].map(([name, w, h]) => {
      const canvas = Object.assign(document.createElement("canvas"), { width: 120, height: 80 });
      const context = canvas.getContext("2d");
      context.fillStyle = "#7a1f2b";
      context.beginPath();
      context.ellipse(60, 40, w / 2, h / 2, 0, 0, 7);
      context.fill();
      return { name, data: canvas.toDataURL("image/png").split(",")[1] };
    }),
  );
  const bring = (list) =>
    page.locator("#mouths").setInputFiles(list.map((f) => ({ name: f.name, mimeType: "image/png", buffer: Buffer.from(f.data, "base64") })));
  // What cannot speak is said, and nothing is changed.
  await bring(files.slice(1));
  await page.getByRole("alert").filter({ hasText: "no closed mouth" }).waitFor();
  await bring(files);
  await page.waitForURL(/\/character\/art-/);
  await page.getByRole("heading", { name: "Tock, own mouths" }).waitFor();
  const mid = page.getByLabel("Mouth for Mid");
  assert.equal(await mid.inputValue(), "Open");
  assert.equal(await page.getByLabel("Mouth for Tuck").inputValue(), "Rest");
  const before = page.url();
  await mid.selectOption("Round");
  await page.waitForURL((url) => url.href !== before);
  assert.equal(await page.getByLabel("Mouth for Mid").inputValue(), "Round");
  // Cast, they are on the lip strip of the score as on the stage.
  const character = page.url().split("/").pop();
  await newProduction(page, server);
  const { production, members } = await sceneState(page);
  await page.evaluate(
    ([id, revision, character]) =>
      fetch(`/api/members/${id}`, {
        method: "PATCH",
        headers: { "Content-Type": "application/json", "X-Csrf-Token": document.querySelector("meta[name=csrf]").content },
        body: JSON.stringify({ revision, character }),
      }),
    [members[0].id, production.revision, character],
  );
  await typeLine(page, "Oh, a warm oven!");
  const dark = () =>
    page.evaluate(() => {
      const canvas = document.querySelector("#score");
      const { data } = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height);
      let n = 0;
      for (let i = 0; i < data.length; i += 4) n += Math.abs(data[i] - 0x7a) + Math.abs(data[i + 1] - 0x1f) + Math.abs(data[i + 2] - 0x2b) < 12;
      return n;
    });
  await until(async () => (await dark()) > 50, "mouths on the score");
  page.problems = page.problems.filter((p) => !p.includes("400"));
  check(page);
  await page.context().close();
});
