import jsxA11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["src/api/schema.d.ts"] },
  ...tseslint.configs.strict,
  jsxA11y.flatConfigs.recommended,
  hooks.configs.flat["recommended-latest"] ?? hooks.configs["recommended-latest"],
  { rules: { "@typescript-eslint/no-non-null-assertion": "off", "jsx-a11y/no-autofocus": "off" } },
  // The formatter leaves long strings and comments alone: they count too.
  { rules: { "max-len": ["error", { code: 110, tabWidth: 2 }] } },
);
