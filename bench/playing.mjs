// What the benchmarks of pictures have in common: five on stage while one of them speaks, and how evenly that plays.
import { newProduction, sceneState, typeLine, until } from "../tests/browser/harness.mjs";

export const median = (times) => times.toSorted((a, b) => a - b)[times.length >> 1];

export const send = (page, url, body, method = "POST") =>
  page.evaluate(
    async ([url, body, method]) => {
      const csrf = document.querySelector('meta[name="csrf"]').content;
      const answer = await fetch(url, { method, headers: { "X-Csrf-Token": csrf, "Content-Type": "application/json" }, body: JSON.stringify(body) });
      if (!answer.ok) throw new Error(await answer.text());
      return answer.json();
    },
    [url, body, method],
  );

// A production with these characters at a frame rate, one line, heard and on screen; the picture is about 1300 pixels wide.
export async function setStage(page, server, keys, rate) {
  await page.setViewportSize({ width: 1960, height: 1400 });
  await newProduction(page, server);
  const { members, production } = await sceneState(page);
  const revision = async () => (await sceneState(page)).production.revision;
  await send(page, `/api/members/${members[0].id}`, { revision: production.revision, character: keys[0] }, "PATCH");
  for (const character of keys.slice(1)) await send(page, `/api/productions/${production.id}/members`, { revision: await revision(), character });
  await send(page, `/api/productions/${production.id}`, { revision: await revision(), rate }, "PATCH");
  await page.reload();
  await page.locator("#stage[data-frame]").waitFor();
  await typeLine(page, "Is everybody here? Then let us begin at the beginning, go on to the end, and see who is still awake when the bread is done.");
  await until(() => page.evaluate(() => document.querySelector("#stage[data-frame]") !== null && window.zamblo.score().scene.duration > 4), "the voice", 120);
}

// Frames that are shown while it plays, of those that the film has, and the most that are left out in a row.
export async function play(page) {
  await page.waitForTimeout(3000);
  return page.evaluate(async () => {
    const canvas = document.querySelector("#stage");
    const shown = [];
    document.body.dispatchEvent(new KeyboardEvent("keydown", { bubbles: true, cancelable: true, key: " ", code: "Space" }));
    const end = performance.now() + 6000;
    while (performance.now() < end) {
      await new Promise((r) => requestAnimationFrame(r));
      const frame = Number(canvas.dataset.frame);
      if (shown.at(-1)?.[0] !== frame) shown.push([frame, performance.now()]);
    }
    document.body.dispatchEvent(new KeyboardEvent("keydown", { bubbles: true, cancelable: true, key: " ", code: "Space" }));
    const used = shown.slice(2);
    const steps = used.slice(1).map(([f], i) => f - used[i][0]);
    const forward = steps.filter((s) => s > 0);
    return {
      size: `${canvas.width}x${canvas.height}`,
      rate: (1000 * forward.length) / (used.at(-1)[1] - used[0][1]),
      film: forward.reduce((a, b) => a + b, 0) / ((used.at(-1)[1] - used[0][1]) / 1000),
      most: Math.max(...forward) - 1,
    };
  });
}

export const playText = ({ size, rate, film, most }) =>
  `(${size}) ${rate.toFixed(1)} frames a second shown of ${film.toFixed(1)}, at most ${most} left out in a row`;
