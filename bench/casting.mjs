// How long a person waits in Casting with 200 characters of one's own and in the Wardrobe, and how evenly five of them play on the canvas.
import { newProduction, openPage, sceneState, startBrowser, startServer, typeLine, until } from "../tests/browser/harness.mjs";

const median = (times) => times.toSorted((a, b) => a - b)[times.length >> 1];
const characters = Number(process.argv[2] ?? 200);

const send = (page, url, body, method = "POST") =>
  page.evaluate(
    async ([url, body, method]) => {
      const csrf = document.querySelector('meta[name="csrf"]').content;
      const answer = await fetch(url, { method, headers: { "X-Csrf-Token": csrf, "Content-Type": "application/json" }, body: JSON.stringify(body) });
      if (!answer.ok) throw new Error(await answer.text());
      return answer.json();
    },
    [url, body, method],
  );

async function make(page) {
  await page.goto(`${server.url}/casting`);
  const keys = [];
  for (let seed = 1; seed <= characters; seed++) {
    const recipe = await (await page.request.get(`${server.url}/api/wardrobe/random?seed=${seed}`)).json();
    keys.push((await send(page, "/api/characters", { recipe: { ...recipe, name: `Extra ${seed}` }, kind: "person" })).key);
  }
  return keys;
}

// Until every card in sight has its picture; and the gaps between frames while it is scrolled to its end.
async function gallery(page) {
  const from = performance.now();
  await page.goto(`${server.url}/casting`);
  await page.waitForFunction(() => {
    const seen = [...document.querySelectorAll("[data-character] img")].filter((i) => i.getBoundingClientRect().top < innerHeight);
    return seen.length > 5 && seen.every((i) => i.complete && i.naturalWidth > 0);
  });
  const opened = performance.now() - from;
  const gaps = await page.evaluate(async () => {
    const gaps = [];
    let last = performance.now();
    const end = last + 3000;
    const bottom = document.documentElement.scrollHeight - innerHeight;
    while (last < end) {
      scrollTo(0, bottom * (1 - (end - last) / 3000));
      const now = await new Promise((r) => requestAnimationFrame(r));
      gaps.push(now - last);
      last = now;
    }
    return gaps.slice(2);
  });
  return { opened, gaps };
}

// From a click on a part until the figure that wears it is drawn: shapes and a frame are there, and one frame of the page has passed.
async function wardrobe(page) {
  await page.goto(`${server.url}/wardrobe`);
  await page.locator("ul.casting button").first().waitFor();
  await page.waitForTimeout(3000);
  const times = [];
  const count = await page.locator("ul.casting button").count();
  for (let i = 0; i < 12; i++) {
    const part = page.locator("ul.casting button").nth((i * 5 + 1) % count);
    times.push(
      await part.evaluate(async (button) => {
        const get = window.fetch;
        const first = new Promise((done) => {
          let waits = 2;
          window.fetch = async (...of) => {
            const answer = await get(...of);
            const seen = String(of[0]).includes("/shapes") || String(of[0]).includes("count=1");
            const json = answer.json.bind(answer);
            answer.json = async () => {
              const data = await json();
              if (seen && --waits === 0) done();
              return data;
            };
            return answer;
          };
        });
        const from = performance.now();
        button.click();
        await first;
        await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)));
        window.fetch = get;
        return performance.now() - from;
      }),
    );
    await page.waitForTimeout(900);
  }
  return times;
}

const sceneOf = (page) => page.evaluate(() => document.querySelector("[data-scene]").dataset.scene);

// Five on stage while one speaks: frames that were shown, of those that the film has, and the most that were left out in a row.
async function stage(page, keys) {
  await page.setViewportSize({ width: 1960, height: 1400 });
  await newProduction(page, server);
  const { production } = await sceneState(page);
  const { members, production: first } = await sceneState(page);
  await send(page, `/api/members/${members[0].id}`, { revision: first.revision, character: keys[0] }, "PATCH");
  for (const character of keys.slice(1)) {
    const revision = await page.evaluate(async (id) => (await (await fetch(`/api/scenes/${id}`)).json()).production.revision, await sceneOf(page));
    await send(page, `/api/productions/${production.id}/members`, { revision, character });
  }
  const revision = await page.evaluate(async (id) => (await (await fetch(`/api/scenes/${id}`)).json()).production.revision, await sceneOf(page));
  await send(page, `/api/productions/${production.id}`, { revision, rate: "30" }, "PATCH");
  await page.reload();
  await page.locator("#stage[data-frame]").waitFor();
  await typeLine(page, "Is everybody here? Then let us begin at the beginning, go on to the end, and see who is still awake when the bread is done.");
  await until(() => page.evaluate(() => document.querySelector("#stage[data-frame]") !== null && window.zamblo.score().scene.duration > 4), "the voice", 120);
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

const server = await startServer();
const browser = await startBrowser();
try {
  const page = await openPage(browser, server);
  const keys = await make(page);
  const cold = await gallery(page);
  const warm = await gallery(page);
  const changes = await wardrobe(page);
  const played = await stage(page, keys.slice(0, 5));
  if (page.problems.length) console.error(page.problems.join("\n"));
  console.log(`casting: ${characters} characters of one's own beside those that ship`);
  console.log(`first open             ${cold.opened.toFixed(0)} ms; again ${warm.opened.toFixed(0)} ms`);
  console.log(`scrolled to the end    a frame each ${median(warm.gaps).toFixed(0)} ms, the longest gap ${Math.max(...warm.gaps).toFixed(0)} ms`);
  console.log(`a change in the Wardrobe is seen after ${median(changes).toFixed(0)} ms, at most ${Math.max(...changes).toFixed(0)} ms`);
  console.log(
    `five on stage (${played.size}) ${played.rate.toFixed(1)} frames a second shown of ${played.film.toFixed(1)}, at most ${played.most} left out in a row`,
  );
} finally {
  await browser.close();
  server.stop();
}
