import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import { defineConfig, globalIgnores } from "eslint/config";
import ts from "typescript-eslint";

export default defineConfig([
  globalIgnores(["dist", "src/api/types.gen.ts"]),
  js.configs.recommended,
  ts.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  {
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
      // three.js objects are changed in place on purpose, outside React's state.
      "react-hooks/immutability": "off",
      "react-hooks/refs": "off",
    },
  },
]);
