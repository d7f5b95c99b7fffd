import js from "@eslint/js";
import boundaries from "eslint-plugin-boundaries";
import hooks from "eslint-plugin-react-hooks";
import globals from "globals";
import tseslint from "typescript-eslint";

/** One way only: a folder reads those before it, never one after it. */
const ORDER = ["api", "design", "figures", "drawings", "stations", "shell"];
const upTo = (types) => ({ to: { element: { type: types } } });

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  hooks.configs.flat["recommended-latest"] ?? hooks.configs.flat.recommended,
  { languageOptions: { globals: globals.browser } },
  {
    plugins: { boundaries },
    settings: {
      "import/resolver": { typescript: { alwaysTryTypes: true } },
      "boundaries/elements": ORDER.map((type) => ({ type, pattern: `src/${type}` })),
    },
    rules: {
      "boundaries/dependencies": [
        "error",
        {
          default: "disallow",
          message: `one way only: ${ORDER.join(", ")}`,
          policies: ORDER.map((type, place) => ({
            from: { element: { type } },
            allow: [upTo(ORDER.slice(0, place + 1))],
          })),
        },
      ],
    },
  },
);
