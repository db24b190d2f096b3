import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import AxeBuilder from "@axe-core/playwright";
import {
  addFile,
  alike,
  counting,
  drag,
  newProduction,
  openPage,
  recordings,
  sceneState,
  shown,
  startBrowser,
  startServer,
  turnTo,
  until,
  waitForLines,
} from "./harness.mjs";

const reading = `${recordings}/librivox/sense_and_sensibility_01_austen_64kb-0930.wav`;
const readingText = "he might even have been made amiable himself";
const out = mkdtempSync(join(tmpdir(), "zamblo-shots-"));
let server, browser;

before(async () => {
  server = await startServer({ own: true });
  // The microphone hears the reading, then a second of a quiet room, over and over.
  const microphone = join(out, "microphone.wav");
  const room = ["-f", "lavfi", "-t", "1", "-i", "anoisesrc=amplitude=0.004:sample_rate=48000:seed=1"];
  execFileSync("ffmpeg", ["-nostdin", "-v", "error", "-i", reading, ...room, "-filter_complex", "[0]aresample=48000[a];[a][1]concat=n=2:v=0:a=1", microphone]);
  browser = await startBrowser({ microphone });
});
after(async () => {
  await browser?.close();
  server?.stop();
});

const check = (page) => assert.deepEqual(page.problems, []);

test("shelf: new, rename, duplicate, delete, undo", async () => {
  const page = await openPage(browser, server);
  await page.goto(server.url);
  await page.getByText("Nothing on the shelf yet").waitFor();
  await newProduction(page, server);
  await page.getByRole("link", { name: "Shelf" }).click();
  await page.getByRole("button", { name: "Rename Untitled production" }).click();
  await page.getByRole("textbox", { name: "Title" }).fill("Morning Shift");
  await page.keyboard.press("Enter");
  await page.getByRole("heading", { name: "Morning Shift" }).waitFor();
  await page.getByRole("button", { name: "Duplicate Morning Shift" }).click();
  await page.getByRole("heading", { name: "Morning Shift copy" }).waitFor();
  await page.getByRole("button", { name: "Delete Morning Shift copy" }).click();
  await page.getByRole("heading", { name: "Morning Shift copy" }).waitFor({ state: "detached" });
  await page.getByRole("button", { name: "Undo" }).click();
  await page.getByRole("heading", { name: "Morning Shift copy" }).waitFor();
  const picture = await page
    .locator("li img")
    .first()
    .evaluate(async (i) => (await i.decode(), i.naturalWidth));
  assert.equal(picture, 640);
  // With many on the shelf one is found by words of its title; nothing found is said.
  await page.evaluate(async () => {
    const headers = { "Content-Type": "application/json", "X-Csrf-Token": document.querySelector('meta[name="csrf"]').content };
    for (let i = 1; i <= 70; i++) await fetch("/api/productions", { method: "POST", headers, body: JSON.stringify({ title: `Batch ${i}` }) });
  });
  await page.reload();
  await page.getByRole("heading", { name: "Batch 70", exact: true }).waitFor();
  await page.getByLabel("Find a production").fill("shift cop");
  await page.getByRole("heading", { name: "Batch 70", exact: true }).waitFor({ state: "detached" });
  assert.deepEqual(await page.locator("li h2").allTextContents(), ["Morning Shift copy"]);
  await page.getByLabel("Find a production").fill("100%");
  await page.getByText("No production on the shelf has that in its title.").waitFor();
  await page.getByLabel("Find a production").fill("");
  // The rest comes when the end is in sight.
  await page.getByRole("heading", { name: "Batch 12", exact: true }).waitFor();
  assert.equal(await page.getByRole("heading", { name: "Batch 2", exact: true }).count(), 0);
  await page.keyboard.press("End");
  await page.getByRole("heading", { name: "Batch 2", exact: true }).waitFor();
  check(page);
  await page.context().close();
});

test("typed text: the mouth follows the engine's own times", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await page.keyboard.press("n");
  await page.locator("#words").fill("Bubb, the oven is hot!");
  await page.keyboard.press("Control+Enter");
  await waitForLines(page, 1);
  const { lines } = await sceneState(page);
  assert.equal(lines[0].source, "engine");
  assert.deepEqual(
    lines[0].words.map((w) => w[0]),
    ["Bubb", "the", "oven", "is", "hot"],
  );
  // The word that is heard lights up, and the picture follows the sound.
  await page.keyboard.press("Home");
  await page.keyboard.press("Space");
  await page.locator(".said.lit").waitFor();
  await page.waitForFunction(() => Number(document.getElementById("stage").dataset.frame) > 20);
  await page.keyboard.press("k");
  const at = await page.evaluate(() => [window.zamblo.player.time, Number(document.getElementById("stage").dataset.frame)]);
  assert.ok(Math.abs(at[0] * 25 - at[1]) <= 2, `${at}`);
  // Frame stepping, word stepping, loop.
  await page.keyboard.press("Home");
  await page.keyboard.press("ArrowRight");
  await page.waitForFunction(() => document.getElementById("stage").dataset.frame === "1");
  await page.keyboard.press("Control+ArrowRight");
  const t = await page.evaluate(() => window.zamblo.player.time);
  assert.ok(Math.abs(t - (lines[0].start + lines[0].words[0][1])) < 0.01);
  await page.keyboard.press("p");
  assert.equal(await page.getByRole("button", { name: "Loop" }).getAttribute("aria-pressed"), "true");
  // Delete and undo by keys.
  await page.locator("article h3").click();
  await page.keyboard.press("Delete");
  await page.getByText("Nobody has said anything yet").waitFor();
  await page.keyboard.press("Control+z");
  await waitForLines(page, 1);
  check(page);
  await page.context().close();
});

test("a real recording: from upload to a film whose mouth is right", async () => {
  const page = await openPage(browser, server);
  await newProduction(page, server);
  await addFile(page, reading, readingText);
  await waitForLines(page, 1);
  // Where the mouth is in the picture is known as long as the camera shows all of the stage.
  await turnTo(page, "Camera");
  await page.locator("[data-camera=fixed]").click();
  await page.locator("[data-camera=fixed][aria-pressed=true]").waitFor();
  const { lines, fps } = await sceneState(page);
  const [line] = lines;
  assert.equal(line.source, "script");
  assert.equal(line.words.map((w) => w[0]).join(" "), readingText);
  await page.getByRole("button", { name: "Render film" }).first().click();
  await page.getByRole("link", { name: "Download" }).waitFor();
  const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "Download" }).click()]);
  assert.match(download.suggestedFilename(), /\.mp4$/);
  const film = join(out, "film.mp4");
  await download.saveAs(film);

  // The inside of Maro's mouth has a colour of its own (#5A1F27); how much of it each frame shows is how far the mouth is open.
  const crop = { w: 170, h: 74, x: 555, y: 334 };
  const raw = execFileSync(
    "ffmpeg",
    ["-v", "error", "-i", film, "-vf", `crop=${crop.w}:${crop.h}:${crop.x}:${crop.y}`, "-f", "rawvideo", "-pix_fmt", "rgb24", "-"],
    { maxBuffer: 1 << 30 },
  );
  const size = crop.w * crop.h * 3;
  const open = Array.from({ length: raw.length / size }, (_, f) => {
    let count = 0;
    for (let i = f * size; i < (f + 1) * size; i += 3) {
      const [r, g, b] = [raw[i], raw[i + 1], raw[i + 2]];
      // Inside or teeth: dark red, or a light patch that the face does not have.
      if ((Math.abs(r - 0x5a) < 26 && Math.abs(g - 0x1f) < 26 && Math.abs(b - 0x27) < 26) || (r > 225 && g > 220 && b > 210)) count++;
    }
    return count;
  });
  // At rest the edges of ink and lips mix to a few pixels of nearly that colour.
  const rest = open[0];
  assert.ok(rest < 110, `${rest} at rest`);
  const frameAt = (t) => Math.round((line.start + t - 0.03) * fps);
  const first = line.phones[0][1];
  const last = line.phones.at(-1)[2];
  for (let f = 0; f < frameAt(first) - 3; f++) assert.ok(open[f] < rest + 40, `open before speech at frame ${f}: ${open[f]}`);
  for (let f = frameAt(last) + 8; f < open.length; f++) assert.ok(open[f] < rest + 40, `open after speech at frame ${f}: ${open[f]}`);
  const vowels = line.phones.filter((p) => ["AA", "AE", "AH", "AO", "AY", "EH", "EY"].includes(p[0]) && p[2] - p[1] > 0.055);
  assert.ok(vowels.length >= 5);
  for (const [phone, start, end] of vowels) {
    const most = Math.max(...open.slice(frameAt(start), frameAt(end) + 1));
    assert.ok(most > rest + 100, `${phone} at ${start} shows ${most}`);
  }
  const closures = line.phones.filter((p) => ["P", "B", "M"].includes(p[0]));
  assert.ok(closures.length >= 4);
  for (const [phone, start, end] of closures) {
    const least = Math.min(...open.slice(frameAt(start) - 1, frameAt(end) + 2));
    assert.ok(least < rest + 40, `${phone} at ${start} shows ${least}`);
  }
  check(page);
  await page.context().close();
});

test("a recording in the browser: countdown, pause, listen, again, keep", async () => {
  const page = await openPage(browser, server, { permissions: ["microphone"] });
  await newProduction(page, server);
  const clicks = await counting(page);
  await page.getByRole("button", { name: "Record it" }).first().click();
  const dialog = page.getByRole("dialog", { name: "Add a voice" });
  await dialog.getByRole("button", { name: "Record", exact: true }).click();
  await dialog.getByText("3", { exact: true }).waitFor();
  await dialog.getByRole("button", { name: "Pause" }).waitFor();
  await until(async () => Number(await dialog.locator("meter").getAttribute("value")) > 0, "a level");
  await dialog.getByRole("button", { name: "Pause" }).click();
  await dialog.getByRole("button", { name: "Go on" }).click();
  await dialog.getByRole("button", { name: "Stop" }).click();
  await dialog.locator("audio").waitFor();
  // To record it, to begin, to stop; and the pause, there and back.
  assert.equal(await clicks(), 5);
  // A machine that stands still loses sound between microphone and browser: that is recorded again.
  let [shown, caught] = [0, -1];
  for (let i = 0; i < 4 && Math.abs(shown - caught) > 0.3; i++) {
    await dialog.getByRole("button", { name: "Again" }).click();
    await dialog.getByRole("button", { name: "Record", exact: true }).click();
    await dialog.getByRole("button", { name: "Stop" }).waitFor();
    // Wherever the recording begins in the reading, each word is whole in it but one at most.
    await page.waitForTimeout(6000);
    await dialog.getByRole("button", { name: "Stop" }).click();
    await dialog.locator("audio").waitFor();
    const clock = dialog.getByText(/^0:\d\d\.\d+$/).first();
    shown = Number((await clock.textContent()).split(":")[1]);
    // A browser's own recording says how long it is when its end has been looked for.
    caught = await dialog.locator("audio").evaluate(async (a) => {
      a.currentTime = 1e6;
      while (!Number.isFinite(a.duration)) await new Promise((r) => setTimeout(r, 100));
      a.currentTime = 0;
      return a.duration;
    });
  }
  await dialog.getByRole("button", { name: "Keep" }).click();
  await waitForLines(page, 1);
  const { lines } = await sceneState(page);
  assert.equal(lines[0].take.kind, "recording");
  assert.equal(lines[0].source, "recognised");
  // A draft of the words: most of them right (the recording's transcript is the truth).
  const heard = lines[0].words.map((w) => w[0]);
  const right = readingText.split(" ").filter((w) => heard.includes(w));
  assert.ok(right.length >= 5, heard.join(" "));
  assert.ok(shown > 5 && Math.abs(lines[0].duration - shown) < 0.5, `${lines[0].duration} of ${shown} s`);
  assert.ok(lines[0].phones.length > 12, `${lines[0].phones.length} phones`);
  assert.ok(
    right.every((w) => lines[0].draft.includes(w)),
    lines[0].draft,
  );
  // The draft becomes the script as it is, and that is taken back.
  await page.getByRole("button", { name: "They are right" }).click();
  await until(async () => (await sceneState(page)).lines[0].text === lines[0].draft, "the draft as script");
  await page.getByRole("button", { name: "Undo" }).first().click();
  // Writing what was said makes a script of it, without another recording.
  await page.getByRole("button", { name: "correct them" }).click();
  await page.getByRole("textbox", { name: "Words of the line" }).fill(readingText);
  await page.getByRole("button", { name: "Keep" }).first().click();
  await page.waitForFunction(
    async () => (await (await fetch(`/api/scenes/${document.querySelector("[data-scene]").dataset.scene}`)).json()).lines[0].source === "script",
  );
  check(page);
  await page.context().close();
});

test("what is no sound is refused, and nothing is lost", async () => {
  const page = await openPage(browser, server);
  page.expected.push("400");
  await newProduction(page, server);
  const letter = join(out, "letter.wav");
  writeFileSync(letter, "Dear Maro, the flour is late again.");
  await addFile(page, letter, "precious words");
  await page.getByRole("alert").filter({ hasText: '"letter.wav" is not a sound file' }).waitFor();
  assert.equal(await page.locator("#words").inputValue(), "precious words");
  assert.equal((await sceneState(page)).lines.length, 0);
  check(page);
  await page.context().close();
});

test("canvas and film show the same picture", async () => {
  const page = await openPage(browser, server, { viewport: { width: 1960, height: 1400 } });
  await newProduction(page, server);
  for (const who of ["Bubb", "Tock", "Juno"]) {
    await turnTo(page, "Set");
    await page.getByRole("button", { name: "Add a cast member" }).click();
    await page.getByRole("button", { name: `Add to the cast: ${who}` }).click();
    await page.getByRole("list", { name: "Cast" }).getByRole("button", { name: who, exact: true }).waitFor();
  }
  for (const who of ["Maro", "Bubb", "Tock", "Juno"]) {
    await page.getByRole("list", { name: "Cast" }).getByRole("button", { name: who, exact: true }).click();
    await page.keyboard.press("n");
    await page.locator("#words").fill("The oven may be a bit too hot.");
    await page.keyboard.press("Control+Enter");
    await page.locator("article").filter({ hasText: who }).waitFor();
  }
  // With a camera that goes near, and words in the picture.
  await turnTo(page, "Camera");
  await page.locator("[data-camera=lively]").click();
  await page.locator("[data-camera=lively][aria-pressed=true]").waitFor();
  await turnTo(page, "Film");
  for (const name of ["Captions of what is said", "Each word lights up as it is said", "Names, when somebody first speaks"])
    await page.getByLabel(name).check();
  await page.waitForFunction(() => !window.zamblo.waiting());
  const state = await sceneState(page);
  assert.ok(state.shots.length >= 3, `${state.shots.length} shots`);
  const { id, lines } = state;
  await page.waitForFunction((r) => window.zamblo.frames().url(0, 1).includes(`r=${r}`), `${state.production.revision}.${state.heard}`);
  const compare = async (line, shares) => {
    for (const share of shares) await alike(page, id, Math.floor((line.start + line.duration * share) * 25));
  };
  for (const line of lines) await compare(line, [0.25, 0.5, 0.75]);
  // By night, in the rain, before a picture of one's own.
  await turnTo(page, "Set");
  await page.getByLabel("Light", { exact: true }).selectOption("Night");
  await page.getByLabel("In the air").selectOption("Rain");
  const own = join(out, "own.png");
  execFileSync("ffmpeg", ["-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=size=900x600", "-frames:v", "1", own]);
  await page.locator("#backdrop").click();
  await page.getByLabel("A picture or clip of your own as the set").setInputFiles(own);
  await page.locator("#own-set").waitFor();
  await shown(page);
  await compare(lines[1], [0.5]);
  // Out of focus it is in the film what it is here.
  await page.getByLabel("Blur").fill("14");
  await until(async () => (await sceneState(page)).scene.backdrop.endsWith(":14"), "the blur");
  await shown(page);
  await compare(lines[1], [0.3]);
  // Larger and moved, too.
  await page.locator("#move-set").getByLabel("Larger").fill("150");
  await page.locator("#move-set").getByLabel("Across").fill("-20");
  await until(async () => (await sceneState(page)).scene.backdrop.endsWith(":14:m-20,0,150"), "the picture elsewhere");
  await shown(page);
  await compare(lines[1], [0.4]);
  // A clip plays in the film as it does here.
  const clip = join(out, "own.mp4");
  execFileSync("ffmpeg", ["-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=size=640x360:rate=25:duration=2", "-pix_fmt", "yuv420p", clip]);
  await page.locator("#backdrop").click();
  await page.getByLabel("A picture or clip of your own as the set").setInputFiles(clip);
  await until(async () => (await sceneState(page)).scene.backdrop.startsWith("clip:"), "the clip");
  await shown(page);
  await compare(lines[1], [0.3, 0.8]);
  await page.getByLabel("Blur").fill("8");
  await until(async () => (await sceneState(page)).scene.backdrop.includes(":8:"), "the clip out of focus");
  await shown(page);
  await compare(lines[1], [0.6]);
  check(page);
  await page.context().close();
});

test("every view is accessible, by day and by night", async () => {
  const page = await openPage(browser, server);
  const rules = async (name) => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    assert.deepEqual(
      violations.map((v) => `${name}: ${v.id}: ${v.nodes.map((n) => n.target).join(" ")}`),
      [],
    );
  };
  await newProduction(page, server);
  await page.keyboard.press("n");
  await page.locator("#words").fill("Three minutes.");
  await rules("voice dialog");
  await page.keyboard.press("Control+Enter");
  await waitForLines(page, 1);
  await rules("studio");
  // The score is made higher by its edge, stays so, and its head covers nothing.
  const edge = page.getByRole("separator", { name: "Height of the score" });
  const top = async () => (await page.locator("#score").boundingBox()).y;
  const before = await top();
  await edge.focus();
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("ArrowUp");
  assert.ok(Math.abs((await top()) - before + 48) < 3, `${before} became ${await top()}`);
  const box = await edge.boundingBox();
  await drag(page, { x: 600, y: box.y + 5 }, { x: 600, y: box.y + 55 });
  assert.ok(Math.abs((await top()) - before - 2) < 4, `${await top()}`);
  await edge.focus();
  await page.keyboard.press("ArrowUp");
  const left = await top();
  await page.reload();
  await page.locator("#stage[data-frame]").waitFor();
  assert.ok(Math.abs((await top()) - left) < 2);
  const zoom = await page.getByRole("button", { name: "Zoom in" }).boundingBox();
  assert.ok(zoom.y + zoom.height <= left);
  await edge.focus();
  await page.keyboard.press("Home");
  assert.ok(Math.abs((await top()) - before) < 2);
  await page.keyboard.press("?");
  await rules("keys");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Day or night" }).click();
  await rules("studio by night");
  await page.goto(server.url);
  await page.locator("li").first().waitFor();
  await rules("shelf by night");
  check(page);
  await page.context().close();
});
