import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["node_modules/"] },
  js.configs.recommended,
  {
    files: ["src/orvik/web/*/static/*.js"],
    languageOptions: { ecmaVersion: 2023, sourceType: "module", globals: { ...globals.browser, htmx: "readonly" } },
    rules: {
      eqeqeq: ["error", "always", { null: "ignore" }],
      "max-len": ["error", { code: 120 }],
      "no-shadow": "error",
      "no-unused-expressions": "error",
      "no-var": "error",
      "prefer-const": "error",
    },
  },
];
