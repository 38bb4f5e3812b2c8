import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/contract/schema.d.ts"] },
  ...ts.configs.recommendedTypeChecked,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  a11y.flatConfigs.recommended,
  // The arrows: contract ← ui ← app ← rooms ← the page's beginning; among the rooms of a
  // draft: master ← process ← route, patterns ← parts.
  ...[
    ["src/contract", ["ui", "app", "rooms"]],
    ["src/ui", ["app", "rooms"]],
    ["src/app", ["rooms"]],
    ["src/rooms/master", ["process", "route", "patterns", "parts"]],
    ["src/rooms/process", ["route", "patterns", "parts"]],
    ["src/rooms/{route,patterns}", ["parts"]],
  ].map(([floor, above]) => ({
    files: [`${floor}/**/*.{ts,tsx}`],
    rules: {
      "no-restricted-imports": [
        "error",
        { patterns: above.map((a) => ({ group: [`**/${a}/**`], message: `${floor} lies below ${a}` })) },
      ],
    },
  })),
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    rules: {
      "jsx-a11y/no-autofocus": ["error", { ignoreNonDOM: true }],
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
    },
  },
);
