import { setFlagsFromString } from "node:v8";
import js from "@eslint/js";
import jsxA11y from "eslint-plugin-jsx-a11y";
import reactHooks from "eslint-plugin-react-hooks";
import globals from "globals";
import tseslint from "typescript-eslint";

// A run is too short for the engine's best code to pay: compiled at the usual pace, it costs two thirds more.
setFlagsFromString("--interrupt-budget=1000000");

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  tseslint.configs.recommended,
  reactHooks.configs.flat.recommended,
  jsxA11y.flatConfigs.recommended,
  {
    languageOptions: { globals: globals.browser },
    rules: {
      "jsx-a11y/no-autofocus": "off",
      // Our own controls are controls too.
      "jsx-a11y/label-has-associated-control": ["error", { assert: "either" }],
    },
  },
  {
    ignores: ["src/api/mutation.ts"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          paths: [
            {
              name: "@tanstack/react-query",
              importNames: ["useMutation"],
              message: "Use api/mutation's, which tells whoever asked though they are gone.",
            },
          ],
        },
      ],
    },
  },
);
