import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

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
);
