import svelte from "eslint-plugin-svelte";
import ts from "typescript-eslint";

/** A view may stand on what is shared, never on another view. */
const views = ["job", "jobs", "now", "record", "shelf", "shop", "weather"];
const apart = views.map((own) => ({
  files: [`src/views/${own}/**`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: views
          .filter((other) => other !== own)
          .map((other) => ({
            group: [`../${other}/*`, `**/views/${other}/*`],
            message: "No view imports a view: share it in ui/ or lib/.",
          })),
      },
    ],
  },
}));

export default ts.config(
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    files: ["**/*.svelte", "**/*.svelte.ts"],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: { "svelte/no-navigation-without-resolve": "off" },
  },
  {
    files: ["src/lib/**", "src/ui/**", "src/figures/**", "src/draft/**", "src/api/**"],
    rules: { "no-restricted-imports": ["error", { patterns: [{ group: ["**/views/*"], message: "What is shared knows no view." }] }] },
  },
  ...apart,
  { ignores: ["dist/", "src/api/schema.d.ts"] },
);
