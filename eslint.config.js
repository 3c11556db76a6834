import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    files: ["heath/**/static/**/*.js", "heath/planner/templates/planner/worker.js"],
    languageOptions: {
      globals: {
        ...globals.browser,
        ...globals.serviceworker,
        Alpine: "readonly",
        htmx: "readonly",
      },
    },
    rules: {
      complexity: ["error", 12],
      eqeqeq: "error",
      "max-len": ["error", { code: 100, ignoreUrls: true }],
      "no-var": "error",
      "prefer-const": "error",
    },
  },
  { files: ["tests/scripts/**/*.js"], languageOptions: { globals: globals.node } },
  { ignores: ["**/vendor/**", "data/**", ".venv/**"] },
];
