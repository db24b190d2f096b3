// How long a person waits in Casting with 200 characters of one's own and in the Wardrobe, and how evenly five of them play on the canvas.
import { openPage, startBrowser, startServer } from "../tests/browser/harness.mjs";
import { median, play, playText, send, setStage } from "./playing.mjs";

const characters = Number(process.argv[2] ?? 200);

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

const server = await startServer();
const browser = await startBrowser();
try {
  const page = await openPage(browser, server);
  const keys = await make(page);
  const cold = await gallery(page);
  const warm = await gallery(page);
  const changes = await wardrobe(page);
  await setStage(page, server, keys.slice(0, 5), "30");
  const played = await play(page);
  if (page.problems.length) console.error(page.problems.join("\n"));
  console.log(`casting: ${characters} characters of one's own beside those that ship`);
  console.log(`first open             ${cold.opened.toFixed(0)} ms; again ${warm.opened.toFixed(0)} ms`);
  console.log(`scrolled to the end    a frame each ${median(warm.gaps).toFixed(0)} ms, the longest gap ${Math.max(...warm.gaps).toFixed(0)} ms`);
  console.log(`a change in the Wardrobe is seen after ${median(changes).toFixed(0)} ms, at most ${Math.max(...changes).toFixed(0)} ms`);
  console.log(`five on stage ${playText(played)}`);
} finally {
  await browser.close();
  server.stop();
}
