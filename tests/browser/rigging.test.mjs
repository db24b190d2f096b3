// A drawing of one's own: brought, looked at, put right by dragging, kept, and cast.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { join } from "node:path";
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

const drawings = join(import.meta.dirname, "..", "..", "src", "Zamblo.Media", "Drawings");
const example = (name) => ({ name: `${name}.svg`, mimeType: "image/svg+xml", buffer: readFileSync(join(drawings, `${name}.svg`)) });

async function bring(page, name) {
  await page.goto(`${server.url}/casting`);
  await page.getByRole("button", { name: "Draw your own" }).click();
  await page.getByLabel("Bring your drawing").setInputFiles(example(name));
  await page.waitForURL(/\/rig\/art-/);
  await page.locator("[data-part]").first().waitFor();
}

const handle = (page, name) => page.getByRole("button", { name, exact: true });
const pivotOf = async (page) => {
  let box = null;
  await until(async () => (box = await handle(page, "where it turns").boundingBox()), "the joint");
  return box;
};

test("a drawing with names gets a rig, is put right by mouse and keys, kept and cast", async () => {
  const page = await openPage(browser, server);
  await bring(page, "owl");
  const found = page.locator("[data-findings]");
  await found.getByText("eyes are squeezed shut").waitFor();
  assert.deepEqual(await violations(page), []);

  // A part is picked in the list, its joint dragged; the picture beside it moves otherwise from then on.
  await page.locator("[data-part=wing-left] button").first().click();
  const before = await pivotOf(page);
  await page.mouse.move(before.x + before.width / 2, before.y + before.height / 2);
  await page.mouse.down();
  await page.mouse.move(before.x + 40, before.y + 30, { steps: 4 });
  await page.mouse.up();
  const dragged = await pivotOf(page);
  assert.ok(Math.abs(dragged.x - before.x - 40) < 8 && Math.abs(dragged.y - before.y - 30) < 8, `${dragged.x - before.x} ${dragged.y - before.y}`);
  await page.keyboard.press("Shift+ArrowDown");
  assert.ok((await pivotOf(page)).y > dragged.y);
  await page.keyboard.press("Control+z");
  await page.keyboard.press("Control+z");
  await until(async () => Math.abs((await pivotOf(page)).x - before.x) < 1, "the joint where it was");
  await page.keyboard.press("Control+Shift+z");
  await until(async () => Math.abs((await pivotOf(page)).x - dragged.x) < 1, "the joint where it was dragged");

  // Picked by a click into the picture; it dangles, and lies behind the body.
  const box = await page.locator("canvas").first().boundingBox();
  await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.62);
  await page.getByRole("heading", { name: "body", exact: true }).waitFor();
  await page.locator("[data-part=ear-left] button").first().click();
  await page.getByLabel("Dangles").selectOption("springy");
  await page.locator("[data-part=tail] button").first().click();
  await page.getByRole("button", { name: "To the front" }).click();
  const order = await page.locator("[data-part]").evaluateAll((all) => all.map((e) => e.dataset.part));
  assert.equal(order.indexOf("tail"), order.indexOf("foot-left") - 1);
  for (const name of ["Blink and look", "Arms and body", "Moods", "A sentence"]) await page.getByRole("button", { name }).click();

  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await page.getByText("is in Casting").waitFor();
  const key = page.url().split("/").pop();
  await page.goto(`${server.url}/rig/${key}`);
  await page.locator("[data-part=ear-left] button").first().click();
  assert.equal(await page.getByLabel("Dangles").inputValue(), "springy");

  // In a production it says a line.
  await newProduction(page, server);
  await turnTo(page, "Set");
  await page.getByRole("button", { name: "Add a cast member" }).click();
  await page.getByRole("dialog", { name: "Casting" }).getByRole("button", { name: "Add to the cast: Owl" }).click();
  await until(async () => (await sceneState(page)).members.some((m) => m.character === key), "the owl in the cast");
  await typeLine(page, "Who is out there?");
  check(page);
  await page.context().close();
});

test("what the drawing becomes is what the browser shows of the file", async () => {
  const page = await openPage(browser, server);
  for (const name of ["template", "owl", "loaf"]) {
    await bring(page, name);
    const zip = await page.request.get(`${server.url}/api/characters/${page.url().split("/").pop()}/drawing`);
    const art = entryOf(await zip.body(), "art.svg");
    // Both by the browser's own SVG, cut to what is seen; without mouths and lids, which wait for their moment in the one and are hidden in the other.
    const plain = await browser.newPage();
    const share = await plain.evaluate(
      async (texts) => {
        const [width, height] = [300, 400];
        const pictures = texts.map(async (text) => {
          const root = new DOMParser().parseFromString(text, "image/svg+xml").documentElement;
          for (const e of root.querySelectorAll("[id^=mouth],[id^=lid]")) e.remove();
          for (const e of root.querySelectorAll("g")) if (/mouth/i.test(e.getAttribute("inkscape:label") ?? "")) e.remove();
          document.body.append(root);
          // What is cut off counts for nothing.
          const cut = [...root.querySelectorAll("[clip-path]")].map((e) => [e, e.parentNode, e.nextSibling]);
          for (const [e] of cut) e.remove();
          const { x, y, width: w, height: h } = root.getBBox();
          for (const [e, parent, next] of cut) parent.insertBefore(e, next);
          root.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
          root.setAttribute("preserveAspectRatio", "none");
          root.setAttribute("width", width);
          root.setAttribute("height", height);
          const written = new XMLSerializer().serializeToString(root);
          root.remove();
          const image = new Image();
          image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(written)}`;
          await image.decode();
          const context = new OffscreenCanvas(width, height).getContext("2d");
          context.fillStyle = "#fff";
          context.fillRect(0, 0, width, height);
          context.drawImage(image, 0, 0, width, height);
          return context.getImageData(0, 0, width, height).data;
        });
        const [a, b] = await Promise.all(pictures);
        let [differing, inked] = [0, 0];
        for (let i = 0; i < a.length; i += 4) {
          differing += Math.abs(a[i] - b[i]) + Math.abs(a[i + 1] - b[i + 1]) + Math.abs(a[i + 2] - b[i + 2]) > 120;
          inked += a[i] + a[i + 1] + a[i + 2] < 740;
        }
        return differing / inked;
      },
      [readFileSync(join(drawings, `${name}.svg`), "utf8"), art],
    );
    await plain.close();
    assert.ok(share < 0.02, `${name}: ${share}`);
  }
  check(page);
  await page.context().close();
});
