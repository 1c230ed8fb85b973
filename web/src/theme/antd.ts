// The component library in our colours, light and dark.
import { theme, type ThemeConfig } from "antd";

const LIGHT = {
  colorPrimary: "#55732a",
  colorPrimaryHover: "#46601f",
  colorPrimaryActive: "#3a5018",
  colorBgBase: "#fffdf6",
  colorTextBase: "#2b211a",
  colorBorder: "#d9cfb9",
  colorError: "#a8302a",
  colorTextPlaceholder: "#7a6a58",
};
const DARK = {
  colorPrimary: "#a9c878",
  colorPrimaryHover: "#bcd893",
  colorPrimaryActive: "#cbe3a6",
  colorBgBase: "#27201a",
  colorTextBase: "#f4ecdc",
  colorBorder: "#4a3e31",
  colorError: "#f3847e",
  colorTextPlaceholder: "#b9a78f",
  colorTextLightSolid: "#1c1713",
};

export const themed = (dark: boolean): ThemeConfig => ({
  cssVar: { key: dark ? "css-dark" : "css-light" }, // each under a name of its own: both stay once they were met
  algorithm: dark ? theme.darkAlgorithm : theme.defaultAlgorithm,
  token: {
    ...(dark ? DARK : LIGHT),
    fontFamily: "var(--text)",
    fontSize: 15,
    borderRadius: 8,
    controlHeight: 38,
    motion: false,
  },
});
