import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import { createNodeResolver, importX } from "eslint-plugin-import-x";
import { defineConfig, globalIgnores } from "eslint/config";
import ts from "typescript-eslint";

export default defineConfig([
  globalIgnores(["dist", "src/api/types.gen.ts"]),
  js.configs.recommended,
  ts.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  {
    plugins: { "import-x": importX },
    settings: {
      "import-x/extensions": [".ts", ".tsx"],
      "import-x/parsers": { "@typescript-eslint/parser": [".ts", ".tsx"] },
      "import-x/resolver-next": [createNodeResolver({ extensions: [".ts", ".tsx", ".js"] })],
    },
    rules: {
      "import-x/no-cycle": "error",
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
      // three.js objects are changed in place on purpose, outside React's state.
      "react-hooks/immutability": "off",
      "react-hooks/refs": "off",
    },
  },
]);
