import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// Quantities are computed in Python. Here they may be shown, not combined: src/parts/format.ts alone rounds and converts.
const unit = "_(a|v|w|m|mm|mm2|c|k|h|ohm|frac|pct|ah|kg)$";

export default tseslint.config(
  { ignores: ["src/api/schema.d.ts", "node_modules"] },
  ...tseslint.configs.strict,
  hooks.configs.flat.recommended,
  {
    rules: {
      "@typescript-eslint/consistent-type-imports": "error",
      "no-restricted-syntax": [
        "error",
        {
          selector: `BinaryExpression[operator=/^[-+*\\u002f%]$/] > MemberExpression[property.name=/${unit}/]`,
          message: "No calculation with quantities in the browser; the report has the figure.",
        },
        {
          selector: `BinaryExpression[operator=/^[-+*\\u002f%]$/] > Identifier[name=/${unit}/]`,
          message: "No calculation with quantities in the browser; the report has the figure.",
        },
      ],
    },
  },
  { files: ["src/parts/format.ts"], rules: { "no-restricted-syntax": "off" } },
);
