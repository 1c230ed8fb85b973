import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

const HEX = "/^#[0-9a-f]{3,8}$|^(rgb|hsl)a?\\(/i";

export default ts.config(
    { ignores: ["src/api/schema.d.ts"] },
    js.configs.recommended,
    ...ts.configs.strict,
    {
        files: ["src/**/*.js"],
        languageOptions: {
            globals: { AudioWorkletProcessor: "readonly", sampleRate: "readonly", registerProcessor: "readonly" },
        },
    },
    { plugins: { "react-hooks": hooks }, rules: { ...hooks.configs.recommended.rules } },
    { rules: { "max-len": ["error", { code: 140 }], "max-lines": ["error", 400] } },
    {
        files: ["src/**/*.{ts,tsx}"],
        ignores: ["src/theme/**"],
        rules: {
            "no-restricted-syntax": [
                "error",
                { selector: `Literal[value=${HEX}]`, message: "Colours come from src/theme." },
                {
                    selector: "MemberExpression[object.name='Math'][property.name=/^(pow|log10|log2|log|exp)$/]",
                    message: "No acoustics in the front end.",
                },
                {
                    selector: "BinaryExpression[operator='**'] > Literal[value=10].left",
                    message: "No acoustics in the front end.",
                },
            ],
        },
    },
);
