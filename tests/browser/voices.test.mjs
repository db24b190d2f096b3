// The page of voices: one is brought by its two files, heard, licensed, found, and taken away.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { openPage, root, startBrowser, startServer, violations } from "./harness.mjs";

const model = readFileSync(join(root, "tests", "voices", "night_owl.onnx"));
const description = readFileSync(join(root, "tests", "voices", "night_owl.onnx.json"));
const files = (name) => [
  { name: `${name}.onnx`, mimeType: "application/octet-stream", buffer: model },
  { name: `${name}.onnx.json`, mimeType: "application/json", buffer: description },
];
let server, browser;
before(async () => {
  [server, browser] = [await startServer(), await startBrowser()];
});
after(async () => {
  await browser.close();
  server.stop();
});

test("a neural voice comes, is heard, and goes", async () => {
  const page = await openPage(browser, server);
  page.expected = ["400"];
  await page.goto(`${server.url}/voices`);
  const rows = page.getByRole("list", { name: "Voices" }).getByRole("listitem");
  await rows.first().waitFor();
  const bring = page.locator("input[type=file]");

  // Half of a voice is refused with what is missing; so is one that does not speak.
  await bring.setInputFiles(files("tawny").slice(0, 1));
  await page.getByRole("alert").filter({ hasText: "tawny.onnx.json" }).waitFor();
  await bring.setInputFiles([{ ...files("tawny")[0], buffer: Buffer.from("no model") }, files("tawny")[1]]);
  await page.getByRole("alert").filter({ hasNotText: "bring both" }).filter({ hasText: /\w/ }).waitFor();
  assert.equal(await rows.filter({ hasText: "Tawny" }).count(), 0);

  await bring.setInputFiles(files("tawny_owl"));
  const low = rows.filter({ hasText: "Tawny owl, low" });
  await low.waitFor();
  assert.equal(await rows.filter({ hasText: "Tawny owl" }).count(), 2);
  const sample = page.waitForResponse((r) => r.url().includes("/api/voices/sample"));
  await page.getByLabel("Words to hear").fill("Mama");
  await low.getByRole("button", { name: "Hear Tawny owl, low" }).click();
  assert.equal((await sample).status(), 200);

  await low.getByLabel("Licence of Tawny owl, low").fill("CC0");
  await low.getByLabel("Licence of Tawny owl, low").press("Tab");
  await page.waitForFunction(() => [...document.querySelectorAll("[aria-label='Licence of Tawny owl, high']")].some((e) => e.value === "CC0"));

  // Found by its language and its engine; starred in the studio too.
  await page.getByLabel("Engine").selectOption("neural");
  await page.getByLabel("Language").selectOption({ label: "English" });
  assert.equal(await rows.filter({ hasText: "Tawny owl" }).count(), await rows.count());
  await low.getByRole("button", { name: "Favourite: Tawny owl, low" }).click();
  assert.ok((await page.evaluate(() => localStorage.getItem("favourite-voices"))).includes("neural:en-us:tawny_owl:low"));
  assert.deepEqual(await violations(page), []);

  page.on("dialog", (d) => d.accept());
  await low.getByRole("button", { name: "Delete Tawny owl, low" }).click();
  await page.getByText("No voice by that name").waitFor();
  assert.deepEqual(page.problems, []);
  await page.context().close();
});
