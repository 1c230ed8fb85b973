// Colours and type sizes have one place: the theme names the colours, sizes are relative to the reader's own.
export default {
    rules: {
        "color-no-hex": true,
        "color-named": "never",
        "function-disallowed-list": ["rgb", "rgba", "hsl", "hsla"],
        "declaration-property-unit-disallowed-list": { "font-size": ["px"], font: ["px"] },
        "no-duplicate-selectors": true,
        "declaration-block-no-duplicate-properties": true,
    },
    overrides: [{ files: ["src/theme/*.css"], rules: { "color-no-hex": null } }],
};
