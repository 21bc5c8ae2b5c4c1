import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  {
    ignores: [
      "core/wasm/assembly/**",
      "**/node_modules/**",
      "**/.next/**",
      ".larder/**",
      ".compiled/**",
      "web/public/**",
      "**/next-env.d.ts",
      "**/*.cjs",
      "**/*.mjs",
    ],
  },
  ...tseslint.configs.recommendedTypeChecked,
  {
    languageOptions: { parserOptions: { project: "./tsconfig.json", tsconfigRootDir: import.meta.dirname } },
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/consistent-type-imports": "error",
      "@typescript-eslint/only-throw-error": "off",
      "@typescript-eslint/restrict-template-expressions": "off",
      "@typescript-eslint/require-await": "off",
      "@typescript-eslint/no-misused-promises": ["error", { checksVoidReturn: { attributes: false } }],
      eqeqeq: "error",
      // Prettier breaks code at 120; texts it leaves alone must stay legible too.
      "max-len": ["error", { code: 240 }],
      "no-console": "off",
    },
  },
  {
    files: ["web/**/*.tsx", "web/**/*.ts"],
    plugins: { "react-hooks": reactHooks },
    rules: { "react-hooks/rules-of-hooks": "error", "react-hooks/exhaustive-deps": "off" },
  },
);
