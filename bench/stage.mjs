// How evenly five play on the canvas in a set with a counter, with rain and a light that changes; and how soon an edit of a shot or of the light is seen.
import { openPage, sceneState, startBrowser, startServer, turnTo } from "../tests/browser/harness.mjs";
import { median, play, playText, send, setStage } from "./playing.mjs";

const cast = ["maro", "bubb", "tock", "wick", "ines"];

// From a press until the stage has drawn the scene with the edit in it.
const seen = (page, press) =>
  page.evaluate(async (press) => {
    const { score, frames } = window.zamblo;
    const [revision, shown] = [score().scene.production.revision, frames()];
    const from = performance.now();
    const { select, value } = press;
    const element = document.querySelector(select);
    if (!element) throw new Error(`There is no ${select}.`);
    if (value === undefined) element.click();
    else {
      element.value = value;
      element.dispatchEvent(new Event("change", { bubbles: true }));
    }
    const looked = () => new Promise((r) => requestAnimationFrame(r));
    while (score().scene.production.revision === revision || frames() === shown) {
      await looked();
      if (performance.now() - from > 10000) throw new Error(`Nothing came of ${select}.`);
    }
    await looked();
    return performance.now() - from;
  }, press);

// What the edit before has left to be done (pictures of shots, the score) is over.
async function seenAfterRest(page, press) {
  await page.waitForTimeout(900);
  return seen(page, press);
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
  const lights = [];
  for (let i = 0; i < 12; i++) lights.push(await seenAfterRest(page, { select: "#light-kind", value: ["Morning", "Storm", "Lamp"][i % 3] }));
  await turnTo(page, "Camera");
  await page.locator("#shot").waitFor();
  await page.waitForTimeout(1500);
  const shots = [];
  for (let i = 0; i < 12; i++) shots.push(await seenAfterRest(page, { select: `[data-framing="${["Close", "Medium", "Full"][i % 3]}"]` }));
  if (page.problems.length) console.error(page.problems.join("\n"));
  console.log(`five on stage          ${playText(plain)}`);
  console.log(`with light and rain    ${playText(wet)}`);
  console.log(`an edit of the light is seen after ${median(lights).toFixed(0)} ms, at most ${Math.max(...lights).toFixed(0)} ms`);
  console.log(`an edit of a shot is seen after ${median(shots).toFixed(0)} ms, at most ${Math.max(...shots).toFixed(0)} ms`);
} finally {
  await browser.close();
  server.stop();
}
