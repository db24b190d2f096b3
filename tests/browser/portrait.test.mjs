// A picture becomes a speaking character: brought, marked, kept, filmed; and it looks on the canvas as it does in the film.
import assert from "node:assert/strict";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { after, before, test } from "node:test";
import { alike, check, openPage, sceneState, startBrowser, startServer, turnTo, until, violations } from "./harness.mjs";

const here = dirname(fileURLToPath(import.meta.url));
const pictures = join(here, "..", "pictures");

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser.close();
  server.stop();
});

const ready = (page) => page.locator("#portrait-save:not([disabled])").waitFor();

test("from a picture to a speaking film in four clicks, and one of them chooses the file", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/casting`);
  let clicks = 0;
  const click = async (locator) => {
    clicks++;
    await locator.click();
  };
  await click(page.getByRole("link", { name: "From a picture or a clip" }));
  clicks++;
  await page.setInputFiles("#portrait-file", join(pictures, "one.jpg"));
  await ready(page);
  assert.deepEqual(await violations(page), []);
  await click(page.locator("#portrait-film"));
  await page.waitForURL(/one-take/);
  await page.locator("#take-text").fill("Good morning. I have been a picture for a long time.");
  await click(page.locator("#take-speak"));
  await page.locator("#take-download[href]").waitFor();
  assert.ok(clicks <= 5, `${clicks} clicks`);
  // The film is as the picture is.
  const size = await page.locator("#take-stage").evaluate((c) => c.width / c.height);
  assert.ok(Math.abs(size - 900 / 1100) < 0.02, `${size}`);
  check(page);
});

test("a thing is cut out with a brush, gets a tail that wags and other eyes; all of it is undone", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/portrait`);
  await page.setInputFiles("#portrait-file", join(pictures, "one.jpg"));
  await ready(page);
  const shown = page.locator("svg[role=application]");
  const box = await shown.boundingBox();
  const trace = async (places) => {
    const at = (p) => [box.x + box.width * p[0], box.y + box.height * p[1]];
    await page.mouse.move(...at(places[0]));
    await page.mouse.down();
    for (const p of places.slice(1)) await page.mouse.move(...at(p), { steps: 4 });
    await page.mouse.up();
  };
  const asked = () => page.waitForRequest((r) => r.url().endsWith("/api/portraits/shapes"));
  const order = async (doing) => {
    const [request] = await Promise.all([asked(), doing()]);
    await ready(page);
    return JSON.parse(request.postData()).order;
  };
  // Keep, then take away, each with a stroke.
  await page.getByRole("button", { name: "Keep" }).click();
  let sent = await order(() =>
    trace([
      [0.2, 0.9],
      [0.5, 0.93],
      [0.8, 0.9],
    ]),
  );
  assert.ok(sent.strokes.length === 1 && sent.strokes[0].isKept && sent.strokes[0].points.length >= 6);
  await page.getByRole("button", { name: "Take away" }).click();
  sent = await order(() =>
    trace([
      [0.1, 0.1],
      [0.2, 0.1],
    ]),
  );
  assert.deepEqual(
    sent.strokes.map((s) => s.isKept),
    [true, false],
  );
  await page.keyboard.press("Escape");
  assert.deepEqual(await violations(page), []);
  // A part is drawn around, its pivot is dragged, it moves by itself.
  await page.locator("#portrait-part").click();
  sent = await order(() =>
    trace([
      [0.62, 0.2],
      [0.75, 0.2],
      [0.75, 0.34],
      [0.62, 0.34],
      [0.61, 0.22],
    ]),
  );
  assert.equal(sent.faces[0].parts.length, 1);
  sent = await order(() => page.getByLabel("How Part 1 moves").selectOption({ label: "moves by itself" }));
  assert.equal(sent.faces[0].parts[0].wags, true);
  const pivot = page.locator("[data-handle=pivot-0]");
  const was = Number(await pivot.getAttribute("cx"));
  await pivot.focus();
  sent = await order(() => page.keyboard.press("Shift+ArrowRight"));
  assert.ok(sent.faces[0].parts[0].pivot.x > was + 4);
  await order(() => page.locator("#eyes").selectOption("Animal"));
  sent = await order(() => page.locator("#teeth").selectOption("Fangs"));
  assert.deepEqual([sent.faces[0].eyes, sent.faces[0].teeth], ["Animal", "Fangs"]);
  await order(() => page.getByRole("button", { name: "On paper" }).click());
  // Seven steps, and all of them back.
  for (let i = 0; i < 7; i++) sent = await order(() => page.getByRole("button", { name: "Undo" }).click());
  assert.ok(sent.strokes.length === 0 && sent.faces[0].parts.length === 0 && sent.faces[0].eyes === "Own");
  check(page);
});

test("marks are dragged, nudged by keys, undone; a face is left out and marked by a box", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/portrait`);
  assert.deepEqual(await violations(page), []);
  await page.setInputFiles("#portrait-file", join(pictures, "one.jpg"));
  await ready(page);
  const chin = page.locator("[data-handle=chin]");
  const place = async () => Number(await chin.getAttribute("cy"));
  const was = await place();
  const box = await chin.boundingBox();
  // What a drag asks for comes late, as on a slow machine: what is taken back meanwhile stays so.
  const late = "**/api/portraits/moved";
  await page.route(late, async (route) => {
    await new Promise((r) => setTimeout(r, 500));
    await route.continue();
  });
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + 30, { steps: 4 });
  await page.mouse.up();
  await until(async () => (await place()) > was + 0.5, "the mark to follow");
  await page.getByRole("button", { name: "Undo" }).click();
  await until(async () => Math.abs((await place()) - was) < 0.01, "the mark to be back");
  await page.waitForTimeout(1500);
  assert.ok(Math.abs((await place()) - was) < 0.01);
  await page.unroute(late);
  await page.getByRole("button", { name: "Redo" }).click();
  await until(async () => (await place()) > was + 8, "the mark to follow again");
  // By keys: both corners of the mouth, mirrored.
  const [left, right] = [page.locator("[data-handle=mouth-left]"), page.locator("[data-handle=mouth-right]")];
  const xs = async () => [Number(await left.getAttribute("cx")), Number(await right.getAttribute("cx"))];
  const before = await xs();
  await left.focus();
  await page.keyboard.press("Shift+ArrowLeft");
  await until(async () => (await xs())[0] < before[0] - 4, "the corner to move");
  assert.ok((await xs())[1] > before[1] + 4, "its partner goes along");
  await page.getByRole("button", { name: /^Leave out/ }).click();
  assert.ok(await page.locator("#portrait-save").isDisabled());
  await page.getByLabel("What it is").selectOption("thing");
  await page.locator("#portrait-box").click();
  const whole = await page.locator("svg[role=application]").boundingBox();
  await page.mouse.move(whole.x + whole.width * 0.35, whole.y + whole.height * 0.4);
  await page.mouse.down();
  await page.mouse.move(whole.x + whole.width * 0.65, whole.y + whole.height * 0.6, { steps: 3 });
  await page.mouse.up();
  await ready(page);
  // A thing has a mouth and no eyes.
  assert.equal(await page.locator("[data-handle^=eye]").count(), 0);
  assert.equal(await page.locator("[data-handle=mouth-left]").count(), 1);
  await page.locator("#portrait-save").click();
  await page.waitForURL(/casting/);
  await page.locator("[data-character^=pic-]").first().waitFor();
  check(page);
});

test("a clip is followed, stopped, followed again, and its mouth says what is typed; canvas and film show the same", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/portrait`);
  await page.setInputFiles("#portrait-file", join(pictures, "clip.mp4"));
  await page.locator("#clip-stop").click();
  await page.getByText("Bring a picture with a face in it.").waitFor();
  await page.setInputFiles("#portrait-file", join(pictures, "clip.mp4"));
  await page.locator("#portrait-film:not([disabled])").waitFor();
  assert.deepEqual(await violations(page), []);
  // A part of it, and round; all of it again, and back.
  const played = page.locator("[role=status]", { hasText: "Longer voices" });
  await page.locator("#clip-from").fill("0.4");
  await page.locator("#clip-from").blur();
  await played.filter({ hasText: "1.2 s of clip.mp4" }).waitFor();
  await page.locator("#clip-from").fill("0");
  await page.locator("#clip-from").blur();
  await played.filter({ hasText: "1.6 s" }).waitFor();
  await page.locator("#clip-on").selectOption("round");
  await played.filter({ hasText: "go round: the face jumps by" }).waitFor();
  await page.locator("#clip-on").selectOption("forth");
  await played.filter({ hasText: "forth and back" }).waitFor();
  // The strip: its ends go by keys and by hand, no further than they may; how well the face is seen is said in words, too.
  const begins = page.getByRole("slider", { name: "Where it begins" });
  await begins.press("ArrowRight");
  await begins.press("ArrowRight");
  await played.filter({ hasText: "1.4 s of clip.mp4" }).waitFor();
  const [strip, handle] = [await page.locator("#clip-map > div").first().boundingBox(), await begins.boundingBox()];
  await page.mouse.move(handle.x + handle.width / 2, handle.y + 10);
  await page.mouse.down();
  await page.mouse.move(strip.x + strip.width - 2, handle.y + 10, { steps: 4 });
  await page.mouse.up();
  await played.filter({ hasText: "0.4 s of clip.mp4" }).waitFor();
  await begins.press("Home");
  await played.filter({ hasText: "1.6 s of clip.mp4" }).waitFor();
  assert.ok((await page.locator("#clip-map .sight[data-sight=Good]").count()) > 0);
  await page.getByRole("button", { name: /^From 0.0 to .* well seen$/ }).click();
  await page.getByRole("img", { name: "The clip at 0.0 s" }).waitFor();
  await page.locator("#clip-lids").selectOption("played");
  await page.waitForFunction(() => document.querySelector("#clip-lids").value === "played");
  await page.locator("#portrait-film").click();
  await page.waitForURL(/one-take/);
  await page.locator("#take-text").fill("Good morning. I have been a clip for a long time.");
  await page.locator("#take-speak").click();
  await page.locator("#take-download[href]").waitFor();
  await page.getByRole("link", { name: "Into the studio" }).click();
  await page.waitForURL(/\/production\//);
  await page.locator("#stage[data-frame]").waitFor();
  const id = await page.locator("[data-scene]").first().getAttribute("data-scene");
  await alike(page, id, 37, [480, 360]);
  // A part of the clip over the line: its pace by keys and by the dial, slower by its end with Alt; canvas and film go along.
  await turnTo(page, "Acting");
  await page.getByRole("button", { name: /^Time the clip/ }).click();
  const part = () => sceneState(page).then((state) => state.clips.find((c) => c.kind === "footage"));
  await page.locator("#clip-pace").waitFor();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await until(async () => (await part()).speed === 0.9, "a slower pace");
  const laid = await part();
  await page.locator("#clip-from").fill("0.8");
  await until(async () => (await part()).from === 0.8, "another beginning");
  const box = await page.locator("#score").boundingBox();
  const place = await page.evaluate((id) => {
    const score = window.zamblo.score();
    const clip = score.scene.clips.find((c) => c.id === id);
    const staff = score.staves.find((s) => s.member.id === clip.member);
    return { end: score.x(clip.end), y: staff.y + staff.lanes.footage + 8 };
  }, laid.id);
  await page.keyboard.down("Alt");
  await page.mouse.move(box.x + place.end - 2, box.y + place.y);
  await page.mouse.down();
  await page.mouse.move(box.x + place.end - 60, box.y + place.y, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up("Alt");
  await until(async () => (await part()).speed > 0.91, "a faster pace");
  const paced = await part();
  assert.ok(paced.end < laid.end - 0.05);
  assert.ok(Math.abs(paced.speed * (paced.end - paced.start) - 0.9 * (laid.end - laid.start)) < 0.01);
  await alike(page, id, 37, [480, 360]);
  check(page);
});

test("two of one picture get a production of their own, and are on the canvas as in the film", async () => {
  const page = await openPage(browser, server);
  await page.goto(`${server.url}/portrait`);
  await page.setInputFiles("#portrait-file", join(pictures, "two.jpg"));
  await ready(page);
  assert.equal(await page.getByRole("list", { name: "Faces in the picture" }).getByRole("listitem").count(), 2);
  await page.locator("#portrait-film").click();
  await page.waitForURL(/\/production\//);
  await page.locator("#stage[data-frame]").waitFor();
  const id = await page.locator("[data-scene]").first().getAttribute("data-scene");
  for (const frame of [0, 30]) await alike(page, id, frame, [1280, 800]);
  check(page);
});
