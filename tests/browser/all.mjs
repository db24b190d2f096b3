// Every browser test, two files at a time, on one server. Arguments go to the test runner.
import { spawn } from "node:child_process";
import { startServer } from "./harness.mjs";

const server = await startServer({ own: true });
const tests = spawn(process.execPath, ["--test", "--test-concurrency=2", "--test-timeout=900000", ...process.argv.slice(2)], {
  stdio: "inherit",
  env: { ...process.env, ZAMBLO_SERVER: server.url },
});
tests.on("exit", (code) => {
  server.stop();
  process.exit(code ?? 1);
});
