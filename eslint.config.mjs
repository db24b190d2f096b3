import { createRequire } from "node:module";

// ESLint and its parts are installed with the browser tests.
const require = createRequire(new URL("./tests/browser/package.json", import.meta.url));
const js = require("@eslint/js");
const globals = require("globals");

export default [
  { ignores: ["**/*.tmp.mjs", "**/node_modules/**", "**/wwwroot/**"] },
  js.configs.recommended,
  { files: ["**/front/*.js", "**/Pages/**/*.js"], languageOptions: { globals: globals.browser } },
  // A panel is read at one look, anything else has one subject.
  { rules: { "max-lines": ["error", 500] } },
  { files: ["**/Pages/**/*.js"], rules: { "max-lines": ["error", 150] } },
  { files: ["**/*.mjs"], languageOptions: { globals: { ...globals.node, ...globals.browser } } },
];
