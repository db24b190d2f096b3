// The page of workers: one comes with the command line, is seen, and goes.
import assert from "node:assert/strict";
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { openPage, root, startBrowser, startServer, violations } from "./harness.mjs";

let server, browser, folder;
before(async () => {
  [server, browser] = [await startServer({ own: true }), await startBrowser()];
  folder = mkdtempSync(join(tmpdir(), "zamblo-worker-"));
});
after(async () => {
  await browser.close();
  server.stop();
  rmSync(folder, { recursive: true, force: true });
});

test("a worker comes, is seen, and goes", async () => {
  const page = await openPage(browser, server);
  await page.goto(server.url);
  await page.getByRole("link", { name: "Workers" }).click();
  await page.getByText("Nobody helps yet").waitFor();
  assert.match(await page.getByLabel("Command").innerText(), new RegExp(`worker --studio ${server.url} --key worker-key`));
  const cli = join(root, "src", "Zamblo.Cli", "bin", "Release", "net10.0", "Zamblo.Cli.dll");
  const args = [cli, "worker", "--studio", server.url, "--key", join(server.data, "worker-key"), "--name", "Oven seven", "--cores", "1", "--data", folder];
  const worker = spawn("dotnet", args, { stdio: "ignore" });
  const row = page.getByRole("row").filter({ hasText: "Oven seven" });
  await row.filter({ hasText: "waits" }).waitFor();
  assert.deepEqual(await violations(page), []);
  const ended = new Promise((done) => worker.on("exit", done));
  worker.kill("SIGTERM");
  assert.equal(await ended, 0);
  await page.getByText("Nobody helps yet").waitFor();
  assert.deepEqual(page.problems, []);
});
