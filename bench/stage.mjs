// How evenly five play on the canvas in a set with a counter, with rain and a light that changes; and how soon an edit of a shot or of the light is seen.
import { openPage, sceneState, startBrowser, startServer, turnTo } from "../tests/browser/harness.mjs";
import { median, play, playText, send, setStage } from "./playing.mjs";

const cast = ["maro", "bubb", "tock", "wick", "ines"];

// From a press until the picture with the edit in it is on the screen: the browser tells when each frame of the page was shown.
async function seen(page, shown, press) {
  const { from, drawn } = await page.evaluate(async ({ select, value }) => {
    const { frames } = window.zamblo;
    const [before, element, canvas] = [frames(), document.querySelector(select), document.querySelector("#stage")];
    if (!element) throw new Error(`There is no ${select}.`);
    // Drawn is the first picture out of other frames than those that were there.
    const drawing = new Promise((done) => {
      const look = new MutationObserver(() => {
        if (frames() === before) return;
        look.disconnect();
        done(Date.now());
      });
      look.observe(canvas, { attributes: true, attributeFilter: ["data-frame"] });
    });
    const late = new Promise((_, fail) => setTimeout(() => fail(new Error(`Nothing came of ${select}.`)), 10000));
    const from = Date.now();
    if (value === undefined) element.click();
    else {
      element.value = value;
      element.dispatchEvent(new Event("change", { bubbles: true }));
    }
    return { from, drawn: await Promise.race([drawing, late]) };
  }, press);
  for (let i = 0; i < 50 && !shown.some((t) => t >= drawn); i++) await page.waitForTimeout(20);
  return shown.find((t) => t >= drawn) - from;
}

// When each frame of the page was shown, in milliseconds of the clock; grows.
async function framesOf(page) {
  const shown = [];
  const session = await page.context().newCDPSession(page);
  session.on("Page.screencastFrame", ({ sessionId, metadata }) => {
    shown.push(1000 * metadata.timestamp);
    session.send("Page.screencastFrameAck", { sessionId }).catch(() => {});
  });
  await session.send("Page.startScreencast", { format: "jpeg", quality: 30, everyNthFrame: 1 });
  return shown;
}

// What the edit before has left to be done (pictures of shots, the score) is over.
async function seenAfterRest(page, shown, press) {
  await page.waitForTimeout(900);
  return seen(page, shown, press);
}

const server = await startServer();
const browser = await startBrowser();
try {
  const page = await openPage(browser, server);
  await setStage(page, server, cast, "25");
  const plain = await play(page);
  const { production, members } = await sceneState(page);
  const scene = await page.evaluate(() => document.querySelector("[data-scene]").dataset.scene);
  await send(
    page,
    `/api/scenes/${scene}`,
    { revision: production.revision, backdrop: "bakery", light: { light: "Dusk", weather: "Rain", amount: 0.8 } },
    "PATCH",
  );
  await send(page, `/api/scenes/${scene}/clips`, { member: members[0].id, kind: "Light", name: "Night", start: 1, end: 4 });
  await page.reload();
  await page.locator("#stage[data-frame]").waitFor();
  const wet = await play(page);
  // Edits as they are made in a window of the usual size.
  await page.setViewportSize({ width: 1280, height: 800 });
  await turnTo(page, "Set");
  await page.locator("#light-kind").waitFor();
  await page.waitForTimeout(1500);
  const shown = await framesOf(page);
  const lights = [];
  for (let i = 0; i < 12; i++) lights.push(await seenAfterRest(page, shown, { select: "#light-kind", value: ["Morning", "Storm", "Lamp"][i % 3] }));
  await turnTo(page, "Camera");
  await page.locator("#shot").waitFor();
  await page.waitForTimeout(1500);
  const shots = [];
  for (let i = 0; i < 12; i++) shots.push(await seenAfterRest(page, shown, { select: `[data-framing="${["Close", "Medium", "Full"][i % 3]}"]` }));
  if (page.problems.length) console.error(page.problems.join("\n"));
  console.log(`five on stage          ${playText(plain)}`);
  console.log(`with light and rain    ${playText(wet)}`);
  console.log(`an edit of the light is seen after ${median(lights).toFixed(0)} ms, at most ${Math.max(...lights).toFixed(0)} ms`);
  console.log(`an edit of a shot is seen after ${median(shots).toFixed(0)} ms, at most ${Math.max(...shots).toFixed(0)} ms`);
} finally {
  await browser.close();
  server.stop();
}
